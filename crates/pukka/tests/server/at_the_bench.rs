//! By hand, over HTTP: every form of the line, settling, level steps, rest, incidents, tones.

use crate::common::Bench;
use serde_json::{Value, json};

struct Hand {
    bench: Bench,
    session: String,
}

impl Hand {
    fn new() -> Self {
        let bench = Bench::start();
        bench.post(
            "/api/benches",
            &json!({
                "name": "Ferry Lane", "supply": { "kind": "battery" }, "loads": [], "leads": [],
                "meters": [{ "id": "watts", "quantity": "power", "reading_ratio": 0.01, "absolute": 0.0 },
                           { "id": "scope", "quantity": "power", "reading_ratio": 0.01, "absolute": 0.0 },
                           { "id": "clamp", "quantity": "current", "reading_ratio": 0.02, "absolute": 0.0 }]
            }),
        );
        let (_, session) = bench.amplifier(|amplifier| amplifier["provenance"] = json!("bought"), &[(4.0, 450.0), (2.0, 780.0)]);
        Self { bench, session }
    }

    fn at(&self, path: &str) -> String {
        format!("/api/sessions/{}/{path}", self.session)
    }

    fn log_at(&self, rung: &str, mode: &str, line: &str) -> Value {
        let logged = self.bench.post(&self.at("runs"), &json!({ "rung": rung, "mode": mode, "line": line }));
        assert_eq!(logged.status, 201, "{line}: {}", logged.text);
        logged.json()
    }

    fn log(&self, mode: &str, line: &str) -> Value {
        self.log_at("mono@4@40", mode, line)
    }

    fn ladder(&self) -> Value {
        self.bench.get(&self.at("ladder")).json()
    }

    fn run(&self, id: &Value) -> Value {
        self.bench.get(&self.at(&format!("runs/{}", id.as_str().unwrap()))).json()
    }

    fn codes(&self, id: &Value) -> Vec<String> {
        self.run(id)["checks"].as_array().unwrap().iter().map(|check| check["code"].as_str().unwrap().to_owned()).collect()
    }

    fn remark(&self, id: &Value, kind: &str, what: &str, reason: &str) -> crate::common::Answer {
        let body = json!({ "kind": kind, "what": what, "reason": reason });
        self.bench.post(&self.at(&format!("runs/{}/remarks", id.as_str().unwrap())), &body)
    }

    fn undo(&self) -> Value {
        self.bench.post("/api/undos", &json!({})).json()["says"].clone()
    }
}

#[test]
fn every_form_of_the_line_comes_back_as_it_was_typed() {
    let hand = Hand::new();
    for (mode, line) in [
        ("certified", "447w 14.38v 41.2a 0.98% 41c # fan on"),
        ("certified", "447w@watts=441w@scope 14.38v=14.3v 41.2a"),
        ("certified", "59.6vp 14.38v 41.2a"),
        ("certified", "447w 14.38v 74.5%e"),
        ("clipping", "462w 14.33v 46a >> 30s 455w 14.1v 46.4a"),
        ("dynamic", "62>61.2vp 8cy 14.52v"),
    ] {
        let id = hand.log(mode, line)["id"].clone();
        assert_eq!(hand.run(&id)["line"], line);
    }
    let rested = hand.log("certified", "59.6vp 14.6r 14.38v 41.2a")["id"].clone();
    assert_eq!(hand.run(&rested)["figures"]["sag"]["text"], "0.22");
    let refused =
        |mode: &str, line: &str| hand.bench.post(&hand.at("runs"), &json!({ "rung": "mono@4@40", "mode": mode, "line": line })).refusal();
    assert_eq!(refused("certified", "447@nobody").2, ["line"]);
    assert_eq!(refused("certified", "62>61vp").2, ["line"]);
    assert_eq!(refused("certified", "447 >> 440").2, ["line"]);
}

#[test]
fn a_stop_is_settled_by_striking_by_accepting_or_by_correcting() {
    let hand = Hand::new();
    let id = hand.log("certified", "447 14.38 30")["id"].clone();
    assert_eq!(hand.codes(&id), ["over-unity"]);
    let in_verdict = || {
        let rows = hand.bench.get(&hand.at("verdict")).json()["view"]["rows"].clone();
        rows.as_array().unwrap().iter().find(|row| row["load"].as_str().unwrap().starts_with('4')).unwrap()["outcome"].clone()
    };
    assert_eq!(in_verdict(), "not-tested", "a stop keeps it out");
    assert_eq!(hand.remark(&id, "strike", "current_a", " ").refusal().2, ["reason"]);
    assert_eq!(hand.remark(&id, "strike", "mood", "why not").refusal().2, ["what"]);
    assert_eq!(hand.remark(&json!("nobody"), "strike", "current_a", "gone").status, 404);
    assert_eq!(hand.remark(&id, "strike", "current_a", "clamp on the wrong lead").status, 204);
    assert!(hand.codes(&id).is_empty() && hand.run(&id)["figures"]["efficiency"].is_null(), "the watts stand, without an efficiency");
    assert_ne!(in_verdict(), "not-tested");
    assert_eq!(hand.undo(), "struck current_a");
    assert_eq!(hand.codes(&id), ["over-unity"]);

    assert_eq!(hand.remark(&id, "accept", "over-unity", "a shunt, and it was checked").status, 204);
    assert_eq!(hand.run(&id)["checks"][0]["settled"], true);
    hand.undo();

    let correct = |line: &str, reason: &str| {
        hand.bench.post(&hand.at(&format!("runs/{}/corrections", id.as_str().unwrap())), &json!({ "line": line, "reason": reason }))
    };
    assert_eq!(correct("447 14.38 x", "misread").refusal().2, ["line"]);
    assert_eq!(correct("447 14.38 41.2", "").refusal().2, ["reason"]);
    assert_eq!(correct("idle 14.4 1", "misread").refusal().2, ["line"]);
    assert_eq!(correct("447 14.38 41.2", "30 was the range").status, 201);
    let runs = hand.ladder()["ladder"]["rungs"][0]["cells"][0]["runs"].clone();
    assert_eq!((runs.as_array().unwrap().len(), &runs[0]["line"]), (1, &json!("447w 14.38v 41.2a")));
    let history = |id: &Value| hand.bench.get(&hand.at(&format!("runs/{}/history", id.as_str().unwrap()))).json();
    assert_eq!(history(&id), history(&runs[0]["id"]), "one history, also asked for by the line that was corrected");
    let history = history(&id);
    let whats: Vec<&str> = history.as_array().unwrap().iter().map(|row| row["what"].as_str().unwrap()).collect();
    for what in ["logged", "struck current_a", "no longer struck: current_a", "accepted over-unity", "corrected"] {
        assert!(whats.contains(&what), "{what} in {whats:?}");
    }
    hand.undo();
    let back = hand.ladder()["ladder"]["rungs"][0]["cells"][0]["runs"].clone();
    assert_eq!(back[0]["line"], "447w 14.38v 30a", "the old one stands again");
}

#[test]
fn a_meter_found_wrong_is_struck_across_the_session_in_one_act() {
    let hand = Hand::new();
    let both = hand.log("certified", "447w@watts=441w@scope 14.38v 41.2a")["id"].clone();
    let alone = hand.log_at("mono@2@40", "certified", "771w@watts 14.19v 77a")["id"].clone();
    let strike = |meter: &str| hand.bench.post(&hand.at(&format!("meters/{meter}/strikes")), &json!({ "reason": "reads 1.4 % high" }));
    assert_eq!(strike("nobody").status, 404);
    assert_eq!(strike("watts").json()["runs"], 2);
    let shown = hand.ladder()["ladder"]["rungs"].clone();
    assert_eq!(shown[0]["cells"][0]["runs"][0]["line"], "441w@scope 14.38v 41.2a", "the other meter's reading takes the place");
    assert!(hand.run(&alone)["figures"].is_null() && hand.run(&alone)["trouble"].is_string(), "nobody else read it");
    assert!(hand.undo().as_str().unwrap().contains("at once"));
    assert_eq!(hand.run(&both)["line"], "447w@watts=441w@scope 14.38v 41.2a");
    assert!(hand.run(&alone)["figures"]["total"].is_object());
    assert_eq!(strike("clamp").json()["runs"], 2);
}

#[test]
fn level_steps_a_row_a_step_and_then_a_run() {
    let hand = Hand::new();
    let finish = || hand.bench.post(&hand.at("steps"), &json!({ "rung": "mono@4@40", "mode": "certified" }));
    assert_eq!(finish().status, 404, "nothing was typed yet");
    for line in ["-3db 300 14.5 27 0.25%", "-2db 380 14.42 34 0.3%", "-1db 460 14.3 44 4%", "-2db 400 14.4 38 0.25%"] {
        assert_eq!(hand.log("certified", line)["about"], "step");
    }
    let rows = hand.ladder()["step_rows"]["mono@4@40 certified"].clone();
    let levels: Vec<f64> = rows.as_array().unwrap().iter().map(|row| row["step"]["level_db"].as_f64().unwrap()).collect();
    assert_eq!(levels, [-3.0, -2.0, -1.0], "a level typed again takes the place of the first");
    let run = finish().json();
    // ln 4 / ln 16 = 1/2 between 400 W at 0.25 % and 460 W at 4 %: 430 W.
    let figures = hand.run(&run["id"])["figures"].clone();
    assert!((figures["total"]["value"].as_f64().unwrap() - 430.0).abs() < 1e-6, "{figures}");
    assert!(hand.ladder()["step_rows"].as_object().unwrap().is_empty());
    hand.undo();
    assert_eq!(hand.ladder()["step_rows"]["mono@4@40 certified"].as_array().unwrap().len(), 3, "the rows are there to be finished again");
}

#[test]
fn idle_draw_and_rest_voltage_are_typed_at_the_bench_too() {
    let hand = Hand::new();
    assert_eq!(hand.log("certified", "idle 14.6 1.4")["about"], "idle");
    assert_eq!(hand.ladder()["settings"]["idle"], json!({ "current_a": 1.4, "supply_v": 14.6 }));
    assert_eq!(hand.undo(), "read the idle draw");
    assert!(hand.ladder()["settings"]["idle"].is_null());
    let rest = || hand.bench.get(&hand.at("rest")).json();
    assert_eq!(rest()["ready"], true, "nothing to rest from");
    hand.log("certified", "447 14.38 41.2 80c");
    let state = rest();
    assert!(!state["ready"].as_bool().unwrap() && state["wait_s"].as_f64().unwrap() > 50.0, "{state}");
    assert!(state["says"].as_array().unwrap().iter().any(|says| says.as_str().unwrap().contains("80 °C")));
    assert_eq!(hand.log("certified", "rest 14,52")["about"], "rest");
    assert_eq!(hand.undo(), "read 14.52 V at rest");
}

#[test]
fn an_incident_stops_the_plan_until_it_is_seen_to() {
    let hand = Hand::new();
    let arm = || hand.bench.post(&hand.at("armed"), &json!({ "rung": "mono@2@40", "mode": "clipping" }));
    assert_eq!(arm().status, 200);
    let body = json!({ "rung": "mono@2@40", "mode": "clipping", "incident": "protection", "end_v": 13.4, "note": "clicked off after 8 s" });
    assert_eq!(hand.bench.post(&hand.at("incidents"), &body).status, 201);
    let view = hand.ladder();
    assert_eq!(view["halt"]["says"], "It went into protection at 2\u{202f}Ω, clipping, 13.40\u{202f}V.");
    assert!(view["armed"].is_null());
    assert_ne!(view["ladder"]["next"], Value::Null);
    assert_eq!(view["ladder"]["logged"], 0, "what happened is no reading");
    assert_eq!(arm().refusal().1, "halted");
    let log = hand.bench.get("/api/incidents").json()["incidents"].clone();
    assert_eq!((&log[0]["amplifier"], &log[0]["note"]), (&json!("Tolland & Pike Mono 1100"), &json!("clicked off after 8 s")));
    let run = view["halt"]["run"].clone();
    assert_eq!(hand.remark(&run, "accept", "incident", "thermal; cooled to 40 °C").status, 204);
    assert!(hand.ladder()["halt"].is_null());
    assert_eq!(arm().status, 200);
    assert_eq!(hand.bench.get("/api/incidents").json()["incidents"][0]["seen_to"], "thermal; cooled to 40 °C");
    let mut died = body.clone();
    died["incident"] = json!("died");
    hand.bench.post(&hand.at("incidents"), &died);
    let run = hand.ladder()["halt"]["run"].clone();
    hand.remark(&run, "accept", "incident", "no");
    assert_eq!(hand.ladder()["halt"]["last"], true, "nobody accepts a death away");
}

#[test]
fn tones_as_wav() {
    let bench = Bench::start();
    let url = |query: &str| format!("{}/api/tones.wav?{query}", bench.url);
    let mut answer = crate::common::agent().get(url("hz=1000&level=-6&shape=sine&rate=96000&bits=24&seconds=0.5")).call().unwrap();
    assert_eq!(answer.headers()["content-type"], "audio/wav");
    let bytes = answer.body_mut().read_to_vec().unwrap();
    assert_eq!((&bytes[..4], &bytes[8..12]), (b"RIFF".as_slice(), b"WAVE".as_slice()));
    assert!(bytes.len() > 96_000 / 2 * 3 && bytes.len() < 96_000 / 2 * 3 + 200, "half a second of 24 bit: {}", bytes.len());
    let path = |query: &str| bench.get(&format!("/api/tones.wav?{query}")).refusal().2;
    assert_eq!(path("hz=1&level=-6&shape=sine"), ["hz"]);
    assert_eq!(path("hz=40&level=3&shape=burst"), ["level_dbfs"]);
    assert_eq!(path("hz=40&level=-6&shape=square"), ["shape"]);
    assert_eq!(path("hz=40&level=-6&shape=sine&rate=8000"), ["rate"]);
    assert_eq!(path("hz=40&level=-6&shape=sine&bits=8"), ["bits"]);
    assert_eq!(path("hz=40&level=-6&shape=steps&levels=loud"), ["levels"]);
    assert_eq!(path("hz=40&level=-6&shape=sine&seconds=1e9"), ["seconds"]);
}
