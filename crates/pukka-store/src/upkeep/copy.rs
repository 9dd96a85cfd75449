//! A whole copy of the database, while the program may be writing to it.

use std::fs::File;
use std::path::{Path, PathBuf};

use rusqlite::Connection;

use crate::health::{self, DATABASE};
use crate::{Kept, StoreError, migrations, whole};

/// Content of a copy of the database.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Copied {
    /// Version of its schema.
    pub schema: usize,
    /// Amplifiers on its shelf.
    pub amplifiers: usize,
    /// Files that it names, by their hashes, removed ones too: undo brings them back.
    pub files: Vec<(Kept, String)>,
}

/// Copies the database of a folder into a new file, as it is at one moment. The program may run meanwhile.
///
/// # Errors
/// [`StoreError`] when there is no database, it cannot be read, or the copy not be written.
pub fn copy_database(folder: &Path, to: &Path) -> Result<Copied, StoreError> {
    let trouble = |why| StoreError::at(to, why);
    let from = database_in(folder)?;
    // Made first, so that nobody else may read it for a moment.
    whole::new_file(to).map_err(trouble)?;
    let connection = health::read_only(&from)?;
    if health::version(&connection)? > migrations::latest() {
        return Err(StoreError::Newer);
    }
    connection.execute("VACUUM INTO ?", [to.display().to_string()])?;
    File::open(to).and_then(|copy| copy.sync_all()).map_err(trouble)?;
    content(&health::read_only(to)?)
}

/// The database of a folder that has one.
pub(super) fn database_in(folder: &Path) -> Result<PathBuf, StoreError> {
    let path = folder.join(DATABASE);
    if path.is_file() { Ok(path) } else { Err(StoreError::at(&path, std::io::ErrorKind::NotFound.into())) }
}

/// Checks a copy of the database through and through.
///
/// # Errors
/// [`StoreError::Damaged`] when it is not whole, [`StoreError::Newer`] when a newer program wrote it.
pub fn verify_database(path: &Path) -> Result<Copied, StoreError> {
    let damaged = |says: String| StoreError::Damaged { folder: path.display().to_string(), says };
    let looked = || -> Result<(Copied, Vec<String>), StoreError> {
        let connection = health::read_only(path)?;
        Ok((content(&connection)?, health::complaints(&connection, "integrity_check")?))
    };
    match looked() {
        Ok((copied, said)) if said.is_empty() && copied.schema <= migrations::latest() => Ok(copied),
        Ok((_, said)) if said.is_empty() => Err(StoreError::Newer),
        Ok((_, said)) => Err(damaged(said.join("; "))),
        Err(StoreError::Sqlite(why)) => Err(damaged(why.to_string())),
        Err(other) => Err(other),
    }
}

/// Files that a database names, by their hashes.
pub(super) fn named(connection: &Connection) -> Result<Vec<(Kept, String)>, StoreError> {
    let of = |kept: Kept, hashes: Vec<String>| hashes.into_iter().map(move |sha256| (kept, sha256));
    let photos = of(Kept::Photo, crate::rows::photos::hashes(connection)?);
    Ok(photos.chain(of(Kept::Trace, crate::rows::traces::hashes(connection)?)).collect())
}

fn content(connection: &Connection) -> Result<Copied, StoreError> {
    let count: i64 = connection.query_row("SELECT count(*) FROM amplifier WHERE deleted_at IS NULL", [], |row| row.get(0))?;
    Ok(Copied { schema: health::version(connection)?, amplifiers: usize::try_from(count).unwrap_or(0), files: named(connection)? })
}
