//! What was read in a run: at an output, at a level step, in counted cycles, after a hold.

use serde::{Deserialize, Serialize};

use crate::kernel::absent::or_default;
use crate::kernel::problem::Problem;
use crate::kernel::units::{Amps, Level, Ratio, Volts, VoltsPeak, VoltsPeakToPeak, VoltsRms, Watts};

/// Reading of a second meter at the same output.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(default)]
pub struct SecondReading {
    /// Watts.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub power_w: Option<Watts>,
    /// Volts rms.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub volts_rms: Option<VoltsRms>,
    /// Volts, zero to peak.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub volts_peak: Option<VoltsPeak>,
    /// Volts, peak to peak.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub volts_pp: Option<VoltsPeakToPeak>,
    /// The meter.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub meter: Option<String>,
}

impl SecondReading {
    /// Watts, volts rms, volts peak and volts peak to peak, in the order in which they count.
    #[must_use]
    pub fn in_order(&self) -> [Option<f64>; 4] {
        in_order(self.power_w, self.volts_rms, self.volts_peak, self.volts_pp)
    }
}

fn in_order(
    power_w: Option<Watts>,
    volts_rms: Option<VoltsRms>,
    volts_peak: Option<VoltsPeak>,
    volts_pp: Option<VoltsPeakToPeak>,
) -> [Option<f64>; 4] {
    [power_w.map(Watts::get), volts_rms.map(VoltsRms::get), volts_peak.map(VoltsPeak::get), volts_pp.map(VoltsPeakToPeak::get)]
}

/// Readings at one output: the first present of watts, volts rms, peak, peak to peak is the one used.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(default)]
pub struct OutputReading {
    /// Name of the output.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// The group of a mixed wiring that it belongs to, from 0.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub group: Option<u8>,
    /// Watts.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub power_w: Option<Watts>,
    /// Volts rms.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub volts_rms: Option<VoltsRms>,
    /// Volts, zero to peak.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub volts_peak: Option<VoltsPeak>,
    /// Volts, peak to peak.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub volts_pp: Option<VoltsPeakToPeak>,
    /// The meter.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub meter: Option<String>,
    /// Readings of other meters.
    #[serde(deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub also: Vec<SecondReading>,
}

impl OutputReading {
    /// Watts, volts rms, volts peak and volts peak to peak, in the order in which they count.
    #[must_use]
    pub fn in_order(&self) -> [Option<f64>; 4] {
        in_order(self.power_w, self.volts_rms, self.volts_peak, self.volts_pp)
    }

    /// Whether nothing was read.
    #[must_use]
    pub const fn is_empty(&self) -> bool {
        self.power_w.is_none() && self.volts_rms.is_none() && self.volts_peak.is_none() && self.volts_pp.is_none()
    }
}

/// A level of a run by level steps.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LevelStep {
    /// Level of the generator.
    pub level_db: Level,
    /// Readings at the outputs.
    pub outputs: Vec<OutputReading>,
    /// Distortion, as a fraction.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub thd_ratio: Option<Ratio>,
    /// Supply under load.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub end_v: Option<Volts>,
    /// Supply current.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub current_a: Option<Amps>,
}

/// A burst of counted cycles: its first and its last cycle were read. A single one is one reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Cycles {
    /// Number of them.
    pub count: u32,
    /// The first of them.
    pub first: OutputReading,
    /// The last of them; it may be left out where there is one only.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub last: Option<OutputReading>,
}

impl Cycles {
    /// The readings there are: one or two.
    pub fn ends(&self) -> impl Iterator<Item = &OutputReading> {
        std::iter::once(&self.first).chain(&self.last)
    }
}

/// Readings after the tone was held.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Hold {
    /// For how long.
    pub seconds: f64,
    /// Readings at the outputs then.
    pub outputs: Vec<OutputReading>,
    /// Supply under load, then.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub end_v: Option<Volts>,
    /// Supply current, then.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub current_a: Option<Amps>,
}

/// A second meter on the supply: kept and compared, not computed with.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SupplyReading {
    /// Supply under load.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub end_v: Option<Volts>,
    /// Supply current.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub current_a: Option<Amps>,
    /// The meter.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub meter: Option<String>,
}

/// Most level steps of one run.
pub const MOST_STEPS: usize = 64;

/// Problems with the rows of a run that has `outputs` outputs.
pub(super) fn check_rows(steps: &[LevelStep], cycles: Option<&Cycles>, hold: Option<&Hold>, outputs: usize) -> Vec<Problem> {
    let mut problems = Vec::new();
    let too_many = |there: usize| there > outputs;
    if steps.len() > MOST_STEPS {
        problems.push(Problem::new("steps", format!("{} steps are too many: {MOST_STEPS} at most.", steps.len())));
        return problems;
    }
    for (i, step) in steps.iter().enumerate() {
        if too_many(step.outputs.len()) {
            problems.push(Problem::new(format!("steps[{i}].outputs"), "There are more readings than outputs."));
        }
        if steps.iter().take(i).any(|other| (other.level_db.get() - step.level_db.get()).abs() < 1e-9) {
            problems.push(Problem::new(format!("steps[{i}].level_db"), format!("There is already a step at {} dB.", step.level_db.get())));
        }
    }
    if let Some(cycles) = cycles {
        if cycles.count == 0 || cycles.count > 1_000 {
            problems.push(Problem::new("cycles.count", "Counted cycles are 1 to 1000."));
        }
        if cycles.last.is_none() && cycles.count > 1 {
            problems.push(Problem::new("cycles.last", "Of several cycles the first and the last are read."));
        }
        for (name, end) in ["first", "last"].into_iter().zip(cycles.ends()) {
            if end.is_empty() {
                problems.push(Problem::new(format!("cycles.{name}"), "It has no reading."));
            }
        }
    }
    if let Some(hold) = hold {
        if !(hold.seconds > 0.0 && hold.seconds <= 86_400.0) {
            problems.push(Problem::new("hold.seconds", "A hold lasts more than 0 s, and a day at most."));
        }
        if too_many(hold.outputs.len()) {
            problems.push(Problem::new("hold.outputs", "There are more readings than outputs."));
        }
    }
    problems
}
