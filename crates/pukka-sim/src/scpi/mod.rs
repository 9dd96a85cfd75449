//! The instruments as SCPI sees them: programme messages in, responses out, an error queue, the common commands.
//!
//! - [`message`]: a line as its messages; [`header`]: what a header matches; [`number`]: parameters;
//! - [`common`]: status, error queue, common commands; [`device`]: the instruments; [`bench_port`]: the bench's own port; [`fault`]: what
//!   can be wrong with them.
//!
//! Ref: IEEE 488.2 (common commands, status reporting), SCPI-1999 volumes 1 and 2 (headers, error numbers).

mod bench_port;
mod common;
mod device;
mod fault;
mod header;
mod message;
mod number;

pub use common::Status;
pub use device::{Instrument, Role, capture_ms};
pub use fault::{FAULTS, Fault};
pub use header::matches;

/// SCPI's value for a reading that is past the range.
pub const OVERLOAD: f64 = 9.9e37;

/// An error of the queue: number and text.
pub type ScpiError = (i32, &'static str);

/// A parameter is of the wrong type.
pub const DATA_TYPE: ScpiError = (-104, "Data type error");
/// There are more parameters than the command takes.
pub const PARAMETER_NOT_ALLOWED: ScpiError = (-108, "Parameter not allowed");
/// A parameter is missing.
pub const MISSING_PARAMETER: ScpiError = (-109, "Missing parameter");
/// Header that is not known.
pub const UNDEFINED_HEADER: ScpiError = (-113, "Undefined header");
/// A suffix is none of this quantity.
pub const INVALID_SUFFIX: ScpiError = (-131, "Invalid suffix");
/// A number has a suffix where none is taken.
pub const SUFFIX_NOT_ALLOWED: ScpiError = (-138, "Suffix not allowed");
/// A parameter is past its range.
pub const OUT_OF_RANGE: ScpiError = (-222, "Data out of range");
/// A parameter is none of those known.
pub const ILLEGAL_PARAMETER: ScpiError = (-224, "Illegal parameter value");
/// Nothing was measured yet.
pub const STALE: ScpiError = (-230, "Data corrupt or stale");
