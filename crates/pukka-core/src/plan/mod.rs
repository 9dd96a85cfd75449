//! Before and between the runs: the ladder of loads, what to expect of a rung, the gates.

pub mod arm;
pub mod cautions;
pub mod expected;
pub mod gates;
pub mod halt;
pub mod known;
pub mod ladder;
pub mod predict;
pub mod rest;
pub mod rungs;
pub mod view;
