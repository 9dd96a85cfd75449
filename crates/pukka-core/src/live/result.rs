//! From rounds to readings, as the entry line would have given them.

use crate::evidence::entry::Readings;
use crate::kernel::format::six_digits;
use crate::kernel::units::{Amps, Level, Ratio, Volts, Watts};
use crate::live::Round;
use crate::record::session::{Cycles, LevelStep, OutputReading};

/// First and last of counted cycles, of one output; nothing where none were counted.
#[must_use]
pub fn cycles(round: &Round, count: u32) -> Option<Cycles> {
    // A file says it of one output: of several the first speaks.
    let (first, last) = round.cycles_w.first()?;
    let reading =
        |watts: f64| OutputReading { name: Some("1".into()), power_w: Watts::new(six_digits(watts)).ok(), ..OutputReading::default() };
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
                power_w: Watts::new(six_digits(*watts)).ok(),
                ..OutputReading::default()
            })
            .collect(),
        end_v: round.supply_v.and_then(|volts| Volts::new(six_digits(volts)).ok()),
        current_a: round.supply_a.and_then(|amps| Amps::new(six_digits(amps)).ok()),
        thd_ratio: round.thd_ratio.and_then(|thd| Ratio::new(six_digits(thd)).ok()),
        ..Readings::default()
    }
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
