//! Quantities, words and workings: what every layer speaks in.

pub(crate) mod absent;
pub mod format;
pub mod problem;
mod reader_words;
mod strict;
pub mod units;
pub mod wiring;
pub(crate) mod words;
pub mod working;
