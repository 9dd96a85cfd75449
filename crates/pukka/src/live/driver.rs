//! Drives a run. What matters is what comes first: it is written down that the level goes up, then it goes up; on any stop the
//! level goes down, and everything else afterwards.

use std::sync::Arc;
use std::time::Duration;

use pukka_core::evidence::rungs::Rung;
use pukka_core::kernel::format;
use pukka_core::kernel::units::Level;
use pukka_core::live::{Action, Ending, Live, Method, RampResult, Round, Rules, Stop};
use pukka_core::plan::ladder::Place;
use pukka_core::record::session::Session;
use pukka_store::{Author, StoreError, lives};
use tokio::sync::{mpsc, watch};
use tokio::time::{Instant, MissedTickBehavior, interval};

use super::down::{Down, Lowering, is_analyser_trusted};
use super::log::{self, Outcome};
use super::meters::Meters;
use super::samples::Samples;
use super::watchdog::Watchdog;
use super::{Driving, LiveState, cleared};
use crate::instruments::{Link, is_off};

/// A run that is ready to be driven.
pub struct Driven {
    pub driving: Driving,
    pub author: Author,
    pub session_id: String,
    pub session: Session,
    pub rung: Rung,
    pub place: Place,
    pub method: Method,
    pub rules: Rules,
    pub generator: Option<Link>,
    pub supply: Option<Link>,
    pub meters: Arc<Meters>,
    pub meter: Option<String>,
    pub rest_v: Option<f64>,
    pub watchdog: Option<Watchdog>,
    /// Panics of the program since the run was prepared.
    pub panics: watch::Receiver<u64>,
    pub seq: i64,
}

pub async fn blocking<T: Send + 'static>(work: impl FnOnce() -> Result<T, StoreError> + Send + 'static) -> Result<T, StoreError> {
    tokio::task::spawn_blocking(work).await.map_err(|_| StoreError::Broken)?
}

/// Most that a level that is read back may be off, dB.
const LEVEL_OFF_DB: f64 = 0.15;
/// A level that the generator limits by itself plays so long at the most: settling twice over, and some slow rounds.
const LIMIT_MS: u64 = 10_000;

impl Driven {
    pub fn state(&self, says: impl Into<String>, level_db: Option<Level>) -> LiveState {
        LiveState {
            seq: self.seq,
            session_id: self.session_id.clone(),
            place: self.place.clone(),
            title: format!("{}, {}", self.rung.id.wiring.load_words(self.rung.id.load_ohm), self.place.mode.word()),
            method: self.method.clone(),
            limit_ratio: self.rules.limit,
            says: says.into(),
            level_db,
            ended: None,
            run_id: None,
            alarm: false,
        }
    }

    /// Drives it, and keeps what it comes to. Should this break, the level is taken away and the run ended all the same.
    pub async fn guarded(self, stops: mpsc::Receiver<Stop>, every: Duration) {
        let (driving, lowering, seq) = (self.driving.clone(), self.lowering(0.0, false), self.seq);
        if tokio::spawn(self.run(stops, every)).await.is_ok() {
            return;
        }
        tracing::error!("a live run broke");
        let ended = Ending::Stopped { why: Stop::Broken };
        let down = down(lowering.as_ref()).await;
        let kept = log::finish_broken(&driving.store, driving.clock, seq).await;
        driving.state.send_modify(|state| {
            if let Some(state) = state.as_mut().filter(|state| state.seq == seq) {
                (state.level_db, state.ended, state.run_id) = (None, Some(ended.clone()), kept);
                state.says = ended.says();
                if let Down::Alarm(says) = &down {
                    (state.alarm, state.says) = (true, format!("{says} {}", ended.says()));
                }
            }
        });
        if let (Down::Alarm(_), Some(lowering)) = (down, lowering) {
            driving.watch_alarm(lowering, seq);
        }
    }

    fn lowering(&self, last_w: f64, trusted: bool) -> Option<Lowering> {
        let generator = self.generator.clone()?;
        Some(Lowering { generator, meters: Arc::clone(&self.meters), supply: self.supply.clone(), last_w, trusted })
    }

    async fn run(mut self, stops: mpsc::Receiver<Stop>, every: Duration) {
        let mut samples = Samples::start(Arc::clone(&self.driving.store), self.seq, self.driving.kept.clone());
        let (ended, found, last_w) = self.rounds(stops, every, &mut samples).await;
        // The level first, whatever the end was; then the records.
        let lowering = self.lowering(last_w, is_analyser_trusted(&ended));
        let down = down(lowering.as_ref()).await;
        if let Down::Alarm(says) = &down {
            // At once: what is kept of the run can wait, and whoever stands at the bench cannot.
            self.show(None, alarmed(says, &ended), None, true);
            if let Some(lowering) = lowering {
                self.driving.watch_alarm(lowering, self.seq);
            }
        }
        // Without its farewell the watchdog takes the level away too, over a connection of its own.
        if let Some(watchdog) = self.watchdog.take().filter(|_| down == Down::Proved) {
            watchdog.dismiss().await;
        }
        samples.end().await;
        let cycles = if let Method::Burst { cycles } = self.method { cycles } else { None };
        let outcome = Outcome { ended: ended.clone(), found, rest_v: self.rest_v, meter: self.meter.clone(), cycles };
        let kept = log::finish(&self.driving.store, &self.author, self.seq, &self.session, &self.rung, self.place.mode, outcome).await;
        let (says, run_id) = match kept {
            Ok(run_id) => (ended.says(), run_id),
            Err(error) => (format!("{} The run could not be kept: {error}", ended.says()), None),
        };
        // The alarm may have been taken back meanwhile.
        let alarm = self.driving.state().is_some_and(|state| state.alarm);
        let says = match &down {
            Down::Alarm(alarm_says) if alarm => alarmed(alarm_says, &ended),
            Down::Alarm(_) => cleared(Some(&ended)),
            Down::Proved => says,
        };
        self.show(Some(ended), says, run_id, alarm);
    }

    /// Shows how it ends.
    fn show(&self, ended: Option<Ending>, says: String, run_id: Option<String>, alarm: bool) {
        self.driving.state.send_modify(|shown| {
            // An alarm that was taken back in between stays taken back.
            let stands = alarm && (ended.is_none() || shown.as_ref().is_none_or(|state| state.alarm));
            *shown = Some(LiveState { ended, run_id, alarm: stands, ..self.state(says, None) });
        });
    }

    /// Round after round until it is over. Gives the watts of the last round too.
    async fn rounds(&self, mut stops: mpsc::Receiver<Stop>, every: Duration, samples: &mut Samples) -> (Ending, RampResult, f64) {
        let started = Instant::now();
        let now_ms = || u64::try_from(started.elapsed().as_millis()).unwrap_or(u64::MAX);
        let (mut live, first) = Live::start(self.rules.clone());
        let (mut action, mut at, mut last_w) = (first, None::<Level>, 0.0);
        let mut ticks = interval(every);
        ticks.set_missed_tick_behavior(MissedTickBehavior::Delay);
        if let Err(stop) = self.raise().await {
            return (ended_by(&mut live, stop), live.found().clone(), last_w);
        }
        loop {
            match action {
                Action::End(ended) => return (ended, live.found().clone(), last_w),
                Action::Hold | Action::AskAgain => {}
                Action::Level(level) if self.generator.is_some() => {
                    let told = tokio::select! {
                        biased;
                        Some(stop) = stops.recv() => Err(stop),
                        told = self.level(level) => told,
                    };
                    if let Err(stop) = told {
                        return (ended_by(&mut live, self.cause(stop)), live.found().clone(), last_w);
                    }
                    live.level_was_set(now_ms());
                    at = Some(level);
                    self.driving.state.send_replace(Some(self.state(self.says(level), at)));
                }
                Action::Level(_) => {}
            }
            let round = tokio::select! {
                biased;
                Some(stop) = stops.recv() => Err(stop),
                stop = self.breaks() => Err(stop),
                stop = samples.failed() => Err(stop),
                round = self.meters.round(now_ms(), at) => round,
            };
            action = match round {
                Err(stop) => live.stop(self.cause(stop)),
                Ok(round) => {
                    if round.is_read() {
                        last_w = round.total_w();
                    }
                    self.take(&mut live, round, samples)
                }
            };
            if matches!(action, Action::Hold) {
                tokio::select! {
                    biased;
                    Some(stop) = stops.recv() => action = live.stop(stop),
                    stop = self.breaks() => action = live.stop(stop),
                    _ = ticks.tick() => {}
                }
            }
        }
    }

    fn cause(&self, stop: Stop) -> Stop {
        cause_of(stop, self.watchdog.as_ref().is_none_or(Watchdog::runs_on))
    }

    fn take(&self, live: &mut Live, round: Round, samples: &Samples) -> Action {
        let action = live.round(&round);
        // What is no reading is not kept.
        if !round.is_read() || samples.put(round) { action } else { live.stop(Stop::Disk) }
    }

    /// Waits until something else than a meter ends the run.
    async fn breaks(&self) -> Stop {
        let generator = async {
            match &self.generator {
                Some(generator) => generator.lost().await,
                None => std::future::pending().await,
            }
        };
        let watchdog = async {
            match &self.watchdog {
                Some(watchdog) => watchdog.gone().await,
                None => std::future::pending().await,
            }
        };
        // From where it was when the run was prepared: one that came while nobody listened counts too.
        let mut panics = self.panics.clone();
        tokio::select! {
            () = generator => Stop::GeneratorLost,
            () = watchdog => Stop::StoodStill,
            // The sender lives as long as the program.
            _ = panics.changed() => Stop::Broken,
        }
    }

    /// Writes down that the level goes up, and switches the output on, the level still down.
    async fn raise(&self) -> Result<(), Stop> {
        let Some(generator) = &self.generator else { return Ok(()) };
        let (store, seq, at) = (Arc::clone(&self.driving.store), self.seq, self.driving.clock.now().to_string());
        blocking(move || store.write(move |tx| lives::raised(tx, seq, &at))).await.map_err(|_| Stop::Disk)?;
        let on = generator.profile.generator.as_ref().map(|playing| playing.on.clone()).unwrap_or_default();
        generator.tell(on).await.map_err(|_| Stop::GeneratorLost)
    }

    /// Sets a level, reads it back and asks for an error.
    async fn level(&self, level: Level) -> Result<(), Stop> {
        let Some(generator) = &self.generator else { return Ok(()) };
        let Some(playing) = &generator.profile.generator else { return Ok(()) };
        if self.watchdog.as_ref().is_some_and(|watchdog| !watchdog.runs_on()) {
            return Err(Stop::StoodStill);
        }
        let mut lines: Vec<String> = playing.limit_line(LIMIT_MS.max(4 * self.rules.still_ms)).into_iter().collect();
        lines.push(playing.level_line(level, self.rung.id.tone_hz.get()));
        generator.tell(lines).await.map_err(|_| Stop::GeneratorLost)?;
        if let Some(query) = &playing.read_level {
            let answer = generator.ask(query.clone()).await.map_err(|_| Stop::GeneratorLost)?;
            let read = answer.trim().parse::<f64>().map(|number| playing.unit.level_db(number, playing.full_v));
            if !read.is_ok_and(|read| (read - level.get()).abs() <= LEVEL_OFF_DB) {
                return Err(Stop::GeneratorRefused { says: format!("its level reads “{}”.", answer.trim()) });
            }
        }
        // Switched off by somebody, or by a limit of its own, it would be taken for an amplifier that says nothing.
        if let Some(query) = &playing.read_output {
            let answer = generator.ask(query.clone()).await.map_err(|_| Stop::GeneratorLost)?;
            if is_off(&answer) {
                return Err(Stop::GeneratorRefused { says: format!("its output reads “{}”.", answer.trim()) });
            }
        }
        no_error(generator).await
    }

    fn says(&self, level: Level) -> String {
        let level = format::fixed(level.get(), 1);
        match self.method {
            Method::Ramp => format!("{level} dB, on to {} % distortion.", format::as_read(100.0 * self.rules.limit)),
            Method::Burst { .. } if self.meters.reads_waves() => {
                format!("Bursts at {level} dB, on to {} % of their own distortion.", format::as_read(100.0 * self.rules.limit))
            }
            Method::Burst { .. } => format!("Bursts at {level} dB, until a dB more gives clearly less."),
            Method::Steps { .. } => format!("The step at {level} dB."),
            Method::Watch => "Watching.".into(),
        }
    }
}

/// The cause of a stop. Where this program itself stood still, answers that came late are its own doing, and so is a generator that
/// is off: the watchdog took its level away.
fn cause_of(stop: Stop, ran_on: bool) -> Stop {
    let may_be_its_own = matches!(stop, Stop::LinkLost { .. } | Stop::GeneratorLost | Stop::GeneratorRefused { .. });
    if may_be_its_own && !ran_on { Stop::StoodStill } else { stop }
}

/// Asks a generator for its oldest error.
pub async fn no_error(generator: &Link) -> Result<(), Stop> {
    let query = generator.profile.error.clone();
    if query.is_empty() {
        return Ok(());
    }
    let answer = generator.ask(query).await.map_err(|_| Stop::GeneratorLost)?;
    let number = answer.split(',').next().unwrap_or_default().trim().parse::<i64>();
    if number == Ok(0) { Ok(()) } else { Err(Stop::GeneratorRefused { says: format!("it says {answer}.") }) }
}

/// Takes the level away; where Pukka raised none there is none to take.
async fn down(lowering: Option<&Lowering>) -> Down {
    match lowering {
        Some(lowering) => lowering.down().await,
        None => Down::Proved,
    }
}

/// An alarm, and what ended the run where that is not the same.
fn alarmed(alarm: &str, ended: &Ending) -> String {
    if *ended == (Ending::Stopped { why: Stop::GeneratorLost }) { alarm.to_owned() } else { format!("{alarm} {}", ended.says()) }
}

fn ended_by(live: &mut Live, stop: Stop) -> Ending {
    match live.stop(stop) {
        Action::End(ended) => ended,
        _ => Ending::Stopped { why: Stop::Key },
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_program_finds_after_it_stood_still_is_its_own_doing() {
        let off = || Stop::GeneratorRefused { says: "its output reads “0”.".into() };
        for stop in [off(), Stop::GeneratorLost] {
            assert_eq!(cause_of(stop.clone(), false), Stop::StoodStill, "the watchdog took the level away meanwhile");
            assert_eq!(cause_of(stop.clone(), true), stop);
        }
        assert_eq!(cause_of(Stop::Disk, false), Stop::Disk, "a disk is full whoever stood still");
    }
}
