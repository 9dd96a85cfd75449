//! Gates that were opened, and why.

use pukka_core::record::session::Gate;
use rusqlite::types::Value as Sql;
use rusqlite::{Connection, Transaction};

use crate::rows::codec::{Kind, Table, moment, text};
use crate::{Author, StoreError, new_id};

pub(crate) const TABLE: Table = Table {
    name: "gate",
    what: "gate",
    columns: &[
        ("code", Kind::Text),
        ("wiring", Kind::Json),
        ("load_ohm", Kind::Real),
        ("setting", Kind::Text),
        ("tone_hz", Kind::Real),
        ("mode", Kind::Text),
        ("reason", Kind::Text),
        ("second_reason", Kind::Text),
        ("by", Kind::Text),
        ("owner_consent", Kind::Json),
    ],
};

/// Open gates of a session.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection, session_id: &str) -> Result<Vec<Gate>, StoreError> {
    Ok(rows(tx, session_id)?.into_iter().map(|(_, gate)| gate).collect())
}

pub(crate) fn rows(tx: &Connection, session_id: &str) -> Result<Vec<(String, Gate)>, StoreError> {
    let sql =
        format!("SELECT id, from_file, {} FROM gate WHERE session_id = ? AND withdrawn_at IS NULL ORDER BY created_at, id", TABLE.list());
    let mut statement = tx.prepare_cached(&sql)?;
    let mut found = statement.query([session_id])?;
    let mut gates = Vec::new();
    while let Some(row) = found.next()? {
        let mut gate: Gate = TABLE.record(row, 2)?;
        gate.from_file = row.get(1)?;
        gates.push((row.get(0)?, gate));
    }
    Ok(gates)
}

pub(crate) fn insert(tx: &Transaction, author: &Author, session_id: &str, gate: &Gate) -> Result<String, StoreError> {
    let id = new_id();
    TABLE.insert(
        tx,
        &[
            ("id", text(&id)),
            ("created_at", moment(author.at)),
            ("who", text(&author.who)),
            ("session_id", text(session_id)),
            ("from_file", Sql::Integer(i64::from(gate.from_file))),
        ],
        gate,
    )?;
    Ok(id)
}

pub(crate) fn set_withdrawn(tx: &Transaction, id: &str, at: Option<&str>) -> Result<(), StoreError> {
    tx.prepare_cached(
        "UPDATE gate SET withdrawn_at = ?1, withdrawn_by = CASE WHEN ?1 IS NULL THEN NULL ELSE withdrawn_by END WHERE id = ?2",
    )?
    .execute((at, id))?;
    Ok(())
}
