//! Runs and their readings: appended, never changed.

use pukka_core::record::session::{GateCode, OutputReading, Run, SecondReading};
use rusqlite::types::Value as Sql;
use rusqlite::{Connection, Transaction, params};
use serde_json::{Map, Value, json};

use crate::rows::codec::{Kind, Table, text};
use crate::rows::remarks;
use crate::{Author, StoreError};

pub(crate) const TABLE: Table = Table {
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
pub(crate) const SUPPLY_READINGS: [&str; 4] = ["end_v", "current_a", "thd_ratio", "temperature_c"];

pub(crate) const OUTPUT_READINGS: [&str; 4] = ["power_w", "volts_rms", "volts_peak", "volts_pp"];

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

pub(crate) struct ReadingRow<'a> {
    output: Option<u32>,
    name: Option<&'a str>,
    second: u32,
    quantity: &'static str,
    value: f64,
    meter: Option<&'a str>,
}

pub(crate) fn insert_readings(tx: &Transaction, run: &Run) -> Result<(), StoreError> {
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

pub(crate) fn output_rows(index: u32, output: &OutputReading) -> Vec<ReadingRow<'_>> {
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

pub(crate) fn read_readings(tx: &Connection, run_id: &str, fields: &mut Map<String, Value>) -> Result<(), StoreError> {
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
