//! How far the next step goes.

use crate::kernel::units::{Drive, certain};
use crate::live::{Round, Rules};

/// Steps of a ramp: far away, on the way, and near the edge.
pub const COARSE: Drive = certain(Drive::new(1.0));
pub const MIDDLE: Drive = certain(Drive::new(0.5));
pub const FINE: Drive = certain(Drive::new(0.1));
/// The longest step there is: of a table, and of bursts far below.
pub const STAIR: Drive = certain(Drive::new(3.0));
const FAR: f64 = 30.0;
/// Decibels before the predicted clipping from which on steps are smaller, and fine.
const SMALLER_DB: f64 = 3.0;
const FINE_DB: f64 = 0.5;
/// Part of the limit from which on steps are fine.
const NEAR: f64 = 0.2;
/// Watts of an output below which distortion may be noise.
pub const NOISE_W: f64 = 1.0;
/// Part of the claim up to which steps are coarse, where nothing predicts the clipping; watts where nothing is claimed either.
const OF_CLAIM: f64 = 0.1;
const UNKNOWN_W: f64 = 1.0;

/// Whether distortion falls as the level rises: it is noise then, not the amplifier's.
fn falls(now: &Round, before: Option<&Round>) -> bool {
    before.and_then(|before| before.thd_ratio).zip(now.thd_ratio).is_none_or(|(before, thd)| thd < before)
}

/// Whether the distortion comes from noise, of almost no watts.
#[must_use]
pub fn is_noise(now: &Round, before: Option<&Round>) -> bool {
    now.most_w() < NOISE_W && falls(now, before)
}

/// The next step, by what is read now and was read a level before.
#[must_use]
pub fn step(rules: &Rules, now: &Round, before: Option<&Round>) -> Drive {
    let (distorts, falls) = (now.thd_ratio.is_some_and(|thd| thd >= NEAR * rules.limit), falls(now, before));
    if distorts && !falls {
        return FINE;
    }
    let step = by_watts(rules, now);
    // Bursts come twice a second and barely warm anything: far below, a longer step saves a minute.
    let far = rules.predicted_w.or(rules.claim_w).is_some_and(|watts| now.total_w() < watts / FAR);
    if rules.method.is_burst() && step == COARSE && far {
        return STAIR;
    }
    // Of an amplifier that hums the distortion falls on its way to the edge, where it rises.
    if distorts && now.most_w() >= NOISE_W && step > MIDDLE { MIDDLE } else { step }
}

fn by_watts(rules: &Rules, now: &Round) -> Drive {
    match rules.predicted_w {
        Some(predicted) => {
            let away_db = 10.0 * (predicted / now.total_w().max(1e-9)).log10();
            if away_db <= FINE_DB {
                FINE
            } else if away_db <= SMALLER_DB {
                // Not past where the fine steps begin.
                Drive::new(MIDDLE.get().min(away_db - FINE_DB).max(FINE.get())).unwrap_or(FINE)
            } else {
                COARSE
            }
        }
        None if now.total_w() < rules.claim_w.map_or(UNKNOWN_W, |claim| OF_CLAIM * claim) => COARSE,
        None => MIDDLE,
    }
}
