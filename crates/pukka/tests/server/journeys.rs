//! The path of the work over HTTP: claims, runs, gates, verdict, undo, a second tab.

use crate::common::{Bench, claim, mono};
use serde_json::{Value, json};

fn log(bench: &Bench, session: &str, rung: &str, mode: &str, line: &str) -> Value {
    let answer = bench.post(&format!("/api/sessions/{session}/runs"), &json!({ "rung": rung, "mode": mode, "line": line }));
    assert_eq!(answer.status, 201, "{}", answer.text);
    answer.json()
}

#[test]
fn from_a_claim_to_a_verdict() {
    let bench = Bench::start();
    let (id, session) = bench.amplifier(|_| {}, &[(4.0, 450.0), (2.0, 780.0)]);
    let next = log(&bench, &session, "mono@4@40", "certified", "447 14.38 41.2")["next"].clone();
    assert_eq!(next, json!({ "rung": "mono@4@40", "mode": "clipping" }));
    log(&bench, &session, "mono@4@40", "clipping", "462 14.33 45.9");
    log(&bench, &session, "mono@4@40", "dynamic", "489 14.52");
    log(&bench, &session, "mono@2@40", "certified", "771w 76.9a 14.19v 0.97% # steady");
    let verdict = bench.get(&format!("/api/sessions/{session}/verdict")).json();
    let outcomes: Vec<&str> = verdict["view"]["rows"].as_array().unwrap().iter().map(|row| row["outcome"].as_str().unwrap()).collect();
    assert_eq!(outcomes, ["holds-within", "holds"]);
    assert_eq!(verdict["view"]["overall_word"], "Pukka");
    assert_eq!(verdict["bars"].as_array().unwrap().len(), 2);
    assert_eq!(verdict["view"]["rows"][0]["bars"].as_array().unwrap().len(), 3);
    let shelf = bench.get("/api/amplifiers").json();
    assert_eq!(shelf["amplifiers"][0]["summary"]["state"], "verdict: pukka");
    assert_eq!(shelf["amplifiers"][0]["id"], json!(id));
    let csv = bench.get(&format!("/api/sessions/{session}/sheet.csv"));
    assert_eq!(csv.kind, "text/csv; charset=utf-8");
    assert_eq!(csv.text.lines().count(), 5);
    assert!(csv.text.contains(",771,") && csv.text.contains("power total (W)"), "{}", csv.text);
    let sheet = bench.get(&format!("/api/sessions/{session}/sheet")).json();
    assert_eq!(sheet["rows"].as_array().unwrap().len(), 4);
    assert_eq!(sheet["rows"][3]["remark"], "steady");
}

#[test]
fn a_preview_is_what_the_log_will_be() {
    let bench = Bench::start();
    let (_, session) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let preview = bench
        .post(
            &format!("/api/sessions/{session}/previews"),
            &json!({ "rung": "mono@4@40", "mode": "certified", "line": "447 14.38 41.2", "seq": 7 }),
        )
        .json();
    assert_eq!((&preview["seq"], &preview["not_yet"]), (&json!(7), &Value::Null));
    let id = log(&bench, &session, "mono@4@40", "certified", "447 14.38 41.2")["id"].as_str().unwrap().to_owned();
    let run = bench.get(&format!("/api/sessions/{session}/runs/{id}")).json();
    assert_eq!(run["figures"], preview["figures"]);
    assert_eq!(run["figures"]["efficiency"]["text"], "75.4");
    assert_eq!(run["line"], "447w 14.38v 41.2a");
}

#[test]
fn lines_that_a_key_may_make_are_each_what_they_would_be_alone() {
    let bench = Bench::start();
    let (_, session) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    log(&bench, &session, "mono@4@40", "certified", "440 14.38 41.2");
    let ask = |line: &str, also: Value| {
        let typed = json!({ "rung": "mono@4@40", "mode": "certified", "line": line, "seq": 1, "also": also });
        bench.post(&format!("/api/sessions/{session}/previews"), &typed)
    };
    let lines = ["447 14.38 4", "447 14.38 41", "447 14.38 41 x", ""];
    let together = ask("447 14.38", json!(lines)).json();
    for (line, also) in lines.iter().zip(together["also"].as_array().unwrap()) {
        let alone = ask(line, json!([])).json();
        for part in ["segments", "about", "not_yet", "checks"] {
            assert_eq!(alone[part], also[part], "{line}");
        }
        for figure in ["total", "input", "efficiency"] {
            assert_eq!(alone["figures"][figure]["value"], also["figures"][figure]["value"], "{line}");
        }
    }
    assert_ne!(together["also"][0]["checks"], together["also"][1]["checks"], "4 A for 447 W is not 41 A");
    let (status, code, problems) = ask("4", json!(vec!["44"; 17])).refusal();
    assert_eq!((status, code.as_str()), (422, "invalid"), "{problems:?}");
}

#[test]
fn a_rung_is_set_once_and_kept_and_its_runs_say_so() {
    let bench = Bench::start();
    let (_, session) = bench.amplifier(|_| {}, &[(4.0, 450.0), (2.0, 780.0)]);
    let set = json!({ "rung": "mono@4@40", "set": { "wiring": { "kind": "mono" }, "load_ohm": 4.0, "rest_v": 14.6, "load_measured_ohm": 3.91, "charger_on": false } });
    let place = format!("/api/sessions/{session}/rungs");
    assert_eq!(bench.send("PUT", &place, &set.to_string(), &[("if-match", "0")]).json()["rung"], "mono@4@40");
    let stale = bench.send("PUT", &place, &set.to_string(), &[("if-match", "0")]).refusal();
    assert_eq!((stale.0, stale.1.as_str()), (412, "changed-elsewhere"));
    let ladder = bench.get(&format!("/api/sessions/{session}/ladder")).json();
    assert_eq!(ladder["revisions"], json!({ "mono@4@40": 1, "mono@2@40": 0 }));
    assert_eq!(ladder["ladder"]["rungs"][1]["set"]["rest_v"], 14.6, "rest voltage carries over");
    assert_eq!(ladder["ladder"]["rungs"][1]["set"]["load_measured_ohm"], Value::Null, "a measured load does not");
    let id = log(&bench, &session, "mono@4@40", "certified", "41.8vr 14.38 41.2")["id"].as_str().unwrap().to_owned();
    let run = bench.get(&format!("/api/sessions/{session}/runs/{id}")).json();
    // 41.8² / 3.91 = 446.9 W, and 14.60 − 14.38 = 0.22 V
    assert_eq!((&run["figures"]["total"]["text"], &run["figures"]["sag"]["text"]), (&json!("447"), &json!("0.22")));
    let added = bench.send(
        "PUT",
        &place,
        &json!({ "rung": null, "set": { "wiring": { "kind": "mono" }, "load_ohm": 8.0, "tone_hz": 50 } }).to_string(),
        &[("if-match", "0")],
    );
    assert_eq!(added.json()["rung"], "mono@8@50");
}

#[test]
fn a_gated_run_asks_before_it_starts_and_stays_out_when_it_did_not() {
    let bench = Bench::start();
    let (_, session) = bench.amplifier(|body| body["fuses_a"] = json!([]), &[(2.0, 780.0)]);
    let add = json!({ "rung": null, "set": { "wiring": { "kind": "mono" }, "load_ohm": 0.67 } });
    assert_eq!(bench.send("PUT", &format!("/api/sessions/{session}/rungs"), &add.to_string(), &[("if-match", "0")]).status, 200);
    let runs = format!("/api/sessions/{session}/runs");
    let burst = json!({ "rung": "mono@0.67@40", "mode": "dynamic", "line": "1400 13.7" });
    let refused = bench.post(&runs, &burst).refusal();
    assert_eq!((refused.0, refused.1.as_str()), (409, "gated"));
    let mut happened = burst.clone();
    happened["happened"] = json!(true);
    assert_eq!(bench.post(&runs, &happened).json()["ungated"], true);
    let verdict = || bench.get(&format!("/api/sessions/{session}/verdict")).json()["view"].clone();
    assert_eq!(verdict()["ungated"], 1);
    let gates = format!("/api/sessions/{session}/gates");
    let reason = |reason: &str, by: &str, consent: Value| {
        json!({ "place": { "rung": "mono@0.67@40", "mode": "dynamic" },
                "opening": { "reason": reason, "by": by, "second_reason": "nobody has set a rest voltage yet", "owner_consent": consent } })
    };
    let consent = || json!({ "by": "its owner", "on": "2026-11-20", "who_pays": "its owner" });
    assert_eq!(bench.post(&gates, &reason(" ", "M. Tarrow", consent())).refusal().2, ["reason"]);
    assert_eq!(bench.post(&gates, &reason("owner agreed", "", consent())).refusal().2, ["by"]);
    assert_eq!(
        bench.post(&gates, &reason("owner agreed", "M. Tarrow", Value::Null)).refusal().2,
        ["owner_consent.by", "owner_consent.who_pays"]
    );
    assert_eq!(bench.post(&gates, &reason("owner agreed", "M. Tarrow", consent())).status, 204);
    assert_eq!(verdict()["ungated"], 0, "the reason lets it in");
    let said = verdict()["gates"][0].as_str().unwrap().to_owned();
    assert!(said.ends_with("below the floor: owner agreed."), "who opened it, who agreed and who pays is private: {said}");
    assert_eq!(bench.post(&runs, &burst).json()["ungated"], false);
    let certified = json!({ "rung": "mono@0.67@40", "mode": "certified", "line": "1400 13.7" });
    assert_eq!(bench.post(&runs, &certified).refusal().0, 409, "another mode is another gate");
    assert_eq!(bench.post("/api/undos", &json!({})).json()["says"], "logged 0.67\u{202f}Ω, dynamic");
    assert_eq!(bench.post("/api/undos", &json!({})).json()["says"], "opened a gate at 0.67 Ω");
    assert_eq!(verdict()["ungated"], 1, "a gate shut again keeps its run out again");
}

#[test]
fn enter_pressed_twice_logs_once() {
    let bench = Bench::start();
    let (_, session) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let body = json!({ "rung": "mono@4@40", "mode": "certified", "line": "447 14.38 41.2" }).to_string();
    let send = |key: &str, body: &str| bench.send("POST", &format!("/api/sessions/{session}/runs"), body, &[("idempotency-key", key)]);
    let (first, second) = (send("k", &body), send("k", &body));
    assert_eq!(first.json()["id"], second.json()["id"]);
    assert_eq!(send("k", &body.replace("447", "448")).refusal().1, "key-reused");
    let cell = bench.get(&format!("/api/sessions/{session}/ladder")).json()["ladder"]["rungs"][0]["cells"][0]["runs"].clone();
    assert_eq!(cell.as_array().unwrap().len(), 1);
}

#[test]
fn a_run_taken_back_leaves_the_verdict_and_comes_back_by_undo() {
    let bench = Bench::start();
    let (_, session) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let id = log(&bench, &session, "mono@4@40", "certified", "460 14.4 41.2")["id"].as_str().unwrap().to_owned();
    let outcome = || bench.get(&format!("/api/sessions/{session}/verdict")).json()["view"]["rows"][0]["outcome"].clone();
    assert_eq!(outcome(), "holds");
    let path = format!("/api/sessions/{session}/runs/{id}/withdrawal");
    assert_eq!(bench.post(&path, &json!({ "reason": "" })).refusal().2, ["reason"]);
    assert_eq!(bench.post(&path, &json!({ "reason": "wrong load switch" })).status, 204);
    assert_eq!(outcome(), "not-tested");
    assert_eq!(bench.get(&format!("/api/sessions/{session}/runs/{id}")).status, 200, "its readings stay to be seen");
    assert_eq!(bench.post("/api/undos", &json!({})).json()["says"], "took back a certified run");
    assert_eq!(outcome(), "holds");
}

#[test]
fn two_tabs_on_one_amplifier() {
    let bench = Bench::start();
    let (id, _) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let amplifier = format!("/api/amplifiers/{id}");
    let mut body = mono();
    body["model"] = json!("Mono 1100 B");
    let put = |tab: &str, revision: &str| bench.send("PUT", &amplifier, &body.to_string(), &[("x-pukka-tab", tab), ("if-match", revision)]);
    assert_eq!(put("a", "\"1\"").json()["revision"], 2);
    let refused = put("b", "\"1\"");
    assert_eq!(refused.refusal().1, "changed-elsewhere");
    assert!(refused.text.contains("Nothing was saved"));
    let claim_row = bench.get(&amplifier).json()["claims"][0].clone();
    let claim_path = format!("/api/claims/{}", claim_row["id"].as_str().unwrap());
    assert_eq!(bench.send("DELETE", &claim_path, "", &[("x-pukka-tab", "a"), ("if-match", "1")]).status, 204);
    assert_eq!(bench.send("PUT", &claim_path, &claim(4.0, 460.0).to_string(), &[("x-pukka-tab", "b"), ("if-match", "1")]).refusal().0, 404);
    assert_eq!(bench.send("POST", "/api/undos", "{}", &[("x-pukka-tab", "b")]).refusal().1, "nothing-to-undo", "each tab has its own");
    assert_eq!(bench.send("POST", "/api/undos", "{}", &[("x-pukka-tab", "a")]).json()["says"], "removed a claim");
    assert_eq!(bench.get(&amplifier).json()["claims"][0]["claim"], claim_row["claim"]);
}

#[test]
fn the_description_and_the_front_end_are_served_with_their_policy() {
    let bench = Bench::start();
    let described = bench.get("/api/openapi.json").json();
    let paths = described["paths"].as_object().unwrap();
    assert!(paths.contains_key("/api/sessions/{id}/previews") && paths.contains_key("/api/undos"), "{paths:?}");
    assert_eq!(described["info"]["license"]["name"], "MIT OR Apache-2.0");
    let response = crate::common::agent().get(&bench.url).call().unwrap();
    let policy = response.headers()["content-security-policy"].to_str().unwrap().to_owned();
    assert!(policy.contains("default-src 'self'") && !policy.contains("script-src"), "scripts only from here: {policy}");
    assert_eq!(response.headers()["x-content-type-options"], "nosniff");
    assert_eq!(bench.get("/assets/none.js").status, 404, "an asset that is missing is not answered with a page");
}

#[test]
fn a_pasted_spec_table_is_read_first_and_added_only_when_approved() {
    let bench = Bench::start();
    let (id, _) = bench.amplifier(|body| body["floors"] = json!([]), &[]);
    let text = "Continuous power (14.4 V, 1 % THD)\n4 Ω: 450 W\n2 Ω: 780 W\nMax power 2,400 W\nColour: black";
    let pasted = bench.post(&format!("/api/amplifiers/{id}/spec-tables"), &json!({ "text": text })).json();
    let watts: Vec<f64> = pasted["claims"].as_array().unwrap().iter().map(|claim| claim["power_w"].as_f64().unwrap()).collect();
    assert_eq!(watts, [450.0, 780.0, 2_400.0]);
    assert_eq!(pasted["claims"][1]["text"], "2 Ω: 780 W");
    assert_eq!(pasted["not_understood"], json!(["Colour: black"]));
    let claims = || bench.get(&format!("/api/amplifiers/{id}")).json()["claims"].as_array().unwrap().len();
    assert_eq!(claims(), 0, "nothing is saved before it is approved");
    let mut lines = pasted["claims"].as_array().unwrap().clone();
    for line in &mut lines {
        line.as_object_mut().unwrap().retain(|name, _| !["text", "already", "ask"].contains(&name.as_str()));
    }
    let place = format!("/api/amplifiers/{id}/claims/approved");
    let mut bad = lines.clone();
    bad[1]["load_ohm"] = json!(1_000);
    assert_eq!(bench.post(&place, &json!({ "claims": bad })).refusal().2, ["claims[1].load_ohm"]);
    assert_eq!(claims(), 0, "all of them or none");
    assert_eq!(bench.post(&place, &json!({ "claims": [] })).refusal().2, ["claims"]);
    assert_eq!(bench.post(&place, &json!({ "claims": lines })).status, 201);
    assert_eq!(claims(), 3);
    assert_eq!(bench.post("/api/undos", &json!({})).json()["says"], "added a claim (3 at once)");
    assert_eq!(claims(), 0);
    // What it says of the amplifier goes into its record, in the same act; a line that is there is not added twice.
    let text = "4 Ω: 450 W RMS\nFuse 2 x 40 A, weight 3.1 kg";
    let pasted = bench.post(&format!("/api/amplifiers/{id}/spec-tables"), &json!({ "text": text })).json();
    assert_eq!(pasted["facts"][0]["now"], "fuses on board 3 × 35\u{202f}A");
    let facts: Vec<&Value> = pasted["facts"].as_array().unwrap().iter().map(|fact| &fact["fact"]).collect();
    let mut line = pasted["claims"][0].clone();
    line.as_object_mut().unwrap().retain(|name, _| !["text", "already", "ask"].contains(&name.as_str()));
    let approved = json!({ "claims": [line, line], "facts": facts });
    assert_eq!(bench.post(&place, &approved).json().as_array().unwrap().len(), 1);
    let record = || bench.get(&format!("/api/amplifiers/{id}")).json();
    assert_eq!(record()["amplifier"]["fuses_a"], json!([40.0, 40.0]));
    assert_eq!(record()["amplifier"]["weight_kg"], 3.1);
    assert_eq!(bench.post(&place, &approved).json(), json!([]), "they exist already");
    let again = bench.post(&format!("/api/amplifiers/{id}/spec-tables"), &json!({ "text": text })).json();
    assert_eq!((&again["claims"][0]["already"], again["facts"].as_array().unwrap().len()), (&json!(true), 0));
    assert_eq!(bench.post("/api/undos", &json!({})).status, 200);
    assert_eq!((claims(), record()["amplifier"]["fuses_a"].as_array().unwrap().len()), (0, 3), "one undo for all of it");
    let bad = json!({ "claims": [], "facts": [{ "field": "fuses_a", "value": [0.0] }] });
    assert_eq!(bench.post(&place, &bad).refusal().2, ["facts.fuses_a[0]"]);
    let long = "x".repeat(20_001);
    assert_eq!(bench.post(&format!("/api/amplifiers/{id}/spec-tables"), &json!({ "text": long })).refusal().2, ["text"]);
}

#[test]
fn a_claim_is_sense_checked_as_it_is_typed() {
    let bench = Bench::start();
    let (id, _) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let check = |line: Value, replaces: Value| {
        bench.post(&format!("/api/amplifiers/{id}/sense-checks"), &json!({ "claim": line, "replaces": replaces }))
    };
    let doubled = check(claim(2.0, 950.0), Value::Null).json();
    assert_eq!(doubled["view"]["found"][0]["code"], "load-line", "450 W into 4 Ω is 900 W into 2 Ω at most");
    assert_eq!(doubled["view"]["found"][0]["claims"][0], "draft");
    assert_eq!(check(claim(2.0, 780.0), Value::Null).json()["view"]["found"], json!([]));
    let own = bench.get(&format!("/api/amplifiers/{id}")).json();
    assert_eq!(own["sense"]["view"]["adds_up"][0]["word"], "yes");
    assert!(own["sense"]["fuses"].as_str().unwrap().contains("data-claim="));
    let replaced = check(claim(4.0, 9_000.0), own["claims"][0]["id"].clone()).json();
    assert_eq!(replaced["view"]["adds_up"].as_array().unwrap().len(), 1, "it stands in for the line it changes");
    assert_eq!(replaced["view"]["found"][0]["code"], "fuses");
    assert_eq!(check(claim(0.0, 780.0), Value::Null).refusal().2, ["claim.load_ohm"]);
}
