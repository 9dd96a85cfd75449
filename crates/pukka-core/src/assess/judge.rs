//! The judgement, step by step, as the open session format describes it.

use crate::assess::checks::table::{Disputes, rule};
use crate::assess::checks::{Check, Severity, check_readings_of, check_uses};
use crate::assess::loads::{Load, loads};
use crate::assess::outcome::{Assumption, Bound, ClaimVerdict, Judgement, Outcome, ProofBasis, RunVerdict};
use crate::assess::overall;
use crate::assess::sentence::{self, Statement};
use crate::assess::tell::{Tell, tell};
use crate::evidence::band::{Sample, WINDOW_V, band};
use crate::evidence::choose::{Choice, Usable, best_for_max, choose_bound, choose_for_claim, interpolate, waiting_for};
use crate::evidence::figures::numbers;
use crate::kernel::units::{PowerDecibels, Watts, at_least, more_than};
use crate::record::amplifier::SupplyType;
use crate::record::claims::{Claim, ClaimKind, Per};
use crate::record::session::{CheckCode, Mode, Run, Session};

/// Every check, and what became of every claim: some checks ask what a run is used for.
pub(crate) struct Assessment<'a> {
    /// The runs that may be used.
    pub usable: Vec<Usable<'a>>,
    /// Every check that fired.
    pub checks: Vec<Check>,
    /// Every claim.
    pub claims: Vec<ClaimVerdict>,
}

/// Checks a session and judges its claims.
pub(crate) fn assess(session: &Session) -> Assessment<'_> {
    assess_of(session, |_| true)
}

/// Likewise, for whoever wants the checks of some runs only: those that cost a fit each are made for no others.
pub(crate) fn assess_of(session: &Session, wanted: impl Fn(&Run) -> bool + Copy) -> Assessment<'_> {
    let (mut checks, usable) = check_readings_of(session, wanted);
    let mut claims: Vec<ClaimVerdict> = session.claims.iter().map(|claim| judge_claim(session, &usable, &checks, claim)).collect();
    for verdict in &mut claims {
        verdict.disputed_by = disputes(&checks, verdict);
    }
    checks.extend(check_uses(session, &claims, wanted));
    Assessment { usable, checks, claims }
}

/// Open doubts that dispute the power an outcome stands on.
fn disputes(checks: &[Check], verdict: &ClaimVerdict) -> Vec<CheckCode> {
    let open = checks.iter().filter(|check| !check.settled && check.runs.iter().any(|run| verdict.runs.contains(run)));
    let mut codes: Vec<CheckCode> = open.filter(|check| rule(check.code).disputes == Disputes::Power).map(|check| check.code).collect();
    codes.sort_unstable();
    codes.dedup();
    codes
}

/// Checks every run that stands.
#[must_use]
pub fn check_session(session: &Session) -> Vec<Check> {
    assess(session).checks
}

/// Checks one run among all the others: one that is logged, or one that is still being typed.
#[must_use]
pub fn check_run(session: &Session, run: &Run) -> Vec<Check> {
    let with_it;
    let session = if session.run(&run.id).is_some() {
        session
    } else {
        let mut copy = session.clone();
        copy.runs.push(run.clone());
        with_it = copy;
        &with_it
    };
    let of_it = |other: &Run| other.id == run.id;
    assess_of(session, of_it).checks.into_iter().filter(|check| check.runs.contains(&run.id)).collect()
}

/// A judgement, and what its paragraph was written from.
pub(crate) struct JudgementParts<'a> {
    pub judgement: Judgement,
    pub usable: Vec<Usable<'a>>,
    pub loads: Vec<Load<'a>>,
    pub told: Vec<Tell>,
    pub said: Statement,
    pub to_know: String,
}

/// Judges a session.
#[must_use]
pub fn judge(session: &Session) -> Judgement {
    judged(session).judgement
}

/// Likewise, for whoever shows more of it than the judgement.
pub(crate) fn judged(session: &Session) -> JudgementParts<'_> {
    let Assessment { usable, checks, claims } = assess(session);
    let runs = session.runs.iter().map(|run| run_verdict(session, run, &claims)).collect();
    let unsettled = checks.iter().any(|check| check.severity == Severity::Stop && !check.settled);
    let standing = overall::overall(session, &claims, unsettled);
    let mut judgement = Judgement {
        runs,
        claims,
        checks,
        overall: standing.overall,
        tested: standing.tested,
        claims_in_use: standing.in_use,
        provisional: standing.provisional,
        sentence: String::new(),
    };
    let loads = loads(session, &usable);
    let told = tell(session, &loads, &judgement.checks);
    let (said, to_know) = (sentence::state(session, &judgement, &usable), sentence::to_know(&told));
    judgement.sentence = said.text(&to_know);
    JudgementParts { judgement, usable, loads, told, said, to_know }
}

fn run_verdict(session: &Session, run: &Run, claims: &[ClaimVerdict]) -> RunVerdict {
    let numbers = numbers(session, run);
    let total = numbers.total.as_deref().ok();
    RunVerdict {
        id: run.id.clone(),
        total_w: total.map(|total| total.total_w),
        best_w: total.and_then(|total| total.best_w),
        per_output_w: total.map(|total| total.outputs.iter().map(|output| output.power_w).collect()).unwrap_or_default(),
        bound: total.filter(|total| total.at_least).map(|_| Bound::Lower),
        input_w: numbers.input_w.map(Watts::get),
        efficiency_ratio: numbers.efficiency,
        heat_w: numbers.heat_w,
        sag_v: numbers.sag_v,
        balance_db: total.and_then(crate::evidence::Total::balance),
        expanded_uncertainty_w: total.map(crate::evidence::Total::expanded_w),
        used_for: claims.iter().filter(|claim| claim.runs.contains(&run.id)).map(|claim| claim.id.clone()).collect(),
    }
}

fn judge_claim(session: &Session, usable: &[Usable], checks: &[Check], claim: &Claim) -> ClaimVerdict {
    if !claim.used {
        return ClaimVerdict::open(claim, Outcome::NotUsed);
    }
    if session.needs_two(claim) {
        return ClaimVerdict { basis: Some(ProofBasis::NeedsTwo), ..ClaimVerdict::open(claim, Outcome::NotTested) };
    }
    let Some(claim_w) = claim.total_w() else {
        return ClaimVerdict::open(claim, Outcome::NotComparable);
    };
    if claim.kind == ClaimKind::Max {
        return judge_max(usable, claim, claim_w);
    }
    if claim.place().is_none() {
        return ClaimVerdict::open(claim, Outcome::NotComparable);
    }
    let mut verdict = match standing_for(session, usable, checks, claim) {
        Standing::Run(certified) => judge_certified(session, usable, claim, claim_w, &certified),
        Standing::Waiting(runs) => ClaimVerdict {
            basis: Some(ProofBasis::OwnRunUnsettled),
            runs: runs.into_iter().map(|run| run.id.clone()).collect(),
            ..ClaimVerdict::open(claim, Outcome::NotTested)
        },
        Standing::Nothing => judge_without_certified(session, usable, claim, claim_w),
    };
    verdict.assumptions.extend(claim_assumptions(session, claim));
    verdict
}

/// Knowledge of clean power for a claim.
pub(crate) enum Standing<'a> {
    /// A run of its own, an equivalent, or between two loads.
    Run(Choice<'a>),
    /// Own runs wait for a reason, a settled stop or a clean reading: they are never passed over.
    Waiting(Vec<&'a Run>),
    /// No certified run that concerns it.
    Nothing,
}

/// Steps 3 and 4: the certified run of a claim.
pub(crate) fn standing_for<'a>(session: &'a Session, usable: &[Usable<'a>], checks: &[Check], claim: &Claim) -> Standing<'a> {
    if let Some(own) = choose_for_claim(session, usable, claim, Mode::Certified) {
        return Standing::Run(own);
    }
    let waiting = waiting_for(session, checks, claim);
    if !waiting.is_empty() {
        return Standing::Waiting(waiting);
    }
    interpolate(session, usable, claim).map_or(Standing::Nothing, Standing::Run)
}

/// Conditions that a claim leaves out and the judgement had to put in.
fn claim_assumptions(session: &Session, claim: &Claim) -> Vec<Assumption> {
    let limit = session.policy.thd_limit_ratio.get();
    let mut assumptions = Vec::new();
    if claim.supply_v.is_none() {
        assumptions.push(Assumption::ClaimVoltage);
    }
    if claim.kind == ClaimKind::Unstated {
        assumptions.push(Assumption::UnstatedAsRms);
    }
    if claim.thd_limit_ratio.is_some_and(|own| (own.get() - limit).abs() > crate::kernel::units::SLACK) {
        assumptions.push(Assumption::RunsDistortionLimit);
    }
    assumptions
}

/// Steps 5 to 7.
fn judge_certified(session: &Session, usable: &[Usable], claim: &Claim, claim_w: f64, certified: &Choice) -> ClaimVerdict {
    let sample = certified.sample;
    let reference_v = claim.reference_v();
    let band = band(session, sample, reference_v);
    let mut verdict = ClaimVerdict {
        runs: certified.runs.iter().map(|run| run.id.clone()).collect(),
        as_read_ratio: Some(sample.power_w / claim_w),
        at_reference_w: Some([band.low_w, band.high_w]),
        shortfall_db: PowerDecibels::of(sample.power_w / claim_w),
        high_ratio: Some(band.high_w / claim_w),
        equivalent: certified.equivalent,
        interpolated: certified.interpolated,
        ..ClaimVerdict::open(claim, Outcome::NotTested)
    };
    verdict.assumptions.extend(supply_assumption(sample));
    if at_least(band.low_w, claim_w) {
        verdict.outcome = if at_least(band.low_w - band.low_expanded_w, 1.05 * claim_w) { Outcome::Beats } else { Outcome::Holds };
        let not_above = at_least(reference_v, sample.supply.span(reference_v).1);
        let regulated = session.amplifier.supply_type == SupplyType::Regulated && !measures(sample, reference_v);
        let as_read = at_least(sample.power_w, claim_w) && (not_above || regulated);
        verdict.basis = Some(if as_read { ProofBasis::AsRead } else { ProofBasis::AtReference });
    } else if at_least(band.low_w + band.low_expanded_w, claim_w) {
        verdict.outcome = Outcome::HoldsWithin;
        verdict.basis = Some(ProofBasis::Uncertainty);
    } else if certified.at_least {
        verdict.basis = Some(ProofBasis::LowerBound);
    } else if at_least(band.high_w + band.high_expanded_w, claim_w) {
        match sample.end_v() {
            None => {
                verdict.outcome = Outcome::CannotTell;
                verdict.basis = Some(ProofBasis::NoSupplyVolts);
            }
            Some(v) if more_than(reference_v - WINDOW_V, v) => verdict.outcome = Outcome::BenchLimited,
            Some(v) if more_than(v, reference_v + WINDOW_V) => verdict.outcome = Outcome::TestedHigh,
            _ => {
                verdict.outcome = Outcome::CannotTell;
                verdict.basis = Some(ProofBasis::SupplyTypeUnknown);
            }
        }
    } else {
        fails(session, usable, claim, claim_w, band.high_w, &mut verdict);
    }
    verdict
}

/// Assumption made for the supply.
fn supply_assumption(sample: Sample) -> Option<Assumption> {
    match sample.end_v() {
        None => Some(Assumption::NoSupplyVolts),
        Some(_) => sample.supply.is_derived().then_some(Assumption::VoltsDerived),
    }
}

/// Whether an exponent that runs measured is what brings a power to a voltage.
fn measures(sample: Sample, reference_v: f64) -> bool {
    sample.measured.is_some_and(|measured| measured.reaches(reference_v))
}

/// Step 7: which way it fails.
fn fails(session: &Session, usable: &[Usable], claim: &Claim, claim_w: f64, high_w: f64, verdict: &mut ClaimVerdict) {
    let reached = |mode: Mode| {
        choose_for_claim(session, usable, claim, mode)
            .filter(|chosen| at_least(band(session, chosen.sample, claim.reference_v()).low_w, claim_w))
    };
    let gets_there =
        reached(Mode::Clipping).map(|c| (Outcome::OnlyClipping, c)).or_else(|| reached(Mode::Dynamic).map(|c| (Outcome::OnlyDynamic, c)));
    match gets_there {
        Some((outcome, chosen)) => {
            verdict.outcome = outcome;
            verdict.equivalent |= chosen.equivalent;
            for run in chosen.runs {
                if !verdict.runs.contains(&run.id) {
                    verdict.runs.push(run.id.clone());
                }
            }
        }
        None => verdict.outcome = if at_least(high_w / claim_w, 0.70) { Outcome::Short } else { Outcome::FarShort },
    }
    let several = claim.wiring.is_some_and(|wiring| wiring.outputs() > 1);
    verdict.fits_as_total = claim.per == Per::Output
        && several
        && claim.power_w.is_some_and(|one| {
            let ratio = high_w / one.get();
            at_least(ratio, 0.9) && at_least(1.3, ratio)
        });
}

/// Step 8: certified power is no more than what it makes clipping.
fn judge_without_certified(session: &Session, usable: &[Usable], claim: &Claim, claim_w: f64) -> ClaimVerdict {
    let open = ClaimVerdict::open(claim, Outcome::NotTested);
    let Some(clipping) = choose_bound(session, usable, claim) else {
        return open;
    };
    let band = band(session, clipping.sample, claim.reference_v());
    // One that was cut short might have given more: it bounds nothing from above.
    if clipping.at_least || at_least(band.high_w + band.high_expanded_w, claim_w) {
        return open;
    }
    let mut verdict = ClaimVerdict {
        basis: Some(ProofBasis::UpperBound),
        runs: clipping.runs.iter().map(|run| run.id.clone()).collect(),
        as_read_ratio: Some(clipping.sample.power_w / claim_w),
        shortfall_db: PowerDecibels::of(clipping.sample.power_w / claim_w),
        high_ratio: Some(band.high_w / claim_w),
        equivalent: clipping.equivalent,
        ..open
    };
    verdict.assumptions.extend(supply_assumption(clipping.sample));
    fails(session, usable, claim, claim_w, band.high_w, &mut verdict);
    verdict
}

/// Step 9.
fn judge_max(usable: &[Usable], claim: &Claim, claim_w: f64) -> ClaimVerdict {
    let Some((best, equivalent)) = best_for_max(usable.iter(), claim) else {
        return ClaimVerdict::open(claim, Outcome::NotTested);
    };
    let ratio = best.total.total_w / claim_w;
    let met = at_least(ratio, 1.0);
    // A miss takes one run at least that was not cut short.
    if !met && best_for_max(usable.iter().filter(|u| !u.run.cut_short()), claim).is_none() {
        return ClaimVerdict::open(claim, Outcome::NotTested);
    }
    ClaimVerdict {
        runs: vec![best.run.id.clone()],
        as_read_ratio: Some(ratio),
        shortfall_db: PowerDecibels::of(ratio),
        high_ratio: Some(ratio),
        equivalent,
        ..ClaimVerdict::open(claim, if met { Outcome::MaxMet } else { Outcome::MaxMissed })
    }
}

#[cfg(test)]
#[path = "judge_tests.rs"]
mod tests;

#[cfg(test)]
#[path = "unsettled_tests.rs"]
mod unsettled;
