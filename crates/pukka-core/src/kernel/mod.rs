//! Quantities, words and workings: what every layer speaks in.

pub(crate) mod absent;
pub mod format;
pub mod problem;
pub mod units;
pub mod wiring;
pub mod working;
