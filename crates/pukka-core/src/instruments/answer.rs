//! What an instrument answered, as a reading: or why it is none. What is not a number is never taken as "below the limit".

use thiserror::Error;

use crate::instruments::unit::Unit;
use crate::instruments::{Quantity, Reading};
use crate::kernel::format;

/// SCPI's value for a reading past the range, and the least that counts as it.
const OVERLOAD: f64 = 9.9e36;
/// Ohms of a shunt or a scale do not make a clamp that is a little off zero read less than this part of the most below it.
const BELOW_ZERO: f64 = 0.01;

/// Reason why an answer is no reading.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum BadReading {
    /// Not a number.
    #[error("answered “{0}”, which is no number")]
    Garbage(String),
    /// A decimal comma, or a list.
    #[error("answered “{0}”: that is a decimal comma, or a list whose field the profile does not name")]
    Comma(String),
    /// In a unit of something else.
    #[error("answered “{0}”, which is in no unit of this quantity")]
    Unit(String),
    /// Past its range.
    #[error("is past its range (overload)")]
    Overload,
    /// Cannot be: a unit or a scale is wrong.
    #[error("answered {shown}, and {most} is the most that can be: is the profile's scale right?")]
    Impossible {
        /// As read, with its unit.
        shown: String,
        /// The most that can be.
        most: String,
    },
}

/// A reading, and what the last digit of its answer is worth.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Value {
    /// In the quantity's own unit.
    pub value: f64,
    /// Of its last digit.
    pub digit: f64,
}

/// Reads an answer.
///
/// # Errors
/// [`BadReading`].
pub fn read(quantity: Quantity, how: &Reading, answer: &str) -> Result<Value, BadReading> {
    let shown = || answer.trim().chars().take(40).collect::<String>();
    let text = field(how, answer).ok_or_else(|| BadReading::Garbage(shown()))??;
    let (raw, word, digit) = number(&text).ok_or_else(|| BadReading::Garbage(shown()))?;
    if raw.is_nan() {
        return Err(BadReading::Garbage(shown()));
    }
    if raw.abs() >= OVERLOAD {
        return Err(BadReading::Overload);
    }
    let said = Some(word).filter(|word| !word.is_empty());
    let unit = said.or(how.unit.as_deref()).map_or(Some(Unit::Times(1.0)), |word| Unit::parse(unit_of(quantity, how), word));
    let unit = unit.ok_or_else(|| BadReading::Unit(shown()))?;
    // A profile that was written for bare numbers of percent, and an answer that says its percent: once is enough.
    let scale = if said.is_some() && quantity == Quantity::Distortion { 1.0 } else { how.scale };
    let value = unit.value(raw) * scale;
    let (name, most) = quantity.most();
    let most = how.most.unwrap_or(most).min(most);
    let least = how.least.unwrap_or(if quantity == Quantity::Temperature { -60.0 } else { -BELOW_ZERO * most });
    if value > most || value < least || !value.is_finite() {
        let shown = format::with_unit(&format::significant(value, 4), name);
        return Err(BadReading::Impossible { shown, most: format::with_unit(&format::as_read(most), name) });
    }
    let digit = (unit.value(raw + digit) - unit.value(raw)).abs() * scale.abs();
    Ok(Value { value: if quantity == Quantity::Temperature { value } else { value.max(0.0) }, digit })
}

/// The quantity whose units the answer is in: a clamp that is read as volts answers in volts.
fn unit_of(quantity: Quantity, how: &Reading) -> Quantity {
    let volts = how.unit.as_deref().is_some_and(|word| Unit::parse(quantity, word).is_none());
    if volts { Quantity::OutputV } else { quantity }
}

/// The part of an answer that the profile names.
fn field(how: &Reading, answer: &str) -> Option<Result<String, BadReading>> {
    if let Some(pattern) = &how.pattern {
        let found = pattern.regex()?.captures(answer)?.get(1)?.as_str().trim().to_owned();
        return Some(Ok(found));
    }
    let fields: Vec<&str> = answer.trim().split(',').map(str::trim).collect();
    if let Some(at) = how.field {
        return fields.get(at.checked_sub(1)?).map(|field| Ok((*field).to_owned()));
    }
    let numbers = fields.iter().filter(|field| field.starts_with(|c: char| c.is_ascii_digit())).count();
    let first = fields.first()?;
    if fields.len() > 1 && fields[1..].iter().any(|field| field.starts_with(|c: char| c.is_ascii_digit())) && numbers > 0 {
        return Some(Err(BadReading::Comma(answer.trim().chars().take(40).collect())));
    }
    Some(Ok((*first).to_owned()))
}

/// A number, the word behind it, and what its last digit is worth.
fn number(text: &str) -> Option<(f64, &str, f64)> {
    let text = text.trim();
    let spelled = ["+inf", "-inf", "inf", "nan"].iter().find(|word| text.to_ascii_lowercase().starts_with(**word));
    if let Some(word) = spelled {
        // "INF" alone, not a word that begins with it.
        let value = if word.contains("nan") { f64::NAN } else { f64::INFINITY };
        return (text.len() <= "infinity".len() + 1).then_some((value, "", 0.0));
    }
    let bytes = text.as_bytes();
    let digits = |from: usize| bytes[from..].iter().take_while(|byte| byte.is_ascii_digit()).count();
    let mut at = usize::from(bytes.first().is_some_and(|byte| matches!(byte, b'+' | b'-')));
    let whole = digits(at);
    at += whole;
    let mut decimals = 0;
    if bytes.get(at) == Some(&b'.') {
        decimals = digits(at + 1);
        at += 1 + decimals;
    }
    if whole + decimals == 0 {
        return None;
    }
    let mut exponent = 0;
    if bytes.get(at).is_some_and(|byte| matches!(byte, b'e' | b'E')) {
        let sign = usize::from(bytes.get(at + 1).is_some_and(|byte| matches!(byte, b'+' | b'-')));
        let length = digits((at + 1 + sign).min(bytes.len()));
        if length > 0 {
            exponent = text[at + 1..at + 1 + sign + length].parse().ok()?;
            at += 1 + sign + length;
        }
    }
    let value = text[..at].parse().ok()?;
    Some((value, text[at..].trim(), 10f64.powi(exponent - i32::try_from(decimals).ok()?)))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn plain() -> Reading {
        Reading { query: String::new(), ..Reading::default() }
    }

    fn volts(answer: &str) -> Result<f64, BadReading> {
        read(Quantity::SupplyV, &plain(), answer).map(|value| value.value)
    }

    #[test]
    fn numbers_as_instruments_write_them() {
        assert_eq!(volts("1.438000E+01"), Ok(14.38));
        assert_eq!(volts(" +14.38 \r"), Ok(14.38));
        assert_eq!(volts("14.38,V"), Ok(14.38));
        assert_eq!(volts("14.38 V"), Ok(14.38));
        assert_eq!(volts("14380 mV"), Ok(14.38));
        assert_eq!(volts("14.38 VDC"), Ok(14.38));
        assert_eq!(volts("-0.02"), Ok(0.0));
        let thd = |how: Reading, answer: &str| read(Quantity::Distortion, &how, answer).map(|value| value.value);
        assert_eq!(thd(Reading { scale: 0.01, ..plain() }, "0.98"), Ok(0.0098));
        assert_eq!(thd(Reading { scale: 0.01, ..plain() }, "0.98 %"), Ok(0.0098), "not a hundredth of it");
        assert_eq!(thd(Reading { unit: Some("%".into()), ..plain() }, "0.98"), Ok(0.0098));
        assert_eq!(thd(Reading { unit: Some("dB".into()), ..plain() }, "-40"), Ok(0.01));
        assert_eq!(read(Quantity::Power, &plain(), "12.3 W").unwrap().value, 12.3);
        assert_eq!(read(Quantity::SupplyA, &plain(), "980 mA").unwrap().value, 0.98);
        let clamp = Reading { unit: Some("mV".into()), scale: 100.0, ..plain() };
        assert_eq!(read(Quantity::SupplyA, &clamp, "123.0").unwrap().value, 12.3, "10 mV an ampere");
        assert!((read(Quantity::Temperature, &plain(), "-5.5").unwrap().value + 5.5).abs() < 1e-12);
    }

    #[test]
    fn the_last_digit_is_that_of_the_answer() {
        let digit = |answer: &str| read(Quantity::SupplyV, &plain(), answer).unwrap().digit;
        for (answer, worth) in [("14.4", 0.1), ("14", 1.0), ("1.438000E+01", 1e-5), ("14380 mV", 1e-3)] {
            assert!((digit(answer) / worth - 1.0).abs() < 1e-9, "{answer}: {}", digit(answer));
        }
    }

    #[test]
    fn fields_and_patterns() {
        let list = Reading { field: Some(2), ..plain() };
        assert_eq!(read(Quantity::SupplyV, &list, "1.2,14.38,OK").unwrap().value, 14.38);
        assert!(matches!(read(Quantity::SupplyV, &list, "1.2"), Err(BadReading::Garbage(_))));
        let pattern = Reading { pattern: Some(r"U=\s*([0-9.]+\s*V)".to_owned().into()), ..plain() };
        assert_eq!(read(Quantity::SupplyV, &pattern, "I= 1.2 A; U= 14.38 V").unwrap().value, 14.38);
        assert!(matches!(read(Quantity::SupplyV, &pattern, "I= 1.2 A"), Err(BadReading::Garbage(_))));
    }

    #[test]
    fn what_is_no_reading_says_why() {
        assert_eq!(volts("9.9E37"), Err(BadReading::Overload));
        assert_eq!(volts("-9.9E37"), Err(BadReading::Overload));
        assert_eq!(volts("inf"), Err(BadReading::Overload));
        assert_eq!(volts("NAN"), Err(BadReading::Garbage("NAN".into())));
        assert_eq!(volts("#?!"), Err(BadReading::Garbage("#?!".into())));
        assert_eq!(volts(""), Err(BadReading::Garbage(String::new())));
        assert_eq!(volts("14,38"), Err(BadReading::Comma("14,38".into())), "never taken for 14");
        assert_eq!(volts("1,438000E+01"), Err(BadReading::Comma("1,438000E+01".into())));
        assert_eq!(volts("14.38 A"), Err(BadReading::Unit("14.38 A".into())));
        assert!(matches!(volts("14380"), Err(BadReading::Impossible { .. })));
        assert!(matches!(volts("-14.4"), Err(BadReading::Impossible { .. })));
        let narrow = Reading { most: Some(30.0), ..plain() };
        assert!(matches!(read(Quantity::SupplyV, &narrow, "31"), Err(BadReading::Impossible { .. })));
    }
}
