//! Upkeep of a data folder: backups, dated copies, restore, check.
//!
//! A backup is a manifest, the database, and photos and traces by their hashes. In one file it is a zip:
//!
//! ```text
//! backup.json            what is in it, each with its hash
//! pukka.sqlite           the database at one moment
//! photos/<sha256>.jpg
//! traces/<sha256>
//! ```
//!
//! Dated copies share their photos and traces: `backups/<moment>.json`, `backups/<moment>.sqlite`, `backups/photos/<sha256>.jpg`.

mod by_itself;
pub mod commands;
mod copies;
mod restore;
mod settings;
mod thinning;
mod zipped;

use std::fs::File;
use std::io::Read;
use std::path::{Path, PathBuf};

use pukka_core::record::session::is_hash;
use pukka_store::upkeep::DATABASE;
use pukka_store::{Kept, StoreError};
use serde::{Deserialize, Serialize};
use sha2::{Digest as _, Sha256};
use thiserror::Error;

pub use by_itself::look_after;
pub use copies::{Copy, copies, copy_now, copy_when_due, newest_in, try_folder};
pub use restore::{Restored, restore};
pub use settings::UpkeepSettings;
pub use zipped::{Backup, backup};

/// The word in `backup.json`.
const FORMAT: &str = "pukka-backup";
const VERSION: u32 = 1;
const MANIFEST: &str = "backup.json";

/// A file of a backup.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Entry {
    /// SHA-256 of its content.
    pub sha256: String,
    /// Its length.
    pub bytes: u64,
}

/// Content of a backup.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Manifest {
    format: String,
    version: u32,
    /// Moment of it.
    pub made_at: String,
    /// Version of the program that made it.
    pub program: String,
    /// Version of the database's schema.
    pub schema: usize,
    /// Amplifiers on its shelf.
    pub amplifiers: usize,
    /// The database.
    pub database: Entry,
    /// Photos.
    pub photos: Vec<Entry>,
    /// Captured waves.
    #[serde(default)]
    pub traces: Vec<Entry>,
    /// Hashes of files that could not be read when it was made.
    #[serde(default)]
    pub missing: Vec<String>,
}

impl Manifest {
    fn new(made_at: String, schema: usize, amplifiers: usize, database: Entry) -> Self {
        let program = env!("CARGO_PKG_VERSION").to_owned();
        let (format, photos, traces, missing) = (FORMAT.into(), Vec::new(), Vec::new(), Vec::new());
        Self { format, version: VERSION, made_at, program, schema, amplifiers, database, photos, traces, missing }
    }

    fn read(bytes: &[u8]) -> Result<Self, UpkeepError> {
        let manifest: Self = serde_json::from_slice(bytes).map_err(|_| UpkeepError::OtherKind)?;
        match (manifest.format.as_str(), manifest.version) {
            (FORMAT, VERSION) if manifest.names_are_hashes() => Ok(manifest),
            (FORMAT, version) if version > VERSION => Err(UpkeepError::Store(StoreError::Newer)),
            _ => Err(UpkeepError::OtherKind),
        }
    }

    /// No path is made of anything but a hash.
    fn names_are_hashes(&self) -> bool {
        is_hash(&self.database.sha256) && self.files().all(|(_, entry)| is_hash(&entry.sha256))
    }

    /// Files beside the database.
    fn files(&self) -> impl Iterator<Item = (Kept, &Entry)> {
        self.photos.iter().map(|entry| (Kept::Photo, entry)).chain(self.traces.iter().map(|entry| (Kept::Trace, entry)))
    }

    /// Notes a file, or that it could not be read.
    fn note(&mut self, kept: Kept, sha256: String, entry: Option<Entry>) {
        match (kept, entry) {
            (Kept::Photo, Some(entry)) => self.photos.push(entry),
            (Kept::Trace, Some(entry)) => self.traces.push(entry),
            (_, None) => self.missing.push(sha256),
        }
    }
}

/// Reason why a backup was not made, or not restored.
#[derive(Debug, Error)]
pub enum UpkeepError {
    /// The file is no backup.
    #[error("This is no backup of Pukka: it has no {MANIFEST} that says so.")]
    OtherKind,
    /// Something of it is not as it was written.
    #[error("The backup is damaged: {0}. Nothing was replaced.")]
    Damaged(String),
    /// A file that is there already.
    #[error("{0} is there already, and no backup overwrites a file. Name another.")]
    Exists(String),
    /// A file or folder that cannot be used.
    #[error("{path} cannot be used: {why}")]
    File {
        /// The path.
        path: String,
        /// Reason.
        why: std::io::Error,
    },
    /// The records.
    #[error(transparent)]
    Store(#[from] StoreError),
}

impl UpkeepError {
    fn file(path: &Path, why: std::io::Error) -> Self {
        match why.kind() {
            std::io::ErrorKind::StorageFull => Self::Store(StoreError::DiskFull),
            _ => Self::File { path: path.display().to_string(), why },
        }
    }
}

/// Reads to the end and hands on each block; gives hash and length of it all.
fn hashed<E>(
    mut from: impl Read,
    unreadable: impl Fn(std::io::Error) -> E,
    mut each: impl FnMut(&[u8]) -> Result<(), E>,
) -> Result<Entry, E> {
    let (mut hash, mut bytes, mut block) = (Sha256::new(), 0, vec![0; 256 * 1024]);
    loop {
        let n = from.read(&mut block).map_err(&unreadable)?;
        if n == 0 {
            break;
        }
        hash.update(&block[..n]);
        each(&block[..n])?;
        bytes += n as u64;
    }
    Ok(Entry { sha256: hash.finalize().iter().map(|byte| format!("{byte:02x}")).collect(), bytes })
}

/// Hash and length of a file.
fn entry_of(path: &Path) -> Result<Entry, UpkeepError> {
    let trouble = |why| UpkeepError::file(path, why);
    hashed(File::open(path).map_err(trouble)?, trouble, |_| Ok(()))
}

/// Names that the database has in a folder: itself, and what SQLite keeps beside it.
fn database_files(folder: &Path) -> [PathBuf; 3] {
    ["", "-wal", "-shm"].map(|end| folder.join(format!("{DATABASE}{end}")))
}
