//! Rows: SQL, an aggregate a file. What is here reads and writes columns, and knows nothing of the journal nor of summaries.

pub mod amplifiers;
pub mod arming;
pub mod benches;
pub mod claims;
pub(crate) mod codec;
pub mod gates;
pub mod links;
pub mod lives;
pub mod photos;
mod readings;
pub mod remarks;
pub mod rests;
pub mod rungs;
pub mod runs;
pub mod sessions;
pub mod settled;
pub mod steps;
pub(crate) mod traces;
pub mod views;
#[cfg(test)]
mod whole;
