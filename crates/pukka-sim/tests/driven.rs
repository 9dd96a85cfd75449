//! The core's machine on the stand-in bench: what is found is what the physics allow, and every character does what it teaches.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

use pukka_core::kernel::units::Level;
use pukka_core::live::{Action, Ending, Live, Method, RampResult, Round, Rules, Stop};
use pukka_core::record::session::{Mode, Policy};
use pukka_sim::amplifier::State;
use pukka_sim::bench::{Bench, Shape};
use pukka_sim::character::{ALL, find};
use pukka_sim::supply::SupplyKind;

/// One round takes 50 ms of the bench's own time.
const ROUND_MS: u64 = 50;

struct Driven {
    ended: Ending,
    found: RampResult,
    levels: Vec<f64>,
    /// Most watts that an output really gave.
    most_w: f64,
}

fn bench(key: &str, load_ohm: f64) -> Bench {
    let mut bench = Bench::with(21, find(key).unwrap(), SupplyKind::bank(), load_ohm);
    bench.generator.hz = 40.0;
    bench.advance(500);
    bench
}

fn rules(mode: Mode, method: Method) -> Rules {
    let settle = if method == Method::Burst { 1_100 } else { 250 };
    Rules::new(&Policy::default(), mode, method, Level::new(10.0).unwrap(), settle)
}

fn round(bench: &Bench, t_ms: u64, level: Level, burst: bool) -> Round {
    let outputs = bench.amplifier.outputs.len();
    let power = |i: usize| if burst { bench.reads_burst_w(i) } else { bench.reads_power_w(i) };
    let worst = (0..outputs).map(|i| bench.reads_distortion(i)).fold(0.0, f64::max);
    Round {
        t_ms,
        level_db: Some(level),
        power_w: (0..outputs).map(|i| power(i).max(0.0)).collect(),
        thd_ratio: (!burst).then_some(worst),
        supply_v: Some(bench.reads_supply_v()),
        supply_a: Some(bench.reads_supply_a().max(0.0)),
    }
}

fn drive(bench: &mut Bench, rules: Rules) -> Driven {
    let burst = rules.method == Method::Burst;
    bench.generator.shape = if burst { Shape::Burst } else { Shape::Sine };
    let (mut live, first) = Live::start(rules);
    let Action::Level(mut level) = first else { panic!("{first:?}") };
    let (mut levels, mut most_w) = (vec![level.get()], 0.0f64);
    (bench.generator.level_db, bench.generator.on) = (level.get(), true);
    for n in 1..5_000u64 {
        bench.advance(ROUND_MS);
        most_w = bench.amplifier.outputs.iter().map(|output| output.power_w).fold(most_w, f64::max);
        match live.round(&round(bench, n * ROUND_MS, level, burst)) {
            Action::Hold => {}
            Action::Level(next) => {
                level = next;
                bench.generator.level_db = next.get();
                levels.push(next.get());
            }
            Action::End(ended) => {
                bench.generator.on = false;
                return Driven { ended, found: live.found().clone(), levels, most_w };
            }
        }
    }
    panic!("it never ended")
}

fn certified(key: &str, load_ohm: f64) -> f64 {
    let driven = drive(&mut bench(key, load_ohm), rules(Mode::Certified, Method::Ramp));
    assert_eq!(driven.ended, Ending::Done, "{key} into {load_ohm} Ω");
    let best = driven.found.best.unwrap();
    assert!(best.thd_ratio.unwrap() <= 0.01);
    best.total_w()
}

#[test]
fn every_stand_in_that_can_is_driven_to_its_limit_and_no_further() {
    for character in &ALL {
        let driven = drive(&mut bench(character.key, 4.0), rules(Mode::Certified, Method::Ramp));
        assert_eq!(driven.ended, Ending::Done, "{}", character.key);
        let best = driven.found.best.unwrap();
        assert!(best.thd_ratio.unwrap() <= 0.01 && best.total_w() > 20.0, "{}: {best:?}", character.key);
        let top = driven.levels.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        assert!(top <= best.level_db.unwrap().get() + 1.0 + 1e-9, "{}: a coarse step past it at the most", character.key);
        let per_output = best.total_w() / best.power_w.len() as f64;
        assert!(
            driven.most_w < 1.35 * per_output.max(best.power_w.iter().copied().fold(0.0, f64::max)),
            "{}: {} W",
            character.key,
            driven.most_w
        );
    }
}

#[test]
fn what_is_found_follows_the_load_line() {
    let (eight, four, two) = (certified("honest", 8.0), certified("honest", 4.0), certified("honest", 2.0));
    assert!(four > 1.6 * eight && four < 2.0 * eight, "{eight} {four}");
    assert!(two > 1.5 * four && two < 2.0 * four && two / four < four / eight, "{four} {two}");
    let (weak, honest) = (certified("weak-supply", 2.0) / certified("weak-supply", 4.0), two / four);
    assert!(weak < honest, "its converter gives up: {weak} against {honest}");
}

#[test]
fn clipping_gives_more_and_a_burst_more_than_a_long_tone() {
    for key in ["honest", "headroom"] {
        let clean = certified(key, 2.0);
        let clipping = drive(&mut bench(key, 2.0), rules(Mode::Clipping, Method::Ramp));
        let best = clipping.found.best.unwrap();
        assert!(best.total_w() > clean && best.thd_ratio.unwrap() <= 0.03, "{key}");
        let burst = drive(&mut bench(key, 2.0), rules(Mode::Dynamic, Method::Burst));
        assert!(matches!(burst.ended, Ending::Done | Ending::Top), "{key}: {:?}", burst.ended);
        assert!(burst.found.best.unwrap().total_w() > clean, "{key}");
    }
}

#[test]
fn level_steps_straddle_the_limit() {
    let levels_db = [-12.0, -8.0, -4.0, -3.0, -2.0, -1.5, -1.0, -0.5, 0.0, 1.0];
    let driven = drive(
        &mut bench("honest", 4.0),
        rules(Mode::Certified, Method::Steps { levels_db: levels_db.iter().map(|db| Level::new(*db).unwrap()).collect() }),
    );
    assert_eq!(driven.ended, Ending::Done);
    let thd = |i: usize| driven.found.steps[i].thd_ratio.unwrap().get();
    let last = driven.found.steps.len() - 1;
    assert!(thd(last) > 0.01 && thd(last - 1) <= 0.01);
    assert!(driven.found.steps.windows(2).all(|pair| pair[1].outputs[0].power_w > pair[0].outputs[0].power_w));
}

#[test]
fn one_that_protects_itself_stops_the_run_and_is_kept_as_far_as_it_got() {
    let mut bench = bench("protective", 2.0);
    let driven = drive(&mut bench, rules(Mode::Certified, Method::Ramp));
    assert_eq!(driven.ended, Ending::Stopped { why: Stop::Protection });
    assert!(driven.found.best.unwrap().total_w() > 50.0);
    assert_eq!(bench.amplifier.state, State::OverCurrent);
    bench.advance(3_000);
    assert_eq!(bench.amplifier.state, State::On, "and it comes back once the level is down");
}

#[test]
fn one_without_protection_dies_below_its_floor_and_lives_above_it() {
    let mut above = bench("fragile", 2.0);
    assert_eq!(drive(&mut above, rules(Mode::Certified, Method::Ramp)).ended, Ending::Done);
    assert_eq!(above.amplifier.state, State::On);
    let mut below = bench("fragile", 0.8);
    let driven = drive(&mut below, rules(Mode::Certified, Method::Ramp));
    assert!(matches!(driven.ended, Ending::Stopped { .. }), "{:?}", driven.ended);
    below.advance(3_000);
    assert!(matches!(below.amplifier.state, State::Dead | State::FuseOpen), "{:?}", below.amplifier.state);
}

#[test]
fn a_supply_that_is_too_weak_stops_it() {
    let mut bench = Bench::with(21, find("honest").unwrap(), SupplyKind::mains(12.6, 25.0), 1.0);
    bench.generator.hz = 40.0;
    bench.advance(500);
    let driven = drive(&mut bench, rules(Mode::Certified, Method::Ramp));
    assert_eq!(driven.ended, Ending::Stopped { why: Stop::SupplyLow });
    assert!(!bench.generator.on);
}

#[test]
fn a_regulated_one_gives_the_same_on_a_lower_supply() {
    let on = |volts: f64| {
        let mut bench = Bench::with(21, find("regulated").unwrap(), SupplyKind { rest_v: volts, ..SupplyKind::bank() }, 4.0);
        bench.generator.hz = 1_000.0;
        bench.advance(500);
        drive(&mut bench, rules(Mode::Certified, Method::Ramp)).found.best.unwrap().total_w()
    };
    let (high, low) = (on(14.4), on(13.0));
    assert!((high / low - 1.0).abs() < 0.03, "{high} {low}");
}
