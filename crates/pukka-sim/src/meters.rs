//! What the instruments show of the bench: each with its own error, its noise and its averaging.

use crate::TICK_S;
use crate::noise::{normal, uniform};

/// A meter.
#[derive(Debug, Clone, PartialEq)]
pub struct Meter {
    /// Tells its noise from another's.
    who: u64,
    /// Own error, of the reading: fixed for a seed, inside its limits.
    gain: f64,
    /// Standard deviation of its noise, of the reading.
    noise: f64,
    /// Averaging time, seconds.
    averages_s: f64,
    value: f64,
    started: bool,
}

impl Meter {
    /// A meter with limits of ± a part of the reading.
    #[must_use]
    pub fn new(seed: u64, who: u64, limit: f64, noise: f64, averages_s: f64) -> Self {
        let gain = 1.0 + limit * (2.0 * uniform(seed, who, u64::MAX) - 1.0);
        Self { who, gain, noise, averages_s, value: 0.0, started: false }
    }

    /// The same without its noise: its own error stays.
    #[must_use]
    pub const fn without_noise(self) -> Self {
        Self { noise: 0.0, ..self }
    }

    /// A tick of the quantity it reads.
    pub fn tick(&mut self, truth: f64) {
        let part = (TICK_S / self.averages_s).min(1.0);
        self.value += if self.started { (truth - self.value) * part } else { truth - self.value };
        self.started = true;
    }

    /// Reading at a tick.
    #[must_use]
    pub fn shows(&self, seed: u64, tick: u64) -> f64 {
        self.value * self.gain * (1.0 + self.noise * normal(seed, self.who, tick))
    }

    /// Average without its own errors: the truth behind it.
    #[must_use]
    pub const fn averaged(&self) -> f64 {
        self.value
    }
}
