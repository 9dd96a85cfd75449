//! The sine that fits a wave best: frequency, amplitude, phase, DC.
//!
//! Ref: IEEE 1057, three- and four-parameter least squares sine fit. The four-parameter fit is Gauss and Newton's: the slope of the
//! wave with its frequency stands beside cosine, sine and DC, and what it comes to moves the frequency.

use std::f64::consts::TAU;

use crate::solve::solve;
use crate::turn::{LANES, Turns};

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
        Turns::new(step * n, step).singly().map(move |(cos, sin)| own.dc + own.cos * cos + own.sin * sin)
    }

    /// Takes the sine and its DC out of samples.
    pub fn take_from(&self, samples: &mut [f64], rate_hz: f64) {
        for (samples, (cos, sin)) in samples.chunks_mut(LANES).zip(Turns::new(0.0, TAU * self.hz / rate_hz)) {
            for (sample, (cos, sin)) in samples.iter_mut().zip(cos.into_iter().zip(sin)) {
                *sample -= self.dc + self.cos * cos + self.sin * sin;
            }
        }
    }
}

/// Fewest samples a sine is fitted to.
const FEWEST: usize = 4;

/// Sums of samples against a wave whose angle is counted from the middle of the window: there frequency and phase barely pull at one
/// another.
#[derive(Default)]
struct Against {
    one: f64,
    cos: f64,
    sin: f64,
    /// Likewise, each sample times how far from the middle it lies.
    cos_along: f64,
    sin_along: f64,
}

impl Against {
    fn of(samples: &[f64], step: f64) -> Self {
        let middle = (samples.len() as f64 - 1.0) / 2.0;
        let (mut one, mut cos_sums, mut sin_sums) = ([0.0; LANES], [0.0; LANES], [0.0; LANES]);
        let (mut cos_along, mut sin_along) = ([0.0; LANES], [0.0; LANES]);
        let mut along: [f64; LANES] = std::array::from_fn(|lane| lane as f64 - middle);
        let mut turns = Turns::new(-middle * step, step);
        let groups = samples.chunks_exact(LANES);
        let rest = groups.remainder();
        for (group, (cos, sin)) in groups.zip(turns.by_ref()) {
            for lane in 0..LANES {
                let x = group[lane];
                let (x_cos, x_sin) = (x * cos[lane], x * sin[lane]);
                one[lane] += x;
                cos_sums[lane] += x_cos;
                sin_sums[lane] += x_sin;
                cos_along[lane] += along[lane] * x_cos;
                sin_along[lane] += along[lane] * x_sin;
                along[lane] += LANES as f64;
            }
        }
        let total = |sums: [f64; LANES]| sums.iter().sum::<f64>();
        let mut found =
            Self { one: total(one), cos: total(cos_sums), sin: total(sin_sums), cos_along: total(cos_along), sin_along: total(sin_along) };
        let mut n = samples.len() as f64 - rest.len() as f64 - middle;
        for x in rest {
            let (sin, cos) = (n * step).sin_cos();
            found.one += x;
            found.cos += x * cos;
            found.sin += x * sin;
            found.cos_along += n * x * cos;
            found.sin_along += n * x * sin;
            n += 1.0;
        }
        found
    }
}

/// Σ cos θn, Σ n·sin θn and Σ n²·cos θn over a window counted from its middle.
///
/// Ref: Dirichlet's kernel D(θ) = sin(Nθ/2)/sin(θ/2), and its derivatives: −D′ and −D″.
struct Kernel {
    cos: f64,
    along_sin: f64,
    square_cos: f64,
}

impl Kernel {
    fn of(theta: f64, samples: usize) -> Self {
        let n = samples as f64;
        let (sin, cos) = (theta / 2.0).sin_cos();
        // Of less than half a turn in all, differences of nearly equal numbers would tell nothing.
        if sin.abs() * n < 1.0 {
            let middle = (n - 1.0) / 2.0;
            let places = || (0..samples).map(|i| i as f64 - middle);
            return Self {
                cos: places().map(|n| (theta * n).cos()).sum(),
                along_sin: places().map(|n| n * (theta * n).sin()).sum(),
                square_cos: places().map(|n| n * n * (theta * n).cos()).sum(),
            };
        }
        let (all_sin, all_cos) = (n * theta / 2.0).sin_cos();
        let d = all_sin / sin;
        let turned = n * all_cos - d * cos;
        let first = turned / sin / 2.0;
        let second = ((d - n * n * d) - 2.0 * turned * cos / sin / sin) / 4.0;
        Self { cos: d, along_sin: -first, square_cos: -second }
    }
}

/// The sine of a known frequency that fits best.
#[must_use]
pub fn fit_at(samples: &[f64], rate_hz: f64, hz: f64) -> Option<Sine> {
    Some(from_the_start(from_the_middle(samples, rate_hz, hz)?, rate_hz, samples.len() as f64))
}

/// Likewise, counted from the middle of the window.
fn from_the_middle(samples: &[f64], rate_hz: f64, hz: f64) -> Option<Sine> {
    let step = TAU * hz / rate_hz;
    if samples.len() < FEWEST || !(hz > 0.0 && step < std::f64::consts::PI) {
        return None;
    }
    let n = samples.len() as f64;
    let (once, twice) = (Kernel::of(step, samples.len()), Kernel::of(2.0 * step, samples.len()));
    let sums = Against::of(samples, step);
    // Counted from the middle, what is odd comes to nothing.
    let matrix = [[(n + twice.cos) / 2.0, 0.0, once.cos], [0.0, (n - twice.cos) / 2.0, 0.0], [once.cos, 0.0, n]];
    let [cos, sin, dc] = solve(matrix, [sums.cos, sums.sin, sums.one])?;
    Some(Sine { hz, cos, sin, dc })
}

/// A sine counted from the middle of a window, counted from its first sample.
fn from_the_start(sine: Sine, rate_hz: f64, samples: f64) -> Sine {
    let (sin, cos) = (TAU * sine.hz / rate_hz * (samples - 1.0) / 2.0).sin_cos();
    Sine { cos: sine.cos * cos - sine.sin * sin, sin: sine.cos * sin + sine.sin * cos, ..sine }
}

/// Times that the frequency is moved at most.
const ROUNDS: usize = 12;

/// The sine that fits best, from a frequency that is within half a bin of it.
#[must_use]
pub fn fit(samples: &[f64], rate_hz: f64, start_hz: f64) -> Option<Sine> {
    // Counted from the middle, where the wave stays as it is when the frequency moves.
    let first = from_the_middle(samples, rate_hz, start_hz)?;
    let n = samples.len() as f64;
    let squares = n * (n * n - 1.0) / 12.0;
    let mut at = first;
    for _ in 0..ROUNDS {
        let step = TAU * at.hz / rate_hz;
        let (once, twice) = (Kernel::of(step, samples.len()), Kernel::of(2.0 * step, samples.len()));
        let sums = Against::of(samples, step);
        // The slope of the wave with its frequency is n·(sin part·cos − cos part·sin).
        let (a, b) = (at.sin, at.cos);
        let slope = [
            -b * twice.along_sin / 2.0,
            a * twice.along_sin / 2.0,
            -b * once.along_sin,
            (a * a * (squares + twice.square_cos) + b * b * (squares - twice.square_cos)) / 2.0,
        ];
        let matrix = [
            [(n + twice.cos) / 2.0, 0.0, once.cos, slope[0]],
            [0.0, (n - twice.cos) / 2.0, 0.0, slope[1]],
            [once.cos, 0.0, n, slope[2]],
            slope,
        ];
        let right = [sums.cos, sums.sin, sums.one, a * sums.cos_along - b * sums.sin_along];
        let [cos, sin, dc, moved] = solve(matrix, right)?;
        let next = at.hz + moved * rate_hz / TAU;
        if !(next > 0.0 && next < rate_hz / 2.0) || (next - start_hz).abs() > 2.0 * rate_hz / n {
            return Some(from_the_start(first, rate_hz, n));
        }
        let still = (next - at.hz).abs() < 1e-10 * at.hz;
        at = Sine { hz: next, cos, sin, dc };
        if still {
            break;
        }
    }
    fit_at(samples, rate_hz, at.hz)
}
