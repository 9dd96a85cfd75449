//! Levels as generators take them: decibels against full output, or volts and what is made of them.

use serde::{Deserialize, Serialize};

use crate::kernel::units::Level;

/// Unit of a generator's level.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
pub enum LevelUnit {
    /// Decibels against full output.
    #[default]
    #[serde(rename = "dB")]
    Decibels,
    /// Decibels against 1 V rms.
    #[serde(rename = "dBV")]
    DecibelVolts,
    /// Decibels against 1 mW into 50 Ω.
    #[serde(rename = "dBm")]
    DecibelMilliwatts,
    /// Volts rms.
    #[serde(rename = "V")]
    Volts,
    /// Millivolts rms.
    #[serde(rename = "mV")]
    Millivolts,
    /// Volts from peak to peak.
    #[serde(rename = "Vpp")]
    PeakToPeak,
}

/// Volts rms of 1 mW into 50 Ω.
const MILLIWATT_V: f64 = 0.223_606_797_749_979;

impl LevelUnit {
    /// A level in this unit, of a generator that gives `full_v` at 0 dB.
    #[must_use]
    pub fn of(self, level: Level, full_v: f64) -> f64 {
        let volts = full_v * 10f64.powf(level.get() / 20.0);
        match self {
            Self::Decibels => level.get(),
            Self::DecibelVolts => 20.0 * volts.log10(),
            Self::DecibelMilliwatts => 20.0 * (volts / MILLIWATT_V).log10(),
            Self::Volts => volts,
            Self::Millivolts => volts * 1e3,
            Self::PeakToPeak => volts * 8f64.sqrt(),
        }
    }

    /// The decibels against full output of a number in this unit; nothing of none.
    #[must_use]
    pub fn level_db(self, number: f64, full_v: f64) -> f64 {
        let of_volts = |volts: f64| if volts > 0.0 { 20.0 * (volts / full_v).log10() } else { f64::NEG_INFINITY };
        match self {
            Self::Decibels => number,
            Self::DecibelVolts => number - 20.0 * full_v.log10(),
            Self::DecibelMilliwatts => number + 20.0 * (MILLIWATT_V / full_v).log10(),
            Self::Volts => of_volts(number),
            Self::Millivolts => of_volts(number / 1e3),
            Self::PeakToPeak => of_volts(number / 8f64.sqrt()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn there_and_back() {
        let level = Level::new(-12.5).unwrap();
        for unit in [
            LevelUnit::Decibels,
            LevelUnit::DecibelVolts,
            LevelUnit::DecibelMilliwatts,
            LevelUnit::Volts,
            LevelUnit::Millivolts,
            LevelUnit::PeakToPeak,
        ] {
            assert!((unit.level_db(unit.of(level, 2.0), 2.0) + 12.5).abs() < 1e-9, "{unit:?}");
        }
        assert!((LevelUnit::Volts.of(Level::FULL, 2.0) - 2.0).abs() < 1e-12);
        assert!((LevelUnit::DecibelMilliwatts.of(Level::FULL, 0.223_607) - 0.0).abs() < 1e-5, "0 dBm is 224 mV into 50 Ω");
        assert_eq!(LevelUnit::Volts.level_db(0.0, 1.0), f64::NEG_INFINITY);
    }
}
