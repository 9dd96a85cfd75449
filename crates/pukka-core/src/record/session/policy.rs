//! The thresholds a session is judged by: named, kept with it, changeable.

use serde::{Deserialize, Serialize};

use crate::kernel::units::{Celsius, Drive, Ratio, Volts, certain};
use crate::record::session::Mode;

/// The one of several runs of one kind is used.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Repeats {
    /// The one with the most power.
    #[default]
    Best,
    /// The earliest.
    First,
    /// Their mean.
    Mean,
}

/// The policy of a session.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(default)]
pub struct Policy {
    /// The repeat that is used.
    pub repeats: Repeats,
    /// Distortion up to which power counts as certified.
    pub thd_limit_ratio: Ratio,
    /// Distortion at which a clipping ramp ends.
    pub clipping_end_thd_ratio: Ratio,
    /// Drive above clip onset for a certified run.
    pub extra_drive_certified_db: Drive,
    /// Drive above clip onset for a clipping run.
    pub extra_drive_clipping_db: Drive,
    /// Rest between runs.
    pub rest_s: f64,
    /// Most that the rest voltage may move in the window and count as steady, volts.
    pub rest_move_v: f64,
    /// Length of that window, seconds.
    pub rest_window_s: f64,
    /// Supply below which a run is stopped.
    pub supply_stop_v: Volts,
    /// Heatsink above which a run is stopped.
    pub heatsink_stop_c: Celsius,
    /// Supply volts above which a run asks for a reason when the maker states no maximum.
    pub unstated_max_supply_v: Volts,
    /// Multiple of the bench's own lead fuse that a run may not be expected to pass.
    pub lead_fuse_gate_ratio: Ratio,
    /// A house rule: nothing is run below the floor, whatever the reason.
    pub never_below_floor: bool,
}

impl Policy {
    /// Distortion that ends a run which the program drives: a clipping run goes on past the limit of a certified one.
    #[must_use]
    pub const fn end_thd_ratio(&self, mode: Mode) -> Ratio {
        match mode {
            Mode::Clipping => self.clipping_end_thd_ratio,
            Mode::Certified | Mode::Dynamic => self.thd_limit_ratio,
        }
    }
}

impl Default for Policy {
    fn default() -> Self {
        Self {
            repeats: Repeats::Best,
            thd_limit_ratio: certain(Ratio::new(0.01)),
            clipping_end_thd_ratio: certain(Ratio::new(0.03)),
            extra_drive_certified_db: certain(Drive::new(6.0)),
            extra_drive_clipping_db: certain(Drive::new(10.0)),
            rest_s: 60.0,
            rest_move_v: 0.02,
            rest_window_s: 30.0,
            supply_stop_v: certain(Volts::new(12.0)),
            heatsink_stop_c: certain(Celsius::new(75.0)),
            unstated_max_supply_v: certain(Volts::new(15.0)),
            lead_fuse_gate_ratio: certain(Ratio::new(1.35)),
            never_below_floor: false,
        }
    }
}
