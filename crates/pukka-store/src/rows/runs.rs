//! Runs: appended, never changed.

use pukka_core::record::session::{GateCode, Run};
use rusqlite::types::Value as Sql;
use rusqlite::{Connection, Transaction};
use serde_json::{Value, json};

use crate::rows::codec::{Kind, Table, text};
use crate::rows::{readings, remarks};
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
        ("group_loads_measured_ohm", Kind::Json),
        ("mode", Kind::Text),
        ("method", Kind::Text),
        ("tone_hz", Kind::Real),
        ("limit_ratio", Kind::Real),
        ("extra_drive_db", Kind::Real),
        ("total_power_w", Kind::Real),
        ("approximate", Kind::Json),
        ("climbed_from_w", Kind::Real),
        ("mode_stated", Kind::Bool),
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

/// Source of a run.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Origin<'a> {
    /// The line it was typed as.
    Entry(&'a str),
    /// A file, by the id it has there.
    File(&'a str),
}

pub(crate) fn insert(tx: &Transaction, session_id: &str, run: &Run, origin: Origin, past_gates: &[GateCode]) -> Result<(), StoreError> {
    let mut value = serde_json::to_value(run).map_err(unreadable)?;
    let fields = value.as_object_mut().ok_or(StoreError::Broken)?;
    for name in ["id", "outputs", "valid", "ungated"].iter().chain(&readings::SUPPLY) {
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
    readings::insert(tx, run)
}

/// Gates that runs went past, by the run's id.
pub type PastGates = Vec<(String, Vec<GateCode>)>;

/// Every run of a session in the order logged, also those taken back, and the gates they went past.
///
/// # Errors
/// [`StoreError`].
pub fn list(tx: &Connection, session_id: &str) -> Result<(Vec<Run>, PastGates), StoreError> {
    let mut list: Vec<Run> = Vec::new();
    let mut gates = Vec::new();
    let sql = format!(
        "SELECT id, past_gates,
                coalesce((SELECT stands FROM run_standing s WHERE s.run_id = run.id ORDER BY s.seq DESC LIMIT 1), 1), {}
         FROM run WHERE session_id = ? ORDER BY seq",
        TABLE.list()
    );
    let mut statement = tx.prepare_cached(&sql)?;
    let mut rows = statement.query([session_id])?;
    while let Some(row) = rows.next()? {
        let (id, past): (String, String) = (row.get(0)?, row.get(1)?);
        let mut fields = TABLE.fields(row, 3)?;
        fields.insert("valid".into(), Value::Bool(row.get::<_, i64>(2)? != 0));
        fields.insert("id".into(), Value::String(id));
        if fields.get("reason").is_some_and(|reason| reason == "") {
            fields.remove("reason");
        }
        let run: Run = serde_json::from_value(Value::Object(fields)).map_err(unreadable)?;
        let past: Vec<GateCode> = serde_json::from_str(&past).map_err(unreadable)?;
        if !past.is_empty() {
            gates.push((run.id.clone(), past));
        }
        list.push(run);
    }
    readings::read(tx, session_id, &mut list)?;
    remarks::apply(tx, session_id, &mut list)?;
    Ok((list, gates))
}

fn unreadable(why: serde_json::Error) -> StoreError {
    StoreError::Unreadable { what: TABLE.what, why }
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
