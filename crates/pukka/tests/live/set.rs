//! A bench with an amplifier on it and scripted instruments, to be driven.

use crate::common::{Answer, Bench};
use crate::peer::{Peers, links_are_up, profile, until};
use serde_json::{Value, json};

pub struct Set {
    pub bench: Bench,
    pub session: String,
    pub peers: Peers,
}

impl Set {
    pub fn new() -> Self {
        Self::with(&[], &profile())
    }

    /// Without some of its instruments, and by a profile.
    pub fn with(but: &[&str], profile: &str) -> Self {
        let bench = Bench::start();
        let peers = Peers::start();
        peers.link_with(&bench.url, but, profile);
        let (_, session) = bench.amplifier(|amplifier| amplifier["provenance"] = json!("bought"), &[(4.0, 150.0)]);
        Self { bench, session, peers }
    }

    pub fn start(&self, mode: &str, method: &Value, rounds_per_s: u32) -> Answer {
        let body = json!({ "place": { "rung": "mono@4@40", "mode": mode }, "method": method, "rounds_per_s": rounds_per_s });
        self.bench.post(&format!("/api/sessions/{}/live", self.session), &body)
    }

    pub fn drive(&self, rounds_per_s: u32) {
        let started = self.start("certified", &json!({ "kind": "ramp" }), rounds_per_s);
        assert_eq!(started.status, 201, "{}", started.text);
    }

    pub fn live(&self) -> Value {
        self.bench.get("/api/live").json()["live"].clone()
    }

    pub fn ended(&self) -> Value {
        until("the run ended", || !self.live()["ended"].is_null());
        self.live()
    }

    pub fn raised(&self, db: f64) {
        self.peers.raised(db, || self.live());
    }

    pub fn up_again(&self) {
        links_are_up(|path| self.bench.get(path).json());
    }

    /// The runs that were kept of a mode: certified, clipping, dynamic.
    pub fn runs(&self, cell: usize) -> Vec<Value> {
        let ladder = self.bench.get(&format!("/api/sessions/{}/ladder", self.session)).json();
        ladder["ladder"]["rungs"][0]["cells"][cell]["runs"].as_array().unwrap().clone()
    }

    /// Watts that were kept of a certified run.
    pub fn kept_w(&self) -> Option<f64> {
        let line = self.runs(0).first()?["line"].as_str().map(str::to_owned)?;
        line.split('w').next().unwrap().parse().ok()
    }
}
