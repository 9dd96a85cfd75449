//! The result sheet: what was measured and how, the verdict, and the working of every figure as numbered notes.

mod as_read;
mod facts;
mod notes;
mod record;
mod rows;

use serde::{Deserialize, Serialize};

pub use as_read::AsRead;
pub use facts::Fact;
pub use notes::{Note, NoteEntry, Notes};
pub use record::Noted;
pub use rows::SheetRow;

use crate::kernel::working::Figure;
use crate::record::session::Session;
use crate::report::view::{VerdictView, view};

/// A figure on the sheet, and the number of the note that says how it was made.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CitedFigure {
    /// The figure.
    pub figure: Figure,
    /// Note.
    pub note: usize,
}

/// Figures of one claim, in the order of the verdict's rows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ClaimFigures {
    /// Percent of the claim, as read.
    pub as_read: Option<CitedFigure>,
    /// Power at the claim's voltage: one figure, or the two ends of a band.
    pub at_reference: Vec<CitedFigure>,
}

/// A sentence of what there is to tell, with the note of its figure.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Statement {
    /// The sentence.
    pub says: String,
    /// The note.
    pub note: usize,
}

/// The result sheet of a session.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Sheet {
    /// Make and model.
    pub name: String,
    /// Maker, class, fuses.
    pub subtitle: String,
    /// Version of the rules it was judged by.
    pub rules_version: u32,
    /// The verdict.
    pub view: VerdictView,
    /// The figures of each claim.
    pub claims: Vec<ClaimFigures>,
    /// Every run that stands, along the ladder.
    pub rows: Vec<SheetRow>,
    /// Readings of runs that have more of them than the table shows.
    pub as_read: Vec<AsRead>,
    /// Statements to make.
    pub told: Vec<Statement>,
    /// Conditions of the measurement: limit, tone, method, channels, loads, voltages, meters, order, and so on.
    pub facts: Vec<Fact>,
    /// The record beside what was measured.
    pub record: Vec<Noted>,
    /// Action taken about checks, readings and runs.
    pub settled: Vec<String>,
    /// Checks that stand unsettled.
    pub open: Vec<String>,
    /// Derivation of each figure.
    pub notes: Vec<Note>,
    /// Assumptions, each with its letter.
    pub assumptions: Vec<String>,
}

/// Makes the sheet.
#[must_use]
pub fn sheet(session: &Session) -> Sheet {
    sheet_with(session, view(session))
}

/// Likewise, of a verdict that was made already.
#[must_use]
pub fn sheet_with(session: &Session, view: VerdictView) -> Sheet {
    let mut notes = Notes::default();
    let claims = view
        .rows
        .iter()
        .map(|row| ClaimFigures {
            as_read: row.as_read.as_ref().map(|figure| notes.cite(figure)),
            at_reference: row.at_reference.iter().map(|figure| notes.cite(figure)).collect(),
        })
        .collect();
    let rows = rows::rows(session, &mut notes);
    let told = view.tell.iter().map(|tell| Statement { says: tell.says.clone(), note: notes.cite(&tell.figure).note }).collect();
    let (notes, assumptions) = notes.written();
    Sheet {
        name: session.amplifier.name(),
        subtitle: session.amplifier.subtitle(),
        rules_version: crate::RULES_VERSION,
        claims,
        rows,
        as_read: as_read::as_read_runs(session),
        told,
        facts: facts::facts(session),
        record: record::record(session),
        settled: facts::settled(session, &view.checks),
        open: facts::open(&view.checks),
        notes,
        assumptions,
        view,
    }
}

#[cfg(test)]
mod tests;
