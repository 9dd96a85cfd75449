//! Before and between the runs: the ladder of loads, what to expect of a rung, the gates, arming, the cautions.

pub mod arm;
mod asks;
pub mod cautions;
pub mod expected;
pub mod gates;
pub mod ladder;
pub mod opening;
pub mod progress;
pub mod run_line;
pub mod view;
