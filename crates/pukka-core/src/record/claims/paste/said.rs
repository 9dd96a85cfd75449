//! What a piece of text says about the figures in it, or about those below it.

use crate::kernel::units::{Hertz, Ratio, Volts};
use crate::record::claims::ClaimKind;

use super::{figures, words};

/// The conditions a figure is claimed under.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Conditions {
    pub kind: Option<ClaimKind>,
    pub supply_v: Option<Volts>,
    pub thd: Option<Ratio>,
    pub tone_hz: Option<Hertz>,
}

impl Conditions {
    pub fn of(text: &str) -> Self {
        Self { kind: kind(text), supply_v: figures::supply(text), thd: figures::distortion(text), tone_hz: figures::tone(text) }
    }

    /// Conditions said here, and else those said there.
    #[must_use]
    pub fn or(self, other: Self) -> Self {
        Self {
            kind: self.kind.or(other.kind),
            supply_v: self.supply_v.or(other.supply_v),
            thd: self.thd.or(other.thd),
            tone_hz: self.tone_hz.or(other.tone_hz),
        }
    }

    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }
}

/// The outputs that a figure is of.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Layout {
    pub bridged: bool,
    pub unbridged: bool,
    pub strapped: bool,
    pub mono: bool,
    pub stereo: bool,
    pub each: bool,
    pub total: bool,
    pub channels: Option<u8>,
}

impl Layout {
    pub fn of(text: &str) -> Self {
        let unbridged = words::UNBRIDGED.is_match(text);
        Self {
            bridged: !unbridged && words::BRIDGED.is_match(text),
            unbridged,
            strapped: words::STRAPPED.is_match(text),
            mono: words::MONO.is_match(text),
            stereo: words::STEREO.is_match(text),
            each: words::EACH.is_match(text),
            total: words::TOTAL.is_match(text),
            channels: figures::channels(text),
        }
    }

    /// Whether it names outputs at all.
    pub fn says_any(&self) -> bool {
        *self != Self { total: self.total, ..Self::default() }
    }
}

pub fn kind(text: &str) -> Option<ClaimKind> {
    // "Max. continuous power" is a rating: what says continuous comes first.
    if words::RMS.is_match(text) {
        return Some(ClaimKind::Rms);
    }
    words::MAX.is_match(text).then_some(ClaimKind::Max)
}

/// The kinds a heading names from left to right, when it names more than one.
pub fn kinds(text: &str) -> Vec<ClaimKind> {
    let mut found: Vec<(usize, ClaimKind)> = words::RMS.find_iter(text).map(|hit| (hit.start(), ClaimKind::Rms)).collect();
    found.extend(words::MAX.find_iter(text).map(|hit| (hit.start(), ClaimKind::Max)));
    found.sort_by_key(|(at, _)| *at);
    found.dedup_by_key(|(_, kind)| *kind);
    found.into_iter().map(|(_, kind)| kind).collect()
}
