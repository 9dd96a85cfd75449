//! A level that rises: power against distortion, and where the limit is crossed.

use std::f64::consts::TAU;

use crate::distortion::{Tools, band};
use crate::report::{Certified, LevelPoint};
use crate::solve::solve;
use crate::sums::{dot, sum_of};
use crate::turn::Turns;

/// Periods and seconds of a window.
const PERIODS: f64 = 8.0;
const SECONDS: f64 = 0.020;
/// Windows that have to stay past the limit.
const STAYS: usize = 3;

/// Length of a window of a ramp, samples; they overlap by half.
#[must_use]
pub fn window(hz: f64, rate_hz: f64) -> usize {
    let period = rate_hz / hz;
    let periods = PERIODS.max((SECONDS * rate_hz / period).ceil());
    (periods * period).round() as usize
}

/// Windows of one length and one frequency: what they are fitted with is the same for all of them.
#[derive(Debug, Clone)]
pub struct Window {
    rate_hz: f64,
    hz: f64,
    /// Cosine, sine, 1, and cosine and sine growing along the window.
    basis: [Vec<f64>; TERMS],
    /// Turns the sums against the basis into its parts.
    inverse: [[f64; TERMS]; TERMS],
}

const TERMS: usize = 5;

impl Window {
    /// Of so many samples; nothing where they do not tell one wave.
    #[must_use]
    pub fn new(samples: usize, rate_hz: f64, hz: f64) -> Option<Self> {
        let along = |n: usize| (n as f64 + 0.5) / samples as f64 * 2.0 - 1.0;
        let (cos, sin): (Vec<f64>, Vec<f64>) = Turns::new(0.0, TAU * hz / rate_hz).singly().take(samples).unzip();
        let growing = |wave: &[f64]| wave.iter().enumerate().map(|(n, x)| along(n) * x).collect();
        let (cos_along, sin_along) = (growing(&cos), growing(&sin));
        let basis = [cos, sin, vec![1.0; samples], cos_along, sin_along];
        let matrix: [[f64; TERMS]; TERMS] = std::array::from_fn(|i| std::array::from_fn(|j| dot(&basis[i], &basis[j])));
        let column = |i: usize| solve(matrix, std::array::from_fn(|j| f64::from(u8::from(i == j))));
        let mut inverse = [[0.0; TERMS]; TERMS];
        for (i, line) in inverse.iter_mut().enumerate() {
            // The matrix is symmetrical, and so is its inverse.
            *line = column(i)?;
        }
        Some(Self { rate_hz, hz, basis, inverse })
    }

    /// A window: rms, and distortion and noise over all that is in the band. The level's own rise is no distortion.
    pub fn point(&self, tools: &mut Tools, samples: &[f64], at_s: f64, load_ohm: Option<f64>) -> Option<LevelPoint> {
        let sums: [f64; TERMS] = std::array::from_fn(|i| dot(samples, &self.basis[i]));
        let parts: [f64; TERMS] = std::array::from_fn(|i| self.inverse[i].iter().zip(&sums).map(|(a, b)| a * b).sum());
        let [cos, sin, _, cos_along, sin_along] = &self.basis;
        let mut rest: Vec<f64> = samples.iter().map(|x| x - parts[2]).collect();
        for (waves, (cos_part, sin_part)) in [((cos, sin), (parts[0], parts[1])), ((cos_along, sin_along), (parts[3], parts[4]))] {
            for (left, (cos, sin)) in rest.iter_mut().zip(waves.0.iter().zip(waves.1)) {
                *left -= cos_part * cos + sin_part * sin;
            }
        }
        let all_rest = sum_of(&rest, |x| x * x) / rest.len().max(1) as f64;
        let tone = (parts[0] * parts[0] + parts[1] * parts[1]) / 2.0;
        let rms = (tone + all_rest).sqrt();
        let residue = tools.transforms.mean_square_in(rest, self.rate_hz, band(self.hz));
        Some(LevelPoint {
            at_s,
            rms,
            power_w: load_ohm.map(|load| rms * rms / load),
            thd_n_ratio: (residue + tone > 0.0).then(|| (residue / (residue + tone)).sqrt()),
        })
    }
}

/// Place where the limit is first crossed upwards and stays crossed: linear in power, in the logarithm of the distortion.
#[must_use]
pub fn certified(points: &[LevelPoint], limit_ratio: f64) -> Option<Certified> {
    let over = |point: &LevelPoint| point.thd_n_ratio.is_some_and(|thd| thd > limit_ratio);
    let at = (1..points.len()).find(|i| {
        let behind = points.get(*i..(*i + STAYS).min(points.len())).unwrap_or_default();
        !over(&points[i - 1]) && behind.len() == STAYS && behind.iter().all(over)
    })?;
    let (below, above) = (&points[at - 1], &points[at]);
    let (low, high) = (below.thd_n_ratio?, above.thd_n_ratio?);
    let part = if low > 0.0 { (limit_ratio / low).ln() / (high / low).ln() } else { 1.0 };
    let mix = |a: f64, b: f64| a + part.clamp(0.0, 1.0) * (b - a);
    let square = mix(below.rms * below.rms, above.rms * above.rms);
    Some(Certified {
        rms: square.sqrt(),
        power_w: below.power_w.zip(above.power_w).map(|(a, b)| mix(a, b)),
        at_s: mix(below.at_s, above.at_s),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn points(thd: &[f64]) -> Vec<LevelPoint> {
        let at = |i: usize| 10.0 + i as f64;
        thd.iter()
            .enumerate()
            .map(|(i, thd)| LevelPoint { at_s: i as f64, rms: at(i).sqrt(), power_w: Some(at(i)), thd_n_ratio: Some(*thd) })
            .collect()
    }

    #[test]
    fn the_first_crossing_that_stays() {
        // One window past the limit is a click; the crossing is between 0.001 and 0.1, half way by logarithm: 13.5 W.
        let found = certified(&points(&[0.001, 0.02, 0.001, 0.001, 0.1, 0.1, 0.2]), 0.01).unwrap();
        assert!((found.power_w.unwrap() - 13.5).abs() < 1e-9 && (found.at_s - 3.5).abs() < 1e-9, "{found:?}");
        assert!((found.rms * found.rms - 13.5).abs() < 1e-9);
        assert_eq!(certified(&points(&[0.001, 0.02, 0.03]), 0.01), None, "it has to stay for three windows");
        assert_eq!(certified(&points(&[0.02, 0.03, 0.04, 0.05]), 0.01), None, "it was never inside");
    }
}
