//! The start of a run: the instruments are there, the tone is set with the level down and the output off, the run is armed.

use std::sync::{Arc, PoisonError};
use std::time::Duration;

use pukka_core::assess::prior;
use pukka_core::evidence::rungs::Rung;
use pukka_core::instruments::Role;
use pukka_core::kernel::units::Level;
use pukka_core::live::{Ending, Method, Rules, Stop};
use pukka_core::plan::gates::Look;
use pukka_core::plan::ladder::{Place, find};
use pukka_core::predict::prediction::{Basis, Prediction, predict_mode};
use pukka_core::record::session::{Mode, Session};
use pukka_store::{Author, StoreError, arming, lives, sessions};
use thiserror::Error;
use tokio::sync::mpsc;

use super::driver::{Driven, blocking, no_error};
use super::meters::{Linked, Meters};
use super::watchdog::{Charge, Watchdog};
use super::{Driving, LiveState};
use crate::instruments::{Link, LinkFault};

/// Reason why a live run cannot start.
#[derive(Debug, Error)]
pub enum CannotStart {
    /// One is under way.
    #[error("A live run is under way: {0}. Stop it first.")]
    UnderWay(String),
    /// The level of the last one is not known to be down.
    #[error("The alarm stands: the level of the last run is not known to be down.")]
    Alarm,
    /// An instrument is missing.
    #[error("The {} is not connected: {says}", .role.words())]
    Missing {
        /// Task of the instrument.
        role: Role,
        /// Reason.
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

impl Driving {
    /// Starts a live run. Its gates are judged and it is armed as any other. It starts, or leaves nothing armed, whether or not whoever
    /// asked for it is still there.
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
        let (driving, author, session_id) = (self.clone(), author.clone(), session_id.to_owned());
        let started = tokio::spawn(async move {
            let stops = driving.take_turn(&method)?;
            let driven = driving.prepare(&author, &session_id, place, method).await?;
            let state = driven.state("Raising the level.", None);
            driving.state.send_replace(Some(state.clone()));
            tokio::spawn(driven.guarded(stops, every));
            Ok(state)
        });
        started.await.unwrap_or(Err(CannotStart::Store(StoreError::Broken)))
    }

    /// Takes the only turn there is, before anything is waited for: a second start finds it. It is given back with what hears the stops.
    fn take_turn(&self, method: &Method) -> Result<mpsc::Receiver<Stop>, CannotStart> {
        let (stop, stops) = mpsc::channel(4);
        let mut under_way = self.stop.lock().unwrap_or_else(PoisonError::into_inner);
        if under_way.as_ref().is_some_and(|stop| !stop.is_closed()) {
            return Err(CannotStart::UnderWay(self.state().map(|state| state.title).unwrap_or_default()));
        }
        if self.state().is_some_and(|state| state.alarm) && *method != Method::Watch {
            return Err(CannotStart::Alarm);
        }
        *under_way = Some(stop);
        Ok(stops)
    }

    async fn prepare(&self, author: &Author, session_id: &str, place: Place, method: Method) -> Result<Driven, CannotStart> {
        let (linked, generator) = self.instruments(&method)?;
        let (store, id) = (Arc::clone(&self.store), session_id.to_owned());
        let session = blocking(move || store.read(|tx| sessions::load(tx, &id))).await?.session;
        let rung = find(&session, &place.rung).ok_or_else(|| StoreError::NotFound { what: "rung", id: place.rung.clone() })?;
        fits(place.mode, &method)?;
        if rung.id.wiring.groups().is_some() {
            return Err(CannotStart::Unfit(
                "Groups with loads and tones of their own are run by hand: one generator cannot play them.".into(),
            ));
        }
        let load_ohm = rung.set.load_measured_ohm.unwrap_or(rung.id.load_ohm).get();
        let (meter, supply) = (linked.analyser.as_ref().and_then(|link| link.meter.clone()), linked.supply.clone());
        let meters = Meters::new(linked, usize::from(rung.id.wiring.outputs()), load_ohm, &method);
        if method == Method::Ramp && !meters.reads_distortion() {
            let says = "A ramp ends at a distortion, and nothing here reads one. Give a table of levels, or watch.";
            return Err(CannotStart::Unfit(says.into()));
        }
        if let Method::Burst { cycles: Some(count) } = &method {
            if rung.id.wiring.outputs() > 1 {
                return Err(CannotStart::Unfit("Counted cycles are read of one output at a time.".into()));
            }
            if !meters.reads_waves() {
                let says = "First and last of counted cycles are read from the burst's own wave, and this analyser sends none.";
                return Err(CannotStart::Unfit(says.into()));
            }
            if f64::from(*count) / rung.id.tone_hz.get() > LONGEST_BURST_S {
                return Err(CannotStart::Unfit("So many cycles of this tone leave no pause in half a second.".into()));
            }
            if generator.as_ref().and_then(|link| link.profile.generator.as_ref()).is_none_or(|playing| playing.cycles.is_empty()) {
                return Err(CannotStart::Unfit("The generator's profile does not say how it counts cycles.".into()));
            }
        }
        if let Some(generator) = &generator {
            tune(generator, rung.id.tone_hz.get(), &method).await?;
        }
        let outlook = Outlook::of(&session, &rung, place.mode);
        if let Some(supply) = &supply {
            feed(supply, &session, &rung, &outlook).await?;
        }
        let rest_v = meters.supply_v().await.map_err(|stop| CannotStart::Unfit(Ending::Stopped { why: stop }.says()))?;
        let rules = outlook.rules(&session, &rung, place.mode, &method, generator.as_ref(), meters.settle_ms());
        let watchdog = self.watch_over(generator.as_ref(), supply.as_ref()).await?;
        let begun = self.arm(author, session_id, &place, &method).await;
        let begun = match begun {
            Ok(begun) => begun,
            Err(error) => {
                if let Some(watchdog) = watchdog {
                    watchdog.dismiss().await;
                }
                return Err(error.into());
            }
        };
        Ok(Driven {
            driving: self.clone(),
            author: Author { key: None, ..author.clone() },
            session_id: session_id.to_owned(),
            session,
            rung,
            place,
            method,
            rules,
            generator,
            supply,
            meters: Arc::new(meters),
            meter,
            rest_v,
            watchdog,
            panics: crate::panics::seen(),
            seq: begun.seq,
        })
    }

    /// The instruments that a run takes.
    fn instruments(&self, method: &Method) -> Result<(Linked, Option<Link>), CannotStart> {
        let ready = |role: Role| match self.links.get(role) {
            Some(link) if link.state().is_ready() => Ok(link),
            Some(_) => Err(CannotStart::Missing { role, says: "its link is down.".into() }),
            None => Err(CannotStart::Missing { role, says: "no link is set up.".into() }),
        };
        // A meter that is set up and silent is a fault; one that is not set up is just not read.
        let optional = |role: Role| if self.links.get(role).is_some() { ready(role).map(Some) } else { Ok(None) };
        let linked = Linked {
            analyser: if *method == Method::Watch { optional(Role::Analyser)? } else { Some(ready(Role::Analyser)?) },
            voltmeter: optional(Role::Voltmeter)?,
            ammeter: optional(Role::Ammeter)?,
            supply: optional(Role::Supply)?,
            thermometer: optional(Role::Thermometer)?,
        };
        let reads = [&linked.analyser, &linked.voltmeter, &linked.ammeter, &linked.supply].iter().any(|link| link.is_some());
        if !reads {
            return Err(CannotStart::Unfit("There is no meter to watch: link one, or log the run by hand.".into()));
        }
        // Who only watches leaves the generator alone; one that is set up and down is a fault all the same: nobody knows its level.
        let generator = match method {
            Method::Watch => optional(Role::Generator).map(|_| None)?,
            _ => Some(ready(Role::Generator)?),
        };
        Ok((linked, generator))
    }

    async fn arm(&self, author: &Author, session_id: &str, place: &Place, method: &Method) -> Result<lives::Begun, StoreError> {
        let (store, id, by, at, name) =
            (Arc::clone(&self.store), session_id.to_owned(), author.clone(), place.clone(), method_word(method));
        blocking(move || {
            store.write(move |tx| {
                arming::arm(tx, &by, &id, &at)?;
                lives::begin(tx, &by, &id, &at, name)
            })
        })
        .await
    }

    /// The process that takes the level away should this one die or hang.
    async fn watch_over(&self, generator: Option<&Link>, supply: Option<&Link>) -> Result<Option<Watchdog>, CannotStart> {
        let (Some(program), Some(generator)) = (&self.watchdog, generator) else { return Ok(None) };
        let charges: Vec<Charge> = [Some(generator), supply].into_iter().flatten().map(Charge::of).collect();
        let started = Watchdog::start(program, &charges).await;
        started.map(Some).map_err(|why| CannotStart::Unfit(format!("The watchdog of the run cannot be started: {why}.")))
    }
}

/// Expectation of a run.
struct Outlook {
    predicted: Option<Prediction>,
    /// Of a long tone, as a burst is one while it lasts.
    steady: Option<Prediction>,
    /// Power that the loads take for ten seconds, watts of one output.
    bears_w: Option<f64>,
}

impl Outlook {
    fn of(session: &Session, rung: &Rung, mode: Mode) -> Self {
        let known = prior(session);
        let look = Look::at(&known, rung);
        let bears_w = look.build().and_then(|build| build.ten_second_w.as_ref().map(|most| most.value));
        Self { predicted: predict_mode(&known, rung, mode), steady: predict_mode(&known, rung, Mode::Certified), bears_w }
    }

    /// Rules that drive the run.
    fn rules(&self, session: &Session, rung: &Rung, mode: Mode, method: &Method, generator: Option<&Link>, meters_settle_ms: u64) -> Rules {
        let playing = generator.and_then(|generator| generator.profile.generator.as_ref());
        let settle_ms = generator.map_or(0, |generator| generator.profile.settle_ms).max(meters_settle_ms);
        let most = playing.map_or(Level::FULL, |playing| playing.most_db);
        let predicted = self.predicted.as_ref();
        // What only the claims say of this wiring is no prediction of where it clips.
        let by_runs = predicted.filter(|p| matches!(p.basis, Basis::OneRun | Basis::Fit));
        Rules {
            most_output_w: self.bears_w,
            predicted_w: by_runs.map(|p| p.expected.power_w),
            claim_w: predicted.and_then(|p| p.claim_w.or(Some(p.expected.power_w))),
            expected_a: predicted.map(|p| p.high_a).filter(|amps| *amps > 0.0),
            ..Rules::new(&session.policy, mode, method.clone(), most, settle_ms, rung.id.tone_hz.get())
        }
    }
}

/// Sets the supply so that it ends at the claim's voltage, within what the amplifier and the supply allow.
async fn feed(supply: &Link, session: &Session, rung: &Rung, outlook: &Outlook) -> Result<(), CannotStart> {
    let Some(feeding) = &supply.profile.supply else { return Ok(()) };
    let predicted = outlook.predicted.as_ref();
    let start = predicted.and_then(Prediction::start_for_reference);
    let wanted = start.or_else(|| rung.set.rest_v.map(|rest| rest.get())).or_else(|| predicted.map(|p| p.reference_v));
    let Some(wanted) = wanted else { return Ok(()) };
    let bears = session.amplifier.max_supply_v.map_or(feeding.most_v, |most| most.get().min(feeding.most_v));
    // A limit that a short is cut at, and that the tone of the run is not: within a burst it draws what a long tone draws.
    let draws = outlook.steady.as_ref().map_or(feeding.most_a, |p| CURRENT_ROOM * p.high_a).min(feeding.most_a);
    let fuses = session.amplifier.supply_fuse_a().map_or(draws, |fuses| draws.min(fuses.max(1.0)));
    let mut lines = feeding.set_lines(wanted.min(bears), fuses);
    lines.extend(feeding.on.iter().cloned());
    let lost = |fault: LinkFault| CannotStart::Missing { role: Role::Supply, says: format!("it {fault}.") };
    supply.tell(lines).await.map_err(lost)?;
    no_error(supply).await.map_err(|stop| CannotStart::Missing { role: Role::Supply, says: stop.says() })
}

/// Times the highest draw to be expected that the supply's current limit is set to.
const CURRENT_ROOM: f64 = 1.5;
/// Of half a second, what a burst may last.
const LONGEST_BURST_S: f64 = 0.45;

fn fits(mode: Mode, method: &Method) -> Result<(), CannotStart> {
    let says = match (mode, method) {
        (Mode::Dynamic, Method::Ramp | Method::Steps { .. }) => "A dynamic run is driven by bursts.",
        (Mode::Certified | Mode::Clipping, Method::Burst { .. }) => "A burst makes a dynamic run.",
        (_, Method::Burst { cycles: Some(count) }) if !(1..=MOST_CYCLES).contains(count) => "Count 1 to 200 cycles.",
        (_, Method::Steps { levels_db }) if levels_db.is_empty() || levels_db.len() > 64 => "Give 1 to 64 levels.",
        (_, Method::Steps { levels_db }) if levels_db.windows(2).any(|pair| pair[1] <= pair[0]) => "Give the levels from the lowest up.",
        _ => return Ok(()),
    };
    Err(CannotStart::Unfit(says.into()))
}

/// Cycles that are counted at the most.
const MOST_CYCLES: u32 = 200;

const fn method_word(method: &Method) -> &'static str {
    match method {
        Method::Ramp => "ramp",
        Method::Burst { .. } => "burst",
        Method::Steps { .. } => "steps",
        Method::Watch => "watch",
    }
}

/// Sets the tone with the level down and the output off, and asks whether the generator took it; then its level is read back.
async fn tune(generator: &Link, hz: f64, method: &Method) -> Result<(), CannotStart> {
    let lost = |fault: LinkFault| CannotStart::Missing { role: Role::Generator, says: format!("it {fault}.") };
    let Some(playing) = &generator.profile.generator else {
        return Err(CannotStart::Missing { role: Role::Generator, says: "its profile has no [generator].".into() });
    };
    let shape = match method {
        Method::Burst { cycles: Some(count) } => playing.cycles.replace("{cycles}", &count.to_string()),
        Method::Burst { cycles: None } => playing.burst.clone(),
        _ => playing.sine.clone(),
    };
    generator.tell(playing.prepare_lines(hz, &shape)).await.map_err(lost)?;
    match no_error(generator).await {
        Ok(()) => {}
        Err(Stop::GeneratorRefused { says }) => return Err(CannotStart::Refused(says)),
        Err(stop) => return Err(CannotStart::Missing { role: Role::Generator, says: stop.says() }),
    }
    // Set-up lines are anybody's: that they left the level down and the output off is read back.
    generator.zero().await.map_err(lost)
}
