//! The record beside claims and readings: parts inside, listening, claps, sealed guesses; and that none of it goes out unasked.

use crate::common::{Answer, Bench};
use serde_json::{Value, json};
use sha2::{Digest as _, Sha256};

struct Hand {
    bench: Bench,
    amplifier: String,
    session: String,
}

impl Hand {
    fn new() -> Self {
        let bench = Bench::start();
        let (amplifier, session) = bench.amplifier(|_| {}, &[(4.0, 450.0), (2.0, 750.0)]);
        Self { bench, amplifier, session }
    }

    fn at(&self, what: &str) -> String {
        format!("/api/sessions/{}/{what}", self.session)
    }

    fn record(&self) -> Value {
        self.bench.get(&self.at("record")).json()
    }

    fn patch(&self, path: &str, revision: &Value, body: &Value) -> Answer {
        self.bench.send("PATCH", path, &body.to_string(), &[("if-match", &format!("\"{revision}\""))])
    }

    fn log(&self, rung: &str, line: &str) {
        self.bench.post(&self.at("runs"), &json!({ "rung": rung, "mode": "certified", "line": line })).json();
    }
}

#[test]
fn the_parts_inside_are_kept_and_computed_with() {
    let hand = Hand::new();
    let path = format!("/api/amplifiers/{}", hand.amplifier);
    let seen = hand.bench.get(&path).json();
    let inside = json!({ "inside": {
        "capacitors": [{ "uf": 3300.0, "rated_v": 35.0, "count": 4, "place": "rails" }],
        "devices": [{ "part": "FL-60", "count": 4, "rated_a": 60.0, "place": "outputs" }] } });
    let changed = hand.patch(&path, &seen["revision"], &inside).json();
    // √(2 · 450 · 4) = 60 V on rails of 35 V
    assert!(changed["sense"]["view"].to_string().contains("not on these rails"), "{}", changed["sense"]["view"]);
    let before = hand.record();
    assert!(before["inside"]["uf_a_watt"]["working"]["assumptions"][0].as_str().unwrap().contains("claim stands in"));
    hand.log("mono@4@40", "440 14.3 41");
    let after = hand.record();
    // 13 200 µF over 440 W
    assert_eq!(after["inside"]["uf_a_watt"]["text"], "30");
    assert_eq!(after["inside"]["uf_a_watt"]["working"]["assumptions"], json!([]));
    let bad = json!({ "inside": { "capacitors": [{ "count": 0 }] } });
    let (status, _, paths) = hand.patch(&path, &changed["revision"], &bad).refusal();
    assert_eq!((status, paths), (422, vec!["inside.capacitors[0].count".to_owned()]));
}

#[test]
fn a_clap_marks_its_moment_and_undo_takes_it_back() {
    let hand = Hand::new();
    let clap = hand.bench.post(&hand.at("claps"), &json!({ "clip": "at the bench" }));
    assert_eq!(clap.json()["clip"], "at the bench");
    hand.log("mono@4@40", "440 14.3 41");
    let out = hand.bench.get(&hand.at("publication")).json();
    assert!(out["chapters"].as_str().unwrap().starts_with("0:00 "), "{out}");
    assert_eq!(hand.record()["record"]["claps"].as_array().unwrap().len(), 1);
    hand.bench.post("/api/undos", &json!({})).json();
    assert_eq!(hand.bench.post("/api/undos", &json!({})).json()["says"], "noted that the camera started");
    assert_eq!(hand.record()["record"]["claps"], json!([]));
}

#[test]
fn listening_is_written_down_and_a_stale_form_overwrites_nothing() {
    let hand = Hand::new();
    let seen = hand.record();
    let path = hand.at("record");
    let listening =
        json!({ "measured_on": "2026-11-20", "listening": { "speaker_last": true, "load_ohm": 3.8, "words": "clean to the stop" } });
    assert_eq!(hand.patch(&path, &seen["revision"], &listening).status, 204);
    let kept = hand.record();
    assert_eq!(kept["record"]["measured_on"], "2026-11-20");
    assert_eq!(kept["record"]["listening"]["words"], "clean to the stop");
    assert_eq!(hand.patch(&path, &seen["revision"], &json!({ "measured_on": null })).refusal().0, 412);
    let (status, _, paths) = hand.patch(&path, &kept["revision"], &json!({ "listening": { "load_ohm": -4.0 } })).refusal();
    assert_eq!(status, 422);
    assert!(paths[0].contains("load_ohm"), "{paths:?}");
}

#[test]
fn guesses_are_sealed_before_the_first_run_and_nowhere_until_they_are_opened() {
    let hand = Hand::new();
    let path = hand.at("guesses");
    let (status, _, _) = hand.bench.post(&path, &json!({ "text": "Wren 700\nsome day" })).refusal();
    assert_eq!(status, 422);
    let sealed = hand.bench.post(&path, &json!({ "text": "Wren 700 yes\nPiers Tarrow: 741 W" })).json();
    assert_eq!((sealed["count"].as_u64(), sealed["can_open"].as_bool(), &sealed["salt"]), (Some(2), Some(true), &Value::Null));
    let hash = sealed["sha256"].as_str().unwrap().to_owned();
    assert_eq!(hand.bench.post(&path, &json!({ "text": "Wren 1" })).refusal().0, 409, "sealed once");
    hand.log("mono@2@40", "738 14.1 76");
    let out = |hand: &Hand| hand.bench.get(&format!("/api/amplifiers/{}/file?kind=shared", hand.amplifier)).json().to_string();
    assert!(!out(&hand).contains("Wren") && !out(&hand).contains("Tarrow") && out(&hand).contains(&hash), "a hash and no more");
    let opened = hand.bench.post(&format!("{path}/opening"), &json!({})).json();
    let salt = opened["salt"].as_str().unwrap();
    let again: String =
        Sha256::digest(format!("{salt}\nWren\t700\nPiers Tarrow\t741\n")).iter().map(|byte| format!("{byte:02x}")).collect();
    assert_eq!(again, hash, "anybody can make the hash again");
    let first = &opened["scores"]["guesses"][0];
    assert_eq!((first["by"].as_str(), first["nearest"].as_bool()), (Some("Piers Tarrow"), Some(true)));
    let shared = out(&hand);
    assert!(shared.contains("Wren") && !shared.contains("Tarrow"), "only who agreed is named: {shared}");
    let late = Hand::new();
    late.log("mono@4@40", "440 14.3 41");
    assert_eq!(late.bench.post(&late.at("guesses"), &json!({ "text": "Wren 700" })).refusal().0, 409, "after a run it is no guess");
}

/// A photo of an amplifier, added.
fn photo(bench: &Bench, amplifier: &str) -> Value {
    let mut png = std::io::Cursor::new(Vec::new());
    image::DynamicImage::new_rgb8(60, 40).write_to(&mut png, image::ImageFormat::Png).unwrap();
    bench.send_bytes("POST", &format!("/api/amplifiers/{amplifier}/photos"), png.get_ref(), &[]).json()
}

#[test]
fn a_photo_has_marks_and_a_run_stands_on_the_sheet_and_goes_along() {
    let hand = Hand::new();
    hand.log("mono@4@40", "440 14.3 41");
    let run = hand.bench.get(&hand.at("ladder")).json()["ladder"]["rungs"][0]["cells"][0]["runs"][0]["id"].clone();
    let made = photo(&hand.bench, &hand.amplifier);
    let path = format!("/api/photos/{}", made["id"].as_str().unwrap());
    let ring = json!({ "shape": "ring", "x": 0.5, "y": 0.5, "to_x": 0.6, "to_y": 0.5, "label": "Kestrel cap" });
    let words = json!({ "caption": "Power stage", "marks": [ring], "run_id": run, "on_sheet": true });
    let said = hand.patch(&path, &made["revision"], &words).json();
    assert_eq!((&said["marks"][0]["label"], &said["run_id"]), (&json!("Kestrel cap"), &run));
    for (bad, place) in [
        (json!({ "marks": [{ "shape": "ring", "x": 2.0, "y": 0.5, "to_x": 0.6, "to_y": 0.5 }] }), "marks[0].x"),
        (json!({ "colour": "red" }), "colour"),
    ] {
        let (status, _, paths) = hand.patch(&path, &said["revision"], &bad).refusal();
        assert_eq!((status, paths), (422, vec![place.to_owned()]), "{bad}");
    }
    let sheet = hand.bench.get(&hand.at("sheet.html")).text;
    assert!(sheet.contains("Power stage · 4\u{202f}Ω, certified") && sheet.contains(">Kestrel cap</text>"), "the photo is on the sheet");
    // Elsewhere it belongs to the same run, whatever its id is there.
    let there = Bench::start();
    let came = there.send_bytes("POST", "/api/imports", &hand.bench.bytes("/api/shelf.zip"), &[]).json();
    let amplifier = came["amplifier_id"].as_str().unwrap();
    let photos = there.get(&format!("/api/amplifiers/{amplifier}/photos")).json();
    let session = there.get(&format!("/api/amplifiers/{amplifier}")).json()["session_id"].as_str().unwrap().to_owned();
    let here = &photos["photos"][0];
    assert_eq!((&here["marks"], &here["on_sheet"]), (&said["marks"], &json!(true)));
    let run = there.get(&format!("/api/sessions/{session}/ladder")).json()["ladder"]["rungs"][0]["cells"][0]["runs"][0]["id"].clone();
    assert_eq!(here["run_id"], run);
}

#[test]
fn a_note_on_a_run_is_changed_taken_away_and_undone_and_the_readings_stay() {
    let hand = Hand::new();
    hand.log("mono@4@40", "440 14.3 41 # warm");
    let brief = || hand.bench.get(&hand.at("ladder")).json()["ladder"]["rungs"][0]["cells"][0]["runs"][0].clone();
    let run = brief()["id"].as_str().unwrap().to_owned();
    let remark = |reason: &str| {
        hand.bench.post(&hand.at(&format!("runs/{run}/remarks")), &json!({ "kind": "note", "what": "", "reason": reason })).status
    };
    assert_eq!(brief()["note"], "warm");
    assert_eq!(remark("smelt of varnish"), 204);
    assert_eq!((brief()["note"].clone(), brief()["total"].clone()), (json!("smelt of varnish"), json!("440\u{202f}W")));
    assert_eq!(remark(""), 204);
    assert_eq!(brief()["note"], Value::Null);
    for wanted in ["smelt of varnish", "warm"] {
        hand.bench.post("/api/undos", &json!({})).json();
        assert_eq!(brief()["note"], wanted);
    }
    let history = hand.bench.get(&hand.at(&format!("runs/{run}/history"))).json();
    let what: Vec<&str> = history.as_array().unwrap().iter().map(|row| row["what"].as_str().unwrap()).collect();
    assert_eq!(what, ["logged", "noted", "noted", "note taken back", "note taken back"]);
    assert_eq!(remark("line\u{0}break"), 422);
}

#[test]
fn findings_after_a_death_are_kept_shown_and_brought_along() {
    let hand = Hand::new();
    let revision = hand.record()["revision"].clone();
    let found = json!({ "post_mortem": { "on": "2026-11-21", "cause": "both halves on at once",
        "failed": [{ "part": "FL-60", "count": 4, "fault": "shorted", "place": "outputs" }] } });
    assert_eq!(hand.patch(&hand.at("record"), &revision, &found).status, 204);
    let sheet = hand.bench.get(&hand.at("sheet.html")).text;
    assert!(sheet.contains("failed: 4 × FL-60, shorted, outputs. cause: both halves on at once"), "it is on the sheet");
    let bad = json!({ "post_mortem": { "failed": [{ "part": "", "count": 0 }] } });
    let (_, _, paths) = hand.patch(&hand.at("record"), &hand.record()["revision"], &bad).refusal();
    assert_eq!(paths, ["post_mortem.failed[0].count", "post_mortem.failed[0].part"]);
    // A file that comes back with facts beside the measurement brings them, and drops none of ours.
    let there = Bench::start();
    there.send_bytes("POST", "/api/imports", &hand.bench.bytes("/api/shelf.zip"), &[]).json();
    let mut file =
        there.get(&format!("/api/amplifiers/{}/file", there.get("/api/amplifiers").json()["amplifiers"][0]["id"].as_str().unwrap())).json();
    file["listening"] = json!({ "words": "clear to the end" });
    file["post_mortem"] = Value::Null;
    assert_eq!(hand.bench.post("/api/imports", &file).status, 200);
    let record = hand.record()["record"].clone();
    assert_eq!((&record["listening"]["words"], &record["post_mortem"]["failed"][0]["count"]), (&json!("clear to the end"), &json!(4)));
}

#[test]
fn a_search_finds_whatever_was_written_and_minds_no_hostile_word() {
    let hand = Hand::new();
    hand.log("mono@4@40", "440 14.3 41 # smelt of varnish");
    let seen = hand.bench.get(&format!("/api/amplifiers/{}", hand.amplifier)).json();
    let likes = json!({ "likes": ["Façade of brass"], "loan": { "lent_by": "R. Oakshott" } });
    hand.patch(&format!("/api/amplifiers/{}", hand.amplifier), &seen["revision"], &likes).json();
    let found = |words: &str| {
        let words: String = words.bytes().map(|byte| format!("%{byte:02X}")).collect();
        let answer = hand.bench.get(&format!("/api/amplifiers?find={words}"));
        assert_eq!(answer.status, 200, "{}", answer.text);
        answer.json()["found"].as_u64().unwrap()
    };
    // What was written is there once the records are at rest.
    let start = std::time::Instant::now();
    while found("varnish") == 0 {
        assert!(start.elapsed() < std::time::Duration::from_secs(30), "it is never found");
        std::thread::sleep(std::time::Duration::from_millis(20));
    }
    for words in ["VARN", "facade brass", "mono varnish", "oakshott", "ono 11", "-varnish"] {
        assert_eq!(found(words), 1, "{words}");
    }
    for words in ["arnish", "varnish lacquer", "\"", "*", "varnish AND zzz", "NEAR(varnish", "'", "text:varnish", "\u{0}"] {
        assert_eq!(found(words), 0, "{words:?}");
    }
}

#[test]
fn tags_filter_the_shelf_and_what_is_put_away_is_not_on_it_unless_asked_for() {
    let bench = Bench::start();
    let add = |model: &str| bench.amplifier(|amplifier| amplifier["model"] = json!(model), &[(4.0, 150.0)]).0;
    let (one, two) = (add("One"), add("Two"));
    let patch = |id: &str, patch: &Value| {
        let revision = format!("\"{}\"", bench.get(&format!("/api/amplifiers/{id}")).json()["revision"]);
        let headers = [("if-match", revision.as_str()), ("content-type", "application/merge-patch+json")];
        bench.send("PATCH", &format!("/api/amplifiers/{id}"), &patch.to_string(), &headers)
    };
    assert_eq!(patch(&one, &json!({ "tags": ["van", "loud"] })).status, 200);
    assert_eq!(patch(&two, &json!({ "tags": ["van"], "archived": true })).status, 200);
    let shelf = |query: &str| {
        let shelf = bench.get(&format!("/api/amplifiers?{query}")).json();
        let names = shelf["amplifiers"].as_array().unwrap().iter().map(|row| row["id"].as_str().unwrap().to_owned()).collect::<Vec<_>>();
        (names, shelf)
    };
    let (names, all) = shelf("");
    assert_eq!(names, [one.as_str()]);
    assert_eq!((&all["archived"], &all["tags"]), (&json!(1), &json!([{ "tag": "loud", "count": 1 }, { "tag": "van", "count": 2 }])));
    assert_eq!(shelf("tag=van").0, [one.as_str()]);
    assert_eq!(shelf("tag=van&archived=true").0, [two.as_str()]);
    assert_eq!(shelf("tag=van,loud").0, [one.as_str()]);
    assert!(shelf("tag=nowhere").0.is_empty());
    // Put away is not gone: a search for it, its page, and what the shelf taught still have it.
    // Lines of the shelf are made when the records are at rest.
    let start = std::time::Instant::now();
    while shelf("archived=true&find=two").0 != [two.as_str()] {
        assert!(start.elapsed().as_secs() < 60, "a search never finds what was put away");
    }
    assert_eq!(bench.get(&format!("/api/amplifiers/{two}")).status, 200);
    assert_eq!(patch(&one, &json!({ "tags": ["a, b"] })).refusal().2, ["tags[0]"]);
    assert_eq!(patch(&one, &json!({ "tags": vec!["x"; 21] })).refusal().2, ["tags"]);
    assert_eq!(patch(&one, &json!({ "tags": [""] })).refusal().2, ["tags[0]"]);
}
