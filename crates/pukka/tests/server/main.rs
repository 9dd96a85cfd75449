//! The program as a whole, asked over HTTP and by its commands. One program of tests, as each of its own would be linked with all of it.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

mod at_the_bench;
mod bad_input;
mod before_the_bench;
mod command_line;
#[path = "../common/mod.rs"]
mod common;
mod compare;
mod contract;
mod files;
mod going_out;
mod hard_times;
mod journeys;
mod limits;
mod mixed_wiring;
mod pictures;
mod power_cut;
#[path = "../common/program.rs"]
mod program;
mod retests;
mod traces;
mod traces_kept;
mod undo_redo;
mod upkeep;
#[path = "../common/wave.rs"]
mod wave;
mod whole_record;
