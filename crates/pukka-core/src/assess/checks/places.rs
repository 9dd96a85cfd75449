//! Places that were run, and which of the repeats at one speaks for it.

use crate::evidence::choose::{Usable, pick};
use crate::evidence::rungs::same_tone;
use crate::evidence::standing::RunEvidence;
use crate::kernel::units::{Hertz, Ohms};
use crate::kernel::wiring::{Wiring, same_load};
use crate::record::session::{Burst, Mode, Run, Session};

/// Figures of the run that the policy uses at a place.
pub struct PlaceResult<'a> {
    pub runs: Vec<&'a Run>,
    pub wiring: Wiring,
    pub setting: Option<&'a str>,
    pub mode: Mode,
    pub burst: Option<Burst>,
    pub tone_hz: Hertz,
    pub nominal_ohm: Ohms,
    /// Measured when known.
    pub load_ohm: f64,
    pub power_w: f64,
    /// k = 2, watts.
    pub expanded_w: f64,
    pub end_v: Option<f64>,
    pub efficiency: Option<f64>,
}

impl PlaceResult<'_> {
    /// Wiring, setting, mode, tone and kind of burst are the same: only the load may differ.
    pub fn is_beside(&self, other: &Self) -> bool {
        self.wiring == other.wiring && self.is_like(other) && self.is_at_tone_of(other)
    }

    /// Mode and kind of burst are the same.
    pub fn is_like(&self, other: &Self) -> bool {
        self.mode == other.mode && self.burst == other.burst
    }

    /// Setting and tone are the same.
    pub fn is_at_tone_of(&self, other: &Self) -> bool {
        self.setting == other.setting && same_tone(self.tone_hz, other.tone_hz)
    }
}

/// The policy run of every place that was run.
pub fn results<'a>(session: &'a Session, runs: &[RunEvidence<'a>]) -> Vec<PlaceResult<'a>> {
    let mut places: Vec<Vec<Usable<'a>>> = Vec::new();
    for one in runs {
        // What a run that was cut short might have given says nothing of its neighbours.
        let whole = !one.run.cut_short() && one.run.mode_stated;
        let Some(usable) = one.usable.clone().filter(|_| whole) else { continue };
        match places.iter_mut().find(|place| place.first().is_some_and(|first| same_place(first.run, one.run))) {
            Some(place) => place.push(usable),
            None => places.push(vec![usable]),
        }
    }
    places.iter().filter_map(|place| speak(session, runs, place)).collect()
}

fn same_place(a: &Run, b: &Run) -> bool {
    a.wiring == b.wiring
        && a.setting == b.setting
        && a.mode == b.mode
        && a.burst() == b.burst()
        && same_tone(a.tone_hz, b.tone_hz)
        && same_load(a.load_nominal_ohm.get(), b.load_nominal_ohm.get())
}

fn speak<'a>(session: &'a Session, runs: &[RunEvidence<'a>], place: &[Usable<'a>]) -> Option<PlaceResult<'a>> {
    let chosen = pick(session, place.iter().collect(), false)?;
    let first = *chosen.runs.first()?;
    let numbers = |run: &Run| runs.iter().find(|one| one.run.id == run.id).map(|one| &one.numbers);
    let efficiencies: Vec<f64> = chosen.runs.iter().filter_map(|run| numbers(run)?.efficiency).collect();
    Some(PlaceResult {
        wiring: first.wiring,
        setting: first.setting.as_deref(),
        mode: first.mode,
        burst: first.burst(),
        tone_hz: first.tone_hz,
        nominal_ohm: first.load_nominal_ohm,
        load_ohm: first.load().get(),
        power_w: chosen.sample.power_w,
        expanded_w: 2.0 * chosen.sample.relative_u * chosen.sample.power_w,
        end_v: chosen.sample.end_v(),
        efficiency: (!efficiencies.is_empty()).then(|| efficiencies.iter().sum::<f64>() / efficiencies.len() as f64),
        runs: chosen.runs,
    })
}
