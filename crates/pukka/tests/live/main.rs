//! Runs that are driven, in real time: two at once, no more, as an instrument that is read too late is a fault of its own.

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
