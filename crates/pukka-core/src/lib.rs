//! The rules and the arithmetic of bench-testing car audio amplifiers.
//!
//! No I/O, no async, no clock and no chance of its own: time, ids and text come in as arguments, figures and sentences go
//! out. Start reading at [`record::session::Session`], the one value everything here is computed from; then
//!
//! the layers, each of which uses only those above it (the manifest of a crate of its own holds it to that, or
//! `tests/rules/layers.rs`, which reads the imports):
//!
//! - [`kernel`]: quantities as types, figures as text, how a figure was made, wirings, problems;
//! - [`record`]: what is kept: the amplifier, the bench, the claims, the session;
//! - [`evidence`]: from readings to figures: the entry line, power, uncertainty, which run speaks for a place;
//! - [`predict`]: load line, losses, supply; what is known, and what to expect;
//! - [`assess`]: the checks, the judge, the sentence, which reading is wrong;
//! - [`plan`]: the ladder, the gates, arming, the cautions;
//! - [`report`]: the verdict as people read it, the line on the shelf, the sheet.
//!
//! Beside them stand [`tones`] (what is played) and [`instruments`] (how an instrument is spoken to), on evidence; [`live`], a run
//! that the program drives itself, stands on top. [`traces`] (what a captured wave says) uses nothing but the kernel; [`captured`] makes a
//! run of what it says.
//!
//! Formulas with their sources are in `docs/method.md`.

pub mod assess;
pub mod captured;
pub mod evidence;
pub mod instruments;
pub mod live;
pub mod plan;
pub mod predict;
pub mod record;
pub mod report;
pub mod tones;

pub use pukka_kernel as kernel;
pub use pukka_waves as traces;

/// Version of the rules: a stored summary made by another version is made again.
pub const RULES_VERSION: u32 = 5;
