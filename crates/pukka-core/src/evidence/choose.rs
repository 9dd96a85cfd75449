//! Steps 1 and 3: which runs are usable, and which of them speak for a claim in a mode.

use std::collections::HashSet;
use std::sync::Arc;

use crate::evidence::band::{MeasuredExponent, Sample};
use crate::evidence::check::{Check, Severity};
use crate::evidence::floor::is_run_below;
use crate::evidence::power::Total;
use crate::evidence::supply::Supply;
use crate::evidence::total;
use crate::evidence::uncertainty::quadrature;
use crate::kernel::units::{Ohms, SLACK, Volts, at_least};
use crate::kernel::wiring::{Relation, Wiring, relation, same_load};
use crate::record::claims::{Claim, USUAL_SUPPLY_V};
use crate::record::session::{Burst, Mode, Repeats, Run, Session};

/// Least distance between two runs that measure an exponent.
const APART_V: f64 = 1.0;
/// Most that another run may lie further from the claim's voltage than the nearest one.
const SAME_VOLTAGE_V: f64 = 0.5;

/// A run that may be used, with its total.
#[derive(Debug, Clone)]
pub struct Usable<'a> {
    /// The run.
    pub run: &'a Run,
    /// Total power.
    pub total: Arc<Total>,
    /// Made below the floor: beyond the amplifier's rating.
    pub below_floor: bool,
}

impl<'a> Usable<'a> {
    /// A run with its total, when it has one.
    #[must_use]
    pub fn of(session: &'a Session, run: &'a Run) -> Option<Self> {
        total(session, run).ok().map(|total| Self::with(session, run, Arc::new(total)))
    }

    /// Likewise, where the total is known.
    #[must_use]
    pub fn with(session: &'a Session, run: &'a Run, total: Arc<Total>) -> Self {
        Self { below_floor: is_run_below(session, run), run, total }
    }

    fn end_v(&self) -> Option<f64> {
        self.total.end_v.map(Volts::get)
    }
}

/// Step 1: not invalid, not superseded, under no unsettled stop, not ungated, with a total.
pub fn usable<'a>(session: &'a Session, checks: &[Check]) -> Vec<Usable<'a>> {
    usable_of(session.standing_runs().filter_map(|run| Usable::of(session, run)), checks)
}

/// Likewise, of the runs that stand and have a total.
pub fn usable_of<'a>(standing: impl Iterator<Item = Usable<'a>>, checks: &[Check]) -> Vec<Usable<'a>> {
    let stopped = stopped(checks);
    standing.filter(|usable| is_free(usable.run, &stopped)).collect()
}

/// Ids of the runs that an unsettled stop names.
fn stopped(checks: &[Check]) -> HashSet<&str> {
    let open = checks.iter().filter(|check| check.severity == Severity::Stop && !check.settled);
    open.flat_map(|check| &check.runs).map(String::as_str).collect()
}

fn is_free(run: &Run, stopped: &HashSet<&str>) -> bool {
    !run.ungated && !stopped.contains(run.id.as_str())
}

/// Whether a run is of a mode, and was said to be.
fn is_of(run: &Run, mode: Mode) -> bool {
    run.mode == mode && run.mode_stated
}

/// The run, or the mean of several, that speaks for a claim in a mode.
#[derive(Debug, Clone)]
pub struct Choice<'a> {
    /// The runs it is made of.
    pub runs: Vec<&'a Run>,
    /// Figures that speak.
    pub sample: Sample,
    /// Wired otherwise, but asking the same of every channel.
    pub equivalent: bool,
    /// They say only "at least so much".
    pub at_least: bool,
    /// Made between two loads.
    pub interpolated: bool,
}

/// At which tone a run is looked for.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Tone {
    /// At this one and no other: the claim names it. Hertz.
    Only(f64),
    /// At the tested one nearest to this in log frequency. Hertz.
    Nearest(f64),
}

impl Tone {
    /// The tone of a claim: its own, else the one nearest to the amplifier's.
    #[must_use]
    pub fn of(session: &Session, claim: &Claim) -> Self {
        claim.tone_hz.map_or_else(|| Self::Nearest(session.amplifier.purpose.tone_hz()), |tone| Self::Only(tone.get()))
    }

    /// Hertz.
    #[must_use]
    pub const fn hz(self) -> f64 {
        match self {
            Self::Only(hz) | Self::Nearest(hz) => hz,
        }
    }

    /// Distance of a run from it, in log frequency.
    fn off(self, run: &Run) -> f64 {
        (run.tone_hz.get() / self.hz()).ln().abs()
    }

    /// Whether a run at this tone may speak where only this one will do.
    #[must_use]
    pub fn admits(self, run: &Run) -> bool {
        matches!(self, Self::Nearest(_)) || self.off(run) <= SLACK
    }

    /// Of these, the runs at it, or at the tone nearest to it.
    fn of_those<'a, 'b>(self, candidates: Vec<&'b Usable<'a>>) -> Vec<&'b Usable<'a>> {
        let nearest = match self {
            Self::Only(_) => 0.0,
            Self::Nearest(_) => candidates.iter().map(|u| self.off(u.run)).fold(f64::INFINITY, f64::min),
        };
        candidates.into_iter().filter(|u| self.off(u.run) <= nearest + SLACK).collect()
    }
}

/// The run that is looked for.
#[derive(Debug, Clone)]
pub struct Target<'a> {
    /// Wiring and nominal load.
    pub place: (Wiring, Ohms),
    /// The amplifier's switch.
    pub setting: Option<&'a str>,
    /// Test frequency.
    pub tone: Tone,
    /// Supply voltage to be near; the voltage step is left out without one.
    pub reference_v: Option<f64>,
}

impl<'a> Target<'a> {
    /// Target that a claim looks for; nothing where it names no wiring or no load.
    #[must_use]
    pub fn of(session: &Session, claim: &'a Claim) -> Option<Self> {
        Some(Self {
            place: claim.place()?,
            setting: claim.setting.as_deref(),
            tone: Tone::of(session, claim),
            reference_v: Some(claim.reference_v()),
        })
    }
}

/// Step 3: the run of a claim, in a mode.
pub fn choose_for_claim<'a>(session: &'a Session, usable: &[Usable<'a>], claim: &Claim, mode: Mode) -> Option<Choice<'a>> {
    choose(session, usable, &Target::of(session, claim)?, mode)
}

/// Step 8: the clipping run of a claim, or one of which nobody said whether it was clean: it bounds all the same.
pub fn choose_bound<'a>(session: &'a Session, usable: &[Usable<'a>], claim: &Claim) -> Option<Choice<'a>> {
    choose_among(session, usable, &Target::of(session, claim)?, |run| is_of(run, Mode::Clipping) || !run.mode_stated, speaking_bursts)
}

/// The run of a claim in one kind of burst, whether that kind speaks for dynamic power or not.
pub fn choose_burst<'a>(session: &'a Session, usable: &[Usable<'a>], claim: &Claim, kind: Burst) -> Option<Choice<'a>> {
    let of_kind = |run: &Run| is_of(run, Mode::Dynamic) && run.burst() == Some(kind);
    choose_among(session, usable, &Target::of(session, claim)?, of_kind, |all| all)
}

/// Kinds of burst that were run at a claim's own place or an equivalent one.
pub fn burst_kinds(session: &Session, usable: &[Usable], claim: &Claim) -> Vec<Burst> {
    let Some(wanted) = Target::of(session, claim) else { return Vec::new() };
    let there = usable.iter().map(|u| u.run).filter(|run| {
        run.setting.as_deref() == wanted.setting
            && relation(wanted.place, (run.wiring, run.load_nominal_ohm)).is_some()
            && wanted.tone.admits(run)
    });
    let mut kinds: Vec<Burst> = there.filter_map(Run::burst).collect();
    kinds.sort_unstable();
    kinds.dedup();
    kinds
}

/// The run, or the mean of several, that is looked for: its own wiring and load, else an equivalent.
pub fn choose<'a>(session: &'a Session, usable: &[Usable<'a>], wanted: &Target, mode: Mode) -> Option<Choice<'a>> {
    choose_among(session, usable, wanted, |run| is_of(run, mode), speaking_bursts)
}

fn choose_among<'a>(
    session: &'a Session,
    usable: &[Usable<'a>],
    wanted: &Target,
    of_mode: impl Fn(&Run) -> bool,
    bursts: impl for<'b> Fn(Vec<&'b Usable<'a>>) -> Vec<&'b Usable<'a>>,
) -> Option<Choice<'a>> {
    let related = |how: Relation| -> Vec<&Usable<'a>> {
        let there = usable
            .iter()
            .filter(|u| of_mode(u.run) && u.run.setting.as_deref() == wanted.setting)
            .filter(|u| relation(wanted.place, (u.run.wiring, u.run.load_nominal_ohm)) == Some(how));
        bursts(wanted.tone.of_those(there.collect()))
    };
    let own = related(Relation::Same);
    let equivalent = own.is_empty();
    let mut candidates = if equivalent { related(Relation::Equivalent) } else { own };
    if let Some(reference_v) = wanted.reference_v {
        candidates = nearest_voltage(candidates, reference_v);
    }
    let mut chosen = pick(session, candidates, equivalent)?;
    chosen.sample.measured = chosen.runs.first().and_then(|run| measured(usable, run));
    Some(chosen)
}

/// Of bursts, those of the kind that speaks for dynamic power; everything that is none.
fn speaking_bursts<'a, 'b>(candidates: Vec<&'b Usable<'a>>) -> Vec<&'b Usable<'a>> {
    let speaking = Burst::speaking(candidates.iter().filter_map(|u| u.run.burst()));
    candidates.into_iter().filter(|u| u.run.burst().is_none() || u.run.burst() == speaking).collect()
}

/// The exponent that two certified runs of a run's own place measured, the pair furthest apart.
pub fn measured(usable: &[Usable], like: &Run) -> Option<MeasuredExponent> {
    let mut points: Vec<(&Usable, f64)> =
        usable.iter().filter(|u| !u.below_floor && measures(u.run, like)).filter_map(|u| Some((u, u.end_v()?))).collect();
    points.sort_by(|a, b| a.1.total_cmp(&b.1).then_with(|| a.0.run.at.cmp(&b.0.run.at)).then_with(|| a.0.run.id.cmp(&b.0.run.id)));
    let (low, high) = (points.first()?, points.last()?);
    at_least(high.1 - low.1, APART_V).then(|| MeasuredExponent::from((low.0.total.total_w, low.1), (high.0.total.total_w, high.1)))
}

/// The certified runs that measure exponents, stopped or not.
pub struct Exponents<'a>(Vec<Usable<'a>>);

impl<'a> Exponents<'a> {
    /// The ones of a session: for callers that ask of every run.
    #[must_use]
    pub fn all(session: &'a Session) -> Self {
        Self::of_those(session, Run::is_certified)
    }

    /// The ones at the place of one run: no other total is computed.
    #[must_use]
    pub fn at(session: &'a Session, like: &Run) -> Self {
        Self::of_those(session, |run| measures(run, like))
    }

    fn of_those(session: &'a Session, wanted: impl Fn(&Run) -> bool) -> Self {
        let there = session.standing_runs().filter(|run| !run.ungated && wanted(run));
        Self(there.filter_map(|run| Usable::of(session, run)).collect())
    }

    /// The exponent of a run's own place.
    #[must_use]
    pub fn of(&self, like: &Run) -> Option<MeasuredExponent> {
        measured(&self.0, like)
    }
}

/// Whether a run may measure the exponent of another's place.
fn measures(run: &Run, like: &Run) -> bool {
    run.is_certified()
        && !run.cut_short()
        && run.wiring == like.wiring
        && run.setting == like.setting
        && same_load(run.load_nominal_ohm.get(), like.load_nominal_ohm.get())
        && (run.tone_hz.get() / like.tone_hz.get()).ln().abs() <= SLACK
}

/// The runs that wait for a claim: certified, at its own place or an equivalent one, and kept out by a stop, a gate, or because
/// no clean reading can be made of them.
pub fn waiting_for<'a>(session: &'a Session, checks: &[Check], claim: &Claim) -> Vec<&'a Run> {
    let Some(wanted) = Target::of(session, claim) else { return Vec::new() };
    let there = |run: &&Run| {
        is_of(run, Mode::Certified)
            && run.setting.as_deref() == wanted.setting
            && relation(wanted.place, (run.wiring, run.load_nominal_ohm)).is_some()
            && wanted.tone.admits(run)
    };
    let stopped = stopped(checks);
    session.standing_runs().filter(there).filter(|run| !is_free(run, &stopped) || total(session, run).is_err()).collect()
}

/// Step 4: between the nearest certified loads above and below, log P over log R, V over log R. Nothing is extrapolated.
pub fn interpolate<'a>(session: &'a Session, usable: &[Usable<'a>], claim: &Claim) -> Option<Choice<'a>> {
    let wanted = Target::of(session, claim)?;
    let beside = |u: &&Usable<'a>| {
        is_of(u.run, Mode::Certified) && !u.below_floor && u.run.setting.as_deref() == wanted.setting && u.run.wiring == wanted.place.0
    };
    let mut left: Vec<&Usable<'a>> = usable.iter().filter(beside).filter(|u| wanted.tone.admits(u.run)).collect();
    // Of the tones the nearest that has loads on both sides.
    while !left.is_empty() {
        let at_tone = wanted.tone.of_those(left.clone());
        if let Some(found) = bracket(session, &at_tone, &wanted) {
            return Some(found);
        }
        left.retain(|u| !at_tone.iter().any(|tried| tried.run.id == u.run.id));
    }
    None
}

fn bracket<'a>(session: &'a Session, at_tone: &[&Usable<'a>], wanted: &Target) -> Option<Choice<'a>> {
    let load = wanted.place.1;
    let loads = || at_tone.iter().map(|u| u.run.load_nominal_ohm.get());
    let above = loads().filter(|ohm| *ohm > load.get()).min_by(f64::total_cmp)?;
    let below = loads().filter(|ohm| *ohm < load.get()).max_by(f64::total_cmp)?;
    let at_tone: Vec<Usable<'a>> = at_tone.iter().map(|u| (*u).clone()).collect();
    let at =
        |ohm: f64| choose(session, &at_tone, &Target { place: (wanted.place.0, Ohms::new(ohm).ok()?), ..wanted.clone() }, Mode::Certified);
    let (high, low) = (at(above)?, at(below)?);
    let part = (load.get() / above).ln() / (below / above).ln();
    let (a, b) = (high.sample, low.sample);
    let sample = Sample {
        power_w: (a.power_w.ln() + part * (b.power_w.ln() - a.power_w.ln())).exp(),
        relative_u: a.relative_u.max(b.relative_u),
        supply: a.supply.between(b.supply, part, wanted.reference_v.unwrap_or(USUAL_SUPPLY_V)),
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
        sample: Sample::of(session, u.run, &u.total),
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
        Repeats::Mean => mean(session, &candidates, equivalent),
    }
}

/// Mean of P and of V; the largest relative U, with 2·s/√n in quadrature from three repeats on.
fn mean<'a>(session: &Session, candidates: &[&Usable<'a>], equivalent: bool) -> Option<Choice<'a>> {
    if candidates.is_empty() {
        return None;
    }
    let n = candidates.len() as f64;
    let power_w = candidates.iter().map(|u| u.total.total_w).sum::<f64>() / n;
    let supplies: Vec<Supply> = candidates.iter().map(|u| Supply::of(session, u.run, &u.total)).collect();
    let largest = candidates.iter().map(|u| u.total.relative_u()).fold(0.0, f64::max);
    let spread = if candidates.len() >= 3 && power_w > 0.0 {
        let squares: f64 = candidates.iter().map(|u| (u.total.total_w - power_w).powi(2)).sum();
        (squares / (n - 1.0)).sqrt() / n.sqrt() / power_w
    } else {
        0.0
    };
    Some(Choice {
        runs: candidates.iter().map(|u| u.run).collect(),
        sample: Sample { power_w, relative_u: quadrature([largest, spread]), supply: Supply::mean(&supplies), measured: None },
        equivalent,
        at_least: candidates.iter().any(|u| u.total.at_least),
        interpolated: false,
    })
}

/// Step 9: the best power in any mode that a `max` claim can be judged by: at its own wiring and load, else at an equivalent;
/// of bursts those that speak; nothing below the floor.
pub fn best_for_max<'a: 'b, 'b>(usable: impl Iterator<Item = &'b Usable<'a>>, claim: &Claim) -> Option<(&'b Usable<'a>, bool)> {
    let there: Vec<(&Usable<'a>, Relation)> =
        usable.filter(|u| !u.below_floor && u.run.setting == claim.setting).filter_map(|u| Some((u, bearing(claim, u.run)?))).collect();
    let of = |how: Relation| speaking_bursts(there.iter().filter(|(_, found)| *found == how).map(|(u, _)| *u).collect());
    let own = of(Relation::Same);
    let equivalent = own.is_empty();
    let found = if equivalent { of(Relation::Equivalent) } else { own };
    let best = found.iter().map(|u| u.total.total_w).max_by(f64::total_cmp)?;
    found.into_iter().filter(|u| u.total.total_w == best).min_by(|a, b| a.run.id.cmp(&b.run.id)).map(|best| (best, equivalent))
}

/// Relation of a run to a claim that may name a wiring, a load, both or neither: each counts on its own.
fn bearing(claim: &Claim, run: &Run) -> Option<Relation> {
    let same = |yes: bool| yes.then_some(Relation::Same);
    match (claim.wiring, claim.load_ohm) {
        (Some(wiring), Some(load)) => relation((wiring, load), (run.wiring, run.load_nominal_ohm)),
        (Some(wiring), None) if wiring == run.wiring => Some(Relation::Same),
        // Whatever the load was: a pair bridged into 2·R asks of its channels what each into R would.
        (Some(wiring), None) => {
            let (like, _) = wiring.equivalent(run.load_nominal_ohm.get())?;
            (like == run.wiring).then_some(Relation::Equivalent)
        }
        (None, Some(load)) => same(same_load(load.get(), run.load_nominal_ohm.get())),
        (None, None) => Some(Relation::Same),
    }
}

/// Of the usable runs of one place, the one the policy uses; of a mean, the earliest that went into it. Kinds of burst are no repeats of one
/// another: it is of the kind that speaks for dynamic power, else of that with the most cycles.
#[must_use]
pub fn used_run<'a>(session: &'a Session, usable: &[&Usable<'a>]) -> Option<&'a Run> {
    let kinds = || usable.iter().filter_map(|u| u.run.burst());
    let kind = Burst::speaking(kinds()).or_else(|| kinds().max());
    let of_kind = usable.iter().copied().filter(|u| u.run.burst().is_none() || u.run.burst() == kind);
    pick(session, of_kind.collect(), false)?.runs.first().copied()
}
