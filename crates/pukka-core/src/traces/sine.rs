//! The sine that fits a wave best: frequency, amplitude, phase, DC.
//!
//! Ref: IEEE 1057, three- and four-parameter least squares sine fit. The four-parameter fit is Gauss and Newton's: the slope of the
//! wave with its frequency stands beside cosine, sine and DC, and what it comes to moves the frequency.

use std::f64::consts::TAU;

use crate::traces::solve::solve;
use crate::traces::turn::Turn;

/// A sine: x(n) = dc + cos · cos(ω n) + sin · sin(ω n), n from the first sample.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sine {
    /// Frequency.
    pub hz: f64,
    /// Factor of its cosine.
    pub cos: f64,
    /// Factor of its sine.
    pub sin: f64,
    /// Mean that it swings about.
    pub dc: f64,
}

impl Sine {
    /// Zero to peak.
    #[must_use]
    pub fn amplitude(&self) -> f64 {
        self.cos.hypot(self.sin)
    }

    /// Rms, without the DC.
    #[must_use]
    pub fn rms(&self) -> f64 {
        self.amplitude() / 2f64.sqrt()
    }

    /// Radians by which it is past its upward zero crossing at the first sample.
    #[must_use]
    pub fn phase(&self) -> f64 {
        self.cos.atan2(self.sin)
    }

    /// Values from a sample on, DC and all.
    pub fn from(&self, n: f64, rate_hz: f64) -> impl Iterator<Item = f64> {
        let step = TAU * self.hz / rate_hz;
        let own = *self;
        Turn::new(step * n, step).map(move |(cos, sin)| own.dc + own.cos * cos + own.sin * sin)
    }

    /// Takes the sine and its DC out of samples.
    pub fn take_from(&self, samples: &mut [f64], rate_hz: f64) {
        for (sample, (cos, sin)) in samples.iter_mut().zip(Turn::new(0.0, TAU * self.hz / rate_hz)) {
            *sample -= self.dc + self.cos * cos + self.sin * sin;
        }
    }
}

/// Fewest samples a sine is fitted to.
const FEWEST: usize = 4;

/// The sine of a known frequency that fits best.
#[must_use]
pub fn fit_at(samples: &[f64], rate_hz: f64, hz: f64) -> Option<Sine> {
    let step = TAU * hz / rate_hz;
    if samples.len() < FEWEST || !(hz > 0.0 && step < std::f64::consts::PI) {
        return None;
    }
    let (mut m, mut r) = ([[0.0; 3]; 3], [0.0; 3]);
    for (x, (cos, sin)) in samples.iter().zip(Turn::new(0.0, step)) {
        add(&mut m, &mut r, [cos, sin, 1.0], *x);
    }
    let [cos, sin, dc] = solve(filled(m), r)?;
    Some(Sine { hz, cos, sin, dc })
}

#[inline]
fn add<const N: usize>(m: &mut [[f64; N]; N], r: &mut [f64; N], row: [f64; N], x: f64) {
    for i in 0..N {
        for j in i..N {
            m[i][j] += row[i] * row[j];
        }
        r[i] += row[i] * x;
    }
}

/// The lower half of a symmetric matrix, from its upper one.
fn filled<const N: usize>(upper: [[f64; N]; N]) -> [[f64; N]; N] {
    std::array::from_fn(|i| std::array::from_fn(|j| upper[i.min(j)][i.max(j)]))
}

/// Times that the frequency is moved at most.
const ROUNDS: usize = 12;

/// The sine that fits best, from a frequency that is within half a bin of it.
#[must_use]
pub fn fit(samples: &[f64], rate_hz: f64, start_hz: f64) -> Option<Sine> {
    let middle = (samples.len() as f64 - 1.0) / 2.0;
    let mut hz = start_hz;
    let mut at = fit_at(samples, rate_hz, hz)?;
    for _ in 0..ROUNDS {
        let step = TAU * hz / rate_hz;
        let (mut m, mut r) = ([[0.0; 4]; 4], [0.0; 4]);
        for (n, (x, (cos, sin))) in samples.iter().zip(Turn::new(0.0, step)).enumerate() {
            // Reckoned from the middle of the window, where frequency and phase barely pull at one another.
            let slope = (n as f64 - middle) * (at.sin * cos - at.cos * sin);
            add(&mut m, &mut r, [cos, sin, 1.0, slope], *x);
        }
        let [cos, sin, dc, moved] = solve(filled(m), r)?;
        // The wave in the middle stays where it is when the frequency moves.
        let (turn_sin, turn_cos) = (moved * middle).sin_cos();
        at = Sine { hz, cos: cos * turn_cos - sin * turn_sin, sin: sin * turn_cos + cos * turn_sin, dc };
        let next = hz + moved * rate_hz / TAU;
        if !(next > 0.0 && next < rate_hz / 2.0) || (next - start_hz).abs() > 2.0 * rate_hz / samples.len() as f64 {
            return fit_at(samples, rate_hz, start_hz);
        }
        let still = (next - hz).abs() < 1e-10 * hz;
        hz = next;
        if still {
            break;
        }
    }
    fit_at(samples, rate_hz, hz)
}
