//! The session file: every figure against what cannot be, every word, every reference; and what survives a round trip.

use proptest::prelude::*;
use pukka_core::assess::judge;
use pukka_core::kernel::problem::Problem;
use pukka_core::record::session::Session;
use pukka_core::record::session::examples::mono_1100;
use serde_json::{Value, json};

fn file() -> Value {
    let mut value = serde_json::to_value(mono_1100()).unwrap();
    value["gates"] = json!([{ "code": "fuses", "load_ohm": 1.0, "mode": "dynamic", "reason": "agreed", "by": "M. Tarrow",
        "owner_consent": { "by": "M. Tarrow", "on": "2026-11-20", "who_pays": "we do" } }]);
    value["runs"][0]["outputs"][0]["also"] = json!([{ "power_w": 441.0 }]);
    value["runs"][0]["temperature_c"] = json!(41.0);
    value
}

fn read(value: &Value) -> Result<Session, Vec<Problem>> {
    Session::read(&serde_json::to_vec(value).unwrap())
}

fn refused(pointer: &str, bad: Value) -> Vec<String> {
    let mut value = file();
    *value.pointer_mut(pointer).unwrap_or_else(|| panic!("the file has no {pointer}")) = bad;
    read(&value).unwrap_err().into_iter().map(|problem| problem.path).collect()
}

/// `/runs/0/end_v` as the path of a problem: `runs[0].end_v`.
fn path(pointer: &str) -> String {
    let mut path = String::new();
    for part in pointer[1..].split('/') {
        if part.parse::<usize>().is_ok() {
            path.push_str(&format!("[{part}]"));
        } else {
            if !path.is_empty() {
                path.push('.');
            }
            path.push_str(part);
        }
    }
    path
}

#[test]
fn the_file_itself_is_sound() {
    assert!(read(&file()).is_ok());
}

#[test]
fn every_figure_refuses_what_cannot_be() {
    let figures = [
        "/amplifier/fuses_a/1",
        "/amplifier/max_supply_v",
        "/amplifier/floors/0/load_ohm",
        "/amplifier/price/amount",
        "/claims/0/load_ohm",
        "/claims/0/power_w",
        "/claims/0/supply_v",
        "/bench/supply/lead_fuse_a",
        "/bench/loads/0/nominal_ohm",
        "/bench/loads/0/measured_ohm",
        "/bench/loads/0/tolerance_ratio",
        "/bench/loads/0/ten_second_w",
        "/bench/meters/0/reading_ratio",
        "/policy/thd_limit_ratio",
        "/idle/current_a",
        "/plan/rest_v",
        "/plan/rungs/0/load_ohm",
        "/plan/rungs/0/tone_hz",
        "/gates/0/load_ohm",
        "/runs/0/load_nominal_ohm",
        "/runs/0/load_measured_ohm",
        "/runs/0/tone_hz",
        "/runs/0/limit_ratio",
        "/runs/0/outputs/0/power_w",
        "/runs/0/outputs/0/also/0/power_w",
        "/runs/0/rest_v",
        "/runs/0/end_v",
        "/runs/0/current_a",
        "/runs/0/thd_ratio",
    ];
    for pointer in figures {
        for bad in [json!(-1), json!(1e12), json!("4"), json!([]), json!(true)] {
            assert_eq!(refused(pointer, bad.clone()), [path(pointer)], "{pointer} = {bad}");
        }
    }
    for pointer in ["/claims/0/load_ohm", "/claims/0/power_w", "/runs/0/load_nominal_ohm", "/runs/0/end_v", "/plan/rungs/0/load_ohm"] {
        assert_eq!(refused(pointer, json!(0)), [path(pointer)], "no {pointer} of nothing");
    }
}

#[test]
fn every_word_is_one_that_is_known() {
    let words = [
        "/amplifier/class",
        "/amplifier/purpose",
        "/amplifier/supply_type",
        "/amplifier/provenance",
        "/amplifier/topology",
        "/claims/0/kind",
        "/claims/0/per",
        "/bench/supply/kind",
        "/bench/meters/0/quantity",
        "/policy/repeats",
        "/plan/order",
        "/gates/0/code",
        "/gates/0/mode",
        "/runs/0/mode",
        "/runs/0/method",
    ];
    for pointer in words {
        assert_eq!(refused(pointer, json!("loud")), [path(pointer)], "{pointer}");
    }
    for (pointer, bad) in [("/runs/0/at", "yesterday"), ("/amplifier/price/on", "the 2nd"), ("/gates/0/owner_consent/on", "soon")] {
        assert_eq!(refused(pointer, json!(bad)), [path(pointer)]);
    }
    assert_eq!(refused("/version", json!(2)), ["version"]);
    assert_eq!(refused("/format", json!("something-else")), ["format"]);
}

#[test]
fn every_reference_is_to_something_there() {
    let mut value = file();
    value["runs"][3]["supersedes"] = json!("r99");
    value["runs"][3]["reason"] = json!("slip");
    value["runs"][4]["outputs"][0]["meter"] = json!("m9");
    value["runs"][5]["wiring"] = json!({ "kind": "channels", "driven": 2 });
    value["claims"][1]["id"] = json!("c1");
    let found: Vec<String> = read(&value).unwrap_err().into_iter().map(|problem| problem.path).collect();
    assert_eq!(found, ["claims[1].id", "runs[3].supersedes", "runs[4].outputs[0].meter", "runs[5].wiring"], "all of them at once");
}

#[test]
fn a_rung_or_a_claim_that_the_amplifier_has_no_channels_for() {
    let mut value = file();
    value["plan"]["rungs"][1]["wiring"] = json!({ "kind": "bridged", "pairs": 1 });
    value["claims"][2]["wiring"] = json!({ "kind": "channels", "driven": 2 });
    let found: Vec<String> = read(&value).unwrap_err().into_iter().map(|problem| problem.path).collect();
    assert_eq!(found, ["claims[2].wiring", "plan.rungs[1].wiring"]);
    let session = read(&file()).unwrap();
    assert_eq!(session.misfits(&session.amplifier), None);
}

#[test]
fn what_is_left_out_takes_its_default_and_what_is_needed_is_asked_for() {
    let short = json!({
        "format": "pukka-session", "version": 1,
        "amplifier": { "make": "Fennway", "model": "Slim 75.2", "class": "D", "purpose": "full-range", "supply_type": "unknown",
                       "channels": 2, "provenance": "bought" },
        "runs": [{ "id": "r1", "at": "2026-11-20T10:04:00Z", "wiring": { "kind": "channels", "driven": 2 }, "load_nominal_ohm": 4,
                   "mode": "certified", "tone_hz": 1000, "outputs": [{ "power_w": 70 }] }]
    });
    let session = read(&short).unwrap();
    assert_eq!(session.policy.thd_limit_ratio.get(), 0.01);
    assert!(session.runs[0].valid && !session.runs[0].ungated);
    assert_eq!(judge(&session).runs[0].total_w, Some(140.0));
    for (parent, field) in [("", "amplifier"), ("/amplifier", "channels"), ("/runs/0", "load_nominal_ohm"), ("/runs/0", "mode")] {
        let mut value = short.clone();
        value.pointer_mut(parent).unwrap().as_object_mut().unwrap().remove(field);
        let problems = read(&value).unwrap_err();
        assert_eq!(problems[0].says, format!("{field} is missing."));
    }
}

#[test]
fn keys_we_do_not_know_survive_where_they_are_kept() {
    let mut value = file();
    for pointer in ["", "/amplifier", "/claims/2", "/bench", "/runs/4"] {
        value.pointer_mut(pointer).unwrap()["from_elsewhere"] = json!({ "deep": [1, "two", null] });
    }
    let again = serde_json::to_value(read(&value).unwrap()).unwrap();
    for pointer in ["", "/amplifier", "/claims/2", "/bench", "/runs/4"] {
        assert_eq!(again.pointer(pointer).unwrap()["from_elsewhere"]["deep"][1], "two", "{pointer}");
    }
}

#[test]
fn a_text_that_is_no_session_is_refused_and_never_panics() {
    for text in ["", "{", "null", "[]", "{\"format\":\"pukka-session\"}", "\u{feff}{}", "{\"format\":1e999}", "{\"a\":{\"a\":{\"a\":{}}}}"]
    {
        assert!(!Session::read(text.as_bytes()).unwrap_err().is_empty(), "{text}");
    }
    let deep = "[".repeat(200_000);
    assert!(Session::read(deep.as_bytes()).is_err(), "depth is bounded");
    assert!(Session::read(&[0xff, 0xfe, 0x00]).is_err());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]
    #[test]
    fn any_readings_come_back_to_the_last_digit(power in 0.0f64..5_000.0, volts in 6.0f64..16.0, amps in 0.0f64..400.0, load in 0.1f64..16.0, thd in 0.0f64..0.5) {
        let mut value = file();
        let run = &mut value["runs"][2];
        run["outputs"][0]["power_w"] = json!(power);
        run["end_v"] = json!(volts);
        run["current_a"] = json!(amps);
        run["load_measured_ohm"] = json!(load);
        run["thd_ratio"] = json!(thd);
        let session = read(&value).unwrap();
        let again = read(&serde_json::to_value(&session).unwrap()).unwrap();
        prop_assert_eq!(&again, &session);
        let run = &again.runs[2];
        prop_assert_eq!(run.outputs[0].power_w.map(|w| w.get()), Some(power));
        prop_assert_eq!((run.end_v.map(|v| v.get()), run.current_a.map(|a| a.get())), (Some(volts), Some(amps)));
    }

    #[test]
    fn random_bytes_never_panic(bytes in prop::collection::vec(any::<u8>(), 0..200)) {
        prop_assert!(Session::read(&bytes).is_err());
    }
}
