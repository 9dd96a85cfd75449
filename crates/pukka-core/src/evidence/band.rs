//! What a run at one supply voltage says of another: P·(Vref/V)^e.
//!
//! e = 2 for an unregulated supply (its rails follow), 0 for a regulated one. Unknown, or further than 1.0 V away: the
//! truth lies between.

use crate::evidence::power::Total;
use crate::evidence::uncertainty;
use crate::kernel::units::{SLACK, Volts, at_least, more_than};
use crate::record::amplifier::SupplyType;
use crate::record::session::Session;

/// How far from the claim's voltage a run still speaks for it by its supply type alone.
pub const WINDOW_V: f64 = 1.0;

/// How a band was made.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Basis {
    /// No supply voltage was read.
    AsRead,
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
    /// What it assumes, for the working.
    #[must_use]
    pub const fn assumptions(self) -> &'static [&'static str] {
        match self {
            Self::AsRead => &["No supply voltage was read: the power stands as read."],
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
    /// Exponent of the lower bound.
    pub low_exponent: f64,
    /// Exponent of the upper bound.
    pub high_exponent: f64,
    /// Expanded uncertainty of the lower bound.
    pub low_expanded_w: f64,
    /// Expanded uncertainty of the upper bound.
    pub high_expanded_w: f64,
    /// How it was made.
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

/// How far past the voltages it was measured over an exponent still speaks.
const MEASURED_REACH_V: f64 = 0.5;

impl MeasuredExponent {
    /// From two runs' power and supply volts.
    #[must_use]
    pub fn from(low: (f64, f64), high: (f64, f64)) -> Self {
        let exponent = ((high.0 / low.0).ln() / (high.1 / low.1).ln()).clamp(0.0, 2.0);
        Self { exponent, low_v: low.1, high_v: high.1 }
    }

    fn reaches(&self, reference_v: f64) -> bool {
        at_least(reference_v, self.low_v - MEASURED_REACH_V) && at_least(self.high_v + MEASURED_REACH_V, reference_v)
    }
}

/// What one run, or the mean of several, says: power, how sure of it, and at which supply voltage.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sample {
    /// Total power, watts.
    pub power_w: f64,
    /// Its standard uncertainty, as a fraction.
    pub relative_u: f64,
    /// Supply under load, volts.
    pub end_v: Option<f64>,
    /// How its power follows the supply, where runs measured it.
    pub measured: Option<MeasuredExponent>,
}

impl Sample {
    /// Of one run.
    #[must_use]
    pub fn of(total: &Total) -> Self {
        Self { power_w: total.total_w, relative_u: total.relative_u(), end_v: total.end_v.map(Volts::get), measured: None }
    }
}

/// The band of a sample at `reference_v`.
#[must_use]
pub fn band(session: &Session, sample: Sample, reference_v: f64) -> Band {
    let Some(end_v) = sample.end_v else {
        return bounds(sample, 1.0, 0.0, (0.0, 0.0), Basis::AsRead);
    };
    let ratio = reference_v / end_v;
    let inside = !more_than((end_v - reference_v).abs(), WINDOW_V + SLACK);
    let u_v = uncertainty::supply_volts(session, end_v);
    if let Some(measured) = sample.measured.filter(|measured| measured.reaches(reference_v)) {
        return bounds(sample, ratio, u_v, (measured.exponent, measured.exponent), Basis::Measured);
    }
    let (exponents, basis) = match (session.amplifier.supply_type, inside) {
        (SupplyType::Unregulated, true) => ((2.0, 2.0), Basis::Unregulated),
        (SupplyType::Regulated, true) => ((0.0, 0.0), Basis::Regulated),
        (SupplyType::Regulated, false) if end_v > reference_v => ((0.0, 0.0), Basis::Regulated),
        _ if ratio >= 1.0 => ((0.0, 2.0), Basis::Between),
        _ => ((2.0, 0.0), Basis::Between),
    };
    bounds(sample, ratio, u_v, exponents, basis)
}

fn bounds(sample: Sample, ratio: f64, u_v: f64, (low, high): (f64, f64), basis: Basis) -> Band {
    let bound = |exponent: f64| {
        let power_w = sample.power_w * ratio.powf(exponent);
        (power_w, 2.0 * power_w * uncertainty::quadrature([sample.relative_u, exponent * u_v]))
    };
    let ((low_w, low_expanded_w), (high_w, high_expanded_w)) = (bound(low), bound(high));
    Band { low_w, high_w, low_exponent: low, high_exponent: high, low_expanded_w, high_expanded_w, basis }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::evidence::total;
    use crate::record::session::examples;

    fn of(supply: SupplyType, end_v: Option<f64>) -> (f64, f64, Basis) {
        let mut session = examples::mono_1100();
        session.amplifier.supply_type = supply;
        session.runs[0].end_v = end_v.map(|v| Volts::new(v).unwrap());
        let run = &session.runs[0];
        let band = band(&session, Sample::of(&total(&session, run).unwrap()), 14.4);
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
        assert_eq!(of(SupplyType::Unregulated, None), (447.0, 447.0, Basis::AsRead));
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
        let sample = Sample { power_w: 440.0, relative_u: 0.0, end_v: Some(13.75), measured: Some(measured) };
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
        let band = band(&session, Sample::of(&total(&session, run).unwrap()), 14.4);
        // u/P = 0.01/√3, uV/V = 0.005/√3: U = 2·448.24·√(0.01² + (2·0.005)²)/√3 = 7.319
        assert!((band.low_expanded_w - 7.319_8).abs() < 1e-3, "{}", band.low_expanded_w);
    }
}
