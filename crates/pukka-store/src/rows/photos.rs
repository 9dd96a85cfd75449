//! Photos of an amplifier: the record here, the file beside the database under the hash of what is in it.

use pukka_core::record::amplifier::PhotoWords;
use rusqlite::{Connection, Transaction};
use serde::{Deserialize, Serialize};

use crate::rows::codec::{Kind, Table, stamps_of_change};
use crate::{Author, StoreError};

pub(crate) const TABLE: Table = Table {
    name: "photo",
    what: "photo",
    columns: &[
        ("sha256", Kind::Text),
        ("width_px", Kind::Int),
        ("height_px", Kind::Int),
        ("bytes", Kind::Int),
        ("caption", Kind::Text),
        ("marks", Kind::Json),
        ("run_id", Kind::Text),
        ("on_sheet", Kind::Bool),
    ],
};

/// A photo, as it was encoded again.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Photo {
    /// Hash of the file, by which it is named.
    pub sha256: String,
    /// Width.
    pub width_px: u32,
    /// Height.
    pub height_px: u32,
    /// Size.
    pub bytes: u64,
    /// Everything that is said of it.
    #[serde(flatten)]
    pub words: PhotoWords,
}

/// A photo as it is kept.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct PhotoRow {
    /// Id.
    pub id: String,
    /// Revision.
    pub revision: i64,
    /// The record.
    pub photo: Photo,
}

/// The most photos of one amplifier.
pub const MOST: usize = 60;

/// Photos of an amplifier, in the order they were added.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection, amplifier_id: &str) -> Result<Vec<PhotoRow>, StoreError> {
    select(tx, "amplifier_id = ? AND deleted_at IS NULL ORDER BY created_at, id", amplifier_id)
}

/// Hashes of every photo's file, removed photos too: undo brings them back.
pub(crate) fn hashes(tx: &Connection) -> Result<Vec<String>, StoreError> {
    let mut statement = tx.prepare("SELECT DISTINCT sha256 FROM photo ORDER BY sha256")?;
    let found = statement.query_map([], |row| row.get(0))?.collect::<Result<_, _>>()?;
    Ok(found)
}

/// The photo with this id.
///
/// # Errors
/// [`StoreError::NotFound`] when there is none, or it was deleted.
pub fn get(tx: &Connection, id: &str) -> Result<PhotoRow, StoreError> {
    let not_found = || StoreError::NotFound { what: TABLE.what, id: id.to_owned() };
    select(tx, "id = ? AND deleted_at IS NULL", id)?.pop().ok_or_else(not_found)
}

pub(crate) fn select(tx: &Connection, condition: &str, id: &str) -> Result<Vec<PhotoRow>, StoreError> {
    let sql = format!("SELECT id, revision, {} FROM photo WHERE {condition}", TABLE.list());
    let mut statement = tx.prepare_cached(&sql)?;
    let mut rows = statement.query([id])?;
    let mut photos = Vec::new();
    while let Some(row) = rows.next()? {
        photos.push(PhotoRow { id: row.get(0)?, revision: row.get(1)?, photo: TABLE.record(row, 2)? });
    }
    Ok(photos)
}

pub(crate) fn amplifier_of(tx: &Connection, id: &str) -> Result<String, StoreError> {
    Ok(tx.prepare_cached("SELECT amplifier_id FROM photo WHERE id = ?")?.query_row([id], |row| row.get(0))?)
}

pub(crate) fn put(tx: &Transaction, author: &Author, id: &str, revision: i64, photo: &Photo) -> Result<(), StoreError> {
    TABLE.update(tx, id, &stamps_of_change(revision, author), photo)
}
