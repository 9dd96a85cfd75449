//! Bench profiles: the bench as it stands now. A session keeps a copy, as it was.

use pukka_core::record::bench::BenchProfile;
use rusqlite::{Connection, OptionalExtension};
use serde::{Deserialize, Serialize};

use crate::StoreError;
use crate::rows::codec::{Kind, Table};

pub(crate) const TABLE: Table = Table {
    name: "bench_profile",
    what: "bench",
    columns: &[
        ("name", Kind::Text),
        ("supply", Kind::Json),
        ("loads", Kind::Json),
        ("step_box_ohm", Kind::Json),
        ("meters", Kind::Json),
        ("leads", Kind::Json),
    ],
};

/// A bench as it is kept.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct BenchRow {
    /// Id.
    pub id: String,
    /// Revision.
    pub revision: i64,
    /// The record.
    pub profile: BenchProfile,
    /// Sessions on it.
    pub sessions: u32,
}

pub(crate) const COUNT: &str = "(SELECT count(*) FROM session s JOIN amplifier a ON a.id = s.amplifier_id
    WHERE s.bench_profile_id = bench_profile.id AND s.deleted_at IS NULL AND a.deleted_at IS NULL)";

/// Every bench, by name.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection) -> Result<Vec<BenchRow>, StoreError> {
    select(tx, "deleted_at IS NULL ORDER BY name, id", "")
}

/// The bench with this id.
///
/// # Errors
/// [`StoreError::NotFound`] when there is none, or it was deleted.
pub fn get(tx: &Connection, id: &str) -> Result<BenchRow, StoreError> {
    let not_found = || StoreError::NotFound { what: TABLE.what, id: id.to_owned() };
    select(tx, "deleted_at IS NULL AND id = ?1", id)?.pop().ok_or_else(not_found)
}

pub(crate) fn select(tx: &Connection, condition: &str, id: &str) -> Result<Vec<BenchRow>, StoreError> {
    // The condition may not use the id; a bound value that is not used is no error this way.
    let sql = format!("SELECT id, revision, {COUNT}, {} FROM bench_profile WHERE (?1 = ?1) AND {condition}", TABLE.list());
    let mut statement = tx.prepare_cached(&sql)?;
    let mut rows = statement.query([id])?;
    let mut found = Vec::new();
    while let Some(row) = rows.next()? {
        found.push(BenchRow { id: row.get(0)?, revision: row.get(1)?, sessions: row.get(2)?, profile: TABLE.record(row, 3)? });
    }
    Ok(found)
}

/// The bench last worked on, else the only one there is: a new session stands on it.
pub(crate) fn in_hand(tx: &Connection) -> Result<Option<BenchRow>, StoreError> {
    let id: Option<String> = tx
        .prepare_cached(
            "SELECT b.id FROM bench_profile b LEFT JOIN session s ON s.bench_profile_id = b.id WHERE b.deleted_at IS NULL
             ORDER BY max(coalesce(s.updated_at, ''), b.updated_at) DESC, b.id LIMIT 1",
        )?
        .query_row([], |row| row.get(0))
        .optional()?;
    id.map(|id| get(tx, &id)).transpose()
}
