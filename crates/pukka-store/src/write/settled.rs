//! Verdicts that were settled: snapshots, kept as they were.

use pukka_core::assess::Overall;
use pukka_core::report::settled::SettledVerdict;
use serde_json::json;

use crate::read::session;
use crate::rows::sessions;
use crate::write::WriteTx;
use crate::write::journal::{self, Change, Entity};
use crate::{Author, StoreError};

pub use crate::rows::settled::*;

/// Settles the verdict of a session as it stands.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such session.
pub fn settle(tx: &WriteTx, author: &Author, session_id: &str) -> Result<String, StoreError> {
    let row = session::load(tx, session_id)?;
    let settled = SettledVerdict::now(&row.session);
    let says = format!("locked the verdict: {}", Overall::word_of(settled.judgement.overall));
    let id = keep(tx, session_id, &author.at.to_string(), &author.who, &settled)?;
    journal::record(tx, author, &Change::of(Entity::Settled, &id, &row.amplifier_id, 1, says), None, Some(&json!({ "id": id })))?;
    sessions::touch(tx, author, session_id)?;
    tx.touched(&row.amplifier_id);
    Ok(id)
}
