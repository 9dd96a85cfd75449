//! Gates that were opened, and why.

use pukka_core::session::Gate;
use rusqlite::{Connection, Transaction};

use crate::acts::{self, Change, Entity};
use crate::codec::{Kind, Table, moment, text};
use crate::{Author, StoreError, new_id, sessions, summaries};

const TABLE: Table = Table {
    name: "gate",
    what: "gate",
    columns: &[
        ("code", Kind::Text),
        ("wiring", Kind::Json),
        ("load_ohm", Kind::Real),
        ("mode", Kind::Text),
        ("reason", Kind::Text),
        ("by", Kind::Text),
        ("owner_consent", Kind::Json),
    ],
};

/// Open gates of a session.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection, session_id: &str) -> Result<Vec<Gate>, StoreError> {
    let sql = format!("SELECT {} FROM gate WHERE session_id = ? AND withdrawn_at IS NULL ORDER BY created_at, id", TABLE.list());
    let mut statement = tx.prepare_cached(&sql)?;
    let mut rows = statement.query([session_id])?;
    let mut gates = Vec::new();
    while let Some(row) = rows.next()? {
        gates.push(TABLE.record(row, 0)?);
    }
    Ok(gates)
}

/// Opens gates: one undo shuts them all again.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such session.
pub fn open(tx: &Transaction, author: &Author, session_id: &str, opened: &[Gate]) -> Result<(), StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    let author = &author.at_once();
    for gate in opened {
        let id = insert(tx, author, session_id, gate)?;
        let says = format!("opened a gate at {} Ω", pukka_core::format::ohms(gate.load_ohm.get()));
        acts::record(tx, author, &Change::of(Entity::Gate, &id, &amplifier_id, 1, says), None, Some(gate))?;
    }
    sessions::touch(tx, author, session_id)?;
    summaries::refresh(tx, &amplifier_id)
}

pub(crate) fn insert(tx: &Transaction, author: &Author, session_id: &str, gate: &Gate) -> Result<String, StoreError> {
    let id = new_id();
    TABLE.insert(
        tx,
        &[("id", text(&id)), ("created_at", moment(author.at)), ("who", text(&author.who)), ("session_id", text(session_id))],
        gate,
    )?;
    Ok(id)
}

pub(crate) fn withdraw(tx: &Transaction, id: &str, at: Option<&str>) -> Result<(), StoreError> {
    tx.prepare_cached("UPDATE gate SET withdrawn_at = ? WHERE id = ?")?.execute((at, id))?;
    Ok(())
}
