//! The supply while an output is driven: its volts, its amps, and how they sag.

use super::{LOOKED_AT, Reader, SEARCHED};
use crate::cut::StretchKind;
use crate::report::{ChannelKind, Stretch, SupplyFigures, SupplyPoint};
use crate::source::SourceError;
use crate::sums::{self, dot};

/// Places at most at which the sag of a stretch is given.
const SAG_POINTS: usize = 64;

impl Reader<'_> {
    /// Fills in the supply during stretches of a channel, where it is an output and the supply was recorded.
    pub(super) fn supplies(&mut self, channel: usize, stretches: &mut [Stretch]) -> Result<(), SourceError> {
        let of = |kind: ChannelKind| (0..self.source.recording().channels).find(|channel| self.setting(*channel).kind == kind);
        let (volts, amps) = (of(ChannelKind::SupplyVolts), of(ChannelKind::SupplyAmps));
        if self.setting(channel).kind != ChannelKind::Output || (volts.is_none() && amps.is_none()) {
            return Ok(());
        }
        for stretch in stretches {
            stretch.supply = Some(self.supply(volts, amps, stretch)?);
        }
        Ok(())
    }

    fn supply(&mut self, volts: Option<usize>, amps: Option<usize>, stretch: &Stretch) -> Result<SupplyFigures, SourceError> {
        let (rate_hz, hop) = (self.rate_hz(), self.levels.hop);
        let (from, to) = ((stretch.from_s * rate_hz).round() as u64, (stretch.to_s * rate_hz).round() as u64);
        let hops = |at: u64| (at as usize) / hop;
        let mean = |reader: &Self, channel: usize| {
            reader.levels.channels[channel].mean(hops(from), hops(to).max(hops(from) + 1), hop) * reader.setting(channel).scale
        };
        let lowest = volts.map(|channel| {
            let pieces = &self.levels.channels[channel].hops;
            let inside = &pieces[hops(from).min(pieces.len())..(hops(to) + 1).min(pieces.len())];
            inside.iter().map(|hop| f64::from(hop.low)).fold(f64::INFINITY, f64::min) * self.setting(channel).scale
        });
        let input_w = match (volts, amps) {
            (Some(volts), Some(amps)) => {
                let all = (to - from) as usize;
                // Of a long stretch the means are known; how volts and amps swing together a part of it tells.
                let frames = if all > LOOKED_AT { SEARCHED } else { all };
                let start = from + (all - frames) as u64 / 2;
                let (v, i) = (self.window(volts, start, frames)?, self.window(amps, start, frames)?);
                let drawn = dot(&v, &i) / v.len().max(1) as f64;
                let rest = if all > LOOKED_AT { mean(self, volts) * mean(self, amps) - sums::mean(&v) * sums::mean(&i) } else { 0.0 };
                (!v.is_empty()).then_some(drawn + rest)
            }
            _ => None,
        };
        // Of a level that moves, the power is of one moment and the draw of all of it.
        let is_level = matches!(stretch.kind, StretchKind::Tone | StretchKind::Burst);
        let (first, behind) = (hops(from), hops(to).max(hops(from) + 1));
        let stride = (behind - first).div_ceil(SAG_POINTS).max(1);
        let sag = volts.map(|channel| {
            let (level, scale) = (&self.levels.channels[channel], self.setting(channel).scale);
            let at = |k: usize| (k * hop) as f64 / rate_hz;
            let point = |k: usize| {
                let next = (k + stride).min(behind);
                SupplyPoint { at_s: f64::midpoint(at(k), at(next)), v: level.mean(k, next, hop) * scale }
            };
            (first..behind).step_by(stride).map(point).collect()
        });
        Ok(SupplyFigures {
            sag,
            lowest_v: lowest.filter(|v| v.is_finite()),
            mean_v: volts.map(|channel| mean(self, channel)),
            mean_a: amps.map(|channel| mean(self, channel)),
            input_w,
            efficiency_ratio: stretch
                .power_w
                .zip(input_w)
                .filter(|(_, input)| is_level && *input > 0.0)
                .map(|(output, input)| output / input),
        })
    }
}
