//! The one place where a figure becomes text.
//!
//! Thousands are set apart by a narrow space that does not break (U+202F): a comma is a decimal sign to half the users.
//! Nothing is rounded before it is shown, and this is where it is shown.

/// U+202F, between thousands and between a figure and its unit.
pub const THIN: char = '\u{202f}';
const MINUS: char = '−';

/// `value` to so many decimals, thousands set apart.
#[must_use]
pub fn fixed(value: f64, decimals: usize) -> String {
    let plain = format!("{:.*}", decimals, value.abs());
    let (whole, part) = plain.split_once('.').map_or((plain.as_str(), None), |(whole, part)| (whole, Some(part)));
    let negative = value < 0.0 && plain.bytes().any(|b| b.is_ascii_digit() && b != b'0');
    let mut text = String::with_capacity(plain.len() + 4);
    if negative {
        text.push(MINUS);
    }
    for (i, digit) in whole.chars().enumerate() {
        if i > 0 && (whole.len() - i) % 3 == 0 {
            text.push(THIN);
        }
        text.push(digit);
    }
    if let Some(part) = part {
        text.push('.');
        text.push_str(part);
    }
    text
}

/// A reading as it was made: up to six significant digits, no zeros added, thousands set apart.
#[must_use]
pub fn as_read(value: f64) -> String {
    if value == 0.0 || !value.is_finite() {
        return if value == 0.0 { "0".into() } else { "—".into() };
    }
    let before = value.abs().log10().floor() as i32 + 1;
    let decimals = usize::try_from(6 - before.max(0)).unwrap_or(0).min(6);
    let text = fixed(value, decimals);
    if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.').to_owned() } else { text }
}

/// Digits that a reading can have: no meter shows more, and a binary fraction times 100 is off only behind them.
const MOST_DIGITS: usize = 12;

/// The same value without the binary dust of arithmetic: 0.0099 × 100 is 0.99, not 0.9900000000000001.
#[must_use]
pub fn without_dust(value: f64) -> f64 {
    format!("{value:.*e}", MOST_DIGITS - 1).parse().unwrap_or(value)
}

/// A number of significant digits, no zeros added behind them.
#[must_use]
pub fn significant(value: f64, digits: i32) -> String {
    if value == 0.0 || !value.is_finite() {
        return as_read(value);
    }
    let unit = 10f64.powi(value.abs().log10().floor() as i32 + 1 - digits);
    as_read((value / unit).round() * unit)
}

/// Watts: three digits that matter, no more.
#[must_use]
pub fn watts(value: f64) -> String {
    fixed(value, decimals_of(value, 100.0))
}

/// Amps, in the same spirit as [`watts`].
#[must_use]
pub fn amps(value: f64) -> String {
    fixed(value, if value.abs() < 10.0 { 2 } else { 1 })
}

/// Volts, to 10 mV.
#[must_use]
pub fn volts(value: f64) -> String {
    fixed(value, 2)
}

/// A fraction as a percentage, one decimal.
#[must_use]
pub fn percent(ratio: f64) -> String {
    fixed(ratio * 100.0, 1)
}

/// Decibels, two decimals, with a sign.
#[must_use]
pub fn decibels(value: f64) -> String {
    signed(value, 2)
}

/// A difference with its sign; what rounds to nothing has none.
#[must_use]
pub fn signed(value: f64, decimals: usize) -> String {
    let text = fixed(value, decimals);
    if value > 0.0 && text.bytes().any(|b| (b'1'..=b'9').contains(&b)) { format!("+{text}") } else { text }
}

/// Ohms as people say them: 4, 2.67, 0.67.
#[must_use]
pub fn ohms(value: f64) -> String {
    let text = fixed(value, if value < 1.0 { 3 } else { 2 });
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

/// A tone: 40 Hz, 1 kHz.
#[must_use]
pub fn tone(hertz: f64) -> String {
    if hertz >= 1_000.0 { format!("{} kHz", as_read(hertz / 1_000.0)) } else { format!("{} Hz", as_read(hertz)) }
}

/// Figure and unit, a thin space between.
#[must_use]
pub fn with_unit(figure: &str, unit: &str) -> String {
    if unit.is_empty() { figure.to_owned() } else { format!("{figure}{THIN}{unit}") }
}

/// Money with the sign its users write before it.
#[must_use]
pub fn money(amount: f64, currency: &str, decimals: usize) -> String {
    let figure = fixed(amount, decimals);
    match currency {
        "GBP" => format!("£{figure}"),
        "EUR" => format!("€{figure}"),
        "USD" => format!("${figure}"),
        other => format!("{figure}{THIN}{other}"),
    }
}

/// The ± of a value, in watts or another unit of its size: a decimal beside hundreds.
#[must_use]
pub fn plus_minus(value: f64, u: f64) -> String {
    if value.abs() >= 99.95 && u < 9.95 { fixed(u, 1) } else { watts(u) }
}

/// A price as people say it: without decimals where it has none.
#[must_use]
pub fn price(amount: f64, currency: &str) -> String {
    money(amount, currency, if amount.fract() == 0.0 { 0 } else { 2 })
}

/// Number of decimals that leaves three digits: none from `whole` up, one from a tenth of it, else two.
fn decimals_of(value: f64, whole: f64) -> usize {
    let size = value.abs();
    if size >= whole * 0.9995 {
        0
    } else if size >= whole / 10.0 {
        1
    } else {
        2
    }
}

/// "one", "two" … up to twelve, then digits.
#[must_use]
pub fn count(n: usize) -> String {
    const WORDS: [&str; 13] = ["no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"];
    WORDS.get(n).map_or_else(|| n.to_string(), |word| (*word).to_owned())
}

/// Likewise, to begin a sentence.
#[must_use]
pub fn count_capital(n: usize) -> String {
    let word = count(n);
    let mut letters = word.chars();
    letters.next().map(|c| format!("{}{}", c.to_uppercase(), letters.as_str())).unwrap_or_default()
}

/// "a, b and c".
#[must_use]
pub fn list(parts: &[String]) -> String {
    match parts {
        [] => String::new(),
        [one] => one.clone(),
        [most @ .., last] => format!("{} and {last}", most.join(", ")),
    }
}

/// A text between the tags of XML, and of what is written like it.
#[must_use]
pub fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;")
}

/// A reading to six digits: more than any meter tells.
#[must_use]
pub fn six_digits(value: f64) -> f64 {
    if value == 0.0 || !value.is_finite() {
        return value;
    }
    let unit = 10f64.powi(value.abs().log10().floor() as i32 - 5);
    (value / unit).round() * unit
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn figures_as_the_screens_show_them() {
        assert_eq!(watts(1068.0), "1\u{202f}068");
        assert_eq!(watts(99.97), "100");
        assert_eq!(watts(77.25), "77.2");
        assert_eq!(watts(1.066_666), "1.07");
        assert_eq!(percent(0.614), "61.4");
        assert_eq!(volts(13.96), "13.96");
        assert_eq!(decibels(0.78), "+0.78");
        assert_eq!(decibels(-0.029), "−0.03");
        assert_eq!(decibels(-0.001), "0.00", "no minus before nothing");
        assert_eq!(ohms(4.0), "4");
        assert_eq!(ohms(2.67), "2.67");
        assert_eq!(ohms(0.667), "0.667");
        assert_eq!(tone(40.0), "40 Hz");
        assert_eq!(tone(1_000.0), "1 kHz");
        assert_eq!(as_read(124.6), "124.6");
        assert_eq!(as_read(1068.0), "1\u{202f}068");
        assert_eq!(as_read(0.0098), "0.0098");
        assert_eq!(without_dust(0.0099 * 100.0).to_string(), "0.99");
        assert_eq!(without_dust(0.1 + 0.2).to_string(), "0.3");
        assert_eq!(without_dust(1_068.25), 1_068.25);
        assert_eq!(money(0.1234, "GBP", 2), "£0.12");
        assert_eq!(list(&["4 Ω".into(), "2 Ω".into(), "1 Ω".into()]), "4 Ω, 2 Ω and 1 Ω");
    }

    proptest! {
        #[test]
        fn a_reading_shown_is_the_reading_made(units in 1u32..999_999, decimals in 0u32..4) {
            let value = f64::from(units) / 10f64.powi(decimals as i32);
            let shown: f64 = as_read(value).replace(THIN, "").parse().unwrap();
            prop_assert!((shown - value).abs() <= 1e-9 * value);
            prop_assert_eq!(without_dust(value * 1.1 / 1.1), value, "what was typed has no more digits than that");
        }
    }
}
