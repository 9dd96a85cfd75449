//! Where a burst began to clip, from how much less than a decibel it grew by: for an analyser that does not read a burst's distortion.

use std::f64::consts::PI;

/// Decibels of power by which a hard-clipped sine is above the sine at its onset, driven so many decibels past it.
///
/// Mean square of a sine of peak 1/c cut at ±1: 1 − (2/π)·acos c + (asin c − c·√(1 − c²))/(π·c²), against ½. From the integral.
#[must_use]
pub fn above_onset_db(past_db: f64) -> f64 {
    let c = 10f64.powf(-past_db.max(0.0) / 20.0).min(1.0);
    let cut = c.acos();
    let mean_square = 2.0 / PI * cut + (c.asin() - c * (1.0 - c * c).sqrt()) / (PI * c * c);
    10.0 * (2.0 * mean_square).log10()
}

/// Decibels of power above the lower of two levels at which clipping began, where the step from one to the other gave less than it
/// would have.
#[must_use]
pub fn onset_db(step_db: f64, grew_db: f64) -> f64 {
    let (mut low, mut high) = (0.0, step_db);
    for _ in 0..50 {
        let middle = f64::midpoint(low, high);
        if middle + above_onset_db(step_db - middle) < grew_db { low = middle } else { high = middle }
    }
    low
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_clipped_sine_against_its_integral() {
        for past_db in [0.0, 0.3, 1.0, 3.0] {
            let peak = 10f64.powf(past_db / 20.0);
            let n = 100_000;
            let sum: f64 = (0..n).map(|i| (peak * (2.0 * PI * (f64::from(i) + 0.5) / f64::from(n)).sin()).clamp(-1.0, 1.0).powi(2)).sum();
            let wanted = 10.0 * (2.0 * sum / f64::from(n)).log10();
            assert!((above_onset_db(past_db) - wanted).abs() < 1e-4, "{past_db}: {} {wanted}", above_onset_db(past_db));
        }
    }

    #[test]
    fn the_onset_is_found_again() {
        for onset in [0.0, 0.2, 0.5, 0.8] {
            let grew = onset + above_onset_db(1.0 - onset);
            assert!((onset_db(1.0, grew) - onset).abs() < 1e-6, "{onset}");
        }
    }
}
