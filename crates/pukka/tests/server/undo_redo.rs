//! Undo, redo, and what became of a write whose answer was lost, over HTTP.

use crate::common::Bench;
use serde_json::{Value, json};

struct Hand {
    bench: Bench,
    session: String,
    amplifier: String,
}

impl Hand {
    fn new() -> Self {
        let bench = Bench::start();
        let (amplifier, session) = bench.amplifier(|_| {}, &[(4.0, 450.0), (2.0, 750.0)]);
        Self { bench, session, amplifier }
    }

    fn log(&self, line: &str) -> Value {
        let body = json!({ "rung": "mono@4@40", "mode": "certified", "line": line });
        self.bench.post(&format!("/api/sessions/{}/runs", self.session), &body).json()
    }

    fn logged(&self) -> u64 {
        self.bench.get(&format!("/api/sessions/{}/ladder", self.session)).json()["ladder"]["logged"].as_u64().unwrap()
    }

    fn acts(&self, query: &str) -> (Vec<String>, Vec<String>) {
        let answer = self.bench.send("GET", &format!("/api/acts{query}"), "", &[("x-pukka-tab", "a")]).json();
        let says = |list: &Value| list.as_array().unwrap().iter().map(|act| act["says"].as_str().unwrap().to_owned()).collect();
        (says(&answer["undo"]), says(&answer["redo"]))
    }

    fn at_bench(&self) -> Value {
        json!({ "bench_of": self.amplifier })
    }

    fn claims(&self) -> usize {
        self.bench.get(&format!("/api/amplifiers/{}", self.amplifier)).json()["claims"].as_array().unwrap().len()
    }
}

#[test]
fn what_comes_next_is_said_before_and_after_and_can_be_done_again() {
    let hand = Hand::new();
    hand.log("440 14.3 41");
    hand.log("447 14.3 41");
    let (undo, redo) = hand.acts("");
    assert_eq!(undo[..3], ["logged 4\u{202f}Ω, certified", "logged 4\u{202f}Ω, certified", "added a claim"]);
    assert!(redo.is_empty());
    assert_eq!(hand.bench.post("/api/redos", &json!({})).refusal().1, "nothing-to-redo");

    assert_eq!(hand.bench.post("/api/undos", &json!({})).json()["says"], "logged 4\u{202f}Ω, certified");
    assert_eq!(hand.bench.post("/api/undos", &json!({})).json()["says"], "logged 4\u{202f}Ω, certified");
    assert_eq!((hand.logged(), hand.acts("").1.len()), (0, 2));
    assert_eq!(hand.bench.post("/api/redos", &json!({})).json()["says"], "logged 4\u{202f}Ω, certified");
    assert_eq!((hand.logged(), hand.acts("").1.len()), (1, 1));
    // And back, and forth, as often as one likes.
    hand.bench.post("/api/undos", &json!({}));
    hand.bench.post("/api/redos", &json!({}));
    hand.bench.post("/api/redos", &json!({}));
    let verdict = hand.bench.get(&format!("/api/sessions/{}/ladder", hand.session)).json();
    assert_eq!(verdict["ladder"]["rungs"][0]["cells"][0]["runs"].as_array().unwrap().len(), 2);
    // Something new ends what can be done again.
    hand.bench.post("/api/undos", &json!({}));
    hand.log("450 14.3 41");
    assert!(hand.acts("").1.is_empty());
}

#[test]
fn an_act_that_is_not_the_next_is_not_taken_back() {
    let hand = Hand::new();
    hand.log("440 14.3 41");
    let shown = hand.bench.send("GET", "/api/acts", "", &[("x-pukka-tab", "a")]).json()["undo"][0]["act"].clone();
    hand.log("447 14.3 41");
    let refused = hand.bench.post("/api/undos", &json!({ "act": shown })).refusal();
    assert_eq!((refused.0, refused.1.as_str()), (409, "not-next"));
    assert_eq!(hand.logged(), 1);
}

#[test]
fn at_the_bench_undo_leaves_claims_alone() {
    let hand = Hand::new();
    hand.log("440 14.3 41");
    let added = hand.bench.post(&format!("/api/amplifiers/{}/claims", hand.amplifier), &crate::common::claim(1.0, 1_100.0));
    assert_eq!(added.status, 201);
    let (undo, _) = hand.acts(&format!("?bench_of={}", hand.amplifier));
    assert_eq!(undo, ["logged 4\u{202f}Ω, certified"]);
    assert_eq!(hand.bench.post("/api/undos", &hand.at_bench()).json()["says"], "logged 4\u{202f}Ω, certified");
    assert_eq!(hand.bench.post("/api/undos", &hand.at_bench()).refusal().1, "nothing-to-undo");
    assert_eq!((hand.logged(), hand.claims()), (0, 3));
    assert_eq!(hand.bench.post("/api/redos", &hand.at_bench()).json()["says"], "logged 4\u{202f}Ω, certified");
    assert_eq!((hand.logged(), hand.claims()), (1, 3));
}

#[test]
fn every_kind_of_act_goes_back_and_forth() {
    let hand = Hand::new();
    let session = &hand.session;
    let run = hand.log("440 14.3 41")["id"].as_str().unwrap().to_owned();
    let post = |path: &str, body: Value| {
        let answer = hand.bench.post(path, &body);
        assert!(answer.status < 300, "{path}: {}", answer.text);
    };
    post(
        &format!("/api/sessions/{session}/runs/{run}/remarks"),
        json!({ "kind": "strike", "what": "current_a", "reason": "clamp slipped" }),
    );
    hand.log("14.52r");
    hand.log("-5db 210 14.3 20 0.02%");
    hand.log("-4db 240 14.3 23 4%");
    post(&format!("/api/sessions/{session}/steps"), json!({ "rung": "mono@4@40", "mode": "certified" }));
    post(&format!("/api/sessions/{session}/runs/{run}/withdrawal"), json!({ "reason": "wrong load" }));
    post(&format!("/api/sessions/{session}/settled"), json!({}));
    let seen = || {
        let ladder = hand.bench.get(&format!("/api/sessions/{session}/ladder")).json();
        let verdict = hand.bench.get(&format!("/api/sessions/{session}/verdict")).json();
        let cell = &ladder["ladder"]["rungs"][0]["cells"][0];
        (
            cell["runs"].clone(),
            ladder["step_rows"].clone(),
            ladder["ladder"]["rest_v"].clone(),
            verdict["settled"].clone(),
            verdict["sentence"].clone(),
        )
    };
    let after = seen();
    let mut undone = Vec::new();
    while let Some(says) = hand.bench.post("/api/undos", &json!({})).json()["says"].as_str() {
        undone.push(says.to_owned());
        if says.starts_with("logged 4\u{202f}Ω, certified") && undone.len() >= 8 {
            break;
        }
    }
    assert_eq!(hand.logged(), 0);
    for said in undone.iter().rev() {
        assert_eq!(hand.bench.post("/api/redos", &json!({})).json()["says"].as_str(), Some(said.as_str()));
    }
    assert_eq!(seen(), after);
}

#[test]
fn a_deletion_goes_back_and_forth_and_not_over_what_another_tab_did() {
    let hand = Hand::new();
    let path = format!("/api/amplifiers/{}", hand.amplifier);
    let shown = hand.bench.get(&path).json();
    let claim = &shown["claims"][0];
    let id = claim["id"].as_str().unwrap();
    let deleted = hand.bench.send("DELETE", &format!("/api/claims/{id}"), "", &[("x-pukka-tab", "a"), ("if-match", "\"1\"")]);
    assert_eq!((deleted.status, hand.claims()), (204, 1));
    hand.bench.post("/api/undos", &json!({}));
    assert_eq!(hand.claims(), 2);
    hand.bench.post("/api/redos", &json!({}));
    assert_eq!(hand.claims(), 1);
    hand.bench.post("/api/undos", &json!({}));
    // Another tab changes it: the deletion is not done again over that.
    let mut changed = claim["claim"].clone();
    changed["power_w"] = json!(460.0);
    let revision = hand.bench.get(&path).json()["claims"][0]["revision"].to_string();
    let edited = hand.bench.send(
        "PUT",
        &format!("/api/claims/{id}"),
        &changed.to_string(),
        &[("x-pukka-tab", "b"), ("if-match", &format!("\"{revision}\""))],
    );
    assert_eq!(edited.status, 200, "{}", edited.text);
    assert_eq!(hand.bench.post("/api/redos", &json!({})).refusal().1, "changed-elsewhere");
    assert_eq!(hand.claims(), 2);
}

#[test]
fn what_became_of_a_write_is_told_by_its_key_and_a_late_one_is_not_done_any_more() {
    let hand = Hand::new();
    let log = |key: &str| {
        let body = json!({ "rung": "mono@4@40", "mode": "certified", "line": "440 14.3 41" }).to_string();
        hand.bench.send("POST", &format!("/api/sessions/{}/runs", hand.session), &body, &[("x-pukka-tab", "a"), ("idempotency-key", key)])
    };
    let settle = |key: &str| hand.bench.send("DELETE", &format!("/api/writes/{key}"), "", &[("x-pukka-tab", "a")]).json();
    let done = log("k1").json();
    let told = settle("k1");
    assert_eq!((told["done"].as_bool(), &told["answer"]), (Some(true), &done));
    assert_eq!(settle("k2"), json!({ "done": false, "answer": null }));
    let late = log("k2").refusal();
    assert_eq!((late.0, late.1.as_str()), (409, "given-up"));
    assert_eq!(settle("k2")["done"], false);
    assert_eq!(hand.acts("").0.iter().filter(|says| says.starts_with("logged")).count(), 1);
}

#[test]
fn a_doubted_run_is_logged_only_when_it_was_said_twice() {
    let hand = Hand::new();
    let log = |line: &str, unless_doubted: bool| {
        let body = json!({ "rung": "mono@4@40", "mode": "certified", "line": line, "unless_doubted": unless_doubted });
        hand.bench.post(&format!("/api/sessions/{}/runs", hand.session), &body)
    };
    // More out than in.
    let refused = log("447 14.3 20", true).refusal();
    assert_eq!((refused.0, refused.1.as_str(), refused.2), (409, "doubted", vec!["over-unity".to_owned()]));
    assert_eq!(hand.logged(), 0);
    assert_eq!(log("447 14.3 20", false).status, 201);
    // Past the fuses, and hot: that says nothing against the readings.
    let hot = log("1100 13.9 112 91c", true);
    assert_eq!(hot.status, 201, "{}", hot.text);
}
