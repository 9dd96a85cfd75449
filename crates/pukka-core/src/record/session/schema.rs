//! The JSON Schema of the open session file, made from the very types that read it.
//!
//! Ref: JSON Schema 2020-12, which OpenAPI 3.1 schemas are.

use std::sync::LazyLock;

use serde_json::{Map, Value, json};
use utoipa::{PartialSchema as _, ToSchema as _};

use crate::record::session::Session;

/// The schema as it stands in `docs/pukka-session.schema.json`.
#[must_use]
pub fn schema() -> &'static Value {
    static SCHEMA: LazyLock<Value> = LazyLock::new(make);
    &SCHEMA
}

fn make() -> Value {
    let mut parts = Vec::new();
    Session::schemas(&mut parts);
    let mut defs: Map<String, Value> =
        parts.into_iter().map(|(name, part)| (name, serde_json::to_value(part).unwrap_or_default())).collect();
    defs.remove(&*Session::name());
    let mut whole = json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "pukka-session",
        "$defs": defs,
    });
    if let (Some(whole), Value::Object(own)) = (whole.as_object_mut(), serde_json::to_value(Session::schema()).unwrap_or_default()) {
        whole.extend(own);
    }
    point_inside(&mut whole);
    whole["properties"]["format"] = json!({ "const": crate::record::session::FORMAT, "description": "Says what the file is." });
    whole["properties"]["version"] = json!({ "const": crate::record::session::VERSION, "description": "Version of the shape." });
    whole
}

/// Parts stand under `$defs` in a schema of its own, not under `components`.
fn point_inside(value: &mut Value) {
    match value {
        Value::Object(map) => {
            if let Some(Value::String(to)) = map.get_mut("$ref")
                && let Some(name) = to.strip_prefix("#/components/schemas/")
            {
                *to = format!("#/$defs/{name}");
            }
            map.values_mut().for_each(point_inside);
        }
        Value::Array(list) => list.iter_mut().for_each(point_inside),
        _ => {}
    }
}

/// Content of a document that the schema does not know.
#[derive(Debug, Default, PartialEq)]
pub(super) struct Strays {
    /// JSON pointers of keys that it does not know.
    pub unknown: Vec<String>,
    /// JSON pointers of lists that stand where an object has to.
    pub not_objects: Vec<String>,
}

/// Finds them.
pub(super) fn strays(document: &Value) -> Strays {
    let mut found = Strays::default();
    walk(document, schema(), "", &mut found);
    found
}

fn resolve(part: &Value) -> &Value {
    let named = part.get("$ref").and_then(Value::as_str).and_then(|to| to.strip_prefix('#')).and_then(|at| schema().pointer(at));
    named.map_or(part, resolve)
}

/// The objects that a value here may be: one, or one of several kinds.
fn objects(part: &Value) -> Vec<&Map<String, Value>> {
    let part = resolve(part);
    let choices = ["oneOf", "anyOf", "allOf"].into_iter().filter_map(|key| part.get(key)?.as_array()).flatten();
    let own = part.get("properties").and_then(Value::as_object);
    own.into_iter().chain(choices.flat_map(objects)).collect()
}

fn items(part: &Value) -> Option<&Value> {
    let part = resolve(part);
    part.get("items").or_else(|| ["oneOf", "anyOf"].into_iter().filter_map(|key| part.get(key)?.as_array()).flatten().find_map(items))
}

fn walk(value: &Value, part: &Value, at: &str, found: &mut Strays) {
    match value {
        Value::Object(map) => {
            let kinds = objects(part);
            if kinds.is_empty() {
                return;
            }
            for (key, inner) in map {
                let here = format!("{at}/{}", key.replace('~', "~0").replace('/', "~1"));
                match kinds.iter().find_map(|known| known.get(key)) {
                    Some(part) => walk(inner, part, &here, found),
                    None => found.unknown.push(here),
                }
            }
        }
        Value::Array(list) => match items(part) {
            Some(part) => list.iter().enumerate().for_each(|(i, inner)| walk(inner, part, &format!("{at}/{i}"), found)),
            None if !objects(part).is_empty() => found.not_objects.push(at.to_owned()),
            None => {}
        },
        _ => {}
    }
}
