//! Gates that were opened, and why.

use pukka_core::evidence::rungs::RungId;
use pukka_core::plan::opening::is_about;
use pukka_core::record::session::{Gate, Mode};

use crate::rows::{arming, sessions};
use crate::write::WriteTx;
use crate::write::journal::{self, Change, Entity};
use crate::{Author, StoreError};

pub use crate::rows::gates::*;

/// Opens gates: one undo shuts them all again.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such session.
pub fn open(tx: &WriteTx, author: &Author, session_id: &str, opened: &[Gate]) -> Result<(), StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    arming::none_in(tx, session_id)?;
    let author = &author.at_once();
    for gate in opened {
        let id = insert(tx, author, session_id, gate)?;
        let says = format!("opened a gate at {} Ω", pukka_core::kernel::format::ohms(gate.load_ohm.get()));
        journal::record(tx, author, &Change::of(Entity::Gate, &id, &amplifier_id, 1, says), None, Some(gate))?;
    }
    sessions::touch(tx, author, session_id)?;
    tx.touched(&amplifier_id);
    Ok(())
}

/// Takes back every reason and consent that is about a run, and disarms the session: nothing may start on them any more. Runs
/// that were made while they stood stay as they are. The records stay, with who took them back and why.
///
/// # Errors
/// [`StoreError::NotFound`] when nothing stands for that run.
pub fn withdraw_for(tx: &WriteTx, author: &Author, session_id: &str, at: (&RungId, Mode), by: &str, why: &str) -> Result<(), StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    let session = &tx.session(session_id)?.session;
    let here = |gate: &Gate| !gate.from_file && is_about(session, gate, gate.code, at.0, at.1);
    let about: Vec<(String, Gate)> = rows(tx, session_id)?.into_iter().filter(|(_, gate)| here(gate)).collect();
    let load = pukka_core::kernel::format::ohms(at.0.load_ohm.get());
    if about.is_empty() {
        return Err(StoreError::NotFound { what: "open gate", id: load });
    }
    let author = &author.at_once();
    for (id, gate) in about {
        tx.prepare_cached("UPDATE gate SET withdrawn_at = ?, withdrawn_by = ?, withdrawn_why = ? WHERE id = ?")?.execute((
            author.at.to_string(),
            by,
            why,
            &id,
        ))?;
        let says = format!("took back a reason at {load} Ω");
        journal::record(tx, author, &Change::of(Entity::Gate, &id, &amplifier_id, 1, says), Some(&gate), None)?;
    }
    arming::disarm(tx, author, session_id, "the reason was taken back")?;
    sessions::touch(tx, author, session_id)?;
    tx.touched(&amplifier_id);
    Ok(())
}
