//! Upkeep of a data folder: copies of the database, and a check of everything in it.

mod check;
mod copy;

pub use check::{CheckReport, Finding, FindingCode, check};
pub use copy::{Copied, copy_database, verify_database};

pub use crate::health::DATABASE;
pub use crate::lock::FolderLock;
