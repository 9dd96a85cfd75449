use proptest::prelude::*;

use super::*;
use crate::assess::Overall;
use crate::kernel::units::{Amps, Hertz, Volts, Watts};
use crate::kernel::wiring::Wiring;
use crate::record::session::examples::{claim, mono_1100, run};
use crate::record::session::{Acceptance, CheckCode, Repeats, Run};

const MONO: Wiring = Wiring::Mono;

/// A claim of 1000 W into 1 Ω mono at 14.4 V on an unregulated amplifier, meters ± 1 %, and these runs.
fn with_runs(runs: Vec<Run>) -> Session {
    let mut session = mono_1100();
    session.claims = vec![claim("c1", MONO, 1.0, 1_000.0)];
    session.runs = runs;
    session
}

fn certified(power_w: f64, end_v: f64) -> Run {
    run("r1", MONO, 1.0, Mode::Certified, power_w, Some(end_v))
}

fn outcome(session: &Session) -> (Outcome, Option<ProofBasis>) {
    let verdict = &judge(session).claims[0];
    (verdict.outcome, verdict.basis)
}

#[test]
fn the_example_of_the_open_format() {
    let judgement = judge(&mono_1100());
    let claim = &judgement.claims[0];
    assert_eq!((claim.outcome, claim.basis), (Outcome::HoldsWithin, Some(ProofBasis::Uncertainty)));
    assert!((claim.as_read_ratio.unwrap() - 447.0 / 450.0).abs() < 1e-12);
    // 447 × (14.4/14.38)² = 448.244
    assert!((claim.at_reference_w.unwrap()[0] - 448.244).abs() < 1e-3);
    assert!((claim.shortfall_db.unwrap().get() + 0.029_05).abs() < 1e-4);
    let first = &judgement.runs[0];
    assert!((first.input_w.unwrap() - 592.456).abs() < 1e-9);
    assert!((first.efficiency_ratio.unwrap() - 0.754_486).abs() < 1e-6);
    assert!((first.heat_w.unwrap() - 145.456).abs() < 1e-9);
    assert!((first.expanded_uncertainty_w.unwrap() - 5.161_5).abs() < 1e-4);
    assert_eq!(first.used_for, ["c1"]);
    assert_eq!((judgement.overall, judgement.tested, judgement.claims_in_use, judgement.provisional), (Some(Overall::Pukka), 3, 3, false));
}

#[test]
fn proved_five_ways() {
    // L = P at 14.4 V; U = P·√(0.01² + (2·0.005)²)·2/√3 = 1.633 % of P.
    assert_eq!(outcome(&with_runs(vec![certified(1_080.0, 14.4)])), (Outcome::Beats, Some(ProofBasis::AsRead)), "1080 − 17.6 > 1050");
    assert_eq!(outcome(&with_runs(vec![certified(1_060.0, 14.4)])), (Outcome::Holds, Some(ProofBasis::AsRead)), "1060 − 17.3 < 1050");
    assert_eq!(outcome(&with_runs(vec![certified(1_000.0, 14.4)])), (Outcome::Holds, Some(ProofBasis::AsRead)), "exactly the claim");
    assert_eq!(outcome(&with_runs(vec![certified(970.0, 14.0)])), (Outcome::Holds, Some(ProofBasis::AtReference)), "970·1.058 = 1026");
    assert_eq!(outcome(&with_runs(vec![certified(990.0, 14.4)])), (Outcome::HoldsWithin, Some(ProofBasis::Uncertainty)), "990 + 16.2");
}

#[test]
fn more_volts_than_the_claim_do_not_prove_it_as_read() {
    // 1050 W at 14.6 V is 1021 W at 14.4 V: holds, but not as read.
    assert_eq!(outcome(&with_runs(vec![certified(1_050.0, 14.6)])), (Outcome::Holds, Some(ProofBasis::AtReference)));
    let mut regulated = with_runs(vec![certified(1_050.0, 14.6)]);
    regulated.amplifier.supply_type = SupplyType::Regulated;
    assert_eq!(outcome(&regulated), (Outcome::Holds, Some(ProofBasis::AsRead)));
}

#[test]
fn undecided_three_ways() {
    // 850 W at 13.0 V: between 850 and 1043 W at 14.4 V.
    assert_eq!(outcome(&with_runs(vec![certified(850.0, 13.0)])), (Outcome::BenchLimited, None));
    // 1100 W at 15.6 V: between 937 and 1100 W.
    assert_eq!(outcome(&with_runs(vec![certified(1_100.0, 15.6)])), (Outcome::TestedHigh, None));
    let mut unknown = with_runs(vec![certified(950.0, 13.9)]);
    unknown.amplifier.supply_type = SupplyType::Unknown;
    assert_eq!(outcome(&unknown), (Outcome::CannotTell, Some(ProofBasis::SupplyTypeUnknown)));
}

#[test]
fn fails_four_ways_and_the_boundary_is_kind() {
    let clipping = run("r2", MONO, 1.0, Mode::Clipping, 1_010.0, Some(14.4));
    let burst = run("r3", MONO, 1.0, Mode::Dynamic, 1_100.0, Some(14.4));
    assert_eq!(outcome(&with_runs(vec![certified(900.0, 14.4), clipping.clone(), burst.clone()])).0, Outcome::OnlyClipping);
    assert_eq!(outcome(&with_runs(vec![certified(900.0, 14.4), burst])).0, Outcome::OnlyDynamic);
    assert_eq!(outcome(&with_runs(vec![certified(700.0, 14.4)])).0, Outcome::Short, "exactly 0.70");
    assert_eq!(outcome(&with_runs(vec![certified(699.9, 14.4)])).0, Outcome::FarShort);
    let session = with_runs(vec![certified(900.0, 14.4), clipping]);
    assert_eq!(judge(&session).claims[0].runs, ["r1", "r2"], "the certified run, then the one that gets there");
}

#[test]
fn a_clipping_run_alone_can_only_disprove() {
    let alone = |power_w| with_runs(vec![run("r1", MONO, 1.0, Mode::Clipping, power_w, Some(14.4))]);
    assert_eq!(outcome(&alone(800.0)), (Outcome::Short, Some(ProofBasis::UpperBound)));
    assert_eq!(outcome(&alone(1_200.0)), (Outcome::NotTested, None));
    let judgement = judge(&alone(800.0));
    assert_eq!((judgement.overall, judgement.claims[0].at_reference_w), (Some(Overall::Optimistic), None));
}

/// Level steps that never pass the limit: 800 W at least, at 14.4 V.
fn only_at_least() -> Run {
    let steps = serde_json::json!([
        { "level_db": -3.0, "outputs": [{ "power_w": 600.0 }], "thd_ratio": 0.002, "end_v": 14.4, "current_a": 55.0 },
        { "level_db": -2.0, "outputs": [{ "power_w": 800.0 }], "thd_ratio": 0.004, "end_v": 14.4, "current_a": 75.0 }
    ]);
    Run {
        steps: serde_json::from_value(steps).unwrap(),
        method: Some(crate::record::session::Method::Steps),
        outputs: Vec::new(),
        ..certified(1.0, 14.4)
    }
}

#[test]
fn a_lower_bound_proves_or_leaves_it_open_and_is_named_either_way() {
    let session = with_runs(vec![only_at_least()]);
    let judgement = judge(&session);
    let open = &judgement.claims[0];
    assert_eq!((open.outcome, open.basis), (Outcome::NotTested, Some(ProofBasis::LowerBound)));
    assert_eq!((open.runs.as_slice(), open.as_read_ratio, open.at_reference_w), (&["r1".to_owned()][..], Some(0.8), Some([800.0, 800.0])));
    assert_eq!(
        (judgement.runs[0].used_for.as_slice(), judgement.overall, judgement.tested),
        (&["c1".to_owned()][..], Some(Overall::Open), 0)
    );
    assert!(judgement.sentence.contains("was not run to its limit: 800\u{202f}W at least."), "{}", judgement.sentence);
    assert!(!judgement.sentence.contains("headroom"), "nothing is set against a power that may be more: {}", judgement.sentence);
    let mut proved = session.clone();
    proved.runs.push(run("r2", MONO, 1.0, Mode::Dynamic, 1_200.0, Some(14.4)));
    assert!(!judge(&proved).sentence.contains("headroom"));
    let figure = crate::evidence::figures::figures(&session, &session.runs[0]).unwrap().total;
    assert_eq!(figure.words(), "≥\u{202f}800\u{202f}W");
    let sheet = crate::report::sheet::sheet(&session);
    assert_eq!(
        (sheet.rows[0].end_v.as_str(), sheet.rows[0].current.as_str()),
        ("14.40\u{202f}V", "75.0\u{202f}A"),
        "of the step it stands on"
    );
    let mut proved = session;
    proved.claims = vec![claim("c1", MONO, 1.0, 790.0)];
    assert_eq!(outcome(&proved), (Outcome::Holds, Some(ProofBasis::AsRead)));
}

#[test]
fn a_step_is_checked_by_the_amps_it_was_read_at() {
    let mut session = with_runs(vec![only_at_least()]);
    session.bench.supply.current_limit_a = Some(Amps::new(76.0).unwrap());
    session.runs[0].current_a = None;
    let limited = |session: &Session| judge(session).checks.iter().any(|check| check.code == CheckCode::BenchLimited);
    assert!(limited(&session), "75 A of 76 A");
    session.bench.supply.current_limit_a = Some(Amps::new(77.0).unwrap());
    assert!(!limited(&session), "less than 98 % of 77 A");
}

fn cut_short(id: &str, mode: Mode, power_w: f64) -> Run {
    Run { incomplete: true, ..run(id, MONO, 1.0, mode, power_w, Some(14.5)) }
}

#[test]
fn a_run_that_was_cut_short_says_at_least_and_steps_back_behind_a_whole_one() {
    let alone = with_runs(vec![cut_short("r0", Mode::Certified, 3.0)]);
    assert_eq!(outcome(&alone), (Outcome::NotTested, Some(ProofBasis::LowerBound)), "3 W before a key was pressed are no tall tale");
    for repeats in [Repeats::Best, Repeats::First, Repeats::Mean] {
        let mut session = with_runs(vec![cut_short("r0", Mode::Certified, 3.0), certified(950.0, 14.4)]);
        session.policy.repeats = repeats;
        let judgement = judge(&session);
        assert_eq!((judgement.claims[0].outcome, judgement.claims[0].as_read_ratio), (Outcome::Short, Some(0.95)), "{repeats:?}");
        assert!(!judgement.checks.iter().any(|check| check.severity != Severity::Note), "{repeats:?}: {:?}", judgement.checks);
    }
    assert_eq!(outcome(&with_runs(vec![cut_short("r0", Mode::Certified, 1_020.0)])).0, Outcome::Holds, "it proves what it reached");
    assert_eq!(outcome(&with_runs(vec![cut_short("r0", Mode::Clipping, 400.0)])), (Outcome::NotTested, None), "and bounds nothing");
    // Protection is the amplifier's own doing: that is what it gives.
    let mut protected = cut_short("r0", Mode::Certified, 500.0);
    protected.incident = Some(crate::record::session::Incident::Protection);
    assert_eq!(outcome(&with_runs(vec![protected])), (Outcome::FarShort, None));
    let mut max = alone;
    max.claims[0].kind = ClaimKind::Max;
    assert_eq!(outcome(&max).0, Outcome::NotTested);
    max.runs.push(run("r1", MONO, 1.0, Mode::Dynamic, 900.0, Some(14.4)));
    assert_eq!(outcome(&max).0, Outcome::MaxMissed);
}

#[test]
fn what_was_cut_short_promises_no_less_draw() {
    let mut session = mono_1100();
    let into_one_ohm = |session: &Session| {
        let known = crate::predict::known::Prior::of(session, &[]);
        let ladder = crate::evidence::rungs::rungs(session);
        let rung = ladder.iter().find(|rung| rung.id.load_ohm.get() == 1.0).unwrap();
        crate::predict::prediction::predict(&known, rung).unwrap().expected.power_w
    };
    let before = into_one_ohm(&session);
    session.runs.push(Run { incomplete: true, ..run("r0", MONO, 0.67, Mode::Certified, 5.0, Some(14.5)) });
    session.runs.push(Run { incomplete: true, ..run("r0b", MONO, 2.0, Mode::Certified, 5.0, Some(14.5)) });
    let after = into_one_ohm(&session);
    assert!((after / before - 1.0).abs() < 1e-9, "{after} against {before}");
}

#[test]
fn max_is_judged_by_the_best_of_any_mode() {
    let mut session = with_runs(vec![certified(900.0, 14.4), run("r2", MONO, 2.0, Mode::Dynamic, 1_300.0, None)]);
    session.claims[0].kind = ClaimKind::Max;
    session.claims[0].wiring = None;
    session.claims[0].load_ohm = None;
    let judgement = judge(&session);
    assert_eq!((judgement.claims[0].outcome, judgement.claims[0].runs.as_slice()), (Outcome::MaxMet, ["r2".to_owned()].as_slice()));
    assert_eq!((judgement.overall, judgement.claims_in_use), (Some(Overall::Pukka), 1), "with no rating the max claims take their place");
    session.claims.push(claim("c2", MONO, 1.0, 850.0));
    session.claims[0].power_w = Some(crate::kernel::units::ClaimedWatts::new(2_000.0).unwrap());
    let judgement = judge(&session);
    assert_eq!(judgement.claims[0].outcome, Outcome::MaxMissed);
    assert_eq!(judgement.overall, Some(Overall::Optimistic), "a rating that holds is capped by a max missed by more than 5 %");
}

#[test]
fn what_cannot_be_compared_says_so() {
    let mut session = with_runs(vec![certified(1_000.0, 14.4)]);
    session.claims[0].load_ohm = None;
    assert_eq!(outcome(&session).0, Outcome::NotComparable);
    session.claims[0] = claim("c1", MONO, 1.0, 1_000.0);
    session.claims[0].power_w = None;
    assert_eq!(outcome(&session).0, Outcome::NotComparable);
    session.claims[0].used = false;
    assert_eq!(outcome(&session).0, Outcome::NotUsed);
}

#[test]
fn a_bridged_run_stands_for_both_channels_only_when_there_is_no_direct_one() {
    let mut session = with_runs(vec![run("b", Wiring::Bridged { pairs: 1 }, 4.0, Mode::Certified, 640.0, Some(14.4))]);
    session.amplifier.channels = 2;
    session.claims = vec![claim("c1", Wiring::Channels { driven: 2 }, 2.0, 300.0)];
    let verdict = judge(&session).claims[0].clone();
    assert_eq!((verdict.outcome, verdict.equivalent), (Outcome::Holds, true), "640 W against 2 × 300 W");
    let mut direct = run("d", Wiring::Channels { driven: 2 }, 2.0, Mode::Certified, 250.0, Some(14.4));
    direct.outputs[0].power_w = Some(Watts::new(250.0).unwrap());
    session.runs.push(direct);
    let verdict = judge(&session).claims[0].clone();
    assert_eq!((verdict.outcome, verdict.equivalent, verdict.runs.as_slice()), (Outcome::Short, false, ["d".to_owned()].as_slice()));
}

#[test]
fn a_max_of_a_wiring_at_any_load_is_met_by_what_asks_the_same_of_its_channels() {
    let mut session = with_runs(vec![run("r1", Wiring::Bridged { pairs: 1 }, 4.0, Mode::Clipping, 500.0, Some(14.4))]);
    session.amplifier.channels = 2;
    let mut max = claim("c1", Wiring::Channels { driven: 2 }, 4.0, 240.0);
    (max.kind, max.load_ohm) = (ClaimKind::Max, None);
    session.claims = vec![max];
    let verdict = &judge(&session).claims[0];
    assert_eq!((verdict.outcome, verdict.equivalent), (Outcome::MaxMet, true), "2 × 240 W, and the pair gave 500 W");
}

#[test]
fn per_channel_that_fits_only_as_a_total_offers_that_reading() {
    let mut session = with_runs(vec![run("r1", Wiring::Channels { driven: 4 }, 4.0, Mode::Certified, 105.0, Some(14.4))]);
    session.amplifier.channels = 4;
    session.claims = vec![claim("c1", Wiring::Channels { driven: 4 }, 4.0, 400.0)];
    let verdict = judge(&session).claims[0].clone();
    assert_eq!((verdict.outcome, verdict.fits_as_total), (Outcome::FarShort, true), "420 W of 1600 W, but 1.05 × 400 W");
}

#[test]
fn settings_tones_and_voltages_choose_the_run() {
    let mut switched = certified(1_200.0, 14.4);
    switched.setting = Some("high current".into());
    assert_eq!(outcome(&with_runs(vec![switched])).0, Outcome::NotTested, "another setting is another rating");
    let at_tone = |id: &str, tone: f64, power_w: f64| {
        let mut run = run(id, MONO, 1.0, Mode::Certified, power_w, Some(14.4));
        run.tone_hz = Hertz::new(tone).unwrap();
        run
    };
    let judged = |runs| judge(&with_runs(runs)).claims[0].runs.clone();
    assert_eq!(judged(vec![at_tone("a", 1_000.0, 1_200.0), at_tone("b", 40.0, 900.0)]), ["b"], "its own tone, not the better one");
    assert_eq!(judged(vec![at_tone("a", 1_000.0, 1_200.0), at_tone("b", 50.0, 900.0)]), ["b"], "else the nearest");
    let volts = |id: &str, v: f64, p: f64| run(id, MONO, 1.0, Mode::Certified, p, Some(v));
    assert_eq!(judged(vec![volts("a", 14.3, 900.0), volts("b", 12.5, 1_200.0)]), ["a"], "the supply nearest the claim's");
    assert_eq!(judged(vec![volts("a", 14.3, 900.0), volts("b", 13.8, 1_200.0)]), ["b"], "within 0.5 V of the nearest, the best");
}

#[test]
fn repeats_by_each_policy() {
    let repeat = |id: &str, minute: u32, p: f64| {
        let mut run = run(id, MONO, 1.0, Mode::Certified, p, Some(14.4));
        run.at = format!("2026-11-20T10:{minute:02}:00Z").parse().unwrap();
        run
    };
    let mut session = with_runs(vec![repeat("b", 5, 1_010.0), repeat("a", 1, 980.0), repeat("c", 9, 1_001.0)]);
    let read = |session: &Session| {
        let verdict = &judge(session).claims[0];
        (verdict.as_read_w().unwrap().round(), verdict.runs.clone())
    };
    assert_eq!(read(&session), (1_010.0, vec!["b".to_owned()]));
    session.policy.repeats = Repeats::First;
    assert_eq!(read(&session), (980.0, vec!["a".to_owned()]));
    session.policy.repeats = Repeats::Mean;
    assert_eq!(read(&session), (997.0, vec!["a".to_owned(), "b".to_owned(), "c".to_owned()]));
}

#[test]
fn a_stop_keeps_a_run_out_until_it_is_settled() {
    let mut session = with_runs(vec![certified(1_000.0, 14.4)]);
    session.runs[0].current_a = Some(Amps::new(60.0).unwrap());
    let judgement = judge(&session);
    assert_eq!((judgement.claims[0].outcome, judgement.provisional), (Outcome::NotTested, true), "1000 W out of 864 W in");
    session.runs[0].accepted.push(Acceptance { code: "over-unity".into(), reason: "for the test".into() });
    assert_eq!(outcome(&session).0, Outcome::Holds);
    session.runs[0].ungated = true;
    assert_eq!(outcome(&session).0, Outcome::NotTested);
    session.runs[0].ungated = false;
    session.runs[0].valid = false;
    assert_eq!(outcome(&session).0, Outcome::NotTested);
}

#[test]
fn the_word_over_all_by_its_smallest_ratio() {
    let word = |first: f64, second: f64| {
        let mut session = with_runs(vec![certified(first, 14.4), run("r2", MONO, 8.0, Mode::Certified, second, Some(14.4))]);
        session.claims.push(claim("c2", MONO, 8.0, 500.0));
        judge(&session).overall
    };
    assert_eq!(word(1_100.0, 550.0), Some(Overall::Modest));
    assert_eq!(word(1_100.0, 500.0), Some(Overall::Pukka));
    assert_eq!(word(1_000.0, 480.0), Some(Overall::NearEnough));
    assert_eq!(word(1_000.0, 475.0), Some(Overall::NearEnough), "exactly 0.95");
    assert_eq!(word(1_000.0, 474.0), Some(Overall::Optimistic));
    assert_eq!(word(1_000.0, 350.0), Some(Overall::Optimistic), "exactly 0.70");
    assert_eq!(word(1_000.0, 349.0), Some(Overall::TallTale));
    let mut open = with_runs(vec![run("r2", MONO, 2.0, Mode::Certified, 500.0, Some(14.4))]);
    open.claims.push(claim("c2", MONO, 2.0, 500.0));
    let judgement = judge(&open);
    assert_eq!((judgement.overall, judgement.tested, judgement.provisional), (Some(Overall::Open), 1, true), "the headline is untested");
}

#[test]
fn what_the_claim_leaves_out_is_listed() {
    let mut session = with_runs(vec![certified(1_000.0, 14.4)]);
    session.claims[0].supply_v = None;
    session.claims[0].kind = ClaimKind::Unstated;
    session.claims[0].thd_limit_ratio = Some(crate::kernel::units::Ratio::new(0.1).unwrap());
    session.runs[0].end_v = None;
    let rest = [Assumption::ClaimVoltage, Assumption::UnstatedAsRms, Assumption::RunsDistortionLimit];
    assert_eq!(judge(&session).claims[0].assumptions, [&[Assumption::NoSupplyVolts][..], &rest].concat());
    // 1000 W / (0.69 · 100 A) = 14.49 V, under 14.6 V at rest.
    session.runs[0].current_a = Amps::new(100.0).ok();
    session.runs[0].efficiency_read_ratio = crate::kernel::units::Ratio::new(0.69).ok();
    assert_eq!(judge(&session).claims[0].assumptions, [&[Assumption::VoltsDerived][..], &rest].concat());
}

fn rank(outcome: Outcome) -> u8 {
    match outcome {
        Outcome::Beats => 4,
        Outcome::Holds => 3,
        Outcome::HoldsWithin => 2,
        Outcome::Short => 1,
        _ => 0,
    }
}

proptest! {
    #[test]
    fn more_clean_watts_inside_the_window_never_worsen_an_outcome(p in 500.0f64..1_200.0, more in 1.0f64..400.0, v in 13.5f64..15.3) {
        let at = |p: f64| outcome(&with_runs(vec![certified(p, v)])).0;
        prop_assert!(rank(at(p + more)) >= rank(at(p)));
    }

    #[test]
    fn the_order_of_the_runs_never_matters(order in Just((0..9usize).collect::<Vec<_>>()).prop_shuffle()) {
        let mut session = mono_1100();
        let runs = session.runs.clone();
        session.runs = order.iter().map(|i| runs[*i].clone()).collect();
        let (shuffled, straight) = (judge(&session), judge(&mono_1100()));
        prop_assert_eq!(shuffled.claims, straight.claims);
        prop_assert_eq!(shuffled.sentence, straight.sentence);
    }

    #[test]
    fn a_band_holds_the_power_as_read_outside_the_window(p in 100.0f64..1_500.0, v in 9.0f64..13.3) {
        let mut session = with_runs(vec![certified(p, v)]);
        session.runs[0].end_v = Some(Volts::new(v).unwrap());
        let [low, high] = judge(&session).claims[0].at_reference_w.unwrap();
        prop_assert!(low <= p * (1.0 + 1e-9) && p <= high * (1.0 + 1e-9));
    }
}
