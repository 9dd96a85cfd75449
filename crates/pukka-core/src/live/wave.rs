//! What a captured wave says of its last whole burst.

use crate::live::Round;
use crate::live::climb::NOISE_W;
use crate::traces::TraceReport;
use crate::traces::cut::StretchKind;
use crate::traces::report::{Cycle, Stretch};

/// Reading of one burst.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct BurstReading {
    /// Watts of each output: over the whole burst, or the lower of the first and the last cycle where they are counted.
    pub power_w: Vec<f64>,
    /// Watts of the first and of the last cycle of each, where they are counted.
    pub ends_w: Vec<(f64, f64)>,
    /// The worst distortion of any output, over its whole cycles.
    pub thd_ratio: Option<f64>,
    /// Whole bursts of one capture that differ by more than sound with a level can: the level changed within it.
    pub mixed: bool,
}

/// A burst so near to an end of the capture may be cut by it, seconds.
const MARGIN_S: f64 = 0.005;
/// Successive bursts of one level differ by less: supplies and capacitors sag, by far not so much within half a second.
const MIXED: f64 = 0.05;

impl BurstReading {
    /// Of the last burst of each output that is whole; `counted_ohm` is the load where cycles are counted. Without one there is nothing
    /// but noise, which has no distortion to speak of: all of it.
    #[must_use]
    pub fn of(report: &TraceReport, outputs: usize, counted_ohm: Option<f64>) -> Self {
        let silent = || Self { power_w: vec![0.0; outputs], thd_ratio: Some(1.0), ..Self::default() };
        Self::found(report, outputs, counted_ohm).unwrap_or_else(silent)
    }

    fn found(report: &TraceReport, outputs: usize, counted_ohm: Option<f64>) -> Option<Self> {
        let mut reading = Self::default();
        for channel in report.channels.iter().take(outputs) {
            let whole = |stretch: &&Stretch| {
                let inside = stretch.from_s > MARGIN_S && stretch.to_s < report.seconds - MARGIN_S;
                stretch.kind == StretchKind::Burst && inside
            };
            let burst = channel.stretches.iter().rev().find(whole)?;
            reading.mixed |= differ(channel.stretches.iter().filter(whole).filter_map(|stretch| stretch.power_w));
            match counted_ohm {
                Some(ohm) => {
                    let watts = |cycle: &Option<Cycle>| cycle.as_ref().map(|cycle| cycle.rms * cycle.rms / ohm);
                    let (first, last) = (watts(&burst.first)?, watts(&burst.last)?);
                    reading.power_w.push(first.min(last));
                    reading.ends_w.push((first, last));
                }
                None => reading.power_w.push(burst.power_w?),
            }
            let distortion = burst.thd_n_ratio.or(burst.thd_ratio);
            reading.thd_ratio = distortion.map(|thd| reading.thd_ratio.map_or(thd, |worst| worst.max(thd))).or(reading.thd_ratio);
        }
        Some(reading)
    }

    /// Into a round. Bursts of two levels are no reading of either.
    pub fn fill(self, round: &mut Round) {
        if self.mixed {
            round.before_wave = true;
        } else {
            (round.power_w, round.thd_ratio, round.cycles_w) = (self.power_w, self.thd_ratio, self.ends_w);
        }
    }
}

/// Whether bursts of one capture are of several levels. Noise differs as it will.
fn differ(watts: impl Iterator<Item = f64>) -> bool {
    let (least, most) = watts.fold((f64::INFINITY, 0.0_f64), |(least, most), watts| (least.min(watts), most.max(watts)));
    most >= NOISE_W && least < (1.0 - MIXED) * most
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bursts_of_two_levels_are_no_reading_of_either() {
        assert!(!differ([].into_iter()) && !differ([40.0].into_iter()));
        assert!(!differ([40.0, 38.1].into_iter()), "they sag");
        assert!(differ([40.0, 37.9].into_iter()) && differ([37.9, 40.0].into_iter()));
        assert!(!differ([0.99, 0.2].into_iter()) && differ([1.0, 0.2].into_iter()), "noise does as it will");
        let mut round = Round::default();
        BurstReading { power_w: vec![40.0], thd_ratio: Some(0.3), mixed: true, ..BurstReading::default() }.fill(&mut round);
        assert!(!round.is_read() && round.power_w.is_empty() && round.thd_ratio.is_none());
    }
}
