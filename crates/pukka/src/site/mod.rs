//! `pukka site`: the shelf as a static web site. Nothing private is in it, nothing is fetched, and it works from a file.

mod comparisons;
mod feed;
mod page;

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};

use anyhow::Context as _;
use jiff::Timestamp;
use pukka_core::assess::Overall;
use pukka_core::record::amplifier::Class;
use pukka_core::record::claims::Claim;
use pukka_core::record::session::Session;
use pukka_core::report::ClaimRow;
use pukka_core::report::publish::standing;
use pukka_store::photos::Photo;
use pukka_store::upkeep::copy_database;
use pukka_store::views::SavedView;
use pukka_store::{Files, Store, amplifiers, photos, sessions, settled, signature, views};

use crate::cards::{Shape, Signature, Style, Subject, Theme, cards, png};
use crate::data;
use crate::publish::{shown, write};
use crate::sheet::{Heading, captured, chosen, csv};

/// Previews are as wide as the places that show them take.
const PREVIEW: Style = Style { shape: Shape::Wide, theme: Theme::Light, lines: 630 };

/// Name of a site that was given none.
pub const NAME: &str = "Amplifiers on the bench";

/// An address that a site can have: it becomes the start of links, so nothing else than a web address may.
///
/// # Errors
/// A sentence that says what is wrong with it.
pub fn check_url(url: &str) -> Result<(), &'static str> {
    let is_web = url.starts_with("https://") || url.starts_with("http://");
    let is_plain = url.chars().all(|c| c.is_ascii_graphic() && !matches!(c, '"' | '<' | '>' | '?' | '#'));
    if is_web && is_plain { Ok(()) } else { Err("The address of a site starts with https:// or http://, and has no spaces, ? or #.") }
}

/// What is asked for.
#[derive(Debug, Clone)]
pub struct SiteWanted {
    /// Folder of the data.
    pub data: PathBuf,
    /// Folder to write to.
    pub out: PathBuf,
    /// Address it will have, for the feed and for previews.
    pub url: Option<String>,
    /// Name of the site.
    pub name: String,
    /// Licence of what is published.
    pub licence: Option<String>,
    /// Only those whose name contains this.
    pub only: Option<String>,
}

/// An amplifier that gets a page.
struct Source {
    /// Id of the amplifier.
    id: String,
    /// Folder of its page.
    slug: String,
    session: Session,
    photos: Vec<Photo>,
    locked_on: Option<String>,
    /// Moment of its newest run.
    updated: Option<Timestamp>,
}

/// A page that was written, as the list and the feed tell of it.
pub(crate) struct Entry {
    /// Folder of its page.
    pub slug: String,
    pub name: String,
    pub class: Class,
    pub overall: Option<Overall>,
    pub overall_word: String,
    /// The verdict in a sentence or two.
    pub says: String,
    /// Whether it is the last word, in a sentence; nothing when it is.
    pub standing: Option<String>,
    pub disclosure: String,
    /// Watts of the claim with the most of them, and clean watts there.
    pub claim_w: Option<f64>,
    pub clean_w: Option<f64>,
    pub updated: Option<Timestamp>,
    /// Its runs.
    csv: Vec<u8>,
}

impl Entry {
    pub(crate) fn day(&self) -> String {
        self.updated.map(|at| at.strftime("%Y-%m-%d").to_string()).unwrap_or_default()
    }
}

/// Writes the site; answers how many amplifiers are on it. A file that is as it was stays untouched.
///
/// # Errors
/// When the records cannot be read, or a file cannot be made or written.
pub fn site(wanted: &SiteWanted) -> anyhow::Result<usize> {
    let Shelf { sources, views, by } = shelf(wanted)?;
    make(&wanted.out)?;
    let entries = pages(wanted, &sources, &by)?;
    let compared = comparisons::entries(&views, &sources);
    compared.iter().try_for_each(|entry| comparisons::put(wanted, entry, &by))?;
    write(&wanted.out.join("index.html"), page::index(wanted, &entries, &compared).as_bytes())?;
    write(&wanted.out.join("site.css"), page::STYLE.as_bytes())?;
    write(&wanted.out.join("site.js"), page::SCRIPT.as_bytes())?;
    write(&wanted.out.join("shelf.csv"), &data::runs_of_all(&entries.iter().map(|entry| &entry.csv).collect::<Vec<_>>()))?;
    let about = data::About { name: &wanted.name, licence: wanted.licence.as_deref(), url: wanted.url.as_deref() };
    write(&wanted.out.join("datapackage.json"), &data::package(&about, &[data::runs("shelf.csv")])?)?;
    write(&wanted.out.join("shelf.json"), &serde_json::to_vec_pretty(&page::shelf(&entries))?)?;
    if let Some(url) = &wanted.url {
        write(&wanted.out.join("feed.xml"), feed::atom(wanted, url, &entries).as_bytes())?;
    }
    Ok(entries.len())
}

/// Writes every page, as many at a time as there are cores: a sheet and a picture take longer than all the rest.
fn pages(wanted: &SiteWanted, sources: &[Source], by: &Signature) -> anyhow::Result<Vec<Entry>> {
    let next = AtomicUsize::new(0);
    let cores = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
    let work = || -> anyhow::Result<Vec<(usize, Entry)>> {
        let mut made = Vec::new();
        loop {
            let at = next.fetch_add(1, Ordering::Relaxed);
            let Some(source) = sources.get(at) else { return Ok(made) };
            made.push((at, one(wanted, source, by)?));
        }
    };
    let each = std::thread::scope(|scope| {
        let working: Vec<_> = (0..cores).map(|_| scope.spawn(work)).collect();
        let made = working.into_iter().map(|worker| worker.join().map_err(|_| anyhow::anyhow!("a page could not be made"))?);
        made.collect::<anyhow::Result<Vec<_>>>()
    })?;
    let mut made: Vec<(usize, Entry)> = each.into_iter().flatten().collect();
    made.sort_by_key(|(at, _)| *at);
    Ok(made.into_iter().map(|(_, entry)| entry).collect())
}

fn make(folder: &Path) -> anyhow::Result<()> {
    std::fs::create_dir_all(folder).with_context(|| format!("{} cannot be made", folder.display()))
}

/// Names of pages: what comes again gets a number.
#[derive(Default)]
struct Slugs(BTreeMap<String, usize>);

impl Slugs {
    fn take(&mut self, plain: String) -> String {
        let count = self.0.entry(plain.clone()).or_default();
        *count += 1;
        if *count == 1 { plain } else { format!("{plain}--{count}") }
    }
}

/// What the site is made of.
struct Shelf {
    /// The newest first.
    sources: Vec<Source>,
    views: Vec<SavedView>,
    by: Signature,
}

/// The shelf at one moment. The program may run meanwhile: a copy is read.
fn shelf(wanted: &SiteWanted) -> anyhow::Result<Shelf> {
    let copy = tempfile::tempdir()?;
    copy_database(&wanted.data, &copy.path().join("pukka.sqlite"))?;
    let store = Store::open(copy.path())?;
    let only = wanted.only.as_deref().map(str::to_lowercase);
    let mut slugs = Slugs::default();
    let mut all = Vec::new();
    for row in store.read(amplifiers::whole_shelf)? {
        if only.as_ref().is_some_and(|only| !row.summary.name.to_lowercase().contains(only)) {
            continue;
        }
        let (session, photos, kept) = store.read(|tx| {
            let session = sessions::in_hand(tx, &row.id)?;
            let kept = settled::newest(tx, &session.id)?;
            Ok((session.session, photos::list(tx, &row.id)?, kept))
        })?;
        let locked_on = kept.and_then(|kept| kept.stands_since(&session).map(str::to_owned));
        all.push((row.id, session, photos.into_iter().map(|row| row.photo).collect(), locked_on));
    }
    // By their ids, which are in the order they were made: an address stays though others come and go after it.
    all.sort_by(|a, b| a.0.cmp(&b.0));
    let sources = all.into_iter().map(|(id, session, photos, locked_on)| {
        let slug = slugs.take(crate::slug(&session.amplifier.name()));
        let updated = session.standing_runs().map(|run| run.at).max();
        Source { id, slug, updated, session, photos, locked_on }
    });
    let mut sources: Vec<Source> = sources.collect();
    sources.sort_by(|a, b| b.updated.cmp(&a.updated).then_with(|| a.slug.cmp(&b.slug)));
    let (by, views) = store.read(|tx| Ok((signature::get(tx)?, views::list(tx)?)))?;
    let views = views.into_iter().map(|row| row.view).collect();
    Ok(Shelf { sources, views, by: Signature { name: by.name, mark: by.mark } })
}

/// Writes the page of one amplifier, with its files.
fn one(wanted: &SiteWanted, source: &Source, by: &Signature) -> anyhow::Result<Entry> {
    let folder = wanted.out.join(&source.slug);
    make(&folder)?;
    let (session, sheet) = shown(&source.session);
    let is_locked = source.locked_on.is_some();
    let entry = Entry {
        slug: source.slug.clone(),
        name: sheet.name.clone(),
        class: session.amplifier.class,
        overall: sheet.view.overall,
        overall_word: sheet.view.overall_word.clone(),
        says: sheet.view.spoken(),
        standing: standing(&sheet.view, is_locked),
        disclosure: sheet.view.disclosure.clone(),
        claim_w: session.headline().and_then(Claim::total_w),
        clean_w: sheet.view.headline(&session).and_then(ClaimRow::clean_w),
        updated: source.updated,
        csv: csv(&session)?,
    };
    let preview = cards(Subject { session: &session, sheet: &sheet, is_locked, by }, PREVIEW).into_iter().next();
    if let Some(card) = &preview {
        write(&folder.join("preview.png"), &png(&card.svg)?)?;
    }
    let photos = chosen(&Files::in_folder(&wanted.data), source.photos.iter().cloned(), &source.session);
    let traces = captured(&Files::in_folder(&wanted.data), &source.session);
    let heading = Heading { made_on: entry.day(), settled_on: source.locked_on.clone(), photos, traces };
    write(&folder.join("sheet.html"), crate::sheet::page(&sheet, &heading).as_bytes())?;
    write(&folder.join("data.csv"), &entry.csv)?;
    write(&folder.join("data.json"), &serde_json::to_vec_pretty(&session.to_file()?)?)?;
    write(&folder.join("index.html"), page::amplifier(wanted, &entry, &sheet, preview.as_ref().map(|card| card.alt.as_str())).as_bytes())?;
    Ok(entry)
}

#[cfg(test)]
mod tests;
