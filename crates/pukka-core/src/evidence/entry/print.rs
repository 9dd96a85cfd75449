//! Readings back into a line, every figure with its letter.

use crate::evidence::entry::Readings;
use crate::kernel::format;
use crate::record::session::{OutputReading, ReadingName, SecondReading};

/// The line that reads as `readings`.
#[must_use]
pub fn print(readings: &Readings) -> String {
    let mut figures = Vec::new();
    figures.extend(readings.level_db.map(|level| plain(level.get(), "db")));
    figures.extend(readings.total_power_w.map(|watts| plain(watts.get(), "t")));
    let moving = |name: ReadingName| if readings.approximate.contains(&name) { "~" } else { "" };
    let climbed = readings.climbed_from_w.map(|from| format!("{}..", plain(from.get(), ""))).unwrap_or_default();
    figures.extend(outputs(&readings.outputs, &format!("{}{climbed}", moving_outputs(readings))));
    if let Some(cycles) = &readings.cycles {
        figures.extend(read(&cycles.first).map(|(first, unit)| match cycles.last.as_ref().and_then(read) {
            Some((last, _)) => format!("{}>{}", plain(first, ""), plain(last, unit)),
            None => plain(first, unit),
        }));
        figures.push(plain(f64::from(cycles.count), "cy"));
    }
    figures.extend(readings.rest_v.map(|volts| plain(volts.get(), "r")));
    let volts = |more: fn(&crate::record::session::SupplyReading) -> Option<f64>, unit: &str| -> String {
        let also = readings.supply_also.iter().filter_map(|also| Some((more(also)?, also.meter.as_deref())));
        also.map(|(value, meter)| format!("={}{}", plain(value, unit), at(meter))).collect()
    };
    figures.extend(
        readings
            .end_v
            .map(|v| format!("{}{}{}", moving(ReadingName::EndVolts), plain(v.get(), "v"), volts(|also| also.end_v.map(|v| v.get()), "v"))),
    );
    figures.extend(
        readings.current_a.map(|a| {
            format!("{}{}{}", moving(ReadingName::Current), plain(a.get(), "a"), volts(|also| also.current_a.map(|a| a.get()), "a"))
        }),
    );
    figures.extend(readings.thd_ratio.map(|thd| plain(percent(thd.get()), "%")));
    figures.extend(readings.efficiency_ratio.map(|ratio| plain(percent(ratio.get()), "%e")));
    figures.extend(readings.charger_on.filter(|on| *on).map(|_| "chg".to_owned()));
    figures.extend(readings.temperature_c.map(|heatsink| plain(heatsink.get(), "c")));
    if let Some(hold) = &readings.hold {
        figures.push(format!(">> {}", plain(hold.seconds, "s")));
        figures.extend(outputs(&hold.outputs, ""));
        figures.extend(hold.end_v.map(|volts| plain(volts.get(), "v")));
        figures.extend(hold.current_a.map(|amps| plain(amps.get(), "a")));
    }
    figures.extend(readings.note.as_ref().map(|note| format!("# {note}")));
    figures.join(" ")
}

/// `before` stands before the first figure, behind its name.
fn outputs(outputs: &[OutputReading], before: &str) -> Option<String> {
    // Second meters read what stands first: where they read volts, the watts stand behind.
    let lead = outputs.iter().flat_map(|reading| &reading.also).find_map(second).map(|(_, unit)| unit);
    let parts: Vec<String> =
        outputs.iter().enumerate().filter_map(|(i, reading)| output(i, reading, lead, if i == 0 { before } else { "" })).collect();
    (!parts.is_empty()).then(|| parts.join("+"))
}

fn output(index: usize, reading: &OutputReading, lead: Option<&str>, before: &str) -> Option<String> {
    let all: Vec<(f64, &str)> = with_letters(reading.in_order()).collect();
    let first = all.iter().position(|(_, unit)| Some(*unit) == lead).unwrap_or(0);
    let (value, unit) = *all.get(first)?;
    let beside = all.iter().enumerate().filter(|(n, _)| *n != first).map(|(_, (value, unit))| format!("={}", plain(*value, unit)));
    let name = reading.name.as_ref().filter(|name| **name != (index + 1).to_string()).map(|name| format!("{name}:")).unwrap_or_default();
    let also = reading.also.iter().filter_map(|also| Some((second(also)?, also.meter.as_deref())));
    let also: String = also.map(|((value, unit), meter)| format!("={}{}", plain(value, unit), at(meter))).collect();
    Some(format!("{name}{before}{}{}{}{also}", plain(value, unit), at(reading.meter.as_deref()), beside.collect::<String>()))
}

fn second(also: &SecondReading) -> Option<(f64, &'static str)> {
    with_letters(also.in_order()).next()
}

fn at(meter: Option<&str>) -> String {
    meter.map(|meter| format!("@{meter}")).unwrap_or_default()
}

/// Readings in their order, each with its letters.
fn with_letters(readings: [Option<f64>; 4]) -> impl Iterator<Item = (f64, &'static str)> {
    readings.into_iter().zip(["w", "vr", "vp", "vpp"]).filter_map(|(value, letters)| Some((value?, letters)))
}

/// Whether the outputs were read off a moving display.
fn moving_outputs(readings: &Readings) -> &'static str {
    let of_output = |name: &ReadingName| !matches!(name, ReadingName::EndVolts | ReadingName::Current);
    if readings.approximate.iter().any(of_output) { "~" } else { "" }
}

/// The reading that counts, and its letters.
fn read(reading: &OutputReading) -> Option<(f64, &'static str)> {
    with_letters(reading.in_order()).next()
}

/// A fraction as the percentage it was typed as.
fn percent(ratio: f64) -> f64 {
    ratio * 100.0
}

fn plain(value: f64, unit: &str) -> String {
    let text = format::without_dust(value).to_string();
    // Three decimals would be asked about.
    let pad = if text.split_once('.').is_some_and(|(_, decimals)| decimals.len() == 3) { "0" } else { "" };
    format!("{text}{pad}{unit}")
}
