//! Pages of the site.

use maud::{DOCTYPE, Markup, html};
use pukka_core::kernel::format;
use pukka_core::report::ClaimRow;
use pukka_core::report::sheet::Sheet;
use serde_json::{Value, json};

use super::{Entry, SiteWanted, comparisons};

pub const STYLE: &str = include_str!("site.css");
/// A classic script: a page that is opened from a file may not load modules.
pub const SCRIPT: &str = include_str!("site.js");

/// Only what lies beside the page is loaded.
const POLICY: &str = "default-src 'none'; style-src 'self'; script-src 'self'; img-src 'self'; base-uri 'none'; form-action 'none'";

/// What a page says of itself to whoever links to it.
pub(super) struct About<'a> {
    pub title: &'a str,
    pub says: &'a str,
    /// Path from the root of the site.
    pub path: &'a str,
    /// Path of its picture, and what it shows in words.
    pub picture: Option<(&'a str, &'a str)>,
}

pub(super) fn frame(wanted: &SiteWanted, about: &About, root: &str, script: bool, content: &Markup) -> String {
    let absolute = |path: &str| wanted.url.as_ref().map(|url| format!("{}/{path}", url.trim_end_matches('/')));
    let page = html! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                meta http-equiv="Content-Security-Policy" content=(POLICY);
                meta name="viewport" content="width=device-width, initial-scale=1";
                title { (about.title) }
                meta name="description" content=(about.says);
                meta property="og:title" content=(about.title);
                meta property="og:description" content=(about.says);
                meta property="og:type" content="article";
                @if let Some(url) = absolute(about.path) { meta property="og:url" content=(url); }
                @if let Some((path, alt)) = about.picture {
                    meta property="og:image" content=(absolute(path).unwrap_or_else(|| format!("{root}{path}")));
                    meta property="og:image:alt" content=(alt);
                }
                link rel="stylesheet" href=(format!("{root}site.css"));
                @if wanted.url.is_some() { link rel="alternate" type="application/atom+xml" href=(format!("{root}feed.xml")); }
                @if script { script src=(format!("{root}site.js")) defer {} }
            }
            body {
                (content)
                footer {
                    @if let Some(licence) = &wanted.licence { p { "Licence: " (licence) } }
                    p { "Measured and judged with Pukka. Figures carry ± at k = 2." }
                }
            }
        }
    };
    page.into_string().replace("± ", "±\u{a0}")
}

/// The list of all amplifiers.
pub fn index(wanted: &SiteWanted, entries: &[Entry], compared: &[comparisons::Entry]) -> String {
    let says = format!("{} amplifiers, bench-tested and judged against their makers' claims.", entries.len());
    let content = html! {
        main {
            header {
                h1 { (wanted.name) }
                p { (says) }
            }
            @if entries.is_empty() { p { "Nothing is published yet." } } @else {
                p class="find" hidden {
                    label { "Find " input type="search" id="find"; }
                    " " span id="found" role="status" {}
                }
                table id="shelf" {
                    thead { tr {
                        th scope="col" data-sort="text" { "Amplifier" }
                        th scope="col" data-sort="text" { "Verdict" }
                        th scope="col" data-sort="text" { "Class" }
                        th scope="col" data-sort="number" class="number" { "Claim" }
                        th scope="col" data-sort="number" class="number" { "Clean there" }
                        th scope="col" data-sort="text" class="number" { "Tested" }
                    } }
                    tbody { @for entry in entries { (line(entry)) } }
                }
                @if !compared.is_empty() {
                    h2 { "Side by side" }
                    ul { @for one in compared { li { a href=(format!("{}.html", one.slug)) { (one.name) } } } }
                }
                p class="files" { "All runs: " a href="shelf.csv" { "CSV" } ", " a href="shelf.json" { "JSON" } }
            }
        }
    };
    let about = About { title: &wanted.name, says: &says, path: "", picture: None };
    frame(wanted, &about, "", true, &content)
}

fn line(entry: &Entry) -> Markup {
    let watts = |value: Option<f64>| value.map(|w| format::with_unit(&format::watts(w), "W")).unwrap_or_default();
    let key = |value: Option<f64>| value.map_or_else(String::new, |value| format!("{value:.3}"));
    html! {
        tr {
            th scope="row" { a href=(format!("{}/index.html", entry.slug)) { (entry.name) } }
            td { (entry.overall_word) @if entry.standing.is_some() { " " small { "not final" } } }
            td { (entry.class.words()) }
            td class="number" data-key=(key(entry.claim_w)) { (watts(entry.claim_w)) }
            td class="number" data-key=(key(entry.clean_w)) { (watts(entry.clean_w)) }
            td class="number" { (entry.day()) }
        }
    }
}

/// One amplifier.
pub fn amplifier(wanted: &SiteWanted, entry: &Entry, sheet: &Sheet, alt: Option<&str>) -> String {
    let content = html! {
        nav { a href="../index.html" { (wanted.name) } }
        main {
            header {
                p class="disclosure" { (sheet.view.disclosure) }
                h1 { (sheet.name) }
                p { (sheet.subtitle) }
            }
            @if let Some(standing) = &entry.standing { p class="standing" { (standing) } }
            p class="verdict" { b { (sheet.view.overall_word) "." } " " (entry.says) }
            @if let Some(alt) = alt { img src="preview.png" width="1120" height="630" alt=(alt); }
            (claims(&sheet.view.rows))
            @if !sheet.told.is_empty() { ul { @for told in &sheet.told { li { (told.says) } } } }
            p { (sheet.view.basis) }
            p class="files" {
                a href="sheet.html" { "The result sheet, with the working of every figure" } ", "
                a href="data.csv" { "CSV" } ", " a href="data.json" { "session file" }
            }
        }
    };
    let (picture, path) = (format!("{}/preview.png", entry.slug), format!("{}/", entry.slug));
    let title = format!("{}: {}", sheet.name, sheet.view.overall_word.to_lowercase());
    let about = About { title: &title, says: &entry.says, path: &path, picture: alt.map(|alt| (picture.as_str(), alt)) };
    // Its picture is named from the root.
    frame(wanted, &about, "../", false, &content)
}

fn claims(rows: &[ClaimRow]) -> Markup {
    html! {
        @if !rows.is_empty() {
            table {
                thead { tr { th scope="col" { "Load" } th scope="col" class="number" { "Claim" } th scope="col" class="number" { "Clean" }
                    th scope="col" class="number" { "Clipping" } th scope="col" class="number" { "In bursts" } th scope="col" { "Outcome" } } }
                tbody { @for row in rows { tr {
                    th scope="row" { (row.load) }
                    td class="number" { @if let Some(claim) = &row.claim { (claim) " W" } }
                    @for track in 0..3 { td class="number" {
                        @if let Some(bar) = row.bars.iter().find(|bar| bar.track == track) {
                            (bar.total.text) " W"
                            @if let Some(u) = &bar.total.plus_minus { small { " ± " (u) } }
                        }
                    } }
                    td { (row.outcome_words) }
                } } }
            }
        }
    }
}

/// The list as data.
pub fn shelf(entries: &[Entry]) -> Value {
    let rows: Vec<Value> = entries
        .iter()
        .map(|entry| {
            json!({ "name": entry.name, "page": format!("{}/index.html", entry.slug), "file": format!("{}/data.json", entry.slug),
                "verdict": entry.overall, "final": entry.standing.is_none(), "class": entry.class,
                "claim_w": entry.claim_w, "clean_w": entry.clean_w,
                "tested_on": entry.day(), "disclosure": entry.disclosure })
        })
        .collect();
    json!({ "format": "pukka-site", "version": 1, "amplifiers": rows })
}
