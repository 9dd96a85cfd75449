//! Where Pukka keeps its records: one SQLite file through rusqlite. The only crate with SQL.
//!
//! [`Store`] owns one writer connection on a thread of its own and a small pool of readers; a write is one transaction
//! and its reply follows the commit. One file an aggregate: [`amplifiers`], [`claims`], [`sessions`], [`rungs`], [`gates`],
//! [`arming`], [`benches`], [`photos`], [`runs`], [`acts`] (what was done), [`undo`], [`idempotency`], [`summaries`],
//! [`settled`], and [`transfer`] for files out and in.

pub mod acts;
pub mod amplifiers;
pub mod arming;
pub mod benches;
pub mod claims;
mod codec;
mod error;
mod files;
pub mod gates;
pub mod idempotency;
pub mod incidents;
pub mod links;
pub mod lives;
mod lock;
mod migrations;
pub mod photos;
pub mod remarks;
pub mod rests;
pub mod rungs;
pub mod runs;
pub mod sessions;
pub mod settled;
pub mod steps;
mod store;
pub mod summaries;
pub mod transfer;
pub mod undo;

pub use error::StoreError;
pub use files::Files;
/// A connection inside a read or a write; only the store's own functions speak SQL to it.
pub use rusqlite::{Connection, Transaction};
pub use store::{Author, Settings, Store};

/// A new id: sorts by the time it was made.
#[must_use]
pub fn new_id() -> String {
    uuid::Uuid::now_v7().to_string()
}
