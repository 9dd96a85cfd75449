//! Steps 1 and 3: which runs are usable, and which of them speak for a claim in a mode.

use crate::evidence::band::{MeasuredExponent, Sample};
use crate::evidence::check::{Check, Severity};
use crate::evidence::power::Total;
use crate::evidence::total;
use crate::evidence::uncertainty::quadrature;
use crate::kernel::units::{Ohms, SLACK, Volts, at_least};
use crate::kernel::wiring::{Relation, Wiring, relation, same_load};
use crate::record::claims::Claim;
use crate::record::session::{Mode, Repeats, Run, Session};

/// How far apart two runs have to be to measure an exponent.
const APART_V: f64 = 1.0;
/// How much further from the claim's voltage than the nearest run another may be.
const SAME_VOLTAGE_V: f64 = 0.5;

/// A run that may be used, with its total.
#[derive(Debug, Clone)]
pub struct Usable<'a> {
    /// The run.
    pub run: &'a Run,
    /// Its total power.
    pub total: Total,
}

impl Usable<'_> {
    fn end_v(&self) -> Option<f64> {
        self.total.end_v.map(Volts::get)
    }
}

/// Step 1: not invalid, not superseded, under no unsettled stop, not ungated, with a total.
pub fn usable<'a>(session: &'a Session, checks: &[Check]) -> Vec<Usable<'a>> {
    let stopped = |run: &Run| checks.iter().any(|check| check.severity == Severity::Stop && !check.settled && check.runs.contains(&run.id));
    session
        .standing_runs()
        .filter(|run| !run.ungated && !stopped(run))
        .filter_map(|run| total(session, run).ok().map(|total| Usable { run, total }))
        .collect()
}

/// The run, or the mean of several, that speaks for a claim in a mode.
#[derive(Debug, Clone)]
pub struct Choice<'a> {
    /// The runs it is made of.
    pub runs: Vec<&'a Run>,
    /// What they say.
    pub sample: Sample,
    /// Wired otherwise, but asking the same of every channel.
    pub equivalent: bool,
    /// They say only "at least so much".
    pub at_least: bool,
    /// Made between two loads.
    pub interpolated: bool,
}

/// Which run is looked for.
#[derive(Debug, Clone)]
pub struct Target<'a> {
    /// Wiring and nominal load.
    pub place: (Wiring, Ohms),
    /// The amplifier's switch.
    pub setting: Option<&'a str>,
    /// Test frequency, hertz: the nearest tested one is taken.
    pub tone_hz: f64,
    /// Supply voltage to be near; the voltage step is left out without one.
    pub reference_v: Option<f64>,
}

/// Step 3: the run of a claim, in a mode.
pub fn choose_for_claim<'a>(session: &'a Session, usable: &[Usable<'a>], claim: &Claim, mode: Mode) -> Option<Choice<'a>> {
    let wanted = Target {
        place: claim.place()?,
        setting: claim.setting.as_deref(),
        tone_hz: tone_of(session, claim),
        reference_v: Some(claim.reference_v()),
    };
    choose(session, usable, &wanted, mode)
}

/// The run, or the mean of several, that is looked for: its own wiring and load, else an equivalent.
pub fn choose<'a>(session: &'a Session, usable: &[Usable<'a>], wanted: &Target, mode: Mode) -> Option<Choice<'a>> {
    let related = |how: Relation| -> Vec<&Usable<'a>> {
        usable
            .iter()
            .filter(|u| u.run.mode == mode && u.run.setting.as_deref() == wanted.setting)
            .filter(|u| relation(wanted.place, (u.run.wiring, u.run.load_nominal_ohm)) == Some(how))
            .collect()
    };
    let own = related(Relation::Same);
    let equivalent = own.is_empty();
    let mut candidates = nearest_tone(if equivalent { related(Relation::Equivalent) } else { own }, wanted.tone_hz);
    if let Some(reference_v) = wanted.reference_v {
        candidates = nearest_voltage(candidates, reference_v);
    }
    let mut chosen = pick(session, candidates, equivalent)?;
    chosen.sample.measured = chosen.runs.first().and_then(|run| measured(usable, run));
    Some(chosen)
}

/// The exponent that two certified runs of a run's own place measured, the pair furthest apart.
pub fn measured(usable: &[Usable], like: &Run) -> Option<MeasuredExponent> {
    let mut points: Vec<(&Usable, f64)> = usable.iter().filter(|u| measures(u.run, like)).filter_map(|u| Some((u, u.end_v()?))).collect();
    points.sort_by(|a, b| a.1.total_cmp(&b.1).then_with(|| a.0.run.at.cmp(&b.0.run.at)).then_with(|| a.0.run.id.cmp(&b.0.run.id)));
    let (low, high) = (points.first()?, points.last()?);
    at_least(high.1 - low.1, APART_V).then(|| MeasuredExponent::from((low.0.total.total_w, low.1), (high.0.total.total_w, high.1)))
}

/// The certified runs that measure exponents, stopped or not.
pub struct Exponents<'a>(Vec<Usable<'a>>);

impl<'a> Exponents<'a> {
    /// Those of a session: for whoever asks of every run.
    #[must_use]
    pub fn all(session: &'a Session) -> Self {
        Self::of_those(session, |run| run.mode == Mode::Certified)
    }

    /// Those at the place of one run: no other total is reckoned.
    #[must_use]
    pub fn at(session: &'a Session, like: &Run) -> Self {
        Self::of_those(session, |run| measures(run, like))
    }

    fn of_those(session: &'a Session, wanted: impl Fn(&Run) -> bool) -> Self {
        let there = session.standing_runs().filter(|run| !run.ungated && wanted(run));
        Self(there.filter_map(|run| total(session, run).ok().map(|total| Usable { run, total })).collect())
    }

    /// The exponent of a run's own place.
    #[must_use]
    pub fn of(&self, like: &Run) -> Option<MeasuredExponent> {
        measured(&self.0, like)
    }
}

/// Whether a run may measure the exponent of another's place.
fn measures(run: &Run, like: &Run) -> bool {
    run.mode == Mode::Certified
        && !run.cut_short()
        && run.wiring == like.wiring
        && run.setting == like.setting
        && same_load(run.load_nominal_ohm.get(), like.load_nominal_ohm.get())
        && (run.tone_hz.get() / like.tone_hz.get()).ln().abs() <= SLACK
}

/// Step 4: between the nearest certified loads above and below, log P over log R, V over log R. Nothing is extrapolated.
pub fn interpolate<'a>(session: &'a Session, usable: &[Usable<'a>], claim: &Claim) -> Option<Choice<'a>> {
    let (wiring, load) = claim.place()?;
    let tone_hz = tone_of(session, claim);
    let beside = |u: &&Usable<'a>| u.run.mode == Mode::Certified && u.run.setting == claim.setting && u.run.wiring == wiring;
    let at_tone = nearest_tone(usable.iter().filter(beside).collect(), tone_hz);
    let loads = || at_tone.iter().map(|u| u.run.load_nominal_ohm.get());
    let above = loads().filter(|ohm| *ohm > load.get()).min_by(f64::total_cmp)?;
    let below = loads().filter(|ohm| *ohm < load.get()).max_by(f64::total_cmp)?;
    let at_tone: Vec<Usable<'a>> = at_tone.into_iter().cloned().collect();
    let at = |ohm: f64| {
        let place = (wiring, Ohms::new(ohm).ok()?);
        let wanted = Target { place, setting: claim.setting.as_deref(), tone_hz, reference_v: Some(claim.reference_v()) };
        choose(session, &at_tone, &wanted, Mode::Certified)
    };
    let (high, low) = (at(above)?, at(below)?);
    let part = (load.get() / above).ln() / (below / above).ln();
    let mix = |a: f64, b: f64| a + part * (b - a);
    let (a, b) = (high.sample, low.sample);
    let sample = Sample {
        power_w: mix(a.power_w.ln(), b.power_w.ln()).exp(),
        relative_u: a.relative_u.max(b.relative_u),
        end_v: a.end_v.zip(b.end_v).map(|(a, b)| mix(a, b)),
        measured: None,
    };
    (a.power_w > 0.0 && b.power_w > 0.0).then(|| Choice {
        at_least: high.at_least || low.at_least,
        runs: high.runs.into_iter().chain(low.runs).collect(),
        sample,
        equivalent: false,
        interpolated: true,
    })
}

/// The tone a claim is tested at: its own, else the amplifier's.
pub fn tone_of(session: &Session, claim: &Claim) -> f64 {
    claim.tone_hz.map_or_else(|| session.amplifier.purpose.tone_hz(), |tone| tone.get())
}

/// Runs at the tone wanted, else at the tone nearest to it in log frequency.
fn nearest_tone<'a, 'b>(candidates: Vec<&'b Usable<'a>>, tone_hz: f64) -> Vec<&'b Usable<'a>> {
    let off = |u: &Usable| (u.run.tone_hz.get() / tone_hz).ln().abs();
    let nearest = candidates.iter().map(|u| off(u)).fold(f64::INFINITY, f64::min);
    candidates.into_iter().filter(|u| off(u) <= nearest + SLACK).collect()
}

/// Runs whose supply was about as near the claim's as the nearest; without volts only when none has any.
fn nearest_voltage<'a, 'b>(candidates: Vec<&'b Usable<'a>>, reference_v: f64) -> Vec<&'b Usable<'a>> {
    let off = |u: &Usable| u.end_v().map(|v| (v - reference_v).abs());
    let Some(nearest) = candidates.iter().filter_map(|u| off(u)).min_by(f64::total_cmp) else {
        return candidates;
    };
    candidates.into_iter().filter(|u| off(u).is_some_and(|off| at_least(nearest + SAME_VOLTAGE_V, off))).collect()
}

/// Repeats, by the policy. The earliest breaks a tie, then the id, so that the order of the file never matters. One that was cut
/// short speaks only where there is no whole one.
pub fn pick<'a>(session: &Session, mut candidates: Vec<&Usable<'a>>, equivalent: bool) -> Option<Choice<'a>> {
    if candidates.iter().any(|u| !u.run.cut_short()) {
        candidates.retain(|u| !u.run.cut_short());
    }
    candidates.sort_by(|a, b| a.run.at.cmp(&b.run.at).then_with(|| a.run.id.cmp(&b.run.id)));
    let one = |u: &&Usable<'a>| Choice {
        runs: vec![u.run],
        sample: Sample::of(&u.total),
        equivalent,
        at_least: u.total.at_least,
        interpolated: false,
    };
    match session.policy.repeats {
        Repeats::First => candidates.first().map(one),
        Repeats::Best => {
            let best = candidates.iter().map(|u| u.total.total_w).max_by(f64::total_cmp)?;
            candidates.iter().find(|u| u.total.total_w == best).map(one)
        }
        Repeats::Mean => mean(&candidates, equivalent),
    }
}

/// Mean of P and of V; the largest relative U, with 2·s/√n in quadrature from three repeats on.
fn mean<'a>(candidates: &[&Usable<'a>], equivalent: bool) -> Option<Choice<'a>> {
    if candidates.is_empty() {
        return None;
    }
    let n = candidates.len() as f64;
    let power_w = candidates.iter().map(|u| u.total.total_w).sum::<f64>() / n;
    let volts: Vec<f64> = candidates.iter().filter_map(|u| u.end_v()).collect();
    let largest = candidates.iter().map(|u| u.total.relative_u()).fold(0.0, f64::max);
    let spread = if candidates.len() >= 3 && power_w > 0.0 {
        let squares: f64 = candidates.iter().map(|u| (u.total.total_w - power_w).powi(2)).sum();
        (squares / (n - 1.0)).sqrt() / n.sqrt() / power_w
    } else {
        0.0
    };
    Some(Choice {
        runs: candidates.iter().map(|u| u.run).collect(),
        sample: Sample {
            power_w,
            relative_u: quadrature([largest, spread]),
            end_v: (!volts.is_empty()).then(|| volts.iter().sum::<f64>() / volts.len() as f64),
            measured: None,
        },
        equivalent,
        at_least: candidates.iter().any(|u| u.total.at_least),
        interpolated: false,
    })
}

/// The best power in any mode that a `max` claim can be judged by.
pub fn best_for_max<'a: 'b, 'b>(usable: impl Iterator<Item = &'b Usable<'a>>, claim: &Claim) -> Option<(&'b Usable<'a>, bool)> {
    let bearing = |u: &&Usable<'a>| -> Option<bool> {
        if u.run.setting != claim.setting {
            return None;
        }
        match (claim.wiring, claim.load_ohm) {
            (Some(wiring), Some(load)) => {
                relation((wiring, load), (u.run.wiring, u.run.load_nominal_ohm)).map(|found| found == Relation::Equivalent)
            }
            (Some(wiring), None) if wiring == u.run.wiring => Some(false),
            // Whatever the load was: a pair bridged into 2·R asks of its channels what each into R would.
            (Some(wiring), None) => {
                wiring.equivalent(u.run.load_nominal_ohm.get()).and_then(|(like, _)| (like == u.run.wiring).then_some(true))
            }
            (None, Some(load)) => same_load(load.get(), u.run.load_nominal_ohm.get()).then_some(false),
            (None, None) => Some(false),
        }
    };
    let found: Vec<(&Usable<'a>, bool)> = usable.filter_map(|u| bearing(&u).map(|equivalent| (u, equivalent))).collect();
    let best = found.iter().map(|(u, _)| u.total.total_w).max_by(f64::total_cmp)?;
    found.into_iter().filter(|(u, _)| u.total.total_w == best).min_by(|a, b| a.0.run.id.cmp(&b.0.run.id))
}

/// Of the runs of one place, the one the policy uses; of a mean, the earliest that went into it.
#[must_use]
pub fn used_run<'a>(session: &'a Session, runs: &[&'a Run], checks: &[Check]) -> Option<&'a Run> {
    let ids: Vec<&str> = runs.iter().map(|run| run.id.as_str()).collect();
    let usable: Vec<Usable<'a>> = usable(session, checks).into_iter().filter(|u| ids.contains(&u.run.id.as_str())).collect();
    pick(session, usable.iter().collect(), false)?.runs.first().copied()
}
