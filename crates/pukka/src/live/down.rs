//! The end of a level: taken away, proved to be down, and where it cannot be, the alarm.
//!
//! A level is down when the generator reads back that it is (or, where it cannot, has answered behind the zero), and the watts have
//! gone with it. Where the analyser itself was found out not to tell the truth, the generator's own reading has to do.

use std::sync::Arc;
use std::time::Duration;

use pukka_core::instruments::Role;
use pukka_core::live::{Ending, Stop};
use pukka_store::{Store, lives};
use tokio::time::{Instant, sleep};

use super::Driving;
use super::meters::Meters;
use crate::clock::Clock;
use crate::instruments::{Link, LinkFault};

/// Watts are gone when they are below this part of the last, or below so many.
const GONE: f64 = 0.01;
const GONE_W: f64 = 1.0;
/// They are waited for so long.
const WITHIN: Duration = Duration::from_millis(500);
/// Interval at which it is tried again while the alarm stands.
const AGAIN: Duration = Duration::from_millis(300);

/// Way in which a level came down.
#[derive(Debug, Clone, PartialEq)]
pub enum Down {
    /// Is.
    Proved,
    /// Not, or nobody knows: what is to be said.
    Alarm(String),
}

/// Messages that take a level away, and what shows that it is gone.
#[derive(Clone)]
pub struct Lowering {
    pub generator: Link,
    pub meters: Arc<Meters>,
    /// Feeds the amplifier, under control.
    pub supply: Option<Link>,
    /// Watts of all outputs at last.
    pub last_w: f64,
    /// The analyser tells the truth, as far as is known.
    pub trusted: bool,
}

/// Whether a run ended because the analyser could not be believed, or asked.
pub fn is_analyser_trusted(ended: &Ending) -> bool {
    let Ending::Stopped { why } = ended else { return true };
    !matches!(
        why,
        Stop::Frozen
            | Stop::NotFollowing
            | Stop::AmpsWithoutWatts
            | Stop::Silent
            | Stop::Impossible { .. }
            | Stop::LinkLost { role: Role::Analyser }
            | Stop::BadReading { role: Role::Analyser, .. }
    )
}

impl Lowering {
    /// Takes the level away; where that cannot be proved, cuts the supply and says so.
    pub async fn down(&self) -> Down {
        match self.prove().await {
            Ok(()) => Down::Proved,
            Err(says) => Down::Alarm(format!("{says} {}", self.cut().await)),
        }
    }

    /// Takes the level away and proves it; what speaks against it, in a sentence.
    async fn prove(&self) -> Result<(), String> {
        match self.generator.zero().await {
            Err(fault @ LinkFault::NotObeyed(_)) => Err(format!("The signal generator {fault}.")),
            Err(_) => Err(Stop::GeneratorLost.says()),
            Ok(()) if !self.trusted || self.are_watts_gone().await => Ok(()),
            Ok(()) => {
                Err("The signal generator says that its level is down, and the watts are still there. Something else plays, or it lies."
                    .into())
            }
        }
    }

    /// Whether the watts go with the level. A meter that does not answer any more says nothing against it; one that takes long for a
    /// reading is waited for, as far as its own time-out goes.
    async fn are_watts_gone(&self) -> bool {
        let until = Instant::now() + WITHIN;
        loop {
            match self.meters.total_w().await {
                Some(watts) if watts >= GONE_W.max(GONE * self.last_w) => {}
                _ => return true,
            }
            if Instant::now() >= until {
                return false;
            }
            sleep(Duration::from_millis(10)).await;
        }
    }

    /// Switches the supply off where it is under control, and says what is left to do by hand.
    async fn cut(&self) -> &'static str {
        let Some(supply) = &self.supply else { return "Cut the amplifier's supply by hand, now." };
        match supply.zero().await {
            Ok(()) => {
                "The supply was switched off. A battery bank or supercapacitors beside it are not cut by that: disconnect them by hand."
            }
            Err(_) => "The supply could not be switched off: cut it by hand.",
        }
    }
}

impl Driving {
    /// While the alarm of a run stands, tries again and again to take its level away; and takes the alarm back once that is proved.
    pub(super) fn watch_alarm(&self, lowering: Lowering, seq: i64) {
        let driving = self.clone();
        let mut over = self.ending();
        tokio::spawn(async move {
            let stands = || driving.state().is_some_and(|state| state.seq == seq && state.alarm);
            while stands() {
                tokio::select! {
                    _ = async { drop(over.wait_for(|over| *over).await) } => return,
                    () = sleep(AGAIN) => {}
                }
                // A link that was set up again is another one.
                let lowering =
                    Lowering { generator: driving.links.get(Role::Generator).unwrap_or(lowering.generator.clone()), ..lowering.clone() };
                if lowering.prove().await.is_ok() {
                    driving.all_clear(seq);
                }
            }
        });
    }

    /// Takes the alarm back.
    fn all_clear(&self, seq: i64) {
        self.state.send_if_modified(|state| state.as_mut().filter(|state| state.seq == seq).is_some_and(super::LiveState::all_clear));
        write_zeroed(&self.store, self.clock);
    }
}

/// Writes down that the level is down. Whoever takes it away does not wait for the disk.
pub fn write_zeroed(store: &Arc<Store>, clock: Clock) {
    let store = Arc::clone(store);
    tokio::task::spawn_blocking(move || {
        let at = clock.now().to_string();
        if let Err(error) = store.write(move |tx| lives::zeroed(tx, &at)) {
            tracing::error!(%error, "that the level is down could not be written");
        }
    });
}
