//! The harmonics of a tone, each fitted at its multiple of the fitted frequency, and what is made of them.
//!
//! Ref: IEC 60268-3, 14.12 (total harmonic distortion); AES17, 6.3 (distortion and noise).

use std::f64::consts::TAU;

use crate::sine::{Sine, fit, fit_at};
use crate::turn::{LANES, Turns};

/// Nothing above this counts as a harmonic one hears.
const AUDIBLE_HZ: f64 = 20_000.0;
/// Nor above this part of the sampling rate.
const BELOW_RATE: f64 = 0.45;
/// Samples times harmonics at most: long stretches are fitted over a window of them.
const MOST_WORK: f64 = 2e5;
/// Harmonics taken out of the way of the frequency: the strongest of a wave are among them.
const IN_THE_WAY: usize = 9;
/// Harmonics below this part of the fundamental do not move its frequency.
const CLEAN: f64 = 1e-5;

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

/// Number of harmonics of a tone that count: the last one below 20 kHz and 0.45 of the sampling rate.
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
    let in_the_way = count(tone.hz, rate_hz).min(IN_THE_WAY);
    // A clean tone has nothing in its way, and a few periods tell that.
    let short = &samples[..window(samples.len(), tone.hz, rate_hz).min(samples.len())];
    if is_clean(&above(short, rate_hz, &tone, in_the_way), &tone) {
        return Some(tone);
    }
    for _ in 0..2 {
        let parts = above(samples, rate_hz, &tone, in_the_way);
        let mut bare = samples.to_vec();
        take_all(&mut bare, TAU * tone.hz / rate_hz, &parts);
        tone = fit(&bare, rate_hz, tone.hz)?;
    }
    Some(tone)
}

/// The harmonics of a tone whose frequency is known, over samples that are a whole number of its periods to half a sample.
#[must_use]
pub fn harmonics(samples: &[f64], rate_hz: f64, hz: f64) -> Option<Harmonics> {
    let first = fit_at(samples, rate_hz, hz)?;
    let parts = above(samples, rate_hz, &first, count(hz, rate_hz));
    let above = amplitudes(&parts).collect();
    if is_clean(&parts, &first) {
        return Some(Harmonics { fundamental: first, above });
    }
    let mut bare = samples.to_vec();
    take_all(&mut bare, TAU * hz / rate_hz, &parts);
    let fundamental = fit_at(&bare, rate_hz, hz)?;
    Some(Harmonics { fundamental, above })
}

fn amplitudes(parts: &[(f64, f64)]) -> impl Iterator<Item = f64> {
    parts.iter().map(|(cos, sin)| cos.hypot(*sin))
}

/// Whether harmonics are too weak to pull at the fundamental, or at one another.
fn is_clean(parts: &[(f64, f64)], tone: &Sine) -> bool {
    amplitudes(parts).fold(0.0, f64::max) < CLEAN * tone.amplitude()
}

/// Cosine and sine parts of the second harmonic on. Over whole periods they barely pull at one another: what is left after one round
/// is fitted again, which takes the rest of the pull away.
fn above(samples: &[f64], rate_hz: f64, tone: &Sine, count: usize) -> Vec<(f64, f64)> {
    let mut left = samples.to_vec();
    tone.take_from(&mut left, rate_hz);
    let mut parts = vec![(0.0, 0.0); count.saturating_sub(1)];
    let step = TAU * tone.hz / rate_hz;
    for round in 0..ROUNDS {
        let found = project(&left, step, count);
        parts.iter_mut().zip(&found).for_each(|(part, more)| (part.0, part.1) = (part.0 + more.0, part.1 + more.1));
        if round + 1 == ROUNDS || is_clean(&found, tone) {
            break;
        }
        take_all(&mut left, step, &found);
    }
    parts
}

/// Rounds of fitting what is left.
const ROUNDS: usize = 2;

/// Calls `each` with the samples four at a time and the cosines and sines of every harmonic there, the second first: each harmonic
/// from the two before it, cos (h+1)x = 2·cos x·cos hx − cos (h−1)x.
fn walk(samples: usize, step: f64, count: usize, mut each: impl FnMut(usize, usize, &[f64; LANES], &[f64; LANES])) {
    for (at, (mut cos, mut sin)) in (0..samples).step_by(LANES).zip(Turns::new(0.0, step)) {
        let one = cos.map(|cos| 2.0 * cos);
        let (mut cos_before, mut sin_before) = ([1.0; LANES], [0.0; LANES]);
        for h in 0..count.saturating_sub(1) {
            let (mut cos_next, mut sin_next) = ([0.0; LANES], [0.0; LANES]);
            for lane in 0..LANES {
                cos_next[lane] = one[lane] * cos[lane] - cos_before[lane];
                sin_next[lane] = one[lane] * sin[lane] - sin_before[lane];
            }
            (cos_before, sin_before, cos, sin) = (cos, sin, cos_next, sin_next);
            each(at, h, &cos, &sin);
        }
    }
}

/// 2/N times the sums of samples against each harmonic.
fn project(samples: &[f64], step: f64, count: usize) -> Vec<(f64, f64)> {
    let mut padded = samples.to_vec();
    padded.resize(samples.len().next_multiple_of(LANES), 0.0);
    let mut sums = vec![([0.0; LANES], [0.0; LANES]); count.saturating_sub(1)];
    walk(samples.len(), step, count, |at, h, cos, sin| {
        let own = &padded[at..at + LANES];
        let (a, b) = &mut sums[h];
        for lane in 0..LANES {
            a[lane] += own[lane] * cos[lane];
            b[lane] += own[lane] * sin[lane];
        }
    });
    let scale = 2.0 / samples.len().max(1) as f64;
    sums.into_iter().map(|(a, b)| (scale * a.iter().sum::<f64>(), scale * b.iter().sum::<f64>())).collect()
}

/// Takes every harmonic out of samples.
fn take_all(samples: &mut Vec<f64>, step: f64, parts: &[(f64, f64)]) {
    let length = samples.len();
    samples.resize(length.next_multiple_of(LANES), 0.0);
    walk(length, step, parts.len() + 1, |at, h, cos, sin| {
        let (cos_part, sin_part) = parts[h];
        for lane in 0..LANES {
            samples[at + lane] -= cos_part * cos[lane] + sin_part * sin[lane];
        }
    });
    samples.truncate(length);
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
    fn the_fast_way_gives_what_a_fit_of_each_harmonic_gives() {
        let (rate_hz, hz) = (48_000.0, 441.3);
        let n = window(48_000, hz, rate_hz);
        let parts = [(1.0, 0.3), (0.05, 1.0), (0.02, 2.0), (0.3, 0.1), (0.004, 3.0)];
        let at =
            |i: usize| (1u32..).zip(parts).map(|(h, (a, phase))| a * (TAU * hz * f64::from(h) / rate_hz * i as f64 + phase).sin()).sum();
        let samples: Vec<f64> = (0..n).map(at).collect();
        let fast = harmonics(&samples, rate_hz, hz).unwrap();
        let mut left = samples;
        let mut naive = vec![0.0; fast.above.len() + 1];
        for _ in 0..3 {
            for (h, sum) in (1u32..).zip(naive.iter_mut()) {
                let one = fit_at(&left, rate_hz, hz * f64::from(h)).unwrap();
                one.take_from(&mut left, rate_hz);
                *sum = f64::max(*sum, one.amplitude());
            }
        }
        assert!(naive.iter().skip(1).zip(&fast.above).all(|(a, b)| (a - b).abs() < 1e-4), "{naive:?}");
        assert!(parts.iter().skip(1).zip(&fast.above).all(|((a, _), b)| (a - b).abs() < 1e-5), "{:?}", &fast.above[..5]);
    }

    #[test]
    fn harmonics_count_to_below_twenty_kilohertz() {
        assert_eq!((count(1_000.0, 192_000.0), count(1_000.0, 44_100.0), count(40.0, 48_000.0)), (19, 19, 499));
        assert_eq!(count(1_000.0, 8_000.0), 3, "3.6 kHz is as far as the rate goes");
    }
}
