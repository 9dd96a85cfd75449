//! What the shelf taught, over all amplifiers: what died and at which load, how each maker's claims came out, what is the same under
//! another name, what the bench itself did over the months. All of it from the shelf; nothing from outside.
//!
//! Ref: docs/method.md, "What the bench taught".

mod due;
mod fates;
mod groups;
mod instruments;
mod lesson;
mod makers;
mod share;

use serde::{Deserialize, Serialize};

pub use due::{DueRow, due};
pub use fates::{FateRow, FateTable};
pub use groups::{Kin, Member};
pub use instruments::{LoadDrift, MeterRow, SourceRow};
pub use lesson::{Fate, Lesson, ToFloor, summary_and_lesson};
pub use makers::{MakerRow, ModelRow, YearRow};
pub use share::{CaseShare, ENOUGH, share};

/// An amplifier that taught something.
#[derive(Debug, Clone)]
pub struct Entry {
    /// Id on the shelf.
    pub id: String,
    /// The bench profile it was tested on.
    pub bench: Option<String>,
    /// What its session adds.
    pub lesson: Lesson,
}

impl Entry {
    fn name(&self) -> String {
        format!("{} {}", self.lesson.make, self.lesson.model)
    }
}

/// What the shelf taught.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Taught {
    /// Amplifiers that were run.
    pub amplifiers: usize,
    /// What died or protected itself: by the floor, by load, by supply, by class.
    pub fates: Vec<FateTable>,
    /// How the claims of each maker came out.
    pub makers: Vec<MakerRow>,
    /// The same under another name, and several specimens of one model.
    pub kin: Vec<Kin>,
    /// Second meters against the first.
    pub meters: Vec<MeterRow>,
    /// Source resistance of each bench over the months.
    pub sources: Vec<SourceRow>,
    /// Loads of each bench over the months.
    pub loads: Vec<LoadDrift>,
}

/// Learns from every amplifier on the shelf.
#[must_use]
pub fn learn(entries: &[Entry]) -> Taught {
    let run: Vec<&Entry> = entries.iter().filter(|entry| !entry.lesson.tries.is_empty()).collect();
    Taught {
        amplifiers: run.len(),
        fates: fates::tables(&run),
        makers: makers::rows(&run),
        kin: groups::kin(entries),
        meters: instruments::meters(&run),
        sources: instruments::sources(&run),
        loads: instruments::loads(&run),
    }
}

#[cfg(test)]
mod tests;
