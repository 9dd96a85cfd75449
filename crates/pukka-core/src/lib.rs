//! The rules and the arithmetic of bench-testing car audio amplifiers.
//!
//! No I/O, no async, no clock and no chance of its own: time, ids and text come in as arguments, figures and sentences go
//! out. Start reading at [`session::Session`], the one value everything here is computed from; then
//!
//! - [`units`]: quantities as types; [`format`]: the one place where a figure becomes text;
//! - [`working`]: how a figure was made, carried beside the figure itself;
//! - [`claims`]: what a maker says; [`wiring`]: which channels are driven and how;
//! - [`runs`]: the entry line, totals, draw, efficiency, uncertainty, the checks;
//! - [`bench`]: the supply, the loads that can be made, the leads, the meters; [`model`]: load line, losses, supply;
//! - [`plan`]: the ladder of loads, what to expect of a rung, the gates;
//! - [`tones`]: what is played; [`live`]: a run that the program drives itself; [`instruments`]: how an instrument is spoken to;
//! - [`verdict`]: which runs speak for which claim, and what they say; [`sheet`]: all of it on one page, with numbered notes.
//!
//! Formulas with their sources are in `docs/method.md`.

mod absent;
pub mod amplifier;
pub mod bench;
pub mod claims;
pub mod format;
pub mod instruments;
pub mod live;
pub mod model;
pub mod plan;
pub mod problem;
pub mod runs;
pub mod session;
pub mod sheet;
pub mod tones;
pub mod units;
pub mod verdict;
pub mod wiring;
pub mod working;

/// Version of the rules: a stored summary made by another version is made anew.
pub const RULES_VERSION: u32 = 4;
