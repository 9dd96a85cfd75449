//! Drives a run. What matters is what comes first: it is written down that the level goes up, then it goes up; on any stop the
//! level goes down, and everything else afterwards.

use std::sync::atomic::Ordering;
use std::sync::{Arc, PoisonError};
use std::time::Duration;

use pukka_core::assess::check_session;
use pukka_core::evidence::rungs::Rung;
use pukka_core::instruments::{Filling, Role, fill};
use pukka_core::kernel::format;
use pukka_core::kernel::units::{Level, certain};
use pukka_core::live::{Action, Ending, Live, Method, RampResult, Round, Rules, Stop};
use pukka_core::plan::gates::Look;
use pukka_core::plan::ladder::{Place, find};
use pukka_core::predict::known::Prior;
use pukka_core::record::session::{Mode, Session};
use pukka_store::{Author, StoreError, arming, lives, sessions};
use thiserror::Error;
use tokio::sync::mpsc;
use tokio::time::{Instant, MissedTickBehavior, interval};

use super::log::{self, Outcome};
use super::meters::Meters;
use super::samples::Samples;
use super::{Driving, LiveState};
use crate::instruments::Link;

/// Why a live run cannot start.
#[derive(Debug, Error)]
pub enum CannotStart {
    /// One is under way.
    #[error("A live run is under way: {0}. Stop it first.")]
    UnderWay(String),
    /// An instrument is wanting.
    #[error("The {} is wanting: {says}", .role.words())]
    Wanting {
        /// Which.
        role: Role,
        /// Why.
        says: String,
    },
    /// The generator refused what it was told.
    #[error("The signal generator refused the tone: {0}")]
    Refused(String),
    /// The run is not one that can be driven so.
    #[error("{0}")]
    Unfit(String),
    /// The records said no: a gate is shut, among others.
    #[error(transparent)]
    Store(#[from] StoreError),
}

struct Driven {
    driving: Driving,
    author: Author,
    session_id: String,
    session: Session,
    rung: Rung,
    place: Place,
    method: Method,
    generator: Option<Link>,
    meters: Meters,
    meter: Option<String>,
    rest_v: Option<f64>,
    limit_ratio: f64,
    seq: i64,
}

impl Driving {
    /// Starts a live run. Its gates are judged and it is armed as any other.
    ///
    /// # Errors
    /// [`CannotStart`].
    pub async fn begin(
        &self,
        author: &Author,
        session_id: &str,
        place: Place,
        method: Method,
        every: Duration,
    ) -> Result<LiveState, CannotStart> {
        let (stop, stops) = mpsc::channel(4);
        {
            let mut under_way = self.stop.lock().unwrap_or_else(PoisonError::into_inner);
            if under_way.as_ref().is_some_and(|stop| !stop.is_closed()) {
                return Err(CannotStart::UnderWay(self.state().map(|state| state.title).unwrap_or_default()));
            }
            // Taken before anything is waited for: a second start finds it.
            *under_way = Some(stop);
        }
        let driven = self.prepare(author, session_id, place, method).await?;
        let state = driven.state("Raising the level.", None);
        self.state.send_replace(Some(state.clone()));
        tokio::spawn(driven.run(stops, every));
        Ok(state)
    }

    async fn prepare(&self, author: &Author, session_id: &str, place: Place, method: Method) -> Result<Driven, CannotStart> {
        let ready = |role: Role| match self.links.get(role) {
            Some(link) if link.state().is_ready() => Ok(link),
            Some(_) => Err(CannotStart::Wanting { role, says: "its link is down.".into() }),
            None => Err(CannotStart::Wanting { role, says: "no link is set up.".into() }),
        };
        // A meter that is set up and silent is a fault; one that is not set up is just not read.
        let optional = |role: Role| if self.links.get(role).is_some() { ready(role).map(Some) } else { Ok(None) };
        let analyser = ready(Role::Analyser)?;
        let (voltmeter, ammeter) = (optional(Role::Voltmeter)?, optional(Role::Ammeter)?);
        // Who only watches leaves the generator alone; one that is set up and down is a fault all the same: nobody knows its level.
        let generator = match method {
            Method::Watch => optional(Role::Generator).map(|_| None)?,
            _ => Some(ready(Role::Generator)?),
        };
        let (store, id) = (Arc::clone(&self.store), session_id.to_owned());
        let session = blocking(move || store.read(|tx| sessions::load(tx, &id))).await?.session;
        let rung = find(&session, &place.rung).ok_or_else(|| StoreError::NotFound { what: "rung", id: place.rung.clone() })?;
        fits(place.mode, &method)?;
        if rung.id.wiring.groups().is_some() {
            return Err(CannotStart::Unfit(
                "Groups with loads and tones of their own are run by hand: one generator cannot play them.".into(),
            ));
        }
        let outputs = usize::from(rung.id.wiring.outputs());
        let meter = analyser.meter.clone();
        let meters = Meters::new(analyser, voltmeter, ammeter, outputs, &method);
        if let Some(generator) = &generator {
            tune(generator, rung.id.tone_hz.get(), &method).await?;
        }
        let rest_v = meters.supply_v().await.map_err(|stop| CannotStart::Unfit(Ending::Stopped { why: stop }.says()))?;
        let name = method_word(&method);
        let (store, id, by, at) = (Arc::clone(&self.store), session_id.to_owned(), author.clone(), place.clone());
        let begun = blocking(move || {
            store.write(move |tx| {
                arming::arm(tx, &by, &id, &at)?;
                lives::begin(tx, &by, &id, &at, name)
            })
        })
        .await?;
        let limit_ratio = session.policy.end_thd_ratio(place.mode).get();
        Ok(Driven {
            driving: self.clone(),
            author: Author { key: None, ..author.clone() },
            session_id: session_id.to_owned(),
            session,
            rung,
            place,
            method,
            generator,
            meters,
            meter,
            rest_v,
            limit_ratio,
            seq: begun.seq,
        })
    }
}

/// The level that a generator is prepared at: what no amplifier hears.
const BOTTOM: Level = certain(Level::new(-120.0));

fn fits(mode: Mode, method: &Method) -> Result<(), CannotStart> {
    let says = match (mode, method) {
        (Mode::Dynamic, Method::Ramp | Method::Steps { .. }) => "A dynamic run is driven by bursts.",
        (Mode::Certified | Mode::Clipping, Method::Burst) => "A burst makes a dynamic run.",
        (_, Method::Steps { levels_db }) if levels_db.is_empty() || levels_db.len() > 64 => "Give 1 to 64 levels.",
        (_, Method::Steps { levels_db }) if levels_db.windows(2).any(|pair| pair[1] <= pair[0]) => "Give the levels from the lowest up.",
        _ => return Ok(()),
    };
    Err(CannotStart::Unfit(says.into()))
}

const fn method_word(method: &Method) -> &'static str {
    match method {
        Method::Ramp => "ramp",
        Method::Burst => "burst",
        Method::Steps { .. } => "steps",
        Method::Watch => "watch",
    }
}

/// Sets the tone with the level down, and asks whether the generator took it.
async fn tune(generator: &Link, hz: f64, method: &Method) -> Result<(), CannotStart> {
    let lost = |fault: crate::instruments::LinkFault| CannotStart::Wanting { role: Role::Generator, says: format!("it {fault}.") };
    let Some(playing) = &generator.profile.generator else {
        return Err(CannotStart::Wanting { role: Role::Generator, says: "its profile has no [generator].".into() });
    };
    let shape = if *method == Method::Burst { &playing.burst } else { &playing.sine };
    let with = Filling { hz, level_db: BOTTOM, shape, output: 1 };
    generator.tell(playing.prepare.iter().map(|line| fill(line, with)).collect()).await.map_err(lost)?;
    let answer = generator.ask(generator.profile.error.clone()).await.map_err(lost)?;
    let number: i64 = answer.split(',').next().unwrap_or_default().trim().parse().unwrap_or(0);
    if number == 0 { Ok(()) } else { Err(CannotStart::Refused(answer)) }
}

async fn blocking<T: Send + 'static>(work: impl FnOnce() -> Result<T, StoreError> + Send + 'static) -> Result<T, StoreError> {
    tokio::task::spawn_blocking(work).await.map_err(|_| StoreError::Broken)?
}

impl Driven {
    fn state(&self, says: impl Into<String>, level_db: Option<Level>) -> LiveState {
        LiveState {
            seq: self.seq,
            session_id: self.session_id.clone(),
            place: self.place.clone(),
            title: format!("{}, {}", self.rung.id.wiring.load_words(self.rung.id.load_ohm), self.place.mode.word()),
            method: self.method.clone(),
            limit_ratio: self.limit_ratio,
            says: says.into(),
            level_db,
            ended: None,
            run_id: None,
            alarm: false,
        }
    }

    fn rules(&self) -> Rules {
        let playing = self.generator.as_ref().and_then(|generator| generator.profile.generator.as_ref());
        let settle = self.generator.as_ref().map_or(0, |generator| generator.profile.settle_ms);
        // A burst is read once every half second: it settles when a whole one was heard.
        let settle = if self.method == Method::Burst { settle.max(1_100) } else { settle };
        let most = playing.map_or(Level::FULL, |playing| playing.most_db);
        let known = Prior::of(&self.session, &check_session(&self.session));
        let look = Look::at(&known, &self.rung);
        let bears = look.build().and_then(|build| build.ten_second_w.as_ref().map(|most| most.value));
        Rules { most_output_w: bears, ..Rules::new(&self.session.policy, self.place.mode, self.method.clone(), most, settle) }
    }

    async fn run(self, stops: mpsc::Receiver<Stop>, every: Duration) {
        let mut samples = Samples::start(Arc::clone(&self.driving.store), self.seq, self.driving.kept.clone());
        let (ended, found) = self.rounds(stops, every, &mut samples).await;
        let proved_before = self.proved();
        // The level first, whatever the end was; then the records.
        let down = self.down().await;
        if !down {
            // At once: what is kept of the run can wait, and whoever stands at the bench cannot.
            self.show(None, ended.says(), None, Some(proved_before));
        }
        samples.end().await;
        let outcome = Outcome { ended: ended.clone(), found, rest_v: self.rest_v, meter: self.meter.clone() };
        let kept = log::finish(&self.driving.store, &self.author, self.seq, &self.session, &self.rung, self.place.mode, outcome).await;
        let (says, run_id) = match kept {
            Ok(run_id) => (ended.says(), run_id),
            Err(error) => (format!("{} The run could not be kept: {error}", ended.says()), None),
        };
        self.show(Some(ended), says, run_id, (!down).then_some(proved_before));
    }

    /// How often the generator has answered that its level is down.
    fn proved(&self) -> u64 {
        self.driving.proved.load(Ordering::SeqCst)
    }

    /// Shows how it ends. With a count, the alarm stands until the generator has answered once more than that.
    fn show(&self, ended: Option<Ending>, says: String, run_id: Option<String>, proved_before: Option<u64>) {
        self.driving.state.send_modify(|shown| {
            let mut state = self.state(says, None);
            (state.ended, state.run_id) = (ended, run_id);
            if let Some(before) = proved_before {
                state.alarm = true;
                state.says = format!("{} {}", Ending::Stopped { why: Stop::GeneratorLost }.says(), state.says);
                if self.proved() > before {
                    state.all_clear();
                }
            }
            *shown = Some(state);
        });
    }

    /// Takes the level away; false when nobody knows whether it is.
    async fn down(&self) -> bool {
        match &self.generator {
            Some(generator) => generator.zero().await.is_ok(),
            None => true,
        }
    }

    /// Round after round until it is over.
    async fn rounds(&self, mut stops: mpsc::Receiver<Stop>, every: Duration, samples: &mut Samples) -> (Ending, RampResult) {
        let started = Instant::now();
        let (mut live, first) = Live::start(self.rules());
        let mut action = first;
        let mut at: Option<Level> = None;
        let mut ticks = interval(every);
        ticks.set_missed_tick_behavior(MissedTickBehavior::Delay);
        if self.generator.is_some()
            && let Err(stop) = self.write_raised().await
        {
            return (ended_by(&mut live, stop), live.found().clone());
        }
        loop {
            match action {
                Action::End(ended) => return (ended, live.found().clone()),
                Action::Hold => {}
                Action::Level(level) if self.generator.is_some() => {
                    let told = tokio::select! {
                        biased;
                        Some(stop) = stops.recv() => Err(stop),
                        told = self.level(level) => told,
                    };
                    if let Err(stop) = told {
                        return (ended_by(&mut live, stop), live.found().clone());
                    }
                    at = Some(level);
                    self.driving.state.send_replace(Some(self.state(self.says(level), at)));
                }
                Action::Level(_) => {}
            }
            let t_ms = u64::try_from(started.elapsed().as_millis()).unwrap_or(u64::MAX);
            let round = tokio::select! {
                biased;
                Some(stop) = stops.recv() => Err(stop),
                () = self.generator_lost() => Err(Stop::GeneratorLost),
                _ = samples.failed() => Err(Stop::Disk),
                round = self.meters.round(t_ms, at) => round,
            };
            action = match round {
                Err(stop) => live.stop(stop),
                Ok(round) => self.take(&mut live, round, samples),
            };
            if matches!(action, Action::Hold) {
                tokio::select! {
                    biased;
                    Some(stop) = stops.recv() => action = live.stop(stop),
                    _ = ticks.tick() => {}
                }
            }
        }
    }

    fn take(&self, live: &mut Live, round: Round, samples: &Samples) -> Action {
        let action = live.round(&round);
        if samples.put(round) { action } else { live.stop(Stop::Disk) }
    }

    async fn generator_lost(&self) {
        match &self.generator {
            Some(generator) => generator.lost().await,
            None => std::future::pending().await,
        }
    }

    async fn write_raised(&self) -> Result<(), Stop> {
        let (store, seq, at) = (Arc::clone(&self.driving.store), self.seq, self.driving.clock.now().to_string());
        blocking(move || store.write(move |tx| lives::raised(tx, seq, &at))).await.map_err(|_| Stop::Disk)
    }

    async fn level(&self, level: Level) -> Result<(), Stop> {
        let Some(generator) = &self.generator else { return Ok(()) };
        let Some(playing) = &generator.profile.generator else { return Ok(()) };
        let line = fill(&playing.level, Filling { hz: self.rung.id.tone_hz.get(), level_db: level, shape: "", output: 1 });
        generator.tell(vec![line]).await.map_err(|_| Stop::GeneratorLost)
    }

    fn says(&self, level: Level) -> String {
        let level = format::fixed(level.get(), 1).replace('-', "−");
        match self.method {
            Method::Ramp => format!("{level} dB, on to {} % distortion.", format::as_read(100.0 * self.limit_ratio)),
            Method::Burst => format!("Bursts at {level} dB, until a dB more gives hardly more."),
            Method::Steps { .. } => format!("The step at {level} dB."),
            Method::Watch => "Watching.".into(),
        }
    }
}

fn ended_by(live: &mut Live, stop: Stop) -> Ending {
    match live.stop(stop) {
        Action::End(ended) => ended,
        _ => Ending::Stopped { why: Stop::Key },
    }
}
