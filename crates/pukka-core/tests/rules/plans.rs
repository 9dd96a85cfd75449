//! Predictions worked out by hand, and the plan as people see it.

use pukka_core::assess::check_session;
use pukka_core::evidence::rungs::Rung;
use pukka_core::kernel::units::{Amps, Ohms, Volts};
use pukka_core::kernel::wiring::Wiring;
use pukka_core::plan::cautions::at_step;
use pukka_core::plan::gates::{Look, shut};
use pukka_core::plan::ladder::{LadderRung, find, ladder};
use pukka_core::plan::opening::{Opening, open};
use pukka_core::plan::view::report;
use pukka_core::predict::known::{Prior, Where};
use pukka_core::predict::model::Draw;
use pukka_core::predict::prediction::{Basis, Prediction, predict};
use pukka_core::record::session::examples::{claim, run};
use pukka_core::record::session::{Mode, Order, Run, Session};
use serde_json::{Value, json};

/// A regulated one-channel amplifier: its output does not follow the supply, so that the sums stay short.
fn regulated(claims: &[(f64, f64)]) -> Session {
    let mut session: Session = serde_json::from_value(json!({
        "format": "pukka-session", "version": 1,
        "amplifier": { "make": "Hartsedge", "model": "One", "class": "D", "purpose": "subwoofer", "supply_type": "regulated", "channels": 1,
                       "provenance": "bought", "fuses_a": [40, 40] },
        "plan": { "rest_v": 14.4 }
    }))
    .unwrap();
    session.claims = claims.iter().enumerate().map(|(i, (load, watts))| claim(&format!("c{i}"), Wiring::Mono, *load, *watts)).collect();
    session
}

fn certified(id: &str, load: f64, power_w: f64, end_v: f64, current_a: f64) -> Run {
    let mut made = run(id, Wiring::Mono, load, Mode::Certified, power_w, Some(end_v));
    made.current_a = Some(Amps::new(current_a).unwrap());
    made.rest_v = None;
    made
}

fn rung_at(session: &mut Session, load: f64) -> Rung {
    let key = format!("mono@{load}@40");
    if find(session, &key).is_none() {
        session.plan.rungs.push(serde_json::from_value(json!({ "wiring": { "kind": "mono" }, "load_ohm": load })).unwrap());
    }
    find(session, &key).unwrap()
}

fn expect(session: &mut Session, load: f64) -> Prediction {
    let rung = rung_at(session, load);
    predict(&Prior::of(session, &check_session(session)), &rung).unwrap()
}

fn near(value: f64, wanted: f64) {
    assert!((value / wanted - 1.0).abs() < 1e-6, "{value} and {wanted}");
}

#[test]
fn from_one_claim_the_output_resistance_is_eight_percent_of_its_load() {
    // 400 W into 4 Ω: 40 V, 10 A. Rout = 0.32 Ω, Voc = 43.2 V. Into 2 Ω: 43.2² · 2 / 2.32² = 693.46 W.
    let found = expect(&mut regulated(&[(4.0, 400.0)]), 2.0);
    near(found.line.open_v, 43.2);
    near(found.expected.power_w, 693.460_166);
    assert_eq!((found.basis, found.relative), (Basis::Claim, 0.20));
    // The draw is from what the line gives. 693.46/(14.4 · 0.85), 1.15 · 693.46/(14.4 · 0.55)
    near(found.low_a, 56.655_242);
    near(found.high_a, 100.691_817);
    assert!(found.assumptions.iter().any(|says| says.contains("8 % of the load")));
}

#[test]
fn the_second_prediction_moves_from_claim_to_one_run_to_fit() {
    let mut session = regulated(&[(4.0, 400.0), (2.0, 648.0)]);
    // The claims' own line: 45 V behind 0.5 Ω.
    let claims = expect(&mut session, 2.0);
    near(claims.line.out_ohm, 0.5);
    near(claims.expected.power_w, 648.0);
    assert_eq!((claims.basis, claims.from.as_slice()), (Basis::Claim, ["c0".to_owned(), "c1".to_owned()].as_slice()));

    // One run of 361 W into 4 Ω: 38 V, 9.5 A; with the claims' 0.5 Ω Voc = 42.75 V; into 2 Ω 42.75² · 2 / 2.5² = 584.82 W.
    session.runs.push(certified("r1", 4.0, 361.0, 14.4, 32.0));
    let one = expect(&mut session, 2.0);
    near(one.expected.power_w, 584.82);
    assert_eq!((one.basis, one.relative, one.from.as_slice()), (Basis::OneRun, 0.12, ["r1".to_owned()].as_slice()));

    // A second of 578 W into 2 Ω: 34 V, 17 A. Rout = 4/7.5 = 0.53333 Ω, Voc = 43.0667 V.
    session.runs.push(certified("r2", 2.0, 578.0, 14.4, 56.0));
    let two = expect(&mut session, 2.0);
    near(two.line.out_ohm, 4.0 / 7.5);
    near(two.expected.power_w, 578.0);
    assert_eq!((two.basis, two.relative), (Basis::Fit, 0.06));

    // An octave past the runs it is a guess, and twice as wide: 43.0667² · 1 / 1.53333² = 788.88 W.
    let past = expect(&mut session, 1.0);
    near(past.expected.power_w, 788.877_127);
    assert_eq!((past.basis, past.relative), (Basis::BeyondFit, 0.12));
}

#[test]
fn from_three_runs_on_the_worst_leave_one_out_miss_is_the_band() {
    let mut session = regulated(&[]);
    for (id, load, watts) in [("r1", 8.0, 200.0), ("r2", 4.0, 361.0), ("r3", 2.0, 578.0)] {
        session.runs.push(certified(id, load, watts, 14.4, 50.0));
    }
    let found = expect(&mut session, 4.0);
    // 8 Ω: 40 V, 5 A; 4 Ω: 38 V, 9.5 A; 2 Ω: 34 V, 17 A. Leaving 4 Ω out: Rout 0.5, Voc 42.5: 356.79 W for 361 W, 1.17 %.
    // Leaving 8 Ω out: Rout 0.53333, Voc 43.06667: 203.77 W for 200 W, 1.89 %. Leaving 2 Ω out: Rout 0.44444, Voc 42.22222:
    // 596.69 W for 578 W, 3.23 %.
    near(found.relative, 0.032_342_93);
    assert_eq!(found.basis, Basis::Fit);
}

#[test]
fn losses_supply_and_output_are_solved_together() {
    let mut session = regulated(&[]);
    session.bench.supply.source_ohm = Some(Ohms::new(0.01).unwrap());
    // 400 W into 4 Ω at 14.0 V and 36 A: 504 W in, 104 W lost, at 100 A²: k = 1.04 Ω with no idle reading.
    session.runs.push(certified("r1", 4.0, 400.0, 14.0, 36.0));
    let found = expect(&mut session, 4.0);
    // 400/504 W: an efficiency of 79.37 %, at the load itself.
    let Draw::Efficiency { ratio, halvings, .. } = found.draw else { panic!("{:?}", found.draw) };
    near(ratio, 400.0 / 504.0);
    assert_eq!(halvings, 0.0);
    // V·(14.4 − V)/0.01 = 504: V = (14.4 + √(14.4² − 4 · 0.01 · 504))/2 = 14.04105 V
    near(found.end_v().unwrap(), 14.041_052_55);
    near(found.expected.current_a, 504.0 / 14.041_052_55);
    // At 14.4 V it would draw 35 A: start at 14.75 V. Nothing is stated, so 15 V is the cap.
    near(found.start_v.unwrap(), 14.75);
    assert_eq!(found.most_v, 15.0);
    near(found.peak_a, 200f64.sqrt());
}

#[test]
fn a_start_voltage_is_never_above_what_is_allowed() {
    let mut session = regulated(&[(1.0, 1_000.0)]);
    session.bench.supply.source_ohm = Some(Ohms::new(0.01).unwrap());
    // Class D at 80 %: 1250 W at 14.4 V is 86.8 A, 0.87 V of sag: 15.27 V asked for.
    let capped = expect(&mut session, 1.0);
    near(capped.start_v.unwrap(), 14.4 + 0.01 * 1_250.0 / 14.4);
    assert_eq!(capped.start_for_reference(), Some(15.0));
    session.amplifier.max_supply_v = Some(Volts::new(16.0).unwrap());
    near(expect(&mut session, 1.0).start_for_reference().unwrap(), 14.4 + 0.01 * 1_250.0 / 14.4);
}

#[test]
fn bridged_runs_stand_for_the_channels_they_drive() {
    let mut session = regulated(&[]);
    session.amplifier.channels = 2;
    let pair = Wiring::Bridged { pairs: 1 };
    let both = Wiring::Channels { driven: 2 };
    session.runs.push(run("b", pair, 8.0, Mode::Certified, 300.0, Some(14.4)));
    let known = Prior::of(&session, &[]);
    let at = |wiring, load| Where { wiring, setting: None, load_ohm: Ohms::new(load).unwrap(), tone_hz: 40.0 };
    let seen = known.run(at(both, 4.0));
    assert_eq!(seen.len(), 1);
    assert_eq!((seen[0].point.load_ohm, seen[0].point.output_w), (4.0, 150.0), "300 W bridged into 8 Ω is 150 W a channel into 4 Ω");
    let own = known.run(at(pair, 8.0));
    assert_eq!((own[0].point.load_ohm, own[0].point.output_w), (8.0, 300.0));
    assert!(known.run(at(Wiring::Channels { driven: 1 }, 4.0)).is_empty(), "one channel alone is another thing");
}

#[test]
fn supply_not_known_to_be_regulated_is_halfway_and_wider() {
    let mut session = regulated(&[(4.0, 400.0)]);
    session.bench.supply.source_ohm = Some(Ohms::new(0.02).unwrap());
    let stiff = expect(&mut session, 4.0);
    session.amplifier.supply_type = pukka_core::record::amplifier::SupplyType::Unregulated;
    let follows = expect(&mut session, 4.0);
    session.amplifier.supply_type = pukka_core::record::amplifier::SupplyType::Unknown;
    let unknown = expect(&mut session, 4.0);
    assert!(follows.expected.power_w < unknown.expected.power_w && unknown.expected.power_w < stiff.expected.power_w);
    assert!(unknown.relative > stiff.relative && unknown.low_w() < follows.low_w() * 1.02);
}

#[test]
fn changing_the_load_costs_time_and_the_order_decides_how_often() {
    let mut session = regulated(&[(4.0, 400.0), (2.0, 648.0)]);
    // Six runs of 45 s with 60 s of rest, and two loads: 6 · 105 + 2 · 90 = 810 s.
    near(report(&session).minutes, 13.5);
    session.plan.order = Order::Mode;
    // 4 2 | 4 2 | 4 2: six changes.
    near(report(&session).minutes, (6.0 * 105.0 + 6.0 * 90.0) / 60.0);
    // A 4 Ω resistor of 48 W continuously at up to 480 W: 10 s · (480/48 − 1) = 90 s of rest instead of 60, three times.
    session.plan.order = Order::Rung;
    session.bench.loads =
        vec![serde_json::from_value(json!({ "nominal_ohm": 4.0, "continuous_w": 48.0, "ten_second_w": 4_000.0, "count": 1 })).unwrap()];
    near(report(&session).minutes, (810.0 + 3.0 * 30.0) / 60.0);
}

fn shown(session: &Session, load: f64) -> LadderRung {
    ladder(session).rungs.into_iter().find(|rung| rung.load_ohm.get() == load).unwrap()
}

#[test]
fn the_plan_says_where_each_figure_is_from_and_what_it_means() {
    let mut session = regulated(&[(4.0, 400.0), (1.0, 900.0)]);
    session.bench.supply.source_ohm = Some(Ohms::new(0.01).unwrap());
    session.bench.loads =
        vec![serde_json::from_value(json!({ "nominal_ohm": 2.0, "continuous_w": 100.0, "ten_second_w": 400.0, "count": 2 })).unwrap()];
    let plain = |text: &str| text.replace('\u{202f}', " ");
    let four = shown(&session, 4.0).expected.unwrap();
    assert_eq!(plain(&four.basis_words), "from the claim, 400 W ± 20 %");
    assert_eq!(plain(&four.power_band), "320 to 480 W");
    assert!(four.proven_a.is_none() && four.fuses_a.as_ref().unwrap().text == "80");
    // Two 2 Ω in series: each takes half. 480 W is past 200 W continuously: 10 s of tone, 14 s to cool.
    let bank = four.load_banks[0].clone();
    assert_eq!(
        (bank.words.as_str(), bank.hottest_w.text.as_str(), bank.rest_s, bank.warm),
        ("2 × 2\u{202f}Ω in series", "240", 14.0, true)
    );
    assert_eq!(bank.says, "past its lasting rating: 10 s of tone, then cool for 14 s");
    let one = shown(&session, 1.0).expected.unwrap();
    // V·(14.4 − V)/0.01 = 900/0.80: V = 13.571 V; 1.15 · 900 / (13.571 · 0.55) = 138.7 A through 80 A
    assert_eq!((one.past_fuses, one.fuse_ratio.unwrap().text.as_str()), (true, "173"));
    assert!(one.below_window && plain(&one.end_says).starts_with("capped: start at 15.00 V"), "{}", one.end_says);
    assert_eq!(one.load_banks.first().unwrap().says, "past its ten-second rating");
    assert!(shut(&session, &find(&session, "mono@1@40").unwrap(), Mode::Certified).len() == 1, "the load bank; fuses are a caution");
    let minded = shown(&session, 1.0).cells.remove(0).mind;
    assert!(minded.iter().any(|says| says.contains("of its fuses") && says.contains("Keep spares")), "{minded:?}");
    for figure in [&one.power, &one.low_a, &one.high_a, &one.peak_a, one.end_v.as_ref().unwrap(), one.start_v.as_ref().unwrap()] {
        assert!(!figure.working.formula.is_empty() && !figure.working.inputs.is_empty() && !figure.working.source.is_empty());
    }
}

#[test]
fn every_rung_is_drawn_to_one_scale() {
    let mut session = regulated(&[(4.0, 400.0), (2.0, 648.0)]);
    session.bench.supply.source_ohm = Some(Ohms::new(0.005).unwrap());
    let bars: Vec<_> = ladder(&session).rungs.into_iter().map(|rung| rung.bars.unwrap()).collect();
    near(bars[0].power / bars[1].power, 400.0 / 648.0);
    near(bars[0].fuses.unwrap(), bars[1].fuses.unwrap());
    assert!(bars.iter().all(|bar| bar.low_a <= bar.high_a && bar.high_a <= 1.0 && (0.0..=1.0).contains(&bar.end_v.unwrap())));
    assert!(bars[1].end_v < bars[0].end_v, "the lower load sags more");
}

#[test]
fn a_rung_left_out_is_not_run_but_still_stands_in_the_plan() {
    let mut session = regulated(&[(4.0, 400.0), (2.0, 648.0)]);
    let left_out: Value = json!({ "wiring": { "kind": "mono" }, "load_ohm": 2.0, "tone_hz": 40.0, "modes": [] });
    session.plan.rungs = vec![serde_json::from_value(left_out).unwrap()];
    let ladder = ladder(&session);
    assert_eq!((ladder.rungs.len(), ladder.planned), (2, 3));
    assert!(ladder.rungs[1].set.modes.is_empty() && ladder.rungs[1].cells.iter().all(|cell| !cell.planned));
    assert_eq!(report(&session).rungs.len(), 1, "the file's plan lists one rung");
}

#[test]
fn what_is_minded_at_a_step_is_about_that_step() {
    let mut session = regulated(&[(4.0, 400.0), (1.0, 1_500.0)]);
    let mind = |session: &Session, key: &str, mode| {
        let rung = find(session, key).unwrap();
        let known = Prior::of(session, &[]);
        at_step(session, &Look::at(&known, &rung), &rung, mode)
    };
    assert!(mind(&session, "mono@4@40", Mode::Certified).is_empty());
    let hard = mind(&session, "mono@1@40", Mode::Certified);
    assert!(hard.len() == 2 && hard[0].contains("leads tied down") && hard[1].contains("of its fuses"), "{hard:?}");
    session.claims[1].load_ohm = Some(Ohms::new(2.0).unwrap());
    rung_at(&mut session, 1.0);
    let below = mind(&session, "mono@1@40", Mode::Dynamic);
    assert!(below[0].starts_with("Below the floor: cover on"), "{below:?}");
    session.amplifier.purpose = pukka_core::record::amplifier::Purpose::FullRange;
    assert!(mind(&session, "mono@4@1000", Mode::Dynamic)[0].contains("hearing protection"));
    assert!(mind(&session, "mono@4@1000", Mode::Certified).is_empty());
}

#[test]
fn opening_a_gate_names_what_is_missing() {
    let mut session = regulated(&[(4.0, 400.0)]);
    session.amplifier.provenance = pukka_core::record::amplifier::Provenance::Lent;
    session.amplifier.fuses_a.clear();
    session.plan.rest_v = Some(Volts::new(14.9).unwrap());
    let rung = rung_at(&mut session, 2.0);
    let paths = |opening: Value| {
        let opening: Opening = serde_json::from_value(opening).unwrap();
        open(&session, &rung, Mode::Dynamic, &opening)
            .map(|gates| gates.len())
            .map_err(|all| all.into_iter().map(|p| p.path).collect::<Vec<_>>())
    };
    let consent = json!({ "by": "R. Oakshott", "on": "2026-11-20", "who_pays": "the owner" });
    assert_eq!(
        paths(json!({ "reason": "", "by": "" })),
        Err(["reason", "by", "second_reason", "owner_consent.by", "owner_consent.who_pays"].map(String::from).to_vec())
    );
    assert_eq!(
        paths(json!({ "reason": "to know", "by": "us", "second_reason": " to know ", "owner_consent": consent })),
        Err(vec!["second_reason".to_owned()]),
        "the same words again are no second reason"
    );
    assert_eq!(paths(json!({ "reason": "to know", "by": "us", "second_reason": "the bank stands high", "owner_consent": consent })), Ok(1));
}
