//! A look at the database before anything is written to it.

use std::fs;
use std::path::Path;

use rusqlite::{Connection, OpenFlags};

use crate::{StoreError, migrations};

/// The database's file in a data folder.
pub const DATABASE: &str = "pukka.sqlite";
/// Complaints that are shown of a damaged database.
const MOST_SAID: usize = 5;

/// State of a database.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Health {
    /// It can be written to.
    Sound,
    /// Damaged, in SQLite's words: it is read, and never written to.
    Damaged(Vec<String>),
}

/// Refuses a folder that lost its database: photos or copies without records are no new shelf.
pub fn not_emptied(folder: &Path) -> Result<(), StoreError> {
    let length = |name: &str| fs::metadata(folder.join(name)).map_or(0, |meta| meta.len());
    let has_any = |name: &str| fs::read_dir(folder.join(name)).is_ok_and(|mut entries| entries.next().is_some());
    let moved = fs::read_dir(folder)
        .is_ok_and(|entries| entries.flatten().any(|entry| entry.file_name().to_string_lossy().starts_with("before-restore-")));
    let beside = [
        ("what a restore moved aside", moved),
        ("photos", has_any("photos")),
        ("backups", has_any("backups")),
        ("a write-ahead log", length("pukka.sqlite-wal") > 0),
    ];
    match beside.iter().find(|(_, is_there)| *is_there) {
        Some((what, _)) if length(DATABASE) == 0 => {
            Err(StoreError::Emptied { folder: folder.display().to_string(), what: (*what).to_owned() })
        }
        _ => Ok(()),
    }
}

/// Looks at a database: its version, and its pages. An empty file is a new one.
pub fn look(path: &Path) -> Result<Health, StoreError> {
    if fs::metadata(path).map_or(0, |meta| meta.len()) == 0 {
        return Ok(Health::Sound);
    }
    let connection = read_only(path)?;
    let found = version(&connection)
        .and_then(|version| if version > migrations::latest() { Err(StoreError::Newer) } else { complaints(&connection, "quick_check") });
    match found {
        Ok(said) if said.is_empty() => Ok(Health::Sound),
        Ok(said) => Ok(Health::Damaged(said)),
        Err(StoreError::Sqlite(why)) if is_damage(&why) => Ok(Health::Damaged(vec![why.to_string()])),
        Err(other) => Err(other),
    }
}

/// Version of the schema.
pub fn version(connection: &Connection) -> Result<usize, StoreError> {
    Ok(usize::try_from(connection.pragma_query_value(None, "user_version", |row| row.get::<_, i64>(0))?).unwrap_or(usize::MAX))
}

/// Complaints of `quick_check` or `integrity_check`; none when it is sound.
pub fn complaints(connection: &Connection, pragma: &str) -> Result<Vec<String>, StoreError> {
    let mut statement = connection.prepare(&format!("PRAGMA {pragma}({MOST_SAID})"))?;
    let mut said: Vec<String> = statement.query_map([], |row| row.get(0))?.collect::<Result<_, _>>()?;
    said.retain(|line| line != "ok");
    Ok(said)
}

/// Whether SQLite says that the file itself is no longer what it wrote.
pub fn is_damage(why: &rusqlite::Error) -> bool {
    matches!(why.sqlite_error_code(), Some(rusqlite::ErrorCode::DatabaseCorrupt | rusqlite::ErrorCode::NotADatabase))
}

/// Opens a database to read it, and nothing else.
pub fn read_only(path: &Path) -> Result<Connection, StoreError> {
    let connection = Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX)?;
    connection.busy_timeout(std::time::Duration::from_secs(5))?;
    Ok(connection)
}
