//! Quantities, words and workings: what every layer speaks in.

pub mod absent;
pub mod format;
pub mod problem;
mod reader_words;
mod strict;
pub mod units;
pub mod wiring;
pub mod words;
pub mod working;
