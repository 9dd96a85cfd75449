//! Verdicts that were settled: snapshots, kept as they were.

use pukka_core::record::session::Session;
use pukka_core::report::settled::SettledVerdict;
use rusqlite::{Connection, OptionalExtension, Transaction};

use crate::{StoreError, new_id};

/// A settled verdict as it is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct SettledRow {
    /// Id.
    pub id: String,
    /// Time of it.
    pub at: String,
    /// Name of the person.
    pub who: String,
    /// The snapshot.
    pub settled: SettledVerdict,
}

impl SettledRow {
    /// The day it was settled, if it stands as it was.
    #[must_use]
    pub fn stands_since(&self, session: &Session) -> Option<&str> {
        self.at.get(..10).filter(|_| self.settled.changes(session).is_empty())
    }
}

pub(crate) const WHAT: &str = "settled verdict";

/// Keeps a snapshot, one made now or one that came in a file.
pub(crate) fn keep(tx: &Transaction, session_id: &str, at: &str, who: &str, settled: &SettledVerdict) -> Result<String, StoreError> {
    let id = new_id();
    let body = serde_json::to_string(settled).map_err(|why| StoreError::Unreadable { what: WHAT, why })?;
    tx.prepare_cached("INSERT INTO settled_verdict (id, session_id, at, who, rules_version, body) VALUES (?, ?, ?, ?, ?, ?)")?
        .execute((&id, session_id, at, who, settled.rules_version, body))?;
    Ok(id)
}

/// The settled verdict that counts: the newest.
///
/// # Errors
/// [`StoreError`].
pub fn newest(tx: &Connection, session_id: &str) -> Result<Option<SettledRow>, StoreError> {
    let row = tx
        .prepare_cached(
            "SELECT id, at, who, body FROM settled_verdict WHERE session_id = ? AND withdrawn_at IS NULL ORDER BY seq DESC LIMIT 1",
        )?
        .query_row([session_id], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get::<_, String>(3)?)))
        .optional()?;
    row.map(|(id, at, who, body)| {
        let settled = serde_json::from_str(&body).map_err(|why| StoreError::Unreadable { what: WHAT, why })?;
        Ok(SettledRow { id, at, who, settled })
    })
    .transpose()
}

pub(crate) fn set_withdrawn(tx: &Transaction, id: &str, at: Option<&str>) -> Result<(), StoreError> {
    tx.prepare_cached("UPDATE settled_verdict SET withdrawn_at = ? WHERE id = ?")?.execute((at, id))?;
    Ok(())
}
