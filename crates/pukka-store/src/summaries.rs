//! One line a session for the shelf, made by the core when something changes.

use pukka_core::RULES_VERSION;
use pukka_core::report::summary::{Summary, summary};
use rusqlite::{Connection, OptionalExtension, Transaction};

use crate::sessions::SessionRow;
use crate::{StoreError, amplifiers, sessions, settled};

/// The summary of an amplifier's newest session.
///
/// # Errors
/// [`StoreError::NotFound`] when there is none.
pub fn get(tx: &Connection, session_id: &str) -> Result<Summary, StoreError> {
    let body: Option<String> =
        tx.prepare_cached("SELECT body FROM summary WHERE session_id = ?")?.query_row([session_id], |row| row.get(0)).optional()?;
    let body = body.ok_or_else(|| StoreError::NotFound { what: "summary", id: session_id.to_owned() })?;
    serde_json::from_str(&body).map_err(|why| StoreError::Unreadable { what: "summary", why })
}

/// Makes the summary of an amplifier's newest session anew.
pub(crate) fn refresh(tx: &Transaction, amplifier_id: &str) -> Result<(), StoreError> {
    keep(tx, &sessions::newest(tx, amplifier_id)?)
}

/// The same, when a session was loaded already: most often it is the newest.
pub(crate) fn refresh_with(tx: &Transaction, amplifier_id: &str, row: SessionRow) -> Result<(), StoreError> {
    if amplifiers::get(tx, amplifier_id)?.session_id == row.id { keep(tx, &row) } else { refresh(tx, amplifier_id) }
}

fn keep(tx: &Transaction, row: &SessionRow) -> Result<(), StoreError> {
    let mut summary = summary(&row.session);
    if let Some(kept) = settled::newest(tx, &row.id)? {
        summary.settle(kept.settled.changes(&row.session).is_empty());
    }
    let body = serde_json::to_string(&summary).map_err(|why| StoreError::Unreadable { what: "summary", why })?;
    tx.prepare_cached("INSERT INTO summary (session_id, rules_version, body) VALUES (?1, ?2, ?3) ON CONFLICT (session_id) DO UPDATE SET rules_version = ?2, body = ?3")?
        .execute((&row.id, RULES_VERSION, body))?;
    Ok(())
}

/// Makes anew every summary that another version of the rules made.
pub(crate) fn refresh_stale(tx: &Transaction) -> Result<(), StoreError> {
    let mut statement = tx.prepare(
        "SELECT DISTINCT a.id FROM amplifier a JOIN session s ON s.amplifier_id = a.id LEFT JOIN summary y ON y.session_id = s.id
         WHERE a.deleted_at IS NULL AND s.deleted_at IS NULL AND (y.rules_version IS NULL OR y.rules_version <> ?)",
    )?;
    let stale: Vec<String> = statement.query_map([RULES_VERSION], |row| row.get(0))?.collect::<Result<_, _>>()?;
    stale.iter().try_for_each(|id| refresh(tx, id))
}
