//! What tones there are in a channel, and where: the strongest, the parts that have one of their own, the sweeps.

use super::{LOOKED_AT, Reader, Region, SEARCHED};
use crate::burst::change;
use crate::cut::{Piece, StretchKind};
use crate::levels::Level;
use crate::sine::fit;
use crate::source::SourceError;

/// Places to look for a sweep in: blocks of so many seconds within 45 dB of the loudest, in so many places.
const SWEEP_BLOCK_S: f64 = 0.06;
const SWEEP_LOUD: f64 = 3e-5;
const SWEEP_LOOKS: usize = 12;
/// Movement inside a block, as a part of a steady sweep's, below which a sweep is stepped.
const STEPPED: f64 = 0.05;
/// Part of what is loudest that has to be one tone.
const TONAL: f64 = 0.3;
/// Level of regions with a frequency of their own: within 40 dB of the loudest; looked at in so many places first.
const REGION_LOUD: f64 = 1e-4;
const REGION_LOOKS: usize = 24;
/// Of fewer periods in silence it has none.
const FEW_PERIODS: f64 = 3.0;
/// Loud part of a block, from its first to its last sample: of a burst in silence only the burst is looked at.
fn loud_part(samples: &[f64]) -> &[f64] {
    let most = samples.iter().fold(0.0f64, |most, x| most.max(x.abs()));
    let is_loud = |x: &f64| x.abs() > 0.05 * most;
    let from = samples.iter().position(is_loud).unwrap_or(0);
    let to = samples.iter().rposition(is_loud).map_or(samples.len(), |last| last + 1);
    &samples[from..to]
}

/// The frequency of the one tone that makes up most of samples: in noise and in music none stands for the rest.
fn one_tone(samples: &[f64], rate_hz: f64, near_hz: f64) -> Option<f64> {
    let sine = fit(samples, rate_hz, near_hz)?;
    let all = samples.iter().map(|x| (x - sine.dc) * (x - sine.dc)).sum::<f64>() / samples.len().max(1) as f64;
    (sine.rms() * sine.rms() > TONAL * all).then_some(sine.hz)
}

/// Whether a frequency is that of a region: blocks are short, and tell low ones badly.
fn alike(heard: Option<f64>, hz: f64) -> bool {
    heard.is_none_or(|heard| (heard / hz).ln().abs() < 0.12 || (heard - hz).abs() < 3.0)
}

impl Reader<'_> {
    /// The tone of a channel, where it is loudest.
    pub(super) fn strongest(&mut self, channel: usize, level: &Level) -> Result<Option<f64>, SourceError> {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        let (at, wide) = self.loudest(level);
        // What is loud alone, so that a burst in silence is not spread over it.
        let loud = level.mean_square(at, at + wide, hop);
        let (mut from, mut to) = (at, at + wide);
        let is_loud = |k: usize| level.mean_square(k, k + 1, hop) > loud / 50.0;
        while from > 0 && (at - from) * hop < LOOKED_AT / 2 && is_loud(from - 1) {
            from -= 1;
        }
        while to < level.hops.len() && (to - at) * hop < LOOKED_AT / 2 && is_loud(to) {
            to += 1;
        }
        let samples = self.window(channel, (from * hop) as u64, (to - from) * hop)?;
        Ok(self.tools.transforms.strongest(&samples, rate_hz))
    }

    /// Place where it is loudest.
    pub(super) fn loudest(&self, level: &Level) -> (usize, usize) {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        let wide = ((rate_hz / 20.0 / hop as f64).ceil() as usize).clamp(1, level.hops.len().max(1));
        let squares = (0..level.hops.len().saturating_sub(wide - 1)).map(|at| (at, level.mean_square(at, at + wide, hop)));
        (squares.max_by(|a, b| a.1.total_cmp(&b.1)).map_or(0, |(at, _)| at), wide)
    }

    /// Whether most of what is loudest is one tone.
    pub(super) fn is_tonal(&mut self, channel: usize, level: &Level, hz: f64) -> Result<bool, SourceError> {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        let (at, wide) = self.loudest(level);
        let samples = self.window(channel, (at * hop) as u64, wide * hop)?;
        let near = self.tools.transforms.strongest(loud_part(&samples), rate_hz).unwrap_or(hz);
        Ok(one_tone(loud_part(&samples), rate_hz, near).is_some())
    }

    /// Parts of the recording that each have a tone of their own: one where all of it has the same.
    pub(super) fn regions(&mut self, channel: usize, level: &Level, hz: f64) -> Result<Vec<Region>, SourceError> {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        let whole = vec![Region { from: 0, to: level.hops.len(), hz }];
        let block = ((SWEEP_BLOCK_S * rate_hz) as usize / hop).max(1);
        let count = level.hops.len() / block;
        let squares: Vec<f64> = (0..count).map(|i| level.mean_square(i * block, (i + 1) * block, hop)).collect();
        let loud = squares.iter().copied().fold(0.0, f64::max) * REGION_LOUD;
        let active: Vec<usize> = (0..count).filter(|i| squares[*i] > loud).collect();
        let stride = (active.len() / REGION_LOOKS).max(1);
        let mut other = false;
        for i in active.iter().step_by(stride) {
            other |= !alike(self.heard_in(channel, i * block, block)?, hz);
        }
        if !other {
            return Ok(whole);
        }
        let mut regions: Vec<Region> = Vec::new();
        for i in active {
            let heard = self.heard_in(channel, i * block, block)?;
            match regions.last_mut() {
                Some(last) if alike(heard, last.hz) => last.to = (i + 1) * block,
                _ => regions.push(Region { from: i * block, to: (i + 1) * block, hz: heard.unwrap_or(hz) }),
            }
        }
        // A block on the border hears both: what lasts for one alone is none of its own.
        regions.retain(|region| region.to - region.from > block);
        regions.dedup_by(|next, last| {
            let same = alike(Some(next.hz), last.hz);
            if same {
                last.to = next.to;
            }
            same
        });
        let Some(first) = regions.first_mut() else { return Ok(whole) };
        first.from = 0;
        for i in 1..regions.len() {
            let border = self.border(channel, regions[i - 1], regions[i])?;
            (regions[i - 1].to, regions[i].from) = (border, border);
        }
        if let Some(last) = regions.last_mut() {
            last.to = level.hops.len();
        }
        Ok(regions)
    }

    /// The frequency of a block that is mostly one tone; nothing of noise.
    pub(super) fn heard_in(&mut self, channel: usize, from: usize, hops: usize) -> Result<Option<f64>, SourceError> {
        let hop = self.levels.hop;
        let samples = self.window(channel, (from * hop) as u64, (hops * hop).min(SEARCHED))?;
        let rate_hz = self.rate_hz();
        let loud = loud_part(&samples);
        // A cycle or two in silence have no frequency that could be told from another.
        let enough = |hz: &f64| loud.len() * 10 > samples.len() * 9 || loud.len() as f64 * hz / rate_hz >= FEW_PERIODS;
        Ok(self.tools.transforms.strongest(loud, rate_hz).and_then(|near| one_tone(loud, rate_hz, near)).filter(enough))
    }

    /// The hop at which one tone gives way to another.
    pub(super) fn border(&mut self, channel: usize, one: Region, next: Region) -> Result<usize, SourceError> {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        let room = ((SWEEP_BLOCK_S * rate_hz) as usize / hop).max(1);
        let (from, to) = (one.to.saturating_sub(2 * room), (next.from + 2 * room).min(self.levels.channels[channel].hops.len()));
        let samples = self.window(channel, (from * hop) as u64, (to - from) * hop)?;
        let side = (room * hop).min(samples.len() / 3);
        let before = fit(&samples[..side], rate_hz, one.hz).map(|sine| (sine, 0.0));
        let start = samples.len() - side;
        let after = fit(&samples[start..], rate_hz, next.hz).map(|sine| (sine, start as f64));
        let found = before.zip(after).and_then(|(before, after)| {
            let half = samples.len() as f64 / 2.0;
            change(&samples, rate_hz, half, half, before, after)
        });
        Ok(found.map_or(usize::midpoint(one.to, next.from), |at| from + at / hop))
    }

    /// Place where the frequency moves on and on: what is loud without a gap, looked at in twelve places.
    pub(super) fn sweeps(&mut self, channel: usize, level: &Level) -> Result<Vec<Piece>, SourceError> {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        let block = ((SWEEP_BLOCK_S * rate_hz) as usize / hop).max(1);
        let squares: Vec<f64> = (0..level.hops.len() / block).map(|i| level.mean_square(i * block, (i + 1) * block, hop)).collect();
        let loud = squares.iter().copied().fold(0.0, f64::max) * SWEEP_LOUD;
        let mut found = Vec::new();
        let mut at = 0;
        while at < squares.len() {
            let length = squares[at..].iter().take_while(|square| **square > loud).count();
            if length >= SWEEP_LOOKS {
                let (from, to) = (at * block, if at + length == squares.len() { level.hops.len() } else { (at + length) * block });
                if self.moves(channel, from * hop, to * hop)? {
                    found.push(Piece { kind: StretchKind::Sweep, from, to, level_db: 0.0 });
                }
            }
            at += length.max(1);
        }
        Ok(found)
    }

    /// Whether the frequency goes one way all along, by half as much again at least.
    pub(super) fn moves(&mut self, channel: usize, from: usize, to: usize) -> Result<bool, SourceError> {
        let rate_hz = self.rate_hz();
        let wide = ((SWEEP_BLOCK_S * rate_hz) as usize).min((to - from) / SWEEP_LOOKS).min(LOOKED_AT);
        let (mut seen, mut inside) = (Vec::new(), Vec::new());
        for look in 0..SWEEP_LOOKS {
            let start = from + (to - from - wide) * look / (SWEEP_LOOKS - 1);
            let samples = self.window(channel, start as u64, wide)?;
            let near = self.tools.transforms.strongest(&samples, rate_hz);
            seen.extend(near);
            let (one, other) = samples.split_at(samples.len() / 2);
            let half = |samples: &[f64]| near.and_then(|near| fit(samples, rate_hz, near)).map(|sine| sine.hz);
            inside.extend(half(one).zip(half(other)).map(|(one, other)| (other / one).ln().abs()));
        }
        let (Some(first), Some(last)) = (seen.first(), seen.last()) else { return Ok(false) };
        let up = last > first;
        // A frequency that moves does so inside of a block too; one that steps stands still in most of them.
        inside.sort_by(f64::total_cmp);
        let all_along = (last / first).ln().abs() * (wide / 2) as f64 / (to - from) as f64;
        if inside.get(inside.len() / 2).is_none_or(|moved| *moved < STEPPED * all_along) {
            return Ok(false);
        }
        let on = seen.windows(2).filter(|pair| if up { pair[1] > pair[0] * 1.005 } else { pair[1] < pair[0] / 1.005 }).count();
        Ok(on + 3 >= SWEEP_LOOKS && last.max(*first) / last.min(*first) > 1.5)
    }
}
