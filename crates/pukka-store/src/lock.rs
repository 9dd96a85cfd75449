//! One program owns a data folder.

use std::fs::{File, TryLockError};
use std::path::Path;

use crate::StoreError;

/// Held while the program runs; the system lets it go when the program ends, however it ends.
#[derive(Debug)]
pub struct FolderLock {
    _file: File,
}

impl FolderLock {
    /// Takes the folder.
    pub fn take(folder: &Path) -> Result<Self, StoreError> {
        let shown = || folder.display().to_string();
        std::fs::create_dir_all(folder).map_err(|why| StoreError::Folder { folder: shown(), why })?;
        let file = File::options()
            .create(true)
            .truncate(false)
            .write(true)
            .open(folder.join("pukka.lock"))
            .map_err(|why| StoreError::Folder { folder: shown(), why })?;
        match file.try_lock() {
            Ok(()) => Ok(Self { _file: file }),
            Err(TryLockError::WouldBlock) => Err(StoreError::Locked { folder: shown() }),
            Err(TryLockError::Error(why)) => Err(StoreError::Folder { folder: shown(), why }),
        }
    }
}
