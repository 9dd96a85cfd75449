//! Everything that was written of an amplifier and its session, as one text for a search.

use serde::Serialize;
use serde_json::Value;

use crate::record::session::Session;
use crate::report::summary::folded;

/// Longest text that is kept of one session: what is behind it is not found.
const LONGEST: usize = 60_000;

/// Names of fields whose texts are no words of a person.
const NO_WORDS: [&str; 8] = ["id", "amplifier_id", "sha256", "salt", "kind", "shape", "code", "currency"];

/// Every text in a record, in its order.
fn texts(value: &Value, into: &mut String) {
    match value {
        Value::String(text) => {
            if into.len() + text.len() < LONGEST {
                into.push_str(text);
                into.push('\n');
            }
        }
        Value::Array(all) => all.iter().for_each(|one| texts(one, into)),
        Value::Object(fields) => {
            fields.iter().filter(|(name, _)| !NO_WORDS.contains(&name.as_str())).for_each(|(_, one)| texts(one, into));
        }
        Value::Null | Value::Bool(_) | Value::Number(_) => {}
    }
}

fn gather(record: &impl Serialize, into: &mut String) {
    if let Ok(value) = serde_json::to_value(record) {
        texts(&value, into);
    }
}

/// Everything that was written, in lower case and without accents. Sealed guesses are no part of it.
#[must_use]
pub fn written(session: &Session) -> String {
    let mut all = String::new();
    gather(&session.amplifier, &mut all);
    gather(&session.post_mortem, &mut all);
    gather(&session.repairs, &mut all);
    gather(&session.listening, &mut all);
    gather(&session.occasion, &mut all);
    gather(&session.footage_from, &mut all);
    for claim in &session.claims {
        gather(&claim.setting, &mut all);
    }
    for gate in &session.gates {
        gather(&(&gate.reason, &gate.second_reason), &mut all);
    }
    for run in &session.runs {
        gather(&(&run.note, &run.reason, &run.setting, &run.accepted), &mut all);
    }
    folded(&all)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::examples::mono_1100;

    #[test]
    fn what_a_person_wrote_is_in_it_and_what_a_program_wrote_is_not() {
        let mut session = mono_1100();
        session.amplifier.notes = Some("Café in the van".into());
        session.runs[2].note = Some("smelt of varnish".into());
        session.guesses = serde_json::from_value(serde_json::json!({ "sha256": "0".repeat(64), "sealed_at": "2026-11-20T09:00:00Z",
            "salt": "grit", "sealed": true, "list": [{ "by": "Wren", "power_w": 900.0 }] }))
        .unwrap();
        let text = written(&session);
        assert!(text.contains("cafe in the van") && text.contains("smelt of varnish") && text.contains("mono 1100"), "{text}");
        assert!(!text.contains("wren") && !text.contains("grit") && !text.contains("certified"), "{text}");
        session.amplifier.notes = Some("x".repeat(LONGEST));
        assert!(written(&session).len() < LONGEST);
    }
}
