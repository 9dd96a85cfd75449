//! A session, loaded whole for the core to compute with; what was loaded is known until its version changes.

use std::collections::{HashMap, VecDeque};
use std::ops::Deref;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use pukka_core::assess::check_session;
use pukka_core::evidence::check::Check;
use pukka_core::evidence::rungs::Rung;
use pukka_core::kernel::units::Volts;
use pukka_core::plan::gates::{GateFinding, shut};
use pukka_core::plan::ladder::{Ladder, ladder_checked};
use pukka_core::plan::opening::{is_ungated, mark_ungated};
use pukka_core::record::session::{FORMAT, GateCode, Mode, Plan, PlannedRung, Run, Session, VERSION};
use rusqlite::{Connection, OptionalExtension};
use serde_json::{Map, Value};

use crate::StoreError;
use crate::rows::sessions::TABLE;
use crate::rows::{amplifiers, claims, gates, rungs, runs};

/// A session as it is kept, whole.
#[derive(Debug, Clone, PartialEq)]
pub struct SessionRow {
    /// Id.
    pub id: String,
    /// Amplifier.
    pub amplifier_id: String,
    /// Revision.
    pub revision: i64,
    /// The bench profile it stands on.
    pub bench_profile_id: Option<String>,
    /// Time when the cautions were read, if they were.
    pub cautions_read_at: Option<String>,
    /// Codes of the cautions that were ticked.
    pub ticked: Vec<String>,
    /// Everything the core computes with.
    pub session: Session,
    /// Revisions of its rungs, in the order of `session.plan.rungs`.
    pub rung_revisions: Vec<i64>,
}

impl SessionRow {
    /// Likewise, with one more run that went past these gates.
    pub(crate) fn with_run(&self, run: &Run, past: &[GateCode]) -> Self {
        let mut row = self.clone();
        let ungated = is_ungated(&row.session, run, past);
        row.session.runs.push(Run { valid: true, ungated, ..run.clone() });
        row
    }
}

/// A session as it was loaded, with its checks and its ladder: a log asks for what the page before it showed already.
#[derive(Debug)]
pub struct KnownSession {
    row: SessionRow,
    checks: OnceLock<Vec<Check>>,
    ladder: OnceLock<Ladder>,
}

impl KnownSession {
    /// Every check that fired. Computes the first time it is asked.
    pub fn checks(&self) -> &[Check] {
        self.checks.get_or_init(|| check_session(&self.row.session))
    }

    /// The ladder. Computes the first time it is asked.
    pub fn ladder(&self) -> &Ladder {
        self.ladder.get_or_init(|| ladder_checked(&self.row.session, self.checks()))
    }

    /// The gates still shut before a run. Those of the ladder, where it is known and the run was made on the supply it is for.
    pub(crate) fn shut(&self, rung: &Rung, mode: Mode, rest_v: Option<Volts>) -> Vec<GateFinding> {
        let as_set = rest_v.is_none() || rest_v == rung.set.rest_v;
        let key = rung.id.key();
        let of_rung = self.ladder.get().filter(|_| as_set).and_then(|ladder| ladder.rungs.iter().find(|shown| shown.key == key));
        if let Some(cell) = of_rung.and_then(|shown| shown.cells.iter().find(|cell| cell.mode == mode)) {
            return cell.gates.iter().filter(|gate| !gate.open).cloned().collect();
        }
        let set = PlannedRung { rest_v: rest_v.or(rung.set.rest_v), ..rung.set.clone() };
        shut(&self.row.session, &Rung { id: rung.id.clone(), set }, mode)
    }

    /// Notes checks that were made on the way to something else.
    pub fn note_checks(&self, checks: &[Check]) {
        self.checks.get_or_init(|| checks.to_vec());
    }
}

/// A session as it will be with one more run, made before the write that keeps the run.
#[derive(Debug)]
pub struct NextSession {
    before: Arc<KnownSession>,
    row: SessionRow,
}

impl NextSession {
    /// A session with one more run, which went past no gate.
    #[must_use]
    pub fn of(before: &Arc<KnownSession>, run: &Run) -> Self {
        Self { row: before.with_run(run, &[]), before: Arc::clone(before) }
    }

    /// The session.
    #[must_use]
    pub const fn session(&self) -> &Session {
        &self.row.session
    }

    /// The row, where nothing was changed meanwhile.
    pub(crate) fn after(self, before: &Arc<KnownSession>) -> Option<SessionRow> {
        Arc::ptr_eq(&self.before, before).then_some(self.row)
    }
}

impl From<SessionRow> for KnownSession {
    fn from(row: SessionRow) -> Self {
        Self { row, checks: OnceLock::new(), ladder: OnceLock::new() }
    }
}

impl Deref for KnownSession {
    type Target = SessionRow;

    fn deref(&self) -> &SessionRow {
        &self.row
    }
}

/// The session with this id, whole.
///
/// # Errors
/// [`StoreError::NotFound`] when there is none, or it or its amplifier was deleted.
pub fn load(tx: &Connection, id: &str) -> Result<SessionRow, StoreError> {
    let not_found = || StoreError::NotFound { what: TABLE.what, id: id.to_owned() };
    let sql = format!(
        "SELECT amplifier_id, cautions_read_at, revision, bench_profile_id, ticked, {} FROM session WHERE id = ? AND deleted_at IS NULL",
        TABLE.list()
    );
    let mut statement = tx.prepare_cached(&sql)?;
    let mut found = statement.query([id])?;
    let row = found.next()?.ok_or_else(not_found)?;
    let amplifier_id: String = row.get(0)?;
    let cautions_read_at: Option<String> = row.get(1)?;
    let ticked: String = row.get(4)?;
    let ticked = serde_json::from_str(&ticked).map_err(|why| StoreError::Unreadable { what: TABLE.what, why })?;
    let (revision, bench_profile_id) = (row.get(2)?, row.get(3)?);
    let mut fields = TABLE.fields(row, 5)?;
    let amplifier = amplifiers::get(tx, &amplifier_id).map_err(|_| not_found())?.amplifier;
    let (planned, rung_revisions) = rungs::list(tx, id)?.into_iter().unzip();
    let tone_order = take::<Option<_>>(&mut fields, "tone_order")?.unwrap_or_default();
    let plan = Plan { order: take(&mut fields, "run_order")?, tone_order, rest_v: take(&mut fields, "rest_v")?, rungs: planned };
    let (runs, past) = runs::list(tx, id)?;
    let mut session = Session {
        format: FORMAT.into(),
        version: VERSION,
        id: None,
        same_amplifier_as: None,
        amplifier,
        claims: claims::list(tx, &amplifier_id)?.into_iter().map(|row| row.claim).collect(),
        bench: take(&mut fields, "bench")?,
        policy: take(&mut fields, "policy")?,
        idle: take(&mut fields, "idle")?,
        gain: take(&mut fields, "gain")?,
        repairs: take::<Option<_>>(&mut fields, "repairs")?.unwrap_or_default(),
        post_mortem: take(&mut fields, "post_mortem")?,
        measured_on: take(&mut fields, "measured_on")?,
        occasion: take(&mut fields, "occasion")?,
        footage_from: take(&mut fields, "footage_from")?,
        claps: take::<Option<_>>(&mut fields, "claps")?.unwrap_or_default(),
        listening: take(&mut fields, "listening")?,
        guesses: take(&mut fields, "guesses")?,
        traces: take::<Option<_>>(&mut fields, "traces")?.unwrap_or_default(),
        plan,
        runs,
        gates: gates::list(tx, id)?,
        extra: fields,
    };
    mark_ungated(&mut session, &past);
    let id = id.to_owned();
    Ok(SessionRow { id, amplifier_id, revision, bench_profile_id, cautions_read_at, ticked, session, rung_revisions })
}

fn take<T: serde::de::DeserializeOwned>(fields: &mut Map<String, Value>, name: &str) -> Result<T, StoreError> {
    serde_json::from_value(fields.remove(name).unwrap_or_default()).map_err(|why| StoreError::Unreadable { what: TABLE.what, why })
}

/// The session in hand of an amplifier.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn in_hand(tx: &Connection, amplifier_id: &str) -> Result<SessionRow, StoreError> {
    let id = amplifiers::get(tx, amplifier_id)?.session_id;
    load(tx, &id)
}

/// The version of a session that was not deleted, nor its amplifier.
///
/// # Errors
/// [`StoreError::NotFound`] when there is none.
pub fn version(tx: &Connection, id: &str) -> Result<i64, StoreError> {
    tx.prepare_cached(
        "SELECT s.version FROM session s JOIN amplifier a ON a.id = s.amplifier_id
         WHERE s.id = ? AND s.deleted_at IS NULL AND a.deleted_at IS NULL",
    )?
    .query_row([id], |row| row.get(0))
    .optional()?
    .ok_or_else(|| StoreError::NotFound { what: TABLE.what, id: id.to_owned() })
}

/// More are rarely open at once, in all tabs together.
const MOST_KNOWN: usize = 64;

/// Versions of one session that are known: a write knows its own before readers can see it.
const MOST_VERSIONS: usize = 4;

/// A session as it was loaded, with its version.
type Known = (i64, Arc<KnownSession>);

/// Sessions as they were loaded, by their ids, the newest version first.
#[derive(Debug, Default)]
pub struct SessionCache {
    known: Mutex<HashMap<String, VecDeque<Known>>>,
    /// Versions that writes pushed out, until there is time to let go of their hundreds of runs.
    outworn: Mutex<Vec<Known>>,
}

impl SessionCache {
    /// The session with this id, as the records are now.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none.
    pub fn get(&self, tx: &Connection, id: &str) -> Result<Arc<KnownSession>, StoreError> {
        let now = version(tx, id)?;
        let known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
        let same = known.get(id).and_then(|versions| versions.iter().find(|(at, _)| *at == now));
        if let Some((_, row)) = same {
            return Ok(Arc::clone(row));
        }
        drop(known);
        Ok(self.keep(now, load(tx, id)?).0)
    }

    /// Keeps a session as a write leaves it.
    pub(crate) fn put(&self, tx: &Connection, row: SessionRow) -> Result<Arc<KnownSession>, StoreError> {
        debug_assert_eq!(load(tx, &row.id)?, row, "what is known is what would be loaded");
        let (row, outworn) = self.keep(version(tx, &row.id)?, row);
        self.outworn.lock().unwrap_or_else(PoisonError::into_inner).extend(outworn);
        Ok(row)
    }

    /// Lets go of what writes pushed out: for the writer, once it has answered.
    pub(crate) fn let_go(&self) {
        drop(std::mem::take(&mut *self.outworn.lock().unwrap_or_else(PoisonError::into_inner)));
    }

    /// Keeps a version of a session. Answers it, and those that it pushes out.
    fn keep(&self, version: i64, row: SessionRow) -> (Arc<KnownSession>, Vec<Known>) {
        let row = Arc::new(KnownSession::from(row));
        let mut known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
        let mut outworn = Vec::new();
        if known.len() >= MOST_KNOWN && !known.contains_key(&row.id) {
            outworn.extend(known.drain().flat_map(|(_, versions)| versions));
        }
        let versions = known.entry(row.id.clone()).or_default();
        versions.push_front((version, Arc::clone(&row)));
        outworn.extend(versions.drain(MOST_VERSIONS.min(versions.len())..));
        (row, outworn)
    }
}
