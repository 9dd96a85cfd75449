//! Runs that stand, each with its numbers: made once for all that is computed from them.

use std::sync::Arc;

use crate::evidence::check::Check;
use crate::evidence::choose::{Usable, usable_of};
use crate::evidence::figures::{RunNumbers, numbers};
use crate::record::session::{Run, Session};

/// A run that stands, and its numbers.
pub struct RunEvidence<'a> {
    /// The run.
    pub run: &'a Run,
    /// Its numbers.
    pub numbers: RunNumbers,
    /// Likewise, as it may be used when nothing stops it; nothing where it has no total.
    pub usable: Option<Usable<'a>>,
}

/// Every run that stands, in the order logged.
#[must_use]
pub fn standing(session: &Session) -> Vec<RunEvidence<'_>> {
    let evidence = |run| {
        let numbers = numbers(session, run);
        let usable = numbers.total.as_ref().ok().map(|total| Usable::with(session, run, Arc::clone(total)));
        RunEvidence { run, numbers, usable }
    };
    session.standing_runs().map(evidence).collect()
}

/// Those that may be used, and have a total.
#[must_use]
pub fn usable_among<'a>(standing: &[RunEvidence<'a>], checks: &[Check]) -> Vec<Usable<'a>> {
    usable_of(standing.iter().filter_map(|one| one.usable.clone()), checks)
}
