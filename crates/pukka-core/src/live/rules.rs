//! What a run is driven by.

use serde::{Deserialize, Serialize};

use crate::kernel::units::{Level, certain};
use crate::record::session::{Mode, Policy};

/// Method of a run.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "kebab-case")]
#[schema(as = LiveMethod)]
pub enum Method {
    /// The level rises slowly to the distortion that ends it.
    Ramp,
    /// A burst: the level rises until its own distortion passes the limit, or until a dB more gives barely more.
    Burst {
        /// A number of cycles, whose first and last are read; nothing for the standard burst.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        cycles: Option<u32>,
    },
    /// A table of levels, dB, lowest first.
    Steps {
        /// The levels.
        levels_db: Vec<Level>,
    },
    /// There is no generator: somebody else raises the level, and the best settled reading is taken until it is stopped.
    Watch,
}

impl Method {
    /// Whether bursts are played.
    #[must_use]
    pub const fn is_burst(&self) -> bool {
        matches!(self, Self::Burst { .. })
    }
}

/// Rules that drive a run.
#[derive(Debug, Clone, PartialEq)]
pub struct Rules {
    /// Aim.
    pub mode: Mode,
    /// Method.
    pub method: Method,
    /// Distortion that ends a ramp.
    pub limit: f64,
    /// First level.
    pub start: Level,
    /// Never past this.
    pub most: Level,
    /// After a change of level, before a reading means anything, milliseconds.
    pub settle_ms: u64,
    /// After that, before readings are looked at for a figure: a window of the analyser that the change fell into is over then too.
    pub window_ms: u64,
    /// Time that readings stand still before they make a figure, milliseconds.
    pub still_ms: u64,
    /// Supply below which it is stopped.
    pub supply_stop_v: f64,
    /// Heatsink above which it is stopped, °C.
    pub most_c: f64,
    /// The longest it may take, milliseconds.
    pub most_ms: u64,
    /// Power past which it is stopped, watts of one output: what the loads take for ten seconds; nothing when it is not known.
    pub most_output_w: Option<f64>,
    /// Watts of all outputs at which runs of this wiring say that it clips.
    pub predicted_w: Option<f64>,
    /// Power that its maker claims, watts of all outputs.
    pub claim_w: Option<f64>,
    /// Supply amps that are to be expected at the most.
    pub expected_a: Option<f64>,
}

/// The longest a run may take with quick instruments, milliseconds.
pub const MOST_MS: u64 = 180_000;
/// Settling times of slow instruments that are waited for.
const SETTLES: u64 = 150;
/// The first level.
pub const START: Level = certain(Level::new(-40.0));
/// A heatsink is not driven past this, °C.
const MOST_C: f64 = 75.0;
/// Readings stand still over so long at least: milliseconds, and periods of the tone.
const STILL_MS: u64 = 500;
const STILL_PERIODS: f64 = 16.0;

impl Rules {
    /// By a policy, of a tone; `settle_ms` is what the instruments ask for.
    #[must_use]
    pub fn new(policy: &Policy, mode: Mode, method: Method, most: Level, settle_ms: u64, hz: f64) -> Self {
        let periods_ms = (STILL_PERIODS / hz * 1e3).ceil() as u64;
        // A burst comes twice a second: a whole one is heard after the level has changed, and one more to hold it against.
        let (settle_ms, still_ms) = match method {
            Method::Burst { .. } => (settle_ms.max(BURST_MS), BURST_MS),
            _ => (settle_ms.max(periods_ms), STILL_MS.max(periods_ms).max(settle_ms)),
        };
        let bursts = method.is_burst();
        Self {
            mode,
            method,
            limit: policy.end_thd_ratio(mode).get(),
            start: START.min(most),
            most,
            settle_ms,
            window_ms: if bursts { 0 } else { periods_ms },
            still_ms,
            supply_stop_v: policy.supply_stop_v.get(),
            most_c: MOST_C,
            most_ms: MOST_MS.max(SETTLES * settle_ms),
            most_output_w: None,
            predicted_w: None,
            claim_w: None,
            expected_a: None,
        }
    }
}

/// After a change of level a whole burst was heard, milliseconds.
const BURST_MS: u64 = 1_100;
