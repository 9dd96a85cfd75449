//! How far a session is: places logged, places planned, and about how long the runs take.

use crate::evidence::rungs::{Rung, is_done, rungs, steps};
use crate::kernel::format;
use crate::plan::gates::Look;
use crate::plan::view::minutes;
use crate::predict::known::Prior;
use crate::record::session::Session;

/// How far a session is.
pub struct Progress {
    /// Places logged.
    pub logged: usize,
    /// Places planned.
    pub planned: usize,
    /// Minutes that all of them take, as shown: "21".
    pub minutes: String,
}

impl Progress {
    /// From what is known of a session.
    #[must_use]
    pub fn of(known: &Prior) -> Self {
        let all = rungs(known.session());
        let looks: Vec<Look> = all.iter().map(|rung| Look::at(known, rung)).collect();
        Self::along(known.session(), &all, &looks)
    }

    /// Likewise, where its rungs were looked at already.
    #[must_use]
    pub fn along(session: &Session, all: &[Rung], looks: &[Look]) -> Self {
        Self {
            logged: all.iter().map(|rung| rung.set.modes.iter().filter(|mode| is_done(session, rung, **mode)).count()).sum(),
            planned: steps(session, all).len(),
            minutes: format::fixed(minutes(session, all, looks), 0),
        }
    }
}
