//! A check that fired on what was read: its code, how grave it is, and what to do about it. The rules themselves are in
//! [`crate::assess::checks`]; which runs may be used is decided by what they found.

use serde::{Deserialize, Serialize};

use crate::record::session::{CheckCode, ReadingName};

/// Gravity of a check.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Severity {
    /// Cannot be true.
    Stop,
    /// Look again.
    Doubt,
    /// Good to know.
    Note,
}

/// A check that fired.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Check {
    /// The check.
    pub code: CheckCode,
    /// Gravity.
    pub severity: Severity,
    /// The runs it names.
    pub runs: Vec<String>,
    /// Place on the ladder: "2 Ω, clipping".
    pub place: String,
    /// Whether the reviewer settled it.
    pub settled: bool,
    /// Reason why it was accepted as it stands.
    pub accepted: Option<String>,
    /// Two or three words.
    pub title: String,
    /// A plain sentence with the numbers.
    pub says: String,
    /// Things to look at, or to do.
    pub remedy: String,
    /// Readings that may be struck to settle it, where striking helps.
    pub strikes: Vec<ReadingName>,
}

impl Check {
    /// Whether Enter asks once more before a run is logged under it: a stop, or a doubt about what was read. Fuses and heat say
    /// something of the amplifier, not of the readings.
    #[must_use]
    pub fn asks_before_logging(&self) -> bool {
        !self.settled && self.severity != Severity::Note && !matches!(self.code, CheckCode::Fuse | CheckCode::Hot)
    }
}
