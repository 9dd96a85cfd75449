//! What the HTTP interface promises: addresses, revisions, partial changes, pages, and that the document names what occurs.

use std::collections::BTreeSet;

use crate::common::Bench;
use serde_json::{Value, json};

/// Status, Location and ETag of an answer.
fn answer(bench: &Bench, method: &str, path: &str, body: &str, headers: &[(&str, &str)]) -> (u16, Option<String>, Option<String>) {
    let with_tab = [&[("x-pukka-tab", "a")], headers].concat();
    let answer = bench.send(method, path, body, &with_tab);
    (answer.status, answer.header("location"), answer.header("etag"))
}

#[test]
fn what_is_new_has_an_address_and_what_is_changed_a_revision() {
    let bench = Bench::start();
    let (id, session) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let (status, location, etag) = answer(&bench, "POST", "/api/amplifiers", &crate::common::mono().to_string(), &[]);
    assert_eq!((status, etag.as_deref()), (201, Some("\"1\"")));
    let location = location.unwrap();
    assert_eq!(bench.get(&location).status, 200, "{location}");
    let line = json!({ "rung": "mono@4@40", "mode": "certified", "line": "447 14.38 41.2" }).to_string();
    let (status, run, _) = answer(&bench, "POST", &format!("/api/sessions/{session}/runs"), &line, &[]);
    assert_eq!(status, 201);
    assert_eq!(bench.get(&run.unwrap()).status, 200);
    let path = format!("/api/amplifiers/{id}");
    assert_eq!(answer(&bench, "GET", &path, "", &[]).2.as_deref(), Some("\"1\""));
    let (status, _, etag) = answer(&bench, "PATCH", &path, r#"{"serial":"FL-7"}"#, &[("if-match", "\"1\"")]);
    assert_eq!((status, etag.as_deref()), (200, Some("\"2\"")));
}

#[test]
fn a_patch_changes_what_it_names_and_keeps_the_rest() {
    let bench = Bench::start();
    let (id, session) = bench
        .amplifier(|amplifier| amplifier["price"] = json!({ "amount": 139.0, "currency": "GBP", "on": "2026-10-02" }), &[(4.0, 450.0)]);
    let path = format!("/api/amplifiers/{id}");
    let before = bench.get(&path).json()["amplifier"].clone();
    let patch = |body: Value, revision: &str| bench.send("PATCH", &path, &body.to_string(), &[("if-match", revision)]);
    let after = patch(json!({ "notes": "from the loft", "price": { "on": null } }), "1").json()["amplifier"].clone();
    let mut wanted = before;
    wanted["notes"] = json!("from the loft");
    wanted["price"] = json!({ "amount": 139.0, "currency": "GBP", "on": null });
    let bare = |value: &Value| {
        value
            .as_object()
            .unwrap()
            .iter()
            .filter(|(_, value)| !value.is_null())
            .map(|(key, value)| (key.clone(), value.clone()))
            .collect::<Vec<_>>()
    };
    assert_eq!(bare(&after["price"]), bare(&wanted["price"]));
    (wanted["price"], wanted["notes"]) = (after["price"].clone(), after["notes"].clone());
    assert_eq!(after, wanted, "nothing else has changed");
    assert_eq!(patch(json!({ "notes": null }), "2").json()["amplifier"]["notes"], Value::Null);
    assert_eq!(patch(json!({ "notes": "late" }), "2").refusal().0, 412);
    assert_eq!(patch(json!({ "channels": "many" }), "3").refusal(), (422, "invalid".into(), vec!["channels".into()]));
    assert_eq!(patch(json!({ "chanels": 2 }), "3").refusal(), (422, "invalid".into(), vec!["chanels".into()]));
    assert_eq!(patch(json!({ "make": null }), "3").refusal().1, "invalid", "what a record has to have cannot be taken away");
    assert_eq!(bench.send("PATCH", &path, "{}", &[]).refusal(), (428, "no-revision".into(), vec![]));
    assert_eq!(bench.send("PATCH", &path, "{}", &[("content-type", "text/plain"), ("if-match", "3")]).refusal().0, 415);

    let claim = bench.get(&path).json()["claims"][0].clone();
    let of_claim = format!("/api/claims/{}", claim["id"].as_str().unwrap());
    let kept = bench.send("PATCH", &of_claim, r#"{"supply_v":null}"#, &[("if-match", "1")]).json()["claim"].clone();
    assert_eq!((&kept["supply_v"], &kept["power_w"]), (&Value::Null, &json!(450.0)));
    let of_session = format!("/api/sessions/{session}");
    let merge = [("if-match", "1"), ("content-type", "application/merge-patch+json")];
    assert_eq!(bench.send("PATCH", &of_session, r#"{"rest_v":14.6}"#, &merge).status, 204);
    let settings = bench.get(&format!("{of_session}/ladder")).json()["settings"].clone();
    assert_eq!((&settings["rest_v"], &settings["order"]), (&json!(14.6), &json!("rung")));
}

#[test]
fn the_shelf_comes_a_page_at_a_time_and_none_twice() {
    let bench = Bench::start();
    let mut made: BTreeSet<String> = (0..7).map(|_| bench.amplifier(|_| {}, &[]).0).collect();
    let mut path = "/api/amplifiers?limit=3".to_owned();
    let mut sizes = Vec::new();
    loop {
        let page = bench.get(&path).json();
        let rows = page["amplifiers"].as_array().unwrap();
        sizes.push(rows.len());
        assert!(rows.iter().all(|row| made.remove(row["id"].as_str().unwrap())), "one came twice");
        let Some(next) = page["next"].as_str() else { break };
        path = format!("/api/amplifiers?limit=3&after={next}");
    }
    assert_eq!((sizes, made.len()), (vec![3, 3, 1], 0));
    assert_eq!(bench.get("/api/amplifiers?limit=0").refusal(), (422, "invalid".into(), vec!["limit".into()]));
    assert_eq!(bench.get("/api/amplifiers?after=%2F").refusal(), (422, "invalid".into(), vec!["after".into()]));
    assert_eq!(bench.get("/api/amplifiers?limit=many").refusal().1, "unreadable-query");
    assert_eq!(bench.get("/api/incidents?limit=2").json(), json!({ "incidents": [], "next": null }));
}

#[test]
fn an_address_that_cannot_be_read_is_refused_in_plain_words() {
    let bench = Bench::start();
    assert_eq!(bench.get("/api/amplifiers/%FF").refusal().1, "unreadable-path");
    assert_eq!(bench.get("/api/sessions/%FF%FE/ladder").refusal().0, 400);
    let says = bench.get("/api/tones.wav?hz=loud&shape=sine&level=0").json()["detail"].as_str().unwrap().to_owned();
    assert!(!says.contains("f64") && says.contains("hz"), "{says}");
}

/// The page asks what became of a write whose answer is lost. What only asks has nothing to be found out about, and would be taken for
/// a write that was not saved.
#[test]
fn the_page_knows_which_addresses_save_nothing() {
    let code = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../web/src/api/inquiry.ts")).unwrap();
    let (_, rest) = code.split_once("const SAVES_NOTHING =").unwrap();
    let line = rest.split_once(";\n").unwrap().0.trim();
    let pattern = line.strip_prefix('/').unwrap().strip_suffix('/').unwrap().replace("\\/", "/");
    let asks = regex::Regex::new(&pattern).unwrap();
    let description = Bench::start().get("/api/openapi.json").json();
    let mut wrong = Vec::new();
    for (path, methods) in description["paths"].as_object().unwrap() {
        for (method, operation) in methods.as_object().unwrap().iter().filter(|(method, _)| *method != "get") {
            // What keeps something can find the disk full; an import, a recording and a live run are kept piece by piece.
            let keeps =
                operation["responses"].get("507").is_some() || ["/imports", "/traces", "/live"].iter().any(|end| path.ends_with(end));
            if asks.is_match(path) == keeps {
                wrong.push(format!("{method} {path}"));
            }
        }
    }
    assert_eq!(wrong, Vec::<String>::new());
}
