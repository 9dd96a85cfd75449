//! Units of answers: what a number in them comes to, in the quantity's own.

use crate::instruments::Quantity;

/// A unit that an answer may come in.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Unit {
    /// A number of the quantity's own units.
    Times(f64),
    /// Decibels: of volts against so many volts, of a ratio against 1.
    Decibels(f64),
    /// °F.
    Fahrenheit,
    /// K.
    Kelvin,
}

impl Unit {
    /// Meaning of a unit's word in answers of a quantity. Letters count: m is milli, M mega; W, V and A may be small.
    #[must_use]
    pub fn parse(quantity: Quantity, word: &str) -> Option<Self> {
        let word = word.trim();
        let base = match quantity {
            Quantity::Power | Quantity::Burst => "W",
            Quantity::OutputV | Quantity::SupplyV => "V",
            Quantity::SupplyA => "A",
            Quantity::Distortion => return ratio(word),
            Quantity::Temperature => return temperature(word),
        };
        if base == "V" && word.eq_ignore_ascii_case("dBV") {
            return Some(Self::Decibels(1.0));
        }
        // 0 dBm into 600 Ω, and the same volts without the ohms.
        if base == "V" && (word.eq_ignore_ascii_case("dBu") || word.eq_ignore_ascii_case("dBm")) {
            return Some(Self::Decibels(0.6f64.sqrt()));
        }
        // "V AC", "VDC", "Vrms": which of them it is, the query says.
        let bare = strip_kind(word);
        let prefix = bare.strip_suffix(base).or_else(|| bare.strip_suffix(&base.to_ascii_lowercase()))?;
        Some(Self::Times(match prefix {
            "" => 1.0,
            "m" => 1e-3,
            "u" | "µ" | "μ" => 1e-6,
            "k" | "K" => 1e3,
            "M" => 1e6,
            _ => return None,
        }))
    }

    /// A number in this unit.
    #[must_use]
    pub fn value(self, number: f64) -> f64 {
        match self {
            Self::Times(times) => number * times,
            Self::Decibels(against) => against * 10f64.powf(number / 20.0),
            Self::Fahrenheit => (number - 32.0) / 1.8,
            Self::Kelvin => number - 273.15,
        }
    }
}

fn strip_kind(word: &str) -> &str {
    ["rms", "RMS", "ac", "AC", "dc", "DC"].iter().find_map(|kind| word.strip_suffix(kind)).unwrap_or(word).trim_end()
}

fn ratio(word: &str) -> Option<Unit> {
    match word {
        "%" | "PCT" | "pct" => Some(Unit::Times(0.01)),
        "ratio" => Some(Unit::Times(1.0)),
        "ppm" => Some(Unit::Times(1e-6)),
        _ => word.eq_ignore_ascii_case("dB").then_some(Unit::Decibels(1.0)),
    }
}

fn temperature(word: &str) -> Option<Unit> {
    match word.trim_start_matches(['°', 'º']) {
        "C" | "CEL" | "degC" => Some(Unit::Times(1.0)),
        "F" | "FAR" | "degF" => Some(Unit::Fahrenheit),
        "K" => Some(Unit::Kelvin),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn units_as_they_are_written() {
        let value = |quantity, word: &str, number: f64| Unit::parse(quantity, word).map(|unit| unit.value(number));
        assert_eq!(value(Quantity::SupplyA, "mA", 980.0), Some(0.98));
        assert_eq!(value(Quantity::Power, "kW", 1.2), Some(1_200.0));
        assert_eq!(value(Quantity::OutputV, "V AC", 12.0), Some(12.0));
        assert_eq!(value(Quantity::SupplyV, "VDC", 14.4), Some(14.4));
        assert_eq!(value(Quantity::OutputV, "dBV", 20.0), Some(10.0));
        assert!((value(Quantity::OutputV, "dBu", 0.0).unwrap() - 0.774_6).abs() < 1e-4);
        assert_eq!(value(Quantity::Distortion, "%", 1.0), Some(0.01));
        assert_eq!(value(Quantity::Distortion, "dB", -40.0), Some(0.01));
        assert_eq!(value(Quantity::Temperature, "°F", 212.0), Some(100.0));
        for (quantity, word) in [(Quantity::SupplyV, "A"), (Quantity::Power, "V"), (Quantity::SupplyA, "dBV"), (Quantity::Power, "xW")] {
            assert_eq!(Unit::parse(quantity, word), None, "{word}");
        }
    }
}
