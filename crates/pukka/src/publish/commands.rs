//! `pukka publish`.

use std::path::{Path, PathBuf};

use anyhow::Context;

use super::{files, shown};
use crate::cards::{Shape, Signature, Style, Theme};
use crate::say;
use crate::sheet::Heading;

/// What is asked for.
#[derive(Debug, Clone)]
pub struct Wanted {
    /// The session file.
    pub file: PathBuf,
    /// Folder to write to.
    pub out: PathBuf,
    /// Shape of the cards.
    pub shape: Shape,
    /// Length of their shorter side.
    pub lines: u32,
    /// Theme of the cards.
    pub theme: Theme,
    /// The reviewer.
    pub by: Signature,
    /// Day that stands on the sheet.
    pub made_on: String,
}

/// A name and a mark from the command line.
///
/// # Errors
/// When the mark cannot be read, or is no picture.
pub fn signature(name: String, mark: Option<&Path>) -> anyhow::Result<Signature> {
    let read = |path: &Path| -> anyhow::Result<Vec<u8>> {
        let bytes = std::fs::read(path).with_context(|| format!("{} cannot be read", path.display()))?;
        crate::photo::as_mark(&bytes).with_context(|| format!("{} is no mark", path.display()))
    };
    Ok(Signature { name, mark: mark.map(read).transpose()? })
}

/// Writes everything that goes out of a session file into a folder; false when the file cannot be read.
///
/// # Errors
/// When a file cannot be made or written.
pub fn publish(wanted: &Wanted) -> anyhow::Result<bool> {
    let Some(session) = crate::cli::session_of(&wanted.file) else { return Ok(false) };
    let style = Style { shape: wanted.shape, theme: wanted.theme, lines: wanted.lines };
    let heading = Heading { made_on: wanted.made_on.clone(), settled_on: None, photos: Vec::new(), traces: Vec::new() };
    std::fs::create_dir_all(&wanted.out).with_context(|| format!("{} cannot be made", wanted.out.display()))?;
    for file in files(&shown(&session), &heading, &wanted.by, style)? {
        write(&wanted.out.join(&file.name), &file.bytes)?;
        say!("{}", file.name);
    }
    Ok(true)
}

/// What is as it was stays untouched: its date too.
pub(crate) fn write(path: &Path, bytes: &[u8]) -> anyhow::Result<()> {
    if std::fs::read(path).is_ok_and(|there| there == bytes) {
        return Ok(());
    }
    std::fs::write(path, bytes).with_context(|| format!("{} cannot be written", path.display()))
}
