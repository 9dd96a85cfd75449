//! An output against what the generator plays: the cross spectrum at the frequency that is played just then, and how much of the
//! output follows it.
//!
//! Ref: Bendat, Piersol, Random Data, 4th ed., 6.1: |H| = |Sxy|/Sxx, coherence |Sxy|²/(Sxx·Syy), summed over windows.

use realfft::num_complex::Complex;

use crate::report::ResponsePoint;
use crate::response::POINTS_A_DECADE;
use crate::turn::Turns;

/// Windows on either side that are summed with one, so that its coherence says something.
const BESIDE: usize = 2;

/// A window: the power of what is played at a frequency, and what is played and heard together.
#[derive(Debug, Clone, Copy)]
pub struct Cross {
    hz: f64,
    played: f64,
    both: Complex<f64>,
}

impl Cross {
    /// Of a window of both, under a Hann window.
    #[must_use]
    pub fn new(played: &[f64], heard: &[f64], rate_hz: f64, hz: f64) -> Self {
        let n = played.len().min(heard.len());
        let mean = |samples: &[f64]| samples.iter().take(n).sum::<f64>() / n.max(1) as f64;
        let (x_mean, y_mean) = (mean(played), mean(heard));
        let (mut x, mut y) = (Complex::ZERO, Complex::ZERO);
        let tone = Turns::new(0.0, std::f64::consts::TAU * hz / rate_hz).singly();
        let window = Turns::new(0.0, std::f64::consts::TAU / n.max(1) as f64).singly();
        for (((cos, sin), (slow, _)), (a, b)) in tone.zip(window).zip(played.iter().zip(heard)) {
            let weight = 0.5 - 0.5 * slow;
            let turned = Complex::new(weight * cos, -weight * sin);
            x += turned * (a - x_mean);
            y += turned * (b - y_mean);
        }
        Self { hz, played: x.norm_sqr(), both: x.conj() * y }
    }
}

/// Magnitude and coherence, at most 48 points a decade, in order of frequency.
#[must_use]
pub fn points(mut seen: Vec<Cross>) -> Vec<ResponsePoint> {
    seen.retain(|cross| cross.played > 0.0 && cross.hz > 0.0);
    seen.sort_by(|a, b| a.hz.total_cmp(&b.hz));
    let mut points: Vec<ResponsePoint> = Vec::new();
    for (i, here) in seen.iter().enumerate() {
        if points.last().is_some_and(|last| (here.hz / last.hz).log10() * POINTS_A_DECADE < 1.0) {
            continue;
        }
        let near = &seen[i.saturating_sub(BESIDE)..(i + BESIDE + 1).min(seen.len())];
        let db = 10.0 * (here.both.norm_sqr() / (here.played * here.played)).log10();
        if db.is_finite() {
            points.push(ResponsePoint { hz: here.hz, db, coherence: coherence(near) });
        }
    }
    points
}

/// Each window is taken by what is played in it, and turned by how the response turns from window to window, which is no noise.
fn coherence(near: &[Cross]) -> Option<f64> {
    if near.len() < 3 {
        return None;
    }
    let gains: Vec<Complex<f64>> = near.iter().map(|cross| cross.both / cross.played).collect();
    let middle = (gains.len() - 1) as f64 / 2.0;
    // Gain and phase run on a straight line over so few windows: what strays from it does not follow.
    let turns: Complex<f64> = gains.windows(2).map(|pair| pair[1] * pair[0].conj()).sum();
    let turn = turns.arg();
    let slope: f64 =
        gains.windows(2).map(|pair| (pair[1].norm() / pair[0].norm().max(f64::MIN_POSITIVE)).ln()).sum::<f64>() / (gains.len() - 1) as f64;
    let straightened = |(i, gain): (usize, &Complex<f64>)| {
        let off = i as f64 - middle;
        gain * Complex::from_polar((-slope * off).exp(), -turn * off)
    };
    let sum: Complex<f64> = gains.iter().enumerate().map(straightened).sum();
    let squares: f64 = gains.iter().enumerate().map(|pair| straightened(pair).norm_sqr()).sum();
    (squares > 0.0).then(|| (sum.norm_sqr() / (squares * gains.len() as f64)).min(1.0))
}

#[cfg(test)]
mod tests {
    use std::f64::consts::TAU;

    use super::*;

    #[test]
    fn gain_and_coherence_of_what_follows_and_of_what_does_not() {
        let rate = 48_000.0;
        let wave = |hz: f64, level: f64, phase: f64| -> Vec<f64> {
            (0..4_800).map(|n| level * (TAU * hz * f64::from(n) / rate + phase).sin()).collect()
        };
        let follows: Vec<Cross> = (0..60)
            .map(|i| 200.0 * 10f64.powf(f64::from(i) / 45.0))
            .map(|hz| Cross::new(&wave(hz, 0.5, 0.2), &wave(hz, 5.0, 0.2 - hz / 500.0), rate, hz))
            .collect();
        let found = points(follows);
        assert!(found.len() > 40);
        assert!(found.iter().all(|point| (point.db - 20.0).abs() < 1e-3), "ten times is 20 dB");
        assert!(found.iter().filter_map(|point| point.coherence).all(|share| share > 0.99));
        // What comes at any phase follows nothing.
        let astray: Vec<Cross> = (0..60)
            .map(|i| (200.0 * 10f64.powf(f64::from(i) / 45.0), f64::from(i * i * 7 % 63) / 10.0))
            .map(|(hz, phase)| Cross::new(&wave(hz, 0.5, 0.2), &wave(hz, 5.0, phase), rate, hz))
            .collect();
        let shares: Vec<f64> = points(astray).iter().filter_map(|point| point.coherence).collect();
        assert!(shares.iter().sum::<f64>() / (shares.len() as f64) < 0.7, "{shares:?}");
        assert!(points(Vec::new()).is_empty());
    }
}
