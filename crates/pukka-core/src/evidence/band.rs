//! What a run at one supply voltage says of another: P·(Vref/V)^e.
//!
//! e = 2 for an unregulated supply (its rails follow), 0 for a regulated one. Unknown, or further than 1.0 V away: the
//! truth lies between.

use crate::evidence::power::Total;
use crate::evidence::supply::Supply;
use crate::evidence::uncertainty;
use crate::kernel::units::{SLACK, at_least, more_than};
use crate::record::amplifier::SupplyType;
use crate::record::session::{Run, Session};

/// Distance from the claim's voltage within which a run still speaks for it by its supply type alone.
pub const WINDOW_V: f64 = 1.0;

/// Way in which a band was made.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Basis {
    /// No supply voltage was read: it lies in a span.
    Span,
    /// Regulated: as read.
    Regulated,
    /// Unregulated, inside the window.
    Unregulated,
    /// By an exponent that two runs measured.
    Measured,
    /// Between regulated and unregulated.
    Between,
}

impl Basis {
    /// Assumptions, for the working.
    #[must_use]
    pub const fn assumptions(self) -> &'static [&'static str] {
        match self {
            Self::Span => &["No supply voltage was read: it may have ended anywhere from 12.0 V, or 1.5 V under rest, up to rest."],
            Self::Regulated => &["Regulated supply: its rails hold, e = 0."],
            Self::Unregulated => &["Unregulated supply: its rails follow the battery, e = 2."],
            Self::Measured => &["The exponent was measured: two certified runs of this place, 1.0 V or more apart."],
            Self::Between => &["Regulated or not is not known, or the voltages are more than 1.0 V apart: e lies between 0 and 2."],
        }
    }
}

/// Power of a run at a reference voltage, from `low_w` to `high_w`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Band {
    /// Lower bound.
    pub low_w: f64,
    /// Upper bound.
    pub high_w: f64,
    /// Supply volts of the lower bound.
    pub low_v: f64,
    /// Supply volts of the upper bound.
    pub high_v: f64,
    /// Exponent of the lower bound.
    pub low_exponent: f64,
    /// Exponent of the upper bound.
    pub high_exponent: f64,
    /// Expanded uncertainty of the lower bound.
    pub low_expanded_w: f64,
    /// Expanded uncertainty of the upper bound.
    pub high_expanded_w: f64,
    /// Derivation.
    pub basis: Basis,
}

impl Band {
    /// Standard uncertainty of the lower bound, of it.
    #[must_use]
    pub fn low_relative_u(&self) -> f64 {
        if self.low_w > 0.0 { self.low_expanded_w / 2.0 / self.low_w } else { 0.0 }
    }
}

/// An exponent that two runs of one place measured, and the voltages it was measured over.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MeasuredExponent {
    /// ln(P1/P2) / ln(V1/V2), from 0 to 2.
    pub exponent: f64,
    /// Lower end.
    pub low_v: f64,
    /// Upper end.
    pub high_v: f64,
}

/// Distance past the voltages it was measured over within which an exponent still speaks.
const MEASURED_REACH_V: f64 = 0.5;

impl MeasuredExponent {
    /// From two runs' power and supply volts.
    #[must_use]
    pub fn from(low: (f64, f64), high: (f64, f64)) -> Self {
        let exponent = ((high.0 / low.0).ln() / (high.1 / low.1).ln()).clamp(0.0, 2.0);
        Self { exponent, low_v: low.1, high_v: high.1 }
    }

    /// Whether it speaks for a voltage.
    #[must_use]
    pub fn reaches(&self, reference_v: f64) -> bool {
        at_least(reference_v, self.low_v - MEASURED_REACH_V) && at_least(self.high_v + MEASURED_REACH_V, reference_v)
    }
}

/// A run, or the mean of several: power, how sure of it, and at which supply voltage.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sample {
    /// Total power, watts.
    pub power_w: f64,
    /// Standard uncertainty, as a fraction.
    pub relative_u: f64,
    /// Supply under load.
    pub supply: Supply,
    /// Exponent of its power over the supply, where runs measured it.
    pub measured: Option<MeasuredExponent>,
}

impl Sample {
    /// Of one run.
    #[must_use]
    pub fn of(session: &Session, run: &Run, total: &Total) -> Self {
        Self { power_w: total.total_w, relative_u: total.relative_u(), supply: Supply::of(session, run, total), measured: None }
    }

    /// Supply under load, where it is known.
    #[must_use]
    pub const fn end_v(&self) -> Option<f64> {
        self.supply.volts()
    }
}

/// The band of a sample at `reference_v`.
#[must_use]
pub fn band(session: &Session, sample: Sample, reference_v: f64) -> Band {
    let measured = sample.measured.filter(|measured| measured.reaches(reference_v));
    let Supply::Known { volts, relative_u, .. } = sample.supply else {
        return in_span(session, sample, reference_v, measured);
    };
    let u_v = relative_u.unwrap_or_else(|| uncertainty::supply_volts(session, volts));
    let (exponents, basis) = match measured {
        Some(measured) => ((measured.exponent, measured.exponent), Basis::Measured),
        None => by_type(session.amplifier.supply_type, volts, reference_v),
    };
    let bound = |exponent| Bound { volts, exponent, u_v };
    made(sample, reference_v, [bound(exponents.0), bound(exponents.1)], basis)
}

/// Exponents of the lower and the upper bound of a power at known volts.
fn by_type(supply: SupplyType, volts: f64, reference_v: f64) -> ((f64, f64), Basis) {
    let inside = !more_than((volts - reference_v).abs(), WINDOW_V + SLACK);
    match (supply, inside) {
        (SupplyType::Unregulated, true) => ((2.0, 2.0), Basis::Unregulated),
        (SupplyType::Regulated, true) => ((0.0, 0.0), Basis::Regulated),
        (SupplyType::Regulated, false) if volts > reference_v => ((0.0, 0.0), Basis::Regulated),
        _ if reference_v >= volts => ((0.0, 2.0), Basis::Between),
        _ => ((2.0, 0.0), Basis::Between),
    }
}

/// The least and the most over both ends of the span and over the exponents that may be.
fn in_span(session: &Session, sample: Sample, reference_v: f64, measured: Option<MeasuredExponent>) -> Band {
    let exponents = match (measured, session.amplifier.supply_type) {
        (Some(measured), _) => [measured.exponent; 2],
        (None, SupplyType::Regulated) => [0.0; 2],
        (None, SupplyType::Unregulated) => [2.0; 2],
        (None, SupplyType::Unknown) => [0.0, 2.0],
    };
    let (low_v, high_v) = sample.supply.span(reference_v);
    // The span itself is how unsure the volts are: a bound is no less sure than the power.
    let ends = [low_v, high_v].into_iter().flat_map(|volts| exponents.map(|exponent| Bound { volts, exponent, u_v: 0.0 }));
    let factor = |end: &Bound| end.factor(reference_v);
    let mut sorted: Vec<Bound> = ends.collect();
    sorted.sort_by(|a, b| factor(a).total_cmp(&factor(b)));
    let lone = Bound { volts: reference_v, exponent: 0.0, u_v: 0.0 };
    let bounds = [sorted.first().copied().unwrap_or(lone), sorted.last().copied().unwrap_or(lone)];
    made(sample, reference_v, bounds, Basis::Span)
}

/// An end of a band.
#[derive(Clone, Copy)]
struct Bound {
    volts: f64,
    exponent: f64,
    u_v: f64,
}

impl Bound {
    fn factor(&self, reference_v: f64) -> f64 {
        (reference_v / self.volts).powf(self.exponent)
    }
}

fn made(sample: Sample, reference_v: f64, [low, high]: [Bound; 2], basis: Basis) -> Band {
    let at = |bound: Bound| {
        let power_w = sample.power_w * bound.factor(reference_v);
        (power_w, 2.0 * power_w * uncertainty::quadrature([sample.relative_u, bound.exponent * bound.u_v]))
    };
    let ((low_w, low_expanded_w), (high_w, high_expanded_w)) = (at(low), at(high));
    Band {
        low_w,
        high_w,
        low_v: low.volts,
        high_v: high.volts,
        low_exponent: low.exponent,
        high_exponent: high.exponent,
        low_expanded_w,
        high_expanded_w,
        basis,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::evidence::total;
    use crate::kernel::units::Volts;
    use crate::record::session::examples;

    fn of(supply: SupplyType, end_v: Option<f64>) -> (f64, f64, Basis) {
        let mut session = examples::mono_1100();
        session.amplifier.supply_type = supply;
        session.runs[0].end_v = end_v.map(|v| Volts::new(v).unwrap());
        let run = &session.runs[0];
        let band = band(&session, Sample::of(&session, run, &total(&session, run).unwrap()), 14.4);
        (band.low_w, band.high_w, band.basis)
    }

    #[test]
    fn each_supply_type_inside_and_outside_the_window() {
        let q = |v: f64| 447.0 * (14.4 / v).powf(2.0);
        assert_eq!(of(SupplyType::Unregulated, Some(13.9)), (q(13.9), q(13.9), Basis::Unregulated));
        assert_eq!(of(SupplyType::Regulated, Some(13.9)), (447.0, 447.0, Basis::Regulated));
        assert_eq!(of(SupplyType::Unknown, Some(13.9)), (447.0, q(13.9), Basis::Between));
        assert_eq!(of(SupplyType::Unknown, Some(14.9)), (q(14.9), 447.0, Basis::Between));
        assert_eq!(of(SupplyType::Unregulated, Some(12.9)), (447.0, q(12.9), Basis::Between));
        assert_eq!(of(SupplyType::Regulated, Some(12.9)), (447.0, q(12.9), Basis::Between));
        assert_eq!(of(SupplyType::Regulated, Some(16.0)), (447.0, 447.0, Basis::Regulated), "more volts do not help a regulated one");
        // Nobody read the volts: 14.6 V at rest, so 13.1 to 14.6 V.
        assert_eq!(of(SupplyType::Unregulated, None), (q(14.6), q(13.1), Basis::Span));
        assert_eq!(of(SupplyType::Regulated, None), (447.0, 447.0, Basis::Span));
        assert_eq!(of(SupplyType::Unknown, None), (q(14.6), q(13.1), Basis::Span));
    }

    #[test]
    fn a_measured_exponent_overrides_the_supply_type_where_it_reaches() {
        let session = examples::mono_1100();
        // 400 W at 12.5 V and 484 W at 13.75 V: ln 1.21 / ln 1.1 = 2 · ln 1.1 / ln 1.1 = 2; 440 W would be 1.
        let measured = MeasuredExponent::from((400.0, 12.5), (440.0, 13.75));
        assert!((measured.exponent - 1.0).abs() < 1e-12);
        assert!((MeasuredExponent::from((400.0, 12.5), (484.0, 13.75)).exponent - 2.0).abs() < 1e-12);
        assert_eq!(MeasuredExponent::from((400.0, 12.5), (900.0, 13.75)).exponent, 2.0, "never past 2");
        assert_eq!(MeasuredExponent::from((400.0, 12.5), (390.0, 13.75)).exponent, 0.0, "never below 0");
        let supply = Supply::Known { volts: 13.75, relative_u: None, derived: false };
        let sample = Sample { power_w: 440.0, relative_u: 0.0, supply, measured: Some(measured) };
        let at = |reference_v: f64| band(&session, sample, reference_v);
        assert!(
            (at(14.25).low_w - 440.0 * 14.25 / 13.75).abs() < 1e-9 && at(14.25).basis == Basis::Measured,
            "0.5 V past its span, exactly"
        );
        assert_eq!((at(14.26).basis, at(11.99).basis, at(12.0).basis), (Basis::Unregulated, Basis::Between, Basis::Measured));
    }

    #[test]
    fn exactly_one_volt_is_still_inside() {
        assert_eq!(of(SupplyType::Unregulated, Some(13.4)).2, Basis::Unregulated);
        assert_eq!(of(SupplyType::Unregulated, Some(15.4)).2, Basis::Unregulated);
        assert_eq!(of(SupplyType::Unregulated, Some(13.399)).2, Basis::Between);
    }

    #[test]
    fn bringing_to_another_voltage_costs_certainty() {
        let session = examples::mono_1100();
        let run = &session.runs[0];
        let band = band(&session, Sample::of(&session, run, &total(&session, run).unwrap()), 14.4);
        // u/P = 0.01/√3, uV/V = 0.005/√3: U = 2·448.24·√(0.01² + (2·0.005)²)/√3 = 7.319
        assert!((band.low_expanded_w - 7.319_8).abs() < 1e-3, "{}", band.low_expanded_w);
    }
}
