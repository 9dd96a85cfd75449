//! What was set for the rungs of a session.

use pukka_core::record::session::PlannedRung;

use crate::rows::{arming, sessions};
use crate::write::WriteTx;
use crate::write::journal::{self, Change, Entity};
use crate::{Author, StoreError};

pub use crate::rows::rungs::*;

/// Adds a rung. `keep` are rungs at its load that only a claim asked for until now: they are set as they are, so that the new
/// one does not take their place.
///
/// # Errors
/// [`StoreError::Conflict`] when the rung was set meanwhile.
pub fn add(tx: &WriteTx, author: &Author, session_id: &str, new: &PlannedRung, keep: &[PlannedRung]) -> Result<(), StoreError> {
    let author = author.at_once();
    for rung in keep.iter().chain([new]) {
        save(tx, &author, session_id, rung, 0, rung)?;
    }
    Ok(())
}

/// Sets a rung: `old` is the one it was known as; a rung that nobody set yet has revision 0.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`.
pub fn save(
    tx: &WriteTx,
    author: &Author,
    session_id: &str,
    old: &PlannedRung,
    revision: i64,
    new: &PlannedRung,
) -> Result<(), StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    arming::none_in(tx, session_id)?;
    let known = rows(tx, session_id)?.into_iter().find(|(_, _, rung)| same(rung, old));
    let have = known.as_ref().map_or(0, |(_, revision, _)| *revision);
    if have != revision {
        return Err(StoreError::Conflict { what: TABLE.what, wanted: revision, have });
    }
    let says = format!("set the {} Ω rung", pukka_core::kernel::format::ohms(new.load_ohm.get()));
    match known {
        Some((id, _, before)) => {
            put(tx, author, &id, revision + 1, new)?;
            journal::record(tx, author, &Change::of(Entity::Rung, &id, &amplifier_id, revision + 1, says), Some(&before), Some(new))?;
        }
        None => {
            let id = insert(tx, author, session_id, new)?;
            journal::record(tx, author, &Change::of(Entity::Rung, &id, &amplifier_id, 1, says), None, Some(new))?;
        }
    }
    sessions::touch(tx, author, session_id)?;
    tx.touched(&amplifier_id);
    Ok(())
}
