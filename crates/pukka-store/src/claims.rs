//! Claim lines of an amplifier.

use pukka_core::record::claims::Claim;
use rusqlite::types::Value as Sql;
use rusqlite::{Connection, Transaction};
use serde::{Deserialize, Serialize};

use crate::acts::{self, Change, Entity};
use crate::codec::{Kind, Table, stamps_of_change, stamps_of_new, text};
use crate::{Author, StoreError, amplifiers, arming, new_id, summaries};

pub(crate) const TABLE: Table = Table {
    name: "claim",
    what: "claim",
    columns: &[
        ("source", Kind::Text),
        ("wiring", Kind::Json),
        ("setting", Kind::Text),
        ("load_ohm", Kind::Real),
        ("power_w", Kind::Real),
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
    /// Its id; the record carries the same.
    pub id: String,
    /// Its revision.
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

fn select(tx: &Connection, condition: &str, id: &str) -> Result<Vec<ClaimRow>, StoreError> {
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

/// Adds a claim line behind the others.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn create(tx: &Transaction, author: &Author, amplifier_id: &str, claim: &Claim) -> Result<ClaimRow, StoreError> {
    amplifiers::TABLE.revision(tx, amplifier_id)?;
    arming::none_of(tx, amplifier_id)?;
    let id = insert_bare(tx, author, amplifier_id, claim)?;
    acts::record(tx, author, &Change::of(Entity::Claim, &id, amplifier_id, 1, "added a claim".into()), None, Some(claim))?;
    summaries::refresh(tx, amplifier_id)?;
    Ok(get(tx, &id)?.0)
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

/// Adds several claim lines: one undo takes them all back.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn create_all(tx: &Transaction, author: &Author, amplifier_id: &str, claims: &[Claim]) -> Result<Vec<ClaimRow>, StoreError> {
    let author = author.at_once();
    claims.iter().map(|claim| create(tx, &author, amplifier_id, claim)).collect()
}

/// Changes a claim line.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn update(tx: &Transaction, author: &Author, id: &str, revision: i64, claim: &Claim) -> Result<ClaimRow, StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    let (before, amplifier_id) = get(tx, id)?;
    arming::none_of(tx, &amplifier_id)?;
    put(tx, author, id, revision + 1, claim)?;
    let change = Change::of(Entity::Claim, id, &amplifier_id, revision + 1, "changed a claim".into());
    acts::record(tx, author, &change, Some(&before.claim), Some(claim))?;
    summaries::refresh(tx, &amplifier_id)?;
    Ok(get(tx, id)?.0)
}

/// Marks one of several claims of one thing as the one the verdict uses; one undo takes it back.
///
/// # Errors
/// [`StoreError::NotFound`] when one of them is not there, or is another amplifier's.
pub fn choose(tx: &Transaction, author: &Author, id: &str, instead_of: &[String]) -> Result<(), StoreError> {
    let author = author.at_once();
    let (_, amplifier_id) = get(tx, id)?;
    for (line, used) in instead_of.iter().map(|other| (other.as_str(), false)).chain([(id, true)]) {
        let (row, owner) = get(tx, line)?;
        if owner != amplifier_id {
            return Err(StoreError::NotFound { what: TABLE.what, id: line.to_owned() });
        }
        if row.claim.used != used {
            update(tx, &author, line, row.revision, &Claim { used, ..row.claim })?;
        }
    }
    Ok(())
}

/// Removes a claim line; undo brings it back.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn delete(tx: &Transaction, author: &Author, id: &str, revision: i64) -> Result<(), StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    let (before, amplifier_id) = get(tx, id)?;
    arming::none_of(tx, &amplifier_id)?;
    TABLE.set_deleted(tx, id, Some(&author.at.to_string()))?;
    let change = Change::of(Entity::Claim, id, &amplifier_id, revision + 1, "removed a claim".into());
    acts::record(tx, author, &change, Some(&before.claim), None::<&Claim>)?;
    summaries::refresh(tx, &amplifier_id)
}

pub(crate) fn put(tx: &Transaction, author: &Author, id: &str, revision: i64, claim: &Claim) -> Result<(), StoreError> {
    TABLE.update(tx, id, &stamps_of_change(revision, author), &without_id(claim))
}

/// The id is the table's own column, not one of the record's.
fn without_id(claim: &Claim) -> serde_json::Value {
    let mut value = serde_json::to_value(claim).unwrap_or_default();
    if let Some(fields) = value.as_object_mut() {
        fields.remove("id");
    }
    value
}
