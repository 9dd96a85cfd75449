//! Which runs speak for which claim, and what they say.
//!
//! [`judge`] follows the steps of the open session format one by one; [`view`] turns its answer into figures, bars and
//! sentences for people; [`summary`] into the line on the shelf.

pub mod at_volts;
pub mod band;
pub(crate) mod choose;
pub(crate) mod judge;
mod outcome;
mod overall;
mod sentence;
pub mod summary;
pub mod view;

pub use judge::judge;
pub use outcome::{Bound, ClaimVerdict, Judgement, Outcome, ProofBasis, RunVerdict};
pub use overall::Overall;
pub use sentence::{Phrase, Stress};
