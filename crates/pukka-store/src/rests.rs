//! The supply between runs, as read.

use jiff::Timestamp;
use pukka_core::evidence::rest::RestReading;
use pukka_core::kernel::units::Volts;
use rusqlite::{Connection, Transaction};
use serde_json::{Value, json};

use crate::acts::{self, Change, Entity};
use crate::{Author, StoreError, sessions};

/// Keeps a rest voltage.
///
/// # Errors
/// [`StoreError`].
pub fn add(tx: &Transaction, author: &Author, session_id: &str, volts: Volts) -> Result<(), StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    tx.prepare_cached("INSERT INTO rest_reading (session_id, at, who, volts) VALUES (?, ?, ?, ?)")?.execute((
        session_id,
        author.at.to_string(),
        &author.who,
        volts.get(),
    ))?;
    let id = tx.last_insert_rowid().to_string();
    let says = format!("read {} V at rest", pukka_core::kernel::format::volts(volts.get()));
    acts::record(
        tx,
        author,
        &Change::of(Entity::RestReading, &id, &amplifier_id, 1, says),
        None::<&Value>,
        Some(&json!({ "volts": volts })),
    )
}

/// The newest rest voltages of a session, the oldest of them first: more than a rest needs.
///
/// # Errors
/// [`StoreError`].
pub fn newest(tx: &Connection, session_id: &str) -> Result<Vec<RestReading>, StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT at, volts FROM (SELECT seq, at, volts FROM rest_reading WHERE session_id = ? AND dropped_at IS NULL ORDER BY seq DESC LIMIT 400) ORDER BY seq",
    )?;
    let rows = statement.query_map([session_id], |row| Ok((row.get::<_, String>(0)?, row.get::<_, f64>(1)?)))?;
    let mut readings = Vec::new();
    for row in rows {
        let (at, volts) = row?;
        readings.extend(at.parse::<Timestamp>().ok().map(|at| RestReading { at, volts }));
    }
    Ok(readings)
}

pub(crate) fn set_dropped(tx: &Transaction, id: &str, at: Option<&str>) -> Result<(), StoreError> {
    tx.prepare_cached("UPDATE rest_reading SET dropped_at = ? WHERE seq = CAST(? AS INTEGER)")?.execute((at, id))?;
    Ok(())
}
