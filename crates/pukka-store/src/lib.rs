//! Where Pukka keeps its records: one SQLite file through rusqlite. The only crate with SQL.
//!
//! [`Store`] owns one writer connection on a thread of its own and a small pool of readers; a write is one transaction
//! and its reply follows the commit. `rows` holds the SQL, an aggregate a file; `read` joins rows (a session whole, the shelf,
//! summaries); `write` guards, notes in the journal and says what a commit outdates. [`undo`] and [`transfer`] stand on top; [`upkeep`]
//! copies and checks a whole folder, [`whole`] writes files that are there whole or not at all.

mod error;
mod files;
mod health;
mod lock;
mod migrations;
mod read;
mod rows;
mod store;
pub mod transfer;
pub mod undo;
pub mod upkeep;
pub mod whole;
mod write;

pub use error::StoreError;
pub use files::{Files, Kept};
pub use read::page::After;
pub use read::{incidents, summaries};
pub use rows::{links, lives};
/// A connection inside a read or a write; only the store's own functions speak SQL to it.
pub use rusqlite::{self, Connection};
pub use store::{Author, Change, LINES, Settings, Store};
pub use write::{
    WriteTx, amplifiers, arming, benches, claims, gates, idempotency, money, photos, remarks, rests, retests, rungs, runs, sessions,
    settled, signature, steps, traces, views,
};

/// A new id: sorts by the time it was made.
#[must_use]
pub fn new_id() -> String {
    uuid::Uuid::now_v7().to_string()
}

/// A salt: 122 bits of chance, in hexadecimal.
#[must_use]
pub fn new_salt() -> String {
    uuid::Uuid::new_v4().simple().to_string()
}
