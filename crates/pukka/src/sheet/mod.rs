//! The result sheet as files: one HTML page that needs nothing else, and CSV. What is on it is the core's.

mod csv;
mod html;
mod photos;
mod traces;

pub use csv::{COLUMNS as RUN_COLUMNS, inert, round9, runs_as_formula, write as csv};
pub use html::{Heading, page};
pub use photos::{SheetPhoto, chosen};
pub use traces::{SheetTrace, captured};
