//! The stand-in bench: an amplifier that sags, clips, heats and protects itself, on a supply and into loads that behave,
//! read by meters with errors of their own. It is for learning and for tests, and stands in for real instruments over TCP.
//!
//! - [`character`]: the amplifiers there are; [`amplifier`]: converter, rails, output stage, heat, protection;
//! - [`supply`]: a bank that sags and recovers, or a supply with a current limit; [`spectrum`]: distortion from the waveform;
//! - [`bench`]: all of it together, a tick of a millisecond at a time; [`meters`]: what the instruments show of it;
//! - [`captures`]: short recordings of it; [`recorder`]: what it records;
//! - [`scpi`]: the instruments as SCPI sees them; [`serve`]: the same on TCP ports.
//!
//! Nothing here knows the time of day: a bench is told how many ticks to go on, and its noise is indexed by the tick, so the
//! same seed and the same script give the same session.

pub mod amplifier;
pub mod bench;
pub mod captures;
pub mod character;
pub mod drive;
pub mod meters;
pub mod noise;
pub mod recorder;
pub mod scpi;
pub mod serve;
pub mod supply;

/// A tick, seconds.
pub const TICK_S: f64 = 0.001;
