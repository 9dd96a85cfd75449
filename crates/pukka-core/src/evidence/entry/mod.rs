//! The entry line: what the meters say, typed as the eye reads them. `docs/entry-line.md` has it in full.
//!
//! ```text
//! line    = [ "idle" | "rest" ] stretch [ ">>" stretch ] [ "#" note ]
//! stretch = { figure | gap }
//! gap     = white space, "*", "/" or ";"        (a ten-key pad has no space bar)
//! figure  = part { "+" part }                    several parts: one an output
//! part    = [ name ":" ] read { "=" read } [ ">" read ]   "=": another meter on the same, or its volts; ">": last of counted cycles,
//!                                                         or from rest to under load
//! read    = [ "~" ] [ number ".." ] number [ unit ] [ "x" count ] [ "@" meter ]
//! unit    = w | v | a | r | vr | vp | vpp | % | %e | c | db | cy | s | t
//! word    = "chg"                                          a charger was on
//! ```
//!
//! Watts, supply volts, amps, volts at rest, output volts rms, peak and peak to peak, distortion, efficiency as read,
//! heatsink, level of the generator (the line is a row of level steps then), counted cycles, seconds held (behind ">>").
//! Figures without a letter are read in the order watts, volts, amps, as far as those are not lettered elsewhere in the
//! stretch. A comma or point before exactly three digits (`1,068`) is two readings in one: unless one of the two cannot be,
//! it asks which. What was understood comes back piece by piece, so that the line can be marked as it is typed.

mod assign;
mod number;
mod print;

pub use print::print;

use serde::{Deserialize, Serialize};

use crate::kernel::units::{Amps, Celsius, Level, Ratio, Volts, Watts};
use crate::kernel::wiring::Wiring;
use crate::record::bench::Meter;
use crate::record::session::grouped;
use crate::record::session::{Cycles, Hold, LevelStep, Mode, OutputReading, ReadingName, SupplyReading};
use assign::Stretch;
use number::Unit;

/// Kind of a piece of the line.
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

/// A way to read an unclear figure.
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
    /// Format.
    pub kind: SegmentKind,
    /// Meaning that was read, or the reason why none was.
    pub says: String,
    /// For an unclear one: the ways to read it.
    pub choices: Vec<Choice>,
}

/// Result of a line.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Readings {
    /// Outputs, in the order typed.
    pub outputs: Vec<OutputReading>,
    /// Watts of all outputs, where only a total was read.
    pub total_power_w: Option<Watts>,
    /// Readings off a moving display.
    pub approximate: Vec<ReadingName>,
    /// Watts that a climbing reading started from.
    pub climbed_from_w: Option<Watts>,
    /// A charger was on.
    pub charger_on: Option<bool>,
    /// Supply volts under load.
    pub end_v: Option<Volts>,
    /// Supply amps.
    pub current_a: Option<Amps>,
    /// Distortion, as a fraction.
    pub thd_ratio: Option<Ratio>,
    /// Heatsink.
    pub temperature_c: Option<Celsius>,
    /// Supply volts before the run.
    pub rest_v: Option<Volts>,
    /// Efficiency as read off a meter.
    pub efficiency_ratio: Option<Ratio>,
    /// Level of the generator: the line is one row of level steps.
    pub level_db: Option<Level>,
    /// First and last of counted cycles.
    pub cycles: Option<Cycles>,
    /// Number of cycles counted.
    pub cycle_count: Option<u32>,
    /// Seconds held, of the stretch behind ">>".
    pub seconds: Option<f64>,
    /// Readings after a hold.
    pub hold: Option<Hold>,
    /// Readings of other meters on the supply.
    pub supply_also: Vec<SupplyReading>,
    /// A note.
    pub note: Option<String>,
}

impl Readings {
    /// Whether the supply at rest is all that was read: the line is about the supply between runs.
    fn is_rest_alone(&self) -> bool {
        let rest_v = self.rest_v;
        let note = self.note.clone();
        rest_v.is_some() && *self == Self { rest_v, note, ..Self::default() }
    }

    /// Whether an efficiency is all that was read: it belongs to the run just logged.
    fn is_efficiency_alone(&self) -> bool {
        let efficiency_ratio = self.efficiency_ratio;
        efficiency_ratio.is_some() && *self == Self { efficiency_ratio, ..Self::default() }
    }

    /// The row of level steps that the line is; nothing when it has no level.
    #[must_use]
    pub fn step(&self) -> Option<LevelStep> {
        Some(LevelStep {
            level_db: self.level_db?,
            outputs: self.outputs.clone(),
            thd_ratio: self.thd_ratio,
            end_v: self.end_v,
            current_a: self.current_a,
        })
    }
}

/// Subject of a line.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum About {
    /// A run.
    Run,
    /// A row of a run by level steps.
    Step,
    /// The idle draw.
    Idle,
    /// The supply between runs.
    Rest,
    /// An efficiency that the meter showed after the run just logged.
    Efficiency,
}

/// A line, understood as far as it can be.
#[derive(Debug, Clone, PartialEq)]
pub struct Entry {
    /// Piece by piece.
    pub segments: Vec<Segment>,
    /// Subject.
    pub about: About,
    /// Result so far.
    pub readings: Readings,
    /// Reason why it cannot be logged yet; `None` when it can.
    pub not_yet: Option<String>,
}

/// Context that the line is typed in.
#[derive(Debug, Clone, Copy)]
pub struct EntryContext<'a> {
    /// The wiring: how many outputs, and in which groups.
    pub wiring: Wiring,
    /// Mode of the run.
    pub mode: Mode,
    /// Meters of the bench, for those that are named.
    pub meters: &'a [Meter],
}

/// The longest line that is read.
pub const MOST_CHARS: usize = 500;

/// Cycles of a burst when none are counted: the longest of the three that are usual.
const USUAL_CYCLES: u32 = 20;
const RUN: [Unit; 3] = [Unit::Watts, Unit::SupplyVolts, Unit::Amps];
const SUPPLY: [Unit; 2] = [Unit::SupplyVolts, Unit::Amps];

/// Reads a line.
#[must_use]
pub fn read(line: &str, asked: EntryContext) -> Entry {
    let length = line.chars().count();
    if length > MOST_CHARS {
        let says = format!("{length} characters are too many for one line: {MOST_CHARS} at most.");
        let segment = Segment { text: line.into(), kind: SegmentKind::Wrong, says: says.clone(), choices: Vec::new() };
        return Entry { segments: vec![segment], about: About::Run, readings: Readings::default(), not_yet: Some(says) };
    }
    let (figures, note) = line.find('#').map_or((line, None), |at| (&line[..at], Some(&line[at..])));
    let (aside, start) = aside(figures);
    let (main, held) = figures[start..].find(">>").map_or((&figures[start..], None), |at| (&figures[start..start + at], Some(start + at)));
    let mut segments = Vec::new();
    if start > 0 {
        segments.push(Segment {
            text: figures[..start].into(),
            kind: SegmentKind::Note,
            says: aside_words(aside).into(),
            choices: Vec::new(),
        });
    }
    let order: &[Unit] = if aside == About::Run { &RUN } else { &SUPPLY };
    let pieces = number::pieces(main);
    let stretch = Stretch { line, start, pieces: &pieces, open_end: note.is_none() && held.is_none(), order };
    let (found, mut readings) = assign::assign(&stretch, asked);
    segments.extend(found);
    let mut hold_trouble = None;
    if let Some(at) = held {
        segments.push(Segment { text: figures[at..at + 2].into(), kind: SegmentKind::Gap, says: String::new(), choices: Vec::new() });
        let pieces = number::pieces(&figures[at + 2..]);
        let stretch = Stretch { line, start: at + 2, pieces: &pieces, open_end: note.is_none(), order: &RUN };
        let (found, after) = assign::assign(&stretch, asked);
        segments.extend(found);
        match hold(after, asked.wiring) {
            Ok(hold) => readings.hold = Some(hold),
            Err(why) => hold_trouble = Some(why),
        }
    }
    if let Some(note) = note {
        let text = note[1..].trim();
        let kept = (!text.is_empty()).then(|| text.to_owned());
        let says = kept.clone().map_or_else(|| "a note".to_owned(), |text| format!("note: {text}"));
        readings.note = kept;
        segments.push(Segment { text: note.into(), kind: SegmentKind::Note, says, choices: Vec::new() });
    }
    // A single cycle is one reading: it has no last.
    if readings.cycle_count == Some(1) && readings.cycles.is_none() && readings.outputs.len() == 1 && asked.mode == Mode::Dynamic {
        let first = readings.outputs.pop().map(|output| OutputReading { name: None, ..output }).unwrap_or_default();
        readings.cycles = Some(Cycles { count: 1, first, last: None });
    }
    if let Some(cycles) = &mut readings.cycles {
        cycles.count = readings.cycle_count.unwrap_or(USUAL_CYCLES);
    }
    let about = match aside {
        About::Run if readings.level_db.is_some() => About::Step,
        About::Run if readings.is_rest_alone() => {
            readings.end_v = readings.rest_v.take();
            About::Rest
        }
        About::Run if readings.is_efficiency_alone() => About::Efficiency,
        other => other,
    };
    let groups = grouped::assign(asked.wiring, &mut readings.outputs).err();
    // What is logged is shown as a line again, with every letter: that has to be one that can be corrected.
    let crowded =
        || (print(&readings).chars().count() > MOST_CHARS).then(|| "More readings than one line holds: enter fewer at once.".to_owned());
    let not_yet = blocking(&segments).or_else(|| missing(about, &readings)).or(groups).or(hold_trouble).or_else(crowded);
    Entry { segments, about, readings, not_yet }
}

/// Subject of the line by its first word, and where its figures start.
fn aside(figures: &str) -> (About, usize) {
    let indent = figures.len() - figures.trim_start().len();
    let word = figures[indent..].split_whitespace().next().unwrap_or_default();
    match word.to_lowercase().as_str() {
        "idle" => (About::Idle, indent + word.len()),
        "rest" => (About::Rest, indent + word.len()),
        _ => (About::Run, 0),
    }
}

const fn aside_words(about: About) -> &'static str {
    match about {
        About::Idle => "idle draw",
        _ => "supply between runs",
    }
}

/// Readings after the hold, of the stretch behind ">>".
fn hold(mut after: Readings, wiring: Wiring) -> Result<Hold, String> {
    let Some(seconds) = after.seconds else {
        return Err("For how long was it held? Give seconds after the >>: 30s.".into());
    };
    if after.outputs.is_empty() {
        return Err("What did the output read after the hold?".into());
    }
    grouped::assign(wiring, &mut after.outputs)?;
    Ok(Hold { seconds, outputs: after.outputs, end_v: after.end_v, current_a: after.current_a })
}

fn blocking(segments: &[Segment]) -> Option<String> {
    let unread = |s: &&Segment| matches!(s.kind, SegmentKind::Wrong | SegmentKind::Unclear | SegmentKind::Pending);
    segments.iter().find(unread).map(|s| s.says.clone())
}

fn missing(about: About, readings: &Readings) -> Option<String> {
    let no_output = readings.outputs.is_empty() && readings.cycles.is_none() && readings.total_power_w.is_none();
    let says = match about {
        About::Idle if readings.current_a.is_none() => "How many amps does it draw at idle? idle 14.6 1.4",
        About::Rest if readings.end_v.is_none() => "How many volts does the supply rest at? 14.55r",
        About::Idle | About::Rest if !no_output || readings.hold.is_some() => "There is no tone: only volts and amps of the supply.",
        About::Idle | About::Rest | About::Efficiency => return None,
        _ if readings.seconds.is_some() => "Seconds belong after a >>: readings after the hold.",
        About::Step if readings.cycles.is_some() || readings.hold.is_some() => "A row of level steps has no cycles and no hold.",
        _ if readings.cycle_count.is_some() && readings.cycles.is_none() => "For counted cycles, read the first and the last: 42.0>41.2vp.",
        _ if no_output => "Type the output reading first: watts, or volts with vr, vp or vpp.",
        _ => return None,
    };
    Some(says.into())
}

#[cfg(test)]
mod tests;
