//! The ladder as the bench shows it: rungs, cells, and what was run in them.

use serde::{Deserialize, Serialize};

use crate::assess::checks::Check;
use crate::kernel::units::{Ohms, Volts};
use crate::kernel::wiring::Wiring;
use crate::kernel::working::Figure;
use crate::plan::expected::Expectation;
use crate::plan::gates::GateFinding;
use crate::record::session::{Burst, BurstWord, Mode, Order};

/// Place of a run: the key of a rung, and a mode.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Place {
    /// Key of the rung.
    pub rung: String,
    /// Mode.
    pub mode: Mode,
}

/// A run in a cell.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RunBrief {
    /// Id.
    pub id: String,
    /// Time of it.
    #[schema(value_type = String, format = DateTime)]
    pub at: jiff::Timestamp,
    /// Readings, as a line that can be typed again.
    pub line: String,
    /// Note on it.
    pub note: Option<String>,
    /// Total power as shown.
    pub total: String,
    /// The one the policy uses.
    pub used: bool,
    /// Run past a gate without a reason, and stays out of the verdict.
    pub ungated: bool,
    /// Pukka drove it, and its ramp was kept.
    pub driven: bool,
    /// Checks on it.
    pub checks: Vec<Check>,
}

/// Figures that a cell shows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CellFigures {
    /// Total power, without its unit.
    pub power: String,
    /// Supply volts and efficiency, as far as they are known.
    pub under: String,
    /// Length of its bar, of 1.
    pub fraction: f64,
}

/// A kind of burst in a cell.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct BurstFigure {
    /// "20 cycles".
    pub words: String,
    /// Total power with its unit; nothing while it is still to run.
    pub power: Option<String>,
    /// The figure of the cell.
    pub shown: bool,
}

/// A mode of a rung.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Cell {
    /// Mode.
    pub mode: Mode,
    /// Whether it is to be run.
    pub planned: bool,
    /// Figures shown, when something was logged.
    pub figures: Option<CellFigures>,
    /// Runs, the newest last.
    pub runs: Vec<RunBrief>,
    /// Kinds of burst, when there is more than one of them or one is planned: each its own figure, or still to run.
    pub bursts: Vec<BurstFigure>,
    /// Gates in the way, open or not.
    pub gates: Vec<GateFinding>,
    /// Whether one of them is shut.
    pub shut: bool,
    /// Extra drive for it, decibels.
    pub extra_drive_db: f64,
    /// Points to mind at this very step.
    pub mind: Vec<String>,
    /// Reason why Pukka asks once more before it starts this run; nothing when it does not.
    pub asks: Vec<String>,
}

/// Settings of a rung.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RungSettings {
    /// Supply at rest.
    pub rest_v: Option<Volts>,
    /// Load as measured.
    pub load_measured_ohm: Option<Ohms>,
    /// The same of the groups of a mixed wiring.
    pub group_loads_measured_ohm: Vec<Ohms>,
    /// Test frequency.
    pub tone_hz: f64,
    /// Whether a charger is on.
    pub charger_on: Option<bool>,
    /// Bank that feeds it.
    pub bank: Option<String>,
    /// Drive above clip onset; by mode when not set.
    pub extra_drive_db: Option<f64>,
    /// Build of its load from the bench's resistors.
    pub made_of: Option<String>,
    /// Kinds of burst to run; none said: the standard one.
    #[schema(value_type = Vec<BurstWord>)]
    pub bursts: Vec<Burst>,
    /// Modes to run; none when it is left out.
    pub modes: Vec<Mode>,
}

/// A load of the ladder.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LadderRung {
    /// Key.
    pub key: String,
    /// "4 Ω".
    pub label: String,
    /// "3.91 real", or that none was measured.
    pub real: String,
    /// "40 Hz · mono".
    pub words: String,
    /// Wiring.
    pub wiring: Wiring,
    /// Number of outputs that it has.
    pub outputs: u8,
    /// Switch.
    pub setting: Option<String>,
    /// Nominal load.
    pub load_ohm: Ohms,
    /// Settings.
    pub set: RungSettings,
    /// The claim to prove here, as shown.
    pub claim: Option<String>,
    /// Likewise, watts.
    pub claim_w: Option<f64>,
    /// Place of its mark, of 1.
    pub claim_fraction: Option<f64>,
    /// Figures to expect.
    pub expected: Option<Expectation>,
    /// The same as bars, beside the other rungs.
    pub bars: Option<PlanBars>,
    /// Certified, clipping, dynamic.
    pub cells: Vec<Cell>,
}

/// The ladder as it stands.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Ladder {
    /// Rungs, highest load first.
    pub rungs: Vec<LadderRung>,
    /// The run to make next; nothing when all are logged.
    pub next: Option<Place>,
    /// Every place, in the session's order.
    pub order: Vec<Place>,
    /// Places logged.
    pub logged: usize,
    /// Places planned.
    pub planned: usize,
    /// The order of the runs.
    pub run_order: Order,
    /// About how long they take, as shown: "about 21 min".
    pub minutes: String,
    /// The supply's source resistance, when it is known.
    pub source_ohm: Option<Figure>,
    /// Supply at rest, for the whole plan.
    pub rest_v: Option<Volts>,
}

/// Length of the bars of a rung in the plan, each of 1: all rungs are drawn to one scale.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PlanBars {
    /// Output to expect.
    pub power: f64,
    /// The claim.
    pub claim: Option<f64>,
    /// Least draw.
    pub low_a: f64,
    /// Most draw.
    pub high_a: f64,
    /// Supply fuses.
    pub fuses: Option<f64>,
    /// Supply under load, of the span from the stop rule to the highest rest voltage.
    pub end_v: Option<f64>,
    /// The claim's voltage on the same span.
    pub reference_v: f64,
}
