//! The rules, held against their documents, by hand-worked examples, by chance, and by a second reading.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

mod boundaries;
mod checks;
mod crashers;
mod draws;
mod entry_vectors;
mod gates;
mod inventory;
mod ladders;
mod layers;
mod method_examples;
mod mixed_wiring;
mod monte_carlo;
mod plans;
mod predictions;
mod reference_sessions;
mod sentences;
mod session_files;
mod thresholds;
mod uncertainties;
mod wrong_reading;
