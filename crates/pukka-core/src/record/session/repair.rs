//! Repairs and replacements: after a death the session goes on only when one is noted.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};

use crate::kernel::problem::{Problem, check_text};

/// A repair, or a replacement of the amplifier.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Repair {
    /// On which day.
    #[schema(value_type = String, format = Date)]
    pub on: Date,
    /// Action taken.
    pub what: String,
}

impl Repair {
    /// Problems with it.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        check_text(&mut problems, "what", &self.what, true, 500);
        problems
    }
}
