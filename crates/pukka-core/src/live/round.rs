//! One round of readings.

use serde::{Deserialize, Serialize};

use crate::instruments::Role;
use crate::kernel::units::Level;

/// A reading of every meter at about the same moment.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Round {
    /// Since the start, milliseconds, by a clock that never goes back.
    pub t_ms: u64,
    /// Level it was read at, dB; nothing with the level down.
    pub level_db: Option<Level>,
    /// Watts of each output.
    pub power_w: Vec<f64>,
    /// Distortion of the worst output, a fraction.
    pub thd_ratio: Option<f64>,
    /// Supply volts.
    pub supply_v: Option<f64>,
    /// Supply amps.
    pub supply_a: Option<f64>,
    /// Of the heatsink, °C.
    #[serde(default)]
    pub temperature_c: Option<f64>,
    /// Watts of the first and of the last of counted cycles, of each output.
    #[serde(skip)]
    #[schema(ignore)]
    pub cycles_w: Vec<(f64, f64)>,
    /// Last digits of the answers, as they were written.
    #[serde(skip)]
    #[schema(ignore)]
    pub digits: Digits,
    /// A meter that was past its range, which may be between two ranges: what it read is no reading.
    #[serde(skip)]
    #[schema(ignore)]
    pub ranging: Option<Role>,
    /// The first whole wave of this level is not over: the outputs have no reading yet.
    #[serde(skip)]
    #[schema(ignore)]
    pub before_wave: bool,
}

/// Worth of the last digit of a reading: two readings that differ by less are one. 0 where it is not known.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Digits {
    /// Of watts.
    pub power_w: f64,
    /// Of distortion, a fraction.
    pub thd_ratio: f64,
    /// Of supply amps.
    pub supply_a: f64,
}

impl Round {
    /// Power of all outputs together, watts.
    #[must_use]
    pub fn total_w(&self) -> f64 {
        self.power_w.iter().sum()
    }

    /// The output that gives most, watts.
    #[must_use]
    pub fn most_w(&self) -> f64 {
        self.power_w.iter().copied().fold(0.0, f64::max)
    }

    /// Watts taken from the supply.
    #[must_use]
    pub fn input_w(&self) -> Option<f64> {
        Some(self.supply_v? * self.supply_a?)
    }

    /// Whether the outputs were read, so that the round is one to keep.
    #[must_use]
    pub const fn is_read(&self) -> bool {
        self.ranging.is_none() && !self.before_wave
    }

    /// Whether every figure in it is one.
    #[must_use]
    pub fn is_sound(&self) -> bool {
        let others = [self.thd_ratio, self.supply_v, self.supply_a];
        let temperature = self.temperature_c.is_none_or(f64::is_finite);
        temperature && self.power_w.iter().chain(others.iter().flatten()).all(|value| value.is_finite() && *value >= 0.0)
    }
}
