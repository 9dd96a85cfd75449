//! A panic in a task of the program: alone in its process, for it is heard everywhere.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

#[path = "common/awake.rs"]
mod awake;
mod common;
#[path = "common/peer.rs"]
mod peer;

use common::Bench;
use peer::{Peers, until};
use serde_json::json;

#[test]
fn a_panic_in_any_task_ends_the_run_as_a_stop_does() {
    awake::tried(|| {
        let (bench, peers) = (Bench::start(), Peers::start());
        peers.link(&bench, &[]);
        let (_, session) = bench.amplifier(|amplifier| amplifier["provenance"] = json!("bought"), &[(4.0, 150.0)]);
        let body = json!({ "place": { "rung": "mono@4@40", "mode": "certified" }, "method": { "kind": "ramp" } });
        assert_eq!(bench.post(&format!("/api/sessions/{session}/live"), &body).status, 201);
        until("the level is up", || peers.plays_db() > -38.0);
        let broken = std::thread::spawn(|| panic!("a task of the program breaks, on purpose"));
        assert!(broken.join().is_err());
        let live = || bench.get("/api/live").json()["live"].clone();
        until("the run ended", || !live()["ended"].is_null());
        assert_eq!((live()["ended"]["why"]["kind"].as_str(), live()["alarm"].as_bool()), (Some("broken"), Some(false)), "{}", live());
        assert!(peers.plays_db() <= -119.0);
        assert!(bench.get(&format!("/api/sessions/{session}/ladder")).json()["armed"].is_null());
    });
}
