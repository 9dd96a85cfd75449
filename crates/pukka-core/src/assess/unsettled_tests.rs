//! What the readings leave open is never said: volts that nobody read, runs that wait, bursts of other kinds, two amplifiers.

use super::*;
use crate::assess::Overall;
use crate::kernel::units::{Amps, Hertz, Ratio, Volts};
use crate::kernel::wiring::Wiring;
use crate::record::session::examples::{claim, mono_1100, run};
use crate::record::session::{CheckCode, Run};

const MONO: Wiring = Wiring::Mono;

/// A claim of 1000 W into 1 Ω mono at 14.4 V on an unregulated amplifier, meters ± 1 %, and these runs, rested at 14.6 V.
fn with_runs(runs: Vec<Run>) -> Session {
    let mut session = mono_1100();
    session.claims = vec![claim("c1", MONO, 1.0, 1_000.0)];
    session.runs = runs;
    session
}

fn at(id: &str, load_ohm: f64, mode: Mode, power_w: f64) -> Run {
    run(id, MONO, load_ohm, mode, power_w, Some(14.4))
}

fn unread(power_w: f64) -> Session {
    with_runs(vec![run("r1", MONO, 1.0, Mode::Certified, power_w, None)])
}

fn outcome(session: &Session) -> (Outcome, Option<ProofBasis>) {
    let verdict = &judge(session).claims[0];
    (verdict.outcome, verdict.basis)
}

fn runs_of(session: &Session) -> Vec<String> {
    judge(session).claims[0].runs.clone()
}

#[test]
fn volts_nobody_read_are_a_span_and_the_kinder_end_condemns() {
    // 14.6 V at rest: it ended at 13.1 to 14.6 V. (14.4/14.6)² = 0.97279, (14.4/13.1)² = 1.20832; U = 2 · 0.01/√3 = 1.1547 %.
    assert_eq!(outcome(&unread(1_030.0)), (Outcome::Holds, Some(ProofBasis::AtReference)), "1001.97 W at the harsher end");
    assert_eq!(outcome(&unread(1_020.0)), (Outcome::HoldsWithin, Some(ProofBasis::Uncertainty)), "992.2 W and 11.5 W of U");
    assert_eq!(outcome(&unread(900.0)), (Outcome::CannotTell, Some(ProofBasis::NoSupplyVolts)), "875 to 1087 W");
    assert_eq!(outcome(&unread(800.0)), (Outcome::Short, None), "967 W at the more favourable end, and 11 W of U: no supply excuses that");
    assert_eq!(outcome(&unread(600.0)), (Outcome::Short, None), "far short as read, and not by what the supply may have been: 725 W");
    assert_eq!(outcome(&unread(570.0)), (Outcome::FarShort, None), "688.7 W even so");
    let mut regulated = unread(1_000.0);
    regulated.amplifier.supply_type = SupplyType::Regulated;
    assert_eq!(outcome(&regulated), (Outcome::Holds, Some(ProofBasis::AsRead)), "its rails hold, whatever the supply was");
    let mut low = unread(1_000.0);
    low.runs[0].rest_v = Volts::new(14.2).ok();
    assert_eq!(outcome(&low), (Outcome::Holds, Some(ProofBasis::AsRead)), "it rested under the claim's voltage");
    let mut planned = unread(900.0);
    planned.runs[0].rest_v = None;
    planned.plan.rest_v = Volts::new(12.6).ok();
    // 12.0 to 12.6 V: 900 · (14.4/12.6)² = 1175.5
    assert_eq!(outcome(&planned), (Outcome::Beats, Some(ProofBasis::AtReference)), "the plan says what it rested at");
}

#[test]
fn watts_amps_and_an_efficiency_stand_in_for_the_volts() {
    let mut session = unread(950.0);
    session.runs[0].current_a = Amps::new(100.0).ok();
    session.runs[0].efficiency_read_ratio = Ratio::new(0.70).ok();
    // 950 / (0.70 · 100) = 13.571 V: 950 · (14.4/13.571)² = 1069.6; the derived volts are worth ± 4.5 %, so U is large.
    let verdict = judge(&session).claims[0].clone();
    assert_eq!((verdict.outcome, verdict.assumptions), (Outcome::Holds, vec![Assumption::VoltsDerived]));
    assert!((verdict.at_reference_w.unwrap()[0] - 950.0 * (14.4f64 / (950.0 / 70.0)).powi(2)).abs() < 1e-9);
    session.runs[0].mode = Mode::Clipping;
    assert_eq!(crate::evidence::total(&session, &session.runs[0]).unwrap().end_v.map(|v| v.get()), Some(950.0 / 70.0));
    session.runs[0].mode = Mode::Dynamic;
    assert_eq!(crate::evidence::total(&session, &session.runs[0]).unwrap().end_v, None, "a clamp does not read a burst");
}

#[test]
fn its_own_run_is_never_passed_over() {
    let around = || vec![at("r1", 2.0, Mode::Certified, 700.0), at("r2", 0.5, Mode::Certified, 1_100.0)];
    let mut session = with_runs(around());
    session.amplifier.floors[0].load_ohm = crate::kernel::units::Ohms::new(0.5).unwrap();
    assert!(judge(&session).claims[0].interpolated, "nothing was run at 1 Ω: between its neighbours");
    let mut own = at("r3", 1.0, Mode::Certified, 940.0);
    own.ungated = true;
    session.runs.push(own.clone());
    assert_eq!(outcome(&session), (Outcome::NotTested, Some(ProofBasis::OwnRunUnsettled)));
    assert_eq!((runs_of(&session), judge(&session).overall), (vec!["r3".to_owned()], Some(Overall::Open)));
    session.runs[2].ungated = false;
    session.runs[2].thd_ratio = Ratio::new(0.05).ok();
    assert_eq!(outcome(&session), (Outcome::NotTested, Some(ProofBasis::OwnRunUnsettled)), "past the distortion limit: a stop");
    session.runs[2].accepted.push(crate::record::session::Acceptance { code: "distortion-over-limit".into(), reason: "the meter".into() });
    assert_eq!((outcome(&session), runs_of(&session)), ((Outcome::Short, None), vec!["r3".to_owned()]));
    session.runs[2].valid = false;
    assert!(judge(&session).claims[0].interpolated, "taken back, it waits for nothing");
    // A clipping run under the claim bounds nothing while the clean one waits.
    let mut clipped = with_runs(vec![at("r4", 1.0, Mode::Clipping, 600.0), own]);
    assert_eq!(outcome(&clipped).1, Some(ProofBasis::OwnRunUnsettled));
    clipped.runs[1].tone_hz = Hertz::new(1_000.0).unwrap();
    clipped.claims[0].tone_hz = Hertz::new(40.0).ok();
    assert_eq!(outcome(&clipped).1, Some(ProofBasis::UpperBound), "the one that waits is at another tone than the claim names");
}

#[test]
fn a_claim_that_names_its_tone_is_tested_at_it_and_no_other() {
    let mut session = with_runs(vec![at("r1", 1.0, Mode::Certified, 1_100.0)]);
    session.claims[0].tone_hz = Hertz::new(1_000.0).ok();
    assert_eq!(outcome(&session), (Outcome::NotTested, None));
    session.claims[0].tone_hz = Hertz::new(40.0).ok();
    assert_eq!(outcome(&session).0, Outcome::Beats);
}

fn burst(id: &str, count: u32, power_w: f64) -> Run {
    let mut run = at(id, 1.0, Mode::Dynamic, power_w);
    run.outputs.clear();
    let cycle = serde_json::json!({ "power_w": power_w });
    let cycles = if count == 1 {
        serde_json::json!({ "count": 1, "first": cycle })
    } else {
        serde_json::json!({ "count": count, "first": cycle, "last": cycle })
    };
    run.cycles = serde_json::from_value(cycles).unwrap();
    run
}

#[test]
fn kinds_of_burst_are_no_repeats_and_short_ones_judge_nothing() {
    let clean = || at("r1", 1.0, Mode::Certified, 800.0);
    let dynamic = |bursts: &[(u32, f64)], standard: Option<f64>| {
        let mut runs = vec![clean()];
        runs.extend(bursts.iter().map(|(count, watts)| burst(&format!("b{count}"), *count, *watts)));
        runs.extend(standard.map(|watts| at("s", 1.0, Mode::Dynamic, watts)));
        with_runs(runs)
    };
    assert_eq!(outcome(&dynamic(&[(1, 1_200.0), (4, 1_100.0)], None)).0, Outcome::Short, "one cycle and four judge nothing");
    assert_eq!(outcome(&dynamic(&[(20, 1_010.0), (8, 900.0)], None)).0, Outcome::OnlyDynamic, "the longest count speaks");
    assert_eq!(outcome(&dynamic(&[(20, 900.0), (8, 1_010.0)], None)).0, Outcome::Short);
    assert_eq!(outcome(&dynamic(&[(20, 1_100.0)], Some(950.0))).0, Outcome::Short, "the standard burst comes before any count");
    let mut max = dynamic(&[(1, 1_500.0)], Some(950.0));
    max.claims[0].kind = ClaimKind::Max;
    assert_eq!((outcome(&max).0, runs_of(&max)), (Outcome::MaxMissed, vec!["s".to_owned()]));
}

#[test]
fn strapped_claims_need_two() {
    let mut session = with_runs(vec![at("r1", 1.0, Mode::Certified, 1_020.0)]);
    session.claims.push(claim("c2", Wiring::Strapped { amplifiers: 2 }, 2.0, 2_000.0));
    let judged = judge(&session);
    assert_eq!((judged.claims[1].outcome, judged.claims[1].basis), (Outcome::NotTested, Some(ProofBasis::NeedsTwo)));
    assert_eq!((judged.overall, judged.claims_in_use, judged.provisional), (Some(Overall::Pukka), 1, false));
    assert_eq!(session.headline().unwrap().id, "c1");
    let mut strapped = at("r2", 2.0, Mode::Certified, 1_900.0);
    strapped.wiring = Wiring::Strapped { amplifiers: 2 };
    session.runs.push(strapped);
    let judged = judge(&session);
    assert_eq!((judged.claims[1].outcome, judged.overall, judged.claims_in_use), (Outcome::Short, Some(Overall::NearEnough), 2));
}

#[test]
fn below_the_floor_is_beyond_its_rating() {
    let mut session = with_runs(vec![at("r1", 2.0, Mode::Certified, 700.0), at("r2", 0.5, Mode::Certified, 1_600.0)]);
    session.claims = vec![claim("c1", MONO, 2.0, 690.0), claim("m", MONO, 0.5, 1_500.0)];
    (session.claims[1].kind, session.claims[1].load_ohm, session.claims[1].wiring) = (ClaimKind::Max, None, None);
    assert_eq!(session.amplifier.floors[0].load_ohm.get(), 1.0);
    let judged = judge(&session);
    assert_eq!((judged.claims[1].outcome, judged.claims[1].runs.as_slice()), (Outcome::MaxMissed, &["r1".to_owned()][..]));
    session.claims = vec![claim("c3", MONO, 1.0, 900.0)];
    assert_eq!(outcome(&session), (Outcome::NotTested, None), "nor is anything interpolated from it");
}

#[test]
fn a_mode_that_nobody_stated_bounds_from_above_and_proves_nothing() {
    let mut run = at("r1", 1.0, Mode::Certified, 1_500.0);
    run.mode_stated = false;
    let mut session = with_runs(vec![run]);
    assert_eq!(outcome(&session), (Outcome::NotTested, None));
    session.runs[0].outputs[0].power_w = Watts::new(600.0).ok();
    assert_eq!(outcome(&session), (Outcome::FarShort, Some(ProofBasis::UpperBound)));
}

#[test]
fn without_any_claim_there_is_no_word_over_it() {
    let mut session = with_runs(vec![at("r1", 1.0, Mode::Certified, 900.0)]);
    session.claims.clear();
    let judged = judge(&session);
    assert_eq!((judged.overall, judged.tested, judged.claims_in_use, judged.provisional), (None, 0, 0, false));
    assert!(!judged.checks.iter().any(|check| check.code == CheckCode::NoSupplyVolts));
}
