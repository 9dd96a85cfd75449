//! Runs that are driven, in real time: they wait far more than they compute, so that many can be run at once
//! (`cargo test --test live -- --test-threads=6`).

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

#[path = "../common/mod.rs"]
mod common;
mod hard;
mod lies;
#[path = "../common/peer.rs"]
mod peer;
#[path = "../common/program.rs"]
mod program;
mod runs;
mod serial;
mod stream;
