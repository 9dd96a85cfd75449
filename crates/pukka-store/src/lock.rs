//! One program owns a data folder.

use std::fs::{DirBuilder, File, OpenOptions, TryLockError};
use std::path::Path;

use crate::StoreError;

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
        make_private(folder).map_err(|why| trouble(folder, why))?;
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
    let file = private().create(true).truncate(false).open(path).map_err(|why| trouble(folder, why))?;
    match file.try_lock() {
        Ok(()) => Ok(file),
        Err(TryLockError::WouldBlock) => Err(StoreError::Locked { folder: folder.display().to_string() }),
        Err(TryLockError::Error(why)) => Err(trouble(folder, why)),
    }
}

fn trouble(folder: &Path, why: std::io::Error) -> StoreError {
    StoreError::Folder { folder: folder.display().to_string(), why }
}

/// Writes a file that only its owner may read.
pub(crate) fn private() -> OpenOptions {
    let mut options = OpenOptions::new();
    options.write(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
    options
}

/// Makes a folder that only its owner may look into; one that is there becomes so.
pub(crate) fn make_private(folder: &Path) -> std::io::Result<()> {
    let mut builder = DirBuilder::new();
    builder.recursive(true);
    #[cfg(unix)]
    {
        use std::os::unix::fs::{DirBuilderExt as _, PermissionsExt as _};
        builder.mode(0o700);
        builder.create(folder)?;
        // A folder of somebody else's may be written to and cannot be changed: it is used as it is.
        let _ = std::fs::set_permissions(folder, std::fs::Permissions::from_mode(0o700));
        Ok(())
    }
    #[cfg(not(unix))]
    builder.create(folder)
}
