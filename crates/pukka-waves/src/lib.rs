//! What a captured wave says: samples in, figures out; no files and no clock.
//!
//! [`read`] passes over a recording once for its levels ([`levels`]), cuts each channel by its envelope ([`cut`]), and measures each
//! stretch over windows of it. Memory does not grow with the samples of a recording, only with its quarter milliseconds.
//!
//! A source gives numbers only: NaN and infinity are refused with their place ([`source::SourceError::NotFinite`]). Silence is one
//! quiet stretch, without a frequency and without doubts.
//!
//! Formulas with their sources are in `docs/method.md`.

pub mod burst;
pub mod cut;
pub mod distortion;
pub mod doubts;
pub mod harmonics;
pub mod interpolate;
pub mod levels;
pub mod look;
pub mod measure;
pub mod ramp;
pub mod report;
pub mod response;
pub mod scale;
pub mod sine;
pub mod solve;
pub mod source;
pub mod spectrum;
pub mod sums;
pub mod transfer;
pub mod turn;

pub use measure::{ChannelSetting, Cut, TraceSettings, cut_anew, read, read_by};
pub use report::{ChannelKind, TraceReport};
pub use source::{Memory, Recording, Source, SourceError};
