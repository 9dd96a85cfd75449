//! Remarks on runs: a reading struck, a check accepted. Rows beside the run, which stays as it was read.

use rusqlite::OptionalExtension;
use serde_json::json;

use crate::rows::sessions;
use crate::write::WriteTx;
use crate::write::journal::{self, Change, Entity};
use crate::{Author, StoreError};

pub use crate::rows::remarks::*;

/// Puts a remark on a run.
///
/// # Errors
/// [`StoreError::NotFound`] when the session has no such run.
pub fn add(tx: &WriteTx, author: &Author, session_id: &str, run_id: &str, remark: &Remark) -> Result<(), StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    put(tx, author, &amplifier_id, session_id, run_id, remark)?;
    sessions::touch(tx, author, session_id)?;
    tx.touched(&amplifier_id);
    Ok(())
}

/// Puts a remark on a run; the summary is made by whoever is done with all of them.
pub(crate) fn put(
    tx: &WriteTx,
    author: &Author,
    amplifier_id: &str,
    session_id: &str,
    run_id: &str,
    remark: &Remark,
) -> Result<(), StoreError> {
    let here: Option<i64> = tx
        .prepare_cached("SELECT 1 FROM run WHERE id = ? AND session_id = ?")?
        .query_row([run_id, session_id], |row| row.get(0))
        .optional()?;
    here.ok_or_else(|| StoreError::NotFound { what: "run", id: run_id.to_owned() })?;
    set(tx, author, run_id, remark, true)?;
    let says = match remark.kind {
        Kind::Strike => format!("struck {}", remark.what),
        Kind::Accept => format!("accepted {}", remark.what),
        Kind::Note => "noted something on a run".to_owned(),
    };
    journal::record(tx, author, &Change::of(Entity::Remark, run_id, amplifier_id, 1, says), None, Some(&json!(remark)))
}
