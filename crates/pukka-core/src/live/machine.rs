//! The machine: rounds in, actions out.

use crate::instruments::Role;
use crate::kernel::units::Level;
use crate::live::climb::{self, COARSE, FINE, NOISE_W, STAIR};
use crate::live::follow::History;
use crate::live::limit::at_limit;
use crate::live::onset::onset_db;
use crate::live::settle::{Settled, mean, settled, settled_inside};
use crate::live::{Ending, Method, Round, Rules, Stop};
use crate::record::session::LevelStep;

use super::result::step_of;

/// Action to take.
#[derive(Debug, Clone, PartialEq)]
pub enum Action {
    /// Go on as it is.
    Hold,
    /// Ask again at once: what was read would end it, if it is true.
    AskAgain,
    /// Set this level.
    Level(Level),
    /// Take the level away: it is over.
    End(Ending),
}

/// Result of a run.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct RampResult {
    /// The figure, from settled rounds.
    pub best: Option<Round>,
    /// A row a level, of level steps.
    pub steps: Vec<LevelStep>,
    /// Lies so many decibels either way of what is given, where the burst's own distortion was not read.
    pub onset_within_db: Option<f64>,
}

/// Decibels of a coarse step from which on a burst still follows, and what its onset is known within then.
const FOLLOWS_DB: f64 = 0.7;
const ONSET_WITHIN_DB: f64 = 0.4;
/// Power that fell to this part of what the most there was lets expect is protection; below this many watts nothing is said.
const COLLAPSED: f64 = 0.3;
const SPEAKS_W: f64 = 2.0;
/// Distortion above the limit is noise while it falls from level to level; so many times it may not.
const FALLS: f64 = 0.97;
const NOISE_STRIKES: u32 = 2;
/// Part of the limit from which on a level is left only when it stood still.
const WAITS: f64 = 0.6;
/// Decibels after which a level on the way is let stand still too, so that a run that is cut short has a figure.
const KEEP_EVERY_DB: f64 = 2.0;
/// Times of standing still after which readings never will, and the least of it, milliseconds.
const NEVER: u64 = 16;
const NEVER_MS: u64 = 8_000;
/// Time that a meter may be between two ranges, milliseconds.
const RANGING_MS: u64 = 2_000;
/// Decibels of power below the predicted clipping at which a table without distortion ends.
const SHORT_OF_DB: f64 = 1.0;

#[derive(Debug, Clone, Copy, PartialEq)]
enum Phase {
    /// Up to the limit.
    Up,
    /// Down again to the last level inside, for its figure.
    Back,
    /// Level by level of the table: the next one's place in it.
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
    /// Rounds of this level that mean something.
    rounds: Vec<Round>,
    history: History,
    most_w: Option<(Level, f64)>,
    doubted: Option<Stop>,
    /// The highest level inside so far, settled or not.
    clean: Option<Level>,
    /// The last distortion that was noise's, and how many in a row did not fall.
    noise: Option<f64>,
    strikes: u32,
    inside: Option<(Level, Settled)>,
    outside: Option<(Level, Settled)>,
    /// Outside before, a longer step up: by the smallest from now on.
    fine: bool,
    burst_before: Option<Round>,
    watched: Vec<Round>,
    found: RampResult,
}

impl Live {
    /// Starts: the action is the first level.
    #[must_use]
    pub fn start(rules: Rules) -> (Self, Action) {
        let phase = if matches!(rules.method, Method::Steps { .. }) { Phase::Step(0) } else { Phase::Up };
        let first = match &rules.method {
            Method::Steps { levels_db } => levels_db.first().copied().unwrap_or(rules.start).min(rules.start).min(rules.most),
            _ => rules.start,
        };
        let live = Self {
            rules,
            phase,
            level: first,
            changed_ms: 0,
            rounds: Vec::new(),
            history: History::default(),
            most_w: None,
            doubted: None,
            clean: None,
            noise: None,
            strikes: 0,
            inside: None,
            outside: None,
            fine: false,
            burst_before: None,
            watched: Vec::new(),
            found: RampResult::default(),
        };
        (live, Action::Level(first))
    }

    /// Result so far.
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

    /// Hears when a level was really set: rounds take their time, and what was begun before says nothing of it.
    pub const fn level_was_set(&mut self, t_ms: u64) {
        self.changed_ms = t_ms;
    }

    /// Takes a round of readings.
    pub fn round(&mut self, round: &Round) -> Action {
        if self.phase == Phase::Over {
            return Action::Hold;
        }
        if let Some(role) = round.ranging {
            return self.wait_for_range(round, role);
        }
        let watching = self.rules.method == Method::Watch;
        let means_something = (watching || (round.t_ms >= self.changed_ms + self.rules.settle_ms && round.level_db == Some(self.level)))
            && !round.before_wave;
        let stop = self.must_stop(round, means_something);
        if let Some(why) = self.doubt(stop) {
            return why;
        }
        if !means_something {
            return Action::Hold;
        }
        if watching {
            return self.watch(round);
        }
        self.rounds.push(round.clone());
        let now = mean(&self.rounds).unwrap_or_default();
        // The last round alone is held against the levels before: a frozen meter shows the same, and a mean of it need not. What only
        // lags may catch up: it ends the run when it stood still and cannot be true all the same.
        if let Some(lie) = self.history.lies(&self.rules, self.level, round) {
            return if self.stands_still().is_some() { self.stop(lie) } else { self.wait(&now) };
        }
        self.doubted = None;
        self.history.keep(self.level, &now);
        if self.most_w.is_none_or(|(_, most)| now.total_w() > most) {
            self.most_w = Some((self.level, now.total_w()));
        }
        match self.phase {
            Phase::Step(at) => self.step(at, &now),
            _ if self.rules.method.is_burst() && now.thd_ratio.is_none() => self.burst_without_distortion(&now),
            Phase::Back => self.back(&now),
            Phase::Up | Phase::Over => self.up(&now),
        }
    }

    /// The first time a reading would end it, it is asked again; the second time it does.
    fn doubt(&mut self, found: Option<Stop>) -> Option<Action> {
        let why = found?;
        let again = self.doubted.as_ref().is_some_and(|before| std::mem::discriminant(before) == std::mem::discriminant(&why));
        self.doubted = Some(why.clone());
        Some(if again || why == Stop::TooLong { self.stop(why) } else { Action::AskAgain })
    }

    fn wait_for_range(&mut self, round: &Round, role: Role) -> Action {
        if self.rules.method == Method::Watch || round.t_ms <= self.changed_ms + self.rules.settle_ms + RANGING_MS {
            return Action::Hold;
        }
        let says = "is past its range (overload)".to_owned();
        self.stop(Stop::BadReading { role, says })
    }

    /// Rules that hold at every round, settled or not.
    fn must_stop(&self, round: &Round, means_something: bool) -> Option<Stop> {
        let rules = &self.rules;
        // Power goes with the level and does not fall away by itself; where nobody knows the level it may.
        let expected = self.most_w.map(|(level, most)| most * 10f64.powf((self.level.get() - level.get()).min(0.0) / 10.0));
        let fell = expected.is_some_and(|watts| watts > SPEAKS_W && means_something && round.total_w() < COLLAPSED * watts);
        if round.supply_v.is_some_and(|volts| volts < rules.supply_stop_v) {
            Some(Stop::SupplyLow)
        } else if round.temperature_c.is_some_and(|celsius| celsius > rules.most_c) {
            Some(Stop::Hot)
        } else if fell {
            Some(Stop::Protection)
        } else if rules.most_output_w.is_some_and(|most| round.most_w() > most) {
            Some(Stop::LoadBank)
        } else if round.t_ms > rules.most_ms {
            Some(Stop::TooLong)
        } else {
            None
        }
    }

    fn watch(&mut self, round: &Round) -> Action {
        self.doubted = None;
        self.watched.push(round.clone());
        // Older than the stretch that is looked at nothing is needed.
        let since = round.t_ms.saturating_sub(4 * self.rules.still_ms);
        self.watched.retain(|kept| kept.t_ms >= since);
        if let Some(settled) = settled_inside(&self.watched, self.rules.limit, self.rules.still_ms)
            && self.found.best.as_ref().is_none_or(|best| settled.total_w() > best.total_w())
        {
            self.found.best = Some(settled);
        }
        Action::Hold
    }

    fn set(&mut self, to: Level, t_ms: u64) -> Action {
        self.level = to.rounded();
        self.changed_ms = t_ms;
        self.rounds.clear();
        Action::Level(self.level)
    }

    fn stands_still(&self) -> Option<Settled> {
        let since = self.changed_ms + self.rules.settle_ms + self.rules.window_ms;
        let from = self.rounds.iter().position(|round| round.t_ms >= since)?;
        settled(&self.rounds[from..], self.rules.still_ms, !self.rules.method.is_burst())
    }

    /// Figures of this level once it stands still.
    fn settled(&mut self) -> Option<Settled> {
        let settled = self.stands_still()?;
        self.keep(&settled);
        Some(settled)
    }

    /// Keeps what is inside: a run that is cut short has that.
    fn keep(&mut self, settled: &Settled) {
        let inside = settled.mean.thd_ratio.is_none_or(|thd| thd <= self.rules.limit);
        if inside && self.found.best.as_ref().is_none_or(|best| settled.least.total_w() > best.total_w()) {
            self.found.best = Some(settled.least.clone());
        }
    }

    fn wait(&mut self, now: &Round) -> Action {
        let never = (NEVER * self.rules.still_ms).max(NEVER_MS);
        if now.t_ms > self.changed_ms + self.rules.settle_ms + never { self.stop(Stop::Unsettled) } else { Action::Hold }
    }

    fn up(&mut self, now: &Round) -> Action {
        // Without a figure for distortion nothing is inside: a ramp that cannot see its limit does not go on.
        let Some(thd) = now.thd_ratio else { return self.nothing_clean(None) };
        let limit = self.rules.limit;
        // Below a watt it is noise even where a reading by luck was inside before: down from there it only grows.
        if thd > limit && (self.clean.is_none() || now.most_w() < NOISE_W) {
            return self.noise(now, thd);
        }
        let kept_at = self.inside.as_ref().map_or(self.rules.start, |(level, _)| *level);
        let step = climb::step(&self.rules, now, self.history.below(self.level));
        let waits = thd > WAITS * limit && !climb::is_noise(now, self.history.below(self.level));
        let on_the_way = step < COARSE && self.level.get() - kept_at.get() >= KEEP_EVERY_DB - 1e-9;
        let at_top = self.level >= self.rules.most;
        let settled = if waits || thd > limit || on_the_way || at_top {
            let Some(settled) = self.settled() else { return self.wait(now) };
            Some(settled)
        } else {
            None
        };
        let inside = settled.as_ref().map_or(thd, |settled| settled.mean.thd_ratio.unwrap_or(thd)) <= limit;
        if inside {
            self.clean = Some(self.level);
            if let Some(settled) = settled {
                self.inside = Some((self.level, settled));
            }
            let step = if self.fine { FINE } else { step };
            let next = (self.level + step).min(self.rules.most);
            if next <= self.level {
                return self.top();
            }
            return self.set(next, now.t_ms);
        }
        if let Some(settled) = settled {
            self.outside = Some((self.level, settled));
        }
        let from = self.clean.unwrap_or(self.level);
        if self.level.get() - from.get() > FINE.get() + 1e-9 {
            // A longer step went over the edge: by the smallest from the last level inside.
            self.fine = true;
            return self.set(from + FINE, now.t_ms);
        }
        if self.inside.as_ref().is_some_and(|(level, _)| *level == from) {
            return self.done();
        }
        self.phase = Phase::Back;
        self.set(from, now.t_ms)
    }

    /// Below the first clean level it is noise that distorts, and the way out of it is up: as long as it falls on the way.
    fn noise(&mut self, now: &Round, thd: f64) -> Action {
        // Noise is noisy itself: one reading that does not fall is made good by the next that does.
        let falls = self.noise.is_none_or(|before| thd <= FALLS * before);
        self.strikes = if falls { 0 } else { self.strikes + 1 };
        self.noise = Some(thd);
        if now.most_w() >= NOISE_W || self.strikes >= NOISE_STRIKES || self.level >= self.rules.most {
            return self.nothing_clean(Some(thd));
        }
        let next = (self.level + COARSE).min(self.rules.most);
        self.set(next, now.t_ms)
    }

    /// The last level inside once more, until it stands still.
    fn back(&mut self, now: &Round) -> Action {
        let Some(settled) = self.settled() else { return self.wait(now) };
        if settled.mean.thd_ratio.is_some_and(|thd| thd <= self.rules.limit) {
            self.inside = Some((self.level, settled));
            return self.done();
        }
        // What was inside is not any more: it is warmer, and the supply has sagged. One step further down.
        let thd = settled.mean.thd_ratio;
        self.outside = Some((self.level, settled));
        let lower = Level::new(self.level.get() - FINE.get()).unwrap_or(self.rules.start);
        if lower <= self.rules.start { self.nothing_clean(thd) } else { self.set(lower, now.t_ms) }
    }

    fn done(&mut self) -> Action {
        if let Some((_, inside)) = &self.inside {
            let outside = self.outside.as_ref().map_or(&inside.mean, |(_, outside)| &outside.mean);
            self.found.best = Some(at_limit(&inside.mean, outside, self.rules.limit));
        }
        self.over(Ending::Done)
    }

    fn top(&mut self) -> Action {
        if let Some((_, inside)) = &self.inside {
            self.found.best = Some(inside.mean.clone());
            return self.over(Ending::Top);
        }
        self.nothing_clean(None)
    }

    fn nothing_clean(&mut self, thd_ratio: Option<f64>) -> Action {
        self.over(Ending::NothingClean { thd_ratio, level_db: thd_ratio.map(|_| self.level) })
    }

    /// A burst whose own distortion nobody reads: up to the first decibel that gives clearly less than one.
    fn burst_without_distortion(&mut self, now: &Round) -> Action {
        let Some(settled) = self.stands_still() else { return self.wait(now) };
        let now = settled.mean;
        let grew = self.burst_before.as_ref().filter(|before| before.total_w() > SPEAKS_W);
        let grew = grew.map(|before| (before.clone(), 10.0 * (now.total_w() / before.total_w()).log10()));
        if let Some((before, grew)) = grew.filter(|(_, grew)| *grew < FOLLOWS_DB) {
            let factor = 10f64.powf(onset_db(COARSE.get(), grew) / 10.0);
            self.found.best = Some(Round { power_w: before.power_w.iter().map(|watts| watts * factor).collect(), ..before });
            self.found.onset_within_db = Some(ONSET_WITHIN_DB);
            return self.over(Ending::Done);
        }
        self.found.best = Some(now.clone());
        let (t_ms, next) = (now.t_ms, (self.level + COARSE).min(self.rules.most));
        self.burst_before = Some(now);
        if next <= self.level { self.over(Ending::Top) } else { self.set(next, t_ms) }
    }

    /// A level of the table, never past the most.
    fn in_table(&self, at: usize) -> Option<Level> {
        let Method::Steps { levels_db } = &self.rules.method else { return None };
        levels_db.get(at).map(|level| (*level).min(self.rules.most))
    }

    fn step(&mut self, at: usize, now: &Round) -> Action {
        let Some(aim) = self.in_table(at) else { return self.over(Ending::Done) };
        let limit = self.rules.limit;
        let past = |thd: Option<f64>| thd.is_some_and(|thd| thd > limit);
        if self.level < aim {
            // On the stairs up to it nothing is kept, and the edge is as near as anywhere.
            let edge = past(now.thd_ratio) && now.most_w() >= NOISE_W;
            return if edge { self.over(Ending::Done) } else { self.towards(aim, now) };
        }
        let Some(settled) = self.settled() else { return self.wait(now) };
        self.found.steps.extend(step_of(self.level, &settled.mean));
        if settled.mean.thd_ratio.is_some_and(|thd| thd <= self.rules.limit) {
            self.clean = Some(self.level);
        }
        let ended = past(settled.mean.thd_ratio) && (self.clean.is_some() || now.most_w() >= NOISE_W);
        match self.in_table(at + 1).filter(|_| !ended && self.level < self.rules.most) {
            Some(next) => {
                self.phase = Phase::Step(at + 1);
                self.towards(next, now)
            }
            None => self.over(Ending::Done),
        }
    }

    /// The next stair to a level of the table.
    fn towards(&mut self, aim: Level, now: &Round) -> Action {
        // Where a ramp would go by smaller steps, a stair is none of three decibels either.
        let far = climb::step(&self.rules, now, self.history.below(self.level)) >= COARSE;
        let next = (self.level + if far { STAIR } else { COARSE }).min(aim);
        if now.thd_ratio.is_none() && self.is_near_clipping(now, next) {
            return self.over(Ending::NearClipping);
        }
        self.set(next, now.t_ms)
    }

    /// Without a distortion only the prediction says where it clips; without one, the claim.
    fn is_near_clipping(&self, now: &Round, next: Level) -> bool {
        let Some(clips_w) = self.rules.predicted_w.or(self.rules.claim_w) else { return true };
        let db = next.get() - self.level.get() + SHORT_OF_DB;
        now.total_w() * 10f64.powf(db / 10.0) > clips_w
    }
}
