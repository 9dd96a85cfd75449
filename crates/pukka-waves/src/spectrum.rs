//! Transforms: where the strongest tone is, and how much power lies in a band.

use std::f64::consts::TAU;

use std::collections::HashMap;

use realfft::RealFftPlanner;
use realfft::num_complex::Complex;

use crate::sums::mean;

/// Transforms of real samples, their plans kept.
pub struct Transforms {
    planner: RealFftPlanner<f64>,
    bins: Vec<Complex<f64>>,
    scratch: Vec<Complex<f64>>,
    /// Hann windows by their length: a few lengths come again and again.
    hann: HashMap<usize, Vec<f64>>,
}

/// Hann windows that are kept.
const MOST_WINDOWS: usize = 8;

impl std::fmt::Debug for Transforms {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("Transforms")
    }
}

impl Default for Transforms {
    fn default() -> Self {
        Self { planner: RealFftPlanner::new(), bins: Vec::new(), scratch: Vec::new(), hann: HashMap::new() }
    }
}

impl Transforms {
    /// X(k) of samples, bins 0 to half the rate.
    fn bins(&mut self, mut samples: Vec<f64>) -> &[Complex<f64>] {
        self.bins.clear();
        if !samples.is_empty() {
            let plan = self.planner.plan_fft_forward(samples.len());
            self.bins.resize(samples.len() / 2 + 1, Complex::ZERO);
            self.scratch.resize(plan.get_scratch_len().max(self.scratch.len()), Complex::ZERO);
            if let Err(why) = plan.process_with_scratch(&mut samples, &mut self.bins, &mut self.scratch) {
                unreachable!("the lengths fit: {why}");
            }
        }
        &self.bins
    }

    /// |X(k)|² of samples, bins 0 to half the rate.
    pub(super) fn squared(&mut self, samples: Vec<f64>) -> Vec<f64> {
        self.bins(samples).iter().map(Complex::norm_sqr).collect()
    }

    /// The strongest frequency above the audio band, and the rms of all that lies above it.
    #[must_use]
    pub fn above(&mut self, samples: &[f64], rate_hz: f64, from_hz: f64) -> Option<(f64, f64)> {
        let n = samples.len();
        let windowed = self.windowed(samples, mean(samples));
        let power = self.squared(windowed);
        let bin_hz = rate_hz / n.max(1) as f64;
        // A Hann window leaves 3/8 of the power; bins stand for both signs of their frequency.
        let part = 2.0 / (n as f64 * n as f64) / 0.375;
        let above = || power.iter().enumerate().filter(|(k, _)| *k as f64 * bin_hz > from_hz);
        let (strongest, _) = above().max_by(|a, b| a.1.total_cmp(b.1))?;
        Some((strongest as f64 * bin_hz, above().map(|(_, power)| part * power).sum::<f64>().sqrt()))
    }

    /// Samples without their mean under a Hann window.
    fn windowed(&mut self, samples: &[f64], mean: f64) -> Vec<f64> {
        let n = samples.len();
        if self.hann.len() >= MOST_WINDOWS && !self.hann.contains_key(&n) {
            self.hann.clear();
        }
        let hann = || (0..n).map(|i| 0.5 - 0.5 * (TAU * (i as f64 + 0.5) / n as f64).cos()).collect();
        let window = self.hann.entry(n).or_insert_with(hann);
        samples.iter().zip(window).map(|(x, window)| (x - mean) * *window).collect()
    }

    /// The strongest tone in a window, hertz, to within half a bin; nothing in silence.
    #[must_use]
    pub fn strongest(&mut self, samples: &[f64], rate_hz: f64) -> Option<f64> {
        let n = samples.len();
        if n < 8 {
            return None;
        }
        let windowed = self.windowed(samples, mean(samples));
        let power = self.squared(windowed);
        let (peak, most) = power.iter().enumerate().skip(1).max_by(|a, b| a.1.total_cmp(b.1))?;
        if *most <= 1e-24 * n as f64 * n as f64 {
            return None;
        }
        // Between the bins by a parabola through the logarithms, which is exact enough for a Hann window to start a fit from.
        let at = |k: usize| power.get(k).copied().unwrap_or(0.0).max(f64::MIN_POSITIVE).ln();
        let (left, middle, right) = (at(peak - 1), at(peak), at(peak + 1));
        let bend = left - 2.0 * middle + right;
        let off = if bend < 0.0 && peak > 1 { (0.5 * (left - right) / bend).clamp(-0.5, 0.5) } else { 0.0 };
        Some((peak as f64 + off) * rate_hz / n as f64)
    }

    /// Mean square of samples inside a band, by Parseval: the window is a whole number of periods, or what is in it is noise.
    #[must_use]
    pub fn mean_square_in(&mut self, samples: Vec<f64>, rate_hz: f64, band_hz: (f64, f64)) -> f64 {
        let n = samples.len();
        if n == 0 {
            return 0.0;
        }
        let bin_hz = rate_hz / n as f64;
        let bins = self.bins(samples);
        let last = bins.len() - 1;
        let edge = |hz: f64| ((hz / bin_hz).round().max(0.0) as usize).min(bins.len());
        let (first, behind) = (edge(band_hz.0), (edge(band_hz.1) + 1).min(bins.len()));
        let sum: f64 = (first..behind)
            .map(|k| {
                // A bin stands for half a bin on either side: those at an edge count for their part.
                let (from, to) = ((k as f64 - 0.5) * bin_hz, (k as f64 + 0.5) * bin_hz);
                let part = ((to.min(band_hz.1) - from.max(band_hz.0)) / bin_hz).clamp(0.0, 1.0);
                let twice = if k == 0 || (k == last && n.is_multiple_of(2)) { 1.0 } else { 2.0 };
                twice * part * bins[k].norm_sqr()
            })
            .sum();
        sum / (n as f64 * n as f64)
    }

    /// Parts of the noise that stand at a mains frequency and its harmonics: the share of 50 Hz, and of 60 Hz.
    #[must_use]
    pub fn hum(&mut self, samples: Vec<f64>, rate_hz: f64) -> [f64; 2] {
        let n = samples.len();
        let windowed = self.windowed(&samples, 0.0);
        let power = self.squared(windowed);
        let bin_hz = rate_hz / n.max(1) as f64;
        let within = |k: usize| (k as f64 * bin_hz) >= 20.0 && (k as f64 * bin_hz) <= 20_000.0;
        let all: f64 = power.iter().enumerate().filter(|(k, _)| within(*k)).map(|(_, p)| p).sum();
        [50.0, 60.0].map(|mains: f64| {
            let near = |k: usize| {
                let hz = k as f64 * bin_hz;
                let harmonic = (hz / mains).round();
                (1.0..=10.0).contains(&harmonic) && (hz - harmonic * mains).abs() <= 2.0 * bin_hz
            };
            let there: f64 = power.iter().enumerate().filter(|(k, _)| within(*k) && near(*k)).map(|(_, p)| p).sum();
            if all > 0.0 { there / all } else { 0.0 }
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_tone_is_found_and_its_power_lies_in_its_band() {
        let mut transforms = Transforms::default();
        let tone: Vec<f64> = (0..4_800).map(|n| 2.0 * (TAU * 1_000.0 * f64::from(n) / 48_000.0).sin()).collect();
        assert!((transforms.strongest(&tone, 48_000.0).unwrap() - 1_000.0).abs() < 0.5);
        // 2²/2 = 2
        assert!((transforms.mean_square_in(tone.clone(), 48_000.0, (20.0, 20_000.0)) - 2.0).abs() < 1e-9);
        assert!(transforms.mean_square_in(tone, 48_000.0, (2_000.0, 20_000.0)) < 1e-12);
        assert_eq!(transforms.strongest(&[0.0; 64], 48_000.0), None, "silence has no tone");
    }
}
