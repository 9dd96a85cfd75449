//! What a file leaves out, it may also leave as `null`: other programs write it so.

use serde::{Deserialize, Deserializer};

/// For a list or a record that has a value when nothing is said of it.
pub fn or_default<'de, D: Deserializer<'de>, T: Default + Deserialize<'de>>(from: D) -> Result<T, D::Error> {
    Ok(Option::deserialize(from)?.unwrap_or_default())
}

/// For what holds unless it is said not to.
pub fn or_yes<'de, D: Deserializer<'de>>(from: D) -> Result<bool, D::Error> {
    Ok(Option::deserialize(from)?.unwrap_or_else(yes))
}

/// Not written where it says what holds anyway.
#[allow(clippy::trivially_copy_pass_by_ref, reason = "serde asks for a reference")]
pub const fn is_yes(value: &bool) -> bool {
    *value
}

/// Likewise, for a key that is not there.
pub const fn yes() -> bool {
    true
}
