//! Claim lines of an amplifier.

use pukka_core::record::claims::Claim;
use rusqlite::types::Value as Sql;
use rusqlite::{Connection, Transaction};
use serde::{Deserialize, Serialize};

use crate::rows::amplifiers;
use crate::rows::codec::{Kind, Table, stamps_of_change, stamps_of_new, text};
use crate::{Author, StoreError, new_id};

pub(crate) const TABLE: Table = Table {
    name: "claim",
    what: "claim",
    columns: &[
        ("source", Kind::Text),
        ("wiring", Kind::Json),
        ("setting", Kind::Text),
        ("load_ohm", Kind::Real),
        ("power_w", Kind::Real),
        ("group_power_w", Kind::Json),
        ("per", Kind::Text),
        ("kind", Kind::Text),
        ("supply_v", Kind::Real),
        ("thd_limit_ratio", Kind::Real),
        ("tone_hz", Kind::Real),
        ("used", Kind::Bool),
    ],
};

/// A claim as it is kept.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct ClaimRow {
    /// Id; the record carries the same.
    pub id: String,
    /// Revision.
    pub revision: i64,
    /// The line.
    pub claim: Claim,
}

/// Claims of an amplifier, in the order they were entered.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection, amplifier_id: &str) -> Result<Vec<ClaimRow>, StoreError> {
    select(tx, "amplifier_id = ? AND deleted_at IS NULL ORDER BY position, id", amplifier_id)
}

/// The claim with this id, and the amplifier it belongs to.
///
/// # Errors
/// [`StoreError::NotFound`] when there is none, or it or its amplifier was deleted.
pub fn get(tx: &Connection, id: &str) -> Result<(ClaimRow, String), StoreError> {
    TABLE.revision(tx, id)?;
    let amplifier_id: String = tx.prepare_cached("SELECT amplifier_id FROM claim WHERE id = ?")?.query_row([id], |row| row.get(0))?;
    amplifiers::TABLE.revision(tx, &amplifier_id)?;
    let row = select(tx, "id = ?", id)?.pop().ok_or_else(|| StoreError::NotFound { what: TABLE.what, id: id.to_owned() })?;
    Ok((row, amplifier_id))
}

pub(crate) fn select(tx: &Connection, condition: &str, id: &str) -> Result<Vec<ClaimRow>, StoreError> {
    let sql = format!("SELECT id, revision, {} FROM claim WHERE {condition}", TABLE.list());
    let mut statement = tx.prepare_cached(&sql)?;
    let mut rows = statement.query([id])?;
    let mut claims = Vec::new();
    while let Some(row) = rows.next()? {
        let id: String = row.get(0)?;
        let mut claim: Claim = TABLE.record(row, 2)?;
        claim.id.clone_from(&id);
        claims.push(ClaimRow { id, revision: row.get(1)?, claim });
    }
    Ok(claims)
}

/// Keeps the line alone, without an act.
pub(crate) fn insert_bare(tx: &Transaction, author: &Author, amplifier_id: &str, claim: &Claim) -> Result<String, StoreError> {
    let id = new_id();
    let position: i64 = tx
        .prepare_cached("SELECT coalesce(max(position), 0) + 1 FROM claim WHERE amplifier_id = ?")?
        .query_row([amplifier_id], |r| r.get(0))?;
    let mut beside = stamps_of_new(&id, author);
    beside.extend([("amplifier_id", text(amplifier_id)), ("position", Sql::Integer(position))]);
    TABLE.insert(tx, &beside, &without_id(claim))?;
    Ok(id)
}

pub(crate) fn put(tx: &Transaction, author: &Author, id: &str, revision: i64, claim: &Claim) -> Result<(), StoreError> {
    TABLE.update(tx, id, &stamps_of_change(revision, author), &without_id(claim))
}

/// The id is the table's own column, not one of the record's.
pub(crate) fn without_id(claim: &Claim) -> serde_json::Value {
    let mut value = serde_json::to_value(claim).unwrap_or_default();
    if let Some(fields) = value.as_object_mut() {
        fields.remove("id");
    }
    value
}
