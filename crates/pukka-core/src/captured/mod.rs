//! A captured wave as a run: which of its stretches speak for which mode, and what they read.
//!
//! Ref: docs/method.md, "Captured waves".

mod figures;
mod gain;
mod reading;
mod settings;

pub use figures::{NamedFigure, captured_figures};
pub use gain::{CornerSaid, Onset, corners_said, onset};
pub use reading::{CapturedReading, Moment, Unfit, captured_run, reading, with_second_meter};
pub use settings::{kind_of, trace_settings};

#[cfg(test)]
mod tests;
