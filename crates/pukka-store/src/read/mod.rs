//! Reads that join rows: a session whole, the shelf, its summaries, incidents.

pub mod buys;
pub mod incidents;
pub mod page;
pub mod sags;
pub mod session;
pub mod shelf;
pub mod summaries;
