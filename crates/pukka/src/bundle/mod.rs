//! Files in and out: one session as JSON, or the whole shelf as a zip with photos and ramps.
//!
//! ```text
//! shelf.json                     what the zip is, and which folders it has
//! <folder>/session.json          the open session file
//! <folder>/settled.json          the verdict that was settled
//! <folder>/photos.json           what the photos show, in order
//! <folder>/photos/01.jpg
//! <folder>/ramps/001.json        a run that was driven, sample by sample
//! ```

mod read;
mod write;

use pukka_core::kernel::problem::Problem;
use pukka_core::record::session::SessionFile;
use pukka_store::lives::Ramp;
use pukka_store::transfer::{KeptVerdict, Outgoing};
use serde::{Deserialize, Serialize};
use thiserror::Error;

pub use read::read;
pub use write::{Folder, write};

/// The word in `shelf.json`.
const FORMAT: &str = "pukka-shelf";
const VERSION: u32 = 1;

/// Content of `shelf.json`.
#[derive(Debug, Serialize, Deserialize)]
struct Manifest {
    format: String,
    version: u32,
    exported_at: String,
    folders: Vec<String>,
}

/// A line of `photos.json`.
#[derive(Debug, Serialize, Deserialize)]
struct PhotoLine {
    file: String,
    #[serde(default)]
    caption: String,
}

/// A photo in a bundle.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BundledPhoto {
    /// Caption.
    pub caption: String,
    /// The file.
    pub bytes: Vec<u8>,
}

/// An amplifier of a bundle, as far as it could be read.
#[derive(Debug)]
pub struct Arriving {
    /// Folder; nothing of a single file.
    pub folder: String,
    /// Session, or what is wrong with it.
    pub session: Result<SessionFile, Vec<Problem>>,
    /// Runs that were driven.
    pub ramps: Vec<Ramp>,
    /// The verdict that was settled.
    pub settled: Option<KeptVerdict>,
    /// Photos.
    pub photos: Vec<BundledPhoto>,
    /// Parts beside the session that could not be read, and are left out.
    pub left_out: Vec<Problem>,
}

impl Arriving {
    /// Records to take in; nothing of a session that could not be read.
    #[must_use]
    pub fn incoming(&self) -> Option<Outgoing> {
        let file = self.session.as_ref().ok()?.session.clone();
        Some(Outgoing { file, ramps: self.ramps.clone(), settled: self.settled.clone() })
    }
}

/// Content of a file.
#[derive(Debug)]
pub struct Bundle {
    /// Amplifiers.
    pub amplifiers: Vec<Arriving>,
    /// Names in it that mean nothing here.
    pub not_known: Vec<String>,
}

/// Reason why a whole file is refused.
#[derive(Debug, Error)]
pub enum BundleError {
    /// Neither JSON nor a zip.
    #[error("This is neither a session file nor a zip of a shelf.")]
    OtherKind,
    /// The zip cannot be opened.
    #[error("The zip cannot be read: {0}.")]
    Damaged(String),
    /// A name that would leave its folder.
    #[error("The zip holds “{0}”, a name that climbs out of its folder. Nothing of it was read.")]
    Climbs(String),
    /// The same name twice.
    #[error("The zip holds “{0}” twice. Nothing of it was read.")]
    Twice(String),
    /// More than is read.
    #[error("{what} unpacks to more than {most_mb} MB: that is no shelf. Nothing of it was read.")]
    TooLarge {
        /// Name of the culprit.
        what: String,
        /// The most.
        most_mb: u64,
    },
    /// Too many files.
    #[error("The zip holds {0} files; {MOST_FILES} at most are read.")]
    TooMany(usize),
    /// A zip without an amplifier.
    #[error("The zip holds no session.json: there is no amplifier in it.")]
    Empty,
}

/// The largest file that is taken: a shelf with its photos.
pub const MOST_BYTES: usize = 256 * 1024 * 1024;
/// Most that a whole zip may unpack to.
const MOST_UNPACKED: u64 = 512 * 1024 * 1024;
/// Most that one JSON file in it may unpack to.
const MOST_JSON: u64 = 16 * 1024 * 1024;
const MOST_FILES: usize = 60_000;

#[cfg(test)]
mod tests;
