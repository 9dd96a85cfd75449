//! Reads a block of text from a manual, a box or a page into claim lines.
//!
//! A sentence is cut between its figures of watts; what a piece leaves out is taken from what stands before a colon, from a
//! group at the sentence's end, or from the headings above it. Tables with bare figures are read by their columns. What the
//! text says of the amplifier itself (fuses, size, the supply it takes) is offered for its record. Nothing is saved: the
//! reviewer approves each line, is asked where the text leaves the wiring open, and sees what was not understood. English,
//! German, Spanish and Portuguese.

mod ask;
mod cut;
mod facts;
mod figures;
mod line;
mod plain;
mod said;
mod table;
mod together;
mod words;

pub use facts::{Fact, PastedFact};

use serde::{Deserialize, Serialize};

use crate::record::amplifier::Amplifier;
use crate::record::claims::Claim;

/// A claim that was read, and the piece of text it came from.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PastedClaim {
    /// The claim, without an id; its source is `pasted`.
    #[serde(flatten)]
    pub claim: Claim,
    /// The text it came from.
    pub text: String,
    /// Question that the text leaves open, to be answered before it is added.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ask: Option<String>,
    /// The amplifier has this line already, from whichever source.
    #[serde(default)]
    pub already: bool,
}

/// Result of a block of text.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PasteResult {
    /// Claims, in the order of the text.
    pub claims: Vec<PastedClaim>,
    /// Facts about the amplifier itself.
    pub facts: Vec<PastedFact>,
    /// Lines, and pieces of lines, that gave nothing.
    pub not_understood: Vec<String>,
}

impl PasteResult {
    /// Holds it against what is kept already: lines that are there are marked, facts that say nothing new are left out.
    pub fn against(&mut self, amplifier: &Amplifier, claims: &[Claim]) {
        for line in &mut self.claims {
            line.already = claims.iter().any(|claim| same_claim(claim, &line.claim));
        }
        self.facts.retain_mut(|fact| fact.against(amplifier));
    }
}

/// Whether two lines state the same, wherever each was printed.
#[must_use]
pub fn same_claim(one: &Claim, other: &Claim) -> bool {
    let stated = |claim: &Claim| {
        (
            claim.wiring,
            claim.setting.clone(),
            claim.load_ohm,
            claim.power_w,
            claim.group_power_w.clone(),
            claim.per,
            claim.kind,
            claim.supply_v,
            claim.thd_limit_ratio,
            claim.tone_hz,
        )
    };
    stated(one) == stated(other)
}

/// The longest text that is read.
pub const MOST_CHARS: usize = 20_000;

/// Reads a block of text; `channels` is how many the amplifier has, when that is known.
#[must_use]
pub fn paste(text: &str, channels: Option<u8>) -> PasteResult {
    let text: String = text.chars().take(MOST_CHARS).collect();
    let mut pasted = PasteResult::default();
    let mut heading = table::Heading { channels, ..table::Heading::default() };
    for shown in plain::lines(&text) {
        if shown.is_empty() {
            heading.end_table();
            continue;
        }
        let mut plain = plain::plain(&shown);
        let facts = facts::take(&mut plain, heading.channels);
        let any_fact = !facts.is_empty();
        pasted.facts.extend(facts.into_iter().map(|fact| PastedFact { words: fact.words(), fact, now: None, text: shown.clone() }));
        let rest = plain.trim();
        if any_fact && !rest.bytes().any(|b| b.is_ascii_digit()) {
            continue;
        }
        let meaning = line::read(rest, &mut heading);
        if meaning.claims.is_empty() && !meaning.heading {
            // A line of which only a fact was understood: what is left of it. Else the line as it stands.
            pasted.not_understood.push(if any_fact { rest.to_owned() } else { shown.clone() });
            continue;
        }
        pasted.not_understood.extend(meaning.unread);
        pasted.claims.extend(meaning.claims.into_iter().map(|claim| PastedClaim { claim, text: shown.clone(), ask: None, already: false }));
    }
    pasted.facts.dedup_by(|later, earlier| later.fact == earlier.fact);
    ask::wirings(&mut pasted.claims, heading.channels);
    pasted
}

#[cfg(test)]
mod tests;
