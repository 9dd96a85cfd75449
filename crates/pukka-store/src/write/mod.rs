//! Writes: what is guarded, what the journal notes, and which summaries a commit leaves to be made again.

pub mod amplifiers;
pub mod arming;
pub mod benches;
pub mod claims;
pub mod gates;
pub mod idempotency;
pub(crate) mod journal;
pub mod money;
pub mod photos;
pub mod remarks;
pub mod rests;
pub mod retests;
pub mod rungs;
pub mod runs;
pub mod sessions;
pub mod settled;
pub mod signature;
pub mod steps;
pub mod traces;
mod tx;
pub mod views;

pub(crate) use tx::Committed;
pub use tx::WriteTx;
