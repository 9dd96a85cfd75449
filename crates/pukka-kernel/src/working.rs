//! How a figure was made, carried beside the figure itself.
//!
//! Whatever the core computes for a person comes as a [`Figure`]: the number, the number as shown, and its [`Working`].

use serde::{Deserialize, Serialize};

use crate::format;

/// A number that went into a formula.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Input {
    /// Symbol in the formula.
    pub symbol: String,
    /// Kind, in words.
    pub what: String,
    /// Value, with its unit.
    pub value: String,
}

/// Derivation of a figure.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Working {
    /// Name of the figure.
    pub title: String,
    /// The formula, in the symbols of `inputs`.
    pub formula: String,
    /// The numbers put in.
    pub inputs: Vec<Input>,
    /// Assumptions.
    pub assumptions: Vec<String>,
    /// The standard or textbook it is from.
    pub source: String,
    /// Derivations of those numbers put in that are no readings themselves.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(no_recursion)]
    pub from: Vec<Working>,
}

impl Working {
    /// A working with nothing put in yet.
    #[must_use]
    pub fn new(title: impl Into<String>, formula: &str, source: &str) -> Self {
        Self { title: title.into(), formula: formula.into(), source: source.into(), ..Self::default() }
    }

    /// Adds a number as it was read.
    #[must_use]
    pub fn with(self, symbol: &str, what: impl Into<String>, value: impl Into<f64>, unit: &str) -> Self {
        self.with_text(symbol, what, format::with_unit(&format::as_read(value.into()), unit))
    }

    /// Adds a number already put into text.
    #[must_use]
    pub fn with_text(mut self, symbol: &str, what: impl Into<String>, value: String) -> Self {
        self.inputs.push(Input { symbol: symbol.into(), what: what.into(), value });
        self
    }

    /// Adds how a number that was put in was made itself.
    #[must_use]
    pub fn made_from(mut self, made: impl IntoIterator<Item = Self>) -> Self {
        self.from.extend(made);
        self
    }

    /// Adds what had to be assumed.
    #[must_use]
    pub fn assuming(mut self, what: impl Into<String>) -> Self {
        self.assumptions.push(what.into());
        self
    }
}

/// A number for a person: as computed, as shown, and how it was made.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Figure {
    /// As computed, in `unit` (a percentage is ×100 already).
    pub value: f64,
    /// As shown.
    pub text: String,
    /// Unit.
    pub unit: String,
    /// ± at k = 2, as shown, in the same unit.
    pub plus_minus: Option<String>,
    /// Derivation.
    pub working: Working,
}

impl Figure {
    fn shown(value: f64, text: String, unit: &str, working: Working) -> Self {
        Self { value, text, unit: unit.into(), plus_minus: None, working }
    }

    /// Watts.
    #[must_use]
    pub fn watts(value: f64, working: Working) -> Self {
        Self::shown(value, format::watts(value), "W", working)
    }

    /// Supply volts.
    #[must_use]
    pub fn volts(value: f64, working: Working) -> Self {
        Self::shown(value, format::volts(value), "V", working)
    }

    /// Ohms.
    #[must_use]
    pub fn ohms(value: f64, working: Working) -> Self {
        Self::shown(value, format::ohms(value), "Ω", working)
    }

    /// Ohms, shown in milliohms.
    #[must_use]
    pub fn milliohms(ohm: f64, working: Working) -> Self {
        Self::shown(ohm * 1e3, format::fixed(ohm * 1e3, 1), "mΩ", working)
    }

    /// Amps.
    #[must_use]
    pub fn amps(value: f64, working: Working) -> Self {
        Self::shown(value, format::amps(value), "A", working)
    }

    /// A fraction, shown as a percentage.
    #[must_use]
    pub fn percent(ratio: f64, working: Working) -> Self {
        Self::shown(ratio * 100.0, format::percent(ratio), "%", working)
    }

    /// To three digits, in a unit of its own.
    #[must_use]
    pub fn significant(value: f64, unit: &str, working: Working) -> Self {
        Self::shown(value, format::significant(value, 3), unit, working)
    }

    /// Decibels.
    #[must_use]
    pub fn decibels(value: impl Into<f64>, working: Working) -> Self {
        let value = value.into();
        Self::shown(value, format::decibels(value), "dB", working)
    }

    /// The same figure with its expanded uncertainty, in the figure's unit.
    #[must_use]
    pub fn give_or_take(mut self, expanded: Option<f64>) -> Self {
        self.plus_minus = expanded.map(|u| match self.unit.as_str() {
            "%" => format::fixed(u, 1),
            _ => format::plus_minus(self.value, u),
        });
        self
    }

    /// The same figure with its ±, already put into text in the figure's unit.
    #[must_use]
    pub fn give_or_take_text(mut self, text: Option<String>) -> Self {
        self.plus_minus = text;
        self
    }

    /// Figure and unit in one text.
    #[must_use]
    pub fn words(&self) -> String {
        format::with_unit(&self.text, &self.unit)
    }

    /// Likewise, with its ± where it has one: "794 W ± 20.5".
    #[must_use]
    pub fn words_with_u(&self) -> String {
        let u = self.plus_minus.as_ref().map(|u| format!(" ± {u}")).unwrap_or_default();
        self.words() + &u
    }
}

/// Sources that more than one working names.
pub mod source {
    /// Rated output and distortion of amplifiers.
    pub const AMPLIFIERS: &str = "IEC 60268-3, Amplifiers: rated output power and distortion";
    /// Rating conditions for mobile amplifiers.
    pub const MOBILE: &str = "CTA-2006, rating conditions for mobile amplifiers";
    /// Uncertainty.
    pub const UNCERTAINTY: &str = "JCGM 100:2008 (GUM), 4.3.7 and 6.2";
    /// Elementary circuits.
    pub const CIRCUITS: &str = "Ohm's and Joule's laws; any textbook of electrical circuits";
    /// The sine that fits a wave best.
    pub const SINE_FIT: &str = "IEEE 1057, sine fit by least squares";
    /// What is read of a captured wave.
    pub const TRACE_METHOD: &str = "AES17, and Pukka method, docs/method.md, Captured waves";
    /// A convention of the method, explained in docs/method.md.
    pub const METHOD: &str = "Pukka method, docs/method.md";
}
