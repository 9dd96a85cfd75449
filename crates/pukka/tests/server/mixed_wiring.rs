//! A three-channel hook-up from its claim to its sheet, out as a file and in elsewhere.

use crate::common::Bench;
use serde_json::{Value, json};

fn mixed(pair_ohm: f64) -> Value {
    json!({ "kind": "mixed", "groups": [
        { "wiring": { "kind": "channels", "driven": 2 }, "load_ohm": 4.0 },
        { "wiring": { "kind": "bridged", "pairs": 1 }, "load_ohm": pair_ohm, "tone_hz": 40.0 },
    ]})
}

const RUNG: &str = "mixed~channels-2-4~bridged-1-4-40@4@1000";

fn on_the_bench() -> (Bench, String, String) {
    let bench = Bench::start();
    let four = |amplifier: &mut Value| {
        amplifier["channels"] = json!(4);
        amplifier["purpose"] = json!("full-range");
        amplifier["floors"] = json!([{ "wiring": { "kind": "channels", "driven": 4 }, "load_ohm": 2.0 }]);
    };
    let (id, session) = bench.amplifier(four, &[]);
    let claim = json!({ "source": "manual", "wiring": mixed(4.0), "load_ohm": 4.0, "group_power_w": [75.0, 300.0], "per": "output",
        "kind": "rms", "supply_v": 14.4, "thd_limit_ratio": 0.01 });
    assert_eq!(bench.post(&format!("/api/amplifiers/{id}/claims"), &claim).status, 201);
    (bench, id, session)
}

#[test]
fn it_is_claimed_run_judged_and_taken_elsewhere() {
    let (bench, id, session) = on_the_bench();
    let ladder = bench.get(&format!("/api/sessions/{session}/ladder")).json();
    assert_eq!((&ladder["ladder"]["rungs"][0]["key"], &ladder["ladder"]["rungs"][0]["label"]), (&json!(RUNG), &json!("4 + 4\u{202f}Ω")));
    let set = json!({ "rung": RUNG, "set": { "wiring": mixed(4.0), "load_ohm": 4.0, "tone_hz": 1000.0, "rest_v": 14.6,
        "group_loads_measured_ohm": [3.9, 3.96] } });
    let put = bench.send("PUT", &format!("/api/sessions/{session}/rungs"), &set.to_string(), &[("if-match", "0")]);
    assert_eq!(put.status, 200, "{}", put.text);
    let typed = |line: &str| json!({ "rung": RUNG, "mode": "certified", "line": line });
    let runs = format!("/api/sessions/{session}/runs");
    let one = bench.post(&runs, &typed("sub:33vr 14.4 52"));
    assert_eq!(one.status, 422);
    assert!(one.text.contains("type all 3 outputs in this order, or one of each group"), "{}", one.text);
    let logged = bench.post(&runs, &typed("17.6vrx2+33vr 14.4v 52a"));
    assert_eq!(logged.status, 201, "{}", logged.text);
    let verdict = bench.get(&format!("/api/sessions/{session}/verdict")).json();
    // 2 × 17.6²/3.9 + 33²/3.96 = 158.9 + 275 = 433.9 W of 450 W
    assert_eq!(verdict["view"]["rows"][0]["outcome"], "short");
    assert_eq!(verdict["view"]["rows"][0]["bars"][0]["total"]["text"], "434");
    assert!(
        verdict["view"]["rows"][0]["remarks"][0].as_str().unwrap().contains("8.3\u{202f}% short"),
        "{}",
        verdict["view"]["rows"][0]["remarks"]
    );
    let sheet = bench.get(&format!("/api/sessions/{session}/sheet")).json();
    assert_eq!(sheet["rows"][0]["load"], "4 + 4\u{202f}Ω (3.9 + 3.96 real)");

    let file = bench.get(&format!("/api/amplifiers/{id}/file?kind=full"));
    let other = Bench::start();
    let import = other.send("POST", "/api/imports", &file.text, &[("content-type", "application/octet-stream")]).json();
    let taken = import["amplifier_id"].as_str().unwrap();
    let again = other.get(&format!("/api/amplifiers/{taken}/file?kind=full")).json();
    let (was, is): (Value, Value) = (file.json(), again);
    for part in ["claims", "runs"] {
        assert_eq!(was[part][0]["wiring"], is[part][0]["wiring"], "{part}");
    }
    assert_eq!(was["runs"][0]["outputs"], is["runs"][0]["outputs"]);
    assert_eq!(was["runs"][0]["group_loads_measured_ohm"], json!([3.9, 3.96]));
    assert_eq!(is["claims"][0]["group_power_w"], json!([75.0, 300.0]));
}

#[test]
fn one_group_below_its_floor_gates_all_of_it() {
    let (bench, _, session) = on_the_bench();
    let low = json!({ "rung": null, "set": { "wiring": mixed(3.0), "load_ohm": 4.0 } });
    let added = bench.send("PUT", &format!("/api/sessions/{session}/rungs"), &low.to_string(), &[("if-match", "0")]);
    assert_eq!(added.status, 200, "{}", added.text);
    let key = added.json()["rung"].as_str().unwrap().to_owned();
    let ladder = bench.get(&format!("/api/sessions/{session}/ladder")).json();
    let rung = ladder["ladder"]["rungs"].as_array().unwrap().iter().find(|rung| rung["key"] == key.as_str()).unwrap();
    let gate = &rung["cells"][0]["gates"][0];
    assert_eq!((&gate["code"], &gate["title"]), (&json!("below-floor"), &json!("3\u{202f}Ω is below the maker’s minimum load.")));
    let armed = bench.post(&format!("/api/sessions/{session}/armed"), &json!({ "rung": key, "mode": "certified" }));
    assert_eq!(armed.status, 409, "{}", armed.text);
    let wrong = json!({ "rung": null, "set": { "wiring": mixed(2.0), "load_ohm": 2.0 } });
    let refused = bench.send("PUT", &format!("/api/sessions/{session}/rungs"), &wrong.to_string(), &[("if-match", "0")]);
    assert!(refused.text.contains("The load of a mixed wiring is that of its first group"), "{}", refused.text);
}
