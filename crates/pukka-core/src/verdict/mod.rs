//! Which runs speak for which claim, and what they say.
//!
//! [`judge`] follows the steps of the open session format one by one; [`view`] turns its answer into figures, bars and
//! sentences for people; [`summary`] into the line on the shelf.

pub mod at_volts;
pub mod band;
pub(crate) mod choose;
pub(crate) mod judge;
pub mod loads;
mod outcome;
mod overall;
mod rows;
pub mod sags;
mod sentence;
pub mod settled;
pub mod summary;
pub mod tell;
pub mod view;
pub mod would_change;
pub mod wrong;

pub use judge::judge;
pub use outcome::{Bound, ClaimVerdict, Judgement, Outcome, ProofBasis, RunVerdict};
pub use overall::Overall;
pub use rows::{Bar, ClaimRow};
pub use sentence::{Phrase, Stress};
