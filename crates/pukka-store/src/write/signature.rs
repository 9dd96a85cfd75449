//! The reviewer's name and mark, which stand on every card.

use rusqlite::{Connection, OptionalExtension};

use crate::write::WriteTx;
use crate::{Author, StoreError};

/// Name and mark. Revision 0: none was ever given.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct SignatureRow {
    /// Revision.
    pub revision: i64,
    /// Name, nothing where there is none.
    pub name: String,
    /// Mark, as PNG.
    pub mark: Option<Vec<u8>>,
}

/// The signature there is.
///
/// # Errors
/// [`StoreError`].
pub fn get(tx: &Connection) -> Result<SignatureRow, StoreError> {
    let row = tx
        .prepare_cached("SELECT revision, name, mark FROM signature WHERE id = 1")?
        .query_row([], |row| Ok(SignatureRow { revision: row.get(0)?, name: row.get(1)?, mark: row.get(2)? }))
        .optional()?;
    Ok(row.unwrap_or_default())
}

/// Changes it.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn set(tx: &WriteTx, author: &Author, revision: i64, name: &str, mark: Option<&[u8]>) -> Result<SignatureRow, StoreError> {
    let have = get(tx)?.revision;
    if have != revision {
        return Err(StoreError::Conflict { what: "signature", wanted: revision, have });
    }
    tx.prepare_cached(
        "INSERT INTO signature (id, revision, updated_at, who, name, mark) VALUES (1, ?1, ?2, ?3, ?4, ?5)
         ON CONFLICT (id) DO UPDATE SET revision = ?1, updated_at = ?2, who = ?3, name = ?4, mark = ?5",
    )?
    .execute((revision + 1, author.at.to_string(), &author.who, name, mark))?;
    get(tx)
}
