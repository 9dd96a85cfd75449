//! A level that rises: power against distortion, and where the limit is crossed.

use crate::traces::distortion::{Tools, band};
use crate::traces::report::{Certified, LevelPoint};
use crate::traces::sine::fit_growing;

/// Periods and seconds of a window.
const PERIODS: f64 = 8.0;
const SECONDS: f64 = 0.020;
/// Windows that have to stay past the limit.
const STAYS: usize = 3;

/// How long a window of a ramp is, samples; they overlap by half.
#[must_use]
pub fn window(hz: f64, rate_hz: f64) -> usize {
    let period = rate_hz / hz;
    let periods = PERIODS.max((SECONDS * rate_hz / period).ceil());
    (periods * period).round() as usize
}

/// One window: rms, and distortion and noise over all that is in the band. The level's own rise is no distortion.
#[must_use]
pub fn point(tools: &mut Tools, samples: &[f64], rate_hz: f64, hz: f64, at_s: f64, load_ohm: Option<f64>) -> Option<LevelPoint> {
    let (sine, rest) = fit_growing(samples, rate_hz, hz)?;
    let all_rest = rest.iter().map(|x| x * x).sum::<f64>() / rest.len() as f64;
    let rms = (sine.rms() * sine.rms() + all_rest).sqrt();
    let residue = tools.transforms.mean_square_in(rest, rate_hz, band(hz));
    let all = residue + sine.rms() * sine.rms();
    Some(LevelPoint { at_s, rms, power_w: load_ohm.map(|load| rms * rms / load), thd_n_ratio: (all > 0.0).then(|| (residue / all).sqrt()) })
}

/// Where the limit is first crossed upwards and stays crossed: linear in power, in the logarithm of the distortion.
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
