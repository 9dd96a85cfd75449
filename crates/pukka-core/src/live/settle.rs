//! When readings stand still, and what they come to then.
//!
//! The last rounds are cut into halves, by time. They stand still when the means of both halves are within 0.2 % of one another
//! (distortion: within a twentieth), or within the last digit of the meter: noise is averaged out by that, and a drift is not.

use crate::live::Round;

/// Most that the two halves may be apart, of their mean: watts and amps, and distortion.
const STEADY: f64 = 0.002;
const STEADY_THD: f64 = 0.05;
/// Fewest rounds that say whether anything moves.
const FEWEST: usize = 4;
/// Longer stretches that are tried where the shortest does not stand still for noise alone.
const LONGER: [u64; 3] = [1, 2, 4];

/// Rounds of one level that stood still.
#[derive(Debug, Clone, PartialEq)]
pub struct Settled {
    /// Their mean, at the time of the last.
    pub mean: Round,
    /// The half with fewer watts: what was certainly there.
    pub least: Round,
}

/// Result of the last rounds, when they stood still for so long. Amps come and go with bursts, and need not stand still for those.
#[must_use]
pub fn settled(rounds: &[Round], still_ms: u64, amps_too: bool) -> Option<Settled> {
    LONGER.iter().find_map(|times| stands_still(rounds, times * still_ms, amps_too))
}

fn stands_still(rounds: &[Round], still_ms: u64, amps_too: bool) -> Option<Settled> {
    let last = rounds.last()?;
    let from = last.t_ms.checked_sub(still_ms)?;
    // The first that counts was read no later than the stretch begins.
    let first = rounds.iter().rposition(|round| round.t_ms <= from)?;
    let stretch = &rounds[first..];
    if stretch.len() < FEWEST {
        return None;
    }
    let (one, other) = stretch.split_at(stretch.len() / 2);
    let (one, other) = (mean(one)?, mean(other)?);
    let digits = last.digits;
    let within = |a: f64, b: f64, part: f64, digit: f64| (a - b).abs() <= (part * a.abs().max(b.abs())).max(digit);
    let both = |a: Option<f64>, b: Option<f64>, part: f64, digit: f64| a.zip(b).is_none_or(|(a, b)| within(a, b, part, digit));
    let watts = one.power_w.len() == other.power_w.len()
        && one.power_w.iter().zip(&other.power_w).all(|(a, b)| within(*a, *b, STEADY, digits.power_w));
    let still = watts
        && (!amps_too || both(one.supply_a, other.supply_a, STEADY, digits.supply_a))
        && both(one.thd_ratio, other.thd_ratio, STEADY_THD, digits.thd_ratio);
    let least = if one.total_w() < other.total_w() { one } else { other };
    still.then(|| mean(stretch)).flatten().map(|mean| Settled { mean, least })
}

/// The mean of rounds, at the level and the time of the last of them; nothing of none.
#[must_use]
pub fn mean(rounds: &[Round]) -> Option<Round> {
    let last = rounds.last()?;
    let n = rounds.len() as f64;
    // A quantity that is missing in one of them has no mean.
    let of = |value: fn(&Round) -> Option<f64>| rounds.iter().map(value).sum::<Option<f64>>().map(|sum| sum / n);
    let watts = |i: usize| rounds.iter().map(|round| round.power_w.get(i).copied().unwrap_or(0.0)).sum::<f64>() / n;
    let cycles = |i: usize, end: fn(&(f64, f64)) -> f64| rounds.iter().map(|round| round.cycles_w.get(i).map_or(0.0, end)).sum::<f64>() / n;
    Some(Round {
        cycles_w: (0..last.cycles_w.len()).map(|i| (cycles(i, |ends| ends.0), cycles(i, |ends| ends.1))).collect(),
        power_w: (0..last.power_w.len()).map(watts).collect(),
        thd_ratio: of(|round| round.thd_ratio),
        supply_v: of(|round| round.supply_v),
        supply_a: of(|round| round.supply_a),
        temperature_c: of(|round| round.temperature_c),
        ..last.clone()
    })
}

/// The best settled figure inside a limit, of rounds whose level somebody else may have moved: of a watched run, and of one that was
/// cut off. It is the lower half of what stood still, so that "at least" is never above the truth. Rounds without a distortion are
/// minded by whoever drives.
#[must_use]
pub fn best_settled(rounds: &[Round], limit: f64, still_ms: u64) -> Option<Round> {
    let stretches = (1..=rounds.len()).map(|to| &rounds[..to]);
    stretches.filter_map(|stretch| settled_inside(stretch, limit, still_ms)).max_by(|a, b| a.total_w().total_cmp(&b.total_w()))
}

/// The same of the newest stretch alone.
#[must_use]
pub fn settled_inside(rounds: &[Round], limit: f64, still_ms: u64) -> Option<Round> {
    let last = rounds.last().and_then(|round| round.level_db);
    let one_level = rounds.iter().rposition(|round| round.level_db != last).map_or(0, |at| at + 1);
    let settled = stands_still(&rounds[one_level..], still_ms, true)?;
    settled.mean.thd_ratio.is_none_or(|thd| thd <= limit).then_some(settled.least)
}
