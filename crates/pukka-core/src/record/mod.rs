//! What is kept: the amplifier, its maker's claims, the bench, and the session with its runs as they were read.

pub mod amplifier;
pub mod bench;
pub mod claims;
pub mod session;
