//! Files of captured waves: which ones were ever kept. What they are of stands in their sessions.

use pukka_core::record::session::{Trace, TraceChannel};
use rusqlite::Connection;

use crate::StoreError;

/// Hashes of every trace's file, removed traces too: undo brings them back.
pub(crate) fn hashes(tx: &Connection) -> Result<Vec<String>, StoreError> {
    let mut statement = tx.prepare("SELECT sha256 FROM trace_file ORDER BY sha256")?;
    let found = statement.query_map([], |row| row.get(0))?.collect::<Result<_, _>>()?;
    Ok(found)
}

/// What the channels of the newest recording with so many of them were, on the bench of a session: scales stay with the bench.
pub(crate) fn channels_like(tx: &Connection, session_id: &str, channels: usize) -> Result<Option<Vec<TraceChannel>>, StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT o.traces FROM session o JOIN session s ON s.id = ?1
         WHERE o.traces IS NOT NULL AND o.deleted_at IS NULL AND (o.id = s.id OR o.bench_profile_id = s.bench_profile_id)
         ORDER BY o.id = s.id DESC, o.updated_at DESC LIMIT 20",
    )?;
    let mut rows = statement.query([session_id])?;
    while let Some(row) = rows.next()? {
        let text: String = row.get(0)?;
        let traces: Vec<Trace> = serde_json::from_str(&text).map_err(|why| StoreError::Unreadable { what: "trace", why })?;
        if let Some(like) = traces.into_iter().rev().find(|trace| trace.channels.len() == channels) {
            return Ok(Some(like.channels));
        }
    }
    Ok(None)
}

/// Notes a file that lies in its place.
pub(crate) fn keep(tx: &Connection, sha256: &str, bytes: u64, at: &str) -> Result<(), StoreError> {
    let bytes = i64::try_from(bytes).unwrap_or(i64::MAX);
    tx.prepare_cached("INSERT INTO trace_file (sha256, bytes, kept_at) VALUES (?, ?, ?) ON CONFLICT (sha256) DO NOTHING")?
        .execute((sha256, bytes, at))?;
    Ok(())
}
