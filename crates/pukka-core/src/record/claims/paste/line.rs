//! One line: its watts, its loads, and what is said about them.

use serde_json::Map;

use crate::kernel::units::{ClaimedWatts, Hertz, Ohms, Ratio, Volts};
use crate::kernel::wiring::Wiring;
use crate::record::claims::paste::Heading;
use crate::record::claims::paste::words::{self, plain};
use crate::record::claims::{Claim, ClaimKind, Per};

/// What became of a line.
pub enum LineMeaning {
    /// It gave claims.
    Claims(Vec<Claim>),
    /// It said something about the lines below it.
    Heading,
    /// It gave nothing.
    Nothing,
}

/// A figure of watts on the line.
struct Power {
    at: usize,
    watts: f64,
    /// `4 x`: so many outputs, of each of which it is.
    times: Option<u8>,
}

/// Reads a line under its headings.
pub fn read(shown: &str, heading: &mut Heading) -> LineMeaning {
    let text = plain(shown);
    let loads = loads(&text);
    if words::OTHER_POWER.is_match(&text) {
        return LineMeaning::Nothing;
    }
    let powers = powers(&text);
    if powers.is_empty() {
        return learn(&text, loads, heading);
    }
    let said = Said::of(&text, heading);
    let claims: Vec<Claim> = pair(&powers, &loads, heading).into_iter().filter_map(|(power, load)| said.claim(power, load)).collect();
    if claims.is_empty() { LineMeaning::Nothing } else { LineMeaning::Claims(claims) }
}

/// What a line says about every figure on it, with what its headings said.
struct Said {
    kind: ClaimKind,
    supply_v: Option<Volts>,
    thd: Option<Ratio>,
    tone_hz: Option<Hertz>,
    bridged: bool,
    mono: bool,
    stereo: bool,
    each: bool,
    total: bool,
    channels: Option<u8>,
    wiring: Option<Wiring>,
}

impl Said {
    fn of(text: &str, heading: &Heading) -> Self {
        let kind = kind(text).or(heading.kind).unwrap_or(ClaimKind::Unstated);
        // A max figure among ratings is not made under their conditions.
        let same_kind = kind != ClaimKind::Max || heading.kind == Some(ClaimKind::Max);
        Self {
            kind,
            supply_v: supply(text).or(heading.supply_v.filter(|_| same_kind)),
            thd: distortion(text).or(heading.thd.filter(|_| same_kind)),
            tone_hz: tone(text),
            bridged: words::BRIDGED.is_match(text) || heading.bridged,
            mono: words::MONO.is_match(text),
            stereo: words::STEREO.is_match(text),
            each: words::EACH.is_match(text),
            total: words::TOTAL.is_match(text),
            channels: channels(text).or(heading.channels),
            wiring: heading.wiring,
        }
    }

    fn claim(&self, power: &Power, load_ohm: Option<Ohms>) -> Option<Claim> {
        let several = self.channels.unwrap_or(1) > 1;
        let wiring = match power.times {
            Some(n) if self.bridged => Some(Wiring::Bridged { pairs: n }),
            Some(1) => Some(Wiring::Mono),
            Some(n) => Some(Wiring::Channels { driven: n }),
            None if self.bridged => Some(Wiring::Bridged { pairs: if self.each { (self.channels.unwrap_or(2) / 2).max(1) } else { 1 } }),
            None if self.mono => Some(if several { Wiring::Bridged { pairs: 1 } } else { Wiring::Mono }),
            None if self.stereo => Some(Wiring::Channels { driven: 2 }),
            None if self.each => Some(Wiring::Channels { driven: self.channels.filter(|n| *n > 1).unwrap_or(2) }),
            // A bare max figure names no wiring; a bare rating is of all the amplifier has.
            None if self.kind == ClaimKind::Max && load_ohm.is_none() => None,
            None if self.total && several => self.channels.map(|driven| Wiring::Channels { driven }),
            None => self.wiring.or(Some(self.channels.filter(|n| *n > 1).map_or(Wiring::Mono, |driven| Wiring::Channels { driven }))),
        };
        let per = if self.total && power.times.is_none() || wiring.is_none() { Per::Total } else { Per::Output };
        Some(Claim {
            id: String::new(),
            source: "pasted".into(),
            wiring,
            setting: None,
            load_ohm,
            power_w: Some(ClaimedWatts::new(power.watts).ok()?),
            per,
            kind: self.kind,
            supply_v: self.supply_v,
            thd_limit_ratio: self.thd,
            tone_hz: self.tone_hz,
            used: true,
            extra: Map::new(),
        })
    }
}

/// Which load goes with which figure of watts.
fn pair<'a>(powers: &'a [Power], loads: &[Ohms], heading: &Heading) -> Vec<(&'a Power, Option<Ohms>)> {
    let loads = if loads.is_empty() { heading.loads.as_slice() } else { loads };
    match (powers.len(), loads.len()) {
        (_, 0) => powers.iter().map(|power| (power, None)).collect(),
        (_, 1) => powers.iter().map(|power| (power, Some(loads[0]))).collect(),
        (p, l) if p == l => powers.iter().zip(loads).map(|(power, load)| (power, Some(*load))).collect(),
        // One figure for several loads holds for each of them.
        (1, _) => loads.iter().map(|load| (&powers[0], Some(*load))).collect(),
        _ => powers.iter().zip(loads.iter().map(Some).chain(std::iter::repeat(None))).map(|(power, load)| (power, load.copied())).collect(),
    }
}

fn number(text: &str) -> Option<f64> {
    text.trim().parse().ok()
}

/// `75/110` as its figures.
fn figures(list: &str) -> Vec<f64> {
    list.split('/').filter_map(number).collect()
}

fn powers(text: &str) -> Vec<Power> {
    let mut found = Vec::<Power>::new();
    let mut taken = Vec::<std::ops::Range<usize>>::new();
    let scale = |unit: &str| if unit == "kw" { 1_000.0 } else { 1.0 };
    let count = |digits: &str| digits.parse::<u8>().ok().filter(|n| (1..=16).contains(n));
    for hit in words::TIMES_WATTS.captures_iter(text) {
        let Some(times) = count(&hit[1]) else { continue };
        let place = hit.get(0).map_or(0..0, |whole| whole.range());
        found.extend(figures(&hit[2]).into_iter().map(|w| Power { at: place.start, watts: w * scale(&hit[3]), times: Some(times) }));
        taken.push(place);
    }
    for hit in words::WATTS_TIMES.captures_iter(text) {
        let place = hit.get(0).map_or(0..0, |whole| whole.range());
        if let (Some(watts), Some(times), true) = (number(&hit[1]), count(&hit[3]), free(&taken, &place)) {
            found.push(Power { at: place.start, watts: watts * scale(&hit[2]), times: Some(times) });
            taken.push(place);
        }
    }
    for hit in words::WATTS.captures_iter(text) {
        let place = hit.get(0).map_or(0..0, |whole| whole.range());
        if free(&taken, &place) {
            found.extend(figures(&hit[1]).into_iter().map(|w| Power { at: place.start, watts: w * scale(&hit[2]), times: None }));
            taken.push(place);
        }
    }
    if found.is_empty()
        && let Some(hit) = words::BARE_TIMES.captures(text)
        && let (Some(a), Some(b)) = (number(&hit[1]), number(&hit[2]))
    {
        // The smaller is the count: no amplifier has 75 channels.
        let (times, watts) = if a < b { (a, b) } else { (b, a) };
        found.extend(count(&times.to_string()).map(|times| Power { at: 0, watts, times: Some(times) }));
    }
    found.sort_by_key(|power| power.at);
    found.retain(|power| power.watts > 0.0);
    found
}

fn free(taken: &[std::ops::Range<usize>], place: &std::ops::Range<usize>) -> bool {
    taken.iter().all(|other| place.end <= other.start || other.end <= place.start)
}

fn loads(text: &str) -> Vec<Ohms> {
    let mut found = Vec::<(usize, f64)>::new();
    let mut taken = Vec::<std::ops::Range<usize>>::new();
    for hit in words::OHM_LIST.captures_iter(text) {
        let place = hit.get(0).map_or(0..0, |whole| whole.range());
        let list = hit[1].split(|c: char| !(c.is_ascii_digit() || c == '.')).filter_map(number);
        found.extend(list.enumerate().map(|(i, ohm)| (place.start + i, ohm)));
        taken.push(place);
    }
    for hit in words::OHMS.captures_iter(text) {
        let place = hit.get(0).map_or(0..0, |whole| whole.range());
        if free(&taken, &place) {
            found.extend(number(&hit[1]).map(|ohm| (place.start, ohm)));
        }
    }
    found.sort_by_key(|(at, _)| *at);
    found.into_iter().filter(|(_, ohm)| (0.1..=32.0).contains(ohm)).filter_map(|(_, ohm)| Ohms::new(ohm).ok()).collect()
}

fn kind(text: &str) -> Option<ClaimKind> {
    // "Max. continuous power" is a rating: what says continuous comes first.
    if words::RMS.is_match(text) {
        return Some(ClaimKind::Rms);
    }
    words::MAX.is_match(text).then_some(ClaimKind::Max)
}

fn supply(text: &str) -> Option<Volts> {
    let volts = words::VOLTS.captures_iter(text).filter_map(|hit| number(&hit[1]));
    volts.filter(|v| (9.0..=60.0).contains(v)).last().and_then(|v| Volts::new(v).ok())
}

fn distortion(text: &str) -> Option<Ratio> {
    if words::OTHER_PERCENT.is_match(text) {
        return None;
    }
    let percent = words::PERCENT.captures_iter(text).filter_map(|hit| number(&hit[1])).find(|p| *p > 0.0 && *p <= 50.0)?;
    Ratio::new((percent * 1e7).round() / 1e9).ok()
}

fn tone(text: &str) -> Option<Hertz> {
    if words::RANGE.is_match(text) {
        return None;
    }
    let hit = words::TONE.captures(text)?;
    let hertz = number(&hit[1])? * if &hit[2] == "khz" { 1_000.0 } else { 1.0 };
    Hertz::new(hertz).ok().filter(|tone| (10.0..=22_000.0).contains(&tone.get()))
}

fn channels(text: &str) -> Option<u8> {
    words::CHANNELS.captures(text).and_then(|hit| hit[1].parse().ok()).filter(|n| (1..=16).contains(n))
}

/// What a line without watts says about the lines below it.
fn learn(text: &str, loads: Vec<Ohms>, heading: &mut Heading) -> LineMeaning {
    let (kind, supply_v, thd, count) = (kind(text), supply(text), distortion(text), channels(text));
    let bridged = words::BRIDGED.is_match(text);
    let stereo = words::STEREO.is_match(text);
    let about_power = kind.is_some() || words::POWER.is_match(text) || bridged || stereo;
    let table = !loads.is_empty() && !words::RANGE.is_match(text) && text.chars().filter(|c| c.is_alphabetic()).count() < 40;
    if !(about_power || table || count.is_some()) {
        return LineMeaning::Nothing;
    }
    heading.kind = kind.or(heading.kind);
    heading.channels = count.or(heading.channels);
    if about_power {
        heading.supply_v = supply_v.or(heading.supply_v);
        heading.thd = thd.or(heading.thd);
        heading.bridged = bridged;
        heading.wiring = stereo.then_some(Wiring::Channels { driven: 2 });
    }
    if table {
        heading.loads = loads;
    }
    LineMeaning::Heading
}
