//! A run that the program drives itself: the level goes up until the limit, the best reading inside it is taken, and the level
//! goes back to nothing in all cases.
//!
//! [`Live`] is a machine without a clock and without wires: it is given rounds of readings with their times, and says what to do.
//! Whoever drives it sets the level only when told, writes down that it goes up before it does, and takes it away at once on
//! [`Action::End`], on a lost link and on a stop, whatever else is under way.

mod machine;
mod result;

pub use machine::Live;
pub use result::readings;

use serde::{Deserialize, Serialize};

use crate::instruments::Role;
use crate::kernel::units::{Level, certain};
use crate::record::session::{LevelStep, Mode, Policy};

/// How it is to be run.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "kebab-case")]
#[schema(as = LiveMethod)]
pub enum Method {
    /// The level rises slowly to the distortion that ends it.
    Ramp,
    /// A burst: the level rises until a dB more gives hardly more.
    Burst,
    /// A table of levels, dB, lowest first.
    Steps {
        /// The levels.
        levels_db: Vec<Level>,
    },
    /// There is no generator: somebody else raises the level, and the best reading is taken until it is stopped.
    Watch,
}

/// What a run is driven by.
#[derive(Debug, Clone, PartialEq)]
pub struct Rules {
    /// What it is after.
    pub mode: Mode,
    /// How.
    pub method: Method,
    /// Distortion that ends a ramp.
    pub limit: f64,
    /// First level.
    pub start: Level,
    /// Never past this.
    pub most: Level,
    /// After a change of level, before a reading counts, milliseconds.
    pub settle_ms: u64,
    /// Supply below which it is stopped.
    pub supply_stop_v: f64,
    /// The longest it may take, milliseconds.
    pub most_ms: u64,
    /// Power past which it is stopped, watts of one output: what the loads take for ten seconds; nothing when it is not known.
    pub most_output_w: Option<f64>,
}

/// The longest a run may take, milliseconds.
pub const MOST_MS: u64 = 180_000;
/// The first level.
pub const START: Level = certain(Level::new(-40.0));

impl Rules {
    /// By a policy.
    #[must_use]
    pub fn new(policy: &Policy, mode: Mode, method: Method, most: Level, settle_ms: u64) -> Self {
        Self {
            mode,
            method,
            limit: policy.end_thd_ratio(mode).get(),
            start: START.min(most),
            most,
            settle_ms,
            supply_stop_v: policy.supply_stop_v.get(),
            most_ms: MOST_MS,
            most_output_w: None,
        }
    }
}

/// One round of readings: what every meter showed at about the same moment.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Round {
    /// Since the start, milliseconds, by a clock that never goes back.
    pub t_ms: u64,
    /// Level it was read at, dB; nothing with the level down.
    pub level_db: Option<Level>,
    /// Watts of each output.
    pub power_w: Vec<f64>,
    /// Distortion of the worst output, a fraction.
    pub thd_ratio: Option<f64>,
    /// Supply volts.
    pub supply_v: Option<f64>,
    /// Supply amps.
    pub supply_a: Option<f64>,
}

impl Round {
    /// All outputs together, watts.
    #[must_use]
    pub fn total_w(&self) -> f64 {
        self.power_w.iter().sum()
    }

    /// Whether every figure in it is one.
    #[must_use]
    pub fn is_sound(&self) -> bool {
        let others = [self.thd_ratio, self.supply_v, self.supply_a];
        self.power_w.iter().chain(others.iter().flatten()).all(|value| value.is_finite() && *value >= 0.0)
    }
}

/// What to do.
#[derive(Debug, Clone, PartialEq)]
pub enum Action {
    /// Go on as it is.
    Hold,
    /// Set this level.
    Level(Level),
    /// Take the level away: it is over.
    End(Ending),
}

/// How it ended.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "kebab-case")]
pub enum Ending {
    /// It got what it was after.
    Done,
    /// The generator was at its top, and the distortion still inside the limit.
    Top,
    /// No reading was inside the limit.
    NothingClean,
    /// It was stopped.
    Stopped {
        /// Why.
        why: Stop,
    },
}

/// Why it was stopped.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "kebab-case")]
pub enum Stop {
    /// By a key.
    Key,
    /// The supply fell below the stop rule.
    SupplyLow,
    /// The power fell away while the level stood: the amplifier protects itself.
    Protection,
    /// A load would be past what it takes for ten seconds.
    LoadBank,
    /// It took too long.
    TooLong,
    /// A meter no longer answers.
    LinkLost {
        /// Which.
        role: Role,
    },
    /// A reading was no number.
    BadReading {
        /// Whose.
        role: Role,
        /// What it said.
        says: String,
    },
    /// The generator no longer answers: nobody knows the level.
    GeneratorLost,
    /// The samples could not be kept.
    Disk,
    /// The program ended.
    Exit,
}

impl Ending {
    /// In a sentence.
    #[must_use]
    pub fn says(&self) -> String {
        match self {
            Self::Done => "Done.".into(),
            Self::Top => "The generator is at its top and the distortion still inside the limit: give it more gain.".into(),
            Self::NothingClean => "No reading was inside the distortion limit.".into(),
            Self::Stopped { why } => match why {
                Stop::Key => "Stopped by hand.".into(),
                Stop::SupplyLow => "Stopped: the supply fell below the stop rule.".into(),
                Stop::Protection => "Stopped: the power fell away. The amplifier protects itself, or a load opened.".into(),
                Stop::LoadBank => "Stopped: past what the loads take for ten seconds.".into(),
                Stop::TooLong => "Stopped: it took too long.".into(),
                Stop::LinkLost { role } => format!("Stopped: the {} no longer answers.", role.words()),
                Stop::BadReading { role, says } => format!("Stopped: the {} {says}.", role.words()),
                Stop::GeneratorLost => {
                    "The generator's link is lost, and its level may still be up. Cut the amplifier's supply by hand.".into()
                }
                Stop::Disk => "Stopped: the readings could not be kept. Is the disk full?".into(),
                Stop::Exit => "Stopped: the program was ended.".into(),
            },
        }
    }
}

/// What a run comes to.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct RampResult {
    /// The best round inside the limit.
    pub best: Option<Round>,
    /// A row a level, of level steps.
    pub steps: Vec<LevelStep>,
}

#[cfg(test)]
mod tests;
