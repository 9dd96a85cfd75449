//! The supply between runs, as read.

use pukka_core::kernel::units::Volts;
use serde_json::{Value, json};

use crate::rows::sessions;
use crate::write::WriteTx;
use crate::write::journal::{self, Change, Entity};
use crate::{Author, StoreError};

pub use crate::rows::rests::*;

/// Keeps a rest voltage.
///
/// # Errors
/// [`StoreError`].
pub fn add(tx: &WriteTx, author: &Author, session_id: &str, volts: Volts) -> Result<(), StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    tx.prepare_cached("INSERT INTO rest_reading (session_id, at, who, volts) VALUES (?, ?, ?, ?)")?.execute((
        session_id,
        author.at.to_string(),
        &author.who,
        volts.get(),
    ))?;
    let id = tx.last_insert_rowid().to_string();
    let says = format!("read {} V at rest", pukka_core::kernel::format::volts(volts.get()));
    journal::record(
        tx,
        author,
        &Change::of(Entity::RestReading, &id, &amplifier_id, 1, says),
        None::<&Value>,
        Some(&json!({ "volts": volts })),
    )
}
