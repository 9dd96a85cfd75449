//! Parameters: numbers with their suffixes, limits by name, switches, strings.
//!
//! Ref: SCPI-1999 volume 1, 7 (parameters); IEEE 488.2, 7.7 (program data elements).

use super::{
    DATA_TYPE, ILLEGAL_PARAMETER, INVALID_SUFFIX, MISSING_PARAMETER, OUT_OF_RANGE, PARAMETER_NOT_ALLOWED, SUFFIX_NOT_ALLOWED, ScpiError,
};

/// A number that a command takes: its suffixes, its limits and what it is by default.
#[derive(Debug, Clone, Copy)]
pub struct Number {
    /// Suffixes with what they multiply by; the first is the unit itself.
    pub suffixes: &'static [(&'static str, f64)],
    /// Least.
    pub least: f64,
    /// Most.
    pub most: f64,
    /// By default.
    pub default: f64,
}

/// A frequency.
pub const FREQUENCY: Number =
    Number { suffixes: &[("HZ", 1.0), ("KHZ", 1e3), ("MHZ", 1e6)], least: 10.0, most: 20_000.0, default: 1_000.0 };
/// A level.
pub const LEVEL: Number = Number { suffixes: &[("DB", 1.0)], least: -120.0, most: 10.0, default: -120.0 };
/// Volts of a supply.
pub const VOLTS: Number = Number { suffixes: &[("V", 1.0), ("MV", 1e-3), ("KV", 1e3)], least: 0.0, most: 20.0, default: 13.8 };
/// Amps of a supply.
pub const AMPS: Number = Number { suffixes: &[("A", 1.0), ("MA", 1e-3)], least: 0.0, most: 1_000.0, default: 200.0 };

impl Number {
    /// A number without a unit, between two.
    #[must_use]
    pub const fn plain(least: f64, most: f64) -> Self {
        Self { suffixes: &[], least, most, default: least }
    }

    /// Reads one parameter.
    ///
    /// # Errors
    /// The error that goes into the queue.
    pub fn read(&self, parameters: &str) -> Result<f64, ScpiError> {
        let text = one(parameters)?;
        if let Some(value) = self.named(text) {
            return Ok(value);
        }
        let (number, suffix) = split(text).ok_or(DATA_TYPE)?;
        let times = if suffix.is_empty() {
            1.0
        } else if self.suffixes.is_empty() {
            return Err(SUFFIX_NOT_ALLOWED);
        } else {
            self.suffixes.iter().find(|(known, _)| known.eq_ignore_ascii_case(suffix)).map(|(_, times)| *times).ok_or(INVALID_SUFFIX)?
        };
        let value = number * times;
        if value >= self.least && value <= self.most { Ok(value) } else { Err(OUT_OF_RANGE) }
    }

    /// Answer to a query: the value, or a limit that is asked for.
    ///
    /// # Errors
    /// The error that goes into the queue.
    pub fn ask(&self, value: f64, parameters: &str) -> Result<f64, ScpiError> {
        if parameters.trim().is_empty() {
            return Ok(value);
        }
        let text = one(parameters)?;
        self.named(text).ok_or(ILLEGAL_PARAMETER)
    }

    fn named(&self, text: &str) -> Option<f64> {
        let is = |long: &str, short: &str| text.eq_ignore_ascii_case(long) || text.eq_ignore_ascii_case(short);
        if is("MINIMUM", "MIN") {
            Some(self.least)
        } else if is("MAXIMUM", "MAX") {
            Some(self.most)
        } else if is("DEFAULT", "DEF") {
            Some(self.default)
        } else {
            None
        }
    }
}

/// The only parameter there is.
///
/// # Errors
/// −109 without one, −108 with more.
pub fn one(parameters: &str) -> Result<&str, ScpiError> {
    let all = list(parameters);
    match all.as_slice() {
        [] => Err(MISSING_PARAMETER),
        [one] => Ok(one),
        _ => Err(PARAMETER_NOT_ALLOWED),
    }
}

/// Nothing.
///
/// # Errors
/// −108 where there is something.
pub fn none(parameters: &str) -> Result<(), ScpiError> {
    if parameters.trim().is_empty() { Ok(()) } else { Err(PARAMETER_NOT_ALLOWED) }
}

/// Parameters between commas, with strings and lists left whole.
#[must_use]
pub fn list(parameters: &str) -> Vec<&str> {
    let (mut found, mut from, mut depth, mut quote) = (Vec::new(), 0, 0usize, None);
    for (at, c) in parameters.char_indices() {
        match (quote, c) {
            (Some(open), c) if c == open => quote = None,
            (Some(_), _) => {}
            (None, '"' | '\'') => quote = Some(c),
            (None, '(') => depth += 1,
            (None, ')') => depth = depth.saturating_sub(1),
            (None, ',') if depth == 0 => {
                found.push(parameters[from..at].trim());
                from = at + 1;
            }
            _ => {}
        }
    }
    found.push(parameters[from..].trim());
    if found.len() == 1 && found[0].is_empty() { Vec::new() } else { found }
}

/// A string without its quotes.
#[must_use]
pub fn string(parameter: &str) -> &str {
    let text = parameter.trim();
    let quoted = |quote: char| text.strip_prefix(quote).and_then(|rest| rest.strip_suffix(quote));
    quoted('"').or_else(|| quoted('\'')).unwrap_or(text)
}

/// On or off: any number that does not round to 0 is on.
///
/// # Errors
/// The error that goes into the queue.
pub fn switch(parameters: &str) -> Result<bool, ScpiError> {
    let text = one(parameters)?;
    if text.eq_ignore_ascii_case("ON") {
        return Ok(true);
    }
    if text.eq_ignore_ascii_case("OFF") {
        return Ok(false);
    }
    match split(text) {
        Some((number, "")) => Ok(number.round() != 0.0),
        Some(_) => Err(SUFFIX_NOT_ALLOWED),
        None => Err(ILLEGAL_PARAMETER),
    }
}

/// A number and what stands behind it.
fn split(text: &str) -> Option<(f64, &str)> {
    let text = text.trim();
    if let Some(rest) = text.strip_prefix('#') {
        let (base, digits) = rest.split_at_checked(1)?;
        let radix = match base {
            "H" | "h" => 16,
            "Q" | "q" => 8,
            "B" | "b" => 2,
            _ => return None,
        };
        return u32::from_str_radix(digits, radix).ok().map(|value| (f64::from(value), ""));
    }
    let bytes = text.as_bytes();
    let run = |from: usize| bytes[from.min(bytes.len())..].iter().take_while(|byte| byte.is_ascii_digit()).count();
    let mut at = usize::from(bytes.first().is_some_and(|byte| matches!(byte, b'+' | b'-')));
    let mut digits = run(at);
    at += digits;
    if bytes.get(at) == Some(&b'.') {
        let decimals = run(at + 1);
        digits += decimals;
        at += 1 + decimals;
    }
    if digits == 0 {
        return None;
    }
    if bytes.get(at).is_some_and(|byte| matches!(byte, b'e' | b'E')) {
        let sign = usize::from(bytes.get(at + 1).is_some_and(|byte| matches!(byte, b'+' | b'-')));
        let exponent = run(at + 1 + sign);
        if exponent > 0 {
            at += 1 + sign + exponent;
        }
    }
    let number: f64 = text[..at].parse().ok()?;
    let suffix = text[at..].trim();
    suffix.chars().all(|c| c.is_ascii_alphabetic() || matches!(c, '/' | '.' | '%')).then_some((number, suffix))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_with_their_suffixes() {
        for (text, value) in [
            ("20 kHz", Ok(20_000.0)),
            ("40", Ok(40.0)),
            ("4e1 HZ", Ok(40.0)),
            (".05KHZ", Ok(50.0)),
            ("#H3E8", Ok(1_000.0)),
            ("#B1100", Ok(12.0)),
            ("MIN", Ok(10.0)),
            ("maximum", Ok(20_000.0)),
            ("DEF", Ok(1_000.0)),
            ("40 DB", Err(INVALID_SUFFIX)),
            ("40,50", Err(PARAMETER_NOT_ALLOWED)),
            ("", Err(MISSING_PARAMETER)),
            ("loud", Err(DATA_TYPE)),
            ("1", Err(OUT_OF_RANGE)),
        ] {
            assert_eq!(FREQUENCY.read(text), value, "{text}");
        }
        assert_eq!(LEVEL.read("-10 DB"), Ok(-10.0));
        assert_eq!(Number::plain(0.0, 9.0).read("5 V"), Err(SUFFIX_NOT_ALLOWED));
        assert_eq!(
            (FREQUENCY.ask(40.0, ""), FREQUENCY.ask(40.0, "MAX"), FREQUENCY.ask(40.0, "7")),
            (Ok(40.0), Ok(20_000.0), Err(ILLEGAL_PARAMETER))
        );
    }

    #[test]
    fn switches_and_strings() {
        assert_eq!((switch("2"), switch("0.4"), switch("ON"), switch("off")), (Ok(true), Ok(false), Ok(true), Ok(false)));
        assert_eq!(
            (switch("MAYBE"), switch(""), switch("ON,ON")),
            (Err(ILLEGAL_PARAMETER), Err(MISSING_PARAMETER), Err(PARAMETER_NOT_ALLOWED))
        );
        assert_eq!(list("\"a,b\", (@1,2),3"), ["\"a,b\"", "(@1,2)", "3"]);
        assert_eq!((string("\"a;b\""), string("'x'"), string("plain")), ("a;b", "x", "plain"));
    }
}
