//! From readings to figures: the entry line, the total, draw and efficiency, uncertainty, the checks.

pub mod checks;
pub mod entry;
pub mod figures;
pub mod meters;
pub mod power;
mod steps;
pub mod uncertainty;
pub(crate) mod workings;

pub use figures::{RunFigures, figures};
pub use power::{NoTotal, PowerOf, Total, total};
