//! Before and between the runs: the ladder of loads, what to expect of a rung, the gates.

pub mod cautions;
pub mod expect;
pub mod gates;
pub mod ladder;
pub mod rungs;
