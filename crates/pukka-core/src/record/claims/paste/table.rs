//! Headings, and the rows of a table below them.

use crate::kernel::units::{Ohms, Volts};
use crate::record::claims::{Claim, ClaimKind};

use super::figures::{self, Power};
use super::line::Outputs;
use super::said::{self, Conditions, Layout};
use super::words::{self, patterns};

patterns! {
    /// A cell of a row: a figure, so many times a figure, or nothing there.
    CELL = r"(\d+(?:\.\d+)?(?:\s*x\s*\d+(?:\.\d+)?)?)(\s*(?:rms\s*)?(?:kw|w|v|ohms?|%|hz|khz|a|mm|kg|db)\b|\s*%)?|(?:^|[\s|])(-|–|—|n/?a)(?:[\s|]|$)";
}

/// Columns of a table.
#[derive(Debug, Clone, PartialEq, Default)]
pub enum Columns {
    #[default]
    None,
    Loads(Vec<Ohms>),
    Kinds(Vec<ClaimKind>),
    Volts(Vec<Volts>),
}

impl Columns {
    const fn len(&self) -> usize {
        match self {
            Self::None => 0,
            Self::Loads(loads) => loads.len(),
            Self::Kinds(kinds) => kinds.len(),
            Self::Volts(volts) => volts.len(),
        }
    }
}

/// Conditions that headings have set so far.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Heading {
    pub said: Conditions,
    pub layout: Layout,
    pub columns: Columns,
    pub channels: Option<u8>,
    /// A heading spoke of power: a figure without a unit below it can be watts.
    pub about_power: bool,
}

impl Heading {
    /// A blank line ends a table: its columns mean nothing below it.
    pub fn end_table(&mut self) {
        self.columns = Columns::None;
        self.layout = Layout::default();
        self.about_power = false;
    }

    /// The loads of its columns.
    pub fn loads(&self) -> &[Ohms] {
        match &self.columns {
            Columns::Loads(loads) => loads,
            _ => &[],
        }
    }
}

/// Conditions that a line without watts sets for the lines below it; false: none.
pub fn learn(text: &str, heading: &mut Heading) -> bool {
    let loads: Vec<Ohms> = figures::loads(text, &[]).into_iter().map(|load| load.ohms).collect();
    let kinds = said::kinds(text);
    let volts = figures::supplies(text);
    let short = text.chars().filter(|c| c.is_alphabetic()).count() < 40;
    let columns = if loads.len() > 1 || (loads.len() == 1 && short) {
        Columns::Loads(loads)
    } else if kinds.len() > 1 && !text.bytes().any(|b| b.is_ascii_digit()) {
        Columns::Kinds(kinds)
    } else if volts.len() > 1 {
        Columns::Volts(volts)
    } else {
        Columns::None
    };
    let table = columns != Columns::None && short && !words::RANGE.is_match(text);
    let understood = learn_within(text, heading) || table;
    if table {
        if matches!(columns, Columns::Kinds(_)) {
            heading.said.kind = None;
        }
        if matches!(columns, Columns::Volts(_)) {
            heading.said.supply_v = None;
        }
        heading.columns = columns;
        heading.about_power |= !matches!(heading.columns, Columns::Loads(_));
    }
    understood
}

/// Conditions that a piece without watts sets for what follows it.
pub fn learn_within(text: &str, heading: &mut Heading) -> bool {
    let (said, layout) = (Conditions::of(text), Layout::of(text));
    let wiring = layout.bridged || layout.unbridged || layout.stereo || layout.strapped || layout.mono;
    // "Output fuses 2 x 10 A" has the word, and speaks of something else.
    let other_figures = text.bytes().any(|b| b.is_ascii_digit()) && said.is_empty() && !words::OHMS.is_match(text);
    let about_power = said.kind.is_some() || (words::POWER.is_match(text) && !other_figures) || wiring;
    heading.channels = layout.channels.or(heading.channels);
    // A voltage or a limit alone, "at 12.5 V:", is a heading too.
    let few_words = text.split_whitespace().count() <= 10;
    if about_power || (few_words && !said.is_empty()) {
        heading.said = said.or(heading.said);
        heading.layout = Layout { channels: None, ..layout };
        heading.about_power |= about_power;
        return true;
    }
    layout.channels.is_some()
}

/// A row of bare figures under the columns, or of one bare figure beside its load.
pub fn row(text: &str, heading: &Heading) -> Option<Vec<Claim>> {
    let own_loads = figures::loads(text, &[]);
    let cells = cells(text, heading.columns.len());
    let figures_there = cells.iter().flatten().count();
    if figures_there == 0 {
        return None;
    }
    let layout = Layout::of(text);
    let said = Conditions::of(text).or(heading.said);
    let claim = |cell: &Option<Power>, load: Option<Ohms>, said: Conditions| {
        let power = cell.as_ref()?;
        Outputs { layout, times: power.times, heading }.claim(power.watts, load, said)
    };
    let own_load = own_loads.first().map(|load| load.ohms);
    let claims: Vec<Claim> = match &heading.columns {
        Columns::Loads(loads) if own_loads.is_empty() && cells.len() == loads.len() && (loads.len() > 1 || bare(text)) => {
            cells.iter().zip(loads).filter_map(|(cell, load)| claim(cell, Some(*load), said)).collect()
        }
        Columns::Kinds(kinds) if cells.len() == kinds.len() => {
            let kind = |kind: &ClaimKind| match kind {
                ClaimKind::Max => Conditions { kind: Some(*kind), ..Conditions::default() },
                _ => Conditions { kind: Some(*kind), ..said },
            };
            cells.iter().zip(kinds).filter_map(|(cell, column)| claim(cell, own_load, kind(column))).collect()
        }
        Columns::Volts(volts) if own_load.is_some() && cells.len() == volts.len() => {
            let at = |volts: &Volts| Conditions { supply_v: Some(*volts), ..said };
            cells.iter().zip(volts).filter_map(|(cell, column)| claim(cell, own_load, at(column))).collect()
        }
        _ if heading.about_power && own_loads.len() == 1 && cells.len() == 1 && bare(text) => {
            cells.iter().filter_map(|cell| claim(cell, own_load, said)).collect()
        }
        _ => return None,
    };
    (!claims.is_empty()).then_some(claims)
}

/// Whether no figure on the line has watts behind it.
fn bare(text: &str) -> bool {
    !words::WATTS.is_match(text)
}

/// Cells of a row that can be power; what has another unit is none of them.
fn cells(text: &str, columns: usize) -> Vec<Option<Power>> {
    let with_units = figures::powers(text, false);
    if columns > 0 && with_units.len() == columns {
        return with_units.into_iter().map(Some).collect();
    }
    let count = |text: f64| (1.0..=16.0).contains(&text).then_some(text);
    CELL.captures_iter(text)
        .filter_map(|hit| {
            if hit.get(3).is_some() {
                return Some(None);
            }
            let (figure, unit) = (hit.get(1)?, hit.get(2).map_or("", |unit| unit.as_str()).trim());
            let kilo = match unit.trim_start_matches("rms").trim() {
                "" | "w" => 1.0,
                "kw" => 1_000.0,
                _ => return None,
            };
            // Letters that touch it make it a name: "x4", "d2".
            if text[..figure.start()].ends_with(|c: char| c.is_alphanumeric() || c == '.') {
                return None;
            }
            let power = match figure.as_str().split_once('x') {
                None => Power { at: figure.range(), watts: figures::number(figure.as_str())? * kilo, times: None },
                Some((a, b)) => {
                    let (a, b) = (figures::number(a)?, figures::number(b)?);
                    let (times, watts) = if a < b { (a, b) } else { (b, a) };
                    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
                    let times = count(times)? as u8;
                    Power { at: figure.range(), watts: watts * kilo, times: Some(times) }
                }
            };
            (power.watts >= 5.0).then_some(Some(power))
        })
        .collect()
}
