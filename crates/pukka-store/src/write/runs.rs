//! Runs and their readings: appended, never changed.

use pukka_core::evidence::halt::halt;
use pukka_core::evidence::meters::{Striking, strike};
use pukka_core::evidence::rungs::{RungId, bare};
use pukka_core::plan::gates::GateFinding;
use pukka_core::plan::ladder::{Place, find, next_after};
use pukka_core::record::session::{GateCode, Method, Mode, Run};
use rusqlite::OptionalExtension;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};

use crate::read::session;
pub use crate::read::session::NextSession;
use crate::rows::remarks::Remark;
use crate::rows::{arming, sessions, steps};
use crate::write::journal::{self, Change, Entity};
use crate::write::{WriteTx, remarks};
use crate::{Author, StoreError};

pub use crate::rows::runs::*;

/// A run that was logged.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct LoggedRun {
    /// Id.
    pub id: String,
    /// Went past a gate without a full reason, and stays out of the verdict.
    pub ungated: bool,
    /// The run to make next; nothing when all are logged.
    pub next: Option<Place>,
}

/// Logs a run at a place, with the line it was typed as. Gates are judged here, in the transaction that keeps the run: one
/// that is shut refuses it, unless it `happened` all the same. A run that was armed for this place was judged as it was armed.
///
/// # Errors
/// [`StoreError::Gated`]; [`StoreError::NotFound`] when there is no such session.
pub fn log(tx: &WriteTx, author: &Author, session_id: &str, run: &Run, entry: &str, happened: bool) -> Result<LoggedRun, StoreError> {
    log_next(tx, author, session_id, run, entry, happened, None)
}

/// Likewise, with the session as it will be, where somebody has made it already.
///
/// # Errors
/// As [`log`].
pub fn log_next(
    tx: &WriteTx,
    author: &Author,
    session_id: &str,
    run: &Run,
    entry: &str,
    happened: bool,
    next: Option<NextSession>,
) -> Result<LoggedRun, StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    let before = tx.session(session_id)?;
    if let Some(halt) = halt(&before.session).filter(|halt| halt.last) {
        return Err(StoreError::Halted { says: halt.says });
    }
    let place = Place { rung: RungId::of(run).key(), mode: run.mode };
    let armed = arming::armed(tx, session_id)?.is_some_and(|armed| armed.arming.place == place);
    let past = if armed { Vec::new() } else { shut_before(&before, run) };
    if !past.is_empty() && !happened {
        return Err(StoreError::Gated { gates: past });
    }
    if armed {
        arming::disarm(tx, author, session_id, "logged")?;
    }
    let codes: Vec<GateCode> = past.iter().map(|gate| gate.code).collect();
    insert(tx, session_id, run, Origin::Entry(entry), &codes)?;
    let says = format!("logged {}", run.place_words());
    journal::record(tx, author, &Change::of(Entity::Run, &run.id, &amplifier_id, 1, says), None, Some(&json!({ "entry": entry })))?;
    sessions::touch(tx, author, session_id)?;
    tx.touched(&amplifier_id);
    let made = next.filter(|_| codes.is_empty()).and_then(|next| next.after(&before));
    let after = tx.know(made.unwrap_or_else(|| before.with_run(run, &codes)))?;
    let next = next_after(&after.session, &place);
    Ok(LoggedRun { id: run.id.clone(), ungated: !codes.is_empty(), next })
}

/// Makes one run of the rows of level steps that were typed for its place.
///
/// # Errors
/// As [`log`]; [`StoreError::NotFound`] when no row was typed.
pub fn log_steps(tx: &WriteTx, author: &Author, session_id: &str, run: &Run, happened: bool) -> Result<LoggedRun, StoreError> {
    let place = Place { rung: RungId::of(run).key(), mode: run.mode };
    let rows = steps::list(tx, session_id, &place)?;
    if rows.is_empty() {
        return Err(StoreError::NotFound { what: "level step", id: place.rung });
    }
    let entry = rows.iter().map(|row| row.entry.as_str()).collect::<Vec<_>>().join(" | ");
    let logged = log(tx, author, session_id, &of_steps(run, rows), &entry, happened)?;
    steps::used(tx, session_id, &place, &logged.id)?;
    Ok(logged)
}

/// Logs a run that takes the place of another; the old one stays to be seen. Its gates were judged as the old one was logged.
///
/// # Errors
/// [`StoreError::NotFound`] when the session has no such run.
pub fn correct(tx: &WriteTx, author: &Author, session_id: &str, run: &Run, entry: &str) -> Result<(), StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    replace(tx, author, &amplifier_id, session_id, run, entry)?;
    sessions::touch(tx, author, session_id)?;
    tx.touched(&amplifier_id);
    Ok(())
}

/// Logs a run in the place of another; the summary is made by whoever is done with all of them.
fn replace(tx: &WriteTx, author: &Author, amplifier_id: &str, session_id: &str, run: &Run, entry: &str) -> Result<(), StoreError> {
    let old = run.supersedes.clone().unwrap_or_default();
    let past: Option<String> = tx
        .prepare_cached("SELECT past_gates FROM run WHERE id = ? AND session_id = ?")?
        .query_row([old.as_str(), session_id], |row| row.get(0))
        .optional()?;
    let past = past.ok_or(StoreError::NotFound { what: TABLE.what, id: old })?;
    let past: Vec<GateCode> = serde_json::from_str(&past).map_err(|why| StoreError::Unreadable { what: TABLE.what, why })?;
    insert(tx, session_id, run, Origin::Entry(entry), &past)?;
    let says = format!("corrected {}", run.place_words());
    journal::record(tx, author, &Change::of(Entity::Run, &run.id, amplifier_id, 1, says), None, Some(&json!({ "entry": entry })))
}

/// A run made of rows of level steps.
#[must_use]
pub fn of_steps(run: &Run, rows: Vec<steps::StepRow>) -> Run {
    Run { method: Some(Method::Steps), outputs: Vec::new(), steps: rows.into_iter().map(|row| row.step).collect(), ..run.clone() }
}

/// Strikes a meter across a session, in one act. Answers how many runs it touched.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such session.
pub fn strike_meter(tx: &WriteTx, author: &Author, session_id: &str, meter: &str, reason: &str) -> Result<usize, StoreError> {
    let session::SessionRow { session, amplifier_id, .. } = session::load(tx, session_id)?;
    let author = author.at_once();
    let strikings = strike(&session, meter);
    let touched = strikings.len();
    for striking in strikings {
        match striking {
            Striking::Strike { run, what } => {
                let remark = Remark { kind: remarks::Kind::Strike, what: what.to_string(), reason: reason.into() };
                remarks::put(tx, &author, &amplifier_id, session_id, &run, &remark)?;
            }
            Striking::Swap(run) => {
                let swapped = Run { id: crate::new_id(), supersedes: Some(run.id.clone()), reason: Some(reason.into()), ..*run };
                replace(tx, &author, &amplifier_id, session_id, &swapped, &pukka_core::plan::run_line::line_of(&swapped))?;
            }
        }
    }
    sessions::touch(tx, &author, session_id)?;
    tx.touched(&amplifier_id);
    Ok(touched)
}

/// Gates still shut before a run, on the supply it says it was made on.
fn shut_before(before: &session::KnownSession, run: &Run) -> Vec<GateFinding> {
    let id = RungId::of(run);
    let rung = find(&before.session, &id.key()).unwrap_or_else(|| bare(id));
    before.shut(&rung, run.mode, run.rest_v)
}

/// Takes a run back: a row that says so, the readings stay.
///
/// # Errors
/// [`StoreError::NotFound`] when the session has no such run.
pub fn take_back(tx: &WriteTx, author: &Author, session_id: &str, run_id: &str, reason: &str) -> Result<(), StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    let mode: Option<String> = tx
        .prepare_cached("SELECT mode FROM run WHERE id = ? AND session_id = ?")?
        .query_row([run_id, session_id], |row| row.get(0))
        .optional()?;
    let mode = mode.ok_or_else(|| StoreError::NotFound { what: TABLE.what, id: run_id.to_owned() })?;
    let word = Mode::ALL.into_iter().map(Mode::word).find(|word| *word == mode).unwrap_or("a");
    set_standing(tx, author, run_id, false, reason)?;
    let change = Change::of(Entity::Run, run_id, &amplifier_id, 1, format!("took back a {word} run"));
    journal::record(tx, author, &change, Some(&json!({ "reason": reason })), None::<&Value>)?;
    sessions::touch(tx, author, session_id)?;
    tx.touched(&amplifier_id);
    Ok(())
}
