//! Rows of level steps as they are typed, and the run they become.

use pukka_core::plan::ladder::Place;
use pukka_core::record::session::LevelStep;
use serde_json::{Value, json};

use crate::rows::sessions;
use crate::write::WriteTx;
use crate::write::journal::{self, Change, Entity};
use crate::{Author, StoreError, new_id};

pub use crate::rows::steps::*;

/// Keeps a row. A second one at the same level takes the place of the first, which stays in the records.
///
/// # Errors
/// [`StoreError`].
pub fn add(tx: &WriteTx, author: &Author, session_id: &str, place: &Place, step: &LevelStep, entry: &str) -> Result<String, StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    for old in list(tx, session_id, place)?.iter().filter(|old| (old.step.level_db.get() - step.level_db.get()).abs() < 1e-9) {
        set_dropped(tx, &old.id, Some(&author.at.to_string()))?;
    }
    let id = new_id();
    let body = serde_json::to_string(step).map_err(|why| StoreError::Unreadable { what: "step", why })?;
    tx.prepare_cached("INSERT INTO step_row (id, session_id, rung, mode, at, who, entry, body) VALUES (?, ?, ?, ?, ?, ?, ?, ?)")?
        .execute((&id, session_id, &place.rung, place.mode.word(), author.at.to_string(), &author.who, entry, body))?;
    let says = format!("logged the step at {} dB", pukka_core::kernel::format::as_read(step.level_db.get()));
    journal::record(tx, author, &Change::of(Entity::Step, &id, &amplifier_id, 1, says), None::<&Value>, Some(&json!({ "entry": entry })))?;
    sessions::touch(tx, author, session_id)?;
    Ok(id)
}
