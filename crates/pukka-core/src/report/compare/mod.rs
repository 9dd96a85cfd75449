//! Amplifiers side by side at one supply voltage: load by load, mode by mode, each with its ±, and a sentence that says whether a
//! difference is outside both.
//!
//! Two powers are joined only at the same wiring, load, mode, tone and kind of burst, with the supply volts known, made within the
//! rating. What is not joined stands beside the others as it was read, and says why.
//!
//! Ref: docs/method.md, "Compare and value".

mod apart;
mod changes;
mod facts;

use std::cmp::Ordering;

use serde::{Deserialize, Serialize};

pub use apart::{Joined, is_apart};
pub use changes::{Changes, RetestChange, changes};
pub use facts::CompareFact;

use crate::assess::Overall;
use crate::evidence::band::band;
use crate::evidence::check::Check;
use crate::evidence::choose::{Choice, Target, Tone, Usable, choose, measured, pick, usable};
use crate::evidence::floor::is_run_below;
use crate::evidence::rungs::same_tone;
use crate::evidence::total;
use crate::evidence::workings::{band_figures, total_figure, workings_of};
use crate::kernel::format;
use crate::kernel::units::{Hertz, Ohms};
use crate::kernel::wiring::{Wiring, same_load};
use crate::kernel::working::{Figure, Working, source};
use crate::record::session::{Burst, Mode, Run, Session};

/// Most that stand side by side.
pub const MOST: usize = 8;

/// Power as it is shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Per {
    /// All outputs together.
    #[default]
    Total,
    /// One output, the mean of those driven.
    Output,
}

/// An amplifier to compare.
#[derive(Debug, Clone, Copy)]
pub struct Contender<'a> {
    /// Id on the shelf.
    pub id: &'a str,
    /// Which of its sessions it is, where it stands beside another of its own: "12 October 2025".
    pub of: Option<&'a str>,
    /// Its session.
    pub session: &'a Session,
    /// Checks of the session.
    pub checks: &'a [Check],
    /// The word over all of its verdict.
    pub overall: Option<Overall>,
}

impl Contender<'_> {
    fn name(&self) -> String {
        let name = self.session.amplifier.name();
        self.of.map_or_else(|| name.clone(), |of| format!("{name} of {of}"))
    }
}

/// Name over a column.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CompareHead {
    /// Id of the amplifier.
    pub id: String,
    /// Make and model.
    pub name: String,
    /// Maker, class, fuses.
    pub subtitle: String,
    /// The word over all.
    pub overall: Option<Overall>,
    /// The same, as shown.
    pub overall_word: String,
}

/// What one amplifier made at a place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CompareCell {
    /// Power at the voltage of the comparison; the lower end where it is a band. As read where it is not joined.
    pub power: Figure,
    /// The upper end of a band.
    pub high: Option<Figure>,
    /// "at 14.4 V", "as read at 13.1 V": which of the two the figure is.
    pub basis: String,
    /// Why it is not joined with the others; nothing where it is.
    pub unjoined: Option<String>,
    /// Length of its bar, of the longest there is.
    pub fraction: f64,
    /// Setting it was run in, where there is one.
    pub setting: Option<String>,
}

/// A place of the ladder, across the amplifiers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CompareRow {
    /// "2 Ω".
    pub load: String,
    /// Wiring and tone: "mono, 40 Hz".
    pub words: String,
    /// Mode.
    pub mode: Mode,
    /// The same in words, with the kind of burst.
    pub mode_words: String,
    /// A cell an amplifier, in their order; nothing where it was not tested there.
    pub cells: Vec<Option<CompareCell>>,
    /// Whether they can be told apart, the strongest against each of the others, a sentence each.
    pub says: Vec<String>,
}

/// Amplifiers side by side.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Comparison {
    /// Voltage that powers are brought to, volts.
    pub volts: f64,
    /// The same, as shown.
    pub volts_words: String,
    /// Power as it is shown.
    pub per: Per,
    /// The amplifiers.
    pub heads: Vec<CompareHead>,
    /// Places that any of them was tested at.
    pub rows: Vec<CompareRow>,
    /// Everything else that is known of each, a line a thing.
    pub facts: Vec<CompareFact>,
}

/// A place as it is the same for several amplifiers: settings are each one's own.
#[derive(Debug, Clone, Copy)]
struct Place {
    wiring: Wiring,
    load_ohm: Ohms,
    tone_hz: Hertz,
    mode: Mode,
    burst: Option<Burst>,
}

impl Place {
    fn of(run: &Run) -> Self {
        Self { wiring: run.wiring, load_ohm: run.load_nominal_ohm, tone_hz: run.tone_hz, mode: run.mode, burst: run.burst() }
    }

    fn is(&self, other: &Self) -> bool {
        self.wiring == other.wiring
            && same_load(self.load_ohm.get(), other.load_ohm.get())
            && same_tone(self.tone_hz, other.tone_hz)
            && self.mode == other.mode
            && self.burst == other.burst
    }

    /// Along a ladder: wirings with fewer outputs first, then high loads, then modes, then tones.
    fn order(&self, other: &Self) -> Ordering {
        let mode = |place: &Self| Mode::ALL.iter().position(|mode| *mode == place.mode);
        (self.wiring.outputs().cmp(&other.wiring.outputs()))
            .then_with(|| self.wiring.words().cmp(&other.wiring.words()))
            .then_with(|| other.load_ohm.get().total_cmp(&self.load_ohm.get()))
            .then_with(|| mode(self).cmp(&mode(other)))
            .then_with(|| self.tone_hz.get().total_cmp(&other.tone_hz.get()))
            .then_with(|| self.burst.cmp(&other.burst))
    }
}

/// A cell under way: what is shown, and what it is joined by.
struct Found {
    cell: CompareCell,
    joined: Option<Joined>,
}

/// Puts amplifiers side by side at a voltage; no more than [`MOST`] of them.
#[must_use]
pub fn compare(contenders: &[Contender], volts: f64, per: Per) -> Comparison {
    with_joined(contenders, volts, per).0
}

/// What each row's cells are joined by, in the order of the contenders.
type JoinedCells = Vec<Option<Joined>>;

/// The comparison, and what each row of it is joined by.
fn with_joined(contenders: &[Contender], volts: f64, per: Per) -> (Comparison, Vec<JoinedCells>) {
    let contenders = &contenders[..contenders.len().min(MOST)];
    let usable: Vec<Vec<Usable>> = contenders.iter().map(|one| usable(one.session, one.checks)).collect();
    let made = places(&usable).iter().map(|place| row(contenders, &usable, place, volts, per)).collect::<Vec<_>>();
    let (mut rows, joined): (Vec<CompareRow>, Vec<JoinedCells>) = made.into_iter().unzip();
    let cells = || rows.iter().flat_map(|row| row.cells.iter().flatten());
    let most = cells().map(|cell| cell.high.as_ref().unwrap_or(&cell.power).value).fold(0.0, f64::max);
    for cell in rows.iter_mut().flat_map(|row| row.cells.iter_mut().flatten()) {
        cell.fraction = if most > 0.0 { cell.high.as_ref().unwrap_or(&cell.power).value / most } else { 0.0 };
    }
    let head = |one: &Contender| CompareHead {
        id: one.id.to_owned(),
        name: one.name(),
        subtitle: one.session.amplifier.subtitle(),
        overall: one.overall,
        overall_word: Overall::word_of(one.overall).to_owned(),
    };
    let comparison = Comparison {
        volts,
        volts_words: format::with_unit(&format::as_read(volts), "V"),
        per,
        heads: contenders.iter().map(head).collect(),
        rows,
        facts: facts::facts(contenders, &usable),
    };
    (comparison, joined)
}

/// Every place that any of them was tested at: those of most of them first, in the order of a ladder.
fn places(usable: &[Vec<Usable>]) -> Vec<Place> {
    let mut places: Vec<Place> = Vec::new();
    for place in usable.iter().flatten().filter(|u| u.run.mode_stated).map(|u| Place::of(u.run)) {
        if !places.iter().any(|known| known.is(&place)) {
            places.push(place);
        }
    }
    let tested = |place: &Place| usable.iter().filter(|own| own.iter().any(|u| Place::of(u.run).is(place))).count();
    // What most of them have in common comes first.
    places.sort_by(|a, b| tested(b).cmp(&tested(a)).then_with(|| a.order(b)));
    places
}

fn row(contenders: &[Contender], usable: &[Vec<Usable>], place: &Place, volts: f64, per: Per) -> (CompareRow, JoinedCells) {
    let found: Vec<Option<Found>> =
        contenders.iter().zip(usable).map(|(one, usable)| cell(one.session, usable, place, volts, per)).collect();
    let mode_words = place.mode.words(place.burst);
    let load = place.wiring.load_words(place.load_ohm);
    let joined: Vec<(String, &Joined)> =
        contenders.iter().zip(&found).filter_map(|(one, found)| Some((one.name(), found.as_ref()?.joined.as_ref()?))).collect();
    let says = apart::sentences(&format!("{load}, {mode_words}"), &joined);
    let (cells, joined) = found.into_iter().map(|found| found.map_or((None, None), |found| (Some(found.cell), found.joined))).unzip();
    let words = format!("{}, {}", place.wiring.words(), format::tone(place.tone_hz.get()));
    (CompareRow { load, words, mode: place.mode, mode_words, cells, says }, joined)
}

/// What an amplifier made at a place: of several settings the one with most power.
fn cell(session: &Session, usable: &[Usable], place: &Place, volts: f64, per: Per) -> Option<Found> {
    let there: Vec<&Usable> = usable.iter().filter(|u| u.run.mode_stated && Place::of(u.run).is(place)).collect();
    let mut settings: Vec<Option<&str>> = there.iter().map(|u| u.run.setting.as_deref()).collect();
    settings.sort_unstable();
    settings.dedup();
    let chosen = settings.into_iter().filter_map(|setting| {
        let own: Vec<Usable> = there.iter().filter(|u| u.run.setting.as_deref() == setting).map(|u| (*u).clone()).collect();
        chosen(session, usable, &own, place, setting)
    });
    let best = chosen.max_by(|a, b| a.sample.power_w.total_cmp(&b.sample.power_w))?;
    Some(made(session, &best, volts, per))
}

fn chosen<'a>(session: &'a Session, usable: &[Usable<'a>], own: &[Usable<'a>], place: &Place, setting: Option<&str>) -> Option<Choice<'a>> {
    let ohms = own.first()?.run.load_nominal_ohm;
    let wanted = Target { place: (place.wiring, ohms), setting, tone: Tone::Nearest(place.tone_hz.get()), reference_v: None };
    let mut choice = match place.burst {
        // One kind of burst: none of them is chosen over another.
        Some(_) => pick(session, own.iter().collect(), false),
        None => choose(session, own, &wanted, place.mode),
    }?;
    // An exponent is measured by certified runs, and holds for the other modes of the place.
    choice.sample.measured = choice.runs.first().and_then(|run| measured(usable, run));
    Some(choice)
}

fn made(session: &Session, choice: &Choice, volts: f64, per: Per) -> Found {
    let sample = choice.sample;
    let beneath = workings_of(session, &choice.runs);
    let run = choice.runs.first();
    let below = run.is_some_and(|run| is_run_below(session, run));
    let unjoined = match sample.end_v() {
        None => Some("supply volts not read".to_owned()),
        Some(_) if choice.at_least => Some("at least so much".to_owned()),
        Some(_) if below => Some("below its rated loads".to_owned()),
        Some(_) => None,
    };
    let outputs = run.map_or(1.0, |run| f64::from(run.wiring.outputs()));
    let each = if per == Per::Output { outputs } else { 1.0 };
    let setting = run.and_then(|run| run.setting.clone());
    if unjoined.is_some() {
        let at = sample.end_v().map(|volts| format!(" at {}", format::with_unit(&format::volts(volts), "V"))).unwrap_or_default();
        let power = per_output(as_read(session, choice, beneath), 2.0 * sample.relative_u * sample.power_w, each);
        let cell = CompareCell { power, high: None, basis: format!("as read{at}"), unjoined, fraction: 0.0, setting };
        return Found { cell, joined: None };
    }
    let made = band(session, sample, volts);
    let (low, high) = band_figures(sample, &made, volts, &beneath);
    let cell = CompareCell {
        power: per_output(low, made.low_expanded_w, each),
        high: high.map(|high| per_output(high, made.high_expanded_w, each)),
        basis: format!("at {}", format::with_unit(&format::as_read(volts), "V")),
        unjoined,
        fraction: 0.0,
        setting,
    };
    Found { cell, joined: Some(Joined::of(session, choice, &made)) }
}

/// Power as it was read; of repeats by the mean, their mean.
fn as_read(session: &Session, choice: &Choice, from: impl IntoIterator<Item = Working>) -> Figure {
    let only = match choice.runs.as_slice() {
        [only] => total(session, only).ok().map(|made| total_figure(session, only, &made)),
        _ => None,
    };
    let sample = choice.sample;
    let mean = || {
        let working = Working::new("Power as read", "the mean of the repeats", source::METHOD).made_from(from);
        Figure::watts(sample.power_w, working).give_or_take(Some(2.0 * sample.relative_u * sample.power_w))
    };
    only.unwrap_or_else(mean)
}

/// A power with its ± as that of one of so many outputs.
fn per_output(total: Figure, expanded_w: f64, outputs: f64) -> Figure {
    if outputs <= 1.0 {
        return total;
    }
    let working = Working::new("Power an output", "P / n", source::METHOD).with("P", "power of all outputs", total.value, "W").with(
        "n",
        "outputs driven",
        outputs,
        "",
    );
    let value = total.value / outputs;
    Figure::watts(value, working.made_from([total.working])).give_or_take(Some(expanded_w / outputs))
}

#[cfg(test)]
mod tests;
