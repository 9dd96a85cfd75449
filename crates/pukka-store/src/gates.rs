//! Gates that were opened, and why.

use pukka_core::kernel::wiring::Wiring;
use pukka_core::record::session::{Gate, Mode};
use rusqlite::{Connection, Transaction};

use crate::acts::{self, Change, Entity};
use crate::codec::{Kind, Table, moment, text};
use crate::{Author, StoreError, arming, new_id, sessions, summaries};

const TABLE: Table = Table {
    name: "gate",
    what: "gate",
    columns: &[
        ("code", Kind::Text),
        ("wiring", Kind::Json),
        ("load_ohm", Kind::Real),
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

fn rows(tx: &Connection, session_id: &str) -> Result<Vec<(String, Gate)>, StoreError> {
    let sql = format!("SELECT id, {} FROM gate WHERE session_id = ? AND withdrawn_at IS NULL ORDER BY created_at, id", TABLE.list());
    let mut statement = tx.prepare_cached(&sql)?;
    let mut found = statement.query([session_id])?;
    let mut gates = Vec::new();
    while let Some(row) = found.next()? {
        gates.push((row.get(0)?, TABLE.record(row, 1)?));
    }
    Ok(gates)
}

/// Opens gates: one undo shuts them all again.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such session.
pub fn open(tx: &Transaction, author: &Author, session_id: &str, opened: &[Gate]) -> Result<(), StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    arming::none_in(tx, session_id)?;
    let author = &author.at_once();
    for gate in opened {
        let id = insert(tx, author, session_id, gate)?;
        let says = format!("opened a gate at {} Ω", pukka_core::kernel::format::ohms(gate.load_ohm.get()));
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

/// Takes back every reason and consent that is about a run, and disarms the session: nothing may start on them any more. Runs
/// that were made while they stood stay as they are. The records stay, with who took them back and why.
///
/// # Errors
/// [`StoreError::NotFound`] when nothing stands for that run.
pub fn withdraw_for(
    tx: &Transaction,
    author: &Author,
    session_id: &str,
    at: (Wiring, f64, Mode),
    by: &str,
    why: &str,
) -> Result<(), StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    let about: Vec<(String, Gate)> =
        rows(tx, session_id)?.into_iter().filter(|(_, gate)| gate.is_about(gate.code, at.0, at.1, at.2)).collect();
    if about.is_empty() {
        return Err(StoreError::NotFound { what: "open gate", id: pukka_core::kernel::format::ohms(at.1) });
    }
    let author = &author.at_once();
    for (id, gate) in about {
        tx.prepare_cached("UPDATE gate SET withdrawn_at = ?, withdrawn_by = ?, withdrawn_why = ? WHERE id = ?")?.execute((
            author.at.to_string(),
            by,
            why,
            &id,
        ))?;
        let says = format!("took back a reason at {} Ω", pukka_core::kernel::format::ohms(at.1));
        acts::record(tx, author, &Change::of(Entity::Gate, &id, &amplifier_id, 1, says), Some(&gate), None)?;
    }
    arming::disarm(tx, author, session_id, "the reason was taken back")?;
    sessions::touch(tx, author, session_id)?;
    summaries::refresh(tx, &amplifier_id)
}

pub(crate) fn set_withdrawn(tx: &Transaction, id: &str, at: Option<&str>) -> Result<(), StoreError> {
    tx.prepare_cached(
        "UPDATE gate SET withdrawn_at = ?1, withdrawn_by = CASE WHEN ?1 IS NULL THEN NULL ELSE withdrawn_by END WHERE id = ?2",
    )?
    .execute((at, id))?;
    Ok(())
}
