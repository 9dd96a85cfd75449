//! Sessions of an amplifier that came to the bench more than once. The one in hand is shown, judged on the shelf, and logged into.

use pukka_core::assess::Overall;
use pukka_core::record::session::{Plan, Session};
use rusqlite::Connection;
use serde_json::json;

use crate::read::session::{self, SessionRow};
use crate::read::summaries;
use crate::rows::sessions as rows;
use crate::rows::{amplifiers, arming, rungs, runs};
use crate::write::WriteTx;
use crate::write::journal::{self, Change, Entity};
use crate::{Author, StoreError};

/// A session in the list of its amplifier.
#[derive(Debug, Clone, PartialEq)]
pub struct RetestRow {
    /// Id.
    pub id: String,
    /// Time when it was opened.
    pub opened_at: String,
    /// The day it was measured, where that was said.
    pub measured_on: Option<jiff::civil::Date>,
    /// Reason why the amplifier came again.
    pub occasion: Option<String>,
    /// Runs that stand.
    pub runs: usize,
    /// The word over all of its verdict.
    pub overall: Option<Overall>,
    /// Whether it is the one in hand.
    pub in_hand: bool,
}

/// Sessions of an amplifier, each with the time when it was opened, the oldest first.
///
/// # Errors
/// [`StoreError`].
pub fn opened(tx: &Connection, amplifier_id: &str) -> Result<Vec<(String, String)>, StoreError> {
    let mut statement =
        tx.prepare_cached("SELECT id, created_at FROM session WHERE amplifier_id = ? AND deleted_at IS NULL ORDER BY created_at, id")?;
    let rows = statement.query_map([amplifier_id], |row| Ok((row.get(0)?, row.get(1)?)))?;
    Ok(rows.collect::<Result<_, _>>()?)
}

/// Their ids alone.
///
/// # Errors
/// [`StoreError`].
pub fn ids(tx: &Connection, amplifier_id: &str) -> Result<Vec<String>, StoreError> {
    Ok(opened(tx, amplifier_id)?.into_iter().map(|(id, _)| id).collect())
}

/// Every session of an amplifier, whole, the oldest first.
///
/// # Errors
/// [`StoreError`].
pub fn sessions(tx: &Connection, amplifier_id: &str) -> Result<Vec<SessionRow>, StoreError> {
    ids(tx, amplifier_id)?.iter().map(|id| session::load(tx, id)).collect()
}

/// The sessions of an amplifier in a list, the oldest first.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn list(tx: &Connection, amplifier_id: &str) -> Result<Vec<RetestRow>, StoreError> {
    let in_hand = amplifiers::get(tx, amplifier_id)?.session_id;
    let row = |(id, opened_at): (String, String)| {
        let row = session::load(tx, &id)?;
        let overall = summaries::of(tx, &row)?.overall;
        let Session { measured_on, occasion, runs, .. } = row.session;
        let runs = runs.iter().filter(|run| run.valid).count();
        Ok(RetestRow { in_hand: id == in_hand, id, opened_at, measured_on, occasion, runs, overall })
    };
    opened(tx, amplifier_id)?.into_iter().map(row).collect()
}

/// Opens one more session of an amplifier, on the bench and by the plan of the one in hand, and takes it in hand. What was asked or
/// allowed for that one, reasons for gates and consents among it, is asked again.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier; [`StoreError::Armed`].
pub fn open(tx: &WriteTx, author: &Author, amplifier_id: &str, occasion: Option<String>) -> Result<String, StoreError> {
    arming::none_of(tx, amplifier_id)?;
    let row = session::in_hand(tx, amplifier_id)?;
    let Session { amplifier, bench, policy, gain, plan, .. } = row.session;
    let like = Session {
        bench,
        policy,
        gain,
        plan: Plan { rungs: Vec::new(), rest_v: None, ..plan.clone() },
        occasion,
        ..Session::new(amplifier)
    };
    let author = &author.at_once();
    let id = insert(tx, author, amplifier_id, &like, row.bench_profile_id.as_deref(), "opened a retest")?;
    for rung in &plan.rungs {
        rungs::insert(tx, author, &id, rung)?;
    }
    to_hand(tx, author, amplifier_id, &id)?;
    Ok(id)
}

/// Keeps a session of a file beside those that are here; the one in hand stays in hand.
pub(crate) fn insert_bare(tx: &WriteTx, author: &Author, amplifier_id: &str, file: &Session, says: &str) -> Result<String, StoreError> {
    let id = insert(tx, author, amplifier_id, file, None, says)?;
    tx.prepare_cached("UPDATE session SET in_hand_at = '' WHERE id = ?")?.execute([&id])?;
    Ok(id)
}

fn insert(
    tx: &WriteTx,
    author: &Author,
    amplifier_id: &str,
    like: &Session,
    bench: Option<&str>,
    says: &str,
) -> Result<String, StoreError> {
    let id = rows::create(tx, author, amplifier_id, like, bench)?;
    let change = Change::of(Entity::Session, &id, amplifier_id, 1, says.into());
    journal::record(tx, author, &change, None, Some(&json!({ "id": id })))?;
    Ok(id)
}

/// Takes a session in hand: the pages and the shelf show it.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such session; [`StoreError::Armed`].
pub fn take_in_hand(tx: &WriteTx, author: &Author, session_id: &str) -> Result<(), StoreError> {
    let amplifier_id = rows::amplifier_of(tx, session_id)?;
    arming::none_of(tx, &amplifier_id)?;
    to_hand(tx, author, &amplifier_id, session_id)
}

fn to_hand(tx: &WriteTx, author: &Author, amplifier_id: &str, session_id: &str) -> Result<(), StoreError> {
    let last: String = tx
        .prepare_cached("SELECT coalesce(max(in_hand_at), '') FROM session WHERE amplifier_id = ?")?
        .query_row([amplifier_id], |row| row.get(0))?;
    // A clock that was put back leaves the order as it is.
    let now = author.at.to_string();
    let at = if now > last { now } else { format!("{last}~") };
    tx.prepare_cached("UPDATE session SET in_hand_at = ? WHERE id = ?")?.execute((at, session_id))?;
    tx.touched(amplifier_id);
    Ok(())
}

/// Refuses to take a session away in which something was run.
pub(crate) fn must_be_empty(tx: &Connection, session_id: &str) -> Result<(), StoreError> {
    let (runs, _) = runs::list(tx, session_id)?;
    if runs.iter().any(|run| run.valid) {
        return Err(StoreError::Refused { says: "Something was run in that session: take those runs back first.".into() });
    }
    Ok(())
}
