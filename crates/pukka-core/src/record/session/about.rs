//! Facts of a session beside what was measured, all together.

use serde::{Deserialize, Serialize};

use super::{Clap, Guesses, Listening, PostMortem, Session, Trace};

/// Facts of a session beside what was measured.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct About {
    /// The day it was measured.
    pub measured_on: Option<jiff::civil::Date>,
    /// Reason of a retest.
    pub occasion: Option<String>,
    /// Findings after a death.
    pub post_mortem: Option<PostMortem>,
    /// Source of its footage.
    pub footage_from: Option<String>,
    /// Claps before the camera.
    pub claps: Vec<Clap>,
    /// Listening notes.
    pub listening: Option<Listening>,
    /// Guesses of its power.
    pub guesses: Option<Guesses>,
    /// Captured waves.
    pub traces: Vec<Trace>,
}

impl About {
    /// Facts that a session tells.
    #[must_use]
    pub fn of(session: &Session) -> Self {
        let Session { measured_on, occasion, post_mortem, footage_from, claps, listening, guesses, traces, .. } = session.clone();
        Self { measured_on, occasion, post_mortem, footage_from, claps, listening, guesses, traces }
    }

    /// Facts of a file in place of these, where it tells some. Guesses that are here stay: a file for others has no names and no salt.
    #[must_use]
    pub fn told_by(self, file: Self) -> Self {
        Self {
            measured_on: file.measured_on.or(self.measured_on),
            occasion: file.occasion.or(self.occasion),
            post_mortem: file.post_mortem.or(self.post_mortem),
            footage_from: file.footage_from.or(self.footage_from),
            claps: if file.claps.is_empty() { self.claps } else { file.claps },
            listening: file.listening.or(self.listening),
            guesses: self.guesses.or(file.guesses),
            traces: if file.traces.is_empty() { self.traces } else { file.traces },
        }
    }
}
