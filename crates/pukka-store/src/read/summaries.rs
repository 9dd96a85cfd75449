//! One line a session for the shelf, made by the core. A write leaves it outdated; it is made again when the records are at rest,
//! or by whoever asks for it before.

use pukka_core::RULES_VERSION;
use pukka_core::report::lessons::{Entry, Lesson, summary_and_lesson};
use pukka_core::report::summary::Summary;
use pukka_core::report::written::written;
use rusqlite::{Connection, OptionalExtension, Transaction};

use crate::StoreError;
use crate::read::session::{self, SessionCache, SessionRow};
use crate::rows::amplifiers::IN_HAND;
use crate::rows::{amplifiers, settled};

/// The summary of a session.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such session.
pub fn get(tx: &Connection, session_id: &str) -> Result<Summary, StoreError> {
    kept(tx, session_id)?.map_or_else(|| made(tx, &session::load(tx, session_id)?), Ok)
}

/// The summary of a session that was loaded.
pub(crate) fn of(tx: &Connection, row: &SessionRow) -> Result<Summary, StoreError> {
    kept(tx, &row.id)?.map_or_else(|| made(tx, row), Ok)
}

/// The summary of a session as it was kept, where it is not outdated.
fn kept(tx: &Connection, session_id: &str) -> Result<Option<Summary>, StoreError> {
    let body: Option<String> = tx
        .prepare_cached("SELECT body FROM summary WHERE session_id = ? AND fresh AND rules_version = ?")?
        .query_row((session_id, RULES_VERSION), |row| row.get(0))
        .optional()?;
    body.map(|body| parsed(&body)).transpose()
}

/// A summary as it was kept.
pub(crate) fn parsed(body: &str) -> Result<Summary, StoreError> {
    serde_json::from_str(body).map_err(unreadable)
}

/// The summary of a session, made now.
pub(crate) fn made(tx: &Connection, row: &SessionRow) -> Result<Summary, StoreError> {
    Ok(made_with_lesson(tx, row)?.0)
}

fn made_with_lesson(tx: &Connection, row: &SessionRow) -> Result<(Summary, Lesson), StoreError> {
    let (mut summary, lesson) = summary_and_lesson(&row.session);
    if let Some(kept) = settled::newest(tx, &row.id)? {
        summary.settle(kept.settled.changes(&row.session).is_empty());
    }
    Ok((summary, lesson))
}

/// What every amplifier on the shelf adds to what the bench taught. Of a summary that a write has just left outdated it is made for
/// the answer.
///
/// # Errors
/// [`StoreError`].
pub fn lessons(tx: &Connection) -> Result<Vec<Entry>, StoreError> {
    let mut statement = tx.prepare_cached(&format!(
        "SELECT a.id, s.id, b.name, iif(y.fresh AND y.rules_version = ?, y.lesson, NULL)
         FROM amplifier a JOIN session s ON s.id = ({IN_HAND}) LEFT JOIN summary y ON y.session_id = s.id
           LEFT JOIN bench_profile b ON b.id = s.bench_profile_id
         WHERE a.deleted_at IS NULL ORDER BY a.id"
    ))?;
    let mut rows = statement.query([RULES_VERSION])?;
    let mut entries = Vec::new();
    while let Some(row) = rows.next()? {
        let (session_id, kept): (String, Option<String>) = (row.get(1)?, row.get(3)?);
        let lesson = match kept {
            Some(body) => serde_json::from_str(&body).map_err(unreadable)?,
            None => summary_and_lesson(&session::load(tx, &session_id)?.session).1,
        };
        entries.push(Entry { id: row.get(0)?, bench: row.get(2)?, lesson });
    }
    Ok(entries)
}

const fn unreadable(why: serde_json::Error) -> StoreError {
    StoreError::Unreadable { what: "summary", why }
}

/// Marks the summaries of an amplifier outdated.
pub(crate) fn outdate(tx: &Transaction, amplifier_id: &str) -> Result<(), StoreError> {
    tx.prepare_cached("UPDATE summary SET fresh = 0 WHERE session_id IN (SELECT id FROM session WHERE amplifier_id = ?)")?
        .execute([amplifier_id])?;
    Ok(())
}

/// Makes the summary of an amplifier's session in hand, unless it is gone.
pub(crate) fn freshen(tx: &Connection, known: &SessionCache, amplifier_id: &str) -> Result<(), StoreError> {
    match amplifiers::get(tx, amplifier_id).and_then(|row| known.get(tx, &row.session_id)) {
        Ok(row) => keep(tx, &row),
        Err(StoreError::NotFound { .. }) => Ok(()),
        Err(other) => Err(other),
    }
}

/// Makes every summary that is outdated, or of other rules, or not there.
pub(crate) fn freshen_all(tx: &Transaction) -> Result<(), StoreError> {
    let mut statement = tx.prepare(&format!(
        "SELECT a.id FROM amplifier a JOIN session s ON s.id = ({IN_HAND}) LEFT JOIN summary y ON y.session_id = s.id
         WHERE a.deleted_at IS NULL AND (y.session_id IS NULL OR NOT y.fresh OR y.rules_version <> ?)"
    ))?;
    let outdated: Vec<String> = statement.query_map([RULES_VERSION], |row| row.get(0))?.collect::<Result<_, _>>()?;
    let known = SessionCache::default();
    outdated.iter().try_for_each(|id| freshen(tx, &known, id))
}

/// Makes the summary of a session, and keeps it.
pub(crate) fn keep(tx: &Connection, row: &SessionRow) -> Result<(), StoreError> {
    let (summary, lesson) = made_with_lesson(tx, row)?;
    let body = serde_json::to_string(&summary).map_err(unreadable)?;
    let lesson = serde_json::to_string(&lesson).map_err(unreadable)?;
    tx.prepare_cached(
        "INSERT INTO summary (session_id, rules_version, body, lesson, fresh) VALUES (?1, ?2, ?3, ?4, 1)
         ON CONFLICT (session_id) DO UPDATE SET rules_version = ?2, body = ?3, lesson = ?4, fresh = 1",
    )?
    .execute((&row.id, RULES_VERSION, body, lesson))?;
    keep_written(tx, row)
}

/// Keeps what was written of a session for the search, where it changed.
fn keep_written(tx: &Connection, row: &SessionRow) -> Result<(), StoreError> {
    let text = written(&row.session);
    tx.prepare_cached("INSERT INTO written_doc (amplifier_id) VALUES (?) ON CONFLICT (amplifier_id) DO NOTHING")?
        .execute([&row.amplifier_id])?;
    let doc: i64 =
        tx.prepare_cached("SELECT doc FROM written_doc WHERE amplifier_id = ?")?.query_row([&row.amplifier_id], |row| row.get(0))?;
    let known: Option<String> =
        tx.prepare_cached("SELECT text FROM written WHERE rowid = ?")?.query_row([doc], |row| row.get(0)).optional()?;
    match known {
        Some(known) if known == text => {}
        Some(_) => {
            tx.prepare_cached("UPDATE written SET text = ? WHERE rowid = ?")?.execute((text, doc))?;
        }
        None => {
            tx.prepare_cached("INSERT INTO written (rowid, text) VALUES (?, ?)")?.execute((doc, text))?;
        }
    }
    Ok(())
}
