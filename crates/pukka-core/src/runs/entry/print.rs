//! Readings back into a line, every figure with its letter.

use super::Readings;
use crate::session::OutputReading;

/// The line that reads as `readings`.
#[must_use]
pub fn print(readings: &Readings) -> String {
    let mut figures = Vec::new();
    if !readings.outputs.is_empty() {
        figures.push(readings.outputs.iter().filter_map(output).collect::<Vec<_>>().join("+"));
    }
    figures.extend(readings.end_v.map(|volts| plain(volts.get(), "v")));
    figures.extend(readings.current_a.map(|amps| plain(amps.get(), "a")));
    figures.extend(readings.thd_ratio.map(|thd| plain(percent(thd.get()), "%")));
    figures.extend(readings.temperature_c.map(|heatsink| plain(heatsink.get(), "c")));
    figures.extend(readings.note.as_ref().map(|note| format!("# {note}")));
    figures.join(" ")
}

fn output(reading: &OutputReading) -> Option<String> {
    let watts = reading.power_w.map(|watts| plain(watts.get(), "w"));
    watts
        .or_else(|| reading.volts_rms.map(|volts| plain(volts.get(), "vr")))
        .or_else(|| reading.volts_peak.map(|volts| plain(volts.get(), "vp")))
        .or_else(|| reading.volts_pp.map(|volts| plain(volts.get(), "vpp")))
}

/// A fraction as the percentage it was typed as: 0.0098 is 0.98, not 0.9799999999999999.
fn percent(ratio: f64) -> f64 {
    let percent = ratio * 100.0;
    let short = (percent * 1e9).round() / 1e9;
    if short / 100.0 == ratio { short } else { percent }
}

fn plain(value: f64, unit: &str) -> String {
    let text = value.to_string();
    // Three decimals would be asked about.
    let pad = if text.split_once('.').is_some_and(|(_, decimals)| decimals.len() == 3) { "0" } else { "" };
    format!("{text}{pad}{unit}")
}
