//! Captured waves over HTTP: kept, read, scaled, logged, taken along.

use std::f64::consts::TAU;

use crate::common::{Answer, Bench};
use crate::wave::{RATE, clean, wav};
use serde_json::{Value, json};

struct Traced {
    bench: Bench,
    amplifier: String,
    session: String,
}

impl Traced {
    fn new() -> Self {
        let bench = Bench::start();
        let (amplifier, session) = bench.amplifier(|_| {}, &[(4.0, 400.0)]);
        Self { bench, amplifier, session }
    }

    fn path(&self, rest: &str) -> String {
        format!("/api/sessions/{}/traces{rest}", self.session)
    }

    fn add(&self, bytes: &[u8], name: &str) -> Answer {
        self.bench.send_bytes("POST", &self.path(&format!("?name={name}")), bytes, &[])
    }

    /// Adds a recording and says what its channels are.
    fn added(&self, bytes: &[u8]) -> String {
        let made = self.add(bytes, "tone.wav");
        assert_eq!(made.status, 201, "{}", made.text);
        let sha256 = made.json()["sha256"].as_str().unwrap().to_owned();
        let channels = json!([{ "kind": "output", "scale": 100.0 }, { "kind": "supply-volts", "scale": 20.0 }]);
        let said = json!({ "name": "tone.wav", "channels": channels }).to_string();
        assert_eq!(self.bench.send("PUT", &self.path(&format!("/{sha256}")), &said, &[("x-pukka-tab", "a")]).status, 204);
        sha256
    }

    fn post(&self, sha256: &str, what: &str, body: &Value) -> Answer {
        self.bench.post(&self.path(&format!("/{sha256}/{what}")), body)
    }

    fn rung(&self) -> Value {
        self.bench.get(&format!("/api/sessions/{}/ladder", self.session)).json()["ladder"]["rungs"][0]["key"].clone()
    }

    fn log(&self, mode: &str) -> Value {
        json!({ "cut": whole(), "rung": self.rung(), "mode": mode })
    }
}

fn whole() -> Value {
    json!({ "channel": 0, "kind": "tone", "from_s": 0.0, "to_s": 1.0 })
}

#[test]
fn a_recording_is_kept_read_scaled_and_logged_and_its_verdict_follows() {
    let t = Traced::new();
    let sha256 = t.added(&wav(clean));
    let read = t.bench.get(&t.path(&format!("/{sha256}?load_ohm=4"))).json();
    let tone = &read["report"]["channels"][0]["stretches"][0];
    assert!((tone["rms"].as_f64().unwrap() - 41.719).abs() < 0.01 && tone["kind"] == "tone", "{tone}");
    assert!((tone["supply"]["mean_v"].as_f64().unwrap() - 13.9).abs() < 1e-3);
    // 48 000 frames of two channels: each a piece, low, high, rms.
    assert_eq!(t.bench.bytes(&t.path(&format!("/{sha256}/wave"))).len(), 2 * 48_000 * 3 * 4);
    let samples = t.bench.bytes(&t.path(&format!("/{sha256}/samples?from=12&frames=4")));
    assert!((f32::from_le_bytes(samples[..4].try_into().unwrap()) - 0.59 * (TAU * 40.0 * 12.0 / RATE).sin() as f32).abs() < 1e-6);
    let seen = t.post(&sha256, "stretches", &json!({ "cut": whole(), "load_ohm": 4.0 })).json();
    let named = |name: &str| seen["figures"].as_array().unwrap().iter().find(|own| own["name"] == name).cloned().unwrap();
    // (59/√2)² / 4 = 435.1 W
    assert_eq!(
        (named("Power")["figure"]["text"].as_str(), named("Power")["figure"]["working"]["formula"].as_str()),
        (Some("435"), Some("P = V² / R"))
    );
    assert!(seen["spectrum"]["lines"].as_array().unwrap().len() > 100 && seen["cycles"]["wave"].as_array().unwrap().len() > 100);
    // A meter that read 42.0 V moves the scale by as much.
    let scale = t.post(&sha256, "scales", &json!({ "channel": 0, "kind": "output", "reading": 42.0, "from_s": 0.2, "to_s": 0.8 })).json();
    assert!((scale["scale"].as_f64().unwrap() - 100.0 * 42.0 / 41.719).abs() < 0.05, "{scale}");
    let preview = t.post(&sha256, "previews", &t.log("certified")).json();
    assert_eq!((&preview["unfit"], preview["power"]["text"].as_str()), (&Value::Null, Some("435")));
    let unfit = t.post(&sha256, "previews", &t.log("dynamic")).json();
    assert_eq!(unfit["unfit"], "Dynamic power is read of a burst, and this is none.");
    assert_eq!(t.post(&sha256, "runs", &t.log("clipping")).refusal().2, ["cut"]);
    let logged = t.post(&sha256, "runs", &t.log("certified"));
    assert_eq!(logged.status, 201, "{}", logged.text);
    let verdict = t.bench.get(&format!("/api/sessions/{}/verdict", t.session)).text;
    assert!(verdict.contains("\"435\""), "{verdict}");
    let line = t.bench.get(&t.path("")).json()["traces"][0].clone();
    assert_eq!((&line["is_there"], line["runs"][0]["place"].as_str()), (&json!(true), Some("4\u{202f}Ω, certified")));
    let gone = t.bench.send("DELETE", &t.path(&format!("/{sha256}")), "", &[("x-pukka-tab", "a")]);
    assert_eq!(gone.refusal().0, 409, "a run stands on it");
    let picture = t.bench.get(&t.path(&format!("/{sha256}/pictures/trace.svg?channel=0&kind=tone&from_s=0&to_s=1&load_ohm=4")));
    assert!(picture.text.contains("A steady tone of 40") && !picture.text.contains("SECRET"));
}

#[test]
fn what_cannot_be_read_is_refused_with_the_place_and_nothing_of_it_is_kept() {
    let t = Traced::new();
    let mut cut = wav(clean);
    cut.truncate(cut.len() - 1_001);
    let refused = t.add(&cut, "cut.wav");
    assert_eq!((refused.refusal().0, refused.refusal().1.as_str()), (422, "no-recording"));
    assert!(refused.text.contains("Byte "), "{}", refused.text);
    let scope = t.add(b"time;V\n0;1\n1;2\n2;1\n3;2\n4;x\n5;3\n", "scope.csv");
    assert!(scope.text.contains("Line 6"), "{}", scope.text);
    assert_eq!(t.add(&wav(clean), "").refusal().0, 422);
    let folder = t.bench.folder();
    assert!(!folder.join("traces").exists() || std::fs::read_dir(folder.join("traces")).unwrap().next().is_none());
    let left: Vec<_> = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().file_name().into_string().unwrap()).collect();
    assert!(left.iter().all(|name| !name.ends_with(".part")), "{left:?}");
    assert_eq!(t.bench.get(&t.path("")).json()["traces"], json!([]));
    // The same twice is one; what is said of it can be undone, and it can be removed and brought back.
    let sha256 = t.added(&wav(clean));
    assert_eq!(t.add(&wav(clean), "again.wav").json()["name"], "tone.wav");
    assert_eq!(t.bench.get(&t.path("")).json()["traces"].as_array().unwrap().len(), 1);
    assert_eq!(t.bench.send("DELETE", &t.path(&format!("/{sha256}")), "", &[("x-pukka-tab", "a")]).status, 204);
    assert_eq!(t.bench.get(&t.path(&format!("/{sha256}"))).refusal().0, 404);
    assert_eq!(t.bench.post("/api/undos", &json!({})).json()["says"], "removed the trace tone.wav");
    assert_eq!(t.bench.get(&t.path(&format!("/{sha256}"))).status, 200);
    for (what, body) in [
        ("stretches", json!({ "cut": { "channel": 0, "kind": "tone", "from_s": 2.0, "to_s": 3.0 } })),
        ("stretches", json!({ "cut": { "channel": 7, "kind": "tone", "from_s": 0.0, "to_s": 0.5 } })),
        ("scales", json!({ "channel": 0, "kind": "output", "reading": 1.0, "from_s": -1.0, "to_s": 3.0 })),
    ] {
        assert_eq!(t.post(&sha256, what, &body).refusal().0, 422, "{what} {body}");
    }
}

#[test]
fn scales_stay_with_the_bench_and_a_typed_run_gets_a_second_meter() {
    let t = Traced::new();
    t.added(&wav(clean));
    let next = t.add(&wav(|t| 0.5 * clean(t)), "next.wav").json();
    assert_eq!((&next["channels"][0]["scale"], &next["channels"][1]["kind"]), (&json!(100.0), &json!("supply-volts")));
    let typed = json!({ "rung": t.rung(), "mode": "certified", "line": "440w 13.9v" });
    let run = t.bench.post(&format!("/api/sessions/{}/runs", t.session), &typed).json();
    let sha256 = t.bench.get(&t.path("")).json()["traces"][0]["sha256"].as_str().unwrap().to_owned();
    let offered = t.post(&sha256, "previews", &t.log("certified")).json();
    assert_eq!(offered["typed"][0]["id"], run["id"]);
    let mut second = t.log("certified");
    second["second_of"] = run["id"].clone();
    let made = t.post(&sha256, "runs", &second);
    assert_eq!(made.status, 201, "{}", made.text);
    let file = t.bench.get(&format!("/api/amplifiers/{}/file", t.amplifier)).json();
    let kept = file["runs"].as_array().unwrap().iter().find(|own| own["id"] == made.json()["id"]).unwrap().clone();
    assert_eq!((&kept["outputs"][0]["power_w"], &kept["supersedes"]), (&json!(440.0), &run["id"]), "what was typed stays the reading");
    assert!((kept["outputs"][0]["also"][0]["power_w"].as_f64().unwrap() - 435.1).abs() < 0.5, "{kept}");
}

#[test]
fn a_trace_travels_with_its_session_whole_or_bare_and_reads_the_same() {
    let t = Traced::new();
    let sha256 = t.added(&wav(clean));
    assert_eq!(t.post(&sha256, "runs", &t.log("certified")).status, 201);
    for (kind, is_secret) in [("full", true), ("shared", false)] {
        let zip = t.bench.bytes(&format!("/api/shelf.zip?kind={kind}"));
        let elsewhere = Bench::start();
        let result = elsewhere.send_bytes("POST", "/api/imports", &zip, &[]).json();
        assert_eq!(result["left_out"], json!([]), "{result}");
        let amplifier = elsewhere.get(&format!("/api/amplifiers/{}", result["amplifier_id"].as_str().unwrap())).json();
        let session = amplifier["session_id"].as_str().unwrap().to_owned();
        let line = elsewhere.get(&format!("/api/sessions/{session}/traces")).json()["traces"][0].clone();
        assert_eq!((&line["is_there"], line["runs"].as_array().unwrap().len()), (&json!(true), 1), "{kind}: {line}");
        let own = line["sha256"].as_str().unwrap();
        assert_eq!(own == sha256, is_secret, "what is bare goes by another hash");
        let file = std::fs::read(elsewhere.folder().join("traces").join(own)).unwrap();
        assert_eq!(file.windows(6).any(|six| six == b"SECRET"), is_secret);
        let look = json!({ "cut": whole(), "load_ohm": 4.0 });
        let there = elsewhere.post(&format!("/api/sessions/{session}/traces/{own}/stretches"), &look).json();
        assert_eq!(there, t.post(&sha256, "stretches", &look).json(), "the same figures elsewhere");
    }
}
