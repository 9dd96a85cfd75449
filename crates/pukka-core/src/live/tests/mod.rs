//! The machine on a fake clock: an amplifier made of formulas, and meters that lie in every way that real ones do.

mod lies;
mod runs;

use super::*;
use crate::kernel::units::Level;
use crate::record::session::{Mode, Policy};

/// An amplifier for the test: watts by level, distortion that leaps at its limit, a supply that sags.
#[derive(Clone, Copy)]
pub struct Bench {
    pub clips_db: f64,
    pub noise: f64,
    pub volts_per_100_w: f64,
    pub protects_w: Option<f64>,
    /// Seconds in which its meters follow.
    pub lags_s: f64,
    /// Part of a reading that its noise moves it by.
    pub flutter: f64,
}

pub const HONEST: Bench = Bench { clips_db: -3.25, noise: 1e-4, volts_per_100_w: 0.05, protects_w: None, lags_s: 0.06, flutter: 0.0 };

/// A round takes 50 ms.
pub const ROUND_MS: u64 = 50;

/// Result of a driven run.
#[derive(Debug)]
pub struct Drive {
    pub levels: Vec<f64>,
    pub ended: Ending,
    pub found: RampResult,
    /// Time it took, milliseconds.
    pub took_ms: u64,
    /// Most distortion that there really was above 1 W.
    pub worst_thd: f64,
}

impl Drive {
    pub fn top_db(&self) -> f64 {
        self.levels.iter().copied().fold(f64::NEG_INFINITY, f64::max)
    }

    pub fn watts(&self) -> f64 {
        self.found.best.as_ref().map_or(0.0, Round::total_w)
    }
}

impl Bench {
    pub fn watts(&self, level_db: f64) -> f64 {
        let clean = 500.0 * 10f64.powf(level_db.min(self.clips_db) / 10.0);
        let watts = clean * 10f64.powf(onset::above_onset_db(level_db - self.clips_db) / 10.0);
        if self.protects_w.is_some_and(|most| watts > most) { 0.2 } else { watts }
    }

    pub fn thd(&self, level_db: f64) -> f64 {
        self.noise / 10f64.powf(level_db / 20.0) + 0.001 + 0.05 * (level_db - self.clips_db).max(0.0)
    }

    /// Watts at exactly the limit.
    pub fn at_limit_w(&self, limit: f64) -> f64 {
        let (mut low, mut high) = (-40.0, 10.0);
        for _ in 0..60 {
            let middle = f64::midpoint(low, high);
            if self.thd(middle) > limit { high = middle } else { low = middle }
        }
        self.watts(low)
    }

    /// Drives a run on a fake clock. `spoil` is what the meters make of the truth, at a time and a level.
    pub fn drive(&self, rules: Rules, mut spoil: impl FnMut(&mut Round)) -> Drive {
        let (mut live, first) = Live::start(rules);
        let Action::Level(first) = first else { panic!("{first:?}") };
        let (mut level, mut levels) = (first, vec![first.get()]);
        let (mut watts, mut worst_thd) = (self.watts(level.get()), 0.0f64);
        let part = 1.0 - (-(ROUND_MS as f64) / 1e3 / self.lags_s).exp();
        for t in 1..100_000u64 {
            watts += (self.watts(level.get()) - watts) * part;
            if watts > 1.0 {
                worst_thd = worst_thd.max(self.thd(level.get()));
            }
            let wobble = 1.0 + self.flutter * (t as f64 * 12.9898).sin();
            let mut round = Round {
                t_ms: t * ROUND_MS,
                level_db: Some(level),
                power_w: vec![watts * wobble],
                thd_ratio: Some(self.thd(level.get()) * wobble),
                supply_v: Some(14.4 - self.volts_per_100_w * watts / 100.0),
                supply_a: Some(1.0 + watts / 11.0),
                ..Round::default()
            };
            spoil(&mut round);
            match live.round(&round) {
                Action::Hold | Action::AskAgain => {}
                Action::Level(next) => {
                    level = next;
                    levels.push(next.get());
                }
                Action::End(ended) => return Drive { levels, ended, found: live.found().clone(), took_ms: t * ROUND_MS, worst_thd },
            }
        }
        panic!("it never ended")
    }
}

pub fn level(db: f64) -> Level {
    Level::new(db).unwrap()
}

pub fn rules(mode: Mode, method: Method) -> Rules {
    Rules { claim_w: Some(250.0), ..Rules::new(&Policy::default(), mode, method, level(10.0), 150, 1_000.0) }
}

pub fn ramp() -> Rules {
    rules(Mode::Certified, Method::Ramp)
}

pub fn stopped(why: Stop) -> Ending {
    Ending::Stopped { why }
}
