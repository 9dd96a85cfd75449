//! Retests over HTTP: opened by button, set against the session before, taken in hand; and what cannot be asked of them.

use crate::common::Bench;
use serde_json::{Value, json};

struct Set {
    bench: Bench,
    amplifier: String,
    first: String,
}

impl Set {
    fn new() -> Self {
        let bench = Bench::start();
        let (amplifier, first) = bench.amplifier(|amplifier| amplifier["provenance"] = json!("bought"), &[(4.0, 430.0)]);
        Self { bench, amplifier, first }
    }

    fn open(&self, occasion: &str) -> String {
        let made = self.bench.post(&format!("/api/amplifiers/{}/sessions", self.amplifier), &json!({ "occasion": occasion }));
        assert_eq!(made.status, 201, "{}", made.text);
        made.json()["id"].as_str().unwrap().to_owned()
    }

    fn log(&self, session: &str, line: &str) {
        let body = json!({ "rung": "mono@4@40", "mode": "certified", "line": line, "happened": true });
        let logged = self.bench.post(&format!("/api/sessions/{session}/runs"), &body);
        assert_eq!(logged.status, 201, "{}", logged.text);
    }

    fn sessions(&self) -> Vec<Value> {
        let list = self.bench.get(&format!("/api/amplifiers/{}/sessions", self.amplifier)).json();
        list["items"].as_array().unwrap().clone()
    }

    fn view(&self) -> Value {
        self.bench.get(&format!("/api/amplifiers/{}", self.amplifier)).json()
    }

    fn changes(&self, query: &str) -> crate::common::Answer {
        self.bench.get(&format!("/api/amplifiers/{}/changes?{query}", self.amplifier))
    }
}

#[test]
fn two_sessions_are_set_against_one_another_run_by_run() {
    let set = Set::new();
    set.log(&set.first, "440w 44a 14.2v");
    assert_eq!(set.view()["session_words"], "one session");
    let second = set.open("after a repair");
    assert_eq!((set.view()["session_id"].as_str(), set.view()["session_words"].as_str()), (Some(second.as_str()), Some("session 2 of 2")));
    assert_eq!(set.view()["summary"]["logged"], 0);
    set.log(&second, "360w 38a 14.2v");
    let changes = set.changes(&format!("from={}&to={second}", set.first)).json();
    let change = &changes["changes"][0];
    let percent = change["percent"]["value"].as_f64().unwrap();
    assert!((percent - (360.0 / 440.0 - 1.0) * 100.0).abs() < 1e-6, "both at 14.2 V, brought to 14.4 V alike: {percent}");
    assert_eq!(change["apart"], true);
    assert!(changes["says"].as_str().unwrap().starts_with("1 of 1 changed beyond what both can be off: 18.2"), "{}", changes["says"]);
    // The other way round it is a gain, and not of the same size: it is in percent of the earlier.
    let back = set.changes(&format!("from={second}&to={}", set.first)).json();
    assert!((back["changes"][0]["percent"]["value"].as_f64().unwrap() - (440.0 / 360.0 - 1.0) * 100.0).abs() < 1e-6);
    // Taken in hand, the first one is everybody's again.
    let path = format!("/api/amplifiers/{}/session-in-hand", set.amplifier);
    assert_eq!(set.bench.send("PUT", &path, &json!({ "session_id": set.first }).to_string(), &[]).status, 204);
    assert_eq!(set.view()["session_words"], "session 1 of 2");
    let lines = set.sessions();
    assert_eq!(lines.iter().map(|line| line["in_hand"].as_bool().unwrap()).collect::<Vec<_>>(), [true, false]);
    assert_eq!(lines[1]["occasion"], "after a repair");
    // The zip of the shelf has both.
    let zip = set.bench.bytes("/api/shelf.zip");
    let zip = zip::ZipArchive::new(std::io::Cursor::new(zip)).unwrap();
    assert_eq!(zip.file_names().filter(|name| name.as_ref().is_ok_and(|name| name.ends_with("session.json"))).count(), 2);
}

#[test]
fn what_cannot_be_asked_is_refused_with_its_place() {
    let set = Set::new();
    let second = set.open("");
    assert_eq!(set.sessions()[1]["occasion"], Value::Null, "nothing said is nothing");
    let refused = |query: String| {
        let (status, _, paths) = set.changes(&query).refusal();
        (status, paths)
    };
    assert_eq!(refused(format!("from={second}&to={second}")), (422, vec!["to".into()]));
    assert_eq!(refused(format!("from={}&to={second}&volts=99", set.first)), (422, vec!["volts".into()]));
    assert_eq!(refused(format!("from={}&to=nowhere", set.first)).0, 404);
    let other = Set::new();
    assert_eq!(other.changes(&format!("from={}&to={second}", other.first)).status, 404, "another's session is none of its own");
    let path = format!("/api/amplifiers/{}/session-in-hand", set.amplifier);
    assert_eq!(set.bench.send("PUT", &path, &json!({ "session_id": other.first }).to_string(), &[]).status, 404);
    let long = set.bench.post(&format!("/api/amplifiers/{}/sessions", set.amplifier), &json!({ "occasion": "x".repeat(201) }));
    assert_eq!(long.refusal().0, 422);
    assert_eq!(set.bench.post("/api/amplifiers/nowhere/sessions", &json!({})).status, 404);
}

#[test]
fn a_channel_that_an_older_session_needs_is_not_taken_away() {
    let set = Set::new();
    let channels = |count: u8| {
        let revision = format!("\"{}\"", set.view()["revision"]);
        let patch = json!({ "channels": count }).to_string();
        let headers = [("if-match", revision.as_str()), ("content-type", "application/merge-patch+json")];
        set.bench.send("PATCH", &format!("/api/amplifiers/{}", set.amplifier), &patch, &headers)
    };
    assert_eq!(channels(2).status, 200);
    set.open("later");
    let rung = json!({ "rung": null, "set": { "wiring": { "kind": "channels", "driven": 2 }, "load_ohm": 4.0 } });
    let put = set.bench.send("PUT", &format!("/api/sessions/{}/rungs", set.first), &rung.to_string(), &[("if-match", "0")]);
    assert_eq!(put.status, 200, "{}", put.text);
    assert_eq!(channels(1).refusal().2, ["channels"]);
}
