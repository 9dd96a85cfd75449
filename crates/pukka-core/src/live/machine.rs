//! The machine: rounds in, actions out.

use crate::kernel::units::{Amps, Drive, Level, PowerDecibels, Ratio, Volts, Watts, certain};
use crate::live::{Action, Ending, Method, RampResult, Round, Rules, Stop};
use crate::record::session::{LevelStep, OutputReading};

/// Steps of a ramp: first to find the limit, then to come close to it.
const COARSE: Drive = certain(Drive::new(1.0));
const FINE: Drive = certain(Drive::new(0.1));
/// A burst is at its top when a coarse step gives less than this more.
const FLAT: PowerDecibels = certain(PowerDecibels::new(0.25));
/// Power that fell to this part of the best, at no lower level, is protection; below this many watts nothing is said.
const COLLAPSED: f64 = 0.3;
const SPEAKS_W: f64 = 2.0;
/// Rounds that are looked at on every level once it has settled.
const ROUNDS: usize = 3;

#[derive(Debug, Clone, Copy, PartialEq)]
enum Phase {
    /// Up by coarse steps.
    Coarse,
    /// Up by fine steps, from the last level inside.
    Fine,
    /// Level by level of the table.
    Step(usize),
    /// Over.
    Over,
}

/// A run under way.
#[derive(Debug, Clone)]
pub struct Live {
    rules: Rules,
    phase: Phase,
    level: Level,
    changed_ms: u64,
    settled: Vec<Round>,
    last_inside: Option<Level>,
    last_burst_w: Option<f64>,
    found: RampResult,
}

impl Live {
    /// Starts: the action is the first level.
    #[must_use]
    pub fn start(rules: Rules) -> (Self, Action) {
        let (phase, level) = match &rules.method {
            Method::Steps { levels_db } => (Phase::Step(0), levels_db.first().copied().unwrap_or(rules.start).min(rules.most)),
            _ => (Phase::Coarse, rules.start),
        };
        let live = Self {
            rules,
            phase,
            level,
            changed_ms: 0,
            settled: Vec::new(),
            last_inside: None,
            last_burst_w: None,
            found: RampResult::default(),
        };
        (live, Action::Level(level))
    }

    /// What it found so far.
    #[must_use]
    pub const fn found(&self) -> &RampResult {
        &self.found
    }

    /// Ends it from outside.
    pub fn stop(&mut self, why: Stop) -> Action {
        let done = why == Stop::Key && self.rules.method == Method::Watch && self.found.best.is_some();
        self.over(if done { Ending::Done } else { Ending::Stopped { why } })
    }

    fn over(&mut self, ended: Ending) -> Action {
        self.phase = Phase::Over;
        Action::End(ended)
    }

    /// Takes a round of readings.
    pub fn round(&mut self, round: &Round) -> Action {
        if self.phase == Phase::Over {
            return Action::Hold;
        }
        if let Some(why) = self.must_stop(round) {
            return self.stop(why);
        }
        if self.rules.method == Method::Watch {
            self.keep_best(round);
            return Action::Hold;
        }
        if round.t_ms < self.changed_ms + self.rules.settle_ms || round.level_db != Some(self.level) {
            return Action::Hold;
        }
        self.settled.push(round.clone());
        self.keep_best(round);
        if self.settled.len() < ROUNDS {
            return Action::Hold;
        }
        let settled = std::mem::take(&mut self.settled);
        match (self.phase, self.rules.method.clone()) {
            (Phase::Step(at), Method::Steps { levels_db }) => self.after_step(at, &levels_db, &settled, round.t_ms),
            (_, Method::Burst) => self.after_burst(&settled, round.t_ms),
            _ => self.after_ramp(&settled, round.t_ms),
        }
    }

    /// Rules that hold at every round, settled or not.
    fn must_stop(&self, round: &Round) -> Option<Stop> {
        let total_w = round.total_w();
        let best = self.found.best.as_ref();
        // At a level no lower than that of the best, the power does not fall away by itself; where nobody knows the level it may.
        let fell = best.filter(|_| round.level_db.is_some()).is_some_and(|best| {
            best.total_w() > SPEAKS_W
                && total_w < COLLAPSED * best.total_w()
                && round.level_db >= best.level_db
                && round.t_ms >= self.changed_ms + self.rules.settle_ms
        });
        if round.supply_v.is_some_and(|volts| volts < self.rules.supply_stop_v) {
            Some(Stop::SupplyLow)
        } else if fell {
            Some(Stop::Protection)
        } else if self.rules.most_output_w.is_some_and(|most| round.power_w.iter().any(|watts| *watts > most)) {
            Some(Stop::LoadBank)
        } else if round.t_ms > self.rules.most_ms {
            Some(Stop::TooLong)
        } else {
            None
        }
    }

    /// The highest reading inside the limit; of a burst, the highest.
    fn keep_best(&mut self, round: &Round) {
        let counts = match self.rules.method {
            Method::Burst => true,
            // Without an analyser that reads distortion the one who drives minds it.
            Method::Watch => round.thd_ratio.is_none_or(|thd| thd <= self.rules.limit),
            _ => round.thd_ratio.is_some_and(|thd| thd <= self.rules.limit),
        };
        if counts && self.found.best.as_ref().is_none_or(|best| round.total_w() > best.total_w()) {
            self.found.best = Some(round.clone());
        }
    }

    fn raise(&mut self, to: Level, t_ms: u64) -> Action {
        self.level = to.rounded();
        self.changed_ms = t_ms;
        Action::Level(self.level)
    }

    fn after_ramp(&mut self, settled: &[Round], t_ms: u64) -> Action {
        // Without a figure for distortion nothing is inside: a ramp that cannot see its limit does not go on.
        let Some(thd) = worst_thd(settled) else {
            return self.over(Ending::NothingClean);
        };
        let inside = thd <= self.rules.limit;
        if inside {
            self.last_inside = Some(self.level);
        }
        // Below the first clean level it is noise that distorts, and the way out of it is up.
        let noise = !inside && self.last_inside.is_none();
        match self.phase {
            Phase::Coarse if !inside && !noise => {
                let from = self.last_inside.unwrap_or(self.level);
                self.phase = Phase::Fine;
                self.raise(from + FINE, t_ms)
            }
            Phase::Fine if !inside => self.over(Ending::Done),
            _ => {
                let step = if self.phase == Phase::Fine { FINE } else { COARSE };
                let next = (self.level + step).min(self.rules.most);
                if next <= self.level {
                    return self.over(if self.last_inside.is_some() { Ending::Top } else { Ending::NothingClean });
                }
                self.raise(next, t_ms)
            }
        }
    }

    fn after_burst(&mut self, settled: &[Round], t_ms: u64) -> Action {
        let watts = settled.iter().map(Round::total_w).sum::<f64>() / settled.len() as f64;
        let grown = self.last_burst_w.filter(|before| *before > SPEAKS_W).and_then(|before| PowerDecibels::of(watts / before));
        self.last_burst_w = Some(watts);
        if grown.is_some_and(|grown| grown < FLAT) {
            return self.over(Ending::Done);
        }
        let next = (self.level + COARSE).min(self.rules.most);
        if next <= self.level {
            return self.over(Ending::Top);
        }
        self.raise(next, t_ms)
    }

    fn after_step(&mut self, at: usize, levels_db: &[Level], settled: &[Round], t_ms: u64) -> Action {
        self.found.steps.extend(step_of(self.level, settled));
        let past = worst_thd(settled).is_some_and(|thd| thd > self.rules.limit) && self.found.best.is_some();
        match levels_db.get(at + 1).filter(|_| !past) {
            Some(next) => {
                self.phase = Phase::Step(at + 1);
                self.raise(next.min(self.rules.most), t_ms)
            }
            None => self.over(Ending::Done),
        }
    }
}

/// The worst distortion of some rounds; nothing when any of them has none.
fn worst_thd(rounds: &[Round]) -> Option<f64> {
    rounds.iter().map(|round| round.thd_ratio).try_fold(0.0f64, |worst, thd| thd.map(|thd| worst.max(thd)))
}

/// The mean of the rounds of a level, as a row; a figure that cannot be is left out.
fn step_of(level_db: Level, rounds: &[Round]) -> Option<LevelStep> {
    let n = rounds.len() as f64;
    let mean = |of: fn(&Round) -> Option<f64>| rounds.iter().map(of).sum::<Option<f64>>().map(|sum| sum / n);
    let outputs = rounds.first()?.power_w.len();
    Some(LevelStep {
        level_db,
        outputs: (0..outputs)
            .map(|i| OutputReading {
                name: Some((i + 1).to_string()),
                power_w: Watts::new(rounds.iter().filter_map(|round| round.power_w.get(i)).sum::<f64>() / n).ok(),
                ..OutputReading::default()
            })
            .collect(),
        thd_ratio: mean(|round| round.thd_ratio).and_then(|thd| Ratio::new(thd).ok()),
        end_v: mean(|round| round.supply_v).and_then(|volts| Volts::new(volts).ok()),
        current_a: mean(|round| round.supply_a).and_then(|amps| Amps::new(amps).ok()),
    })
}
