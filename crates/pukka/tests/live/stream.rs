//! The event stream of a live run, and the stand-in bench of the demo over HTTP.

use std::io::{BufRead, BufReader, Write};
use std::net::TcpStream;

use crate::common::Bench;
use crate::peer::{links_are_up, until};
use crate::set::Set;
use serde_json::{Value, json};

/// Reads the stream until `enough` says so: ids and data of its events.
fn listen(url: &str, last_id: Option<&str>, mut enough: impl FnMut(&[(String, Value)]) -> bool) -> Vec<(String, Value)> {
    let host = url.trim_start_matches("http://");
    let mut stream = TcpStream::connect(host).unwrap();
    let last = last_id.map(|id| format!("Last-Event-ID: {id}\r\n")).unwrap_or_default();
    write!(stream, "GET /api/live/events HTTP/1.1\r\nHost: {host}\r\nAccept: text/event-stream\r\n{last}\r\n").unwrap();
    let (mut events, mut id) = (Vec::new(), String::new());
    for line in BufReader::new(stream).lines() {
        let line = line.unwrap();
        if let Some(seen) = line.strip_prefix("id: ") {
            id = seen.to_owned();
        } else if let Some(data) = line.strip_prefix("data: ") {
            events.push((std::mem::take(&mut id), serde_json::from_str(data).unwrap()));
            if enough(&events) {
                return events;
            }
        }
    }
    panic!("the stream ended after {} events", events.len())
}

fn rounds(events: &[(String, Value)]) -> Vec<u64> {
    events.iter().filter_map(|(_, data)| data["n"].as_u64()).collect()
}

/// A run of some rounds that has come to its end.
fn driven() -> Set {
    let set = Set::new();
    set.drive(200);
    set.ended();
    set
}

/// Speed of the stand-in bench as a multiple of life; in real time in `cargo xtask long`.
fn pace() -> f64 {
    std::env::var("PUKKA_PACE").ok().and_then(|pace| pace.parse().ok()).unwrap_or(20.0)
}

#[test]
fn a_browser_that_was_away_catches_up_from_what_it_has_seen() {
    crate::awake(|| {
        let driven = driven();
        let all = listen(&driven.bench.url, None, |events| {
            events.iter().any(|(_, data)| data["live"]["ended"].is_object()) && rounds(events).len() > 100
        });
        let whole = rounds(&all);
        assert!(whole.windows(2).all(|pair| pair[1] == pair[0] + 1) && whole[0] == 0, "every round, in order, once");
        let middle = whole.len() as u64 / 2;
        let id = all.iter().find(|(_, data)| data["n"] == middle).unwrap().0.clone();
        let count = whole.len() - middle as usize - 1;
        let rest = listen(&driven.bench.url, Some(&id), |events| rounds(events).len() >= count);
        assert_eq!(rounds(&rest), whole[middle as usize + 1..], "only what it missed");
        let nonsense = listen(&driven.bench.url, Some("nobody's"), |events| rounds(events).len() >= whole.len());
        assert_eq!(rounds(&nonsense), whole);
        assert!(driven.peers.level_db() <= -119.0);
    });
}

#[test]
fn every_round_says_how_long_it_took_to_be_kept() {
    crate::awake(|| {
        let driven = driven();
        let events = listen(&driven.bench.url, None, |events| rounds(events).len() > 50);
        let round = &events.iter().find(|(_, data)| data["n"] == 40).unwrap().1;
        assert!(round["round"]["power_w"][0].as_f64().unwrap() > 0.0 && round["kept_after_ms"].is_number());
        let first = driven.bench.get("/api/live").json()["live"].clone();
        assert_eq!((&first["title"], &first["limit_ratio"]), (&json!("4\u{202f}Ω, certified"), &json!(0.01)));
    });
}

#[test]
fn the_stand_in_bench_is_in_the_demo_and_nowhere_else() {
    crate::awake(|| {
        let own = Bench::start();
        assert_eq!(own.get("/api/stand-in").json()["there"], false);
        assert_eq!(own.send("PUT", "/api/stand-in", "{}", &[]).status, 404);
        let demo = Bench::demo(pace());
        let view = demo.get("/api/stand-in").json();
        assert_eq!(view["amplifiers"].as_array().unwrap().len(), 8);
        assert_eq!((&view["amplifier"], &view["state"]), (&json!("honest"), &json!("ON")));
        let put = |body: Value| demo.send("PUT", "/api/stand-in", &body.to_string(), &[]);
        assert_eq!(
            put(json!({ "amplifier": "weak-channel", "charger_on": true, "clamp_factor": 0.5, "load_switch_wrong": false })).status,
            204
        );
        assert_eq!(demo.get("/api/stand-in").json()["amplifier"], "weak-channel");
        assert_eq!(put(json!({ "amplifier": "nobody" })).refusal().1, "invalid");
        assert_eq!(put(json!({ "clamp_factor": 0 })).refusal().1, "invalid");
        assert_eq!(put(json!({ "fault": "voltmeter,GARBAGE;*RST" })).refusal().1, "invalid");
        links_are_up(|path| demo.get(path).json());
        let read = || {
            demo.post("/api/instruments/voltmeter/trials", &json!({ "line": "MEAS:VOLT?" })).json()["reply"].as_str().unwrap().to_owned()
        };
        assert!(read().parse::<f64>().unwrap() > 13.0);
        assert_eq!(put(json!({ "fault": "voltmeter,GARBAGE" })).status, 204);
        assert_eq!(read(), "#?!");
    });
}

#[test]
fn a_live_run_on_the_stand_in_makes_its_load_follow() {
    crate::awake(|| {
        let demo = Bench::demo(pace());
        let shelf = demo.get("/api/amplifiers").json();
        let all = shelf["amplifiers"].as_array().unwrap();
        let id = all.iter().find(|item| item["summary"]["name"] == "Tolland & Pike Mono 1100").unwrap()["id"].as_str().unwrap().to_owned();
        let session = demo.get(&format!("/api/amplifiers/{id}")).json()["session_id"].as_str().unwrap().to_owned();
        links_are_up(|path| demo.get(path).json());
        for link in demo.get("/api/instruments").json()["links"].as_array().unwrap().iter().filter(|link| link["address"].is_string()) {
            let patient = crate::peer::patient(link["profile"].as_str().unwrap());
            let body = json!({ "address": link["address"], "profile": patient, "meter": link["meter"] });
            let set = demo.send("PUT", &format!("/api/instruments/{}", link["role"].as_str().unwrap()), &body.to_string(), &[]);
            assert_eq!(set.status, 204, "{}", set.text);
        }
        links_are_up(|path| demo.get(path).json());
        let mut watts = Vec::new();
        for rung in ["mono@4@40", "mono@2@40"] {
            let body = json!({ "place": { "rung": rung, "mode": "certified" }, "method": { "kind": "ramp" } });
            let started = demo.post(&format!("/api/sessions/{session}/live"), &body);
            assert_eq!(started.status, 201, "{}", started.text);
            until("it ended", || !demo.get("/api/live").json()["live"]["ended"].is_null());
            let live = demo.get("/api/live").json()["live"].clone();
            assert_eq!(live["ended"]["kind"], "done", "{live}");
            let run = demo.get(&format!("/api/sessions/{session}/runs/{}", live["run_id"].as_str().unwrap())).json();
            watts.push(run["figures"]["total"]["value"].as_f64().unwrap());
            let rest = demo.get(&format!("/api/sessions/{session}/rest")).json();
            assert!(rest["says"].as_array().is_some_and(|says| !says.is_empty()), "{rest}");
        }
        let two = all.iter().find(|item| item["summary"]["name"] == "Tolland & Pike Duo 200").unwrap()["id"].as_str().unwrap();
        let session = demo.get(&format!("/api/amplifiers/{two}")).json()["session_id"].as_str().unwrap().to_owned();
        let body = json!({ "place": { "rung": "channels-2@4@1000", "mode": "certified" }, "method": { "kind": "ramp" } });
        let refused = demo.post(&format!("/api/sessions/{session}/live"), &body);
        assert_eq!(refused.refusal().1, "cannot-start");
        assert!(refused.text.contains("drives 2 outputs"), "{}", refused.text);
        assert!(watts[1] > 1.4 * watts[0] && watts[1] < 2.0 * watts[0], "{watts:?}");
    });
}
