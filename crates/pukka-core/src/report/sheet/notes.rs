//! Numbered notes: the working of every figure that is shown, gathered by formula, down to the readings.

use std::collections::HashMap;

use serde::{Deserialize, Serialize};

use crate::kernel::working::{Figure, Input, Working};
use crate::report::sheet::CitedFigure;

/// Derivation of figures of one kind.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Note {
    /// Name of the figures.
    pub title: String,
    /// The formula.
    pub formula: String,
    /// Source.
    pub source: String,
    /// Meaning of the symbols, where it is the same in every entry.
    pub symbols: String,
    /// A line a figure.
    pub entries: Vec<NoteEntry>,
}

/// Derivation of one figure.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct NoteEntry {
    /// Number, by which the sheet cites it.
    pub number: usize,
    /// The numbers put in.
    pub inputs: String,
    /// Result of it; nothing for a step on the way.
    pub result: Option<String>,
    /// Notes of the numbers put in that are no readings themselves.
    pub from: Vec<usize>,
    /// Letters of what was assumed.
    pub assumptions: Vec<String>,
}

/// A note as it grows: its entries, and the numbers put into each.
#[derive(Debug)]
struct Growing {
    title: String,
    formula: String,
    source: String,
    entries: Vec<(NoteEntry, Vec<Input>)>,
}

impl Growing {
    /// Meaning of each symbol, where it is the same in every entry that has it.
    fn common(&self) -> HashMap<&str, Option<&str>> {
        let mut common: HashMap<&str, Option<&str>> = HashMap::new();
        for input in self.entries.iter().flat_map(|(_, inputs)| inputs) {
            let meant = common.entry(input.symbol.as_str()).or_insert(Some(input.what.as_str()));
            if *meant != Some(input.what.as_str()) {
                *meant = None;
            }
        }
        common
    }

    fn written(self) -> Note {
        let mut symbols: Vec<String> = Vec::new();
        let common = self.common();
        let entries = self
            .entries
            .iter()
            .map(|(entry, inputs)| {
                let said: Vec<String> = inputs
                    .iter()
                    .map(|input| match common.get(input.symbol.as_str()).copied().flatten() {
                        Some(what) => {
                            let says = format!("{} {what}", input.symbol);
                            if !symbols.contains(&says) {
                                symbols.push(says);
                            }
                            format!("{} {}", input.symbol, input.value)
                        }
                        None => format!("{} {} ({})", input.symbol, input.value, input.what),
                    })
                    .collect();
                NoteEntry { inputs: said.join(", "), ..entry.clone() }
            })
            .collect();
        Note { title: self.title, formula: self.formula, source: self.source, symbols: symbols.join("; "), entries }
    }
}

/// Notes as they are cited.
#[derive(Debug, Default)]
pub struct Notes {
    cited: HashMap<Working, usize>,
    /// Place of each numbered entry: which note, which of its entries.
    places: Vec<(usize, usize)>,
    notes: Vec<Growing>,
    assumptions: Vec<String>,
}

impl Notes {
    /// Cites a figure: the same working is one note, however often it is cited.
    pub fn cite(&mut self, figure: &Figure) -> CitedFigure {
        let note = self.note(&figure.working, Some(figure));
        CitedFigure { figure: figure.clone(), note }
    }

    fn note(&mut self, working: &Working, figure: Option<&Figure>) -> usize {
        if let Some(number) = self.cited.get(working).copied() {
            self.say_result(number, figure);
            return number;
        }
        // A number is taken before those of what it was made from, and its place is known after them.
        self.places.push((0, 0));
        let number = self.places.len();
        self.cited.insert(working.clone(), number);
        let from = working.from.iter().map(|made| self.note(made, None)).collect();
        let assumptions = working.assumptions.iter().map(|assumed| self.letter(assumed)).collect();
        // Its ± stands with the result, its run in the table.
        let told = |input: &&Input| !["U", "run"].contains(&input.symbol.as_str());
        let inputs = working.inputs.iter().filter(told).cloned().collect();
        let entry = (NoteEntry { number, inputs: String::new(), result: None, from, assumptions }, inputs);
        let alike = |note: &Growing| note.title == working.title && note.formula == working.formula;
        let at = self.notes.iter().position(alike).unwrap_or_else(|| {
            self.notes.push(Growing {
                title: working.title.clone(),
                formula: working.formula.clone(),
                source: working.source.clone(),
                entries: Vec::new(),
            });
            self.notes.len() - 1
        });
        if let (Some(note), Some(place)) = (self.notes.get_mut(at), self.places.get_mut(number - 1)) {
            *place = (at, note.entries.len());
            note.entries.push(entry);
        }
        self.say_result(number, figure);
        number
    }

    fn say_result(&mut self, number: usize, figure: Option<&Figure>) {
        let Some(figure) = figure else { return };
        let place = number.checked_sub(1).and_then(|i| self.places.get(i)).copied();
        let entry = place.and_then(|(note, at)| self.notes.get_mut(note)?.entries.get_mut(at));
        if let Some((entry, _)) = entry {
            entry.result = Some(figure.words_with_u());
        }
    }

    fn letter(&mut self, assumed: &str) -> String {
        let place = self.assumptions.iter().position(|known| known == assumed).unwrap_or_else(|| {
            self.assumptions.push(assumed.to_owned());
            self.assumptions.len() - 1
        });
        letter(place)
    }

    /// The notes, those of one formula together, and what was assumed.
    #[must_use]
    pub fn written(self) -> (Vec<Note>, Vec<String>) {
        let assumptions = self.assumptions.into_iter().enumerate().map(|(i, says)| format!("{} {says}", letter(i))).collect();
        (self.notes.into_iter().map(Growing::written).collect(), assumptions)
    }
}

/// a to z, then aa.
fn letter(place: usize) -> String {
    let one = |n: usize| char::from(b'a' + u8::try_from(n % 26).unwrap_or(0));
    if place < 26 { one(place).to_string() } else { format!("{}{}", one(place / 26 - 1), one(place)) }
}
