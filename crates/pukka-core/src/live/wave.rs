//! What a captured wave says of its last whole burst.

use crate::live::Round;
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
}

/// A burst so near to an end of the capture may be cut by it, seconds.
const MARGIN_S: f64 = 0.005;

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

    /// Into a round.
    pub fn fill(self, round: &mut Round) {
        (round.power_w, round.thd_ratio, round.cycles_w) = (self.power_w, self.thd_ratio, self.ends_w);
    }
}
