//! Instruments on a serial port, over a pair of pseudo-terminals: linked, read, and driven with what they have.

#![cfg(unix)]

use std::io::{Read as _, Write as _};

use crate::common::Bench;
use crate::peer::{Peers, until};
use serde_json::json;
use serialport::{SerialPort as _, TTYPort};

/// A port that a meter answers on; gives its path, and keeps it open.
fn meter(answer: impl Fn(&str) -> Option<String> + Send + 'static) -> (String, TTYPort) {
    let (mut far, near) = TTYPort::pair().unwrap();
    far.set_timeout(std::time::Duration::from_secs(3600)).unwrap();
    std::thread::spawn(move || {
        let mut so_far = Vec::new();
        let mut byte = [0u8];
        // The port is gone at the end of the test.
        while far.read(&mut byte).is_ok() {
            if byte[0] != b'\n' {
                so_far.push(byte[0]);
                continue;
            }
            let line = String::from_utf8_lossy(&std::mem::take(&mut so_far)).trim().to_owned();
            if let Some(answer) = answer(&line) {
                far.write_all(format!("{answer}\r\n").as_bytes()).unwrap();
            }
        }
    });
    (near.name().unwrap(), near)
}

#[test]
fn a_hand_held_meter_is_linked_read_and_comes_back() {
    crate::awake(|| {
        let (path, port) = meter(|line| match line {
            "ID" => Some("hand-held 3000".into()),
            "READ?" => Some("14.38 V DC".into()),
            _ => None,
        });
        let bench = Bench::start();
        let profile = pukka_core::instruments::SHIPPED.iter().find(|shipped| shipped.file == "serial-multimeter.toml").unwrap().text;
        let body = json!({ "address": path, "profile": profile, "meter": null });
        assert_eq!(bench.send("PUT", "/api/instruments/voltmeter", &body.to_string(), &[]).status, 204);
        let state = || bench.get("/api/instruments").json()["links"][2]["state"].clone();
        until("the link is up", || state()["kind"] == "ready");
        assert_eq!(state()["idn"], "hand-held 3000");
        let tried = |line: &str| bench.post("/api/instruments/voltmeter/trials", &json!({ "line": line })).json();
        assert_eq!(tried("READ?")["reply"], "14.38 V DC");
        assert_eq!(tried("ID")["reply"], "hand-held 3000", "a line of the profile that is no SCPI query");
        drop(port);
        assert_eq!(
            bench
                .send(
                    "PUT",
                    "/api/instruments/voltmeter",
                    &json!({ "address": "/dev/no-such-port", "profile": profile, "meter": null }).to_string(),
                    &[]
                )
                .status,
            204
        );
        until("it says what is wrong", || state()["says"].as_str().is_some_and(|says| says.starts_with("/dev/no-such-port:")));
    });
}

#[test]
fn a_run_is_watched_with_a_meter_across_the_load_alone() {
    crate::awake(|| {
        // Volts rms across 4 Ω: 20 V, 100 W.
        let (path, _port) = meter(|line| match line {
            "ID" => Some("hand-held 3000".into()),
            "READ?" => Some("20.00 V AC".into()),
            _ => None,
        });
        let bench = Bench::start();
        let (_, session) = bench.amplifier(|amplifier| amplifier["provenance"] = json!("bought"), &[(4.0, 150.0)]);
        let profile = pukka_core::instruments::SHIPPED.iter().find(|shipped| shipped.file == "serial-multimeter.toml").unwrap().text;
        let body = json!({ "address": path, "profile": profile, "meter": null });
        assert_eq!(bench.send("PUT", "/api/instruments/analyser", &body.to_string(), &[]).status, 204);
        until("the link is up", || bench.get("/api/instruments").json()["links"][1]["state"]["kind"] == "ready");
        let start = |method: &str| {
            let body = json!({ "place": { "rung": "mono@4@40", "mode": "certified" }, "method": { "kind": method } });
            bench.post(&format!("/api/sessions/{session}/live"), &body)
        };
        assert_eq!(start("watch").status, 201);
        let live = || bench.get("/api/live").json()["live"].clone();
        let runs = || bench.get(&format!("/api/sessions/{session}/ladder")).json()["ladder"]["rungs"][0]["cells"][0]["runs"].clone();
        // It has to stand still before it is a figure.
        std::thread::sleep(std::time::Duration::from_millis(1_500));
        bench.post("/api/live/stop", &json!({}));
        until("it ended", || !live()["ended"].is_null());
        let line = runs()[0]["line"].as_str().unwrap_or_default().to_owned();
        assert!(line.starts_with("100w"), "V²/R: {line}, {}", live());
        // With a generator and no distortion a ramp would not see its limit.
        let peers = Peers::start();
        peers.link(&bench, &["analyser", "voltmeter", "ammeter"]);
        let refused = start("ramp").json();
        assert!(refused["detail"].as_str().unwrap().contains("nothing here reads one"), "{refused}");
    });
}
