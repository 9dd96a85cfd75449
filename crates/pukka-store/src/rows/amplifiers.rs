//! Amplifiers: each with a session of its own from the start.

use pukka_core::record::amplifier::Amplifier;
use rusqlite::{Connection, Transaction};
use serde::{Deserialize, Serialize};

use crate::rows::codec::{Kind, Table, stamps_of_change, stamps_of_new};
use crate::{Author, StoreError, new_id};

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
        ("signal_to_noise_db", Kind::Real),
        ("printed_thd_ratio", Kind::Real),
        ("accessories", Kind::Json),
        ("accessories_missing", Kind::Json),
        ("tour", Kind::Json),
        ("likes", Kind::Json),
        ("consider", Kind::Json),
        ("relations", Kind::Json),
        ("prices", Kind::Json),
        ("condition", Kind::Json),
        ("loan", Kind::Json),
        ("inside", Kind::Json),
        ("notes", Kind::Text),
        ("tags", Kind::Json),
        ("archived", Kind::Bool),
    ],
};

/// The session in hand of the amplifier `a` of a query: the one that was taken in hand last. Triggers keep it.
pub(crate) const IN_HAND: &str = "a.session_in_hand";

/// An amplifier as it is kept.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct AmplifierRow {
    /// Id.
    pub id: String,
    /// Revision.
    pub revision: i64,
    /// The record.
    pub amplifier: Amplifier,
    /// Session in hand.
    pub session_id: String,
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
    let sql = format!("SELECT a.revision, ({IN_HAND}), {} FROM amplifier a WHERE a.id = ? AND a.deleted_at IS NULL", TABLE.list());
    let mut statement = tx.prepare_cached(&sql)?;
    let mut rows = statement.query([id])?;
    let row = rows.next()?.ok_or_else(|| StoreError::NotFound { what: TABLE.what, id: id.to_owned() })?;
    Ok(AmplifierRow { id: id.to_owned(), revision: row.get(0)?, session_id: row.get(1)?, amplifier: TABLE.record(row, 2)? })
}

pub(crate) fn put(tx: &Transaction, author: &Author, id: &str, revision: i64, amplifier: &Amplifier) -> Result<(), StoreError> {
    TABLE.update(tx, id, &stamps_of_change(revision, author), amplifier)
}
