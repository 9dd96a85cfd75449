//! What went wrong, across all amplifiers: the newest first.

use std::collections::HashMap;

use pukka_core::evidence::halt::{CODE, says};
use pukka_core::record::session::Incident;
use rusqlite::Connection;
use serde::{Deserialize, Serialize};

use crate::StoreError;
use crate::read::page::{After, LAST};
use crate::read::session::{self, SessionRow};

/// An incident.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct IncidentRow {
    /// The amplifier it happened to.
    pub amplifier_id: String,
    /// Name.
    pub amplifier: String,
    /// The run.
    pub run_id: String,
    /// Time of it.
    pub at: String,
    /// Kind of incident.
    pub incident: Incident,
    /// In a sentence.
    pub says: String,
    /// The run's note.
    pub note: Option<String>,
    /// Reason why the plan went on.
    pub seen_to: Option<String>,
    /// Went past a gate without a full reason.
    pub ungated: bool,
}

/// A page of what went wrong, the newest first, and where the next page begins. Only sessions in which something did are loaded.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection, after: Option<&After>, limit: usize) -> Result<(Vec<IncidentRow>, Option<After>), StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT r.session_id, r.id FROM run r JOIN session s ON s.id = r.session_id JOIN amplifier a ON a.id = s.amplifier_id
         WHERE r.incident IS NOT NULL AND s.deleted_at IS NULL AND a.deleted_at IS NULL AND (r.at, r.id) < (?, ?)
           AND coalesce((SELECT stands FROM run_standing t WHERE t.run_id = r.id ORDER BY t.seq DESC LIMIT 1), 1)
         ORDER BY r.at DESC, r.id DESC",
    )?;
    let (at, id) = after.map_or((LAST, ""), |after| (after.at.as_str(), after.id.as_str()));
    let mut found = statement.query((at, id))?;
    let mut known: HashMap<String, SessionRow> = HashMap::new();
    let mut rows: Vec<IncidentRow> = Vec::new();
    while let Some(row) = found.next()? {
        let (session_id, run_id): (String, String) = (row.get(0)?, row.get(1)?);
        if !known.contains_key(&session_id) {
            known.insert(session_id.clone(), session::load(tx, &session_id)?);
        }
        let Some(session) = known.get(&session_id) else { return Err(StoreError::Broken) };
        // One that was corrected stands no longer.
        let Some(run) = session.session.standing_runs().find(|run| run.id == run_id) else { continue };
        let Some(incident) = run.incident else { continue };
        if rows.len() == limit {
            let last = rows.last().map(|last| After { at: last.at.clone(), id: last.run_id.clone() });
            return Ok((rows, last));
        }
        rows.push(IncidentRow {
            amplifier_id: session.amplifier_id.clone(),
            amplifier: session.session.amplifier.name(),
            run_id,
            at: run.at.to_string(),
            incident,
            says: says(run, incident),
            note: run.note.clone(),
            seen_to: run.accepted.iter().find(|accepted| accepted.code == CODE).map(|accepted| accepted.reason.clone()),
            ungated: run.ungated,
        });
    }
    Ok((rows, None))
}
