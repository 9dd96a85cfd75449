//! Sessions: one sitting of one amplifier on one bench, loaded whole for the core to compute with.

use pukka_core::kernel::units::Volts;
use pukka_core::record::bench::Bench;
pub use pukka_core::record::session::About;
use pukka_core::record::session::{Gain, Idle, Order, Policy, Repair, Session, ToneOrder};
use rusqlite::types::Value as Sql;
use rusqlite::{Connection, OptionalExtension, Transaction};
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};

use crate::rows::codec::{Kind, Table, stamps_of_change, stamps_of_new, text};
use crate::{Author, StoreError, new_id};

pub(crate) const TABLE: Table = Table {
    name: "session",
    what: "session",
    columns: &[
        ("bench", Kind::Json),
        ("policy", Kind::Json),
        ("idle", Kind::Json),
        ("run_order", Kind::Text),
        ("tone_order", Kind::Text),
        ("rest_v", Kind::Real),
        ("gain", Kind::Json),
        ("repairs", Kind::Json),
        ("measured_on", Kind::Text),
        ("occasion", Kind::Text),
        ("post_mortem", Kind::Json),
        ("footage_from", Kind::Text),
        ("claps", Kind::Json),
        ("listening", Kind::Json),
        ("guesses", Kind::Json),
        ("traces", Kind::Json),
    ],
};

/// Opens a session for an amplifier, with the bench, policy, idle draw, gain and order of `like`, on a bench profile.
pub(crate) fn create(
    tx: &Transaction,
    author: &Author,
    amplifier_id: &str,
    like: &Session,
    bench_profile_id: Option<&str>,
) -> Result<String, StoreError> {
    let id = new_id();
    let Session { bench, policy, idle, gain, plan, repairs, .. } = like;
    let mut record = json!({ "bench": bench, "policy": policy, "idle": idle, "gain": gain, "run_order": plan.order,
        "tone_order": plan.tone_order, "rest_v": plan.rest_v, "repairs": repairs });
    add_about(&About::of(like), &mut record);
    let mut fields = record.as_object().cloned().unwrap_or_default();
    fields.extend(like.extra.clone());
    let mut beside = stamps_of_new(&id, author);
    beside.push(("bench_profile_id", bench_profile_id.map_or(Sql::Null, text)));
    beside.extend([
        ("in_hand_at", text(author.at.to_string())),
        ("amplifier_id", text(amplifier_id)),
        ("rules_version", Sql::Integer(i64::from(pukka_core::RULES_VERSION))),
    ]);
    TABLE.insert(tx, &beside, &Value::Object(fields))?;
    Ok(id)
}

/// Whether the newest session holds the house rule that nothing is run below the floor.
pub(crate) fn house_rule(tx: &Connection) -> Result<bool, StoreError> {
    let newest = "SELECT coalesce(json_extract(policy, '$.never_below_floor'), 0) FROM session WHERE deleted_at IS NULL ORDER BY created_at DESC, id DESC LIMIT 1";
    Ok(tx.prepare_cached(newest)?.query_row([], |row| row.get::<_, bool>(0)).optional()?.unwrap_or_default())
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

fn add_about(about: &About, record: &mut Value) {
    if let (Some(record), Ok(Value::Object(own))) = (record.as_object_mut(), serde_json::to_value(about)) {
        record.extend(own);
    }
}

/// Settings of a session as a whole.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Settings {
    /// The order of the runs.
    pub run_order: Order,
    /// Supply at rest.
    pub rest_v: Option<Volts>,
    /// Draw at rest.
    pub idle: Option<Idle>,
    /// Way in which the gain was set.
    pub gain: Option<Gain>,
    /// The bench profile it stands on.
    pub bench_profile_id: Option<String>,
    /// The bench as it was; taken from the profile when that is another one.
    pub bench: Option<Bench>,
    /// The thresholds judged by; as they are when not given.
    #[serde(default)]
    pub policy: Option<Policy>,
    /// Repairs after a death.
    #[serde(default)]
    pub repairs: Vec<Repair>,
    /// Order of a second tone.
    #[serde(default)]
    pub tone_order: ToneOrder,
    /// Facts beside what was measured; as they are when not given.
    #[serde(default)]
    pub about: Option<About>,
    /// Reason why the bench is put right after runs were made on it.
    #[serde(skip)]
    pub bench_reason: Option<String>,
}

pub(crate) fn put(tx: &Transaction, author: &Author, id: &str, revision: i64, settings: &Settings) -> Result<(), StoreError> {
    let bench = settings.bench.clone().unwrap_or_default();
    let mut record = json!({ "bench": bench, "idle": settings.idle, "run_order": settings.run_order, "rest_v": settings.rest_v, "gain": settings.gain,
        "repairs": settings.repairs, "tone_order": settings.tone_order });
    if let Some(about) = &settings.about {
        add_about(about, &mut record);
    }
    if let Some(policy) = &settings.policy {
        record["policy"] = json!(policy);
    }
    let mut beside = stamps_of_change(revision, author);
    beside.push(("bench_profile_id", settings.bench_profile_id.clone().map_or(Sql::Null, Sql::Text)));
    TABLE.update_some(tx, id, &beside, &record)
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
