//! What goes out of one session: cards, sheet, texts, subtitles, data, as files with names in order.

mod commands;

use pukka_core::record::session::{Audience, Session};
use pukka_core::report::publish::{clips, srt, texts, vtt};
use pukka_core::report::sheet::{Sheet, sheet};

pub(crate) use commands::write;
pub use commands::{Wanted, publish, signature};

use crate::cards::{Signature, Style, Subject, cards, outlined, png};
use crate::sheet::{Heading, csv, page};

/// A file that goes out.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Published {
    /// Name.
    pub name: String,
    /// Content.
    pub bytes: Vec<u8>,
}

/// A session as it may be shown, with nothing private in it.
#[must_use]
pub fn public(session: &Session) -> Session {
    session.clone().for_audience(Audience::Shared)
}

/// Likewise, and its sheet.
#[must_use]
pub fn shown(session: &Session) -> (Session, Sheet) {
    let session = public(session);
    let sheet = sheet(&session);
    (session, sheet)
}

/// Everything that goes out of a session as it may be shown, in the order of its names.
///
/// # Errors
/// When a card does not render, or the data cannot be written.
pub fn files((session, sheet): &(Session, Sheet), heading: &Heading, by: &Signature, style: Style) -> anyhow::Result<Vec<Published>> {
    let is_locked = heading.settled_on.is_some();
    let mut files = Vec::new();
    let mut add = |name: String, bytes: Vec<u8>| files.push(Published { name, bytes });
    for card in cards(Subject { session, sheet, is_locked, by }, style) {
        add(format!("{}.png", card.name), png(&card.svg)?);
        add(format!("{}.svg", card.name), outlined(&card)?.into_bytes());
    }
    let words = texts(session, sheet, is_locked);
    add("titles.txt".into(), (words.titles.join("\n") + "\n").into_bytes());
    add("description.txt".into(), words.description.into_bytes());
    add("description.md".into(), words.markdown.into_bytes());
    add("pinned-comment.txt".into(), (words.pinned + "\n").into_bytes());
    add("chapters.txt".into(), (words.chapters + "\n").into_bytes());
    let clips = clips(session);
    for (n, clip) in clips.iter().enumerate() {
        let name = if clips.len() > 1 { format!("readings-{}", n + 1) } else { "readings".to_owned() };
        add(format!("{name}.srt"), srt(session, clip).into_bytes());
        add(format!("{name}.vtt"), vtt(session, clip).into_bytes());
    }
    add("data.csv".into(), csv(session).map_err(|why| anyhow::anyhow!("{why}"))?);
    add("data.json".into(), serde_json::to_vec_pretty(&session.to_file()?)?);
    add("sheet.html".into(), page(sheet, heading).into_bytes());
    for (n, photo) in heading.photos.iter().enumerate() {
        add(format!("photo-{:02}.jpg", n + 1), photo.jpeg.clone());
    }
    files.sort_by(|a, b| a.name.cmp(&b.name));
    Ok(files)
}

#[cfg(test)]
mod tests;
