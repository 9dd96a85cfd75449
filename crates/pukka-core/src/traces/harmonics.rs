//! The harmonics of a tone, each fitted at its multiple of the fitted frequency, and what is made of them.
//!
//! Ref: IEC 60268-3, 14.12 (total harmonic distortion); AES17, 6.3 (distortion and noise).

use std::f64::consts::TAU;

use crate::traces::sine::{Sine, fit, fit_at};
use crate::traces::turn::Turn;

/// Nothing above this counts as a harmonic one hears.
const AUDIBLE_HZ: f64 = 20_000.0;
/// Nor above this part of the sampling rate.
const BELOW_RATE: f64 = 0.45;
/// Samples times harmonics at most: long stretches are fitted over a window of them.
const MOST_WORK: f64 = 4e6;
/// Harmonics taken out of the way of the frequency: the strongest of a wave are among them.
const IN_THE_WAY: usize = 9;

/// A tone with its harmonics.
#[derive(Debug, Clone, PartialEq)]
pub struct Harmonics {
    /// The fundamental.
    pub fundamental: Sine,
    /// Amplitudes of the second harmonic on.
    pub above: Vec<f64>,
}

impl Harmonics {
    /// √ΣVh² / V1.
    #[must_use]
    pub fn thd_ratio(&self) -> f64 {
        self.above.iter().map(|h| h * h).sum::<f64>().sqrt() / self.fundamental.amplitude()
    }
}

/// How many harmonics of a tone count: the last one below 20 kHz and 0.45 of the sampling rate.
#[must_use]
pub fn count(hz: f64, rate_hz: f64) -> usize {
    let most = AUDIBLE_HZ.min(BELOW_RATE * rate_hz);
    // Strictly below: the twentieth of 1 kHz is not.
    ((most / hz).ceil() as usize).saturating_sub(1).max(1)
}

/// Samples of a window that harmonics are fitted over: whole periods, as many as there are and as can be worked through.
#[must_use]
pub fn window(samples: usize, hz: f64, rate_hz: f64) -> usize {
    let period = rate_hz / hz;
    let there = (samples as f64 / period).floor();
    let work = (MOST_WORK / (period * count(hz, rate_hz) as f64)).floor().max(2.0);
    (there.min(work) * period).round() as usize
}

/// The tone of a whole stretch, from a frequency within half a bin of it. Its lower harmonics pull at the frequency a little, over a
/// window that is not long: they are fitted, taken away, and it is fitted again.
#[must_use]
pub fn tone(samples: &[f64], rate_hz: f64, start_hz: f64) -> Option<Sine> {
    let mut tone = fit(samples, rate_hz, start_hz)?;
    for _ in 0..2 {
        let mut bare = samples.to_vec();
        let parts = above(samples, rate_hz, &tone, count(tone.hz, rate_hz).min(IN_THE_WAY));
        for (h, part) in (2u32..).zip(&parts) {
            take(&mut bare, TAU * tone.hz * f64::from(h) / rate_hz, *part);
        }
        tone = fit(&bare, rate_hz, tone.hz)?;
    }
    Some(tone)
}

/// The harmonics of a tone whose frequency is known, over samples that are a whole number of its periods to half a sample.
#[must_use]
pub fn harmonics(samples: &[f64], rate_hz: f64, hz: f64) -> Option<Harmonics> {
    let first = fit_at(samples, rate_hz, hz)?;
    let parts = above(samples, rate_hz, &first, count(hz, rate_hz));
    let mut bare = samples.to_vec();
    for (h, part) in (2u32..).zip(&parts) {
        take(&mut bare, TAU * hz * f64::from(h) / rate_hz, *part);
    }
    let fundamental = fit_at(&bare, rate_hz, hz)?;
    Some(Harmonics { fundamental, above: parts.iter().map(|(cos, sin)| cos.hypot(*sin)).collect() })
}

fn take(samples: &mut [f64], step: f64, (cos_part, sin_part): (f64, f64)) {
    for (sample, (cos, sin)) in samples.iter_mut().zip(Turn::new(0.0, step)) {
        *sample -= cos_part * cos + sin_part * sin;
    }
}

/// Cosine and sine parts of the second harmonic on. Over whole periods they hardly pull at one another: what is left after one round
/// is fitted again, which takes the rest of the pull away.
fn above(samples: &[f64], rate_hz: f64, tone: &Sine, count: usize) -> Vec<(f64, f64)> {
    let mut left = samples.to_vec();
    tone.take_from(&mut left, rate_hz);
    let mut parts = vec![(0.0, 0.0); count.saturating_sub(1)];
    for _ in 0..2 {
        for (h, part) in (2u32..).zip(parts.iter_mut()) {
            let hz = tone.hz * f64::from(h);
            if let Some(Sine { cos, sin, .. }) = fit_at(&left, rate_hz, hz) {
                take(&mut left, TAU * hz / rate_hz, (cos, sin));
                part.0 += cos;
                part.1 += sin;
            }
        }
    }
    parts
}

/// Hard-clipped sines: the fundamental over the limit it is clipped at, by how much of the wave is left (limit over amplitude).
///
/// b1/c = (2/π)·(asin c + c·√(1 − c²))/c, from the Fourier integral of the clipped sine.
#[must_use]
pub fn clipped_fundamental(c: f64) -> f64 {
    let c = c.clamp(1e-6, 1.0);
    2.0 / std::f64::consts::PI * (c.asin() + c * (1.0 - c * c).sqrt()) / c
}

/// Decibels past the onset of clipping, of the hard-clipped sine with this fundamental over its peak; 0 of a sine.
#[must_use]
pub fn past_onset_db(fundamental_over_peak: f64) -> f64 {
    if fundamental_over_peak <= 1.0 {
        return 0.0;
    }
    let (mut low, mut high) = (1e-6, 1.0);
    for _ in 0..60 {
        let middle = f64::midpoint(low, high);
        if clipped_fundamental(middle) > fundamental_over_peak { low = middle } else { high = middle }
    }
    -20.0 * high.log10()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_table_of_truths_backwards() {
        for (c, ratio) in [(1.0 / 1.03, 1.023_88), (0.95, 1.038_61), (0.90, 1.069_57), (std::f64::consts::FRAC_1_SQRT_2, 1.157_27)] {
            assert!((clipped_fundamental(c) - ratio).abs() < 1e-5, "{c}");
            assert!((past_onset_db(clipped_fundamental(c)) + 20.0 * f64::log10(c)).abs() < 1e-6);
        }
        assert_eq!(past_onset_db(0.98), 0.0);
    }

    #[test]
    fn harmonics_count_to_below_twenty_kilohertz() {
        assert_eq!((count(1_000.0, 192_000.0), count(1_000.0, 44_100.0), count(40.0, 48_000.0)), (19, 19, 499));
        assert_eq!(count(1_000.0, 8_000.0), 3, "3.6 kHz is as far as the rate goes");
    }
}
