//! The wave between its samples, band-limited: a sinc under a Kaiser window.

use std::f64::consts::PI;

use crate::sums::dot;

/// Samples on either side that a value between two is made from.
const REACH: usize = 32;
/// Shape of the window: its side lobes are 90 dB down.
const BETA: f64 = 9.0;
/// Steps between two samples.
pub const STEPS: usize = 8;

/// Modified Bessel function of the first kind, order zero.
fn bessel(x: f64) -> f64 {
    let (mut sum, mut term) = (1.0, 1.0);
    for k in 1..40 {
        let part = x / (2.0 * f64::from(k));
        term *= part * part;
        sum += term;
    }
    sum
}

/// Weights of the samples around a place between two of them.
#[derive(Debug, Clone)]
pub struct Interpolator {
    phases: Vec<[f64; 2 * REACH]>,
}

impl Default for Interpolator {
    fn default() -> Self {
        let phases = (0..STEPS).map(|step| weights(step as f64 / STEPS as f64)).collect();
        Self { phases }
    }
}

fn weights(part: f64) -> [f64; 2 * REACH] {
    let mut weights = [0.0; 2 * REACH];
    let whole = bessel(BETA);
    for (i, weight) in weights.iter_mut().enumerate() {
        // Sample i lies so far before the place.
        let off = part + REACH as f64 - 1.0 - i as f64;
        let edge = off / REACH as f64;
        let window = if edge.abs() < 1.0 { bessel(BETA * (1.0 - edge * edge).sqrt()) / whole } else { 0.0 };
        *weight = if off.abs() < 1e-12 { 1.0 } else { (PI * off).sin() / (PI * off) * window };
    }
    let sum: f64 = weights.iter().sum();
    weights.map(|weight| weight / sum)
}

impl Interpolator {
    /// The value `step` eighths behind sample `at`. Before the first and behind the last sample the wave is taken to be mirrored.
    #[must_use]
    pub fn value(&self, samples: &[f64], at: usize, step: usize) -> f64 {
        if step == 0 {
            return samples.get(at).copied().unwrap_or(0.0);
        }
        let last = samples.len() as isize - 1;
        let first = at as isize + 1 - REACH as isize;
        let weights = &self.phases[step % STEPS];
        let inside = usize::try_from(first).ok().and_then(|first| samples.get(first..first + 2 * REACH));
        match inside {
            Some(inside) => dot(weights, inside),
            None => weights.iter().enumerate().map(|(i, weight)| weight * samples[mirrored(first + i as isize, last)]).sum(),
        }
    }

    /// The whole stretch, eight values a sample.
    #[must_use]
    pub fn fine(&self, samples: &[f64]) -> Vec<f64> {
        (0..samples.len()).flat_map(|at| (0..STEPS).map(move |step| (at, step))).map(|(at, step)| self.value(samples, at, step)).collect()
    }

    /// The largest value between the samples, either way: where the samples come within a twentieth of their largest it is looked for.
    #[must_use]
    pub fn peak(&self, samples: &[f64]) -> f64 {
        let most = samples.iter().fold(0.0f64, |most, x| most.max(x.abs()));
        let mut found = most;
        let mut looked = 0;
        // At its ends a long window is only as good as its samples: what lies behind them is not known.
        let margin = if samples.len() > 8 * REACH { REACH } else { 1 };
        for at in margin..samples.len().saturating_sub(margin) {
            let here = samples[at].abs();
            if here < 0.95 * most || here < samples[at - 1].abs() || here < samples[at + 1].abs() {
                continue;
            }
            looked += 1;
            if looked > MOST_LOOKED {
                break;
            }
            for step in 1..STEPS {
                found = found.max(self.value(samples, at, step).abs()).max(self.value(samples, at - 1, step).abs());
            }
        }
        found
    }
}

/// Places at most where a peak is looked for between samples.
const MOST_LOOKED: usize = 4_096;

fn mirrored(index: isize, last: isize) -> usize {
    let index = if index < 0 { -index } else { index };
    let index = if index > last { 2 * last - index } else { index };
    index.clamp(0, last.max(0)) as usize
}

#[cfg(test)]
mod tests {
    use std::f64::consts::TAU;

    use super::*;

    #[test]
    fn the_peak_between_samples_is_that_of_the_sine() {
        let fine = Interpolator::default();
        for (hz, phase) in [(997.0, 0.3), (6_000.0, PI / 4.0), (11_025.0, 0.1), (19_000.0, 1.0)] {
            let wave: Vec<f64> = (0..4_800).map(|n| (TAU * hz * f64::from(n) / 48_000.0 + phase).sin()).collect();
            let peak = fine.peak(&wave[100..4_700]);
            assert!((peak - 1.0).abs() < 2e-3, "{hz} Hz: {peak}");
        }
        assert_eq!(fine.peak(&[]), 0.0);
        assert_eq!(fine.peak(&[0.5]), 0.5);
    }
}
