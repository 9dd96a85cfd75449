//! What went wrong, across all amplifiers: the newest first.

use pukka_core::record::session::Incident;
use rusqlite::Connection;

use crate::StoreError;
use crate::read::session;

use serde::{Deserialize, Serialize};

use pukka_core::evidence::halt::{CODE, says};

/// One incident.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct IncidentRow {
    /// The amplifier it happened to.
    pub amplifier_id: String,
    /// Its name.
    pub amplifier: String,
    /// The run.
    pub run_id: String,
    /// When.
    pub at: String,
    /// What.
    pub incident: Incident,
    /// In a sentence.
    pub says: String,
    /// The run's note.
    pub note: Option<String>,
    /// Why the plan went on.
    pub seen_to: Option<String>,
    /// It went past a gate without a full reason.
    pub ungated: bool,
}

/// Most rows that are listed.
const MOST: usize = 500;

/// Lists them.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection) -> Result<Vec<IncidentRow>, StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT DISTINCT r.session_id FROM run r JOIN session s ON s.id = r.session_id JOIN amplifier a ON a.id = s.amplifier_id
         WHERE r.incident IS NOT NULL AND s.deleted_at IS NULL AND a.deleted_at IS NULL",
    )?;
    let ids: Vec<String> = statement.query_map([], |row| row.get(0))?.collect::<Result<_, _>>()?;
    let mut rows = Vec::new();
    for id in ids {
        let row = session::load(tx, &id)?;
        for run in row.session.standing_runs() {
            let Some(incident) = run.incident else { continue };
            rows.push(IncidentRow {
                amplifier_id: row.amplifier_id.clone(),
                amplifier: row.session.amplifier.name(),
                run_id: run.id.clone(),
                at: run.at.to_string(),
                incident,
                says: says(run, incident),
                note: run.note.clone(),
                seen_to: run.accepted.iter().find(|accepted| accepted.code == CODE).map(|accepted| accepted.reason.clone()),
                ungated: run.ungated,
            });
        }
    }
    rows.sort_by(|a, b| b.at.cmp(&a.at));
    rows.truncate(MOST);
    Ok(rows)
}
