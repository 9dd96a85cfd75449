//! Reads a block of text from a manual, a box or a page into claim lines.
//!
//! A line gives claims when it names watts. What it leaves out is taken from the headings above it: the kind, the supply
//! voltage, the distortion limit, the wiring, the loads of a table's columns. Nothing is saved: the reviewer approves
//! each line, and sees what was not understood. English, German, Spanish and Portuguese.

mod line;
mod words;

use serde::{Deserialize, Serialize};

use crate::kernel::units::{Ohms, Ratio, Volts};
use crate::kernel::wiring::Wiring;
use crate::record::claims::{Claim, ClaimKind};

/// A claim that was read, and the piece of text it came from.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PastedClaim {
    /// The claim, without an id; its source is `pasted`.
    #[serde(flatten)]
    pub claim: Claim,
    /// The text it came from.
    pub text: String,
}

/// What a block of text comes to.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PasteResult {
    /// Claims, in the order of the text.
    pub claims: Vec<PastedClaim>,
    /// Lines that gave nothing.
    pub not_understood: Vec<String>,
}

/// What headings have said so far.
#[derive(Debug, Clone, PartialEq, Default)]
pub(crate) struct Heading {
    kind: Option<ClaimKind>,
    supply_v: Option<Volts>,
    thd: Option<Ratio>,
    wiring: Option<Wiring>,
    bridged: bool,
    loads: Vec<Ohms>,
    channels: Option<u8>,
}

/// The longest text that is read.
pub const MOST_CHARS: usize = 20_000;

/// Reads a block of text; `channels` is how many the amplifier has, when that is known.
#[must_use]
pub fn paste(text: &str, channels: Option<u8>) -> PasteResult {
    let text: String = text.chars().take(MOST_CHARS).collect();
    let mut pasted = PasteResult::default();
    let mut heading = Heading { channels, ..Heading::default() };
    for raw in text.lines() {
        let shown = raw.trim();
        if shown.is_empty() {
            // A blank line ends a table: its columns mean nothing below it.
            heading.loads.clear();
            heading.bridged = false;
            heading.wiring = None;
            continue;
        }
        match line::read(shown, &mut heading) {
            line::LineMeaning::Claims(claims) => {
                pasted.claims.extend(claims.into_iter().map(|claim| PastedClaim { claim, text: shown.to_owned() }));
            }
            line::LineMeaning::Heading => {}
            line::LineMeaning::Nothing => pasted.not_understood.push(shown.to_owned()),
        }
    }
    pasted
}

#[cfg(test)]
mod tests;
