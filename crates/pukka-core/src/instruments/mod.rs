//! Instruments as the core sees them: profiles, and what becomes of their answers. Nothing here has a wire.
//!
//! - [`roles`]: what instruments do, and what is read; [`profile`]: how one is spoken to, checked; [`pattern`]: its regular expressions; [`fill`]: its lines;
//! - [`answer`]: answers as readings; [`unit`], [`level`]: units of answers, and of levels; [`shipped`]: the profiles that come along.

mod answer;
mod fill;
mod level;
mod pattern;
mod profile;
mod roles;
mod shipped;
mod unit;

pub use answer::{BadReading, Value, read};
pub use fill::{Filling, fill};
pub use level::LevelUnit;
pub use profile::{Capture, Feeding, Parity, Playing, Profile, Reading, Serial};
pub use roles::{Quantity, Role};
pub use shipped::{GENERIC, SHIPPED, Shipped};

#[cfg(test)]
mod tests;
