//! Every threshold of the table of checks, from both sides: a hair inside the check stays quiet, a hair outside it fires.
//!
//! The table names the thresholds; for each there is a session here whose one quantity can be set. A threshold without a session,
//! or one that moved away from docs/checks.md, fails.
#![allow(clippy::panic, reason = "a test that cannot set itself up has failed")]

use pukka_core::assess::checks::Severity;
use pukka_core::assess::checks::table::{RULES, Rule, Scope, markdown};
use pukka_core::assess::checks::thresholds::{Fires, Threshold};
use pukka_core::assess::{check_session, prior};
use pukka_core::evidence::rungs::rungs;
use pukka_core::kernel::units::{Amps, Celsius, Ohms, Ratio, Volts, VoltsRms, Watts};
use pukka_core::kernel::wiring::Wiring;
use pukka_core::predict::known::Prior;
use pukka_core::predict::prediction::predict;
use pukka_core::record::amplifier::SupplyType;
use pukka_core::record::session::{CheckCode, Mode, Run, Session, examples};
use serde_json::json;

const BRIDGED: Wiring = Wiring::Bridged { pairs: 1 };
const BOTH: Wiring = Wiring::Channels { driven: 2 };

/// Watts of all outputs, rest, end, amps.
struct Read(f64, f64, f64, f64);

fn run(id: &str, wiring: Wiring, load: f64, mode: Mode, Read(watts, rest, end, amps): Read) -> Run {
    let outputs = usize::from(wiring.outputs());
    let mut run = examples::run(id, wiring, load, mode, watts / outputs as f64, Some(end));
    run.outputs = vec![run.outputs[0].clone(); outputs];
    run.outputs.iter_mut().for_each(|output| output.power_w = Some(Watts::new(watts / outputs as f64).unwrap()));
    run.load_measured_ohm = Some(Ohms::new(load).unwrap());
    run.rest_v = Some(Volts::new(rest).unwrap());
    run.current_a = Some(Amps::new(amps).unwrap());
    run
}

fn session(class: &str, runs: Vec<Run>) -> Session {
    let mut session = examples::mono_1100();
    session.claims.clear();
    session.plan.rungs.clear();
    session.amplifier.class = serde_json::from_value(json!(class)).unwrap();
    session.amplifier.supply_type = SupplyType::Unregulated;
    session.amplifier.channels = 2;
    session.amplifier.fuses_a = vec![Amps::new(1_000.0).unwrap()];
    session.bench.supply.source_ohm = None;
    session.bench.meters.clear();
    session.runs = runs;
    session
}

/// A certified run of an efficiency.
fn of_efficiency(class: &str, ratio: f64) -> Session {
    session(class, vec![run("a", Wiring::Mono, 4.0, Mode::Certified, Read(14.0 * 20.0 * ratio, 14.5, 14.0, 20.0))])
}

/// Certified runs at 4 and 2 Ω, of watts and efficiencies.
fn two_loads(watts: [f64; 2], efficiency: [f64; 2]) -> Session {
    let at = |i: usize, load: f64| {
        let amps = watts[i] / (14.0 * efficiency[i]);
        run(["a", "b"][i], Wiring::Mono, load, Mode::Certified, Read(watts[i], 14.5, 14.0, amps))
    };
    session("D", vec![at(0, 4.0), at(1, 2.0)])
}

fn equivalents(watts: [f64; 2], efficiency: [f64; 2]) -> Session {
    let at = |i: usize, wiring: Wiring, load: f64| {
        let amps = watts[i] / (14.0 * efficiency[i]);
        run(["a", "b"][i], wiring, load, Mode::Certified, Read(watts[i], 14.5, 14.0, amps))
    };
    session("D", vec![at(0, BOTH, 2.0), at(1, BRIDGED, 4.0)])
}

/// Four runs on 5 mΩ of supply, and one more that sags `share` of what that gives.
fn on_one_supply(others: usize, share: f64) -> Session {
    let amps = [22.0, 26.0, 30.0, 34.0];
    let mut runs: Vec<Run> = (0..others)
        .map(|i| {
            let (amps, end) = (amps[i], 14.6 - 0.005 * amps[i]);
            run(&format!("r{i}"), Wiring::Mono, 4.0 + i as f64, Mode::Clipping, Read(end * amps * 0.8, 14.6, end, amps))
        })
        .collect();
    let end = 14.6 - 0.005 * 60.0 * share;
    runs.push(run("last", Wiring::Mono, 1.0, Mode::Clipping, Read(end * 60.0 * 0.7, 14.6, end, 60.0)));
    session("D", runs)
}

/// Three certified runs on one load line; of the one at 2 Ω another figure was written down.
fn slipped(written: f64) -> Session {
    let mut session = session(
        "D",
        [8.0, 4.0, 2.0]
            .into_iter()
            .enumerate()
            .map(|(i, load)| {
                let watts = 40.0 * 40.0 / load;
                run(&format!("r{i}"), Wiring::Mono, load, Mode::Certified, Read(watts, 14.4, 14.4, watts / (14.4 * 0.8)))
            })
            .collect(),
    );
    session.runs.iter_mut().for_each(|run| run.current_a = None);
    let expected = {
        // What the others say of it, as the check shows it: found by asking the program for the prediction.
        use pukka_core::evidence::rungs::{RungId, rungs};
        use pukka_core::predict::known::Prior;
        use pukka_core::predict::prediction::predict;
        let id = RungId::of(&session.runs[2]);
        let rung = rungs(&session).into_iter().find(|rung| rung.id.is(&id)).unwrap();
        let known = Prior::of(&session, &[]);
        predict(&known.without("r2"), &rung).unwrap().expected.power_w
    };
    session.runs[2].outputs[0].power_w = Some(Watts::new(expected * written).unwrap());
    session
}

fn claimed(end_v: f64) -> Session {
    let mut session = session("D", vec![run("a", Wiring::Mono, 4.0, Mode::Certified, Read(300.0, 16.0, end_v, 26.0))]);
    session.claims = vec![examples::claim("c", Wiring::Mono, 4.0, 300.0)];
    session
}

/// A session in which the quantity of a threshold has this value.
fn at(rule: &Rule, threshold: &Threshold, value: f64) -> Session {
    use CheckCode as Code;
    match (rule.code, threshold.name) {
        (Code::OverUnity, "efficiency") => of_efficiency("GH", value),
        (Code::ClassCeiling, "efficiency, class AB") => of_efficiency("AB", value),
        (Code::ClassCeiling, "efficiency, class D") => of_efficiency("D", value),
        (Code::EfficiencyRises, _) => two_loads([300.0, 500.0], [0.7, 0.7 + value]),
        (Code::PowerStep, _) => two_loads([300.0, 300.0 * 2.0 * value], [0.8, 0.7]),
        (Code::EquivalentsDisagree, "watts of equivalents, larger over smaller") => equivalents([200.0, 200.0 * value], [0.8, 0.8]),
        (Code::EquivalentsDisagree, "efficiencies of equivalents, apart") => equivalents([200.0, 200.0], [0.7, 0.7 + value]),
        (Code::ModeOrder, _) => {
            // Meters of ± 3 % by default or as the bench has none: U of both is what the figures say.
            let of = |clipping: f64| {
                session(
                    "D",
                    vec![
                        run("a", Wiring::Mono, 4.0, Mode::Certified, Read(300.0, 14.6, 14.4, 26.0)),
                        run("b", Wiring::Mono, 4.0, Mode::Clipping, Read(clipping, 14.6, 14.4, 26.0)),
                    ],
                )
            };
            // U grows with the watts: the fall that is `value` times what the meters explain is found by halving.
            let excess = |watts: f64| {
                let session = of(watts);
                let u = |i: usize| pukka_core::evidence::total(&session, &session.runs[i]).unwrap().expanded_w();
                (300.0 - watts) / u(0).hypot(u(1)) - value
            };
            let (mut low, mut high) = (200.0, 300.0);
            for _ in 0..80 {
                let middle = f64::midpoint(low, high);
                if excess(middle) > 0.0 { low = middle } else { high = middle }
            }
            of(f64::midpoint(low, high))
        }
        (Code::LoadMismatch, _) => {
            let mut session = of_efficiency("D", 0.8);
            let volts = (session.runs[0].outputs[0].power_w.unwrap().get() * 4.0 * value).sqrt();
            session.runs[0].outputs[0].volts_rms = Some(VoltsRms::new(volts).unwrap());
            session
        }
        (Code::DigitSlip, "reading off its prediction, of it") => slipped(1.0 + value),
        (Code::DigitSlip, _) => slipped(0.1 * (1.0 + value)),
        (Code::RepeatedReading, _) => {
            let mut session = two_loads([300.0, 300.0 * value], [0.8, 0.8]);
            session.runs[1].current_a = session.runs[0].current_a;
            session
        }
        (Code::SagTooSmall, "sag, over Rsource · I") => on_one_supply(4, value),
        (Code::SagTooSmall, _) => on_one_supply(value.floor() as usize, 0.1),
        (Code::VoltageRose, _) => {
            let mut session = of_efficiency("D", 0.8);
            session.runs[0].rest_v = Some(Volts::new(14.0 - value).unwrap());
            session
        }
        (Code::NoSupplyVolts, _) => {
            let mut session = of_efficiency("D", 0.8);
            session.runs[0].end_v = session.runs[0].end_v.filter(|_| value >= 1.0);
            session
        }
        (Code::OutOfWindow, _) | (Code::BenchLimited, "volts under the claim's") => claimed(14.4 - value),
        (Code::BenchLimited, _) => {
            let mut session = claimed(14.4);
            session.bench.supply.current_limit_a = Some(Amps::new(26.0 / value).unwrap());
            session
        }
        (Code::MetersDisagree, _) => {
            let mut session = of_efficiency("D", 0.8);
            session.bench.meters = serde_json::from_value(json!([
                { "id": "w", "quantity": "power", "reading_ratio": 0.0, "absolute": 1.0 },
                { "id": "x", "quantity": "power", "reading_ratio": 0.0, "absolute": 1.0 }
            ]))
            .unwrap();
            let watts = session.runs[0].outputs[0].power_w.unwrap().get();
            // 2·√(1/3 + 1/3)
            let second = watts + value * 2.0 * (2.0_f64 / 3.0).sqrt();
            session.runs[0].outputs[0].also = serde_json::from_value(json!([{ "power_w": second, "meter": "x" }])).unwrap();
            session
        }
        (Code::DistortionOverLimit, _) => {
            let mut session = of_efficiency("D", 0.8);
            session.runs[0].thd_ratio = Some(Ratio::new(value).unwrap());
            session
        }
        (Code::Balance, _) => {
            let mut session = session("D", vec![run("a", BOTH, 4.0, Mode::Certified, Read(200.0, 14.5, 14.4, 18.0))]);
            session.runs[0].outputs[1].power_w = Some(Watts::new(100.0 / 10f64.powf(value / 10.0)).unwrap());
            session
        }
        (Code::Fuse, _) => {
            let mut session = of_efficiency("D", 0.8);
            session.amplifier.fuses_a = vec![Amps::new(20.0 / value).unwrap()];
            session
        }
        (Code::Hot, _) => {
            let mut session = of_efficiency("D", 0.8);
            session.runs[0].temperature_c = Some(Celsius::new(value).unwrap());
            session
        }
        (Code::ImpliedVolts, name) => {
            let (rest, volts) = if name.ends_with("over rest") { (Some(14.4), 14.4 + value) } else { (None, value) };
            let mut session = of_efficiency("D", 0.7);
            session.plan.rest_v = None;
            let run = &mut session.runs[0];
            (run.rest_v, run.end_v) = (rest.map(|rest| Volts::new(rest).unwrap()), None);
            run.efficiency_read_ratio = Some(Ratio::new(0.7).unwrap());
            run.outputs[0].power_w = Some(Watts::new(volts * 0.7 * run.current_a.unwrap().get()).unwrap());
            session
        }
        (Code::EfficiencyDisagrees, _) => {
            let mut session = of_efficiency("D", 0.7);
            session.runs[0].efficiency_read_ratio = Some(Ratio::new(0.7 + value).unwrap());
            session
        }
        (Code::LowEfficiency, "efficiency, of a tone") => of_efficiency("D", value),
        (Code::LowEfficiency, _) => {
            session("D", vec![run("a", Wiring::Mono, 4.0, Mode::Certified, Read(value, 14.5, 14.0, value / (14.0 * 0.2)))])
        }
        (Code::PowerFalls, _) => two_loads([300.0, 300.0 * value], [0.8, 0.7]),
        (Code::SupplyRange, name) => {
            let mut session = of_efficiency("D", 0.8);
            session.plan.rest_v = None;
            let run = &mut session.runs[0];
            if name == "volts read under rest" {
                run.rest_v = Some(Volts::new(14.0 + value).unwrap());
            } else {
                (run.rest_v, run.end_v) = (None, Some(Volts::new(value).unwrap()));
            }
            session
        }
        (Code::ChargerOn, _) => {
            let mut session = of_efficiency("D", 0.8);
            session.runs[0].charger_on = Some(value >= 1.0);
            session
        }
        (Code::MeterBiased, name) => {
            let (runs, off) = if name.starts_with("runs") { (value.round() as usize, 1.5) } else { (3, value) };
            let at = |i: usize| run(&format!("r{i}"), Wiring::Mono, 4.0, Mode::Certified, Read(300.0, 14.5, 14.4, 26.0));
            let mut session = session("D", (0..runs).map(at).collect());
            session.bench.meters = serde_json::from_value(json!([
                { "id": "w", "quantity": "power", "reading_ratio": 0.0, "absolute": 1.0 },
                { "id": "x", "quantity": "power", "reading_ratio": 0.0, "absolute": 1.0 }
            ]))
            .unwrap();
            for run in &mut session.runs {
                run.outputs[0].also = serde_json::from_value(json!([{ "power_w": 300.0 + off, "meter": "x" }])).unwrap();
            }
            session
        }
        (code, name) => panic!("no session sets “{name}” of {code}: add one here"),
    }
}

/// Threshold that the session itself sets, where the table has no value.
fn set_by_session(code: CheckCode) -> f64 {
    let policy = examples::mono_1100().policy;
    match code {
        CheckCode::DistortionOverLimit => policy.thd_limit_ratio.get(),
        CheckCode::Hot => policy.heatsink_stop_c.get(),
        code => panic!("{code} has no limit in a session"),
    }
}

/// Whether the check fires, at least as grave as the threshold says.
fn fires(rule: &Rule, threshold: &Threshold, value: f64) -> bool {
    let session = at(rule, threshold, value);
    check_session(&session).iter().any(|check| check.code == rule.code && check.severity <= threshold.severity)
}

/// Values a part inside of a threshold and as much outside; counts go by whole ones.
fn sides(rule: &Rule, threshold: &Threshold, part: f64) -> (f64, f64) {
    let value = threshold.value.unwrap_or_else(|| set_by_session(rule.code));
    let hair = match threshold.unit {
        _ if threshold.name.starts_with("other runs") || threshold.name.starts_with("runs in which") => 1.0,
        _ if value == 0.0 => part,
        _ => value * part,
    };
    match threshold.fires {
        Fires::Above | Fires::From => (value - hair, value + hair),
        Fires::Below | Fires::UpTo => (value + hair, value - hair),
    }
}

/// What each check says well past each of its thresholds: every figure of a sentence stands in the document.
#[test]
fn the_document_shows_what_each_check_says() {
    let mut lines: Vec<String> = Vec::new();
    for rule in RULES {
        for threshold in rule.thresholds {
            let outside = if rule.code == CheckCode::DigitSlip { -0.9 } else { sides(rule, threshold, 0.1).1 };
            let checks = check_session(&at(rule, threshold, outside));
            let says = checks
                .iter()
                .filter(|check| check.code == rule.code)
                .map(|check| format!("- `{}` {}: {}", rule.code, check.place, check.says));
            lines.extend(says.filter(|line| !lines.contains(line)).collect::<Vec<_>>());
        }
    }
    let shown = lines.join("\n").replace(['\u{202f}', '\u{a0}'], " ");
    let document = include_str!("../../../../docs/checks.md");
    assert!(document.contains(&shown), "docs/checks.md has to hold these lines:\n{shown}");
}

#[test]
fn each_check_is_quiet_a_hair_inside_its_threshold_and_fires_a_hair_outside() {
    for rule in RULES {
        for threshold in rule.thresholds {
            let (inside, outside) = sides(rule, threshold, 1e-6);
            assert!(!fires(rule, threshold, inside), "{} fires already at {inside} {}", rule.code, threshold.name);
            // A reading half as much again is off, and no slip of the point: here the outside is a tenth and a hundredth.
            if rule.code == CheckCode::DigitSlip && threshold.fires == Fires::Above {
                assert!(fires(rule, threshold, -0.9) && fires(rule, threshold, -0.99), "a digit that slipped");
                continue;
            }
            assert!(fires(rule, threshold, outside), "{} is quiet at {outside} {}", rule.code, threshold.name);
        }
    }
}

#[test]
fn no_stop_stands_on_a_prediction_so_that_what_is_known_asks_for_none() {
    for rule in RULES {
        let stops = rule.thresholds.iter().any(|threshold| threshold.severity == Severity::Stop);
        assert!(!stops || matches!(rule.scope, Scope::Run | Scope::Pair), "{}", rule.code);
        for threshold in rule.thresholds {
            let outside = if rule.code == CheckCode::DigitSlip { -0.9 } else { sides(rule, threshold, 0.1).1 };
            let session = at(rule, threshold, outside);
            let [alone, checked] = [prior(&session), Prior::of(&session, &check_session(&session))]
                .map(|known| (known.proven_peak_a, rungs(&session).iter().map(|rung| predict(&known, rung)).collect::<Vec<_>>()));
            assert_eq!(alone, checked, "{} {}", rule.code, threshold.name);
        }
    }
}

#[test]
fn every_code_has_one_row_and_every_row_a_threshold() {
    let codes: Vec<CheckCode> = RULES.iter().map(|rule| rule.code).collect();
    assert_eq!(codes, CheckCode::ALL, "in one order");
    assert!(RULES.iter().all(|rule| !rule.thresholds.is_empty() && !rule.title.is_empty() && rule.remedy.ends_with('.')));
}

#[test]
fn the_document_says_what_the_table_says() {
    let document = include_str!("../../../../docs/checks.md");
    let table = markdown();
    assert!(document.contains(&table), "docs/checks.md has to hold this table:\n{table}");
}
