//! What people read: the verdict in figures, bars and sentences, the line on the shelf, the sheet.

pub mod compare;
pub mod guesses;
pub mod lessons;
pub mod publish;
mod rows;
pub mod settled;
pub mod sheet;
pub mod summary;
pub mod value;
pub mod view;
pub mod written;

pub use rows::{Bar, ClaimRow};
