//! Rows of level steps as they are typed, and the run they become.

use pukka_core::plan::ladder::Place;
use pukka_core::record::session::{LevelStep, Mode};
use rusqlite::{Connection, Transaction};
use serde::{Deserialize, Serialize};

use crate::StoreError;

/// A row that was typed and is in no run yet.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct StepRow {
    /// Id.
    pub id: String,
    /// Readings.
    pub step: LevelStep,
    /// The line it was typed as.
    pub entry: String,
}

/// Rows of a place that are in no run yet, lowest level first.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection, session_id: &str, place: &Place) -> Result<Vec<StepRow>, StoreError> {
    Ok(of_session(tx, session_id)?.into_iter().filter(|(at, _)| at == place).map(|(_, row)| row).collect())
}

/// Rows of a session that are in no run yet, with their places, lowest level first.
///
/// # Errors
/// [`StoreError`].
pub fn of_session(tx: &Connection, session_id: &str) -> Result<Vec<(Place, StepRow)>, StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT id, body, entry, rung, mode FROM step_row WHERE session_id = ? AND run_id IS NULL AND dropped_at IS NULL ORDER BY seq",
    )?;
    let mut found = statement.query([session_id])?;
    let mut rows = Vec::new();
    while let Some(row) = found.next()? {
        let (body, mode): (String, String) = (row.get(1)?, row.get(4)?);
        let step = serde_json::from_str(&body).map_err(|why| StoreError::Unreadable { what: "step", why })?;
        let mode = Mode::ALL.into_iter().find(|known| known.word() == mode).ok_or(StoreError::Broken)?;
        rows.push((Place { rung: row.get(3)?, mode }, StepRow { id: row.get(0)?, step, entry: row.get(2)? }));
    }
    rows.sort_by(|a, b| a.1.step.level_db.get().total_cmp(&b.1.step.level_db.get()));
    Ok(rows)
}

/// Marks the rows of a place as part of a run.
pub(crate) fn used(tx: &Transaction, session_id: &str, place: &Place, run_id: &str) -> Result<(), StoreError> {
    tx.prepare_cached(
        "UPDATE step_row SET run_id = ? WHERE session_id = ? AND rung = ? AND mode = ? AND run_id IS NULL AND dropped_at IS NULL",
    )?
    .execute((run_id, session_id, &place.rung, place.mode.word()))?;
    Ok(())
}

/// Rows of a run that was taken back are there to be finished again.
pub(crate) fn release(tx: &Transaction, run_id: &str) -> Result<(), StoreError> {
    tx.prepare_cached("UPDATE step_row SET run_id = NULL, freed_from = ?1 WHERE run_id = ?1")?.execute([run_id])?;
    Ok(())
}

/// Rows that were freed from a run are its own again.
pub(crate) fn reclaim(tx: &Transaction, run_id: &str) -> Result<(), StoreError> {
    tx.prepare_cached("UPDATE step_row SET run_id = ?1 WHERE freed_from = ?1 AND run_id IS NULL AND dropped_at IS NULL")?
        .execute([run_id])?;
    Ok(())
}

/// Takes a row back that was just typed; the one whose place it took is there again.
pub(crate) fn undo(tx: &Transaction, id: &str, at: &str) -> Result<(), StoreError> {
    tx.prepare_cached(
        "UPDATE step_row SET dropped_at = NULL WHERE (session_id, rung, mode, dropped_at) = (SELECT session_id, rung, mode, at FROM step_row WHERE id = ?)",
    )?
    .execute([id])?;
    set_dropped(tx, id, Some(at))
}

/// Keeps a row again that was taken back; it takes the place of the one at its level, as it did at first.
pub(crate) fn redo(tx: &Transaction, id: &str) -> Result<(), StoreError> {
    set_dropped(tx, id, None)?;
    tx.prepare_cached(
        "UPDATE step_row SET dropped_at = (SELECT at FROM step_row WHERE id = ?1)
         WHERE id <> ?1 AND run_id IS NULL AND dropped_at IS NULL
           AND (session_id, rung, mode, json_extract(body, '$.level_db')) =
               (SELECT session_id, rung, mode, json_extract(body, '$.level_db') FROM step_row WHERE id = ?1)",
    )?
    .execute([id])?;
    Ok(())
}

pub(crate) fn set_dropped(tx: &Transaction, id: &str, at: Option<&str>) -> Result<(), StoreError> {
    tx.prepare_cached("UPDATE step_row SET dropped_at = ? WHERE id = ?")?.execute((at, id))?;
    Ok(())
}
