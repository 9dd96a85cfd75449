//! The supply between runs, as read.

use jiff::Timestamp;
use pukka_core::evidence::rest::RestReading;
use rusqlite::{Connection, Transaction};

use crate::StoreError;

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
