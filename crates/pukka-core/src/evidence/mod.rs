//! From readings to figures: the entry line, the total, draw and efficiency, uncertainty; which run speaks for a place, and what it
//! says at another voltage; the order of the runs, the rest between them, what stops a plan.

pub mod band;
pub mod check;
pub mod choose;
pub mod entry;
pub mod figures;
pub mod floor;
pub mod halt;
pub mod inside;
pub mod meters;
pub mod power;
pub mod rest;
pub mod rungs;
pub mod source_ohm;
pub mod standing;
mod steps;
pub mod supply;
mod total;
pub mod uncertainty;
pub(crate) mod workings;

pub use figures::{RunFigures, figures};
pub use power::{NoTotal, PowerOf, Total};
pub use total::total;
