//! The figures of a piece of plain text: watts, and the loads they are made into.

use std::ops::Range;

use crate::kernel::units::{Hertz, Ohms, Ratio, Volts};

use super::words;

/// A figure of watts.
#[derive(Debug, Clone, PartialEq)]
pub struct Power {
    /// Place where it stands; figures that share a unit share their place.
    pub at: Range<usize>,
    pub watts: f64,
    /// `4 x`: so many outputs, of each of which it is.
    pub times: Option<u8>,
}

/// A load, and where it stands.
#[derive(Debug, Clone, PartialEq)]
pub struct Load {
    pub at: Range<usize>,
    pub ohms: Ohms,
}

/// The least that is power when no unit says so.
const LEAST_BARE_W: f64 = 5.0;

pub fn number(text: &str) -> Option<f64> {
    text.trim().parse().ok()
}

/// `75/110` as its figures.
fn list(text: &str) -> Vec<f64> {
    text.split('/').filter_map(number).collect()
}

/// The figures of `4, 2 and 1`.
fn separate(text: &str) -> impl Iterator<Item = f64> {
    text.split(|c: char| !(c.is_ascii_digit() || c == '.')).filter_map(number)
}

fn count(digits: &str) -> Option<u8> {
    digits.parse::<u8>().ok().filter(|n| (1..=16).contains(n))
}

fn range(hit: &regex::Captures) -> Range<usize> {
    hit.get(0).map_or(0..0, |whole| whole.range())
}

/// Places that are taken already.
#[derive(Default)]
struct Taken(Vec<Range<usize>>);

impl Taken {
    fn take(&mut self, place: &Range<usize>) -> bool {
        let free = self.0.iter().all(|other| place.end <= other.start || other.end <= place.start);
        if free {
            self.0.push(place.clone());
        }
        free
    }
}

/// Watts in a piece of text. `about_power`: what was said before lets a figure without a unit be power.
pub fn powers(text: &str, about_power: bool) -> Vec<Power> {
    let mut found = Vec::<Power>::new();
    let mut taken = Taken::default();
    let scale = |unit: &str| if unit == "kw" { 1_000.0 } else { 1.0 };
    let mut add = |found: &mut Vec<Power>, place: Range<usize>, figures: Vec<f64>, times: Option<u8>| {
        if taken.take(&place) {
            found.extend(figures.into_iter().map(|watts| Power { at: place.clone(), watts, times }));
        }
    };
    for hit in words::TIMES_WATTS.captures_iter(text) {
        if let Some(times) = count(&hit[1]) {
            add(&mut found, range(&hit), list(&hit[2]).into_iter().map(|w| w * scale(&hit[3])).collect(), Some(times));
        }
    }
    for hit in words::WATTS_TIMES.captures_iter(text) {
        if let Some(times) = count(&hit[3]) {
            add(&mut found, range(&hit), list(&hit[1]).into_iter().map(|w| w * scale(&hit[2])).collect(), Some(times));
        }
    }
    for hit in words::WATT_LIST.captures_iter(text) {
        let watts: Vec<f64> = separate(&hit[1]).collect();
        if watts.iter().all(|watts| *watts >= LEAST_BARE_W) {
            add(&mut found, range(&hit), watts.into_iter().map(|w| w * scale(&hit[2])).collect(), None);
        }
    }
    for hit in words::WATTS.captures_iter(text) {
        add(&mut found, range(&hit), list(&hit[1]).into_iter().map(|w| w * scale(&hit[2])).collect(), None);
    }
    let by_unit = !found.is_empty();
    let loads = words::OHMS.is_match(text);
    for hit in words::BARE_TIMES.captures_iter(text) {
        let place = range(&hit);
        let alone = !text[..place.start].trim_end().ends_with('x') && !words::OTHER_UNIT.is_match(&text[place.end..]);
        if let (true, Some(a), Some(b)) = (alone && (loads || about_power || by_unit), number(&hit[1]), number(&hit[2])) {
            // The smaller is the count: no amplifier has 75 channels.
            let (times, watts) = if a < b { (a, b) } else { (b, a) };
            if let (Some(times), true) = (count(&times.to_string()), watts >= LEAST_BARE_W) {
                add(&mut found, place, vec![watts], Some(times));
            }
        }
    }
    if by_unit || about_power || !found.is_empty() {
        for hit in words::BARE_AT.captures_iter(text) {
            let Some(figure) = hit.get(1) else { continue };
            if let Some(watts) = number(figure.as_str()).filter(|watts| *watts >= LEAST_BARE_W) {
                add(&mut found, figure.range(), vec![watts], None);
            }
        }
    }
    found.retain(|power| power.watts > 0.0);
    found.sort_by_key(|power| power.at.start);
    found
}

/// Loads in a piece of text, apart from where `powers` stand.
pub fn loads(text: &str, powers: &[Power]) -> Vec<Load> {
    let mut found = Vec::<Load>::new();
    let mut taken = Taken(powers.iter().map(|power| power.at.clone()).collect());
    for hit in words::OHM_RANGE.find_iter(text) {
        taken.take(&hit.range());
    }
    let mut add = |place: Range<usize>, figures: Vec<f64>| {
        if taken.take(&place) {
            let real = figures.into_iter().filter(|ohm| (0.1..=32.0).contains(ohm)).filter_map(|ohm| Ohms::new(ohm).ok());
            found.extend(real.map(|ohms| Load { at: place.clone(), ohms }));
        }
    };
    for hit in words::OHM_LIST.captures_iter(text) {
        add(range(&hit), separate(&hit[1]).collect());
    }
    for hit in words::OHMS.captures_iter(text) {
        add(range(&hit), number(&hit[1]).into_iter().collect());
    }
    found.sort_by_key(|load| load.at.start);
    found
}

/// The supply voltage that is said: the last, where there are several.
pub fn supply(text: &str) -> Option<Volts> {
    supplies(text).pop()
}

/// Every supply voltage that is said.
pub fn supplies(text: &str) -> Vec<Volts> {
    let volts = words::VOLTS.captures_iter(text).filter_map(|hit| number(&hit[1]));
    volts.filter(|v| (9.0..=60.0).contains(v)).filter_map(|v| Volts::new(v).ok()).collect()
}

/// The distortion limit that is said.
pub fn distortion(text: &str) -> Option<Ratio> {
    if words::OTHER_PERCENT.is_match(text) {
        return None;
    }
    let percent = words::PERCENT.captures_iter(text).filter_map(|hit| number(&hit[1])).find(|p| *p > 0.0 && *p <= 50.0)?;
    Ratio::new((percent * 1e7).round() / 1e9).ok()
}

/// The test tone that is said.
pub fn tone(text: &str) -> Option<Hertz> {
    if words::RANGE.is_match(text) {
        return None;
    }
    let hit = words::TONE.captures(text)?;
    let hertz = number(&hit[1])? * if &hit[2] == "khz" { 1_000.0 } else { 1.0 };
    Hertz::new(hertz).ok().filter(|tone| (10.0..=22_000.0).contains(&tone.get()))
}

/// Number of channels said.
pub fn channels(text: &str) -> Option<u8> {
    words::CHANNELS.captures(text).and_then(|hit| count(&hit[1]))
}
