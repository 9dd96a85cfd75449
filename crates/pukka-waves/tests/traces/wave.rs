//! Waves made from closed forms.

use std::f64::consts::{PI, TAU};

/// Sine coefficients of the hard-clipped sine of amplitude 1, limit `c`: b(h) of the odd harmonics, from the Fourier integral.
pub fn clipped_coefficient(c: f64, h: u32) -> f64 {
    let (theta, n) = (c.asin(), f64::from(h));
    let cut = 4.0 * c / PI * (n * theta).cos() / n;
    if h == 1 {
        return 2.0 / PI * (theta - (2.0 * theta).sin() / 2.0) + cut;
    }
    2.0 / PI * (((n - 1.0) * theta).sin() / (n - 1.0) - ((n + 1.0) * theta).sin() / (n + 1.0)) + cut
}

/// A hard-clipped sine whose limit is 1, band-limited: its harmonics below half the rate.
pub struct Clipped {
    pub c: f64,
    pub hz: f64,
    pub rate_hz: f64,
    pub phase: f64,
}

impl Clipped {
    fn coefficients(&self) -> Vec<(f64, f64)> {
        let most = (0.5 * self.rate_hz / self.hz).ceil() as u32;
        (1..most).step_by(2).map(|h| (f64::from(h), clipped_coefficient(self.c, h) / self.c)).collect()
    }

    pub fn samples(&self, n: usize) -> Vec<f64> {
        let coefficients = self.coefficients();
        let at = |i: usize| {
            let angle = TAU * self.hz / self.rate_hz * i as f64 + self.phase;
            coefficients.iter().map(|(h, b)| b * (h * angle).sin()).sum()
        };
        (0..n).map(at).collect()
    }

    /// THD over the harmonics that count.
    pub fn thd(&self, below_hz: f64) -> f64 {
        let coefficients = self.coefficients();
        let above = coefficients.iter().skip(1).filter(|(h, _)| h * self.hz < below_hz).map(|(_, b)| b * b).sum::<f64>();
        above.sqrt() / coefficients[0].1
    }
}

/// A sine.
pub fn sine(amplitude: f64, hz: f64, rate_hz: f64, phase: f64, n: usize) -> Vec<f64> {
    (0..n).map(|i| amplitude * (TAU * hz / rate_hz * i as f64 + phase).sin()).collect()
}

/// Noise of a given rms, the same each time, of nearly Gaussian shape.
pub fn noise(rms: f64, n: usize, seed: u64) -> Vec<f64> {
    let mut state = seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1;
    let mut uniform = || {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        (state >> 11) as f64 / (1u64 << 53) as f64 - 0.5
    };
    (0..n).map(|_| rms * (0..12).map(|_| uniform()).sum::<f64>()).collect()
}
