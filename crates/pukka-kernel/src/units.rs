//! Quantities as types: a slip between rms and peak, or between a ratio and a percentage, does not compile.
//!
//! Every quantity is a finite `f64` inside bounds that no car amplifier's bench leaves; what cannot be is refused where
//! it is made. JSON carries the bare number, its unit stands in the field's name (`power_w`, `load_ohm`).

use std::fmt;

use serde::{Deserialize, Serialize};
use thiserror::Error;

/// Reason why a number cannot be a quantity.
#[derive(Debug, Clone, Copy, PartialEq, Error)]
pub enum QuantityError {
    /// NaN or an infinity.
    #[error("{what} has to be a number, not {value}")]
    NotFinite {
        /// Name of the quantity.
        what: &'static str,
        /// Value given.
        value: f64,
    },
    /// Below what can be.
    #[error("{} {unit} is too little for {what}: it has to be {}", said(*.value), floor_words(*.least, *.exclusive, .unit))]
    TooSmall {
        /// Name of the quantity.
        what: &'static str,
        /// Unit.
        unit: &'static str,
        /// Value given.
        value: f64,
        /// The least allowed.
        least: f64,
        /// Whether the least itself is refused.
        exclusive: bool,
    },
    /// Beyond what any bench sees.
    #[error("{} {unit} is too much for {what}: {most} {unit} at most", said(*.value))]
    TooLarge {
        /// Name of the quantity.
        what: &'static str,
        /// Unit.
        unit: &'static str,
        /// Value given.
        value: f64,
        /// The most allowed.
        most: f64,
    },
}

/// A number as it was given; with a power of ten where its zeros would fill a page.
fn said(value: f64) -> String {
    let is_far = value != 0.0 && !(1e-6..1e15).contains(&value.abs());
    if is_far { format!("{value:e}") } else { value.to_string() }
}

fn floor_words(least: f64, exclusive: bool, unit: &str) -> String {
    if exclusive { format!("above {least} {unit}") } else { format!("{least} {unit} or more") }
}

fn number_schema(what: &str, unit: &str, (least, exclusive): (f64, bool), most: f64) -> utoipa::openapi::RefOr<utoipa::openapi::Schema> {
    use utoipa::openapi::schema::{KnownFormat, ObjectBuilder, SchemaFormat, Type};
    let said = if unit.is_empty() { what.to_owned() } else { format!("{what}, {unit}") };
    let number = ObjectBuilder::new()
        .schema_type(Type::Number)
        .format(Some(SchemaFormat::KnownFormat(KnownFormat::Double)))
        .description(Some(said))
        .maximum(Some(most));
    let number = if exclusive { number.exclusive_minimum(Some(least)) } else { number.minimum(Some(least)) };
    number.into()
}

macro_rules! quantity {
    ($(#[$doc:meta])* $name:ident, $what:literal, $unit:literal, $($above:ident)? $least:literal ..= $most:literal) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Serialize, Deserialize)]
        #[serde(try_from = "f64", into = "f64")]
        pub struct $name(f64);

        impl $name {
            /// Unit symbol.
            pub const UNIT: &'static str = $unit;
            /// The most that is accepted.
            pub const MOST: f64 = $most;

            /// Checks the number and makes the quantity.
            ///
            /// # Errors
            /// [`QuantityError`] when the number is not finite or outside what can be.
            pub const fn new(value: f64) -> Result<Self, QuantityError> {
                const EXCLUSIVE: bool = exclusive!($($above)?);
                if !value.is_finite() {
                    return Err(QuantityError::NotFinite { what: $what, value });
                }
                if value < $least || (EXCLUSIVE && value == $least) {
                    return Err(QuantityError::TooSmall { what: $what, unit: $unit, value, least: $least, exclusive: EXCLUSIVE });
                }
                if value > $most {
                    return Err(QuantityError::TooLarge { what: $what, unit: $unit, value, most: $most });
                }
                Ok(Self(value))
            }

            /// The bare number, in the unit of the type.
            #[must_use]
            pub const fn get(self) -> f64 {
                self.0
            }
        }

        // By hand: the derive takes no bounds out of a macro.
        impl utoipa::PartialSchema for $name {
            fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::Schema> {
                number_schema($what, $unit, ($least, exclusive!($($above)?)), $most)
            }
        }

        impl utoipa::ToSchema for $name {}

        impl TryFrom<f64> for $name {
            type Error = QuantityError;
            fn try_from(value: f64) -> Result<Self, QuantityError> {
                Self::new(value)
            }
        }

        impl From<$name> for f64 {
            fn from(quantity: $name) -> f64 {
                quantity.0
            }
        }

        impl fmt::Display for $name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                if $unit.is_empty() { write!(f, "{}", self.0) } else { write!(f, "{} {}", self.0, $unit) }
            }
        }
    };
}

macro_rules! exclusive {
    () => {
        false
    };
    (above) => {
        true
    };
}

quantity!(
    /// Power, watts.
    Watts, "power", "W", 0.0 ..= 100_000.0
);
quantity!(
    /// Power that a maker claims, watts: a claim of nothing is no claim.
    ClaimedWatts, "claimed power", "W", above 0.0 ..= 100_000.0
);
quantity!(
    /// A direct supply voltage, at the amplifier's terminals.
    Volts, "supply voltage", "V", above 0.0 ..= 100.0
);
quantity!(
    /// Rated voltage of a capacitor on the rails.
    RatedVolts, "rated voltage", "V", above 0.0 ..= 500.0
);
quantity!(
    /// An output voltage, rms.
    VoltsRms, "output voltage (rms)", "V", 0.0 ..= 2_000.0
);
quantity!(
    /// An output voltage, zero to peak.
    VoltsPeak, "output voltage (peak)", "V", 0.0 ..= 3_000.0
);
quantity!(
    /// An output voltage, peak to peak.
    VoltsPeakToPeak, "output voltage (peak to peak)", "V", 0.0 ..= 6_000.0
);
quantity!(
    /// A capacitance.
    Microfarads, "capacitance", "µF", above 0.0 ..= 100_000_000.0
);
quantity!(
    /// Direct current, amperes.
    Amps, "current", "A", 0.0 ..= 10_000.0
);
quantity!(
    /// A load or a resistance.
    Ohms, "load", "Ω", above 0.0 ..= 10_000.0
);
quantity!(
    /// A length.
    Metres, "length", "m", above 0.0 ..= 100.0
);
quantity!(
    /// A section of a conductor.
    SquareMillimetres, "section", "mm²", above 0.0 ..= 1_000.0
);
quantity!(
    /// A weight.
    Kilograms, "weight", "kg", above 0.0 ..= 200.0
);
quantity!(
    /// A dimension of a case.
    Millimetres, "size", "mm", above 0.0 ..= 5_000.0
);
quantity!(
    /// A frequency.
    Hertz, "tone", "Hz", above 0.0 ..= 200_000.0
);
quantity!(
    /// A fraction, never a percentage: 1 % is 0.01.
    Ratio, "ratio", "", 0.0 ..= 100.0
);
quantity!(
    /// A ratio of powers in decibels: 10·log10(P1/P2).
    PowerDecibels, "power ratio", "dB", -300.0 ..= 300.0
);
quantity!(
    /// Rise of a drive, in decibels of voltage: 20·log10(V1/V2).
    Drive, "drive", "dB", -300.0 ..= 300.0
);
quantity!(
    /// Level of a generator's output, in decibels of voltage from its full output.
    Level, "level", "dB", -300.0 ..= 300.0
);
quantity!(
    /// A temperature.
    Celsius, "temperature", "°C", -60.0 ..= 600.0
);
quantity!(
    /// An amount of money, in whatever currency stands beside it.
    Amount, "price", "", 0.0 ..= 1_000_000.0
);

/// A quantity of the program's own, known to be inside its bounds: in a constant, one that is not stops the build.
#[must_use]
pub const fn certain<T: Copy>(made: Result<T, QuantityError>) -> T {
    match made {
        Ok(quantity) => quantity,
        Err(_) => unreachable!(),
    }
}

impl VoltsRms {
    /// P = Vrms² / R, in watts.
    #[must_use]
    pub fn power_w(self, load: Ohms) -> f64 {
        self.0 * self.0 / load.0
    }
}

impl VoltsPeak {
    /// Of an unclipped sine only: P = Vpk² / (2·R), in watts.
    #[must_use]
    pub fn sine_power_w(self, load: Ohms) -> f64 {
        self.0 * self.0 / (2.0 * load.0)
    }
}

impl VoltsPeakToPeak {
    /// Of an unclipped sine only: P = Vpp² / (8·R), in watts.
    #[must_use]
    pub fn sine_power_w(self, load: Ohms) -> f64 {
        self.0 * self.0 / (8.0 * load.0)
    }
}

/// Pin = V · I. Two quantities inside their bounds have a product that is a number.
impl std::ops::Mul<Amps> for Volts {
    type Output = Watts;
    fn mul(self, amps: Amps) -> Watts {
        Watts(self.0 * amps.0)
    }
}

impl PowerDecibels {
    /// 10·log10 of a ratio of powers; `None` where there is no logarithm.
    #[must_use]
    pub fn of(ratio: f64) -> Option<Self> {
        (ratio > 0.0).then(|| Self::new(10.0 * ratio.log10()).ok()).flatten()
    }
}

impl Drive {
    /// 20·log10 of a ratio of voltages; `None` where there is no logarithm.
    #[must_use]
    pub fn of(ratio: f64) -> Option<Self> {
        (ratio > 0.0).then(|| Self::new(20.0 * ratio.log10()).ok()).flatten()
    }

    /// The ratio of voltages it is: 10^(dB/20).
    #[must_use]
    pub fn ratio(self) -> f64 {
        10f64.powf(self.0 / 20.0)
    }
}

impl Default for Level {
    fn default() -> Self {
        Self::FULL
    }
}

impl Level {
    /// Full output.
    pub const FULL: Self = Self(0.0);

    /// The lower of two.
    #[must_use]
    pub fn min(self, other: Self) -> Self {
        Self(self.0.min(other.0))
    }

    /// To a thousandth: a sum of tenths is kept a number of tenths, as it is sent, shown and compared.
    #[must_use]
    pub fn rounded(self) -> Self {
        Self((self.0 * 1e3).round() / 1e3)
    }
}

/// A level, raised. What no generator has is cut off at the bounds.
impl std::ops::Add<Drive> for Level {
    type Output = Self;
    fn add(self, drive: Drive) -> Self {
        Self((self.0 + drive.0).clamp(-Self::MOST, Self::MOST))
    }
}

/// Relative slack of every comparison, so that a figure entered on the boundary gets the more favourable word.
pub const SLACK: f64 = 1e-9;

/// `a ≥ b`, allowing for [`SLACK`].
#[must_use]
pub fn at_least(a: f64, b: f64) -> bool {
    a >= b - SLACK * a.abs().max(b.abs())
}

/// `a > b` by more than [`SLACK`].
#[must_use]
pub fn more_than(a: f64, b: f64) -> bool {
    a > b + SLACK * a.abs().max(b.abs())
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn what_cannot_be_is_refused_with_its_reason() {
        assert_eq!(Ohms::new(0.0).unwrap_err().to_string(), "0 Ω is too little for load: it has to be above 0 Ω");
        assert_eq!(Watts::new(-1.0).unwrap_err().to_string(), "-1 W is too little for power: it has to be 0 W or more");
        assert_eq!(Watts::new(1e12).unwrap_err().to_string(), "1000000000000 W is too much for power: 100000 W at most");
        assert_eq!(Amps::new(f64::NAN).unwrap_err().to_string(), "current has to be a number, not NaN");
        assert!(Volts::new(f64::INFINITY).is_err());
        assert!(Watts::new(0.0).is_ok(), "no power is a reading; no load is not a load");
    }

    #[test]
    fn json_is_the_bare_number_and_is_checked() {
        assert_eq!(serde_json::to_string(&Ohms::new(3.91).unwrap()).unwrap(), "3.91");
        assert!(serde_json::from_str::<Ohms>("0").unwrap_err().to_string().contains("above 0 Ω"));
        assert!(serde_json::from_str::<Ohms>("\"4\"").is_err());
    }

    #[test]
    fn boundary_gets_the_kinder_word() {
        assert!(at_least(0.1 + 0.2, 0.3) && at_least(0.3, 0.1 + 0.2));
        assert!(!more_than(0.1 + 0.2, 0.3));
        assert!(more_than(0.301, 0.3));
    }

    proptest! {
        #[test]
        fn peak_and_rms_of_one_sine_give_one_power(rms in 0.1f64..400.0, ohm in 0.2f64..16.0) {
            let load = Ohms::new(ohm).unwrap();
            let peak = rms * std::f64::consts::SQRT_2;
            let p = VoltsRms::new(rms).unwrap().power_w(load);
            prop_assert!((VoltsPeak::new(peak).unwrap().sine_power_w(load) / p - 1.0).abs() < 1e-12);
            prop_assert!((VoltsPeakToPeak::new(2.0 * peak).unwrap().sine_power_w(load) / p - 1.0).abs() < 1e-12);
        }

        #[test]
        fn doubling_the_power_is_three_decibels(ratio in 1e-6f64..1e6) {
            let step = PowerDecibels::of(2.0 * ratio).unwrap().get() - PowerDecibels::of(ratio).unwrap().get();
            prop_assert!((step - 3.010_299_956_639_812).abs() < 1e-9);
        }
    }
}
