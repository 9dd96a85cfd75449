//! The bench as it was: its supply, its loads, its meters.

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::units::{Amps, Ohms, Ratio, Watts};

/// What feeds the amplifier.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum SupplyKind {
    /// A battery bank.
    Battery,
    /// A mains-powered supply.
    Supply,
    /// Both together.
    Both,
}

/// The supply of a bench.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Supply {
    /// What it is.
    pub kind: SupplyKind,
    /// The most it gives.
    #[serde(default)]
    pub current_limit_a: Option<Amps>,
    /// The fuse in its lead.
    #[serde(default)]
    pub lead_fuse_a: Option<Amps>,
    /// Its source resistance.
    #[serde(default)]
    pub source_ohm: Option<Ohms>,
}

/// Resistors of one kind.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LoadResistor {
    /// As printed.
    pub nominal_ohm: Ohms,
    /// As measured.
    #[serde(default)]
    pub measured_ohm: Option<Ohms>,
    /// Its own tolerance, as a fraction.
    #[serde(default)]
    pub tolerance_ratio: Option<Ratio>,
    /// What it can take for ever.
    #[serde(default)]
    pub continuous_w: Option<Watts>,
    /// What it can take for ten seconds.
    #[serde(default)]
    pub ten_second_w: Option<Watts>,
    /// How many there are.
    pub count: u32,
}

/// What a meter reads.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Quantity {
    /// Output watts.
    Power,
    /// Output volts.
    Voltage,
    /// Supply amps.
    Current,
    /// Ohms of a load.
    Resistance,
    /// Supply volts.
    SupplyVoltage,
}

/// A meter and its limits: ± (`reading_ratio` · reading + `absolute`).
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Meter {
    /// Its id inside the session.
    pub id: String,
    /// What it reads.
    pub quantity: Quantity,
    /// Part of its limits that grows with the reading.
    pub reading_ratio: Ratio,
    /// Part of its limits that does not, in the unit it reads.
    #[serde(default)]
    pub absolute: f64,
}

impl Meter {
    /// Half-width of its limits at a reading, in the unit it reads.
    #[must_use]
    pub fn half_width(&self, reading: f64) -> f64 {
        self.reading_ratio.get() * reading.abs() + self.absolute
    }
}

/// The bench as it was for one session.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Bench {
    /// What fed it.
    pub supply: Supply,
    /// The resistors it had.
    #[serde(default)]
    pub loads: Vec<LoadResistor>,
    /// The meters it had.
    #[serde(default)]
    pub meters: Vec<Meter>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

impl Default for Bench {
    fn default() -> Self {
        Self {
            supply: Supply { kind: SupplyKind::Battery, current_limit_a: None, lead_fuse_a: None, source_ohm: None },
            loads: Vec::new(),
            meters: Vec::new(),
            extra: Map::new(),
        }
    }
}

impl Bench {
    /// The meter a reading names, else the first of its quantity.
    #[must_use]
    pub fn meter(&self, named: Option<&str>, quantity: Quantity) -> Option<&Meter> {
        named
            .and_then(|id| self.meters.iter().find(|meter| meter.id == id && meter.quantity == quantity))
            .or_else(|| self.meters.iter().find(|meter| meter.quantity == quantity))
    }
}
