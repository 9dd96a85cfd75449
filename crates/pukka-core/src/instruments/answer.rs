//! What an instrument answered, as a reading: or why it is none. What is not a number is never taken as "below the limit".

use thiserror::Error;

use crate::instruments::{Quantity, Reading};
use crate::kernel::format;

/// What SCPI gives for a reading past the range, and the least that counts as it.
const OVERLOAD: f64 = 9.9e36;

/// Why an answer is no reading.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum BadReading {
    /// It is not a number.
    #[error("answered “{0}”, which is no number")]
    Garbage(String),
    /// It is past its range.
    #[error("is past its range (overload)")]
    Overload,
    /// It cannot be: a unit or a scale is wrong.
    #[error("answered {shown}, and {most} is the most that can be: is the profile's scale right?")]
    Impossible {
        /// As read, with its unit.
        shown: String,
        /// The most that can be.
        most: String,
    },
}

/// Reads an answer.
///
/// # Errors
/// [`BadReading`].
pub fn read(quantity: Quantity, how: &Reading, answer: &str) -> Result<f64, BadReading> {
    let garbage = || BadReading::Garbage(answer.trim().chars().take(40).collect());
    let first = answer.trim().split(',').next().unwrap_or_default();
    let raw: f64 = first.trim().parse().map_err(|_| garbage())?;
    if !raw.is_finite() {
        return Err(if raw.is_nan() { garbage() } else { BadReading::Overload });
    }
    if raw.abs() >= OVERLOAD {
        return Err(BadReading::Overload);
    }
    let value = raw * how.scale;
    let (unit, most) = quantity.most();
    // A clamp that is a little off zero may read below it.
    if value.abs() > most || value < -0.01 * most {
        let shown = format::with_unit(&format::significant(value, 4), unit);
        return Err(BadReading::Impossible { shown, most: format::with_unit(&format::as_read(most), unit) });
    }
    Ok(value.max(0.0))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn volts(answer: &str) -> Result<f64, BadReading> {
        read(Quantity::SupplyV, &Reading { query: String::new(), scale: 1.0 }, answer)
    }

    #[test]
    fn numbers_as_instruments_write_them() {
        assert_eq!(volts("1.438000E+01"), Ok(14.38));
        assert_eq!(volts(" +14.38 \r"), Ok(14.38));
        assert_eq!(volts("14.38,V"), Ok(14.38));
        assert_eq!(read(Quantity::Distortion, &Reading { query: String::new(), scale: 0.01 }, "0.98"), Ok(0.0098));
        assert_eq!(volts("-0.02"), Ok(0.0));
    }

    #[test]
    fn what_is_no_reading_says_why() {
        assert_eq!(volts("9.9E37"), Err(BadReading::Overload));
        assert_eq!(volts("-9.9E37"), Err(BadReading::Overload));
        assert_eq!(volts("inf"), Err(BadReading::Overload));
        assert_eq!(volts("NAN"), Err(BadReading::Garbage("NAN".into())));
        assert_eq!(volts("#?!"), Err(BadReading::Garbage("#?!".into())));
        assert_eq!(volts(""), Err(BadReading::Garbage(String::new())));
        assert!(matches!(volts("14380"), Err(BadReading::Impossible { .. })));
        assert!(matches!(volts("-14.4"), Err(BadReading::Impossible { .. })));
    }
}
