//! The supply voltage of a run: as read, made from its watts, amps and an efficiency off a meter, or only known to lie in a span.

use crate::evidence::power::Total;
use crate::evidence::uncertainty::{self, quadrature};
use crate::kernel::units::{Volts, at_least};
use crate::record::session::{Mode, Run, Session};

/// Volts that a derived supply has at least: below it one of the three readings is wrong.
pub const LEAST_DERIVED_V: f64 = 8.0;
/// Most that a derived supply may lie above rest.
pub const OVER_REST_V: f64 = 0.5;
/// The most a derived supply may be where no rest voltage is known.
pub const MOST_DERIVED_V: f64 = 18.0;
/// A supply that nobody read ends no lower than this, unless it started lower.
const SPAN_FROM_V: f64 = 12.0;
/// Nor this far below rest.
const SPAN_SAG_V: f64 = 1.5;

/// P/(η·I), where a run has all three and no volts.
#[must_use]
pub fn implied_volts(run: &Run, total: &Total) -> Option<f64> {
    let (amps, efficiency) = (total.current_a?.get(), run.efficiency_read()?.get());
    let wanted = run.mode != Mode::Dynamic && total.read_v.is_none() && amps > 0.0 && efficiency > 0.0;
    wanted.then(|| total.total_w / (efficiency * amps))
}

/// The most that an implied voltage may be.
#[must_use]
pub fn most_implied_v(session: &Session, run: &Run) -> f64 {
    session.rest_before(run).map_or(MOST_DERIVED_V, |rest| rest.get() + OVER_REST_V)
}

/// The derived voltage of a run, with its relative standard uncertainty; nothing where it cannot be.
pub(super) fn derived(session: &Session, run: &Run, total: &Total) -> Option<(Volts, f64)> {
    let volts = implied_volts(run, total)?;
    let possible = at_least(volts, LEAST_DERIVED_V) && at_least(most_implied_v(session, run), volts);
    let amps = uncertainty::amps(session, run, total.current_a?.get());
    let relative = quadrature([total.relative_u(), uncertainty::efficiency_read(), amps]);
    Volts::new(volts).ok().filter(|_| possible).map(|volts| (volts, relative))
}

/// Knowledge of the supply voltage that a power was made at.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Supply {
    /// Read or derived.
    Known {
        /// Volts, or the mean of several runs'.
        volts: f64,
        /// Relative standard uncertainty, where the meter does not give it.
        relative_u: Option<f64>,
        /// Made from watts, amps and efficiency.
        derived: bool,
    },
    /// Nobody read it: only the volts at rest are known, or not even those.
    Unread {
        /// Least rest voltage of the runs.
        least_rest_v: Option<f64>,
        /// Most.
        most_rest_v: Option<f64>,
        /// A run is among them whose rest voltage is not known.
        without_rest: bool,
    },
    /// Between two loads of which one at least was not read.
    Between {
        /// Lower end.
        low_v: f64,
        /// Upper end.
        high_v: f64,
    },
}

impl Supply {
    /// Of one run.
    #[must_use]
    pub fn of(session: &Session, run: &Run, total: &Total) -> Self {
        if let Some(volts) = total.end_v {
            return Self::Known { volts: volts.get(), relative_u: total.end_relative_u, derived: total.is_derived() };
        }
        let rest = session.rest_before(run).map(Volts::get);
        Self::Unread { least_rest_v: rest, most_rest_v: rest, without_rest: rest.is_none() }
    }

    /// Volts, where they are known.
    #[must_use]
    pub const fn volts(self) -> Option<f64> {
        match self {
            Self::Known { volts, .. } => Some(volts),
            _ => None,
        }
    }

    /// Whether they were made from watts, amps and efficiency.
    #[must_use]
    pub const fn is_derived(self) -> bool {
        matches!(self, Self::Known { derived: true, .. })
    }

    /// The span it lies in, for whoever asks about a claim at `reference_v`.
    #[must_use]
    pub fn span(self, reference_v: f64) -> (f64, f64) {
        match self {
            Self::Known { volts, .. } => (volts, volts),
            Self::Between { low_v, high_v } => (low_v, high_v),
            Self::Unread { least_rest_v, most_rest_v, without_rest } => {
                let of_rest = |rest: f64| (SPAN_FROM_V.min(rest).max(rest - SPAN_SAG_V), rest);
                let unknown = without_rest.then(|| (SPAN_FROM_V.min(reference_v), reference_v));
                let spans = [least_rest_v.map(of_rest), most_rest_v.map(of_rest), unknown];
                spans.into_iter().flatten().fold((f64::INFINITY, 0.0), |(low, high), span| (span.0.min(low), span.1.max(high)))
            }
        }
    }

    /// Of the mean of several runs: the mean of what is known; where nothing is, the widest span.
    #[must_use]
    pub fn mean(several: &[Self]) -> Self {
        let known: Vec<(f64, Option<f64>, bool)> = several
            .iter()
            .filter_map(|one| match *one {
                Self::Known { volts, relative_u, derived } => Some((volts, relative_u, derived)),
                _ => None,
            })
            .collect();
        if !known.is_empty() {
            return Self::Known {
                volts: known.iter().map(|(volts, ..)| volts).sum::<f64>() / known.len() as f64,
                relative_u: known.iter().filter_map(|(_, u, _)| *u).max_by(f64::total_cmp),
                derived: known.iter().any(|(.., derived)| *derived),
            };
        }
        let rests = || several.iter().filter_map(|one| if let Self::Unread { least_rest_v, .. } = one { *least_rest_v } else { None });
        Self::Unread {
            least_rest_v: rests().min_by(f64::total_cmp),
            most_rest_v: rests().max_by(f64::total_cmp),
            without_rest: several.iter().any(|one| matches!(one, Self::Unread { without_rest: true, .. })),
        }
    }

    /// Between two loads, `part` of the way.
    #[must_use]
    pub fn between(self, other: Self, part: f64, reference_v: f64) -> Self {
        let mix = |a: f64, b: f64| a + part * (b - a);
        if let (Self::Known { volts: a, relative_u: ua, derived: da }, Self::Known { volts: b, relative_u: ub, derived: db }) =
            (self, other)
        {
            let relative_u = [ua, ub].into_iter().flatten().max_by(f64::total_cmp);
            return Self::Known { volts: mix(a, b), relative_u, derived: da || db };
        }
        let (a, b) = (self.span(reference_v), other.span(reference_v));
        Self::Between { low_v: mix(a.0, b.0), high_v: mix(a.1, b.1) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::evidence::total;
    use crate::kernel::units::Ratio;
    use crate::record::session::examples;

    fn unread(rest: Option<f64>) -> Supply {
        Supply::Unread { least_rest_v: rest, most_rest_v: rest, without_rest: rest.is_none() }
    }

    #[test]
    fn a_supply_that_nobody_read_lies_in_a_span() {
        assert_eq!(unread(Some(14.6)).span(14.4), (13.1, 14.6), "14.6 − 1.5");
        assert_eq!(unread(Some(12.8)).span(14.4), (12.0, 12.8));
        assert_eq!(unread(Some(11.4)).span(14.4), (11.4, 11.4), "it started lower than 12 V");
        assert_eq!(unread(None).span(14.4), (12.0, 14.4));
        assert_eq!(unread(None).span(11.0), (11.0, 11.0));
        let both = Supply::mean(&[unread(Some(14.6)), unread(Some(12.8)), unread(None)]);
        assert_eq!(both.span(14.4), (12.0, 14.6), "of several runs the widest");
    }

    #[test]
    fn watts_amps_and_an_efficiency_make_the_volts() {
        let mut session = examples::mono_1100();
        let run = &mut session.runs[0];
        (run.end_v, run.efficiency_read_ratio) = (None, Ratio::new(0.755).ok());
        let found = total(&session, &session.runs[0]).unwrap();
        // 447 W / (0.755 · 41.2 A) = 14.370 V; uV/V = √((0.01/√3)² + (0.02/√3)² + (0.02/√3)²) = 0.0173205
        assert!((found.end_v.unwrap().get() - 447.0 / (0.755 * 41.2)).abs() < 1e-9 && found.is_derived());
        assert!((found.end_relative_u.unwrap() - 0.03 / 3f64.sqrt()).abs() < 1e-9, "{:?}", found.end_relative_u);
        session.runs[0].efficiency_read_ratio = Ratio::new(0.70).ok();
        assert_eq!(total(&session, &session.runs[0]).unwrap().end_v, None, "15.50 V is more than 0.5 V above 14.6 V at rest");
    }
}
