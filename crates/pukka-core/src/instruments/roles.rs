//! What an instrument does on the bench, and what is read of it.

use serde::{Deserialize, Serialize};

/// Task of an instrument.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Role {
    /// Plays the tone.
    Generator,
    /// Reads power and distortion.
    Analyser,
    /// Reads the supply at the amplifier's terminals.
    Voltmeter,
    /// Reads the supply current.
    Ammeter,
    /// Feeds the amplifier.
    Supply,
    /// Reads the heatsink.
    Thermometer,
}

impl Role {
    /// Every one of them.
    pub const ALL: [Self; 6] = [Self::Generator, Self::Analyser, Self::Voltmeter, Self::Ammeter, Self::Supply, Self::Thermometer];

    /// Word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Generator => "generator",
            Self::Analyser => "analyser",
            Self::Voltmeter => "voltmeter",
            Self::Ammeter => "ammeter",
            Self::Supply => "supply",
            Self::Thermometer => "thermometer",
        }
    }

    /// In a sentence.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Generator => "signal generator",
            Self::Analyser => "power and distortion analyser",
            Self::Voltmeter => "supply voltmeter",
            Self::Ammeter => "clamp or shunt ammeter",
            Self::Supply => "power supply",
            Self::Thermometer => "heatsink thermometer",
        }
    }

    /// Quantities that it reads.
    #[must_use]
    pub const fn reads(self) -> &'static [Quantity] {
        match self {
            Self::Generator => &[],
            Self::Analyser => &[Quantity::Power, Quantity::OutputV, Quantity::Burst, Quantity::Distortion],
            Self::Voltmeter => &[Quantity::SupplyV],
            Self::Ammeter => &[Quantity::SupplyA],
            Self::Supply => &[Quantity::SupplyV, Quantity::SupplyA],
            Self::Thermometer => &[Quantity::Temperature],
        }
    }

    /// The one with this word.
    #[must_use]
    pub fn parse(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|role| role.word() == word)
    }
}

/// Kind of quantity that is read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Quantity {
    /// Watts of one output.
    Power,
    /// Volts rms of one output, which watts are made of by the measured load.
    OutputV,
    /// Watts of one output in a burst.
    Burst,
    /// Distortion of one output, a fraction.
    Distortion,
    /// Supply volts.
    SupplyV,
    /// Supply amps.
    SupplyA,
    /// Of the heatsink, °C.
    Temperature,
}

impl Quantity {
    /// Every one of them.
    pub const ALL: [Self; 7] = [Self::Power, Self::OutputV, Self::Burst, Self::Distortion, Self::SupplyV, Self::SupplyA, Self::Temperature];

    /// As it is named in a profile.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Power => "power",
            Self::OutputV => "output_v",
            Self::Burst => "burst",
            Self::Distortion => "distortion",
            Self::SupplyV => "supply_v",
            Self::SupplyA => "supply_a",
            Self::Temperature => "temperature",
        }
    }

    /// The one with this word.
    #[must_use]
    pub fn parse(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|quantity| quantity.word() == word)
    }

    /// Unit, and the most that can be: past it a scale is wrong.
    #[must_use]
    pub const fn most(self) -> (&'static str, f64) {
        match self {
            Self::Power | Self::Burst => ("W", 100_000.0),
            Self::OutputV => ("V", 1_000.0),
            Self::Distortion => ("of the tone", 10.0),
            Self::SupplyV => ("V", 60.0),
            Self::SupplyA => ("A", 5_000.0),
            Self::Temperature => ("°C", 400.0),
        }
    }
}
