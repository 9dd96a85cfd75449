//! The records: written, read, taken back, carried out and in.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

mod at_the_bench;
mod before_the_bench;
mod in_and_out;
mod many_at_once;
mod records;
mod retests;
