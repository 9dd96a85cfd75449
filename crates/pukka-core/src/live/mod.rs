//! A run that the program drives itself: the level goes up until the limit, the figure is read between the last level inside it and
//! the first outside, and the level goes back to nothing in all cases.
//!
//! [`Live`] is a machine without a clock and without wires: it is given rounds of readings with their times, and says what to do.
//! Whoever drives it sets the level only when told, writes down that it goes up before it does, and takes it away at once on
//! [`Action::End`], on a lost link and on a stop, whatever else is under way.
//!
//! - [`rules`]: what a run is driven by; [`round`]: what the meters show at about one moment;
//! - [`settle`]: when readings stand still, and what they come to then; [`follow`]: whether the readings can be true;
//! - [`climb`]: how far the next step goes; [`wave`]: a burst from its own wave; [`machine`]: all of it together; [`ending`]: how it can end, in sentences.
//!
//! Ref: docs/method.md, "Driving a run".

mod climb;
mod ending;
mod follow;
mod limit;
mod machine;
mod onset;
mod result;
mod round;
mod rules;
mod settle;
mod wave;

pub use ending::{Ending, Stop};
pub use machine::{Action, Live, RampResult};
pub use onset::onset_db;
pub use result::{cycles, readings};
pub use round::{Digits, Round};
pub use rules::{MOST_MS, Method, Rules, START};
pub use settle::best_settled;
pub use wave::BurstReading;

#[cfg(test)]
mod tests;
