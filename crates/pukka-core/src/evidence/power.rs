//! From what was read at the outputs to the run's total power.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::evidence::uncertainty::{self, MeterGroup};
use crate::kernel::format;
use crate::kernel::units::{Amps, PowerDecibels, Volts, Watts};
use crate::record::bench::{Meter, Quantity};
use crate::record::session::{Method, Mode, OutputReading, ReadingName, Run, Session};

/// The reading that a power was made from, and so its formula.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PowerOf {
    /// Watts, as read.
    Watts,
    /// P = Vrms² / R.
    VoltsRms,
    /// P = Vpk² / (2·R), of an unclipped sine only.
    VoltsPeak,
    /// P = Vpp² / (8·R), of an unclipped sine only.
    VoltsPeakToPeak,
}

/// A total that was read as one figure: of each output nothing is known.
pub(super) fn total_alone(session: &Session, run: &Run, total_w: Watts) -> Total {
    let meter = session.bench.meter(None, Quantity::Power);
    let relative = uncertainty::relative(meter, total_w.get(), uncertainty::WATTS);
    let relative = uncertainty::widened(relative, run.is_approximate(ReadingName::Power));
    Total {
        total_w: total_w.get(),
        group_w: Vec::new(),
        outputs: Vec::new(),
        assumed_outputs: 0,
        u_w: relative * total_w.get(),
        at_least: false,
        best_w: None,
        read_v: None,
        end_v: None,
        end_relative_u: None,
        current_a: None,
    }
}

impl PowerOf {
    /// Name of the reading.
    const fn name(self) -> ReadingName {
        match self {
            Self::Watts => ReadingName::Power,
            Self::VoltsRms => ReadingName::VoltsRms,
            Self::VoltsPeak => ReadingName::VoltsPeak,
            Self::VoltsPeakToPeak => ReadingName::VoltsPeakToPeak,
        }
    }

    /// What it is read in.
    pub(super) const fn unit(self) -> &'static str {
        if matches!(self, Self::Watts) { "W" } else { "V" }
    }

    const fn quantity(self) -> Quantity {
        if matches!(self, Self::Watts) { Quantity::Power } else { Quantity::Voltage }
    }
}

/// The meter that a reading was made by, and its limits where none is given. A captured wave is no better than its scale: where it names
/// no meter that gave it one, it is an oscilloscope's, whatever meters the bench has.
pub(super) fn meter_of<'a>(session: &'a Session, run: &Run, reading: &OutputReading, of: PowerOf) -> (Option<&'a Meter>, f64) {
    let default = match of {
        PowerOf::Watts => uncertainty::WATTS,
        PowerOf::VoltsRms if run.method == Some(Method::Trace) => uncertainty::SCOPE,
        PowerOf::VoltsRms => uncertainty::VOLTS_RMS,
        PowerOf::VoltsPeak | PowerOf::VoltsPeakToPeak => uncertainty::SCOPE,
    };
    let is_scope = of == PowerOf::VoltsRms && run.method == Some(Method::Trace) && reading.meter.is_none();
    let meter = session.bench.meter(reading.meter.as_deref(), of.quantity());
    (meter.filter(|_| !is_scope), default)
}

/// Power of one output.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OutputPower {
    /// Watts.
    pub power_w: f64,
    /// From which reading.
    pub of: PowerOf,
    /// The reading itself, in its own unit.
    pub reading: f64,
    /// Standard uncertainty, watts.
    pub u_w: f64,
}

/// Total power of a run.
#[derive(Debug, Clone, PartialEq)]
pub struct Total {
    /// Watts over all outputs driven.
    pub total_w: f64,
    /// Of the metered outputs, in the order they were read.
    pub outputs: Vec<OutputPower>,
    /// Watts of each group of a mixed wiring, in their order; none where it is not mixed, or only a total was read.
    pub group_w: Vec<f64>,
    /// Outputs driven into dummy loads, taken to give what the metered ones gave.
    pub assumed_outputs: usize,
    /// Standard uncertainty of the total, watts.
    pub u_w: f64,
    /// Only "at least so much": every level step was inside the limit, or the run was cut short.
    pub at_least: bool,
    /// Of counted cycles, the better end, watts.
    pub best_w: Option<f64>,
    /// Supply under load as read, or between two level steps.
    pub read_v: Option<Volts>,
    /// Supply under load: as read, else made from watts, amps and an efficiency off a meter.
    pub end_v: Option<Volts>,
    /// Relative standard uncertainty of that, where it is not its meter's.
    pub end_relative_u: Option<f64>,
    /// Supply current: as read, or between two level steps.
    pub current_a: Option<Amps>,
}

impl Total {
    /// With what the supply was read at.
    pub(super) fn at_supply(self, read_v: Option<Volts>, current_a: Option<Amps>) -> Self {
        Self { read_v, end_v: read_v, current_a, ..self }
    }

    /// Whether its supply volts were made from watts, amps and efficiency.
    #[must_use]
    pub const fn is_derived(&self) -> bool {
        self.read_v.is_none() && self.end_v.is_some()
    }

    /// Expanded uncertainty, k = 2, watts.
    #[must_use]
    pub fn expanded_w(&self) -> f64 {
        2.0 * self.u_w
    }

    /// Watts as shown: "650", and "≥ 650" of a lower bound.
    #[must_use]
    pub fn watts_shown(&self) -> String {
        let watts = format::watts(self.total_w);
        if self.at_least { format!("≥{}{watts}", format::THIN) } else { watts }
    }

    /// Standard uncertainty as a fraction of the total.
    #[must_use]
    pub fn relative_u(&self) -> f64 {
        if self.total_w > 0.0 { self.u_w / self.total_w } else { 0.0 }
    }

    /// 10·log10(Pmax/Pmin) over the metered outputs; needs two, and power in each.
    #[must_use]
    pub fn balance(&self) -> Option<PowerDecibels> {
        // Groups are no channels of one kind.
        if self.outputs.len() < 2 || !self.group_w.is_empty() {
            return None;
        }
        let powers = self.outputs.iter().map(|output| output.power_w);
        let (least, most) = powers.fold((f64::INFINITY, 0.0f64), |(low, high), p| (low.min(p), high.max(p)));
        if least > 0.0 { PowerDecibels::of(most / least) } else { None }
    }
}

/// Reason why a run has no total.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum NoTotal {
    /// Nothing was read at any output.
    #[error("No output was read.")]
    NothingRead,
    /// An output entry holds no reading.
    #[error("Output {} holds no reading.", .index + 1)]
    EmptyOutput {
        /// Index, from 0.
        index: usize,
    },
    /// Nothing was read of one of the groups that were driven.
    #[error("One of the groups was not read: what it gave, another cannot tell.")]
    GroupNotRead,
    /// No level step was inside the distortion limit.
    #[error("No step is inside the distortion limit: start lower.")]
    NoCleanStep,
    /// A peak read off a clipped wave.
    #[error("A flattened top has more power than its peak says: give volts rms (vr) or watts (w) for a clipping run.")]
    PeakOfClipped,
}

/// The total of a set of output readings of a run.
pub(super) fn total_of(session: &Session, run: &Run, readings: &[OutputReading]) -> Result<Total, NoTotal> {
    if readings.is_empty() {
        return Err(NoTotal::NothingRead);
    }
    let mut outputs = Vec::with_capacity(readings.len());
    let (mut meters, mut group_w, mut total_w, mut assumed) = (Vec::<MeterGroup>::new(), Vec::new(), 0.0, 0);
    let is_mixed = run.wiring.groups().is_some();
    for (part, group) in run.parts().zip(0u8..) {
        let own = || readings.iter().enumerate().filter(move |(_, reading)| !is_mixed || reading.group == Some(group));
        let (driven, metered) = (usize::from(part.wiring.outputs()), own().count());
        // What a group on dummy loads gave, another group cannot tell.
        let scale = if metered == 0 { return Err(NoTotal::GroupNotRead) } else { driven as f64 / metered as f64 };
        let mut sum_w = 0.0;
        for (index, reading) in own() {
            let (power, quantity, meter) = output_power(session, &part, reading).ok_or(NoTotal::EmptyOutput { index })?;
            if run.mode == Mode::Clipping && matches!(power.of, PowerOf::VoltsPeak | PowerOf::VoltsPeakToPeak) {
                return Err(NoTotal::PeakOfClipped);
            }
            uncertainty::add(&mut meters, quantity, meter, power.u_w * scale);
            sum_w += power.power_w;
            outputs.push(power);
        }
        total_w += sum_w * scale;
        if is_mixed {
            group_w.push(sum_w * scale);
        }
        assumed += driven.saturating_sub(metered);
    }
    Ok(Total {
        total_w,
        group_w,
        outputs,
        assumed_outputs: assumed,
        u_w: uncertainty::quadrature(meters.iter().map(|group| group.u)),
        at_least: false,
        best_w: None,
        read_v: None,
        end_v: None,
        end_relative_u: None,
        current_a: None,
    })
}

/// Power of one output, with the quantity and the meter it was read by.
fn output_power<'a>(session: &'a Session, run: &Run, reading: &'a OutputReading) -> Option<(OutputPower, Quantity, Option<&'a str>)> {
    let load = run.load();
    let (power_w, of, read) = if let Some(watts) = reading.power_w.filter(|_| !run.is_struck(ReadingName::Power)) {
        (watts.get(), PowerOf::Watts, watts.get())
    } else if let Some(volts) = reading.volts_rms.filter(|_| !run.is_struck(ReadingName::VoltsRms)) {
        (volts.power_w(load), PowerOf::VoltsRms, volts.get())
    } else if let Some(volts) = reading.volts_peak.filter(|_| !run.is_struck(ReadingName::VoltsPeak)) {
        (volts.sine_power_w(load), PowerOf::VoltsPeak, volts.get())
    } else {
        let volts = reading.volts_pp.filter(|_| !run.is_struck(ReadingName::VoltsPeakToPeak))?;
        (volts.sine_power_w(load), PowerOf::VoltsPeakToPeak, volts.get())
    };
    let (meter, default) = meter_of(session, run, reading, of);
    let own = uncertainty::widened(uncertainty::relative(meter, read, default), run.is_approximate(of.name()));
    let relative = if of == PowerOf::Watts { own } else { uncertainty::from_volts(session, run, own) };
    let power = OutputPower { power_w, of, reading: read, u_w: relative * power_w };
    Some((power, of.quantity(), meter.map(|meter| meter.id.as_str())))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::evidence::total;
    use crate::kernel::units::{Ohms, VoltsPeak, VoltsPeakToPeak, VoltsRms, Watts};
    use crate::kernel::wiring::Wiring;
    use crate::record::session::examples;

    fn outputs_of(run: &mut Run, readings: &[f64]) {
        run.outputs =
            readings.iter().map(|w| OutputReading { power_w: Some(Watts::new(*w).unwrap()), ..OutputReading::default() }).collect();
    }

    #[test]
    fn outputs_on_dummy_loads_give_what_the_metered_ones_gave() {
        let mut session = examples::mono_1100();
        session.bench.meters.clear();
        let mut run = session.runs[0].clone();
        run.wiring = Wiring::Channels { driven: 4 };
        outputs_of(&mut run, &[84.0, 81.0]);
        let total = total(&session, &run).unwrap();
        // (84 + 81)/2 × 4 = 330 W
        assert!((total.total_w - 330.0).abs() < 1e-12);
        assert_eq!(total.assumed_outputs, 2);
        // One meter, ± 2 %: u adds linearly, 165 × 0.02/√3, and scales by 4/2.
        assert!((total.u_w - 330.0 * 0.02 / 3f64.sqrt()).abs() < 1e-12);
        // 10·log10(84/81) = 0.1579 dB
        assert!((total.balance().unwrap().get() - 0.157_94).abs() < 1e-4);
    }

    #[test]
    fn eight_ohms_that_are_really_7_7_are_four_percent() {
        let session = examples::mono_1100();
        let mut run = session.runs[0].clone();
        run.outputs = vec![OutputReading { volts_rms: Some(VoltsRms::new(28.28).unwrap()), ..OutputReading::default() }];
        run.load_nominal_ohm = Ohms::new(8.0).unwrap();
        run.load_measured_ohm = None;
        let nominal = total(&session, &run).unwrap().total_w;
        run.load_measured_ohm = Some(Ohms::new(7.7).unwrap());
        let measured = total(&session, &run).unwrap().total_w;
        assert!((nominal - 99.9698).abs() < 1e-3, "28.28² / 8 = {nominal}");
        assert!((measured / nominal - 1.038_96).abs() < 1e-4);
    }

    #[test]
    fn a_peak_off_a_clipped_wave_is_refused() {
        let session = examples::mono_1100();
        let mut run = session.runs[1].clone();
        assert_eq!(run.mode, Mode::Clipping);
        run.outputs = vec![OutputReading { volts_pp: Some(VoltsPeakToPeak::new(120.0).unwrap()), ..OutputReading::default() }];
        assert_eq!(total(&session, &run), Err(NoTotal::PeakOfClipped));
        run.mode = Mode::Certified;
        // 120² / (8 × 3.91) = 460.36 W
        assert!((total(&session, &run).unwrap().total_w - 460.358).abs() < 1e-3);
        run.outputs.clear();
        assert_eq!(total(&session, &run), Err(NoTotal::NothingRead));
        run.outputs = vec![OutputReading::default()];
        assert_eq!(total(&session, &run), Err(NoTotal::EmptyOutput { index: 0 }));
    }

    proptest! {
        #[test]
        fn twice_the_volts_is_four_times_the_power(volts in 0.5f64..200.0) {
            let session = examples::mono_1100();
            let mut run = session.runs[0].clone();
            let mut at = |v: f64| {
                run.outputs = vec![OutputReading { volts_peak: Some(VoltsPeak::new(v).unwrap()), ..OutputReading::default() }];
                total(&session, &run).unwrap()
            };
            let (one, two) = (at(volts), at(2.0 * volts));
            prop_assert!((two.total_w / one.total_w - 4.0).abs() < 1e-9);
            prop_assert!((two.relative_u() - one.relative_u()).abs() < 1e-12, "a relative limit stays relative");
        }
    }
}
