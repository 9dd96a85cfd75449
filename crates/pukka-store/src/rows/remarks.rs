//! Remarks on runs: a reading struck, a check accepted. Rows beside the run, which stays as it was read.

use std::collections::HashMap;

use pukka_core::record::session::{Acceptance, ReadingName, Run};
use rusqlite::{Connection, Transaction};
use serde::{Deserialize, Serialize};

use crate::{Author, StoreError};

/// Task of a remark.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Kind {
    /// A reading is kept and shown, but not computed with.
    Strike,
    /// A check is settled as it stands.
    Accept,
    /// Words about the run: the newest stand in place of those before.
    Note,
}

impl Kind {
    const fn word(self) -> &'static str {
        match self {
            Self::Strike => "strike",
            Self::Accept => "accept",
            Self::Note => "note",
        }
    }

    fn from_word(word: &str) -> Option<Self> {
        [Self::Strike, Self::Accept, Self::Note].into_iter().find(|kind| kind.word() == word)
    }
}

/// A remark on a run.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Remark {
    /// Kind.
    pub kind: Kind,
    /// The reading, or the check's code; "note" of a note.
    pub what: String,
    /// Reason; the words of a note, nothing where it was taken away.
    pub reason: String,
}

/// A row of a run's history.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Row {
    /// Time of it.
    pub at: String,
    /// Name of the person.
    pub who: String,
    /// The remark.
    pub remark: Remark,
    /// Whether it was made, or taken back.
    pub stands: bool,
}

pub(crate) fn set(tx: &Transaction, author: &Author, run_id: &str, remark: &Remark, stands: bool) -> Result<(), StoreError> {
    tx.prepare_cached("INSERT INTO run_remark (run_id, at, who, kind, what, stands, reason) VALUES (?, ?, ?, ?, ?, ?, ?)")?.execute((
        run_id,
        author.at.to_string(),
        &author.who,
        remark.kind.word(),
        &remark.what,
        stands,
        &remark.reason,
    ))?;
    Ok(())
}

/// Takes back a remark that was put on a run, or puts it there again.
pub(crate) fn set_standing(tx: &Transaction, author: &Author, run_id: &str, remark: &str, stands: bool) -> Result<(), StoreError> {
    let remark: Remark = serde_json::from_str(remark).map_err(|why| StoreError::Unreadable { what: "remark", why })?;
    set(tx, author, run_id, &remark, stands)
}

/// Every remark on a run, the oldest first.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection, run_id: &str) -> Result<Vec<Row>, StoreError> {
    let mut statement = tx.prepare_cached("SELECT at, who, kind, what, reason, stands FROM run_remark WHERE run_id = ? ORDER BY seq")?;
    let rows = statement.query_map([run_id], of_row)?;
    Ok(rows.collect::<Result<_, _>>()?)
}

/// Puts what was remarked into the runs of a session, as they are computed with.
pub(crate) fn apply(tx: &Connection, session_id: &str, runs: &mut [Run]) -> Result<(), StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT m.at, m.who, m.kind, m.what, m.reason, m.stands, m.run_id
         FROM run JOIN run_remark m ON m.run_id = run.id WHERE run.session_id = ? ORDER BY m.seq",
    )?;
    let remarks = statement.query_map([session_id], |row| Ok((row.get::<_, String>(6)?, of_row(row)?)))?;
    let mut notes: HashMap<String, Vec<String>> = HashMap::new();
    for remark in remarks {
        let (run_id, Row { remark: Remark { kind, what, reason }, stands, .. }) = remark?;
        let Some(run) = runs.iter_mut().find(|run| run.id == run_id) else { continue };
        match kind {
            Kind::Strike => {
                // A name that this version does not know strikes nothing it computes with.
                let Some(reading) = ReadingName::from_word(&what) else { continue };
                run.struck.retain(|known| *known != reading);
                run.struck.extend(stands.then_some(reading));
            }
            Kind::Accept => {
                run.accepted.retain(|known| known.code != what);
                run.accepted.extend(stands.then_some(Acceptance { code: what, reason }));
            }
            Kind::Note => {
                // What was typed with the readings is the first of them, and shows again when the others are taken back.
                let own = notes.entry(run_id).or_insert_with(|| run.note.iter().cloned().collect());
                if stands {
                    own.push(reason);
                } else if let Some(at) = own.iter().rposition(|known| *known == reason) {
                    own.remove(at);
                }
                run.note = own.last().filter(|note| !note.is_empty()).cloned();
            }
        }
    }
    Ok(())
}

fn of_row(row: &rusqlite::Row) -> Result<Row, rusqlite::Error> {
    let kind: String = row.get(2)?;
    let kind = Kind::from_word(&kind).ok_or_else(|| rusqlite::Error::InvalidColumnName(kind))?;
    Ok(Row { at: row.get(0)?, who: row.get(1)?, remark: Remark { kind, what: row.get(3)?, reason: row.get(4)? }, stands: row.get(5)? })
}

/// Time when a run was taken back, or put back.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Standing {
    /// Time of it.
    pub at: String,
    /// Name of the person.
    pub who: String,
    /// Whether it stands from then on.
    pub stands: bool,
    /// Reason.
    pub reason: String,
}

/// Every time a run was taken back or put back, the oldest first.
///
/// # Errors
/// [`StoreError`].
pub fn standings(tx: &Connection, run_id: &str) -> Result<Vec<Standing>, StoreError> {
    let mut statement = tx.prepare_cached("SELECT at, who, stands, reason FROM run_standing WHERE run_id = ? ORDER BY seq")?;
    let rows = statement
        .query_map([run_id], |row| Ok(Standing { at: row.get(0)?, who: row.get(1)?, stands: row.get(2)?, reason: row.get(3)? }))?;
    Ok(rows.collect::<Result<_, _>>()?)
}
