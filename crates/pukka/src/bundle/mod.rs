//! Files in and out: one session as JSON, or the whole shelf as a zip with photos and ramps.
//!
//! ```text
//! shelf.json                     what the zip is, its folders in the order of the shelf, and what had to be left out
//! left-out.txt                   the same for a person, where something was left out
//! benches.json                   bench profiles
//! instruments.json               links of instruments
//! <folder>/session.json          the open session file
//! <folder>/settled.json          the verdict that was settled
//! <folder>/photos.json           what the photos show, in order
//! <folder>/photos/01.jpg
//! <folder>/ramps/001.json        a run that was driven, sample by sample
//! <folder>/traces/<sha256>.wav   a captured wave that the session names
//! ```

mod read;
mod write;

use pukka_core::kernel::problem::Problem;
use pukka_core::record::amplifier::PhotoWords;
use pukka_core::record::session::SessionFile;
use pukka_store::lives::Ramp;
use pukka_store::transfer::{KeptVerdict, Outgoing};
use serde::{Deserialize, Serialize};
use thiserror::Error;

pub use read::{Bundle, open};
pub use write::{OutgoingPhoto, OutgoingTrace, ShelfWriter};

/// The word in `shelf.json`.
const FORMAT: &str = "pukka-shelf";
const VERSION: u32 = 1;

/// Content of `shelf.json`.
#[derive(Debug, Clone, Serialize, Deserialize)]
struct Manifest {
    format: String,
    version: u32,
    exported_at: String,
    folders: Vec<String>,
    #[serde(default)]
    left_out: Vec<Problem>,
}

/// A line of `instruments.json`.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct LinkLine {
    /// Task of the instrument.
    pub role: String,
    /// Host and port, or a serial port.
    pub address: String,
    /// Profile, as TOML.
    pub profile: String,
    /// Matching meter of the bench.
    #[serde(default)]
    pub meter: Option<String>,
}

/// A line of `photos.json`.
#[derive(Debug, Serialize, Deserialize)]
struct PhotoLine {
    file: String,
    #[serde(flatten)]
    words: PhotoWords,
}

/// A photo of a bundle, still in its file.
#[derive(Debug, Clone, PartialEq)]
pub struct ArrivingPhoto {
    /// Everything that is said of it.
    pub words: PhotoWords,
    name: String,
    at: usize,
}

impl ArrivingPhoto {
    /// Name in its folder.
    #[must_use]
    pub fn name(&self) -> &str {
        &self.name
    }
}

/// A captured wave of a bundle, still in its file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ArrivingTrace {
    /// The hash it is named by; whether that is its own is looked at when it is unpacked.
    pub sha256: String,
    name: String,
    at: usize,
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
    pub photos: Vec<ArrivingPhoto>,
    /// Captured waves.
    pub traces: Vec<ArrivingTrace>,
    /// Parts beside the session that could not be read, and are left out.
    pub left_out: Vec<Problem>,
    /// Names in its folder that mean nothing here.
    pub not_known: Vec<String>,
}

impl Arriving {
    fn bare(folder: String) -> Self {
        Self {
            folder,
            session: Err(Vec::new()),
            ramps: Vec::new(),
            settled: None,
            photos: Vec::new(),
            traces: Vec::new(),
            left_out: Vec::new(),
            not_known: Vec::new(),
        }
    }

    /// Records to take in; nothing of a session that could not be read.
    #[must_use]
    pub fn incoming(&self) -> Option<Outgoing> {
        let file = self.session.as_ref().ok()?.session.clone();
        Some(Outgoing { file, ramps: self.ramps.clone(), settled: self.settled.clone() })
    }
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

/// The largest file that is taken; it lies on the disk while it is read.
pub const MOST_BYTES: u64 = 64 << 30;
/// Most that any zip may unpack to, and a large one as a multiple of its own length: photos do not shrink, and JSON to a tenth.
const MOST_UNPACKED: u64 = 512 * 1024 * 1024;
const MOST_RATIO: u64 = 40;
/// Most that one JSON file in it may unpack to.
const MOST_JSON: u64 = 16 * 1024 * 1024;
/// Most that one captured wave in it may unpack to: a WAV ends there.
const MOST_TRACE: u64 = 4 << 30;
const MOST_FILES: usize = 1_000_000;
/// Text in a zip that says what had to be left out of it.
const LEFT_OUT: &str = "left-out.txt";

#[cfg(test)]
mod tests;
