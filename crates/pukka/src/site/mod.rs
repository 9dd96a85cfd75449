//! `pukka site`: the shelf as a static web site. Nothing private is in it, nothing is fetched, and it works from a file.

mod feed;
mod page;

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use anyhow::Context as _;
use jiff::Timestamp;
use pukka_core::record::session::Session;
use pukka_core::report::publish::standing;
use pukka_core::report::sheet::Sheet;
use pukka_store::upkeep::copy_database;
use pukka_store::{Store, amplifiers, sessions, settled};

use crate::cards::{Card, Shape, Style, Theme, png};
use crate::publish::{drawn, shown, write};
use crate::sheet::{Heading, csv};

/// Previews are as wide as the places that show them take.
const PREVIEW: Style = Style { shape: Shape::Wide, theme: Theme::Light, lines: 630 };

/// Name of a site that was given none.
pub const NAME: &str = "Amplifiers on the bench";

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

/// An amplifier with a page of its own.
pub(crate) struct Entry {
    /// Folder of its page.
    pub slug: String,
    pub sheet: Sheet,
    pub session: Session,
    pub locked_on: Option<String>,
    /// Moment of its newest run.
    pub updated: Option<Timestamp>,
}

impl Entry {
    /// Whether it is the last word, in a sentence; nothing when it is.
    pub(crate) fn standing(&self) -> Option<String> {
        standing(&self.sheet.view, self.locked_on.is_some())
    }

    /// The verdict in a sentence or two, without breaks.
    pub(crate) fn says(&self) -> String {
        let joined = |phrases: &[pukka_core::assess::Phrase]| phrases.iter().map(|phrase| phrase.text.as_str()).collect::<String>();
        let parts = [joined(&self.sheet.view.heading), joined(&self.sheet.view.phrases)];
        parts.iter().map(|part| part.trim()).filter(|part| !part.is_empty()).collect::<Vec<_>>().join(" ")
    }

    pub(crate) fn day(&self) -> String {
        self.updated.map(|at| at.strftime("%Y-%m-%d").to_string()).unwrap_or_default()
    }
}

/// Writes the site; answers how many amplifiers are on it. A file that is as it was stays untouched.
///
/// # Errors
/// When the records cannot be read, or a file cannot be made or written.
pub fn site(wanted: &SiteWanted) -> anyhow::Result<usize> {
    let entries = entries(wanted)?;
    make(&wanted.out)?;
    // Two at a time: a picture takes longer than all the rest of its page.
    let next = std::sync::atomic::AtomicUsize::new(0);
    let cores = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
    std::thread::scope(|scope| {
        let work = || -> anyhow::Result<()> {
            while let Some(entry) = entries.get(next.fetch_add(1, std::sync::atomic::Ordering::Relaxed)) {
                one(wanted, entry)?;
            }
            Ok(())
        };
        let working: Vec<_> = (0..cores).map(|_| scope.spawn(work)).collect();
        working.into_iter().try_for_each(|worker| worker.join().map_err(|_| anyhow::anyhow!("a page could not be made"))?)
    })?;
    write(&wanted.out.join("index.html"), page::index(wanted, &entries).as_bytes())?;
    write(&wanted.out.join("site.css"), page::STYLE.as_bytes())?;
    write(&wanted.out.join("site.js"), page::SCRIPT.as_bytes())?;
    write(&wanted.out.join("shelf.csv"), &runs_of_all(&entries)?)?;
    write(&wanted.out.join("shelf.json"), &serde_json::to_vec_pretty(&page::shelf(&entries))?)?;
    if let Some(url) = &wanted.url {
        write(&wanted.out.join("feed.xml"), feed::atom(wanted, url, &entries).as_bytes())?;
    }
    Ok(entries.len())
}

fn make(folder: &Path) -> anyhow::Result<()> {
    std::fs::create_dir_all(folder).with_context(|| format!("{} cannot be made", folder.display()))
}

/// The shelf at one moment, as it may be shown. The program may run meanwhile: a copy is read.
fn entries(wanted: &SiteWanted) -> anyhow::Result<Vec<Entry>> {
    let copy = tempfile::tempdir()?;
    copy_database(&wanted.data, &copy.path().join("pukka.sqlite"))?;
    let store = Store::open(copy.path())?;
    let only = wanted.only.as_deref().map(str::to_lowercase);
    let mut used: BTreeMap<String, usize> = BTreeMap::new();
    let mut all = Vec::new();
    for row in store.read(amplifiers::whole_shelf)? {
        if only.as_ref().is_some_and(|only| !row.summary.name.to_lowercase().contains(only)) {
            continue;
        }
        let (session, kept) = store.read(|tx| {
            let session = sessions::newest(tx, &row.id)?;
            let kept = settled::newest(tx, &session.id)?;
            Ok((session.session, kept))
        })?;
        let stands = kept.filter(|kept| kept.settled.changes(&session).is_empty());
        let (session, sheet) = shown(&session);
        all.push((row.id, session, sheet, stands.and_then(|kept| kept.at.get(..10).map(str::to_owned))));
    }
    // By their ids, which are in the order they were made: an address stays though others come and go after it.
    all.sort_by(|a, b| a.0.cmp(&b.0));
    let entries = all.into_iter().map(|(_, session, sheet, locked_on)| {
        let plain = crate::slug(&sheet.name);
        let count = used.entry(plain.clone()).or_default();
        *count += 1;
        let slug = if *count == 1 { plain } else { format!("{plain}--{count}") };
        let updated = session.standing_runs().map(|run| run.at).max();
        Entry { slug, updated, session, sheet, locked_on }
    });
    let mut entries: Vec<Entry> = entries.collect();
    entries.sort_by(|a, b| b.updated.cmp(&a.updated).then_with(|| a.slug.cmp(&b.slug)));
    Ok(entries)
}

/// The page of one amplifier, with its files.
fn one(wanted: &SiteWanted, entry: &Entry) -> anyhow::Result<()> {
    let folder = wanted.out.join(&entry.slug);
    make(&folder)?;
    let cards = drawn(&entry.session, &entry.sheet, entry.locked_on.is_some(), PREVIEW);
    let preview: Option<&Card> = cards.first();
    if let Some(card) = preview {
        write(&folder.join("preview.png"), &png(&card.svg)?)?;
    }
    let heading = Heading { made_on: entry.day(), settled_on: entry.locked_on.clone() };
    write(&folder.join("sheet.html"), crate::sheet::page(&entry.sheet, &heading).as_bytes())?;
    write(&folder.join("data.csv"), &csv(&entry.session)?)?;
    write(&folder.join("data.json"), &serde_json::to_vec_pretty(&entry.session.to_file()?)?)?;
    write(&folder.join("index.html"), page::amplifier(wanted, entry, preview.map(|card| card.alt.as_str())).as_bytes())
}

/// Every run of every amplifier, a line each under one header.
fn runs_of_all(entries: &[Entry]) -> anyhow::Result<Vec<u8>> {
    let mut whole = Vec::new();
    for (n, entry) in entries.iter().enumerate() {
        let own = csv(&entry.session)?;
        let header = own.windows(2).position(|two| two == b"\r\n").map_or(0, |at| at + 2);
        whole.extend_from_slice(if n == 0 { &own } else { own.get(header..).unwrap_or_default() });
    }
    Ok(whole)
}

#[cfg(test)]
mod tests;
