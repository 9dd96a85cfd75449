//! Amplifiers: each with a session of its own from the start.

use pukka_core::record::amplifier::Amplifier;
use pukka_core::report::summary::Summary;
use rusqlite::{Connection, Transaction};
use serde::{Deserialize, Serialize};

use crate::acts::{self, Change, Entity};
use crate::codec::{Kind, Table, stamps_of_change, stamps_of_new};
use crate::{Author, StoreError, arming, benches, new_id, sessions, summaries};

pub(crate) const TABLE: Table = Table {
    name: "amplifier",
    what: "amplifier",
    columns: &[
        ("make", Kind::Text),
        ("model", Kind::Text),
        ("class", Kind::Text),
        ("purpose", Kind::Text),
        ("supply_type", Kind::Text),
        ("channels", Kind::Int),
        ("fuses_a", Kind::Json),
        ("recommended_fuse_a", Kind::Real),
        ("output_fuses_a", Kind::Json),
        ("max_supply_v", Kind::Real),
        ("topology", Kind::Text),
        ("floors", Kind::Json),
        ("price", Kind::Json),
        ("provenance", Kind::Text),
        ("serial", Kind::Text),
        ("year", Kind::Int),
        ("inputs", Kind::Json),
        ("controls", Kind::Json),
        ("terminals", Kind::Json),
        ("size", Kind::Json),
        ("weight_kg", Kind::Real),
        ("accessories", Kind::Json),
        ("condition", Kind::Json),
        ("loan", Kind::Json),
        ("inside", Kind::Json),
        ("notes", Kind::Text),
    ],
};

/// An amplifier as it is kept.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct AmplifierRow {
    /// Its id.
    pub id: String,
    /// Its revision.
    pub revision: i64,
    /// The record.
    pub amplifier: Amplifier,
    /// Its session in hand: the newest.
    pub session_id: String,
}

/// A line of the shelf.
#[derive(Debug, Clone, PartialEq)]
pub struct ShelfRow {
    /// Its id.
    pub id: String,
    /// When it was last changed.
    pub updated_at: String,
    /// How it stands.
    pub summary: Summary,
}

/// Adds an amplifier and opens a session for it.
///
/// # Errors
/// [`StoreError`].
pub fn create(tx: &Transaction, author: &Author, amplifier: &Amplifier) -> Result<AmplifierRow, StoreError> {
    let id = insert_bare(tx, author, amplifier)?;
    let mut session = pukka_core::record::session::Session::new(amplifier.clone());
    let profile = benches::in_hand(tx)?;
    if let Some(profile) = &profile {
        session.bench = profile.profile.bench();
    }
    sessions::create(tx, author, &id, &session, profile.as_ref().map(|profile| profile.id.as_str()))?;
    acts::record(tx, author, &Change::of(Entity::Amplifier, &id, &id, 1, format!("added {}", amplifier.name())), None, Some(amplifier))?;
    summaries::refresh(tx, &id)?;
    get(tx, &id)
}

/// Keeps the record alone, without a session and without an act.
pub(crate) fn insert_bare(tx: &Transaction, author: &Author, amplifier: &Amplifier) -> Result<String, StoreError> {
    let id = new_id();
    TABLE.insert(tx, &stamps_of_new(&id, author), amplifier)?;
    Ok(id)
}

/// The amplifier with this id.
///
/// # Errors
/// [`StoreError::NotFound`] when there is none, or it was deleted.
pub fn get(tx: &Connection, id: &str) -> Result<AmplifierRow, StoreError> {
    let sql = format!(
        "SELECT revision, (SELECT s.id FROM session s WHERE s.amplifier_id = amplifier.id AND s.deleted_at IS NULL
                           ORDER BY s.created_at DESC, s.id DESC LIMIT 1), {}
         FROM amplifier WHERE id = ? AND deleted_at IS NULL",
        TABLE.list()
    );
    let mut statement = tx.prepare_cached(&sql)?;
    let mut rows = statement.query([id])?;
    let row = rows.next()?.ok_or_else(|| StoreError::NotFound { what: TABLE.what, id: id.to_owned() })?;
    Ok(AmplifierRow { id: id.to_owned(), revision: row.get(0)?, session_id: row.get(1)?, amplifier: TABLE.record(row, 2)? })
}

/// Every amplifier on the shelf, the one last worked on first. Reads summaries only.
///
/// # Errors
/// [`StoreError`].
pub fn shelf(tx: &Connection) -> Result<Vec<ShelfRow>, StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT a.id, max(a.updated_at, s.updated_at), y.body
         FROM amplifier a
         JOIN session s ON s.amplifier_id = a.id AND s.deleted_at IS NULL
         JOIN summary y ON y.session_id = s.id
         WHERE a.deleted_at IS NULL
           AND s.id = (SELECT n.id FROM session n WHERE n.amplifier_id = a.id AND n.deleted_at IS NULL ORDER BY n.created_at DESC, n.id DESC LIMIT 1)
         ORDER BY 2 DESC, a.id DESC",
    )?;
    let mut rows = statement.query([])?;
    let mut shelf = Vec::new();
    while let Some(row) = rows.next()? {
        let body: String = row.get(2)?;
        let summary = serde_json::from_str(&body).map_err(|why| StoreError::Unreadable { what: "summary", why })?;
        shelf.push(ShelfRow { id: row.get(0)?, updated_at: row.get(1)?, summary });
    }
    Ok(shelf)
}

/// Changes an amplifier.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn update(tx: &Transaction, author: &Author, id: &str, revision: i64, amplifier: &Amplifier) -> Result<AmplifierRow, StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    arming::none_of(tx, id)?;
    let before = get(tx, id)?.amplifier;
    put(tx, author, id, revision + 1, amplifier)?;
    let change = Change::of(Entity::Amplifier, id, id, revision + 1, format!("changed {}", before.name()));
    acts::record(tx, author, &change, Some(&before), Some(amplifier))?;
    summaries::refresh(tx, id)?;
    get(tx, id)
}

/// Deletes an amplifier: it leaves the shelf with all that goes with it, and undo brings it back.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn delete(tx: &Transaction, author: &Author, id: &str, revision: i64) -> Result<(), StoreError> {
    TABLE.expect_revision(tx, id, revision)?;
    let before = get(tx, id)?.amplifier;
    TABLE.set_deleted(tx, id, Some(&author.at.to_string()))?;
    let change = Change::of(Entity::Amplifier, id, id, revision + 1, format!("deleted {}", before.name()));
    acts::record(tx, author, &change, Some(&before), None::<&Amplifier>)
}

pub(crate) fn put(tx: &Transaction, author: &Author, id: &str, revision: i64, amplifier: &Amplifier) -> Result<(), StoreError> {
    TABLE.update(tx, id, &stamps_of_change(revision, author), amplifier)
}
