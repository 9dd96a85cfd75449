//! The session file as the second judge reads it: no type of the program's own.

use serde::Deserialize;

#[derive(Deserialize, Clone, Copy, PartialEq)]
#[serde(tag = "kind", rename_all = "kebab-case")]
pub enum Wired {
    Mono,
    Channels { driven: u32 },
    Bridged { pairs: u32 },
    Strapped { amplifiers: u32 },
}

impl Wired {
    pub fn outputs(self) -> f64 {
        match self {
            Self::Mono | Self::Strapped { .. } => 1.0,
            Self::Channels { driven: n } | Self::Bridged { pairs: n } => f64::from(n),
        }
    }

    /// Ohms that a channel sees of a load, and how many channels are at work.
    pub fn channel(self, ohm: f64) -> (f64, u32) {
        match self {
            Self::Mono => (ohm, 1),
            Self::Strapped { amplifiers } => (ohm / 2.0, amplifiers.min(1)),
            Self::Channels { driven } => (ohm, driven),
            Self::Bridged { pairs } => (ohm / 2.0, 2 * pairs),
        }
    }

    /// `channels n` into R and `bridged n/2` into 2R are equivalent.
    pub fn twin(self, ohm: f64) -> Option<(Self, f64)> {
        match self {
            Self::Channels { driven } if driven % 2 == 0 => Some((Self::Bridged { pairs: driven / 2 }, 2.0 * ohm)),
            Self::Bridged { pairs } => Some((Self::Channels { driven: 2 * pairs }, ohm / 2.0)),
            _ => None,
        }
    }
}

#[derive(Deserialize)]
pub struct File {
    pub amplifier: Amplifier,
    pub claims: Vec<Claim>,
    pub bench: Bench,
    pub policy: Policy,
    pub plan: Plan,
    pub runs: Vec<Run>,
}

#[derive(Deserialize)]
pub struct Plan {
    pub rest_v: Option<f64>,
}

#[derive(Deserialize)]
pub struct Floor {
    pub wiring: Wired,
    pub load_ohm: f64,
}

#[derive(Deserialize)]
pub struct Amplifier {
    pub floors: Vec<Floor>,
    pub class: String,
    pub purpose: String,
    pub supply_type: String,
    pub fuses_a: Vec<f64>,
}

#[derive(Deserialize)]
pub struct Claim {
    pub id: String,
    pub wiring: Option<Wired>,
    pub load_ohm: Option<f64>,
    pub power_w: f64,
    pub per: String,
    pub kind: String,
    pub supply_v: Option<f64>,
    pub tone_hz: Option<f64>,
    pub used: bool,
}

impl Claim {
    pub fn total_w(&self) -> f64 {
        self.power_w * if self.per == "output" { self.wiring.map_or(1.0, Wired::outputs) } else { 1.0 }
    }

    pub fn at_v(&self) -> f64 {
        self.supply_v.unwrap_or(14.4)
    }
}

#[derive(Deserialize)]
pub struct Bench {
    pub supply: Supply,
    pub meters: Vec<Meter>,
}

#[derive(Deserialize)]
pub struct Supply {
    pub current_limit_a: Option<f64>,
}

#[derive(Deserialize)]
pub struct Meter {
    pub id: String,
    pub quantity: String,
    pub reading_ratio: f64,
    pub absolute: f64,
}

#[derive(Deserialize)]
pub struct Policy {
    pub repeats: String,
    pub thd_limit_ratio: f64,
}

#[derive(Deserialize, Default)]
#[serde(default)]
pub struct Output {
    pub power_w: Option<f64>,
    pub volts_rms: Option<f64>,
    pub volts_peak: Option<f64>,
    pub volts_pp: Option<f64>,
    pub meter: Option<String>,
    pub also: Vec<Output>,
}

#[derive(Deserialize)]
pub struct Clamp {
    pub current_a: Option<f64>,
    pub meter: Option<String>,
}

#[derive(Deserialize)]
pub struct Step {
    pub level_db: f64,
    pub outputs: Vec<Output>,
    pub thd_ratio: f64,
    pub end_v: Option<f64>,
    pub current_a: Option<f64>,
}

#[derive(Deserialize)]
pub struct Cycles {
    pub count: u32,
    pub first: Output,
    pub last: Option<Output>,
}

#[derive(Deserialize)]
pub struct Accepted {
    pub code: String,
}

#[derive(Deserialize)]
pub struct Run {
    pub id: String,
    pub at: String,
    pub wiring: Wired,
    pub load_nominal_ohm: f64,
    pub load_measured_ohm: Option<f64>,
    pub mode: String,
    pub tone_hz: f64,
    #[serde(default)]
    pub outputs: Vec<Output>,
    #[serde(default)]
    pub steps: Vec<Step>,
    pub cycles: Option<Cycles>,
    #[serde(default)]
    pub supply_also: Vec<Clamp>,
    pub efficiency_read_ratio: Option<f64>,
    pub charger_on: Option<bool>,
    pub rest_v: Option<f64>,
    pub end_v: Option<f64>,
    pub current_a: Option<f64>,
    pub thd_ratio: Option<f64>,
    pub valid: bool,
    #[serde(default)]
    pub ungated: bool,
    #[serde(default)]
    pub struck: Vec<String>,
    #[serde(default)]
    pub accepted: Vec<Accepted>,
    pub supersedes: Option<String>,
}

impl Run {
    /// A reading, unless it was struck.
    pub fn read(&self, name: &str, value: Option<f64>) -> Option<f64> {
        value.filter(|_| !self.struck.iter().any(|struck| struck == name))
    }

    /// Kind of burst: 0 is the standard one; nothing unless it is a burst.
    pub fn kind(&self) -> Option<u32> {
        (self.mode == "dynamic").then(|| self.cycles.as_ref().map_or(0, |cycles| cycles.count))
    }

    pub fn ohm(&self) -> f64 {
        self.load_measured_ohm.unwrap_or(self.load_nominal_ohm)
    }

    pub fn accepts(&self, code: &str) -> bool {
        self.accepted.iter().any(|accepted| accepted.code == code)
    }
}
