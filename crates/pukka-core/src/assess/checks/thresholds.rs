//! Thresholds of the checks: what is held against what, and on which side each check fires.

use crate::evidence::check::Severity;
use crate::evidence::{band, supply};
use crate::kernel::format;
use crate::record::amplifier::Class;

/// On which side of a threshold a check fires.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fires {
    /// Above it; exactly on it nothing is said.
    Above,
    /// Below it; exactly on it nothing is said.
    Below,
    /// On it and above it.
    From,
    /// On it and below it.
    UpTo,
}

/// A threshold of a check.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Threshold {
    /// Name of the quantity held against it.
    pub name: &'static str,
    /// Value; nothing where the session sets it.
    pub value: Option<f64>,
    /// Unit.
    pub unit: &'static str,
    /// On which side the check fires.
    pub fires: Fires,
    /// Gravity from there on.
    pub severity: Severity,
}

impl Threshold {
    const fn new(name: &'static str, value: f64, unit: &'static str, fires: Fires, severity: Severity) -> Self {
        Self { name, value: Some(value), unit, fires, severity }
    }

    /// Value, of one that the rules set.
    pub(super) const fn get(self) -> f64 {
        match self.value {
            Some(value) => value,
            None => f64::NAN,
        }
    }
}

const fn ceiling(class: Class) -> f64 {
    match class.ceiling() {
        Some(ceiling) => ceiling,
        None => f64::INFINITY,
    }
}

pub(super) const MOST_EFFICIENCY: Threshold = Threshold::new("efficiency", 1.0, "", Fires::Above, Severity::Stop);
pub(super) const CEILING_AB: Threshold = Threshold::new("efficiency, class AB", ceiling(Class::AB), "", Fires::Above, Severity::Doubt);
pub(super) const CEILING_D: Threshold = Threshold::new("efficiency, class D", ceiling(Class::D), "", Fires::Above, Severity::Doubt);
pub(super) const EFFICIENCY_RISE: Threshold =
    Threshold::new("efficiency at the lower load, less that at the higher", 0.05, "", Fires::Above, Severity::Doubt);
pub(super) const STEP: Threshold =
    Threshold::new("growth of power, over what loads and supply allow", 1.05, "×", Fires::Above, Severity::Doubt);
pub(super) const STEP_STOP: Threshold =
    Threshold::new("growth of power, over what loads and supply allow", 1.05 * 1.25, "×", Fires::Above, Severity::Stop);
pub(super) const EQUIVALENT_WATTS: Threshold =
    Threshold::new("watts of equivalents, larger over smaller", 1.10, "×", Fires::Above, Severity::Doubt);
pub(super) const EQUIVALENT_EFFICIENCY: Threshold =
    Threshold::new("efficiencies of equivalents, apart", 0.05, "", Fires::Above, Severity::Doubt);
pub(super) const ORDER: Threshold = Threshold::new("watts below certified, over √(U1² + U2²)", 1.0, "×", Fires::Above, Severity::Doubt);
pub(super) const LOAD_DOUBT: Threshold = Threshold::new("V²/P and the load, larger over smaller", 1.06, "×", Fires::Above, Severity::Doubt);
pub(super) const LOAD_STOP: Threshold = Threshold::new("V²/P and the load, larger over smaller", 1.20, "×", Fires::Above, Severity::Stop);
pub(super) const SLIP_OFF: Threshold = Threshold::new("reading off its prediction, of it", 0.5, "", Fires::Above, Severity::Doubt);
pub(super) const SLIP_NEAR: Threshold =
    Threshold::new("reading with its point moved, off its prediction, of it", 0.15, "", Fires::UpTo, Severity::Doubt);
pub(super) const SAME_AMPS_WATTS: Threshold =
    Threshold::new("watts of two runs with the same amps, larger over smaller", 1.03, "×", Fires::Above, Severity::Doubt);
pub(super) const SAG: Threshold = Threshold::new("sag, over Rsource · I", 1.0 / 3.0, "×", Fires::Below, Severity::Doubt);
pub(super) const SAG_RUNS: Threshold = Threshold::new("other runs that show the supply", 3.0, "", Fires::From, Severity::Doubt);
pub(super) const RISE: Threshold = Threshold::new("volts at the end, less those at rest", 0.0, "V", Fires::Above, Severity::Doubt);
pub(super) const WINDOW: Threshold = Threshold::new("volts from the claim's", 0.3, "V", Fires::Above, Severity::Note);
pub(super) const UNDER: Threshold = Threshold::new("volts under the claim's", band::WINDOW_V, "V", Fires::Above, Severity::Note);
pub(super) const SUPPLY_LIMIT: Threshold = Threshold::new("amps, over the supply's current limit", 0.98, "×", Fires::From, Severity::Note);
pub(super) const METERS: Threshold = Threshold::new("two meters apart, over 2·√(ua² + ub²)", 1.0, "×", Fires::Above, Severity::Doubt);
pub(super) const BALANCE: Threshold = Threshold::new("strongest over weakest output", 0.5, "dB", Fires::Above, Severity::Note);
pub(super) const FUSES: Threshold = Threshold::new("amps, over the supply fuses", 1.0, "×", Fires::Above, Severity::Doubt);
pub(super) const DISTORTION: Threshold =
    Threshold { name: "distortion of a certified run", value: None, unit: "", fires: Fires::Above, severity: Severity::Stop };
pub(super) const HEATSINK: Threshold =
    Threshold { name: "heatsink", value: None, unit: "°C", fires: Fires::Above, severity: Severity::Doubt };
pub(super) const IMPLIED_LOW: Threshold =
    Threshold::new("P/(η · I), without volts", supply::LEAST_DERIVED_V, "V", Fires::Below, Severity::Stop);
pub(super) const IMPLIED_OVER_REST: Threshold =
    Threshold::new("P/(η · I), without volts, over rest", supply::OVER_REST_V, "V", Fires::Above, Severity::Stop);
pub(super) const IMPLIED_HIGH: Threshold =
    Threshold::new("P/(η · I), without volts or rest", supply::MOST_DERIVED_V, "V", Fires::Above, Severity::Stop);
pub(super) const EFFICIENCIES: Threshold = Threshold::new("efficiency read and P/(V · I), apart", 0.05, "", Fires::Above, Severity::Doubt);
pub(super) const LEAST_EFFICIENCY: Threshold = Threshold::new("efficiency, of a tone", 0.25, "", Fires::Below, Severity::Doubt);
pub(super) const LOW_FROM_W: Threshold = Threshold::new("watts from which efficiency counts", 20.0, "W", Fires::Above, Severity::Doubt);
pub(super) const FALL: Threshold =
    Threshold::new("watts at the lower load, over those at the higher", 0.9, "×", Fires::Below, Severity::Doubt);
pub(super) const UNDER_REST: Threshold = Threshold::new("volts read under rest", 3.0, "V", Fires::Above, Severity::Doubt);
pub(super) const SUPPLY_LOW: Threshold = Threshold::new("volts read, rest not known", 9.0, "V", Fires::Below, Severity::Doubt);
pub(super) const SUPPLY_HIGH: Threshold = Threshold::new("volts read, rest not known", 17.0, "V", Fires::Above, Severity::Doubt);
pub(super) const CHARGER: Threshold = Threshold::new("chargers on", 1.0, "", Fires::From, Severity::Note);
pub(super) const BIAS: Threshold = Threshold::new("second meter off the first, over its limits", 1.0, "×", Fires::Above, Severity::Doubt);
pub(super) const BIASED_RUNS: Threshold = Threshold::new("runs in which it is off to one side", 3.0, "", Fires::From, Severity::Doubt);
pub(super) const MISSING: Threshold = Threshold::new("supply volts read", 1.0, "", Fires::Below, Severity::Note);

impl Threshold {
    /// In a few words, for the table of the documents.
    pub(super) fn words(&self) -> String {
        let side = match self.fires {
            Fires::Above => ">",
            Fires::Below => "<",
            Fires::From => "≥",
            Fires::UpTo => "≤",
        };
        let severity = match self.severity {
            Severity::Stop => "stop",
            Severity::Doubt => "doubt",
            Severity::Note => "note",
        };
        let value = self.value.map_or_else(|| "the session's limit".into(), |value| format::significant(value, 5));
        let unit = if self.unit.is_empty() { String::new() } else { format!(" {}", self.unit) };
        format!("{severity}: {} {side} {value}{unit}", self.name)
    }
}
