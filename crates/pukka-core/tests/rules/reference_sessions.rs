//! Sessions with the sum written out beside each figure that is expected: `reference/judgements.json`. Watts at the reference are
//! held to a relative 10⁻⁵, the last digit that the sums are written to.

use std::collections::BTreeMap;

use proptest::prelude::*;
use pukka_core::assess::{Judgement, judge};
use pukka_core::record::session::Session;
use serde_json::{Value, json};

const FILE: &str = include_str!("../reference/judgements.json");

fn cases() -> Vec<Value> {
    serde_json::from_str(FILE).unwrap()
}

/// The whole session that a short case stands for.
fn session(case: &Value) -> Session {
    let claims: Vec<Value> = case["claims"]
        .as_array()
        .unwrap()
        .iter()
        .map(|claim| {
            let mut whole = json!({ "source": "manual", "thd_limit_ratio": 0.01, "used": true });
            whole.as_object_mut().unwrap().extend(claim.as_object().unwrap().clone());
            whole
        })
        .collect();
    let runs: Vec<Value> = case["runs"].as_array().unwrap().iter().enumerate().map(|(i, run)| whole_run(i, run)).collect();
    let whole = json!({
        "format": "pukka-session", "version": 1,
        "amplifier": { "make": "Tolland & Pike", "model": "Reference", "class": "other", "purpose": "subwoofer", "supply_type": case["supply_type"],
                       "channels": case["channels"], "provenance": "bought", "floors": case["floors"] },
        "claims": claims, "runs": runs, "policy": { "repeats": case.get("repeats").cloned().unwrap_or(json!("best")) }
    });
    Session::read(&serde_json::to_vec(&whole).unwrap()).unwrap_or_else(|problems| panic!("{}: {problems:?}", case["name"]))
}

fn whole_run(i: usize, run: &Value) -> Value {
    let outputs: Vec<Value> = run["power_w"].as_array().unwrap().iter().map(|watts| json!({ "power_w": watts })).collect();
    json!({
        "id": run["id"], "at": format!("2026-11-20T10:{i:02}:00Z"), "wiring": run["wiring"], "load_nominal_ohm": run["load_ohm"],
        "mode": run["mode"], "tone_hz": 40.0, "outputs": outputs, "rest_v": 15.5, "end_v": run["end_v"]
    })
}

fn word(value: impl serde::Serialize) -> String {
    serde_json::to_value(value).unwrap().as_str().unwrap().to_owned()
}

fn holds(case: &Value, judgement: &Judgement) {
    let name = case["name"].as_str().unwrap();
    let sum = case["sum"].as_str().unwrap();
    assert!(sum.len() > 20, "{name}: the sum is to be written out");
    for (expected, claim) in case["expect"].as_array().unwrap().iter().zip(&judgement.claims) {
        let shown = serde_json::to_value(claim).unwrap();
        for field in ["outcome", "basis", "runs"] {
            assert_eq!(shown[field], expected[field], "{name}, {} {field}: {sum}\n{shown:#}", claim.id);
        }
        for flag in ["interpolated", "equivalent", "fits_as_total"] {
            assert_eq!(shown[flag], json!(expected[flag] == true), "{name}, {} {flag}", claim.id);
        }
        match (claim.at_reference_w, expected["at_reference_w"].as_array()) {
            (Some(found), Some(wanted)) => {
                for (found, wanted) in found.iter().zip(wanted) {
                    let wanted = wanted.as_f64().unwrap();
                    assert!((found / wanted - 1.0).abs() < 1e-5, "{name}, {}: {found} W and not {wanted}: {sum}", claim.id);
                }
            }
            (found, wanted) => assert!(found.is_none() && wanted.is_none(), "{name}, {}: {found:?} and not {wanted:?}", claim.id),
        }
    }
    assert_eq!(judgement.claims.len(), case["expect"].as_array().unwrap().len(), "{name}");
    assert_eq!(word(judgement.overall), case["overall"], "{name}: {sum}");
    let counts = (judgement.tested as u64, judgement.claims_in_use as u64, judgement.provisional);
    let wanted = (case["tested"].as_u64().unwrap(), case["claims_in_use"].as_u64().unwrap(), case["provisional"] == true);
    assert_eq!(counts, wanted, "{name}");
}

#[test]
fn every_sum_comes_out() {
    for case in &cases() {
        holds(case, &judge(&session(case)));
    }
}

#[test]
fn every_outcome_and_every_word_is_reached_by_two_at_least() {
    let (mut outcomes, mut words) = (BTreeMap::<String, usize>::new(), BTreeMap::<String, usize>::new());
    for case in &cases() {
        *words.entry(case["overall"].as_str().unwrap().to_owned()).or_default() += 1;
        for expected in case["expect"].as_array().unwrap() {
            *outcomes.entry(expected["outcome"].as_str().unwrap().to_owned()).or_default() += 1;
        }
    }
    assert_eq!(words.len(), 6, "{words:?}");
    assert!(words.values().all(|n| *n >= 2), "{words:?}");
    assert!(outcomes.len() >= 15, "{outcomes:?}");
    let rare: Vec<_> = outcomes.iter().filter(|(_, n)| **n < 2).collect();
    assert!(rare.is_empty(), "{rare:?}");
}

#[test]
fn a_session_survives_its_file() {
    for case in &cases() {
        let session = session(case);
        let again = Session::read(&serde_json::to_vec(&session).unwrap()).unwrap();
        assert_eq!(again, session);
        assert_eq!(judge(&again), judge(&session));
    }
}

fn rank(outcome: &str) -> usize {
    ["far-short", "short", "only-dynamic", "only-clipping", "cannot-tell", "holds-within", "holds", "beats"]
        .iter()
        .position(|known| *known == outcome)
        .unwrap()
}

proptest! {
    #[test]
    fn the_order_of_runs_in_the_file_never_matters(which in 0usize..23, seed in any::<u64>()) {
        let cases = cases();
        let case = &cases[which % cases.len()];
        let mut shuffled = session(case);
        let n = shuffled.runs.len();
        for i in (1..n).rev() {
            shuffled.runs.swap(i, (seed.rotate_left(i as u32 * 7) % (i as u64 + 1)) as usize);
        }
        let (a, b) = (judge(&session(case)), judge(&shuffled));
        prop_assert_eq!(a.claims, b.claims);
        prop_assert_eq!((a.overall, a.sentence), (b.overall, b.sentence));
    }

    #[test]
    fn inside_the_window_more_clean_watts_never_worsen_an_outcome(
        watts in 200.0f64..700.0, more in 0.0f64..200.0, volts in 13.5f64..15.3, supply in prop::sample::select(vec!["unregulated", "regulated", "unknown"]),
    ) {
        let outcome = |watts: f64| {
            let case = json!({
                "name": "property", "supply_type": supply, "channels": 1, "claims": [{ "id": "c1", "wiring": { "kind": "mono" }, "load_ohm": 4.0,
                "power_w": 450.0, "per": "output", "kind": "rms", "supply_v": 14.4 }],
                "runs": [{ "id": "r1", "wiring": { "kind": "mono" }, "load_ohm": 4.0, "mode": "certified", "power_w": [watts], "end_v": volts }]
            });
            let judgement = judge(&session(&case));
            assert!(judgement.checks.iter().all(|check| check.code == pukka_core::record::session::CheckCode::OutOfWindow), "the same checks: {:?}", judgement.checks);
            word(judgement.claims[0].outcome)
        };
        let (less, more) = (outcome(watts), outcome(watts + more));
        prop_assert!(rank(&more) >= rank(&less), "{} W: {less}, more: {more}", watts);
    }
}
