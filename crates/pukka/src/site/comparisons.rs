//! Comparisons that the user saved by a name: a page each, of those amplifiers that are on the site.

use maud::{Markup, html};
use pukka_core::assess::judge;
use pukka_core::record::claims::USUAL_SUPPLY_V;
use pukka_core::report::compare::{CompareCell, CompareRow, Comparison, Contender, MOST, Per, compare};
use pukka_store::views::{SavedView, ViewPage};
use serde::Deserialize;

use super::page::{About, frame};
use super::{PREVIEW, SiteWanted, Slugs, Source, write};
use crate::cards::{Signature, compare_card, png};

/// What a saved address says of a comparison; filters of the page stand beside it.
#[derive(Debug, Default, Deserialize)]
struct Saved {
    #[serde(default)]
    ids: String,
    #[serde(default)]
    volts: Option<f64>,
    #[serde(default)]
    per: Per,
}

/// A comparison on the site.
pub struct Entry {
    /// Name of its page and its picture, without the ending.
    pub slug: String,
    /// Name given to it.
    pub name: String,
    comparison: Comparison,
    /// Folder of each amplifier's page.
    pages: Vec<String>,
}

/// Saved comparisons that are to be on the site, of two amplifiers and more that are on it. A view without a choice of amplifiers is none.
pub fn entries(views: &[SavedView], sources: &[Source]) -> Vec<Entry> {
    let mut slugs = Slugs::default();
    let mut all = Vec::new();
    for view in views.iter().filter(|view| view.page == ViewPage::Compare && view.on_site) {
        let Ok(saved) = serde_urlencoded::from_str::<Saved>(&view.query) else { continue };
        let own: Vec<&Source> = saved.ids.split(',').filter_map(|id| sources.iter().find(|source| source.id == id)).take(MOST).collect();
        if own.len() < 2 {
            continue;
        }
        let sessions: Vec<_> = own.iter().map(|source| crate::publish::public(&source.session)).collect();
        let judged: Vec<_> = sessions.iter().map(judge).collect();
        let contenders: Vec<Contender> = own
            .iter()
            .zip(sessions.iter().zip(&judged))
            .map(|(source, (session, judged))| Contender {
                id: &source.id,
                of: None,
                session,
                checks: &judged.checks,
                overall: judged.overall,
            })
            .collect();
        let volts = saved.volts.filter(|volts| (8.0..=18.0).contains(volts)).unwrap_or(USUAL_SUPPLY_V);
        all.push(Entry {
            slug: slugs.take(format!("compare-{}", crate::slug(&view.name))),
            name: view.name.clone(),
            comparison: compare(&contenders, volts, saved.per),
            pages: own.iter().map(|source| source.slug.clone()).collect(),
        });
    }
    all
}

/// Writes the page of a comparison with its picture.
pub fn put(wanted: &SiteWanted, entry: &Entry, by: &Signature) -> anyhow::Result<()> {
    let card = compare_card(&entry.comparison, by, PREVIEW);
    if let Some(card) = &card {
        write(&wanted.out.join(format!("{}.png", entry.slug)), &png(&card.svg)?)?;
    }
    write(&wanted.out.join(format!("{}.html", entry.slug)), page(wanted, entry, card.as_ref().map(|card| card.alt.as_str())).as_bytes())
}

fn page(wanted: &SiteWanted, entry: &Entry, alt: Option<&str>) -> String {
    let Entry { slug, name, comparison, pages } = entry;
    let names: Vec<&str> = comparison.heads.iter().map(|head| head.name.as_str()).collect();
    let per = if comparison.per == Per::Output { "Power of one output" } else { "Power of all outputs" };
    let says = format!("{} side by side at {}.", names.join(", "), comparison.volts_words);
    let is_unjoined = comparison.rows.iter().flat_map(|row| row.cells.iter().flatten()).any(|cell| cell.unjoined.is_some());
    let content = html! {
        nav { a href="index.html" { (wanted.name) } }
        main {
            header { h1 { (name) } p { (says) } }
            @if let Some(alt) = alt { img src=(format!("{slug}.png")) width="1120" height="630" alt=(alt); }
            p { (per) ", with their ± at k = 2." @if is_unjoined { " A figure that says “as read” was made under other conditions: it is not set against the others." } }
            div class="wide" { table {
                thead { tr {
                    th scope="col" { "Load" }
                    @for (head, page) in comparison.heads.iter().zip(pages) {
                        th scope="col" class="number" { a href=(format!("{page}/index.html")) { (head.name) } " " small { (head.overall_word) } }
                    }
                } }
                tbody {
                    @for row in &comparison.rows { (line(row)) }
                    @for fact in &comparison.facts { tr {
                        th scope="row" { (fact.what) }
                        @for says in &fact.says { td class="number" { (says.as_deref().unwrap_or("–")) } }
                    } }
                }
            } }
            @for row in comparison.rows.iter().filter(|row| !row.says.is_empty()) { ul { @for says in &row.says { li { (says) } } } }
        }
    };
    let (title, picture) = (format!("{name}: {}", wanted.name), format!("{slug}.png"));
    let path = format!("{slug}.html");
    let about = About { title: &title, says: &says, path: &path, picture: alt.map(|alt| (picture.as_str(), alt)) };
    frame(wanted, &about, "", false, &content)
}

fn line(row: &CompareRow) -> Markup {
    html! { tr {
        th scope="row" { (row.load) " " small { (row.words) ", " (row.mode_words) } }
        @for made in &row.cells { td class="number" { @if let Some(made) = made { (cell(made)) } @else { "not tested" } } }
    } }
}

fn cell(cell: &CompareCell) -> Markup {
    html! {
        (cell.power.words_with_u())
        @if let Some(high) = &cell.high { " to " (high.words_with_u()) }
        @if let Some(why) = &cell.unjoined { br; small { (cell.basis) ": " (why) } }
    }
}
