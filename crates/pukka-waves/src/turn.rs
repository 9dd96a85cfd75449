//! Cosine and sine of an angle that grows by the same step from sample to sample.

/// Samples after which rounding is thrown away and the angle is computed again.
const RESYNC: u32 = 256;

/// Samples that are worked on side by side: sums and turns one after another would wait for each other.
pub const LANES: usize = 4;

/// Walks round the circle by one multiplication a sample, four samples at once.
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

    /// One sample after another.
    pub fn singly(self) -> impl Iterator<Item = (f64, f64)> {
        self.flat_map(|(cos, sin)| cos.into_iter().zip(sin))
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
    fn four_at_once_are_the_four_angles() {
        for (n, (cos, sin)) in Turns::new(0.3, 0.7).singly().take(4_000).enumerate() {
            let (wanted_sin, wanted_cos) = (0.3 + 0.7 * n as f64).sin_cos();
            assert!((cos - wanted_cos).abs() < 1e-12 && (sin - wanted_sin).abs() < 1e-12, "{n}");
        }
    }

    #[test]
    fn a_million_steps_stay_on_the_circle() {
        let (n, step) = (1_000_000, 0.130_899_693_9);
        let (cos, sin) = Turns::new(0.5, step).singly().nth(n).unwrap();
        let (wanted_sin, wanted_cos) = (0.5 + step * n as f64).sin_cos();
        assert!((cos - wanted_cos).abs() < 1e-10 && (sin - wanted_sin).abs() < 1e-10);
    }
}
