//! One program owns a data folder.

use std::fs::{File, TryLockError};
use std::path::Path;

use crate::{StoreError, whole};

/// Held while the program runs; the system lets it go when the program ends, however it ends.
#[derive(Debug)]
pub struct FolderLock {
    _file: File,
    /// The database's own file: a lock file can be deleted while it is held, and a second program would then make another.
    ///
    /// Never opened and closed again while SQLite has it open: closing any descriptor of a file drops the process's POSIX locks on
    /// it, which are SQLite's. This one is a lock of another kind, and closed last.
    database: Option<File>,
}

impl FolderLock {
    /// Takes the folder.
    pub fn take(folder: &Path) -> Result<Self, StoreError> {
        whole::own_folder(folder).map_err(|why| StoreError::at(folder, why))?;
        Ok(Self { _file: locked(folder, &folder.join("pukka.lock"))?, database: None })
    }

    /// Takes the database's own file too, and makes it where there is none.
    pub fn hold(&mut self, folder: &Path, database: &Path) -> Result<(), StoreError> {
        // Elsewhere such a lock is the same kind as SQLite's own, or keeps SQLite itself out.
        if cfg!(target_os = "linux") {
            self.database = Some(locked(folder, database)?);
        }
        Ok(())
    }
}

fn locked(folder: &Path, path: &Path) -> Result<File, StoreError> {
    let file = whole::private().create(true).truncate(false).open(path).map_err(|why| StoreError::at(folder, why))?;
    match file.try_lock() {
        Ok(()) => Ok(file),
        Err(TryLockError::WouldBlock) => Err(StoreError::Locked { folder: folder.display().to_string() }),
        Err(TryLockError::Error(why)) => Err(StoreError::at(folder, why)),
    }
}
