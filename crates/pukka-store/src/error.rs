//! What can go wrong with the records.

use std::path::Path;

use pukka_core::plan::gates::GateFinding;
use thiserror::Error;

/// Reason why the store did not do what was asked.
#[derive(Debug, Error)]
pub enum StoreError {
    /// No such record, or it was deleted.
    #[error("There is no {what} “{id}”.")]
    NotFound {
        /// Record looked for.
        what: &'static str,
        /// By which id.
        id: String,
    },
    /// Somebody changed it in between.
    #[error("This {what} was changed elsewhere since you opened it (revision {have}, yours is {wanted}). Nothing was saved.")]
    Conflict {
        /// Record to be changed.
        what: &'static str,
        /// The revision it was changed from.
        wanted: i64,
        /// The revision it has.
        have: i64,
    },
    /// A file that would overwrite what is never overwritten.
    #[error("{says}")]
    Refused {
        /// Reason.
        says: String,
    },
    /// A run whose gates are shut.
    #[error("This run is gated: open its gates before it starts, or say that it happened already.")]
    Gated {
        /// The gates still shut.
        gates: Vec<GateFinding>,
    },
    /// An incident stopped the plan.
    #[error("The plan has stopped. {says} See to it, and say what was done, before another run is armed.")]
    Halted {
        /// Account of the event.
        says: String,
    },
    /// Inputs of a gate were to be changed while a run is armed.
    #[error("A run is armed ({says}): what its gates were judged on is frozen. Disarm it, or log it, first.")]
    Armed {
        /// Run that is armed.
        says: String,
    },
    /// A bench was to be changed under a session that has runs.
    #[error("Runs were made on this bench: it stays with the session as it was.")]
    BenchInUse,
    /// An idempotency key, two requests.
    #[error("This key was used for another request before.")]
    KeyReused,
    /// A key that was given up before its request was done.
    #[error("This write was given up before it was done: nothing was saved. Send it again under a new key.")]
    GivenUp,
    /// Nothing left that this tab did.
    #[error("There is nothing to undo in this tab.")]
    NothingToUndo,
    /// Nothing left that this tab took back.
    #[error("There is nothing to do again in this tab.")]
    NothingToRedo,
    /// Something was done since the list was looked at.
    #[error("Something else comes next now: {says}. Nothing was changed; look again.")]
    NotNext {
        /// Next steps.
        says: String,
    },
    /// A journal that was damaged.
    #[error("The journal names “{word}”, which is nothing Pukka keeps: the database is damaged.")]
    UnknownEntity {
        /// The word.
        word: String,
    },
    /// Another program has this folder.
    #[error("Another Pukka already uses the data folder {folder}. Close it first, or choose another folder.")]
    Locked {
        /// The folder.
        folder: String,
    },
    /// No room.
    #[error("The disk is full: nothing was saved. Free some space and try again.")]
    DiskFull,
    /// The folder or a file in it cannot be used.
    #[error("The data folder {folder} cannot be used: {why}")]
    Folder {
        /// The folder.
        folder: String,
        /// Reason.
        why: std::io::Error,
    },
    /// A database that lost its content beside photos or copies.
    #[error(
        "The data folder {folder} has {what} and no records: pukka.sqlite is missing or empty. It is not taken for a new shelf. \
         Restore a backup (pukka restore FILE --data FOLDER), or name another folder."
    )]
    Emptied {
        /// The folder.
        folder: String,
        /// Content that stands beside it.
        what: String,
    },
    /// A database that cannot even be read.
    #[error(
        "The records in {folder} are damaged and cannot be read ({says}). Nothing was written. Restore a backup: \
         pukka restore FILE --data FOLDER keeps what is there beside it."
    )]
    Damaged {
        /// The folder.
        folder: String,
        /// Complaint of SQLite.
        says: String,
    },
    /// A write to records that are only read.
    #[error("The records are damaged and only read: nothing was saved. Restore a backup, or export what can still be read.")]
    ReadOnly,
    /// A database of a newer program.
    #[error("These records were written by a newer Pukka. Update Pukka; nothing was changed.")]
    Newer,
    /// A migration that failed.
    #[error("The database cannot be brought up to date: {why}")]
    Migration {
        /// Reason.
        why: rusqlite_migration::Error,
    },
    /// A record that does not read as one.
    #[error("A stored {what} cannot be read: {why}")]
    Unreadable {
        /// Readings.
        what: &'static str,
        /// Reason why not.
        why: serde_json::Error,
    },
    /// A write failed in a way that is a fault of this program.
    #[error("The write failed inside the program; nothing was saved.")]
    Broken,
    /// A read failed in a way that is a fault of this program.
    #[error("The records could not be read: a fault inside the program. Nothing was changed.")]
    ReadBroken,
    /// SQLite said no.
    #[error("The database said: {0}")]
    Sqlite(rusqlite::Error),
}

impl StoreError {
    /// What the system said of a file or folder.
    #[must_use]
    pub fn at(path: &Path, why: std::io::Error) -> Self {
        match why.kind() {
            std::io::ErrorKind::StorageFull => Self::DiskFull,
            _ => Self::Folder { folder: path.display().to_string(), why },
        }
    }
}

impl From<rusqlite::Error> for StoreError {
    fn from(error: rusqlite::Error) -> Self {
        match error.sqlite_error_code() {
            Some(rusqlite::ErrorCode::DiskFull) => Self::DiskFull,
            _ => Self::Sqlite(error),
        }
    }
}
