//! The entry line: what the meters say, typed as the eye reads them.
//!
//! ```text
//! line    = { figure | gap } [ "#" note ]
//! gap     = white space, "*", "/" or ";"      (a ten-key pad has no space bar)
//! figure  = part { "+" part }                  several parts: one an output
//! part    = number [ unit ]
//! unit    = w | v | a | vr | vp | vpp | % | c  (watts, supply volts, amps, output volts rms, peak, peak to peak,
//!                                               distortion, heatsink temperature)
//! ```
//!
//! Figures without a letter are taken in the order watts, volts, amps, as far as those are not lettered elsewhere in the
//! line. A comma or point before exactly three digits (`1,068`) is two readings in one: unless one of the two cannot be,
//! it asks which. What was understood comes back piece by piece, so that the line can be marked as it is typed.

mod assign;
mod number;
mod print;

pub use print::print;

use serde::{Deserialize, Serialize};

use crate::session::{Mode, OutputReading};
use crate::units::{Amps, Celsius, Ratio, Volts};

/// What a piece of the line is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum SegmentKind {
    /// Between figures.
    Gap,
    /// A reading that was understood.
    Reading,
    /// A figure that is still being typed.
    Pending,
    /// Two readings in one: it asks which.
    Unclear,
    /// Not a reading, and why.
    Wrong,
    /// A note, kept as it stands.
    Note,
}

/// One way to read an unclear figure.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Choice {
    /// The reading it would be.
    pub label: String,
    /// The whole line with the figure put so.
    pub line: String,
}

/// A piece of the line; all pieces together are the line.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Segment {
    /// As typed.
    pub text: String,
    /// What it is.
    pub kind: SegmentKind,
    /// How it was read, or why it was not.
    pub says: String,
    /// For an unclear one: the ways to read it.
    pub choices: Vec<Choice>,
}

/// What a line comes to.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Readings {
    /// Outputs, in the order typed.
    pub outputs: Vec<OutputReading>,
    /// Supply volts under load.
    pub end_v: Option<Volts>,
    /// Supply amps.
    pub current_a: Option<Amps>,
    /// Distortion, as a fraction.
    pub thd_ratio: Option<Ratio>,
    /// Heatsink.
    pub temperature_c: Option<Celsius>,
    /// A note.
    pub note: Option<String>,
}

/// A line, understood as far as it can be.
#[derive(Debug, Clone, PartialEq)]
pub struct Entry {
    /// Piece by piece.
    pub segments: Vec<Segment>,
    /// What it comes to so far.
    pub readings: Readings,
    /// Why it cannot be logged yet; `None` when it can.
    pub not_yet: Option<String>,
}

/// What the line is typed for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Asked {
    /// Outputs of the wiring.
    pub outputs: u8,
    /// Mode of the run.
    pub mode: Mode,
}

/// The longest line that is read.
pub const MOST_CHARS: usize = 500;

/// Reads a line.
#[must_use]
pub fn read(line: &str, asked: Asked) -> Entry {
    let length = line.chars().count();
    if length > MOST_CHARS {
        let says = format!("{length} characters are too many for one line: {MOST_CHARS} at most.");
        let segment = Segment { text: line.into(), kind: SegmentKind::Wrong, says: says.clone(), choices: Vec::new() };
        return Entry { segments: vec![segment], readings: Readings::default(), not_yet: Some(says) };
    }
    let (figures, note) = line.find('#').map_or((line, None), |at| (&line[..at], Some(&line[at..])));
    let pieces = number::pieces(figures);
    let (mut segments, mut readings) = assign::assign(line, &pieces, note.is_none(), asked);
    if let Some(note) = note {
        let text = note[1..].trim();
        let kept = (!text.is_empty()).then(|| text.to_owned());
        let says = kept.clone().map_or_else(|| "a note".to_owned(), |text| format!("note: {text}"));
        readings.note = kept;
        segments.push(Segment { text: note.into(), kind: SegmentKind::Note, says, choices: Vec::new() });
    }
    let not_yet = why_not_yet(&segments, &readings);
    Entry { segments, readings, not_yet }
}

fn why_not_yet(segments: &[Segment], readings: &Readings) -> Option<String> {
    let blocking = segments
        .iter()
        .find(|s| matches!(s.kind, SegmentKind::Wrong | SegmentKind::Unclear | SegmentKind::Pending))
        .map(|s| s.says.clone());
    blocking.or_else(|| {
        readings.outputs.is_empty().then(|| "Type what was read at the output first: watts, or volts with vr, vp or vpp.".into())
    })
}

#[cfg(test)]
mod tests;
