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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_million_steps_stay_on_the_circle() {
        let (n, step) = (1_000_000, 0.130_899_693_9);
        let (cos, sin) = Turn::new(0.5, step).nth(n).unwrap();
        let (wanted_sin, wanted_cos) = (0.5 + step * n as f64).sin_cos();
        assert!((cos - wanted_cos).abs() < 1e-10 && (sin - wanted_sin).abs() < 1e-10);
    }
}
