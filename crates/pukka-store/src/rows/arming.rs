//! Arming runs: what their gates were judged on is written down, and cannot be changed while one is armed.

use pukka_core::plan::arm::Arming;
use rusqlite::{Connection, OptionalExtension, Transaction};
use serde::{Deserialize, Serialize};

use crate::{Author, StoreError};

/// A run that is armed now.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct ArmingRow {
    /// Since when.
    pub at: String,
    /// By whom.
    pub who: String,
    /// The one meant, and what it was judged on.
    pub arming: Arming,
}

/// The run that is armed in a session.
///
/// # Errors
/// [`StoreError`].
pub fn armed(tx: &Connection, session_id: &str) -> Result<Option<ArmingRow>, StoreError> {
    let row: Option<(String, String, String)> = tx
        .prepare_cached("SELECT at, who, body FROM arming WHERE session_id = ? AND ended_at IS NULL ORDER BY seq DESC LIMIT 1")?
        .query_row([session_id], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?)))
        .optional()?;
    row.map(|(at, who, body)| {
        let arming = serde_json::from_str(&body).map_err(|why| StoreError::Unreadable { what: "arming", why })?;
        Ok(ArmingRow { at, who, arming })
    })
    .transpose()
}

/// Ends the arming of a session, whatever was armed.
///
/// # Errors
/// [`StoreError`].
pub fn disarm(tx: &Transaction, author: &Author, session_id: &str, why: &str) -> Result<(), StoreError> {
    tx.prepare_cached("UPDATE arming SET ended_at = ?, ended_by = ? WHERE session_id = ? AND ended_at IS NULL")?.execute((
        author.at.to_string(),
        why,
        session_id,
    ))?;
    Ok(())
}

/// Ends the arming of every session of an amplifier.
pub(crate) fn disarm_of(tx: &Transaction, author: &Author, amplifier_id: &str, why: &str) -> Result<(), StoreError> {
    tx.prepare_cached("UPDATE arming SET ended_at = ?, ended_by = ? WHERE ended_at IS NULL AND session_id IN (SELECT id FROM session WHERE amplifier_id = ?)")?
        .execute((author.at.to_string(), why, amplifier_id))?;
    Ok(())
}

/// A program that starts finds nothing armed.
pub(crate) fn disarm_all(tx: &Transaction) -> Result<(), StoreError> {
    tx.execute("UPDATE arming SET ended_at = at, ended_by = 'the program was started again' WHERE ended_at IS NULL", [])?;
    Ok(())
}

/// Refuses a change of what a gate was judged on while a run of the session is armed.
pub(crate) fn none_in(tx: &Connection, session_id: &str) -> Result<(), StoreError> {
    match armed(tx, session_id)? {
        Some(armed) => Err(StoreError::Armed { says: armed.arming.says }),
        None => Ok(()),
    }
}

/// Likewise, of any session of an amplifier.
pub(crate) fn none_of(tx: &Connection, amplifier_id: &str) -> Result<(), StoreError> {
    let session: Option<String> = tx
        .prepare_cached("SELECT a.session_id FROM arming a JOIN session s ON s.id = a.session_id WHERE s.amplifier_id = ? AND a.ended_at IS NULL LIMIT 1")?
        .query_row([amplifier_id], |row| row.get(0))
        .optional()?;
    session.map_or(Ok(()), |id| none_in(tx, &id))
}
