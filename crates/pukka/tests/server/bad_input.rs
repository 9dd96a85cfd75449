//! Every field and every endpoint against what cannot be: refused with a code, a path and a sentence; nothing half-written.

use crate::common::{Bench, claim, mono};
use serde_json::{Value, json};

/// Values that no quantity takes, as they stand in JSON.
const NEVER: [&str; 5] = ["-1", "1e12", "1e999", "\"4\"", "[]"];

fn with(mut body: Value, pointer: &str, value: &str) -> String {
    const MARK: &str = "@@here@@";
    let (parent, field) = pointer.rsplit_once('/').unwrap();
    let place = if parent.is_empty() { &mut body } else { body.pointer_mut(parent).unwrap() };
    match (place, field.parse::<usize>()) {
        (Value::Array(list), Ok(i)) => list[i] = json!(MARK),
        (place, _) => place[field] = json!(MARK),
    }
    body.to_string().replace(&format!("\"{MARK}\""), value)
}

#[test]
fn every_figure_of_an_amplifier() {
    let bench = Bench::start();
    let figures = [
        ("/channels", "channels"),
        ("/fuses_a/1", "fuses_a[1]"),
        ("/recommended_fuse_a", "recommended_fuse_a"),
        ("/max_supply_v", "max_supply_v"),
        ("/floors/0/load_ohm", "floors[0].load_ohm"),
        ("/price/amount", "price.amount"),
    ];
    for (pointer, path) in figures {
        for value in NEVER.into_iter().chain(["0"].into_iter().filter(|_| pointer != "/price/amount")) {
            let refusal = bench.send("POST", "/api/amplifiers", &with(mono(), pointer, value), &[]).refusal();
            assert_eq!((refusal.0, refusal.1.as_str()), (422, "invalid"), "{pointer} = {value}");
            assert!(refusal.2.contains(&path.to_owned()) || value == "1e999", "{pointer} = {value}: {:?}", refusal.2);
        }
    }
    let long = format!("\"{}\"", "x".repeat(4_000));
    for (pointer, value) in [
        ("/make", "\"\""),
        ("/make", &long),
        ("/model", "7"),
        ("/class", "\"Z\""),
        ("/provenance", "null"),
        ("/purpose", "{}"),
        ("/price/currency", "\"pounds\""),
        ("/price/on", "\"yesterday\""),
        ("/floors/0/wiring", "7"),
        ("/colour", "\"green\""),
    ] {
        let refusal = bench.send("POST", "/api/amplifiers", &with(mono(), pointer, value), &[]).refusal();
        assert_eq!(refusal.0, 422, "{pointer}");
        let path = pointer[1..].replace("/0/", "[0].").replace('/', ".");
        assert_eq!(refusal.2, [path], "{pointer}");
    }
    for missing in ["make", "model", "class", "purpose", "supply_type", "channels", "provenance"] {
        let mut body = mono();
        body.as_object_mut().unwrap().remove(missing);
        let answer = bench.post("/api/amplifiers", &body);
        assert_eq!(answer.refusal().0, 422);
        assert_eq!(answer.json()["detail"], format!("{missing} is missing."));
    }
    assert_eq!(bench.get("/api/amplifiers").json()["amplifiers"], json!([]), "nothing was half-written");
}

#[test]
fn every_figure_of_a_claim() {
    let bench = Bench::start();
    let (id, _) = bench.amplifier(|_| {}, &[]);
    let place = format!("/api/amplifiers/{id}/claims");
    let good = || {
        let mut line = claim(4.0, 450.0);
        line["tone_hz"] = json!(40);
        line["setting"] = json!("high current");
        line
    };
    for field in ["load_ohm", "power_w", "supply_v", "thd_limit_ratio", "tone_hz"] {
        for value in NEVER.into_iter().chain(["0"]) {
            let refusal = bench.send("POST", &place, &with(good(), &format!("/{field}"), value), &[]).refusal();
            assert_eq!((refusal.0, refusal.1.as_str()), (422, "invalid"), "{field} = {value}");
            assert!(refusal.2 == [field] || value == "1e999", "{field} = {value}: {:?}", refusal.2);
        }
    }
    let long = format!("\"{}\"", "x".repeat(4_000));
    for (field, value) in [
        ("source", long.as_str()),
        ("source", "\" \""),
        ("setting", &long),
        ("wiring", "null"),
        ("wiring", "{\"kind\":\"channels\",\"driven\":2}"),
        ("kind", "\"loud\""),
        ("per", "1"),
        ("power_watts", "4"),
    ] {
        let refusal = bench.send("POST", &place, &with(good(), &format!("/{field}"), value), &[]).refusal();
        assert_eq!((refusal.0, refusal.2), (422, vec![field.to_owned()]), "{field} = {value}");
    }
    assert_eq!(bench.get(&format!("/api/amplifiers/{id}")).json()["claims"], json!([]));
}

#[test]
fn every_figure_of_a_rung() {
    let bench = Bench::start();
    let (_, session) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let place = format!("/api/sessions/{session}/rungs");
    let good = json!({ "rung": "mono@4@40", "set": { "wiring": { "kind": "mono" }, "load_ohm": 4.0, "rest_v": 14.6, "load_measured_ohm": 3.91, "tone_hz": 40, "extra_drive_db": 6 } });
    for field in ["rest_v", "load_measured_ohm", "tone_hz", "load_ohm", "extra_drive_db"] {
        for value in NEVER.into_iter().chain(["0"].into_iter().filter(|_| field != "extra_drive_db")) {
            let refusal = bench.send("PUT", &place, &with(good.clone(), &format!("/set/{field}"), value), &[("if-match", "0")]).refusal();
            assert_eq!((refusal.0, refusal.1.as_str()), (422, "invalid"), "{field} = {value}");
            assert!(refusal.2.contains(&format!("set.{field}")) || value == "1e999", "{field} = {value}: {:?}", refusal.2);
        }
    }
    let far = with(good.clone(), "/set/load_measured_ohm", "1.98");
    assert_eq!(bench.send("PUT", &place, &far, &[("if-match", "0")]).refusal().2, ["set.load_measured_ohm"], "2 Ω is not 4 Ω measured");
    assert_eq!(bench.send("PUT", &place, &good.to_string(), &[]).refusal(), (428, "no-revision".into(), vec![]));
    assert_eq!(bench.send("PUT", &place, &good.to_string(), &[("if-match", "soon")]).refusal().0, 400);
    let ladder = bench.get(&format!("/api/sessions/{session}/ladder")).json();
    assert_eq!(ladder["revisions"]["mono@4@40"], 0, "nothing was set");
}

#[test]
fn every_bad_line_is_refused_and_nothing_is_logged() {
    let bench = Bench::start();
    let (_, session) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let log = |line: &str| {
        bench.post(&format!("/api/sessions/{session}/runs"), &json!({ "rung": "mono@4@40", "mode": "certified", "line": line }))
    };
    let long = "1 ".repeat(2_000);
    for line in [
        "",
        "0",
        "-5",
        "nan",
        "inf",
        "1e12",
        "1000000000000",
        "1,068",
        "13.",
        "447x 14",
        "447w 14v 14v",
        "447+",
        "1+2",
        "# only a note",
        &long,
    ] {
        assert_eq!(log(line).refusal(), (422, "invalid".into(), vec!["line".into()]), "{line}");
    }
    for body in [
        "{}",
        "[]",
        "nonsense",
        r#"{"rung":4,"mode":"certified","line":"447"}"#,
        r#"{"rung":"mono@4@40","mode":"loud","line":"447"}"#,
        r#"{"rung":"mono@4@40","mode":"certified","line":"447","watts":447}"#,
    ] {
        assert_eq!(bench.send("POST", &format!("/api/sessions/{session}/runs"), body, &[]).refusal().0, 422, "{body}");
    }
    let other = bench.post(&format!("/api/sessions/{session}/runs"), &json!({ "rung": "mono@3@40", "mode": "certified", "line": "447" }));
    assert_eq!(other.refusal().0, 404);
    assert_eq!(bench.get(&format!("/api/sessions/{session}/ladder")).json()["ladder"]["logged"], 0);
}

#[test]
fn what_is_not_there_is_404_and_what_is_no_json_is_said() {
    let bench = Bench::start();
    let (id, session) = bench.amplifier(|_| {}, &[]);
    for path in [
        "/api/amplifiers/nobody",
        "/api/sessions/none/ladder",
        "/api/sessions/none/verdict",
        "/api/sessions/none/sheet",
        "/api/sessions/none/sheet.csv",
        &format!("/api/sessions/{session}/runs/none"),
    ] {
        assert_eq!(bench.get(path).refusal().0, 404, "{path}");
    }
    let match1 = [("if-match", "1")];
    assert_eq!(bench.send("PUT", "/api/amplifiers/nobody", &mono().to_string(), &match1).refusal().0, 404);
    assert_eq!(bench.send("DELETE", "/api/amplifiers/nobody", "", &match1).refusal().0, 404);
    assert_eq!(bench.send("PUT", "/api/claims/none", &claim(4.0, 1.0).to_string(), &match1).refusal().0, 404);
    assert_eq!(bench.send("DELETE", "/api/claims/none", "", &match1).refusal().0, 404);
    assert_eq!(bench.post("/api/amplifiers/nobody/claims", &claim(4.0, 1.0)).refusal().0, 404);
    assert_eq!(bench.post(&format!("/api/sessions/{session}/runs/none/withdrawal"), &json!({ "reason": "x" })).refusal().0, 404);
    assert_eq!(bench.post("/api/sessions/none/ticks", &json!({ "code": "loads", "ticked": true })).refusal().0, 404);
    assert_eq!(
        bench
            .post(
                "/api/sessions/none/gates",
                &json!({ "place": { "rung": "x", "mode": "dynamic" }, "opening": { "reason": "x", "by": "y" } })
            )
            .refusal()
            .0,
        404
    );
    assert_eq!(bench.post("/api/undos", &json!({})).status, 200);
    assert_eq!(bench.send("POST", "/api/undos", "{}", &[("x-pukka-tab", "other")]).refusal(), (409, "nothing-to-undo".into(), vec![]));
    assert_eq!(bench.send("PATCH", "/api/amplifiers", "", &[]).refusal().0, 405);
    assert_eq!(bench.get("/api/nowhere").refusal(), (404, "not-found".into(), vec![]));
    assert_eq!(bench.send("POST", "/api/amplifiers", &mono().to_string(), &[("content-type", "text/plain")]).refusal().0, 415);
    let huge = format!("{{\"make\":\"{}\"}}", "x".repeat(100_000));
    assert_eq!(bench.send("POST", "/api/amplifiers", &huge, &[]).refusal().0, 413);
    assert_eq!(bench.get(&format!("/api/amplifiers/{id}")).refusal().0, 404, "it was undone above");
}

#[test]
fn a_page_from_elsewhere_cannot_write() {
    let bench = Bench::start();
    for origin in ["http://elsewhere.example", "null"] {
        let refused = bench.send("POST", "/api/amplifiers", &mono().to_string(), &[("origin", origin)]);
        assert_eq!(refused.refusal().0, 403, "{origin}");
    }
    assert_eq!(bench.send("GET", "/api/amplifiers", "", &[("host", "bench.elsewhere.example")]).refusal().0, 403);
    let own = bench.url.clone();
    assert_eq!(bench.send("POST", "/api/amplifiers", &mono().to_string(), &[("origin", &own)]).status, 201);
}

#[test]
fn an_amplifier_cannot_lose_channels_that_its_claims_and_runs_need() {
    let bench = Bench::start();
    let (id, session) = bench.amplifier(
        |body| {
            body["channels"] = json!(4);
            body["floors"] = json!([]);
        },
        &[],
    );
    let mut body = mono();
    body["floors"] = json!([]);
    body["channels"] = json!(4);
    let change = |channels: u8, revision: &str| {
        body["channels"].clone_from(&json!(channels));
        bench.send("PUT", &format!("/api/amplifiers/{id}"), &body.to_string(), &[("if-match", revision)])
    };
    let mut change = change;
    assert_eq!(change(2, "1").status, 200, "nothing needs them yet");
    assert_eq!(change(4, "2").status, 200);
    let mut line = claim(4.0, 90.0);
    line["wiring"] = json!({ "kind": "channels", "driven": 4 });
    assert_eq!(bench.post(&format!("/api/amplifiers/{id}/claims"), &line).status, 201);
    let refused = change(2, "3");
    assert_eq!(refused.refusal().2, ["channels"]);
    assert!(refused.text.contains("4 channels cannot be driven: the amplifier has 2."), "{}", refused.text);
    let log = json!({ "rung": "channels-4@4@40", "mode": "certified", "line": "90+91+89+90 14.2 40" });
    assert_eq!(bench.post(&format!("/api/sessions/{session}/runs"), &log).status, 201);
    let claim_id = bench.get(&format!("/api/amplifiers/{id}")).json()["claims"][0]["id"].as_str().unwrap().to_owned();
    assert_eq!(bench.send("DELETE", &format!("/api/claims/{claim_id}"), "", &[("if-match", "1")]).status, 204);
    assert_eq!(change(2, "3").refusal().2, ["channels"], "a run needs them still");
}
