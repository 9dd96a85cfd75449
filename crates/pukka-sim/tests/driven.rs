//! The core's machine on the stand-in bench: what is found is what the physics allow, and every character does what it teaches.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

use std::ops::ControlFlow;

use pukka_core::kernel::units::Level;
use pukka_core::live::{BurstReading, Ending, Method, RampResult, Round, Rules, Stop};
use pukka_core::record::session::{Mode, Policy};
use pukka_core::traces::{ChannelKind, ChannelSetting, TraceSettings, read};
use pukka_sim::amplifier::State;
use pukka_sim::bench::{Bench, Shape};
use pukka_sim::character::{ALL, Character, find};
use pukka_sim::drive;
use pukka_sim::recorder::OUTPUT_V;
use pukka_sim::supply::SupplyKind;

/// A round takes 50 ms of the bench's own time.
const ROUND_MS: u64 = 50;
const LIMIT: f64 = 0.01;

struct Driven {
    ended: Ending,
    found: RampResult,
    /// Most distortion that was read above a watt.
    worst_thd: f64,
    took_ms: u64,
}

impl Driven {
    fn watts(&self) -> f64 {
        self.found.best.as_ref().unwrap().total_w()
    }
}

fn bench(key: &str, load_ohm: f64, hz: f64) -> Bench {
    let mut bench = Bench::with(21, find(key).unwrap(), SupplyKind::bank(), load_ohm);
    bench.generator.hz = hz;
    bench.advance(500);
    bench
}

fn rules(mode: Mode, method: Method, hz: f64) -> Rules {
    Rules::new(&Policy::default(), mode, method, Level::new(10.0).unwrap(), 150, hz)
}

/// Drives a run by rounds of so many milliseconds, as they are read.
fn drive_by(bench: &mut Bench, rules: Rules, every_ms: u64, read: impl Fn(&Bench, u64, Level) -> Round) -> Driven {
    let mut worst_thd = 0.0f64;
    let driven = drive::drive_by(bench, rules, every_ms, |bench, t_ms, level| {
        let round = read(bench, t_ms, level);
        if round.power_w.iter().any(|watts| *watts > 1.0) {
            worst_thd = worst_thd.max(round.thd_ratio.unwrap_or(0.0));
        }
        round
    });
    let drive::Driven { ended, found, took_ms } = driven.expect("it never ended");
    Driven { ended, found, worst_thd, took_ms }
}

fn drive(bench: &mut Bench, rules: Rules) -> Driven {
    let burst = rules.method.is_burst();
    bench.generator.shape = if burst { Shape::Burst } else { Shape::Sine };
    drive_by(bench, rules, ROUND_MS, |bench, t_ms, level| drive::round(bench, t_ms, level, burst))
}

fn certified(key: &str, load_ohm: f64) -> Driven {
    let driven = drive(&mut bench(key, load_ohm, 40.0), rules(Mode::Certified, Method::Ramp, 40.0));
    assert_eq!(driven.ended, Ending::Done, "{key} into {load_ohm} Ω");
    driven
}

/// Reading of a level in the mean of half a second, once it stood for a while, from the state that a bench is in: the supply goes on
/// sagging by a twentieth of a percent a second.
fn held(bench: &Bench, level_db: f64) -> (f64, f64) {
    let mut bench = bench.clone();
    (bench.generator.level_db, bench.generator.on) = (level_db, true);
    bench.advance(700);
    let (mut watts, mut thd) = (0.0, 0.0);
    for _ in 0..10 {
        bench.advance(50);
        watts += (0..bench.amplifier.outputs.len()).map(|i| bench.reads_power_w(i)).sum::<f64>() / 10.0;
        thd += (0..bench.amplifier.outputs.len()).map(|i| bench.reads_distortion(i)).fold(0.0, f64::max) / 10.0;
    }
    (watts, thd)
}

/// The power at exactly the limit, by bisection on the same bench with its meters' noise off.
fn truth(bench: &Bench, around_db: f64) -> f64 {
    let still = bench.clone().without_noise();
    let (mut low, mut high) = (around_db - 1.0, around_db + 1.0);
    for _ in 0..14 {
        let middle = f64::midpoint(low, high);
        if held(&still, middle).1 > LIMIT { high = middle } else { low = middle }
    }
    held(&still, low).0
}

/// Whether somebody careful gets a figure: a stand-in that lives and plays on at the power where it distorts by 1 %.
fn can(character: &Character, load_ohm: f64, hz: f64) -> bool {
    let mut bench = bench(character.key, load_ohm, hz);
    bench.generator.on = true;
    for tenth in -300..80 {
        bench.generator.level_db = f64::from(tenth) / 10.0;
        bench.advance(300);
        let watts = bench.reads_power_w(0);
        if bench.amplifier.state != State::On {
            return false;
        }
        if watts > 5.0 && (0..bench.amplifier.outputs.len()).any(|i| bench.reads_distortion(i) > LIMIT) {
            bench.advance(2_000);
            return bench.amplifier.state == State::On;
        }
    }
    false
}

struct Accuracy {
    what: String,
    off: f64,
    worst_thd: f64,
    took_ms: u64,
}

fn accuracies(hz: f64) -> Vec<Accuracy> {
    let mut found = Vec::new();
    for character in &ALL {
        for load_ohm in [8.0, 4.0, 2.0, 1.0] {
            let what = format!("{} into {load_ohm} Ω at {hz} Hz", character.key);
            if !can(character, load_ohm, hz) {
                continue;
            }
            let mut bench = bench(character.key, load_ohm, hz);
            // What its maker would claim, from rails that do not sag.
            let peak_v = character.regulated_v.unwrap_or(14.4 * character.ratio);
            let claim_w = 0.8 * peak_v * peak_v / 2.0 / load_ohm * character.outputs.len() as f64;
            let rules = Rules { claim_w: Some(claim_w), ..rules(Mode::Certified, Method::Ramp, hz) };
            let driven = drive(&mut bench, rules);
            assert_eq!(driven.ended, Ending::Done, "{what}");
            assert_eq!(bench.amplifier.state, State::On, "{what}");
            let best = driven.found.best.as_ref().unwrap();
            let off = best.total_w() / truth(&bench, best.level_db.unwrap().get()) - 1.0;
            found.push(Accuracy { what, off, worst_thd: driven.worst_thd, took_ms: driven.took_ms });
        }
    }
    found
}

#[test]
fn driven_figures_are_the_power_at_exactly_the_limit() {
    for (hz, most_ms) in [(1_000.0, 20_000), (40.0, 60_000)] {
        let all = accuracies(hz);
        let mean = all.iter().map(|one| one.off).sum::<f64>() / all.len() as f64;
        let shown: Vec<String> = all
            .iter()
            .map(|one| format!("{}: {:+.3} %, {:.2} % at most, {} ms", one.what, 100.0 * one.off, 100.0 * one.worst_thd, one.took_ms))
            .collect();
        println!("{}\nmean {:+.4} % of {}", shown.join("\n"), 100.0 * mean, all.len());
        assert!(all.len() >= 20, "{} cases", all.len());
        assert!(mean.abs() < 0.001, "{mean}");
        for (one, shown) in all.iter().zip(&shown) {
            assert!(one.off.abs() < 0.003 && one.worst_thd < 0.03 && one.took_ms <= most_ms, "{shown}");
        }
    }
}

#[test]
fn what_is_found_follows_the_load_line() {
    let [eight, four, two] = [8.0, 4.0, 2.0].map(|load| certified("honest", load).watts());
    assert!(four > 1.6 * eight && four < 2.0 * eight, "{eight} {four}");
    assert!(two > 1.5 * four && two < 2.0 * four && two / four < four / eight, "{four} {two}");
    let (weak, honest) = (certified("weak-supply", 2.0).watts() / certified("weak-supply", 4.0).watts(), two / four);
    assert!(weak < honest, "its converter gives up: {weak} against {honest}");
}

#[test]
fn clipping_gives_more_and_a_burst_more_than_a_long_tone() {
    for key in ["honest", "headroom"] {
        let clean = certified(key, 2.0).watts();
        let clipping = drive(&mut bench(key, 2.0, 40.0), rules(Mode::Clipping, Method::Ramp, 40.0));
        assert_eq!(clipping.found.best.as_ref().unwrap().thd_ratio, Some(0.03), "{key}");
        assert!(clipping.watts() > clean, "{key}");
        let burst = drive(&mut bench(key, 2.0, 40.0), rules(Mode::Dynamic, Method::Burst { cycles: None }, 40.0));
        assert_eq!((burst.ended.clone(), burst.found.onset_within_db), (Ending::Done, Some(0.4)), "{key}");
        // Of the onset of clipping, less than what 1 % of distortion gives.
        assert!(burst.watts() > 0.95 * clean, "{key}: {} and {clean}", burst.watts());
    }
}

/// A run by bursts that are judged by their own wave.
fn dynamic(key: &str, load_ohm: f64, cycles: Option<u32>) -> Round {
    let mut bench = bench(key, load_ohm, 1_000.0);
    bench.generator.shape = cycles.map_or(Shape::Burst, Shape::Cycles);
    let outputs = bench.amplifier.outputs.len();
    let rules = Rules { claim_w: Some(400.0), ..rules(Mode::Dynamic, Method::Burst { cycles }, 1_000.0) };
    let driven = drive_by(&mut bench, rules, 500, |bench, t_ms, level| {
        let setting = ChannelSetting::new(ChannelKind::Output, OUTPUT_V);
        let unused = ChannelSetting::new(ChannelKind::Unused, 1.0);
        let channels = std::iter::repeat_n(setting, outputs).chain([unused, unused]).collect();
        let asked = TraceSettings { channels, load_ohm: Some(bench.true_load_ohm()), ..TraceSettings::default() };
        let mut wave = pukka_capture::open_wav(bench.recording(1_080)).unwrap();
        let report = read(wave.as_mut(), &asked, &mut |_| ControlFlow::Continue(())).unwrap();
        let mut round = Round { t_ms, level_db: Some(level), ..Round::default() };
        BurstReading::of(&report, outputs, cycles.map(|_| bench.true_load_ohm())).fill(&mut round);
        round
    });
    assert_eq!(driven.ended, Ending::Done, "{key}");
    driven.found.best.unwrap()
}

#[test]
fn bursts_judged_by_their_own_wave_show_the_headroom_there_is() {
    let headroom = |key: &str, load_ohm: f64| {
        let steady = drive(&mut bench(key, load_ohm, 1_000.0), rules(Mode::Certified, Method::Ramp, 1_000.0));
        // The certified watts come from a meter with an error of its own, the burst's from the wave.
        let still = bench(key, load_ohm, 1_000.0);
        let mut held = still.clone();
        (held.generator.level_db, held.generator.on) = (-20.0, true);
        held.advance(1_000);
        let own: f64 = (0..held.amplifier.outputs.len()).map(|i| held.clone().without_noise().reads_power_w(i)).sum();
        let shown: f64 = (0..held.amplifier.outputs.len()).map(|i| held.amplifier.outputs[i].power_w).sum();
        10.0 * (dynamic(key, load_ohm, None).total_w() / (steady.watts() * shown / own)).log10()
    };
    let stiff = headroom("regulated", 8.0);
    assert!(stiff.abs() < 0.1, "a stiff one has none: {stiff} dB");
    let deep = headroom("headroom", 2.0);
    assert!(deep > 0.5, "one with large capacitors has: {deep} dB");
    println!("headroom: stiff {stiff:+.3} dB, deep {deep:+.3} dB");
}

/// The power of a burst at a level, and its distortion: by plain sums over its twenty cycles, without the kernel.
fn burst_by_sums(key: &str, load_ohm: f64, level_db: f64) -> (f64, f64) {
    let mut bench = bench(key, load_ohm, 1_000.0);
    (bench.generator.level_db, bench.generator.on, bench.generator.shape) = (level_db, true, Shape::Burst);
    bench.advance(2_600);
    let wav = bench.recording(1_080);
    let rate = u32::from_le_bytes(wav[24..28].try_into().unwrap()) as usize;
    let channels = u16::from_le_bytes(wav[22..24].try_into().unwrap()) as usize;
    let data = wav.windows(4).position(|four| four == b"data").unwrap() + 8;
    let outputs = bench.amplifier.outputs.len();
    let volts =
        |frame: &[u8], output: usize| f64::from(f32::from_le_bytes(frame[4 * output..4 * output + 4].try_into().unwrap())) * OUTPUT_V;
    let (span, mut total_w, mut worst) = (rate / 50, 0.0, 0.0f64);
    for output in 0..outputs {
        let wave: Vec<f64> = wav[data..].chunks_exact(4 * channels).map(|frame| volts(frame, output)).collect();
        // The twenty milliseconds that hold the most of it.
        let mut sums = vec![0.0];
        for v in &wave {
            sums.push(sums[sums.len() - 1] + v * v);
        }
        let start = (0..wave.len() - span).max_by(|a, b| (sums[a + span] - sums[*a]).total_cmp(&(sums[b + span] - sums[*b]))).unwrap();
        let burst = &wave[start..start + span];
        let part = |k: usize| {
            let turn = std::f64::consts::TAU * 1_000.0 * k as f64 / rate as f64;
            let sum = |f: fn(f64) -> f64| burst.iter().enumerate().map(|(i, v)| v * f(turn * i as f64)).sum::<f64>();
            sum(f64::sin).hypot(sum(f64::cos))
        };
        worst = worst.max((2..20).map(|k| part(k).powi(2)).sum::<f64>().sqrt() / part(1));
        total_w += burst.iter().map(|v| v * v).sum::<f64>() / span as f64 / bench.true_load_ohm();
    }
    (total_w, worst)
}

#[test]
fn the_headroom_of_large_capacitors_is_the_true_one() {
    let (mut low, mut high) = (-6.0, 8.0);
    for _ in 0..12 {
        let middle = f64::midpoint(low, high);
        if burst_by_sums("headroom", 2.0, middle).1 > LIMIT { high = middle } else { low = middle }
    }
    let truth_w = burst_by_sums("headroom", 2.0, low).0;
    let off_db = 10.0 * (dynamic("headroom", 2.0, None).total_w() / truth_w).log10();
    println!("dynamic power: {truth_w:.1} W by sums, off by {off_db:+.3} dB");
    assert!(off_db.abs() < 0.1, "{off_db} dB off {truth_w} W");
}

#[test]
fn counted_cycles_have_a_first_and_a_last() {
    for cycles in [20, 8] {
        let read = dynamic("headroom", 2.0, Some(cycles));
        let (first, last) = read.cycles_w[0];
        assert!(first > last && (read.total_w() / last - 1.0).abs() < 1e-6, "{cycles}: the capacitors empty: {first} W and {last} W");
    }
}

#[test]
fn level_steps_straddle_the_limit() {
    let levels_db = [-12.0, -8.0, -4.0, -3.0, -2.0, -1.5, -1.0, -0.5, 0.0, 1.0];
    let method = Method::Steps { levels_db: levels_db.iter().map(|db| Level::new(*db).unwrap()).collect() };
    let driven = drive(&mut bench("honest", 4.0, 40.0), rules(Mode::Certified, method, 40.0));
    assert_eq!(driven.ended, Ending::Done);
    let thd = |i: usize| driven.found.steps[i].thd_ratio.unwrap().get();
    let last = driven.found.steps.len() - 1;
    assert!(thd(last) > 0.01 && thd(last - 1) <= 0.01);
    assert!(driven.found.steps.windows(2).all(|pair| pair[1].outputs[0].power_w > pair[0].outputs[0].power_w));
}

#[test]
fn one_that_protects_itself_stops_the_run_and_is_kept_as_far_as_it_got() {
    let mut bench = bench("protective", 2.0, 40.0);
    let driven = drive(&mut bench, rules(Mode::Certified, Method::Ramp, 40.0));
    assert_eq!(driven.ended, Ending::Stopped { why: Stop::Protection });
    assert!(driven.watts() > 50.0);
    assert_eq!(bench.amplifier.state, State::OverCurrent);
    bench.advance(3_000);
    assert_eq!(bench.amplifier.state, State::On, "and it comes back once the level is down");
}

#[test]
fn one_without_protection_dies_below_its_floor_and_lives_above_it() {
    let mut above = bench("fragile", 2.0, 40.0);
    assert_eq!(drive(&mut above, rules(Mode::Certified, Method::Ramp, 40.0)).ended, Ending::Done);
    assert_eq!(above.amplifier.state, State::On);
    let mut below = bench("fragile", 0.8, 40.0);
    let driven = drive(&mut below, rules(Mode::Certified, Method::Ramp, 40.0));
    assert!(matches!(driven.ended, Ending::Stopped { .. }), "{:?}", driven.ended);
    below.advance(3_000);
    assert!(matches!(below.amplifier.state, State::Dead | State::FuseOpen), "{:?}", below.amplifier.state);
}

#[test]
fn a_supply_that_is_too_weak_stops_it() {
    let mut bench = Bench::with(21, find("honest").unwrap(), SupplyKind::mains(12.6, 25.0), 1.0);
    bench.generator.hz = 40.0;
    bench.advance(500);
    let driven = drive(&mut bench, rules(Mode::Certified, Method::Ramp, 40.0));
    assert_eq!(driven.ended, Ending::Stopped { why: Stop::SupplyLow });
    assert!(!bench.generator.on);
}

#[test]
fn a_regulated_one_gives_the_same_on_a_lower_supply() {
    let on = |volts: f64| {
        let mut bench = Bench::with(21, find("regulated").unwrap(), SupplyKind { rest_v: volts, ..SupplyKind::bank() }, 4.0);
        bench.advance(500);
        drive(&mut bench, rules(Mode::Certified, Method::Ramp, 1_000.0)).watts()
    };
    let (high, low) = (on(14.4), on(13.0));
    assert!((high / low - 1.0).abs() < 0.03, "{high} {low}");
}
