//! Cosine and sine of an angle that grows by the same step from sample to sample.

/// Samples after which rounding is thrown away and the angle is computed again.
const RESYNC: u32 = 256;

/// Walks round the circle by one multiplication a sample.
#[derive(Debug, Clone)]
pub struct Turn {
    start: f64,
    step: f64,
    step_cos: f64,
    step_sin: f64,
    cos: f64,
    sin: f64,
    n: u32,
    done: f64,
}

impl Turn {
    /// From the angle `start`, by `step` radians a sample.
    #[must_use]
    pub fn new(start: f64, step: f64) -> Self {
        let (step_sin, step_cos) = step.sin_cos();
        let (sin, cos) = start.sin_cos();
        Self { start, step, step_cos, step_sin, cos, sin, n: 0, done: 0.0 }
    }
}

impl Iterator for Turn {
    /// Cosine and sine.
    type Item = (f64, f64);

    #[inline]
    fn next(&mut self) -> Option<(f64, f64)> {
        let now = (self.cos, self.sin);
        self.n += 1;
        if self.n == RESYNC {
            self.done += f64::from(RESYNC);
            self.n = 0;
            (self.sin, self.cos) = self.step.mul_add(self.done, self.start).sin_cos();
        } else {
            (self.cos, self.sin) =
                (self.cos * self.step_cos - self.sin * self.step_sin, self.sin * self.step_cos + self.cos * self.step_sin);
        }
        Some(now)
    }
}

/// Samples that are worked on side by side: sums and turns one after another would wait for each other.
pub const LANES: usize = 4;

/// The same, four samples at once.
#[derive(Debug, Clone)]
pub struct Turns {
    start: f64,
    step: f64,
    /// Cosines and sines of the lanes against the first one.
    lanes: ([f64; LANES], [f64; LANES]),
    /// From one four to the next.
    by: (f64, f64),
    cos: [f64; LANES],
    sin: [f64; LANES],
    n: u32,
    done: f64,
}

impl Turns {
    /// From the angle `start`, by `step` radians a sample.
    #[must_use]
    pub fn new(start: f64, step: f64) -> Self {
        let (by_sin, by_cos) = (step * LANES as f64).sin_cos();
        let lanes = (std::array::from_fn(|lane| (step * lane as f64).cos()), std::array::from_fn(|lane| (step * lane as f64).sin()));
        let mut turns = Self { start, step, lanes, by: (by_cos, by_sin), cos: [0.0; LANES], sin: [0.0; LANES], n: 0, done: 0.0 };
        turns.set();
        turns
    }

    /// Computes the angle anew.
    fn set(&mut self) {
        let (sin, cos) = self.step.mul_add(self.done, self.start).sin_cos();
        for lane in 0..LANES {
            self.cos[lane] = cos * self.lanes.0[lane] - sin * self.lanes.1[lane];
            self.sin[lane] = sin * self.lanes.0[lane] + cos * self.lanes.1[lane];
        }
    }
}

impl Iterator for Turns {
    /// Cosines and sines.
    type Item = ([f64; LANES], [f64; LANES]);

    #[inline]
    fn next(&mut self) -> Option<Self::Item> {
        let now = (self.cos, self.sin);
        self.n += 1;
        if self.n == RESYNC / LANES as u32 {
            self.done += f64::from(RESYNC);
            self.n = 0;
            self.set();
        } else {
            for lane in 0..LANES {
                self.cos[lane] = now.0[lane] * self.by.0 - now.1[lane] * self.by.1;
                self.sin[lane] = now.1[lane] * self.by.0 + now.0[lane] * self.by.1;
            }
        }
        Some(now)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn four_at_once_are_the_same_four() {
        let singly: Vec<(f64, f64)> = Turn::new(0.3, 0.7).take(4_000).collect();
        let at_once = Turns::new(0.3, 0.7).flat_map(|(cos, sin)| cos.into_iter().zip(sin));
        assert!(singly.iter().zip(at_once).all(|(a, b)| (a.0 - b.0).abs() < 1e-12 && (a.1 - b.1).abs() < 1e-12));
    }

    #[test]
    fn a_million_steps_stay_on_the_circle() {
        let (n, step) = (1_000_000, 0.130_899_693_9);
        let (cos, sin) = Turn::new(0.5, step).nth(n).unwrap();
        let (wanted_sin, wanted_cos) = (0.5 + step * n as f64).sin_cos();
        assert!((cos - wanted_cos).abs() < 1e-10 && (sin - wanted_sin).abs() < 1e-10);
    }
}
