//! What was found after a death on the bench.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::absent::or_default;
use crate::kernel::problem::{Problem, check_text};

/// A part that had failed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct FailedPart {
    /// Marking on it, or its kind.
    pub part: String,
    /// Number of them.
    pub count: u32,
    /// Place.
    #[serde(default)]
    pub place: Option<String>,
    /// Fault: "shorted", "open", "burnt".
    #[serde(default)]
    pub fault: Option<String>,
}

/// Findings after a death.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PostMortem {
    /// The day it was opened.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = Date)]
    pub on: Option<Date>,
    /// Parts that had failed.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub failed: Vec<FailedPart>,
    /// Cause, as far as it is known.
    #[serde(default)]
    pub cause: Option<String>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

const MOST_PARTS: usize = 100;

impl FailedPart {
    /// "4 × FL-60, shorted, outputs".
    #[must_use]
    pub fn words(&self) -> String {
        let part = format!("{} × {}", self.count, self.part);
        [Some(part), self.fault.clone(), self.place.clone()].into_iter().flatten().collect::<Vec<_>>().join(", ")
    }
}

impl PostMortem {
    /// Findings in a sentence; nothing where nothing was found.
    #[must_use]
    pub fn words(&self) -> String {
        let failed: Vec<String> = self.failed.iter().map(FailedPart::words).collect();
        let failed = (!failed.is_empty()).then(|| format!("failed: {}", failed.join("; ")));
        let cause = self.cause.as_ref().map(|cause| format!("cause: {cause}"));
        failed.into_iter().chain(cause).collect::<Vec<_>>().join(". ")
    }

    /// Problems with it.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        check_text(&mut problems, "cause", self.cause.as_deref().unwrap_or(""), false, 2_000);
        if self.failed.len() > MOST_PARTS {
            problems.push(Problem::new("failed", format!("More than {MOST_PARTS} rows.")));
        }
        for (i, row) in self.failed.iter().enumerate() {
            if !(1..=1_000).contains(&row.count) {
                problems.push(Problem::new(format!("failed[{i}].count"), "Between 1 and 1000."));
            }
            check_text(&mut problems, &format!("failed[{i}].part"), &row.part, true, 80);
            for (name, text) in [("place", &row.place), ("fault", &row.fault)] {
                check_text(&mut problems, &format!("failed[{i}].{name}"), text.as_deref().unwrap_or(""), false, 80);
            }
        }
        problems
    }
}
