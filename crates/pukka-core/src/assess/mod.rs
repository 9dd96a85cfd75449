//! What the readings say of the claims: the checks, the judgement and its sentence, which reading is wrong.
//!
//! [`judge`] follows the steps of the open session format one by one.

pub mod at_volts;
pub mod by_group;
pub mod checks;
pub mod judge;
pub mod loads;
mod outcome;
mod overall;
mod powers;
pub mod sags;
mod sentence;
pub mod tell;
pub mod would_change;
pub mod wrong;

pub use checks::prior;
pub use judge::{check_run, check_session, judge};
pub use outcome::{Assumption, Bound, ClaimVerdict, Judgement, Outcome, ProofBasis, RunVerdict};
pub use overall::Overall;
pub use sentence::{Phrase, Stress};
