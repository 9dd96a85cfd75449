//! How far off a figure may be, given the limits of the meters it was read by.
//!
//! A meter's limits ± a are rectangular: u = a/√3. Quoted as ±U with k = 2.
//!
//! Ref: JCGM 100:2008, 4.3.7 (rectangular limits), 5.1.2 (quadrature), 5.2.2 (full correlation adds linearly).

use crate::record::bench::{Meter, Quantity};
use crate::record::session::{ReadingName, Run, Session};

/// Limits of a wattmeter when none is given, as a fraction of the reading.
pub const WATTS: f64 = 0.02;
/// Of volts rms.
pub const VOLTS_RMS: f64 = 0.01;
/// Of the vertical scale of an oscilloscope: volts peak or peak to peak off its screen, and what it captured.
pub const SCOPE: f64 = 0.03;
/// Of supply amps.
pub const AMPS: f64 = 0.02;
/// Of supply volts.
pub const SUPPLY_VOLTS: f64 = 0.005;
/// Of a measured load.
pub const LOAD_MEASURED: f64 = 0.01;
/// Of a measured load below 1 Ω, where leads and contacts count.
pub const LOAD_MEASURED_LOW: f64 = 0.02;
/// Of a nominal load with no tolerance of its own.
pub const LOAD_NOMINAL: f64 = 0.05;

/// Efficiency off a meter.
pub const EFFICIENCY_READ: f64 = 0.02;
/// A reading off a moving display, when its meter is no worse.
pub const MOVING: f64 = 0.05;

/// √3, which turns the half-width of rectangular limits into a standard uncertainty.
fn root3() -> f64 {
    3f64.sqrt()
}

/// Outputs read by one meter: their uncertainties add linearly.
#[derive(Debug, Clone, PartialEq)]
pub struct MeterGroup<'a> {
    quantity: Quantity,
    meter: Option<&'a str>,
    /// Standard uncertainty of the group.
    pub u: f64,
}

/// Adds one output to the group of its meter. Unnamed readings of one quantity share one meter.
pub fn add<'a>(groups: &mut Vec<MeterGroup<'a>>, quantity: Quantity, meter: Option<&'a str>, u: f64) {
    match groups.iter_mut().find(|group| group.quantity == quantity && group.meter == meter) {
        Some(group) => group.u += u,
        None => groups.push(MeterGroup { quantity, meter, u }),
    }
}

/// √(Σ u²)
#[must_use]
pub fn quadrature(parts: impl IntoIterator<Item = f64>) -> f64 {
    parts.into_iter().map(|u| u * u).sum::<f64>().sqrt()
}

/// Half-width of the limits of a reading, in its own unit, by its meter or by `default` (a fraction of the reading).
#[must_use]
pub fn half_width(meter: Option<&Meter>, reading: f64, default: f64) -> f64 {
    meter.map_or(default * reading.abs(), |meter| meter.half_width(reading))
}

/// Relative standard uncertainty of a reading, by its meter's limits or by `default` (a fraction of the reading).
#[must_use]
pub fn relative(meter: Option<&Meter>, reading: f64, default: f64) -> f64 {
    match meter {
        Some(_) if reading == 0.0 => 0.0,
        Some(meter) => meter.half_width(reading) / reading.abs() / root3(),
        None => default / root3(),
    }
}

/// The relative standard uncertainty of a reading that may have been taken off a moving display.
#[must_use]
pub fn widened(relative: f64, moving: bool) -> f64 {
    if moving { relative.max(MOVING / root3()) } else { relative }
}

/// Relative standard uncertainty of the load a run was computed with.
#[must_use]
pub fn load(session: &Session, run: &Run) -> f64 {
    if let Some(measured) = run.load_measured_ohm {
        let default = if measured.get() < 1.0 { LOAD_MEASURED_LOW } else { LOAD_MEASURED };
        return relative(session.bench.meter(None, Quantity::Resistance), measured.get(), default);
    }
    let own = session
        .bench
        .loads
        .iter()
        .find(|load| crate::kernel::wiring::same_load(load.nominal_ohm.get(), run.load_nominal_ohm.get()))
        .and_then(|load| load.tolerance_ratio);
    own.map_or(LOAD_NOMINAL, |tolerance| tolerance.get()) / root3()
}

/// P from V and R, given uV/V: (u/P)² = (2·uV/V)² + (uR/R)².
#[must_use]
pub fn from_volts(session: &Session, run: &Run, volts_relative: f64) -> f64 {
    quadrature([2.0 * volts_relative, load(session, run)])
}

/// Relative standard uncertainty of the supply voltage of a run.
#[must_use]
pub fn supply_volts(session: &Session, end_v: f64) -> f64 {
    relative(session.bench.meter(None, Quantity::SupplyVoltage), end_v, SUPPLY_VOLTS)
}

/// Relative standard uncertainty of the supply current of a run.
#[must_use]
pub fn amps(session: &Session, run: &Run, current_a: f64) -> f64 {
    widened(relative(session.bench.meter(None, Quantity::Current), current_a, AMPS), run.is_approximate(ReadingName::Current))
}

/// Relative standard uncertainty of an efficiency off a meter.
#[must_use]
pub fn efficiency_read() -> f64 {
    EFFICIENCY_READ / root3()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::evidence::total;
    use crate::kernel::units::{Ohms, Ratio, VoltsRms};
    use crate::kernel::wiring::Wiring;
    use crate::record::session::examples;

    #[test]
    fn watts_on_a_one_percent_meter() {
        // 447 W ± 1 %: a = 4.47, u = 4.47/√3 = 2.5808, U = 5.1615
        let session = examples::mono_1100();
        let total = total(&session, &session.runs[0]).unwrap();
        assert!((total.expanded_w() - 5.161_511).abs() < 1e-5);
    }

    #[test]
    fn volts_count_twice_and_the_load_once() {
        let mut session = examples::mono_1100();
        session.bench.meters.clear();
        let mut run = session.runs[0].clone();
        run.outputs[0].power_w = None;
        run.outputs[0].meter = None;
        run.outputs[0].volts_rms = Some(VoltsRms::new(42.0).unwrap());
        // uV/V = 0.01/√3, uR/R = 0.01/√3 (measured, 3.91 Ω): √((2·0.01)² + 0.01²)/√3 = 0.0129099
        let of = |run: &Run, session: &Session| total(session, run).unwrap().relative_u();
        assert!((of(&run, &session) - 0.012_909_944).abs() < 1e-8);
        run.load_measured_ohm = Some(Ohms::new(0.99).unwrap());
        // below 1 Ω: √(0.02² + 0.02²)/√3
        assert!((of(&run, &session) - 0.016_329_932).abs() < 1e-8);
        run.load_measured_ohm = None;
        // nominal, and the bench says its 4 Ω are ± 1 %
        assert!((of(&run, &session) - 0.012_909_944).abs() < 1e-8);
        session.bench.loads[0].tolerance_ratio = None;
        // nominal ± 5 %: √(0.02² + 0.05²)/√3
        assert!((of(&run, &session) - 0.031_091_264).abs() < 1e-8);
    }

    #[test]
    fn one_meter_adds_linearly_two_in_quadrature() {
        let mut session = examples::mono_1100();
        let mut second = session.bench.meters[0].clone();
        second.id = "m2".into();
        second.reading_ratio = Ratio::new(0.01).unwrap();
        session.bench.meters.push(second);
        let mut run = session.runs[0].clone();
        run.wiring = Wiring::Channels { driven: 2 };
        run.outputs.push(run.outputs[0].clone());
        let u = 447.0 * 0.01 / 3f64.sqrt();
        assert!((total(&session, &run).unwrap().u_w - 2.0 * u).abs() < 1e-9);
        run.outputs[1].meter = Some("m2".into());
        assert!((total(&session, &run).unwrap().u_w - 2f64.sqrt() * u).abs() < 1e-9);
    }
}
