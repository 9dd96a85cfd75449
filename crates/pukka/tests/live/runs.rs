//! Runs that Pukka drives, against instruments that follow a script: what goes wrong with them is a state a person can read, the
//! level goes to zero, and the run is kept as far as it got.

use crate::common::Bench;
use crate::peer::{Does, Peers, until, watts};
use crate::set::Set;
use serde_json::{Value, json};

const ROUNDS_PER_S: u32 = 200;

fn set_up(but: &[&str]) -> Set {
    Set::with(but, &crate::peer::profile())
}

fn is_down(set: &Set) -> bool {
    // The last that it was told, and not asked.
    let told = set.peers.generator().into_iter().rev().find(|line| !line.ends_with('?'));
    set.peers.level_db() <= -119.0 && told.is_some_and(|line| line == "OUTP OFF")
}

#[test]
fn a_ramp_goes_to_the_limit_and_back_to_zero() {
    crate::awake(|| {
        let set = set_up(&[]);
        let started = set.start("certified", &json!({ "kind": "ramp" }), ROUNDS_PER_S);
        assert_eq!(started.status, 201, "{}", started.text);
        assert_eq!(set.start("certified", &json!({ "kind": "ramp" }), ROUNDS_PER_S).refusal().1, "cannot-start", "one at a time");
        let live = set.ended();
        assert_eq!((live["ended"]["kind"].as_str(), live["alarm"].as_bool()), (Some("done"), Some(false)), "{live}");
        assert!(is_down(&set), "{:?}", set.peers.generator());
        // 1 % is passed at −5.05 + 0.18 dB, and by then the tops are flat.
        let run = &set.runs(0)[0];
        assert_eq!(run["driven"], true);
        let line = run["line"].as_str().unwrap();
        let read: f64 = line.split('w').next().unwrap().parse().unwrap();
        assert!((read / watts(-5.05) - 1.0).abs() < 1e-4, "{line}");
        let ramp = set.bench.get(&format!("/api/sessions/{}/runs/{}/ramp", set.session, run["id"].as_str().unwrap())).json();
        let rounds = ramp["rounds"].as_array().unwrap();
        assert!(rounds.len() > 100, "{}", rounds.len());
        assert!(rounds.windows(2).all(|pair| pair[1]["t_ms"].as_u64() >= pair[0]["t_ms"].as_u64()));
        assert!(rounds.iter().any(|round| round["thd_ratio"].as_f64().unwrap() > 0.01), "the one that ended it is kept too");
        // Certified, so armed and disarmed again.
        assert!(set.bench.get(&format!("/api/sessions/{}/ladder", set.session)).json()["armed"].is_null());
    });
}

#[test]
fn level_steps_bursts_and_clipping() {
    crate::awake(|| {
        let set = set_up(&[]);
        set.start("certified", &json!({ "kind": "steps", "levels_db": [-10, -8, -6, -5, -4, -3] }), ROUNDS_PER_S);
        assert_eq!(set.ended()["ended"]["kind"], "done");
        let line = &set.runs(0)[0];
        let shown: f64 = line["total"].as_str().unwrap().split('\u{202f}').next().unwrap().parse().unwrap();
        assert!(shown > 125.0 && shown < 157.0, "between −6 and −5 dB, by level steps: {line}");
        set.start("clipping", &json!({ "kind": "ramp" }), ROUNDS_PER_S);
        assert_eq!(set.ended()["ended"]["kind"], "done");
        assert_eq!(set.runs(1).len(), 1);
        assert_eq!(set.start("dynamic", &json!({ "kind": "ramp" }), ROUNDS_PER_S).refusal().1, "cannot-start", "a dynamic run is a burst");
        assert!(is_down(&set));
    });
}

#[test]
fn without_a_generator_it_watches() {
    crate::awake(|| {
        let set = set_up(&["generator"]);
        assert_eq!(set.start("certified", &json!({ "kind": "ramp" }), ROUNDS_PER_S).refusal().1, "cannot-start");
        assert_eq!(set.start("certified", &json!({ "kind": "watch" }), ROUNDS_PER_S).status, 201);
        let first = || set.bench.get("/api/live").json()["live"]["says"].clone();
        assert!(!first().is_null());
        until("some rounds were kept", || {
            set.bench.post("/api/live/stop", &json!({}));
            !set.live()["ended"].is_null()
        });
        assert!(set.peers.generator().is_empty(), "nobody touched it");
    });
}

#[test]
fn every_fault_of_a_meter_stops_the_run_and_is_said() {
    let cases = [
        ("voltmeter", Does::Stalls, "link-lost", "supply voltmeter no longer answers"),
        ("voltmeter", Does::HangsUp, "link-lost", "supply voltmeter no longer answers"),
        ("ammeter", Does::HalfALine, "link-lost", "ammeter no longer answers"),
        ("analyser", Does::Garbage, "bad-reading", "“#?!”, which is no number"),
        ("analyser", Does::Overload, "bad-reading", "past its range"),
        ("voltmeter", Does::Thousandfold, "bad-reading", "is the profile's scale right?"),
    ];
    crate::two_at_a_time(&cases, |(role, does, kind, says)| {
        let set = set_up(&[]);
        set.peers.goes_wrong(role, does, -8.5);
        set.start("certified", &json!({ "kind": "ramp" }), ROUNDS_PER_S);
        let live = set.ended();
        assert_eq!(live["ended"]["why"]["kind"], kind, "{role} {does:?}: {live}");
        assert!(live["says"].as_str().unwrap().contains(says), "{live}");
        assert!(is_down(&set), "{role} {does:?}: {:?}", set.peers.generator());
        let run = &set.runs(0)[0];
        let read: f64 = run["line"].as_str().unwrap().split('w').next().unwrap().parse().unwrap();
        assert!(read > 15.0 && read <= watts(-8.5) * 1.001, "kept as far as it got, by what stood still: {run}");
        set.peers.goes_right();
        set.up_again();
    });
}

#[test]
fn a_generator_that_is_lost_raises_the_alarm_and_is_zeroed_first_when_it_is_back() {
    crate::awake(|| {
        let set = set_up(&[]);
        set.peers.goes_wrong("generator", Does::HangsUp, -18.5);
        set.start("certified", &json!({ "kind": "ramp" }), ROUNDS_PER_S);
        let live = set.ended();
        assert_eq!((live["ended"]["why"]["kind"].as_str(), live["alarm"].as_bool()), (Some("generator-lost"), Some(true)), "{live}");
        assert!(
            live["says"]
                .as_str()
                .unwrap()
                .starts_with("The generator's link is lost, and its level may still be up. Cut the amplifier's supply")
        );
        set.peers.goes_right();
        // It hangs up as it is raised, and says nothing more until the link is back.
        let raised = |line: &String| line.strip_prefix("LEV ").is_some_and(|level| level != "-120");
        let told = || set.peers.generator().into_iter().filter(|line| !line.ends_with('?')).collect::<Vec<_>>();
        let after = || told().rsplit(raised).next().map(<[String]>::to_vec).unwrap_or_default();
        until("it is zeroed as it comes back", || after().len() > 1);
        let after = after();
        assert_eq!(after.iter().take(2).map(String::as_str).collect::<Vec<_>>(), ["LEV -120", "OUTP OFF"], "{after:?}");
        let shown = || set.bench.get("/api/live").json()["live"].clone();
        until("the alarm is over", || shown()["alarm"] == false);
        assert!(shown()["says"].as_str().unwrap().starts_with("The level is down now, and proved to be."), "{}", shown());
    });
}

#[test]
fn a_generator_that_takes_the_zero_and_says_nothing_raises_the_alarm() {
    crate::awake(|| {
        let set = set_up(&[]);
        set.start("certified", &json!({ "kind": "ramp" }), ROUNDS_PER_S);
        set.raised(-38.0);
        set.peers.goes_wrong("generator", Does::Stalls, -150.0);
        set.bench.post("/api/live/stop", &json!({}));
        let live = set.ended();
        // Whether the stop or the silence was heard first is chance.
        assert!(["key", "generator-lost"].contains(&live["ended"]["why"]["kind"].as_str().unwrap()) && live["alarm"] == true, "{live}");
        set.peers.goes_right();
        set.up_again();
        assert!(set.peers.level_db() <= -119.0, "{:?}", set.peers.generator());
    });
}

#[test]
fn a_key_stops_it_at_once() {
    crate::awake(|| {
        let set = set_up(&[]);
        set.start("certified", &json!({ "kind": "ramp" }), ROUNDS_PER_S);
        set.raised(-25.0);
        assert_eq!(set.bench.post("/api/live/stop", &json!({})).status, 204);
        assert!(is_down(&set), "the answer comes after the zero: {:?}", set.peers.generator());
        let live = set.ended();
        assert_eq!(live["ended"]["why"]["kind"], "key");
        assert!(is_down(&set), "and nothing raised it again");
        assert!(set.runs(0).is_empty(), "nothing stood still so far down: there is no figure to keep");
        assert!(set.bench.get(&format!("/api/sessions/{}/ladder", set.session)).json()["armed"].is_null());
    });
}

#[test]
fn a_gate_that_is_shut_raises_nothing() {
    crate::awake(|| {
        let bench = Bench::start();
        let peers = Peers::start();
        peers.link(&bench, &[]);
        let (_, session) = bench.amplifier(|_| {}, &[(0.5, 1_100.0)]);
        let before = peers.generator().len();
        let body = json!({ "place": { "rung": "mono@0.5@40", "mode": "dynamic" }, "method": { "kind": "burst" } });
        let refused = bench.post(&format!("/api/sessions/{session}/live"), &body).refusal();
        assert_eq!((refused.0, refused.1.as_str()), (409, "gated"));
        assert!(peers.generator()[before..].iter().all(|line| !line.starts_with("LEV -") || line == "LEV -120"), "{:?}", peers.generator());
        assert!(bench.get("/api/live").json()["live"].is_null());
        // A refusal leaves the bench free for the next.
        assert_eq!(bench.post(&format!("/api/sessions/{session}/live"), &body).refusal().1, "gated");
    });
}

#[test]
fn a_link_says_what_is_wrong_with_it_and_its_lines_can_be_tried() {
    crate::awake(|| {
        let bench = Bench::start();
        let nobody = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap();
        let put = |role: &str, address: String, profile: &str| {
            bench.send(
                "PUT",
                &format!("/api/instruments/{role}"),
                &json!({ "address": address, "profile": profile, "meter": null }).to_string(),
                &[],
            )
        };
        assert_eq!(put("voltmeter", nobody.to_string(), &crate::peer::profile()).status, 204);
        let state = || bench.get("/api/instruments").json()["links"][2]["state"].clone();
        until("it says that it was refused", || state()["says"].as_str().is_some_and(|says| says.ends_with("refused the connection")));
        assert_eq!(put("voltmeter", "nowhere".into(), &crate::peer::profile()).refusal().2, ["address"]);
        assert_eq!(put("voltmeter", nobody.to_string(), "name = 1").refusal().2, ["profile.line 1"]);
        assert_eq!(put("toaster", nobody.to_string(), &crate::peer::profile()).status, 404);
        let tried = |role: &str, line: &str| bench.post(&format!("/api/instruments/{role}/trials"), &json!({ "line": line })).json();
        assert!(tried("voltmeter", "*IDN?")["fault"].as_str().unwrap().starts_with("is not connected"));
        let peers = Peers::start();
        peers.link(&bench, &[]);
        assert_eq!(tried("analyser", "*IDN?")["reply"], "Ferry Lane,Scripted,1,0");
        assert_eq!(tried("generator", "LEV -120")["reply"], Value::Null);
        assert_eq!(tried("generator", "LEV?")["reply"], "-120");
        let told = peers.generator().len();
        for line in ["LEV 0", "OUTP ON", "LEV?;LEV 0", "*IDN?;OUTP ON", "LEV 0 ?", "*RST", "FUNC SIN"] {
            let refused = bench.post("/api/instruments/generator/trials", &json!({ "line": line })).refusal();
            assert_eq!(refused.2, ["line"], "{line}: an armed run alone raises a level");
        }
        assert_eq!(peers.generator().len(), told, "nothing of it was sent");
        assert_eq!(bench.send("DELETE", "/api/instruments/ammeter", "", &[]).status, 204);
        assert!(bench.get("/api/instruments").json()["links"][3]["address"].is_null());
    });
}
