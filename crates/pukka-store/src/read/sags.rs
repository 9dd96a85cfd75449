//! What the runs on a bench show of its supply.

use rusqlite::Connection;

use crate::StoreError;
use crate::rows::runs;

use pukka_core::evidence::source_ohm::{Sag, sag_of};

/// Sags that past runs on a bench showed of its supply.
///
/// # Errors
/// [`StoreError`].
pub fn sags(tx: &Connection, id: &str) -> Result<Vec<Sag>, StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT s.id FROM session s JOIN amplifier a ON a.id = s.amplifier_id
         WHERE s.bench_profile_id = ? AND s.deleted_at IS NULL AND a.deleted_at IS NULL ORDER BY s.created_at DESC LIMIT 100",
    )?;
    let ids: Vec<String> = statement.query_map([id], |row| row.get(0))?.collect::<Result<_, _>>()?;
    let mut sags = Vec::new();
    for session_id in ids {
        sags.extend(runs::list(tx, &session_id)?.0.iter().filter(|run| run.valid).filter_map(sag_of));
    }
    Ok(sags)
}
