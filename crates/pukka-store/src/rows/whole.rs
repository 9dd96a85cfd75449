//! Every field of a record has its column: one that is renamed, or new, would fall into `extra` without a word.

use pukka_core::record::session::Run;
use serde_json::{Map, Value, json};

use crate::rows::codec::Table;
use crate::rows::{amplifiers, benches, claims, gates, photos, rungs, runs, sessions};

/// The fields of a type, by the schema that describes it.
fn fields(name: &str) -> Vec<String> {
    let schema = pukka_core::record::session::schema::schema();
    let own = if name.is_empty() { schema } else { &schema["$defs"][name] };
    own["properties"].as_object().unwrap_or_else(|| panic!("the schema has no {name}")).keys().cloned().collect()
}

/// Fields of a type that are neither columns nor kept elsewhere, and columns that are no field.
fn strays(table: &Table, fields: &[String], elsewhere: &[&str], own: &[&str]) -> (Vec<String>, Vec<String>) {
    let columns: Vec<&str> = table.columns.iter().map(|(name, _)| *name).collect();
    let lost = fields.iter().filter(|field| !columns.contains(&field.as_str()) && !elsewhere.contains(&field.as_str())).cloned();
    let idle = columns.iter().filter(|column| !fields.iter().any(|field| field == *column) && !own.contains(column));
    (lost.collect(), idle.map(|column| (*column).to_owned()).collect())
}

#[test]
fn a_field_without_a_column_fails_here() {
    let none = (Vec::<String>::new(), Vec::<String>::new());
    assert_eq!(strays(&amplifiers::TABLE, &fields("Amplifier"), &[], &[]), none);
    assert_eq!(strays(&claims::TABLE, &fields("Claim"), &["id"], &[]), none);
    assert_eq!(strays(&rungs::TABLE, &fields("PlannedRung"), &[], &[]), none);
    assert_eq!(strays(&gates::TABLE, &fields("Gate"), &[], &[]), none);
    let beside = ["id", "outputs", "valid", "ungated", "end_v", "current_a", "thd_ratio", "temperature_c"];
    assert_eq!(strays(&runs::TABLE, &fields("Run"), &beside, &[]), none);
    // The whole of a session: what is in a table of its own, what only a file says, and what the plan's columns are.
    let tables = ["format", "version", "id", "same_amplifier_as", "amplifier", "claims", "plan", "runs", "gates"];
    assert_eq!(strays(&sessions::TABLE, &fields(""), &tables, &["run_order", "tone_order", "rest_v"]), none);
    let profile = fields("Bench").into_iter().chain(["name".to_owned()]).collect::<Vec<_>>();
    assert_eq!(strays(&benches::TABLE, &profile, &[], &[]), none);
    let photo = serde_json::from_value::<photos::Photo>(
        json!({ "sha256": "", "width_px": 1, "height_px": 1, "bytes": 1, "caption": "front", "run_id": "r1", "on_sheet": true,
        "marks": [{ "shape": "label", "x": 0.5, "y": 0.5, "label": "A" }] }),
    );
    let photo = serde_json::to_value(photo.unwrap());
    let photo: Vec<String> = photo.unwrap().as_object().map(|fields| fields.keys().cloned().collect()).unwrap_or_default();
    assert_eq!(strays(&photos::TABLE, &photo, &[], &[]), none);
}

#[test]
fn a_stray_field_is_found() {
    let renamed = vec!["sha256".to_owned(), "height".to_owned()];
    let (lost, idle) = strays(&photos::TABLE, &renamed, &[], &[]);
    assert_eq!((lost, idle.len()), (vec!["height".to_owned()], photos::TABLE.columns.len() - 1));
    let mut extra = Map::new();
    extra.insert("shade".into(), json!("blue"));
    let run: Run = serde_json::from_value(json!({ "id": "r", "at": "2026-11-20T10:00:00Z", "wiring": { "kind": "mono" },
        "load_nominal_ohm": 4.0, "mode": "certified", "tone_hz": 40.0, "outputs": [], "shade": "blue" }))
    .unwrap();
    assert_eq!(Value::Object(run.extra), Value::Object(extra), "a key nobody knows is kept");
}
