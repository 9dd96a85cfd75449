//! Cards for video and pages: drawn once as SVG, and made PNG with the shipped faces. The same verdict gives the same bytes.

mod canvas;
mod compare;
mod efficiency;
mod face;
mod look;
mod png;
mod record;
mod run;
mod table;
mod trace;
mod verdict;

use pukka_core::record::session::Session;
use pukka_core::report::publish::standing;
use pukka_core::report::sheet::Sheet;
use serde::{Deserialize, Serialize};

pub use compare::compare_card;
pub use look::{Shape, Theme};
pub use png::{outlined, png};
pub use trace::{Pictured, trace_card};

use canvas::Canvas;

/// How cards are made.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Style {
    /// Shape.
    pub shape: Shape,
    /// Theme.
    pub theme: Theme,
    /// Length of the shorter side, pixels.
    pub lines: u32,
}

/// What a card shows, beside its looks.
#[derive(Debug, Clone, Copy)]
pub struct Subject<'a> {
    /// The session.
    pub session: &'a Session,
    /// Its sheet.
    pub sheet: &'a Sheet,
    /// The verdict was locked, and stands.
    pub is_locked: bool,
    /// The reviewer.
    pub by: &'a Signature,
}

/// The reviewer's name and mark: at the foot of every card.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Signature {
    /// Name, nothing where there is none.
    pub name: String,
    /// Mark, as PNG.
    pub mark: Option<Vec<u8>>,
}

impl Subject<'_> {
    /// What has to be said on every card while the verdict is not the last word.
    fn standing(&self) -> Option<String> {
        standing(&self.sheet.view, self.is_locked)
    }
}

/// A card.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Card {
    /// Name of its file, without an ending.
    pub name: String,
    /// Title in a list.
    pub title: String,
    /// Words for who cannot see it.
    pub alt: String,
    /// The drawing.
    pub svg: String,
}

/// Every card of a session.
#[must_use]
pub fn cards(subject: Subject, style: Style) -> Vec<Card> {
    let mut all = verdict::cards(subject, style);
    all.extend(table::cards(subject, style));
    all.extend(efficiency::card(subject, style));
    all.extend(record::inside(subject, style));
    all.extend(record::guesses(subject, style));
    all.extend(run::cards(subject, style));
    all
}

/// A finished drawing as a card.
fn card(name: String, title: String, alt: String, canvas: Canvas) -> Card {
    Card { svg: canvas.svg(&alt), name, title, alt }
}

#[cfg(test)]
mod tests;
