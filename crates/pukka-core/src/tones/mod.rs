//! Test tones: sines, bursts, counted cycles and level steps, at an exact level and without clicks.
//!
//! A level is the peak of the sine against full scale, in dB (dBFS). Every change of level falls on a zero of the sine, and a
//! whole file fades in and out; a loop starts and ends on the same zero instead. Bursts begin every 500 ms exactly, whatever the
//! frequency: both they and what is between them are whole cycles, and what is left before the next is silent. A file of bursts fades in
//! before the first of them, which is whole.
//!
//! Ref: IHF-A-202 (standard burst); AES17 (0 dBFS is the sine that just reaches full scale).

mod wav;

pub use wav::{Depth, RATES, Sides, WavPieces};

use serde::{Deserialize, Serialize};

use crate::kernel::format;
use crate::kernel::problem::Problem;

/// Way in which the level goes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "kebab-case")]
pub enum Shape {
    /// A level.
    Sine,
    /// The standard burst: 20 ms (two whole cycles at least) in every 500 ms, 20 dB lower in between.
    Burst,
    /// A number of cycles in every 500 ms, silence in between.
    Counted {
        /// Cycles.
        cycles: u32,
    },
    /// A level after another, each held as long.
    Steps {
        /// Levels below that of the tone, decibels.
        levels_db: Vec<f64>,
        /// Seconds of each.
        seconds: f64,
    },
}

/// A tone to play or to save.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Tone {
    /// Frequency, hertz.
    pub hz: f64,
    /// Peak against full scale, dBFS.
    pub level_dbfs: f64,
    /// Way in which the level goes.
    pub shape: Shape,
}

/// Fall of the standard burst in between.
const BETWEEN_DB: f64 = -20.0;
const BURST_S: f64 = 0.020;
const BURST_EVERY_S: f64 = 0.500;
/// Fade at both ends of a file, and how long before its first burst a file begins.
const FADE_S: f64 = 0.010;
const LEAD_S: f64 = 0.100;
/// The longest tone that is made.
pub const MOST_SECONDS: f64 = 600.0;

impl Tone {
    /// Problems with it.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        let mut refuse = |bad: bool, path: &str, says: &str| {
            if bad {
                problems.push(Problem::new(path, says));
            }
        };
        refuse(!(10.0..=20_000.0).contains(&self.hz), "hz", "A tone is between 10 Hz and 20 kHz.");
        refuse(!(-120.0..=0.0).contains(&self.level_dbfs), "level_dbfs", "A level is 0 dBFS at the most, and −120 at the least.");
        match &self.shape {
            Shape::Counted { cycles } => {
                let fits = *cycles >= 1 && f64::from(*cycles) <= 0.9 * BURST_EVERY_S * self.hz;
                refuse(!fits, "shape.cycles", "Counted cycles are 1 at least, and fit in 500 ms with a pause.");
            }
            Shape::Steps { levels_db, seconds } => {
                refuse(levels_db.is_empty() || levels_db.len() > 64, "shape.levels_db", "Give 1 to 64 levels.");
                let above = levels_db.iter().any(|db| !(*db <= 0.0 && *db >= -120.0));
                refuse(above, "shape.levels_db", "A step is at or below the level of the tone: 0 to −120 dB.");
                refuse(!(*seconds >= 0.1 && *seconds <= 60.0), "shape.seconds", "A step lasts 0.1 to 60 s.");
            }
            Shape::Sine | Shape::Burst => {}
        }
        problems
    }

    /// Description: "40 Hz sine at −6 dBFS".
    #[must_use]
    pub fn words(&self) -> String {
        let hz = format::tone(self.hz);
        let level = format!("{} dBFS", format::as_read(self.level_dbfs).replace('-', "−"));
        match &self.shape {
            Shape::Sine => format!("{hz} sine at {level}"),
            Shape::Burst => {
                format!("burst of {} cycles of {hz} every {} ms at {level}", self.burst().0, format::fixed(BURST_EVERY_S * 1e3, 0))
            }
            Shape::Counted { cycles } => format!("{cycles} cycles of {hz} every {} ms at {level}", format::fixed(BURST_EVERY_S * 1e3, 0)),
            Shape::Steps { levels_db, seconds } => {
                format!("{} steps of {hz}, {} s each, from {level} down", levels_db.len(), format::as_read(*seconds))
            }
        }
    }

    /// Cycles of a burst, and whole cycles that fit from one burst to the next.
    #[must_use]
    pub fn burst(&self) -> (u64, u64) {
        let fit = (BURST_EVERY_S * self.hz + 1e-9).floor() as u64;
        match &self.shape {
            Shape::Counted { cycles } => (u64::from(*cycles), fit),
            _ => (((BURST_S * self.hz).ceil() as u64).max(2), fit.max(3)),
        }
    }

    /// Whether it is one burst after another.
    const fn is_bursts(&self) -> bool {
        matches!(self.shape, Shape::Burst | Shape::Counted { .. })
    }

    /// Level of a cycle, counted from the start or from that of its burst, against that of the tone; nothing when the tone is over.
    fn cycle_db(&self, cycle: u64) -> Option<f64> {
        let (on, every) = self.burst();
        match &self.shape {
            Shape::Sine => Some(0.0),
            Shape::Burst if cycle < on => Some(0.0),
            Shape::Burst if cycle < every => Some(BETWEEN_DB),
            Shape::Counted { .. } if cycle < on => Some(0.0),
            Shape::Burst | Shape::Counted { .. } => None,
            Shape::Steps { levels_db, seconds } => {
                let each = ((seconds * self.hz).round() as u64).max(1);
                levels_db.get(usize::try_from(cycle / each).ok()?).copied()
            }
        }
    }

    /// Samples from one burst to the next.
    fn burst_samples(rate: u32) -> u64 {
        (BURST_EVERY_S * f64::from(rate)).round() as u64
    }

    /// Sample `n` at a rate, of full scale 1.
    #[must_use]
    pub fn sample(&self, n: u64, rate: u32) -> f64 {
        let n = if self.is_bursts() { n % Self::burst_samples(rate) } else { n };
        let turns = self.hz * n as f64 / f64::from(rate);
        // A hair's breadth before a whole turn is that turn: the sum is not exact.
        let cycle = (turns + 1e-9).floor();
        let Some(db) = self.cycle_db(cycle as u64) else { return 0.0 };
        10f64.powf((self.level_dbfs + db) / 20.0) * (std::f64::consts::TAU * (turns - cycle)).sin()
    }

    /// Length: as long as is asked for, or as its steps take.
    #[must_use]
    pub fn seconds(&self, asked: f64) -> f64 {
        match &self.shape {
            Shape::Steps { levels_db, seconds } => levels_db.len() as f64 * ((seconds * self.hz).round().max(1.0) / self.hz),
            _ => asked,
        }
    }

    /// Number of samples that a file of it has.
    #[must_use]
    pub fn file_samples(&self, seconds: f64, rate: u32) -> u64 {
        (self.seconds(seconds).min(MOST_SECONDS) * f64::from(rate)).round() as u64
    }

    /// Sample `n` of a file of so many: faded in and out, and with the first burst whole behind the fade.
    #[must_use]
    pub fn file_sample(&self, n: u64, count: u64, rate: u32) -> f64 {
        let fade = ((FADE_S * f64::from(rate)) as u64).min(count / 2).max(1);
        let edge = n.min(count - 1 - n);
        let gain = if edge < fade { 0.5 - 0.5 * (std::f64::consts::PI * edge as f64 / fade as f64).cos() } else { 1.0 };
        let before = if self.is_bursts() { Self::burst_samples(rate) - (LEAD_S * f64::from(rate)).round() as u64 } else { 0 };
        gain * self.sample(n + before, rate)
    }

    /// A file's worth of samples.
    pub fn file(&self, seconds: f64, rate: u32) -> impl Iterator<Item = f64> + '_ {
        let count = self.file_samples(seconds, rate);
        (0..count).map(move |n| self.file_sample(n, count, rate))
    }

    /// Number of samples that can be played over and over: the end joins the start. Nothing when no whole number of cycles fills whole samples
    /// within ten seconds.
    #[must_use]
    pub fn loop_samples(&self, rate: u32) -> Option<u64> {
        let turn = match &self.shape {
            Shape::Sine => 1.0 / self.hz,
            Shape::Burst | Shape::Counted { .. } => BURST_EVERY_S,
            Shape::Steps { .. } => self.seconds(0.0),
        };
        // A second or so at least: a loop of one cycle would be a round trip for nothing.
        let first = (1.0 / turn).ceil().max(1.0) as u64;
        let last = (10.0 / turn).floor() as u64;
        (first..=last.max(first)).find_map(|turns| {
            let samples = turns as f64 * turn * f64::from(rate);
            ((samples - samples.round()).abs() < 1e-6 * samples.max(1.0) && (samples - samples.round()).abs() < 1e-3)
                .then_some(samples.round() as u64)
        })
    }

    /// Samples to be played over and over.
    #[must_use]
    pub fn looped(&self, rate: u32) -> Option<Vec<f64>> {
        Some((0..self.loop_samples(rate)?).map(|n| self.sample(n, rate)).collect())
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn tone(hz: f64, shape: Shape) -> Tone {
        Tone { hz, level_dbfs: -6.0, shape }
    }

    fn rms(samples: &[f64]) -> f64 {
        (samples.iter().map(|s| s * s).sum::<f64>() / samples.len() as f64).sqrt()
    }

    #[test]
    fn the_level_is_exact() {
        for hz in [1_000.0, 50.0, 40.0] {
            let found = rms(&tone(hz, Shape::Sine).looped(48_000).unwrap());
            // −6 dBFS: 0.501187 peak, 0.354393 rms
            assert!((found - 0.354_393).abs() < 1e-6, "{hz} Hz: {found}");
        }
    }

    #[test]
    fn the_standard_burst_at_both_tones() {
        assert_eq!((tone(1_000.0, Shape::Burst).burst(), tone(40.0, Shape::Burst).burst()), ((20, 500), (2, 20)));
        let loop_40 = tone(40.0, Shape::Burst).looped(48_000).unwrap();
        assert_eq!(loop_40.len(), 48_000, "two periods of 500 ms");
        let (loud, soft) = (rms(&loop_40[..2_400]), rms(&loop_40[2_400..24_000]));
        assert!((20.0 * (loud / soft).log10() - 20.0).abs() < 1e-9, "20 dB lower in between");
    }

    #[test]
    fn a_file_of_bursts_begins_every_half_second_and_the_first_is_whole() {
        for (hz, shape, cycles) in
            [(1_000.0, Shape::Burst, 20), (63.0, Shape::Burst, 2), (45.5, Shape::Burst, 2), (1_000.0, Shape::Counted { cycles: 8 }, 8)]
        {
            let burst = tone(hz, shape);
            let file: Vec<f64> = burst.file(2.0, 48_000).collect();
            let length = (f64::from(cycles) / hz * 48_000.0) as usize;
            for k in 0..3 {
                let from = 4_800 + k * 24_000;
                let (own, wanted) = (rms(&file[from..from + length]), rms(&burst.looped(48_000).unwrap()[..length]));
                assert!((own - wanted).abs() < 1e-12, "{hz} Hz, burst {k}: {own} and {wanted}");
                // What is before it is at most a tenth of it.
                let before = file[from - 2_000..from].iter().fold(0.0f64, |most, x| most.max(x.abs()));
                assert!(before <= 0.0502, "{hz} Hz, before burst {k}: {before}");
            }
        }
    }

    #[test]
    fn counted_cycles_and_steps() {
        let eight = tone(1_000.0, Shape::Counted { cycles: 8 }).looped(48_000).unwrap();
        assert!(rms(&eight[..384]) > 0.35 && eight[385..24_000].iter().all(|s| *s == 0.0), "8 cycles are 384 samples");
        let steps = tone(1_000.0, Shape::Steps { levels_db: vec![-10.0, 0.0], seconds: 1.0 });
        let file: Vec<f64> = steps.file(99.0, 48_000).collect();
        assert_eq!(file.len(), 96_000);
        let (first, second) = (rms(&file[4_800..43_200]), rms(&file[52_800..91_200]));
        assert!((20.0 * (second / first).log10() - 10.0).abs() < 1e-9);
    }

    #[test]
    fn what_cannot_be_is_refused() {
        let path = |tone: Tone| tone.check().first().map(|problem| problem.path.clone());
        assert_eq!(path(tone(1_000.0, Shape::Burst)), None);
        assert_eq!(path(tone(5.0, Shape::Sine)).as_deref(), Some("hz"));
        assert_eq!(path(Tone { level_dbfs: 0.1, ..tone(40.0, Shape::Sine) }).as_deref(), Some("level_dbfs"));
        assert_eq!(path(tone(40.0, Shape::Counted { cycles: 20 })).as_deref(), Some("shape.cycles"));
        assert_eq!(path(tone(40.0, Shape::Steps { levels_db: vec![1.0], seconds: 1.0 })).as_deref(), Some("shape.levels_db"));
        assert_eq!(Tone { level_dbfs: 0.0, ..tone(40.0, Shape::Burst) }.words(), "burst of 2 cycles of 40 Hz every 500 ms at 0 dBFS");
    }

    proptest! {
        #[test]
        fn no_clicks(hz in 20u32..5_000, which in 0u8..4, rate in prop::sample::select(RATES.to_vec())) {
            let shape = match which {
                0 => Shape::Sine,
                1 => Shape::Burst,
                2 => Shape::Counted { cycles: (hz / 8).max(1) },
                _ => Shape::Steps { levels_db: vec![-20.0, 0.0, -40.0], seconds: 0.2 },
            };
            let tone = Tone { hz: f64::from(hz), level_dbfs: 0.0, shape };
            // The steepest a full-scale sine can be between two samples, and what the fade adds.
            let most = (std::f64::consts::TAU * tone.hz + std::f64::consts::FRAC_PI_2 / FADE_S) / f64::from(rate) * 1.001;
            let file: Vec<f64> = tone.file(1.0, rate).collect();
            prop_assert!(file.windows(2).all(|pair| (pair[1] - pair[0]).abs() <= most));
            prop_assert!(file[0].abs() < 1e-9 && file[file.len() - 1].abs() < 1e-9);
            if let Some(looped) = tone.looped(rate) {
                prop_assert!((looped[0] - looped[looped.len() - 1]).abs() <= most, "the end joins the start");
            } else {
                prop_assert!(which > 0 || hz % 25 > 0, "every usual sine and burst can be looped");
            }
        }
    }
}
