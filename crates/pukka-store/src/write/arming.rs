//! Arming runs: what their gates were judged on is written down, and cannot be changed while one is armed.

use pukka_core::evidence::halt::halt;
use pukka_core::plan::arm::arm as judge;
use pukka_core::plan::ladder::{Place, find};

use crate::rows::sessions;
use crate::write::WriteTx;
use crate::{Author, StoreError};

pub use crate::rows::arming::*;

/// Arms a run, in place of one that was armed before.
///
/// # Errors
/// [`StoreError::Gated`] with the gates that are still shut.
pub fn arm(tx: &WriteTx, author: &Author, session_id: &str, place: &Place) -> Result<ArmingRow, StoreError> {
    sessions::amplifier_of(tx, session_id)?;
    let row = tx.session(session_id)?;
    let session = &row.session;
    if let Some(halt) = halt(session) {
        return Err(StoreError::Halted { says: halt.says });
    }
    let rung = find(session, &place.rung).ok_or_else(|| StoreError::NotFound { what: "rung", id: place.rung.clone() })?;
    let arming = judge(session, &rung, place.mode).map_err(|gates| StoreError::Gated { gates })?;
    disarm(tx, author, session_id, "another run was armed")?;
    let body = serde_json::to_string(&arming).map_err(|why| StoreError::Unreadable { what: "arming", why })?;
    tx.prepare_cached("INSERT INTO arming (session_id, at, who, body) VALUES (?, ?, ?, ?)")?.execute((
        session_id,
        author.at.to_string(),
        &author.who,
        body,
    ))?;
    Ok(ArmingRow { at: author.at.to_string(), who: author.who.clone(), arming })
}
