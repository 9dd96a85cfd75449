//! Whether readings can be true: power follows the level, a meter that measures shows something else at another level, what comes out
//! went in.

use crate::kernel::format;
use crate::kernel::units::Level;
use crate::live::climb::NOISE_W;
use crate::live::{Round, Rules, Stop};

/// Least decibels of power that a decibel of level gives below clipping, over at least so many of level.
const LEAST_DB: f64 = 0.5;
const LEAST_OF_A_BURST_DB: f64 = 0.1;
const OVER_DB: f64 = 1.0;
/// Part of the limit below which an amplifier does not clip.
const CLEAN: f64 = 0.2;
/// Distortion below which watts are those of the tone.
const MOSTLY_TONE: f64 = 0.3;
/// Amps that rise by so much while watts rise by less than so much.
const AMPS_UP: f64 = 1.10;
const WATTS_UP: f64 = 1.01;
/// Readings below so many of their last digits are not held against others.
const DIGITS: f64 = 10.0;
/// Watts below which power is noise.
const FLOOR_W: f64 = 1e-3;
/// Decibels above the start at which something has to be heard.
const HEARD_DB: f64 = 20.0;
/// More watts out than in, with what meters are off by; from so many watts on.
const MORE_OUT: f64 = 1.05;
const SPEAKS_W: f64 = 5.0;
/// Times the amps that are to be expected.
const AMPS_TOO_MANY: f64 = 10.0;

/// Readings of each level.
#[derive(Debug, Clone, Default)]
pub struct History {
    levels: Vec<(Level, Round)>,
}

impl History {
    /// Keeps what a level read.
    pub fn keep(&mut self, level: Level, now: &Round) {
        self.levels.retain(|(known, _)| *known < level);
        self.levels.push((level, now.clone()));
    }

    /// Readings of the next lower level.
    #[must_use]
    pub fn below(&self, level: Level) -> Option<&Round> {
        self.levels.iter().rev().find(|(known, _)| *known < level).map(|(_, round)| round)
    }

    /// Contradictions of a level, held against those before.
    #[must_use]
    pub fn lies(&self, rules: &Rules, level: Level, now: &Round) -> Option<Stop> {
        if let Some(stop) = impossible(rules, now) {
            return Some(stop);
        }
        let apart = |known: Level| level.get() - known.get() >= OVER_DB - 1e-9;
        let below = self.levels.iter().rev().find(|(known, _)| apart(*known));
        if let Some((known, before)) = below {
            if same(before, now) {
                return Some(Stop::Frozen);
            }
            let clean = |round: &Round| round.thd_ratio.is_none_or(|thd| thd < CLEAN * rules.limit);
            // Where there are almost no watts nothing clips, and noise is not yet what they come from.
            let quiet = now.most_w() < NOISE_W && now.thd_ratio.is_none_or(|thd| thd < MOSTLY_TONE);
            if (clean(now) || quiet) && is_heard(before) {
                let grown = 10.0 * (now.total_w().max(1e-12) / before.total_w()).log10() / (level.get() - known.get());
                // Of a burst whose distortion nobody reads, the step over its edge is none of a liar's.
                let least = if rules.method.is_burst() && now.thd_ratio.is_none() { LEAST_OF_A_BURST_DB } else { LEAST_DB };
                if grown < least {
                    return Some(Stop::NotFollowing);
                }
            }
        }
        let last = self.levels.iter().rev().find(|(known, _)| *known < level);
        let hungry = last.into_iter().chain(below).any(|(_, before)| {
            let amps = before.supply_a.zip(now.supply_a).is_some_and(|(before, now)| now > AMPS_UP * before && before > 0.0);
            amps && now.total_w() < WATTS_UP * before.total_w() && is_heard(before)
        });
        if hungry && !rules.method.is_burst() {
            return Some(Stop::AmpsWithoutWatts);
        }
        (!is_heard(now) && level.get() >= rules.start.get() + HEARD_DB).then_some(Stop::Silent)
    }
}

fn is_heard(round: &Round) -> bool {
    round.total_w() > (DIGITS * round.digits.power_w).max(FLOOR_W)
}

/// The same to the last digit, and not because there is nothing.
fn same(a: &Round, b: &Round) -> bool {
    let known = |value: f64, digit: f64| value > DIGITS * digit && value > 0.0;
    let speaks = known(b.total_w(), b.digits.power_w) || b.thd_ratio.is_some_and(|thd| thd < 1.0 && known(thd, b.digits.thd_ratio));
    speaks && a.power_w == b.power_w && a.thd_ratio == b.thd_ratio
}

fn impossible(rules: &Rules, now: &Round) -> Option<Stop> {
    let watts = |value: f64| format::with_unit(&format::significant(value, 3), "W");
    // Between bursts almost nothing is drawn: their watts stand against no amps.
    let input_w = now.input_w().filter(|_| !rules.method.is_burst());
    let more_out = input_w.filter(|input| now.total_w() > SPEAKS_W && now.total_w() > MORE_OUT * input);
    if let Some(input) = more_out {
        let says = format!(
            "{} come out and {} go in, which cannot be. Is the clamp closed and zeroed, and its scale right?",
            watts(now.total_w()),
            watts(input)
        );
        return Some(Stop::Impossible { says });
    }
    let many = rules.expected_a.zip(now.supply_a).filter(|(expected, amps)| *amps > AMPS_TOO_MANY * expected.max(1.0));
    many.map(|(expected, amps)| {
        let amperes = |value: f64| format::with_unit(&format::significant(value, 3), "A");
        let says = format!("{} is more than ten times the {} to be expected. Is the scale right?", amperes(amps), amperes(expected));
        Stop::Impossible { says }
    })
}
