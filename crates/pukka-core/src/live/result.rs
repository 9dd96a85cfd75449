//! From the best round to readings, as the entry line would have given them.

use crate::evidence::entry::Readings;
use crate::kernel::units::{Amps, Ratio, Volts, Watts};
use crate::live::Round;
use crate::record::session::OutputReading;

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
