//! Instruments that lie, lag and do not obey, over real connections: nothing false is recorded, no run is lost, the level comes down
//! and is proved to be down, or the alarm says that it is not.

use std::time::{Duration, Instant};

use crate::common::Bench;
use crate::peer::{Does, links_are_up, until, watts};
use crate::set::Set;
use serde_json::json;

const FROM_DB: f64 = -16.5;

#[test]
fn an_analyser_that_lies_is_found_out_within_three_decibels() {
    let cases = [
        (Does::Freezes, ["frozen", "not-following"]),
        (Does::Sticks, ["not-following", "amps-without-watts"]),
        (Does::Late, ["bad-reading", "not-following"]),
        (Does::Comma, ["bad-reading", "bad-reading"]),
    ];
    crate::two_at_a_time(&cases, |(does, kinds)| {
        let set = Set::new();
        set.peers.goes_wrong("analyser", does, FROM_DB);
        set.drive(100);
        let live = set.ended();
        let why = live["ended"]["why"]["kind"].as_str().unwrap_or("none").to_owned();
        assert!(kinds.contains(&why.as_str()) || (does == Does::Late && why != "none"), "{does:?}: {live}");
        assert_eq!(live["alarm"], false, "{does:?}: {live}");
        assert!(set.peers.plays_db() <= -119.0, "{does:?}");
        assert!(set.peers.top_db() <= FROM_DB + 3.5, "{does:?}: {} dB", set.peers.top_db());
        assert!(set.kept_w().is_none_or(|kept| kept <= watts(FROM_DB) * 1.001), "{does:?}: nothing false: {:?}", set.kept_w());
    });
}

#[test]
fn a_generator_that_does_not_obey_is_found_out_and_the_alarm_stands_until_it_does() {
    // What it does, why the run ends, whether it plays on.
    let cases = [
        (Does::IgnoresZero, "key", true),
        (Does::Ignores, "generator-refused", true),
        (Does::Lies, "key", true),
        (Does::Refuses, "generator-refused", true),
        (Does::Deaf, "generator-lost", true),
        (Does::Late, "generator-refused", false),
    ];
    crate::two_at_a_time(&cases, |(does, kind, plays_on)| {
        let set = Set::new();
        set.peers.goes_wrong("generator", does, FROM_DB);
        set.drive(100);
        if kind == "key" {
            until("the level is up", || set.peers.plays_db() >= FROM_DB || !set.live()["ended"].is_null());
            set.bench.post("/api/live/stop", &json!({}));
        }
        let live = set.ended();
        let why = live["ended"]["why"]["kind"].as_str().unwrap_or("none");
        assert!(why == kind || does == Does::Lies || does == Does::Late, "{does:?}: {live}");
        assert_eq!(
            live["alarm"],
            plays_on && set.peers.plays_db() > -119.0 || does == Does::Late && live["alarm"] == true,
            "{does:?}: {live}"
        );
        assert!(set.peers.top_db() <= FROM_DB + 4.0, "{does:?}: {} dB", set.peers.top_db());
        if live["alarm"] == true {
            assert!(live["says"].as_str().unwrap().contains("by hand"), "{does:?}: {live}");
            let again = json!({ "place": { "rung": "mono@4@40", "mode": "certified" }, "method": { "kind": "ramp" } });
            let refused = set.bench.post(&format!("/api/sessions/{}/live", set.session), &again).refusal();
            assert_eq!(refused.1, "cannot-start", "{does:?}: nothing is driven while the alarm stands");
        }
        set.peers.goes_right();
        until("the level is down and the alarm is over", || set.peers.plays_db() <= -119.0 && set.live()["alarm"] == false);
    });
}

#[test]
fn one_zero_of_the_supply_is_asked_again_and_ends_nothing() {
    crate::awake(|| {
        let set = Set::new();
        set.peers.goes_wrong("voltmeter", Does::ZeroOnce, FROM_DB);
        set.drive(100);
        let live = set.ended();
        assert_eq!((live["ended"]["kind"].as_str(), live["alarm"].as_bool()), (Some("done"), Some(false)), "{live}");
    });
}

#[test]
fn meters_of_nearly_a_second_a_reading_are_waited_for_and_stop_is_not() {
    crate::awake(|| {
        let set = Set::with(&[], &crate::peer::profile().replace("timeout_ms = 1000", "timeout_ms = 1500"));
        set.peers.slows_down(Duration::from_millis(900));
        set.drive(100);
        until("the level was raised more than once", || set.peers.top_db() > -38.0 || !set.live()["ended"].is_null());
        let live = set.live();
        assert!(live["ended"].is_null(), "slow is not frozen: {live}");
        let start = Instant::now();
        set.bench.post("/api/live/stop", &json!({}));
        until("the level is down", || set.peers.plays_db() <= -119.0);
        assert!(start.elapsed() < Duration::from_millis(1_500 + 500), "{:?}", start.elapsed());
        let live = set.ended();
        assert_eq!((live["ended"]["why"]["kind"].as_str(), live["alarm"].as_bool()), (Some("key"), Some(false)), "{live}");
    });
}

#[test]
fn instruments_in_use_stay_as_they_are() {
    crate::awake(|| {
        let set = Set::new();
        set.drive(100);
        set.raised(-38.0);
        assert_eq!(set.bench.send("DELETE", "/api/instruments/analyser", "", &[]).refusal().1, "under-way");
        let body = json!({ "address": "127.0.0.1:9", "profile": crate::peer::profile(), "meter": null });
        assert_eq!(set.bench.send("PUT", "/api/instruments/generator", &body.to_string(), &[]).refusal().1, "under-way");
        assert_eq!(set.bench.post("/api/instruments/voltmeter/trials", &json!({ "line": "*IDN?" })).refusal().1, "under-way");
        set.bench.post("/api/live/stop", &json!({}));
        set.ended();
        assert_eq!(set.bench.send("DELETE", "/api/instruments/ammeter", "", &[]).status, 204);
    });
}

#[test]
fn the_output_goes_on_only_after_the_run_is_armed() {
    crate::awake(|| {
        let set = Set::new();
        set.drive(100);
        set.raised(-39.0);
        let told = set.peers.generator();
        let on = told.iter().position(|line| line == "OUTP ON").unwrap();
        let raised = told.iter().position(|line| line.starts_with("LEV -") && line != "LEV -120").unwrap();
        assert!(on < raised, "{told:?}");
        assert!(told[..on].contains(&"OUTP?".to_owned()), "it was read back before: {told:?}");
        set.bench.post("/api/live/stop", &json!({}));
        set.ended();
    });
}

/// The stand-in bench on a supply of its own, on ports, with every instrument linked.
fn stand_in(bench: &Bench, volts: f64) -> (pukka_sim::serve::Running, tokio::runtime::Runtime) {
    use pukka_sim::{bench::Bench as SimBench, character::find, scpi, serve, supply::SupplyKind};
    let running = serve::Running::new(SimBench::with(5, find("honest").unwrap(), SupplyKind::mains(volts, 60.0), 4.0), 1.0);
    let runtime = tokio::runtime::Builder::new_multi_thread().worker_threads(2).enable_all().build().unwrap();
    let ports = runtime.block_on(serve::listen(running.clone(), 0)).unwrap();
    let agent = crate::common::agent();
    for (word, role) in [
        ("generator", scpi::Role::Generator),
        ("analyser", scpi::Role::Analyser),
        ("voltmeter", scpi::Role::Voltmeter),
        ("ammeter", scpi::Role::Ammeter),
        ("supply", scpi::Role::Supply),
        ("thermometer", scpi::Role::Thermometer),
    ] {
        let body = json!({ "address": ports.of(role).to_string(), "profile": crate::peer::patient(pukka_core::instruments::GENERIC), "meter": null });
        let set = agent.put(&format!("{}/api/instruments/{word}", bench.url)).send_json(&body).unwrap();
        assert_eq!(set.status(), 204);
    }
    links_are_up(|path| bench.get(path).json());
    (running, runtime)
}

#[test]
fn an_alarm_switches_the_supply_off_and_a_run_sets_it_first() {
    crate::awake(|| {
        use pukka_sim::scpi::Role;
        let bench = Bench::start();
        let (_, session) = bench.amplifier(|amplifier| amplifier["provenance"] = json!("bought"), &[(4.0, 150.0)]);
        let (running, _runtime) = stand_in(&bench, 12.9);
        let live = || bench.get("/api/live").json()["live"].clone();
        let number = |role: Role, line: &str| running.ask(role, line).unwrap().parse::<f64>().unwrap();
        let body = json!({ "place": { "rung": "mono@4@40", "mode": "certified" }, "method": { "kind": "ramp" } });
        let started = bench.post(&format!("/api/sessions/{session}/live"), &body);
        assert_eq!(started.status, 201, "{}", started.text);
        // The claim is for 14.4 V, and the supply's own resistance is not known.
        assert!((number(Role::Supply, "VOLT?") - 14.4).abs() < 0.5, "{}", number(Role::Supply, "VOLT?"));
        until("the level is up", || number(Role::Generator, "LEV?") > -36.0 || !live()["ended"].is_null());
        let _ = running.ask(Role::Bench, "SIM:FAUL generator,IGNORE-ZERO");
        bench.post("/api/live/stop", &json!({}));
        until("the run ended", || !live()["ended"].is_null());
        let shown = live();
        assert_eq!(shown["alarm"], true, "{shown}");
        let says = shown["says"].as_str().unwrap();
        assert!(says.contains("The supply was switched off.") && says.contains("supercapacitors"), "{says}");
        assert!(number(Role::Supply, "OUTP?") < 0.5);
        let _ = running.ask(Role::Bench, "SIM:FAUL generator,NONE");
        until("the alarm is over", || live()["alarm"] == false);
        // By hand, from any page.
        let _ = running.ask(Role::Supply, "OUTP ON");
        let cut = bench.post("/api/live/cut", &json!({})).json();
        assert!(cut["says"].as_str().unwrap().starts_with("The level was taken away and the supply switched off."), "{cut}");
        assert!(number(Role::Supply, "OUTP?") < 0.5);
    });
}

#[test]
fn counted_cycles_are_driven_and_both_ends_kept() {
    crate::awake(|| {
        let bench = Bench::start();
        let (_, session) = bench.amplifier(|amplifier| amplifier["provenance"] = json!("bought"), &[(4.0, 150.0)]);
        let _stand_in = stand_in(&bench, 14.4);
        let body = json!({ "place": { "rung": "mono@4@40", "mode": "dynamic" }, "method": { "kind": "burst", "cycles": 8 } });
        let started = bench.post(&format!("/api/sessions/{session}/live"), &body);
        assert_eq!(started.status, 201, "{}", started.text);
        until("the run ended", || !bench.get("/api/live").json()["live"]["ended"].is_null());
        let live = bench.get("/api/live").json()["live"].clone();
        assert_eq!(live["ended"]["kind"], "done", "{live}");
        let ladder = bench.get(&format!("/api/sessions/{session}/ladder")).json();
        let cells = ladder["ladder"]["rungs"][0]["cells"].as_array().unwrap();
        let run = cells.iter().flat_map(|cell| cell["runs"].as_array().unwrap()).next().unwrap();
        assert!(run["line"].as_str().unwrap().contains('8'), "eight cycles, first and last: {run}");
    });
}
