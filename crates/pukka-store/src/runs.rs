//! Runs and their readings: appended, never changed.

use pukka_core::evidence::meters::{Striking, strike};
use pukka_core::evidence::rungs::{Rung, RungId};
use pukka_core::plan::gates::{GateFound, shut};
use pukka_core::plan::ladder::{Place, find, next_after};
use pukka_core::record::session::{GateCode, Method, Mode, OutputReading, Run, SecondReading, Session};
use rusqlite::types::Value as Sql;
use rusqlite::{Connection, OptionalExtension, Transaction, params};
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value, json};

use crate::acts::{self, Change, Entity};
use crate::codec::{Kind, Table, text};
use crate::remarks::Remark;
use crate::{Author, StoreError, arming, remarks, sessions, steps, summaries};

const TABLE: Table = Table {
    name: "run",
    what: "run",
    columns: &[
        ("at", Kind::Text),
        ("who", Kind::Text),
        ("wiring", Kind::Json),
        ("setting", Kind::Text),
        ("load_nominal_ohm", Kind::Real),
        ("load_measured_ohm", Kind::Real),
        ("mode", Kind::Text),
        ("method", Kind::Text),
        ("tone_hz", Kind::Real),
        ("limit_ratio", Kind::Real),
        ("extra_drive_db", Kind::Real),
        ("rest_v", Kind::Real),
        ("charger_on", Kind::Bool),
        ("bank", Kind::Text),
        ("evidence", Kind::Json),
        ("steps", Kind::Json),
        ("cycles", Kind::Json),
        ("hold", Kind::Json),
        ("supply_also", Kind::Json),
        ("efficiency_read_ratio", Kind::Real),
        ("struck", Kind::Json),
        ("accepted", Kind::Json),
        ("supersedes", Kind::Text),
        ("reason", Kind::Text),
        ("incident", Kind::Text),
        ("incomplete", Kind::Bool),
        ("note", Kind::Text),
    ],
};

/// Fields of a run that are readings: a row each.
const SUPPLY_READINGS: [&str; 4] = ["end_v", "current_a", "thd_ratio", "temperature_c"];
const OUTPUT_READINGS: [&str; 4] = ["power_w", "volts_rms", "volts_peak", "volts_pp"];

/// A run that was logged.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct LoggedRun {
    /// Its id.
    pub id: String,
    /// It went past a gate without a full reason, and stays out of the verdict.
    pub ungated: bool,
    /// The run to make next; nothing when all are logged.
    pub next: Option<Place>,
}

/// Logs a run at a place, with the line it was typed as. Gates are judged here, in the transaction that keeps the run: one
/// that is shut refuses it, unless it `happened` all the same. A run that was armed for this place was judged as it was armed.
///
/// # Errors
/// [`StoreError::Gated`]; [`StoreError::NotFound`] when there is no such session.
pub fn log(tx: &Transaction, author: &Author, session_id: &str, run: &Run, entry: &str, happened: bool) -> Result<LoggedRun, StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    let session = sessions::load(tx, session_id)?.session;
    let place = Place { rung: RungId::of(run).key(), mode: run.mode };
    let armed = arming::armed(tx, session_id)?.is_some_and(|armed| armed.arming.place == place);
    let past = if armed { Vec::new() } else { shut_before(&session, run) };
    if !past.is_empty() && !happened {
        return Err(StoreError::Gated { gates: past });
    }
    if armed {
        arming::disarm(tx, author, session_id, "logged")?;
    }
    let codes: Vec<GateCode> = past.iter().map(|gate| gate.code).collect();
    insert(tx, session_id, run, Origin::Entry(entry), &codes)?;
    let says = format!("logged {}", run.place_words());
    acts::record(tx, author, &Change::of(Entity::Run, &run.id, &amplifier_id, 1, says), None, Some(&json!({ "entry": entry })))?;
    sessions::touch(tx, author, session_id)?;
    let after = sessions::load(tx, session_id)?;
    let next = next_after(&after.session, &place);
    summaries::refresh_with(tx, &amplifier_id, after)?;
    Ok(LoggedRun { id: run.id.clone(), ungated: !codes.is_empty(), next })
}

/// Makes one run of the rows of level steps that were typed for its place.
///
/// # Errors
/// As [`log`]; [`StoreError::NotFound`] when no row was typed.
pub fn log_steps(tx: &Transaction, author: &Author, session_id: &str, run: &Run, happened: bool) -> Result<LoggedRun, StoreError> {
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
pub fn correct(tx: &Transaction, author: &Author, session_id: &str, run: &Run, entry: &str) -> Result<(), StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    replace(tx, author, &amplifier_id, session_id, run, entry)?;
    sessions::touch(tx, author, session_id)?;
    summaries::refresh(tx, &amplifier_id)
}

/// Logs a run in the place of another; the summary is made by whoever is done with all of them.
fn replace(tx: &Transaction, author: &Author, amplifier_id: &str, session_id: &str, run: &Run, entry: &str) -> Result<(), StoreError> {
    let old = run.supersedes.clone().unwrap_or_default();
    let past: Option<String> = tx
        .prepare_cached("SELECT past_gates FROM run WHERE id = ? AND session_id = ?")?
        .query_row([old.as_str(), session_id], |row| row.get(0))
        .optional()?;
    let past = past.ok_or(StoreError::NotFound { what: TABLE.what, id: old })?;
    let past: Vec<GateCode> = serde_json::from_str(&past).map_err(|why| StoreError::Unreadable { what: TABLE.what, why })?;
    insert(tx, session_id, run, Origin::Entry(entry), &past)?;
    let says = format!("corrected {}", run.place_words());
    acts::record(tx, author, &Change::of(Entity::Run, &run.id, amplifier_id, 1, says), None, Some(&json!({ "entry": entry })))
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
pub fn strike_meter(tx: &Transaction, author: &Author, session_id: &str, meter: &str, reason: &str) -> Result<usize, StoreError> {
    let sessions::SessionRow { session, amplifier_id, .. } = sessions::load(tx, session_id)?;
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
                replace(tx, &author, &amplifier_id, session_id, &swapped, &pukka_core::plan::ladder::line_of(&swapped))?;
            }
        }
    }
    sessions::touch(tx, &author, session_id)?;
    summaries::refresh(tx, &amplifier_id)?;
    Ok(touched)
}

/// Gates still shut before a run, on the supply it says it was made on.
fn shut_before(session: &Session, run: &Run) -> Vec<GateFound> {
    let key = RungId::of(run).key();
    let Some(Rung { id, mut set }) = find(session, &key) else {
        return Vec::new();
    };
    set.rest_v = run.rest_v.or(set.rest_v);
    shut(session, &Rung { id, set }, run.mode)
}

/// Where a run is from.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Origin<'a> {
    /// The line it was typed as.
    Entry(&'a str),
    /// A file, by the id it has there.
    File(&'a str),
}

pub(crate) fn insert(tx: &Transaction, session_id: &str, run: &Run, origin: Origin, past_gates: &[GateCode]) -> Result<(), StoreError> {
    let unreadable = |why| StoreError::Unreadable { what: TABLE.what, why };
    let mut value = serde_json::to_value(run).map_err(unreadable)?;
    let fields = value.as_object_mut().ok_or(StoreError::Broken)?;
    for name in ["id", "outputs", "valid", "ungated"].iter().chain(&SUPPLY_READINGS) {
        fields.remove(*name);
    }
    for list in ["struck", "accepted", "steps", "supply_also"] {
        fields.entry(list).or_insert_with(|| json!([]));
    }
    fields.entry("incomplete").or_insert(Value::Bool(false));
    if run.supersedes.is_some() && run.reason.is_none() {
        fields.insert("reason".into(), json!(""));
    }
    let past = serde_json::to_string(past_gates).map_err(unreadable)?;
    let (entry, file_id) = match origin {
        Origin::Entry(line) => (text(line), Sql::Null),
        Origin::File(id) => (Sql::Null, text(id)),
    };
    let beside =
        [("id", text(&run.id)), ("session_id", text(session_id)), ("entry", entry), ("file_id", file_id), ("past_gates", text(past))];
    TABLE.insert(tx, &beside, &value)?;
    insert_readings(tx, run)
}

struct ReadingRow<'a> {
    output: Option<u32>,
    name: Option<&'a str>,
    second: u32,
    quantity: &'static str,
    value: f64,
    meter: Option<&'a str>,
}

fn insert_readings(tx: &Transaction, run: &Run) -> Result<(), StoreError> {
    let mut rows = Vec::new();
    for (i, output) in (0u32..).zip(&run.outputs) {
        rows.extend(output_rows(i, output));
    }
    let supply =
        [run.end_v.map(|v| v.get()), run.current_a.map(|a| a.get()), run.thd_ratio.map(|t| t.get()), run.temperature_c.map(|c| c.get())];
    for (quantity, value) in SUPPLY_READINGS.into_iter().zip(supply) {
        rows.extend(value.map(|value| ReadingRow { output: None, name: None, second: 0, quantity, value, meter: None }));
    }
    let mut statement = tx.prepare_cached(
        "INSERT INTO reading (run_id, position, output, output_name, second, quantity, value, meter) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
    )?;
    for (position, row) in (0u32..).zip(&rows) {
        statement.execute(params![run.id, position, row.output, row.name, row.second, row.quantity, row.value, row.meter])?;
    }
    Ok(())
}

fn output_rows(index: u32, output: &OutputReading) -> Vec<ReadingRow<'_>> {
    let name = output.name.as_deref();
    let values =
        |power: Option<f64>, rms: Option<f64>, peak: Option<f64>, pp: Option<f64>| OUTPUT_READINGS.into_iter().zip([power, rms, peak, pp]);
    let own = values(
        output.power_w.map(|w| w.get()),
        output.volts_rms.map(|v| v.get()),
        output.volts_peak.map(|v| v.get()),
        output.volts_pp.map(|v| v.get()),
    );
    let mut rows: Vec<ReadingRow<'_>> = own
        .filter_map(|(quantity, value)| {
            Some(ReadingRow { output: Some(index), name, second: 0, quantity, value: value?, meter: output.meter.as_deref() })
        })
        .collect();
    for (i, also) in (1u32..).zip(&output.also) {
        let SecondReading { power_w, volts_rms, volts_peak, volts_pp, meter } = also;
        let more = values(power_w.map(|w| w.get()), volts_rms.map(|v| v.get()), volts_peak.map(|v| v.get()), volts_pp.map(|v| v.get()));
        rows.extend(more.filter_map(|(quantity, value)| {
            Some(ReadingRow { output: Some(index), name, second: i, quantity, value: value?, meter: meter.as_deref() })
        }));
    }
    rows
}

/// Gates that runs went past, by the run's id.
pub type PastGates = Vec<(String, Vec<GateCode>)>;

/// Every run of a session in the order logged, also those taken back, and the gates they went past.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection, session_id: &str) -> Result<(Vec<Run>, PastGates), StoreError> {
    let sql = format!(
        "SELECT id, past_gates,
                coalesce((SELECT stands FROM run_standing s WHERE s.run_id = run.id ORDER BY s.seq DESC LIMIT 1), 1), {}
         FROM run WHERE session_id = ? ORDER BY seq",
        TABLE.list()
    );
    let mut statement = tx.prepare_cached(&sql)?;
    let mut rows = statement.query([session_id])?;
    let (mut runs, mut gates) = (Vec::new(), Vec::new());
    while let Some(row) = rows.next()? {
        let id: String = row.get(0)?;
        let past: String = row.get(1)?;
        let mut fields = TABLE.fields(row, 3)?;
        fields.insert("valid".into(), Value::Bool(row.get::<_, i64>(2)? != 0));
        read_readings(tx, &id, &mut fields)?;
        fields.insert("id".into(), Value::String(id));
        if fields.get("reason").is_some_and(|reason| reason == "") {
            fields.remove("reason");
        }
        let unreadable = |why| StoreError::Unreadable { what: TABLE.what, why };
        let mut run: Run = serde_json::from_value(Value::Object(fields)).map_err(unreadable)?;
        remarks::apply(tx, &mut run)?;
        let past: Vec<GateCode> = serde_json::from_str(&past).map_err(unreadable)?;
        if !past.is_empty() {
            gates.push((run.id.clone(), past));
        }
        runs.push(run);
    }
    Ok((runs, gates))
}

fn read_readings(tx: &Connection, run_id: &str, fields: &mut Map<String, Value>) -> Result<(), StoreError> {
    let mut statement =
        tx.prepare_cached("SELECT output, output_name, second, quantity, value, meter FROM reading WHERE run_id = ? ORDER BY position")?;
    let mut rows = statement.query([run_id])?;
    let mut outputs: Vec<Value> = Vec::new();
    while let Some(row) = rows.next()? {
        let quantity: String = row.get(3)?;
        let value: f64 = row.get(4)?;
        let Some(output) = row.get::<_, Option<u32>>(0)? else {
            fields.insert(quantity, json!(value));
            continue;
        };
        let (output, second) = (output as usize, row.get::<_, u32>(2)? as usize);
        while outputs.len() <= output {
            outputs.push(json!({ "also": [] }));
        }
        let mut place = &mut outputs[output];
        if second > 0 {
            let Some(also) = place["also"].as_array_mut() else { return Err(StoreError::Broken) };
            while also.len() < second {
                also.push(json!({}));
            }
            place = &mut also[second - 1];
        } else {
            place["name"] = json!(row.get::<_, Option<String>>(1)?);
        }
        place[quantity.as_str()] = json!(value);
        place["meter"] = json!(row.get::<_, Option<String>>(5)?);
    }
    fields.insert("outputs".into(), Value::Array(outputs));
    Ok(())
}

/// Takes a run back: a row that says so, the readings stay.
///
/// # Errors
/// [`StoreError::NotFound`] when the session has no such run.
pub fn take_back(tx: &Transaction, author: &Author, session_id: &str, run_id: &str, reason: &str) -> Result<(), StoreError> {
    let amplifier_id = sessions::amplifier_of(tx, session_id)?;
    let mode: Option<String> = tx
        .prepare_cached("SELECT mode FROM run WHERE id = ? AND session_id = ?")?
        .query_row([run_id, session_id], |row| row.get(0))
        .optional()?;
    let mode = mode.ok_or_else(|| StoreError::NotFound { what: TABLE.what, id: run_id.to_owned() })?;
    let word = Mode::ALL.into_iter().map(Mode::word).find(|word| *word == mode).unwrap_or("a");
    set_standing(tx, author, run_id, false, reason)?;
    let change = Change::of(Entity::Run, run_id, &amplifier_id, 1, format!("took back a {word} run"));
    acts::record(tx, author, &change, Some(&json!({ "reason": reason })), None::<&Value>)?;
    sessions::touch(tx, author, session_id)?;
    summaries::refresh(tx, &amplifier_id)
}

pub(crate) fn set_standing(tx: &Transaction, author: &Author, run_id: &str, stands: bool, reason: &str) -> Result<(), StoreError> {
    tx.prepare_cached("INSERT INTO run_standing (run_id, at, who, stands, reason) VALUES (?, ?, ?, ?, ?)")?.execute((
        run_id,
        author.at.to_string(),
        &author.who,
        stands,
        reason,
    ))?;
    Ok(())
}
