//! Sessions: one sitting of one amplifier on one bench, loaded whole for the core to compute with.

use pukka_core::kernel::units::Volts;
use pukka_core::plan::gates::mark_ungated;
use pukka_core::record::bench::Bench;
use pukka_core::record::session::{FORMAT, Gain, Idle, Order, Plan, Policy, Session, VERSION};
use rusqlite::types::Value as Sql;
use rusqlite::{Connection, OptionalExtension, Transaction};
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value, json};

use crate::acts::{self, Change, Entity};
use crate::codec::{Kind, Table, stamps_of_change, stamps_of_new, text};
use crate::{Author, StoreError, amplifiers, arming, benches, claims, gates, new_id, rungs, runs, summaries};

pub(crate) const TABLE: Table = Table {
    name: "session",
    what: "session",
    columns: &[
        ("bench", Kind::Json),
        ("policy", Kind::Json),
        ("idle", Kind::Json),
        ("run_order", Kind::Text),
        ("rest_v", Kind::Real),
        ("gain", Kind::Json),
    ],
};

/// A session as it is kept, whole.
#[derive(Debug, Clone, PartialEq)]
pub struct SessionRow {
    /// Its id.
    pub id: String,
    /// Its amplifier.
    pub amplifier_id: String,
    /// Its revision.
    pub revision: i64,
    /// The bench profile it stands on.
    pub bench_profile_id: Option<String>,
    /// When the cautions were read, if they were.
    pub cautions_read_at: Option<String>,
    /// Codes of the cautions that were ticked.
    pub ticked: Vec<String>,
    /// Everything the core computes with.
    pub session: Session,
    /// Revisions of its rungs, in the order of `session.plan.rungs`.
    pub rung_revisions: Vec<i64>,
}

/// Opens a session for an amplifier, with the bench, policy, idle draw, gain and order of `like`, on a bench profile.
pub(crate) fn create(
    tx: &Transaction,
    author: &Author,
    amplifier_id: &str,
    like: &Session,
    bench_profile_id: Option<&str>,
) -> Result<String, StoreError> {
    let id = new_id();
    let Session { bench, policy, idle, gain, plan, .. } = like;
    let record = json!({ "bench": bench, "policy": policy, "idle": idle, "gain": gain, "run_order": plan.order, "rest_v": plan.rest_v });
    let mut fields = record.as_object().cloned().unwrap_or_default();
    fields.extend(like.extra.clone());
    let mut beside = stamps_of_new(&id, author);
    beside.push(("bench_profile_id", bench_profile_id.map_or(Sql::Null, text)));
    beside.extend([("amplifier_id", text(amplifier_id)), ("rules_version", Sql::Integer(i64::from(pukka_core::RULES_VERSION)))]);
    TABLE.insert(tx, &beside, &Value::Object(fields))?;
    Ok(id)
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
    let plan = Plan { order: take(&mut fields, "run_order")?, rest_v: take(&mut fields, "rest_v")?, rungs: planned };
    let (runs, past) = runs::list(tx, id)?;
    let mut session = Session {
        format: FORMAT.into(),
        version: VERSION,
        id: None,
        amplifier,
        claims: claims::list(tx, &amplifier_id)?.into_iter().map(|row| row.claim).collect(),
        bench: take(&mut fields, "bench")?,
        policy: take(&mut fields, "policy")?,
        idle: take(&mut fields, "idle")?,
        gain: take(&mut fields, "gain")?,
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

/// The newest session of an amplifier.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn newest(tx: &Connection, amplifier_id: &str) -> Result<SessionRow, StoreError> {
    let id = amplifiers::get(tx, amplifier_id)?.session_id;
    load(tx, &id)
}

/// The amplifier of a session that can be written to.
pub(crate) fn amplifier_of(tx: &Connection, session_id: &str) -> Result<String, StoreError> {
    let not_found = || StoreError::NotFound { what: TABLE.what, id: session_id.to_owned() };
    let id: String = tx
        .prepare_cached("SELECT s.amplifier_id FROM session s JOIN amplifier a ON a.id = s.amplifier_id WHERE s.id = ? AND s.deleted_at IS NULL AND a.deleted_at IS NULL")?
        .query_row([session_id], |row| row.get(0))
        .optional()?
        .ok_or_else(not_found)?;
    Ok(id)
}

/// Marks a session as worked on.
pub(crate) fn touch(tx: &Transaction, author: &Author, session_id: &str) -> Result<(), StoreError> {
    tx.prepare_cached("UPDATE session SET updated_at = ? WHERE id = ?")?.execute((author.at.to_string(), session_id))?;
    Ok(())
}

/// What is set for a session as a whole.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Settings {
    /// The order of the runs.
    pub run_order: Order,
    /// Supply at rest.
    pub rest_v: Option<Volts>,
    /// Draw at rest.
    pub idle: Option<Idle>,
    /// How the gain was set.
    pub gain: Option<Gain>,
    /// The bench profile it stands on.
    pub bench_profile_id: Option<String>,
    /// The bench as it was; taken from the profile when that is another one.
    pub bench: Option<Bench>,
    /// The thresholds judged by; as they are when not given.
    #[serde(default)]
    pub policy: Option<Policy>,
}

impl Settings {
    fn of(row: &SessionRow) -> Self {
        let Session { plan, idle, gain, bench, policy, .. } = &row.session;
        Self {
            run_order: plan.order,
            rest_v: plan.rest_v,
            idle: *idle,
            gain: gain.clone(),
            bench_profile_id: row.bench_profile_id.clone(),
            bench: Some(bench.clone()),
            policy: Some(policy.clone()),
        }
    }
}

/// Changes what is set for a session. Another bench is taken only while nothing was run on the one it has.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`; [`StoreError::BenchInUse`]; [`StoreError::Armed`].
pub fn change(tx: &Transaction, author: &Author, id: &str, revision: i64, settings: &Settings) -> Result<(), StoreError> {
    let amplifier_id = amplifier_of(tx, id)?;
    TABLE.expect_revision(tx, id, revision)?;
    arming::none_in(tx, id)?;
    let row = load(tx, id)?;
    let before = Settings::of(&row);
    let mut after = Settings { bench: before.bench.clone(), policy: before.policy.clone(), ..settings.clone() };
    if after.bench_profile_id != before.bench_profile_id {
        if !row.session.runs.is_empty() {
            return Err(StoreError::BenchInUse);
        }
        if let Some(profile) = &after.bench_profile_id {
            after.bench = Some(benches::get(tx, profile)?.profile.bench());
        }
    }
    put(tx, author, id, revision + 1, &after)?;
    acts::record(
        tx,
        author,
        &Change::of(Entity::Session, id, &amplifier_id, revision + 1, "changed the plan".into()),
        Some(&before),
        Some(&after),
    )?;
    summaries::refresh(tx, &amplifier_id)
}

/// Keeps the draw without a tone.
///
/// # Errors
/// [`StoreError`].
pub fn set_idle(tx: &Transaction, author: &Author, id: &str, idle: Idle) -> Result<(), StoreError> {
    let amplifier_id = amplifier_of(tx, id)?;
    let row = load(tx, id)?;
    let before = Settings::of(&row);
    let after = Settings { idle: Some(idle), ..before.clone() };
    put(tx, author, id, row.revision + 1, &after)?;
    let change = Change::of(Entity::Session, id, &amplifier_id, row.revision + 1, "read the idle draw".into());
    acts::record(tx, author, &change, Some(&before), Some(&after))?;
    summaries::refresh(tx, &amplifier_id)
}

/// Takes bench, policy, idle draw, gain and order from a file.
pub(crate) fn replace_settings(tx: &Transaction, author: &Author, id: &str, file: &Session) -> Result<(), StoreError> {
    let row = load(tx, id)?;
    let before = Settings::of(&row);
    let after = Settings::of(&SessionRow { session: file.clone(), ..row.clone() });
    put(tx, author, id, row.revision + 1, &after)?;
    let extra = serde_json::to_string(&file.extra).map_err(|why| StoreError::Unreadable { what: TABLE.what, why })?;
    tx.prepare_cached("UPDATE session SET extra = ? WHERE id = ?")?.execute((extra, id))?;
    let change = Change::of(Entity::Session, id, &row.amplifier_id, row.revision + 1, "took the settings of a file".into());
    acts::record(tx, author, &change, Some(&before), Some(&after))
}

pub(crate) fn put(tx: &Transaction, author: &Author, id: &str, revision: i64, settings: &Settings) -> Result<(), StoreError> {
    let bench = settings.bench.clone().unwrap_or_default();
    let mut record =
        json!({ "bench": bench, "idle": settings.idle, "run_order": settings.run_order, "rest_v": settings.rest_v, "gain": settings.gain });
    if let Some(policy) = &settings.policy {
        record["policy"] = json!(policy);
    }
    let mut beside = stamps_of_change(revision, author);
    beside.push(("bench_profile_id", settings.bench_profile_id.clone().map_or(Sql::Null, Sql::Text)));
    TABLE.update_some(tx, id, &beside, &record)
}

/// Notes which cautions are ticked.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such session.
pub fn tick(tx: &Transaction, session_id: &str, code: &str, ticked: bool) -> Result<(), StoreError> {
    amplifier_of(tx, session_id)?;
    let mut codes = load(tx, session_id)?.ticked;
    codes.retain(|known| known != code);
    if ticked {
        codes.push(code.to_owned());
    }
    let codes = serde_json::to_string(&codes).map_err(|why| StoreError::Unreadable { what: TABLE.what, why })?;
    tx.prepare_cached("UPDATE session SET ticked = ? WHERE id = ?")?.execute((codes, session_id))?;
    Ok(())
}

/// Notes that the cautions were read.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such session.
pub fn read_cautions(tx: &Transaction, author: &Author, session_id: &str) -> Result<(), StoreError> {
    amplifier_of(tx, session_id)?;
    tx.prepare_cached("UPDATE session SET cautions_read_at = coalesce(cautions_read_at, ?), cautions_read_by = coalesce(cautions_read_by, ?) WHERE id = ?")?
        .execute((author.at.to_string(), &author.who, session_id))?;
    Ok(())
}
