//! The instruments as SCPI sees them: programme messages in, responses out, an error queue, the common commands.
//!
//! Ref: IEEE 488.2 (common commands, status reporting), SCPI-1999 volumes 1 and 2 (headers, error numbers).

mod common;
mod device;
mod header;

pub use common::Status;
pub use device::{Fault, Instrument, Role, capture_ms};
pub use header::matches;

/// What SCPI gives for a reading that is past the range.
pub const OVERLOAD: f64 = 9.9e37;

/// An error of the queue: number and text.
pub type ScpiError = (i32, &'static str);

/// Header that is not known.
pub const UNDEFINED_HEADER: ScpiError = (-113, "Undefined header");
/// A parameter is wanting.
pub const MISSING_PARAMETER: ScpiError = (-109, "Missing parameter");
/// A parameter is of the wrong type.
pub const DATA_TYPE: ScpiError = (-104, "Data type error");
/// A parameter is past its range.
pub const OUT_OF_RANGE: ScpiError = (-222, "Data out of range");
/// A parameter is none of those known.
pub const ILLEGAL_PARAMETER: ScpiError = (-224, "Illegal parameter value");
