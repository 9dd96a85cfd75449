//! The pages in a browser, driven as people drive them.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

mod bench;
mod bench_layout;
mod claims;
mod compare;
mod entry_line;
mod every_view;
mod forms;
mod in_and_out;
mod keyboard;
mod live_safety;
mod nothing_lost;
mod plan;
mod record;
mod retest;
mod rules;
mod take_in;
mod traces;
