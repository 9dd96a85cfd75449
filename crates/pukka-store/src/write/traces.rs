//! Captured waves of a session: the record in the session, the file beside the database under the hash of what is in it.

use pukka_core::record::session::{Trace, TraceChannel};
use rusqlite::Connection;

use crate::rows::traces;
use crate::write::{WriteTx, sessions};
use crate::{Author, StoreError};

/// What the channels of the newest recording with so many of them were, on the bench of a session: scales stay with the bench.
///
/// # Errors
/// [`StoreError`].
pub fn channels_like(tx: &Connection, session_id: &str, channels: usize) -> Result<Option<Vec<TraceChannel>>, StoreError> {
    traces::channels_like(tx, session_id, channels)
}

/// The most traces of one session.
pub const MOST: usize = 100;

fn not_found(sha256: &str) -> StoreError {
    StoreError::NotFound { what: "trace", id: sha256.to_owned() }
}

/// Notes the file of a trace that lies in its place, of a session that names it already.
///
/// # Errors
/// [`StoreError`].
pub fn keep_file(tx: &WriteTx, author: &Author, sha256: &str, bytes: u64) -> Result<(), StoreError> {
    traces::keep(tx, sha256, bytes, &author.at.to_string())
}

/// Adds a trace whose file is already in its place; one that the session has already stays as it is.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such session; [`StoreError::Refused`] when it has too many.
pub fn add(tx: &WriteTx, author: &Author, session_id: &str, trace: &Trace, bytes: u64) -> Result<(), StoreError> {
    traces::keep(tx, &trace.sha256, bytes, &author.at.to_string())?;
    if tx.session(session_id)?.session.traces.iter().any(|known| known.sha256 == trace.sha256) {
        return Ok(());
    }
    sessions::change_about(tx, author, session_id, None, &format!("added the trace {}", trace.name), |_, about| {
        if about.traces.len() >= MOST {
            return Err(StoreError::Refused { says: format!("{MOST} traces of one session are the most that are kept.") });
        }
        about.traces.push(trace.clone());
        Ok(())
    })
}

/// Changes what is said of a trace: its name, its channels.
///
/// # Errors
/// [`StoreError::NotFound`] when the session has no such trace.
pub fn describe(tx: &WriteTx, author: &Author, session_id: &str, trace: &Trace) -> Result<(), StoreError> {
    sessions::change_about(tx, author, session_id, None, &format!("said what the channels of {} are", trace.name), |_, about| {
        let own = about.traces.iter_mut().find(|known| known.sha256 == trace.sha256);
        *own.ok_or_else(|| not_found(&trace.sha256))? = trace.clone();
        Ok(())
    })
}

/// Removes a trace from its session; undo brings it back. One that backs a run stays.
///
/// # Errors
/// [`StoreError::NotFound`] when the session has no such trace; [`StoreError::Refused`] when a run stands on it.
pub fn remove(tx: &WriteTx, author: &Author, session_id: &str, sha256: &str) -> Result<(), StoreError> {
    let row = tx.session(session_id)?;
    let is_evidence = row.session.standing_runs().any(|run| run.evidence.iter().any(|own| own.sha256.as_deref() == Some(sha256)));
    if is_evidence {
        return Err(StoreError::Refused { says: "A run stands on this trace: take the run back first.".into() });
    }
    let name = row.session.traces.iter().find(|known| known.sha256 == sha256).map(|known| known.name.clone());
    let name = name.ok_or_else(|| not_found(sha256))?;
    sessions::change_about(tx, author, session_id, None, &format!("removed the trace {name}"), |_, about| {
        about.traces.retain(|known| known.sha256 != sha256);
        Ok(())
    })
}
