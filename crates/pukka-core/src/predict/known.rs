//! What is known of an amplifier before a run: its claims, its certified runs so far, its losses, its supply.

use std::sync::Arc;

use crate::evidence::check::Check;
use crate::evidence::choose::{Target, Tone, Usable, choose, usable};
use crate::evidence::power::OutputPower;
use crate::evidence::source_ohm::{self, Source};
use crate::kernel::units::{Ohms, SLACK};
use crate::kernel::wiring::{Relation, Wiring, relation, same_load};
use crate::predict::model::{LossPoint, Point};
use crate::record::amplifier::SupplyType;
use crate::record::claims::{Claim, USUAL_SUPPLY_V};
use crate::record::session::{Incident, Mode, Run, Session};

/// Place where a prediction is wanted.
#[derive(Debug, Clone, Copy)]
pub struct Where<'a> {
    /// Wiring.
    pub wiring: Wiring,
    /// Switch.
    pub setting: Option<&'a str>,
    /// Nominal load.
    pub load_ohm: Ohms,
    /// Tone, hertz.
    pub tone_hz: f64,
}

/// A point of a load line, and where it is from.
#[derive(Debug, Clone)]
pub struct SourcedPoint {
    /// The point, at the reference voltage.
    pub point: Point,
    /// The claim or the run.
    pub id: String,
    /// Nominal load it speaks for.
    pub nominal_ohm: f64,
    /// Expanded uncertainty, relative; 0 of a claim.
    pub relative_u: f64,
}

/// A run of which the draw is known.
#[derive(Debug, Clone)]
pub struct DrawPoint {
    /// The run.
    pub run: String,
    /// Mode.
    pub mode: Mode,
    /// The nominal load it speaks for.
    pub nominal_ohm: f64,
    /// Output over draw.
    pub efficiency: f64,
    /// Losses at that output.
    pub losses: LossPoint,
}

/// Knowledge of a session's amplifier.
pub struct Prior<'a> {
    session: &'a Session,
    usable: Vec<Usable<'a>>,
    /// Supply.
    pub source: Option<Source>,
    /// The most peak amps an output has been seen to survive.
    pub proven_peak_a: Option<f64>,
}

impl<'a> Prior<'a> {
    /// Gathers it; `checks` keep runs that cannot be true out. A run that was cut short tells nothing of what a whole one will ask:
    /// its losses are mostly those of an amplifier at rest.
    #[must_use]
    pub fn of(session: &'a Session, checks: &[Check]) -> Self {
        Self::of_usable(session, &usable(session, checks))
    }

    /// Likewise, when the runs that may be used were chosen already.
    #[must_use]
    pub fn of_usable(session: &'a Session, usable: &[Usable<'a>]) -> Self {
        let whole = usable.iter().filter(|u| !u.run.incomplete).cloned().collect();
        Self { session, usable: whole, source: source_ohm::source(session), proven_peak_a: proven_peak_a(session, usable) }
    }

    /// Likewise, as if this run had not been made.
    #[must_use]
    pub fn without(&self, run_id: &str) -> Self {
        Self {
            session: self.session,
            usable: self.usable.iter().filter(|u| u.run.id != run_id).cloned().collect(),
            source: source_ohm::source_without(self.session, Some(run_id)),
            proven_peak_a: self.proven_peak_a,
        }
    }

    /// The session.
    #[must_use]
    pub const fn session(&self) -> &'a Session {
        self.session
    }

    /// Exponent of power over supply voltage: 2 unregulated, 0 regulated, 1 (and a wider band) when it is not known.
    #[must_use]
    pub const fn exponent(&self) -> f64 {
        match self.session.amplifier.supply_type {
            SupplyType::Regulated => 0.0,
            SupplyType::Unregulated => 2.0,
            SupplyType::Unknown => 1.0,
        }
    }

    /// The voltage predictions are made for: that of the claim there, else of a claim of the wiring, else 14.4 V.
    #[must_use]
    pub fn reference_v(&self, at: Where) -> f64 {
        let here = self.claim_at(at).map(Claim::reference_v);
        here.or_else(|| self.ratings(at.setting).find(|claim| claim.wiring == Some(at.wiring)).map(Claim::reference_v))
            .unwrap_or(USUAL_SUPPLY_V)
    }

    /// The rating to prove there: its own, else an equivalent's; of several the one with most watts.
    #[must_use]
    pub fn claim_at(&self, at: Where) -> Option<&'a Claim> {
        [Relation::Same, Relation::Equivalent].into_iter().find_map(|wanted| {
            let bearing =
                self.ratings(at.setting).filter(|c| c.place().and_then(|p| relation((at.wiring, at.load_ohm), p)) == Some(wanted));
            bearing.max_by(|a, b| a.total_w().partial_cmp(&b.total_w()).unwrap_or(std::cmp::Ordering::Equal))
        })
    }

    fn ratings(&self, setting: Option<&str>) -> impl Iterator<Item = &'a Claim> {
        self.session.claims.iter().filter(move |c| c.used && c.is_rating() && c.setting.as_deref() == setting && c.total_w().is_some())
    }

    /// Power brought from one supply voltage to another.
    fn brought(&self, power_w: f64, from_v: f64, to_v: f64) -> f64 {
        power_w * (to_v / from_v).powf(self.exponent())
    }

    /// Points from the claims, one a load, highest load first.
    #[must_use]
    pub fn claimed(&self, at: Where) -> Vec<SourcedPoint> {
        let (reference_v, outputs) = (self.reference_v(at), f64::from(at.wiring.outputs()));
        let loads = self.ratings(at.setting).filter_map(|claim| seen_from(at.wiring, claim.place()?));
        distinct(loads)
            .into_iter()
            .filter_map(|load| {
                let load_ohm = Ohms::new(load).ok()?;
                let claim = self.claim_at(Where { load_ohm, ..at })?;
                let output_w = self.brought(claim.total_w()?, claim.reference_v(), reference_v) / outputs;
                let point = Point { load_ohm: load, output_w };
                Some(SourcedPoint { point, id: claim.id.clone(), nominal_ohm: load, relative_u: 0.0 })
            })
            .collect()
    }

    fn certified(&self, at: Where) -> impl Iterator<Item = &Usable<'a>> {
        self.usable.iter().filter(move |u| u.run.is_certified() && u.run.setting.as_deref() == at.setting)
    }

    /// Points from the certified runs, one a load by the policy, at the tone nearest, highest load first.
    #[must_use]
    pub fn run(&self, at: Where) -> Vec<SourcedPoint> {
        let (reference_v, outputs) = (self.reference_v(at), f64::from(at.wiring.outputs()));
        let loads = self.certified(at).filter_map(|u| seen_from(at.wiring, (u.run.wiring, u.run.load_nominal_ohm)));
        distinct(loads)
            .into_iter()
            .filter_map(|load| {
                let place = (at.wiring, Ohms::new(load).ok()?);
                let wanted = Target { place, setting: at.setting, tone: Tone::Nearest(at.tone_hz), reference_v: None };
                // "At least so much" would promise too little draw.
                let chosen = choose(self.session, &self.usable, &wanted, Mode::Certified).filter(|chosen| !chosen.at_least)?;
                let run = chosen.runs.first()?;
                let power_w = chosen.sample.end_v().map_or(chosen.sample.power_w, |v| self.brought(chosen.sample.power_w, v, reference_v));
                // The measured load of a bridged run is twice what it stands for, and the other way about.
                let load_ohm = run.load().get() * load / run.load_nominal_ohm.get();
                let point = Point { load_ohm, output_w: power_w / outputs };
                let relative_u = 2.0 * chosen.sample.relative_u;
                (point.output_w > 0.0).then(|| SourcedPoint { point, id: run.id.clone(), nominal_ohm: load, relative_u })
            })
            .collect()
    }

    /// Steady runs of which the draw is known, certified and clipping alike; equivalent wirings share what is known.
    #[must_use]
    pub fn drawn(&self, at: Where) -> Vec<DrawPoint> {
        let steady = self.usable.iter().filter(|u| u.run.mode != Mode::Dynamic && u.run.setting.as_deref() == at.setting);
        steady
            .filter_map(|u| {
                let nominal_ohm = seen_from(at.wiring, (u.run.wiring, u.run.load_nominal_ohm))?;
                let power_w = u.total.total_w;
                let input_w = match u.total.end_v.zip(u.total.current_a) {
                    Some((volts, amps)) => (volts * amps).get(),
                    None => power_w / u.run.efficiency_read()?.get(),
                };
                let squared_a2 = power_w / (u.run.load().get() * nominal_ohm / u.run.load_nominal_ohm.get());
                let real = power_w > 0.0 && input_w > power_w && input_w.is_finite();
                real.then(|| DrawPoint {
                    run: u.run.id.clone(),
                    mode: u.run.mode,
                    nominal_ohm,
                    efficiency: power_w / input_w,
                    losses: LossPoint { squared_a2, loss_w: input_w - power_w },
                })
            })
            .collect()
    }

    /// Ratio of a mode's power to the clean tone's, measured at the load nearest to this one.
    #[must_use]
    pub fn ratio_to_certified(&self, at: Where, mode: Mode) -> Option<f64> {
        let there = self.usable.iter().filter(|u| u.run.mode == mode && u.run.setting.as_deref() == at.setting);
        let loads = distinct(there.filter_map(|u| seen_from(at.wiring, (u.run.wiring, u.run.load_nominal_ohm))));
        let power_w = |load: f64, mode: Mode| {
            let place = (at.wiring, Ohms::new(load).ok()?);
            let wanted = Target { place, setting: at.setting, tone: Tone::Nearest(at.tone_hz), reference_v: None };
            choose(self.session, &self.usable, &wanted, mode).filter(|chosen| !chosen.at_least).map(|chosen| chosen.sample.power_w)
        };
        let ratios = loads.into_iter().filter_map(|load| {
            let (clean_w, more_w) = (power_w(load, Mode::Certified)?, power_w(load, mode)?);
            (clean_w > 0.0 && more_w > 0.0).then(|| ((load / at.load_ohm.get()).ln().abs(), more_w / clean_w))
        });
        ratios.min_by(|a, b| a.0.total_cmp(&b.0)).map(|(_, ratio)| ratio)
    }

    /// The part of the total that each group of a mixed wiring gives: as its last clean run shared it, else as its claim does, else
    /// as equal volts at every channel would.
    #[must_use]
    pub fn group_shares(&self, at: Where) -> Vec<f64> {
        let Some(groups) = at.wiring.groups() else { return vec![1.0] };
        let run = self.certified(at).filter(|u| u.run.wiring == at.wiring && !u.total.group_w.is_empty()).max_by_key(|u| u.run.at);
        let claimed = || self.claim_at(at).filter(|claim| claim.wiring == Some(at.wiring)).map(Claim::group_totals_w);
        let equal = || {
            let place = |group: &crate::kernel::wiring::Group| (Wiring::from(group.wiring), group.load_ohm.get());
            // A bridge has twice the volts across its load.
            let parts = groups.iter().map(place);
            parts.map(|(own, load)| f64::from(own.outputs()) * own.load_a_channel_ohm().powi(2) / load).collect()
        };
        let parts: Vec<f64> = run.map(|u| u.total.group_w.clone()).or_else(claimed).filter(|parts| !parts.is_empty()).unwrap_or_else(equal);
        let all: f64 = parts.iter().sum();
        parts.into_iter().map(|part| if all > 0.0 { part / all } else { 0.0 }).collect()
    }

    /// Draw at rest, watts.
    #[must_use]
    pub fn idle_w(&self) -> Option<f64> {
        let idle = self.session.idle?;
        let volts = idle.supply_v.or(self.session.plan.rest_v).map_or(USUAL_SUPPLY_V, |v| v.get());
        Some(idle.current_a.get() * volts)
    }
}

/// The load of a place as it counts for a wiring: its own, or what it stands for by bridging.
fn seen_from(wiring: Wiring, place: (Wiring, Ohms)) -> Option<f64> {
    if place.0 == wiring {
        return Some(place.1.get());
    }
    let (equivalent, load) = place.0.equivalent(place.1.get())?;
    (equivalent == wiring).then_some(load)
}

/// Loads that differ by more than 2 %, highest first.
fn distinct(loads: impl Iterator<Item = f64>) -> Vec<f64> {
    let mut sorted: Vec<f64> = loads.collect();
    sorted.sort_by(|a, b| b.total_cmp(a));
    sorted.dedup_by(|a, b| same_load(*a, *b));
    sorted
}

/// √2 · Irms of the hardest run that it came through.
fn proven_peak_a(session: &Session, usable: &[Usable]) -> Option<f64> {
    let survived = |run: &Run| !matches!(run.incident, Some(Incident::Died | Incident::Smoke));
    // Both are in the order logged: of most runs the total is known.
    let mut known = usable.iter().peekable();
    let peaks = session.standing_runs().filter_map(|run| {
        let known = known.next_if(|usable| std::ptr::eq(usable.run, run)).map(|usable| Arc::clone(&usable.total));
        if !survived(run) {
            return None;
        }
        let total = known.or_else(|| crate::evidence::total(session, run).ok().map(Arc::new))?;
        let peak = |part: &Run, outputs: &[OutputPower]| {
            let most = outputs.iter().map(|output| output.power_w).fold(0.0, f64::max);
            (2.0 * most / part.load().get()).sqrt()
        };
        if run.wiring.groups().is_none() {
            return Some(peak(run, &total.outputs));
        }
        let mut left = total.outputs.as_slice();
        let peaks = run.parts().map(|part| {
            let (own, behind) = left.split_at(part.outputs.len().min(left.len()));
            left = behind;
            peak(&part, own)
        });
        peaks.max_by(f64::total_cmp)
    });
    peaks.max_by(f64::total_cmp).filter(|peak| *peak > SLACK)
}
