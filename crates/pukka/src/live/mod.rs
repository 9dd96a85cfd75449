//! Runs that Pukka drives: it raises the level, reads, keeps and stops; the browser only looks on.

mod down;
mod driver;
mod log;
mod meters;
mod samples;
mod start;
mod watchdog;
mod wave;

use std::collections::VecDeque;
use std::path::PathBuf;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use pukka_core::evidence::rest::RestReading;
use pukka_core::instruments::{Quantity, Role, read};
use pukka_core::kernel::units::Level;
use pukka_core::live::{Ending, Method, Round, Stop};
use pukka_core::plan::ladder::Place;
use pukka_store::Store;
use serde::{Deserialize, Serialize};
use tokio::sync::{broadcast, mpsc, watch};

use crate::clock::Clock;
use crate::instruments::Links;

pub use start::CannotStart;
pub use watchdog::watch;

/// Progress of a live run.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LiveState {
    /// Number.
    pub seq: i64,
    /// Session.
    pub session_id: String,
    /// The run that it is.
    pub place: Place,
    /// "1 Ω, certified".
    pub title: String,
    /// Method.
    pub method: Method,
    /// Distortion that ends it.
    pub limit_ratio: f64,
    /// State, in a sentence.
    pub says: String,
    /// Level it is at, dB; nothing with the level down.
    pub level_db: Option<Level>,
    /// Ending.
    pub ended: Option<Ending>,
    /// The run it became.
    pub run_id: Option<String>,
    /// The level may still be up, and nobody can take it away: cut the supply by hand.
    pub alarm: bool,
}

impl LiveState {
    /// Takes the alarm back: the generator has answered that its level is down. False when there was none.
    fn all_clear(&mut self) -> bool {
        let alarm = std::mem::take(&mut self.alarm);
        if alarm {
            self.says = cleared(self.ended.as_ref());
        }
        alarm
    }
}

/// Words once the alarm is over: what ended the run, and no longer what had to be done at once.
fn cleared(ended: Option<&Ending>) -> String {
    let why = match ended {
        None => String::new(),
        Some(Ending::Stopped { why: Stop::GeneratorLost }) => " The generator's link was lost, and is back.".into(),
        Some(ended) => format!(" {}", ended.says()),
    };
    format!("The level is down now, and proved to be.{why}")
}

/// A round as it was kept.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct KeptRound {
    /// Of which live run.
    pub seq: i64,
    /// Number in that run.
    pub n: u64,
    /// Readings.
    pub round: Round,
    /// From its last reading to its commit, milliseconds.
    pub kept_after_ms: f64,
}

/// Rounds that wait for a browser at the most; one that is further behind reads them from the records.
const WAITING: usize = 1_024;

/// The instruments, and the live run there is.
#[derive(Clone)]
pub struct Driving {
    /// Links to instruments.
    pub links: Links,
    store: Arc<Store>,
    clock: Clock,
    state: watch::Sender<Option<LiveState>>,
    kept: broadcast::Sender<KeptRound>,
    stop: Arc<Mutex<Option<mpsc::Sender<Stop>>>>,
    over: watch::Sender<bool>,
    /// The program that watches over a run; nothing where none is to.
    watchdog: Option<PathBuf>,
    rested: Arc<Mutex<VecDeque<RestReading>>>,
}

/// Every so often the voltmeter is read while nothing is driven, and so many readings are held.
const REST_EVERY: Duration = Duration::from_secs(2);
const RESTS: usize = 120;

impl Driving {
    /// Opens the links that are set up, and puts right what an ended program left behind.
    pub fn start(store: &Arc<Store>, clock: Clock, watchdog: Option<PathBuf>) -> Self {
        let for_zero = Arc::clone(store);
        let state: watch::Sender<Option<LiveState>> = watch::Sender::new(None);
        let shown = state.clone();
        let on_zero = Arc::new(move || {
            // While the alarm stands the generator's own word is not enough.
            if shown.borrow().as_ref().is_some_and(|state| state.alarm) {
                return;
            }
            down::write_zeroed(&for_zero, clock);
        });
        let links = Links::new(on_zero);
        match store.read(pukka_store::links::list) {
            Ok(rows) => rows.iter().for_each(|row| links.open(row)),
            Err(error) => tracing::error!(%error, "the links could not be read"),
        }
        log::finish_interrupted(store, clock);
        Self {
            links,
            store: Arc::clone(store),
            clock,
            state,
            watchdog,
            kept: broadcast::Sender::new(WAITING),
            stop: Arc::new(Mutex::new(None)),
            over: watch::Sender::new(false),
            rested: Arc::default(),
        }
        .resting()
    }

    /// Reads the supply between runs, where a voltmeter is linked.
    fn resting(self) -> Self {
        let driving = self.clone();
        let mut over = self.ending();
        tokio::spawn(async move {
            let mut ticks = tokio::time::interval(REST_EVERY);
            ticks.set_missed_tick_behavior(tokio::time::MissedTickBehavior::Delay);
            loop {
                // The answer holds a lock, and is let go at once.
                let ended = async { drop(over.wait_for(|over| *over).await) };
                tokio::select! {
                    _ = ended => return,
                    _ = ticks.tick() => {}
                }
                driving.read_rest().await;
            }
        });
        self
    }

    async fn read_rest(&self) {
        let Some(voltmeter) = self.links.get(Role::Voltmeter).filter(|link| link.state().is_ready() && !self.is_under_way()) else {
            return;
        };
        let Some(how) = voltmeter.profile.reading(Quantity::SupplyV) else { return };
        let Ok(answer) = voltmeter.ask(how.query.clone()).await else { return };
        // What is no reading says nothing of the supply; the link's own page shows what it said.
        let Ok(volts) = read(Quantity::SupplyV, how, &answer) else { return };
        let mut rested = self.rested.lock().unwrap_or_else(PoisonError::into_inner);
        rested.push_back(RestReading { at: self.clock.now(), volts: volts.value });
        while rested.len() > RESTS {
            rested.pop_front();
        }
    }

    /// The supply between runs, as the voltmeter read it by itself.
    #[must_use]
    pub fn rested(&self) -> Vec<RestReading> {
        self.rested.lock().unwrap_or_else(PoisonError::into_inner).iter().copied().collect()
    }

    /// Whether a run is driven now.
    #[must_use]
    pub fn is_under_way(&self) -> bool {
        self.state.borrow().as_ref().is_some_and(|state| state.ended.is_none())
    }

    /// Progress of the live run, the last one when none is under way.
    #[must_use]
    pub fn state(&self) -> Option<LiveState> {
        self.state.borrow().clone()
    }

    /// Changes.
    #[must_use]
    pub fn states(&self) -> watch::Receiver<Option<LiveState>> {
        self.state.subscribe()
    }

    /// Rounds, each as soon as it is kept.
    #[must_use]
    pub fn rounds(&self) -> broadcast::Receiver<KeptRound> {
        self.kept.subscribe()
    }

    /// Whether the program is being ended: streams end then.
    #[must_use]
    pub fn ending(&self) -> watch::Receiver<bool> {
        self.over.subscribe()
    }

    /// Takes the level away and switches the supply off, where it is under control: what was done, in a sentence.
    pub async fn cut(&self) -> String {
        self.stop(Stop::Key).await;
        match self.links.get(Role::Supply) {
            None => "The level was taken away. No supply is under control: cut it by hand.".into(),
            Some(supply) => match supply.zero().await {
                Ok(()) => {
                    "The level was taken away and the supply switched off. A battery bank or supercapacitors beside it are not cut.".into()
                }
                Err(fault) => format!("The level was taken away; the supply {fault}. Cut it by hand."),
            },
        }
    }

    /// Stops the live run. The level is taken away at once, also when none is under way.
    pub async fn stop(&self, why: Stop) {
        let under_way = self.stop.lock().unwrap_or_else(PoisonError::into_inner).clone();
        if let Some(stop) = under_way {
            // A full channel is one that was asked to stop already.
            let _ = stop.try_send(why);
        }
        if let Some(generator) = self.links.get(Role::Generator)
            && let Err(fault) = generator.zero().await
        {
            tracing::warn!(%fault, "the generator could not be set to zero");
        }
    }

    /// Ends everything: the level goes down, streams end.
    pub async fn end(&self) {
        self.stop(Stop::Exit).await;
        let mut states = self.states();
        let down = states.wait_for(|state| state.as_ref().is_none_or(|state| state.ended.is_some()));
        // A disk that hangs does not keep the program.
        let _ = tokio::time::timeout(Duration::from_secs(2), down).await;
        self.over.send_replace(true);
    }
}
