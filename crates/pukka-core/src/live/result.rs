//! From rounds to readings, as the entry line would have given them.

use crate::evidence::entry::Readings;
use crate::kernel::units::{Amps, Level, Ratio, Volts, Watts};
use crate::live::Round;
use crate::record::session::{Cycles, LevelStep, OutputReading};

/// First and last of counted cycles, of one output; nothing where none were counted.
#[must_use]
pub fn cycles(round: &Round, count: u32) -> Option<Cycles> {
    // A file says it of one output: of several the first speaks.
    let (first, last) = round.cycles_w.first()?;
    let reading =
        |watts: f64| OutputReading { name: Some("1".into()), power_w: Watts::new(rounded(watts)).ok(), ..OutputReading::default() };
    Some(Cycles { count, first: reading(*first), last: (count > 1).then(|| reading(*last)) })
}

/// The readings of a round.
#[must_use]
pub fn readings(round: &Round) -> Readings {
    Readings {
        outputs: round
            .power_w
            .iter()
            .enumerate()
            .map(|(i, watts)| OutputReading {
                name: Some((i + 1).to_string()),
                power_w: Watts::new(rounded(*watts)).ok(),
                ..OutputReading::default()
            })
            .collect(),
        end_v: round.supply_v.and_then(|volts| Volts::new(rounded(volts)).ok()),
        current_a: round.supply_a.and_then(|amps| Amps::new(rounded(amps)).ok()),
        thd_ratio: round.thd_ratio.and_then(|thd| Ratio::new(rounded(thd)).ok()),
        ..Readings::default()
    }
}

/// Six digits: more than any of the meters tells.
fn rounded(value: f64) -> f64 {
    if value == 0.0 || !value.is_finite() {
        return value;
    }
    let unit = 10f64.powi(value.abs().log10().floor() as i32 - 5);
    (value / unit).round() * unit
}

/// A settled level, as a row; a figure that cannot be is left out.
pub(super) fn step_of(level_db: Level, round: &Round) -> Option<LevelStep> {
    let read = readings(round);
    (!read.outputs.is_empty()).then_some(LevelStep {
        level_db,
        outputs: read.outputs,
        thd_ratio: read.thd_ratio,
        end_v: read.end_v,
        current_a: read.current_a,
    })
}
