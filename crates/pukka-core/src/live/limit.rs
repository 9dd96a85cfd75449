//! The figure at the limit, between the last settled level inside and the first outside.
//!
//! Over long steps the figure is linear in the logarithm of the distortion, as of level steps. Between two levels that are a tenth of a
//! decibel apart the knee is passed, where distortion grows nearly in proportion to the drive past the onset: the figure is linear in the
//! distortion itself there, which is off by 0.02 % where the logarithm is by 0.1 %.
//!
//! Ref: docs/method.md, "Driving a run".

use crate::live::Round;

/// Levels so near to one another have the knee behind them, dB.
const NEAR_DB: f64 = 0.25;

/// A round as it would read at exactly the limit. Where distortion does not rise between the two, that is the lower one.
#[must_use]
pub fn at_limit(inside: &Round, outside: &Round, limit: f64) -> Round {
    let parts = inside.thd_ratio.zip(outside.thd_ratio).filter(|(low, high)| *low > 0.0 && high > low);
    let Some((low, high)) = parts else { return inside.clone() };
    let apart_db = inside.level_db.zip(outside.level_db).map(|(a, b)| (b.get() - a.get()).abs());
    let part = if apart_db.is_some_and(|db| db <= NEAR_DB) { (limit - low) / (high - low) } else { (limit / low).ln() / (high / low).ln() }
        .clamp(0.0, 1.0);
    let mix = |a: f64, b: f64| a + part * (b - a);
    let both = |a: Option<f64>, b: Option<f64>| a.zip(b).map(|(a, b)| mix(a, b));
    let power_w: Vec<f64> = inside.power_w.iter().zip(&outside.power_w).map(|(a, b)| mix(*a, *b)).collect();
    // What the first cycle has over the last stays what it is.
    let grown = |i: usize| power_w.get(i).zip(inside.power_w.get(i)).map_or(1.0, |(now, before)| now / before.max(1e-12));
    let cycles_w = inside.cycles_w.iter().enumerate().map(|(i, (first, last))| (first * grown(i), last * grown(i))).collect();
    Round {
        cycles_w,
        power_w,
        thd_ratio: Some(limit),
        supply_v: both(inside.supply_v, outside.supply_v),
        supply_a: both(inside.supply_a, outside.supply_a),
        ..inside.clone()
    }
}
