//! Reading and writing the open session file: nothing in it is dropped, and what is not known is named.
//!
//! Most objects keep the keys they do not know themselves. For the small ones inside them (a price, a level step, a wiring),
//! the nearest of [`anchor`]'s keeps such a key under [`INSIDE`], with the place it came from, and puts it back when the file
//! is written.

use serde_json::{Map, Value};

use crate::kernel::problem::{Problem, read_json};
use crate::record::session::Session;
use crate::record::session::schema::strays;

/// The key under which unknown keys of small objects inside a record are kept.
const INSIDE: &str = "kept_inside";

/// A session file as it was read.
#[derive(Debug, Clone, PartialEq)]
pub struct SessionFile {
    /// Value shown.
    pub session: Session,
    /// Paths of the keys that this version does not know: kept, and reported.
    pub unknown: Vec<String>,
}

impl SessionFile {
    /// Reads a session file.
    ///
    /// # Errors
    /// Every [`Problem`] found, each with its path in the file.
    pub fn read(text: &[u8]) -> Result<Self, Vec<Problem>> {
        let text = text.strip_prefix(b"\xef\xbb\xbf").unwrap_or(text);
        let mut document: Value = read_json(text).map_err(|problem| vec![problem])?;
        let filled = fill_mixed(&mut document).then(|| document.to_string());
        let text = filled.as_ref().map_or(text, |filled| filled.as_bytes());
        let mut session: Session = read_json(text).map_err(|problem| vec![problem])?;
        let strays = strays(&document);
        let mut problems: Vec<Problem> =
            strays.not_objects.iter().map(|at| Problem::new(path(at), "This has to be an object, not a list.")).collect();
        problems.extend(session.check());
        if !problems.is_empty() {
            return Err(problems);
        }
        let written = serde_json::to_value(&session).map_err(|why| vec![Problem::new("", why.to_string())])?;
        for at in strays.unknown.iter().filter(|at| written.pointer(at).is_none()) {
            if let (Some((room, rest)), Some(value)) = (anchor(&mut session, at), document.pointer(at)) {
                let kept = room.entry(INSIDE).or_insert_with(|| Value::Object(Map::new()));
                if let Some(kept) = kept.as_object_mut() {
                    kept.insert(rest.to_owned(), value.clone());
                }
            }
        }
        Ok(Self { session, unknown: strays.unknown.iter().map(|at| path(at)).collect() })
    }
}

/// A mixed wiring says its loads itself: where the one load beside it is left out, or is that of another of its groups, it is that
/// of the first. Says whether anything was filled in.
fn fill_mixed(document: &mut Value) -> bool {
    let mut filled = false;
    for (list, key) in [("/runs", "load_nominal_ohm"), ("/claims", "load_ohm"), ("/plan/rungs", "load_ohm"), ("/gates", "load_ohm")] {
        let records = document.pointer_mut(list).and_then(Value::as_array_mut);
        for record in records.into_iter().flatten().filter_map(Value::as_object_mut) {
            let Some(groups) = record.get("wiring").and_then(|wiring| wiring.get("groups")).and_then(Value::as_array) else { continue };
            let loads: Vec<Value> = groups.iter().filter_map(|group| group.get("load_ohm").cloned()).collect();
            let Some(first) = loads.first().cloned() else { continue };
            let known = record.get(key).filter(|load| !load.is_null());
            if known.is_none_or(|load| *load != first && loads.contains(load)) {
                record.insert(key.to_owned(), first);
                filled = true;
            }
        }
    }
    filled
}

impl Session {
    /// The session as a file, with every key that came with it where it was.
    ///
    /// # Errors
    /// When it cannot be written as JSON.
    pub fn to_file(&self) -> Result<Value, serde_json::Error> {
        let mut document = serde_json::to_value(self)?;
        put_back(&mut document);
        for at in ["/amplifier", "/bench"] {
            document.pointer_mut(at).map(put_back);
        }
        for at in ["/claims", "/gates", "/runs", "/plan/rungs"] {
            if let Some(Value::Array(list)) = document.pointer_mut(at) {
                list.iter_mut().for_each(put_back);
            }
        }
        Ok(document)
    }
}

/// The record that keeps a stray key, and where inside it the key stands.
fn anchor<'a, 'b>(session: &'a mut Session, at: &'b str) -> Option<(&'a mut Map<String, Value>, &'b str)> {
    let inside = |list: &str| -> Option<(usize, &'b str)> {
        let rest = at.strip_prefix(list)?.strip_prefix('/')?;
        let end = rest.find('/')?;
        Some((rest.get(..end)?.parse().ok()?, rest.get(end..)?))
    };
    if let Some((i, rest)) = inside("/claims") {
        return Some((&mut session.claims.get_mut(i)?.extra, rest));
    }
    if let Some((i, rest)) = inside("/gates") {
        return Some((&mut session.gates.get_mut(i)?.extra, rest));
    }
    if let Some((i, rest)) = inside("/runs") {
        return Some((&mut session.runs.get_mut(i)?.extra, rest));
    }
    if let Some((i, rest)) = inside("/plan/rungs") {
        return Some((&mut session.plan.rungs.get_mut(i)?.extra, rest));
    }
    for (record, room) in [("/amplifier", &mut session.amplifier.extra), ("/bench", &mut session.bench.extra)] {
        if let Some(rest) = at.strip_prefix(record).filter(|rest| rest.starts_with('/')) {
            return Some((room, rest));
        }
    }
    Some((&mut session.extra, at))
}

fn put_back(record: &mut Value) {
    let Some(Value::Object(kept)) = record.as_object_mut().and_then(|map| map.remove(INSIDE)) else { return };
    for (at, value) in kept {
        let Some((parent, key)) = at.rsplit_once('/') else { continue };
        let key = key.replace("~1", "/").replace("~0", "~");
        // What it stood in may be gone since: a price taken away takes its unknown keys along.
        if let Some(Value::Object(map)) = record.pointer_mut(parent) {
            map.entry(key).or_insert(value);
        }
    }
}

/// `/claims/2/price/vat` as `claims[2].price.vat`.
fn path(at: &str) -> String {
    let mut words = String::new();
    for part in at.split('/').skip(1) {
        if part.parse::<usize>().is_ok() {
            words.push_str(&format!("[{part}]"));
        } else {
            if !words.is_empty() {
                words.push('.');
            }
            words.push_str(&part.replace("~1", "/").replace("~0", "~"));
        }
    }
    words
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use super::*;
    use crate::record::session::{examples, schema};

    #[test]
    fn unknown_keys_are_kept_wherever_they_stand_and_reported() {
        let mut file = examples::mono_1100().to_file().unwrap();
        let strays = [
            ("/amplifier/price", json!({ "amount": 139.0, "currency": "GBP", "on": "2026-10-02", "vat": { "rate": 0.2 } })),
            ("/weather", json!("wet")),
            ("/policy/mood", json!(null)),
            ("/amplifier/floors/0/printed", json!(true)),
            ("/claims/1/page", json!(4)),
            ("/claims/1/wiring/jumper", json!("J2")),
            ("/runs/2/outputs/0/probe", json!([1, 2])),
            ("/bench/supply/cells", json!(6)),
            ("/plan/shift", json!("late")),
        ];
        for (at, value) in strays {
            let (parent, key) = at.rsplit_once('/').unwrap();
            file.pointer_mut(parent).unwrap().as_object_mut().unwrap().insert(key.into(), value);
        }
        let read = SessionFile::read(&serde_json::to_vec(&file).unwrap()).unwrap();
        let mut named = read.unknown.clone();
        named.sort();
        assert_eq!(
            named,
            [
                "amplifier.floors[0].printed",
                "amplifier.price.vat",
                "bench.supply.cells",
                "claims[1].page",
                "claims[1].wiring.jumper",
                "plan.shift",
                "policy.mood",
                "runs[2].outputs[0].probe",
                "weather"
            ]
        );
        assert_eq!(read.session.to_file().unwrap(), file, "and nothing is lost on the way back");
        let mut cheaper = read.session;
        cheaper.amplifier.price = None;
        assert_eq!(cheaper.to_file().unwrap()["amplifier"]["price"], Value::Null, "what it stood in is gone");
    }

    #[test]
    fn what_may_be_left_out_may_be_null() {
        let file = examples::mono_1100().to_file().unwrap();
        let mut nulls = file.clone();
        for (at, usual) in [
            ("/plan", json!({ "order": "rung", "rest_v": null, "rungs": [] })),
            ("/gates", json!([])),
            ("/amplifier/output_fuses_a", json!([])),
            ("/claims/0/used", json!(true)),
            ("/runs/0/valid", json!(true)),
        ] {
            *nulls.pointer_mut(at).unwrap() = Value::Null;
            let mut said = file.clone();
            *said.pointer_mut(at).unwrap() = usual;
            let read = |file: &Value| SessionFile::read(&serde_json::to_vec(file).unwrap()).unwrap().session;
            let left = {
                let mut one = file.clone();
                *one.pointer_mut(at).unwrap() = Value::Null;
                one
            };
            assert_eq!(read(&left), read(&said), "{at}");
        }
        nulls["amplifier"]["channels"] = Value::Null;
        assert_eq!(SessionFile::read(&serde_json::to_vec(&nulls).unwrap()).unwrap_err()[0].path, "amplifier.channels");
    }

    #[test]
    fn a_list_is_no_object_and_a_byte_order_mark_is_no_error() {
        let mut file = examples::mono_1100().to_file().unwrap();
        let text = [b"\xef\xbb\xbf".to_vec(), serde_json::to_vec(&file).unwrap()].concat();
        assert_eq!(SessionFile::read(&text).unwrap().session, examples::mono_1100());
        file["policy"] = json!(["best", 0.01]);
        assert_eq!(SessionFile::read(&serde_json::to_vec(&file).unwrap()).unwrap_err()[0].path, "policy");
    }

    #[test]
    fn the_schema_in_the_documents_is_the_one_of_the_types() {
        let documented: Value = serde_json::from_str(include_str!("../../../../../docs/pukka-session.schema.json")).unwrap();
        assert!(&documented == schema::schema(), "run cargo xtask types");
    }
}
