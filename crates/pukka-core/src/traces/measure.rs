//! Reads a recording: one pass for its levels, then each stretch over windows of it.

use std::ops::ControlFlow;

use crate::traces::burst::{burst, change};
use crate::traces::cut::{Envelope, Piece, StretchKind};
use crate::traces::distortion::{self, Tone, Tools, centre, tone};
use crate::traces::doubts;
use crate::traces::harmonics;
use crate::traces::levels::{Level, Levels, levels};
use crate::traces::ramp;
use crate::traces::report::{ChannelKind, ChannelReport, LevelPoint, OverRange, Stretch, SupplyFigures, TraceReport};
use crate::traces::response;
use crate::traces::sine::fit;
use crate::traces::source::{Source, SourceError};

/// What a channel is, and its scale.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ChannelSetting {
    /// What it is of.
    pub kind: ChannelKind,
    /// Units per unit of the file: volts at full scale of an audio file, 1 of a file in volts.
    pub scale: f64,
}

impl Default for ChannelSetting {
    fn default() -> Self {
        Self { kind: ChannelKind::Output, scale: 1.0 }
    }
}

/// What is asked of a trace.
#[derive(Debug, Clone, PartialEq)]
pub struct TraceSettings {
    /// Channels in order; those left out are outputs of scale 1.
    pub channels: Vec<ChannelSetting>,
    /// Load of the outputs.
    pub load_ohm: Option<f64>,
    /// Distortion that a clean tone has at most.
    pub limit_ratio: f64,
}

impl Default for TraceSettings {
    fn default() -> Self {
        Self { channels: Vec::new(), load_ohm: None, limit_ratio: 0.01 }
    }
}

/// Samples that a tone is looked for in.
const LOOKED_AT: usize = 65_536;
/// Samples of a stretch that its tone is looked for in.
const SEARCHED: usize = 16_384;
/// What a sweep is looked for in: blocks of so many seconds within 45 dB of the loudest, in so many places.
const SWEEP_BLOCK_S: f64 = 0.06;
const SWEEP_LOUD: f64 = 3e-5;
const SWEEP_LOOKS: usize = 12;
/// Part of what is loudest that has to be one tone.
const TONAL: f64 = 0.3;
/// What has a frequency of its own: within 40 dB of the loudest; looked at in so many places first.
const REGION_LOUD: f64 = 1e-4;
const REGION_LOOKS: usize = 24;
/// Windows at most that a sweep is followed in, how many periods each holds, and how long it is at most.
const SWEEP_WINDOWS: usize = 2_000;
const SWEEP_PERIODS: f64 = 6.0;
const SWEEP_LONGEST_S: f64 = 0.25;

/// Reads a recording. `progress` hears how many frames were read in the first pass, and may end it.
///
/// # Errors
/// [`SourceError`].
pub fn read(
    source: &mut dyn Source,
    asked: &TraceSettings,
    progress: &mut dyn FnMut(u64) -> ControlFlow<()>,
) -> Result<TraceReport, SourceError> {
    let recording = source.recording();
    let levels = levels(source, progress)?;
    let mut reader = Reader { source, asked, levels: &levels, tools: Tools::default() };
    let mut channels = Vec::with_capacity(recording.channels);
    for channel in 0..recording.channels {
        channels.push(reader.channel(channel)?);
    }
    reader.supplies(&mut channels)?;
    let doubts = doubts::doubts(reader.source, &levels, &channels)?;
    Ok(TraceReport {
        format: "pukka-trace".into(),
        version: 1,
        sample_rate_hz: recording.rate_hz,
        seconds: recording.seconds(),
        channels,
        doubts,
    })
}

/// A part of the recording that has a tone of its own, in hops.
#[derive(Debug, Clone, Copy)]
struct Region {
    from: usize,
    to: usize,
    hz: f64,
}

/// Whether a frequency is that of a region: blocks are short, and tell low ones badly.
fn alike(heard: Option<f64>, hz: f64) -> bool {
    heard.is_none_or(|heard| (heard / hz).ln().abs() < 0.12 || (heard - hz).abs() < 10.0)
}

struct Reader<'a> {
    source: &'a mut dyn Source,
    asked: &'a TraceSettings,
    levels: &'a Levels,
    tools: Tools,
}

impl Reader<'_> {
    fn setting(&self, channel: usize) -> ChannelSetting {
        self.asked.channels.get(channel).copied().unwrap_or_default()
    }

    fn rate_hz(&self) -> f64 {
        self.source.recording().rate_hz
    }

    fn seconds(&self, sample: f64) -> f64 {
        sample / self.rate_hz()
    }

    /// Samples of a channel in its own unit.
    fn window(&mut self, channel: usize, from: u64, frames: usize) -> Result<Vec<f64>, SourceError> {
        let scale = self.setting(channel).scale;
        let mut samples = self.source.window(channel, from, frames)?;
        samples.iter_mut().for_each(|sample| *sample *= scale);
        Ok(samples)
    }

    fn channel(&mut self, channel: usize) -> Result<ChannelReport, SourceError> {
        let ChannelSetting { kind, scale } = self.setting(channel);
        let level = &self.levels.channels[channel];
        let (all, hop) = (level.hops.len(), self.levels.hop);
        let stretches = if kind == ChannelKind::Unused || all == 0 {
            Vec::new()
        } else {
            match self.strongest(channel, level)? {
                Some(hz) if kind.has_tone() => self.stretches(channel, level, hz)?,
                _ => vec![self.bare(channel, StretchKind::Quiet, 0, all)],
            }
        };
        let over =
            |span: &crate::traces::levels::Span| OverRange { from_s: self.seconds(span.from as f64), to_s: self.seconds(span.to as f64) };
        Ok(ChannelReport {
            channel: channel + 1,
            kind,
            scale,
            dc: level.mean(0, all, hop) * scale,
            rms: level.mean_square(0, all, hop).sqrt() * scale.abs(),
            peak: level.peak(0, all) * scale.abs(),
            over_range: level.over.iter().map(over).collect(),
            stretches,
        })
    }

    /// The tone of a channel, where it is loudest.
    fn strongest(&mut self, channel: usize, level: &Level) -> Result<Option<f64>, SourceError> {
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

    fn stretches(&mut self, channel: usize, level: &Level, hz: f64) -> Result<Vec<Stretch>, SourceError> {
        let sweeps = self.sweeps(channel, level)?;
        if sweeps.is_empty() && !self.is_tonal(channel, level, hz)? {
            // Noise, or music: nothing of it is cut.
            return Ok(vec![self.bare(channel, StretchKind::Tone, 0, level.hops.len())]);
        }
        // Where a frequency moves, an envelope by one period says nothing.
        let outside = |piece: &Piece| !sweeps.iter().any(|sweep| piece.from < sweep.to && sweep.from < piece.to);
        let mut pieces = Vec::new();
        if !sweeps.iter().any(|sweep| sweep.to - sweep.from > level.hops.len() / 2) {
            for region in self.regions(channel, level, hz)? {
                let envelope = Envelope::new(level, self.levels.hop, self.rate_hz() / region.hz);
                let inside = envelope.pieces().into_iter().filter(|piece| piece.from < region.to && region.from < piece.to);
                let clipped = inside.map(|piece| Piece { from: piece.from.max(region.from), to: piece.to.min(region.to), ..piece });
                pieces.extend(clipped.map(|piece| (piece, region.hz)));
            }
        }
        pieces.retain(|(piece, _)| outside(piece));
        pieces.extend(sweeps.into_iter().map(|sweep| (sweep, hz)));
        pieces.sort_by_key(|(piece, _)| piece.from);
        let mut before_db = None;
        let mut stretches = Vec::with_capacity(pieces.len());
        for (piece, hz) in pieces {
            let stretch = self.stretch(channel, piece, hz, before_db)?;
            before_db = Some(piece.level_db);
            stretches.push(stretch);
        }
        // A burst is known to the sample: what is beside it ends and begins there.
        for i in 0..stretches.len() {
            if stretches[i].kind == StretchKind::Burst {
                let (from_s, to_s) = (stretches[i].from_s, stretches[i].to_s);
                if let Some(before) = i.checked_sub(1).and_then(|before| stretches.get_mut(before)).filter(|other| other.from_s < from_s) {
                    before.to_s = from_s;
                }
                if let Some(behind) = stretches.get_mut(i + 1).filter(|other| other.to_s > to_s) {
                    behind.from_s = to_s;
                }
            }
        }
        Ok(stretches)
    }

    /// Where it is loudest.
    fn loudest(&self, level: &Level) -> (usize, usize) {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        let wide = ((rate_hz / 20.0 / hop as f64).ceil() as usize).clamp(1, level.hops.len().max(1));
        let at = (0..level.hops.len().saturating_sub(wide - 1))
            .max_by(|a, b| level.mean_square(*a, a + wide, hop).total_cmp(&level.mean_square(*b, b + wide, hop)))
            .unwrap_or(0);
        (at, wide)
    }

    /// Whether most of what is loudest is one tone: in noise and in music no frequency stands for the rest.
    fn is_tonal(&mut self, channel: usize, level: &Level, hz: f64) -> Result<bool, SourceError> {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        let (at, wide) = self.loudest(level);
        let samples = self.window(channel, (at * hop) as u64, wide * hop)?;
        // Of a burst in silence only the burst is looked at.
        let most = samples.iter().fold(0.0f64, |most, x| most.max(x.abs()));
        let from = samples.iter().position(|x| x.abs() > 0.05 * most).unwrap_or(0);
        let to = samples.iter().rposition(|x| x.abs() > 0.05 * most).map_or(samples.len(), |last| last + 1);
        let heard = &samples[from..to];
        let near = self.tools.transforms.strongest(heard, rate_hz).unwrap_or(hz);
        let Some(sine) = fit(heard, rate_hz, near) else { return Ok(false) };
        let all = heard.iter().map(|x| (x - sine.dc) * (x - sine.dc)).sum::<f64>() / heard.len().max(1) as f64;
        Ok(sine.rms() * sine.rms() > TONAL * all)
    }

    /// Parts of the recording that each have a tone of their own: one where all of it has the same.
    fn regions(&mut self, channel: usize, level: &Level, hz: f64) -> Result<Vec<Region>, SourceError> {
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
            let heard = self.heard_in(channel, i * block, block)?.unwrap_or(hz);
            match regions.last_mut() {
                Some(last) if alike(Some(heard), last.hz) => last.to = (i + 1) * block,
                _ => regions.push(Region { from: i * block, to: (i + 1) * block, hz: heard }),
            }
        }
        // A block on the border hears both: what lasts for one alone is none of its own.
        regions.retain(|region| region.to - region.from > block);
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

    fn heard_in(&mut self, channel: usize, from: usize, hops: usize) -> Result<Option<f64>, SourceError> {
        let hop = self.levels.hop;
        let samples = self.window(channel, (from * hop) as u64, (hops * hop).min(SEARCHED))?;
        let rate_hz = self.rate_hz();
        Ok(self.tools.transforms.strongest(&samples, rate_hz))
    }

    /// The hop at which one tone gives way to another.
    fn border(&mut self, channel: usize, one: Region, next: Region) -> Result<usize, SourceError> {
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

    /// Where the frequency moves on and on: what is loud without a gap, looked at in twelve places.
    fn sweeps(&mut self, channel: usize, level: &Level) -> Result<Vec<Piece>, SourceError> {
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
    fn moves(&mut self, channel: usize, from: usize, to: usize) -> Result<bool, SourceError> {
        let rate_hz = self.rate_hz();
        let wide = ((SWEEP_BLOCK_S * rate_hz) as usize).min((to - from) / SWEEP_LOOKS).min(LOOKED_AT);
        let mut seen = Vec::new();
        for look in 0..SWEEP_LOOKS {
            let start = from + (to - from - wide) * look / (SWEEP_LOOKS - 1);
            let samples = self.window(channel, start as u64, wide)?;
            seen.extend(self.tools.transforms.strongest(&samples, rate_hz));
        }
        let (Some(first), Some(last)) = (seen.first(), seen.last()) else { return Ok(false) };
        let up = last > first;
        let on = seen.windows(2).filter(|pair| if up { pair[1] > pair[0] * 1.005 } else { pair[1] < pair[0] / 1.005 }).count();
        Ok(on + 3 >= SWEEP_LOOKS && last.max(*first) / last.min(*first) > 1.5)
    }

    /// A stretch of which only the levels are known.
    fn bare(&self, channel: usize, kind: StretchKind, from: usize, to: usize) -> Stretch {
        let (level, hop, scale) = (&self.levels.channels[channel], self.levels.hop, self.setting(channel).scale);
        let dc = level.mean(from, to, hop);
        Stretch {
            kind,
            from_s: self.seconds((from * hop) as f64),
            to_s: self.seconds((to * hop) as f64),
            frequency_hz: None,
            dc: dc * scale,
            rms: level.mean_square(from, to, hop).sqrt() * scale.abs(),
            peak: level.peak(from, to) * scale.abs(),
            crest_db: None,
            fundamental_rms: None,
            thd_ratio: None,
            thd_n_ratio: None,
            flat_ratio: None,
            clipped: None,
            past_onset_db: None,
            power_w: None,
            cycles: None,
            first: None,
            last: None,
            droop_db: None,
            over_between_db: None,
            points: None,
            certified: None,
            response: None,
            supply: None,
        }
    }

    fn stretch(&mut self, channel: usize, piece: Piece, hz: f64, before_db: Option<f64>) -> Result<Stretch, SourceError> {
        let bare = self.bare(channel, piece.kind, piece.from, piece.to);
        match piece.kind {
            StretchKind::Quiet => Ok(bare),
            StretchKind::Tone => self.tone(channel, piece, hz, bare),
            StretchKind::Burst => self.burst(channel, piece, hz, before_db, bare),
            StretchKind::Ramp | StretchKind::Steps => self.ramp(channel, piece, hz, bare),
            StretchKind::Sweep => self.sweep(channel, piece, bare),
        }
    }

    fn power_w(&self, channel: usize, rms: f64) -> Option<f64> {
        let load = self.asked.load_ohm.filter(|_| self.setting(channel).kind == ChannelKind::Output)?;
        Some(rms * rms / load)
    }

    fn filled(&self, channel: usize, bare: Stretch, tone: &Tone) -> Stretch {
        Stretch {
            frequency_hz: Some(tone.sine.hz),
            dc: tone.sine.dc,
            rms: tone.rms,
            peak: tone.peak,
            crest_db: tone.crest_db(),
            fundamental_rms: Some(tone.sine.rms()),
            thd_ratio: tone.thd_ratio,
            thd_n_ratio: tone.thd_n_ratio,
            flat_ratio: tone.flat_ratio,
            clipped: Some(tone.is_clipped(self.asked.limit_ratio)),
            past_onset_db: tone.past_onset_db,
            power_w: self.power_w(channel, tone.rms),
            ..bare
        }
    }

    fn tone(&mut self, channel: usize, piece: Piece, hz: f64, bare: Stretch) -> Result<Stretch, SourceError> {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        // Clear of its ends, by a period and more, where it is long enough for that.
        let margin = ((1.5 * rate_hz / hz) as usize).min((piece.to - piece.from) * hop / 8);
        let (from, to) = (piece.from * hop + margin, piece.to * hop - margin);
        let most = distortion::looked_at(rate_hz, hz);
        let length = (to - from).min(most);
        let start = from + (to - from - length) / 2;
        let samples = self.window(channel, start as u64, length)?;
        let searched = SEARCHED.max((8.0 * rate_hz / hz) as usize);
        let near = self.tools.transforms.strongest(centre(&samples, searched), rate_hz).unwrap_or(hz);
        let Some(found) = tone(&mut self.tools, &samples, rate_hz, near) else { return Ok(bare) };
        // The level of all of it, not only of the window that was fitted.
        let rms = if to - from > most { bare.rms } else { found.rms };
        Ok(self.filled(channel, bare, &Tone { rms, ..found }))
    }

    fn burst(&mut self, channel: usize, piece: Piece, hz: f64, before_db: Option<f64>, bare: Stretch) -> Result<Stretch, SourceError> {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        let room = (4.0 * rate_hz / hz) as usize + 64;
        let start = (piece.from * hop).saturating_sub(room);
        let samples = self.window(channel, start as u64, piece.to * hop + room - start)?;
        let rough = (piece.from * hop - start, piece.to * hop - start);
        let Some(found) = burst(&self.tools, &samples, rate_hz, hz, rough) else { return Ok(bare) };
        let whole = &samples[(found.from.round() as usize).min(samples.len())..(found.to.round() as usize).min(samples.len())];
        let stretch = match tone(&mut self.tools, whole, rate_hz, found.hz) {
            Some(tone) => self.filled(channel, bare, &tone),
            None => bare,
        };
        let (first, last) = (found.each.first().copied(), found.each.last().copied());
        let peak = found.each.iter().map(|cycle| cycle.peak).fold(0.0, f64::max);
        let droop = first.zip(last).filter(|_| found.cycles > 1).map(|(first, last)| 20.0 * (last.peak / first.peak).log10());
        Ok(Stretch {
            from_s: self.seconds(start as f64 + found.from),
            to_s: self.seconds(start as f64 + found.to),
            frequency_hz: Some(found.hz),
            peak: if peak > 0.0 { peak } else { stretch.peak },
            cycles: Some(found.cycles),
            first,
            last,
            droop_db: droop.filter(|db| db.is_finite()),
            over_between_db: before_db.filter(|db| *db > -50.0).map(|db| piece.level_db - db),
            ..stretch
        })
    }

    /// Windows of a ramp, each with its power and its distortion.
    fn ramp(&mut self, channel: usize, piece: Piece, hz: f64, bare: Stretch) -> Result<Stretch, SourceError> {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        let wide = ramp::window(hz, rate_hz);
        let (from, to) = (piece.from * hop, piece.to * hop);
        // The frequency from where it is loud and clean: its last quarter is loudest, of a rising ramp.
        let quarter = (to - from) / 4;
        let samples = self.window(channel, (to - quarter) as u64, quarter.min(SEARCHED))?;
        let near = self.tools.transforms.strongest(&samples, rate_hz).unwrap_or(hz);
        let hz = harmonics::tone(&samples, rate_hz, near).map_or(near, |tone| tone.hz);
        let load = self.asked.load_ohm.filter(|_| self.setting(channel).kind == ChannelKind::Output);
        let growing = ramp::Window::new(wide, rate_hz, hz);
        let mut points: Vec<LevelPoint> = Vec::new();
        let mut at = from;
        // Read in long pieces: a window at a time would ask the file for each sample twice.
        while at + wide <= to {
            let piece = self.window(channel, at as u64, (32 * wide).min(to - at))?;
            let mut inside = 0;
            while inside + wide <= piece.len() {
                let middle = self.seconds((at + inside) as f64 + wide as f64 / 2.0);
                points.extend(
                    growing.as_ref().and_then(|growing| growing.point(&mut self.tools, &piece[inside..inside + wide], middle, load)),
                );
                inside += (wide / 2).max(1);
            }
            if inside == 0 {
                break;
            }
            at += inside;
        }
        let certified = ramp::certified(&points, self.asked.limit_ratio);
        let top = points.iter().max_by(|a, b| a.rms.total_cmp(&b.rms)).copied();
        Ok(Stretch {
            frequency_hz: Some(hz),
            thd_n_ratio: top.and_then(|top| top.thd_n_ratio),
            clipped: top.map(|top| top.thd_n_ratio.is_some_and(|thd| thd > self.asked.limit_ratio)),
            power_w: top.and_then(|top| top.power_w),
            points: Some(points),
            certified,
            ..bare
        })
    }

    fn sweep(&mut self, channel: usize, piece: Piece, bare: Stretch) -> Result<Stretch, SourceError> {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        let (from, to) = (piece.from * hop, piece.to * hop);
        let generator =
            (0..self.source.recording().channels).find(|other| *other != channel && self.setting(*other).kind == ChannelKind::Generator);
        let level = |samples: &[f64]| distortion::rms_over_periods(samples.len() as f64, samples, 0.0);
        let (mut seen, mut against) = (Vec::new(), Vec::new());
        // Windows of a few periods of what is heard just there, and long ones to begin with.
        let longest = ((SWEEP_LONGEST_S * rate_hz) as usize).min(to - from).max(1);
        let mut wide = longest;
        let mut at = from;
        while at + wide <= to && seen.len() < SWEEP_WINDOWS {
            let samples = self.window(channel, at as u64, wide)?;
            if let Some(near) = self.tools.transforms.strongest(&samples, rate_hz) {
                let heard = fit(&samples, rate_hz, near).map_or(near, |sine| sine.hz);
                seen.push((heard, level(&samples)));
                if let Some(generator) = generator {
                    against.push(level(&self.window(generator, at as u64, wide)?));
                }
                wide = ((SWEEP_PERIODS * rate_hz / heard) as usize).clamp(64.min(longest), longest);
            }
            at += (wide / 2).max((to - from) / SWEEP_WINDOWS).max(1);
        }
        let response = response::response(seen, generator.map(|_| against.as_slice()));
        Ok(Stretch { response, ..bare })
    }

    /// The supply during each stretch of an output.
    fn supplies(&mut self, channels: &mut [ChannelReport]) -> Result<(), SourceError> {
        let of = |kind: ChannelKind| channels.iter().position(|channel| channel.kind == kind);
        let (volts, amps) = (of(ChannelKind::SupplyVolts), of(ChannelKind::SupplyAmps));
        if volts.is_none() && amps.is_none() {
            return Ok(());
        }
        for report in channels.iter_mut().filter(|channel| channel.kind == ChannelKind::Output) {
            for stretch in &mut report.stretches {
                let figures = self.supply(volts, amps, stretch)?;
                stretch.supply = Some(figures);
            }
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
                let frames = ((to - from) as usize).min(LOOKED_AT);
                let start = from + ((to - from) as usize - frames) as u64 / 2;
                let (v, i) = (self.window(volts, start, frames)?, self.window(amps, start, frames)?);
                let sum: f64 = v.iter().zip(&i).map(|(v, i)| v * i).sum();
                (!v.is_empty()).then(|| sum / v.len() as f64)
            }
            _ => None,
        };
        Ok(SupplyFigures {
            lowest_v: lowest.filter(|v| v.is_finite()),
            mean_v: volts.map(|channel| mean(self, channel)),
            mean_a: amps.map(|channel| mean(self, channel)),
            input_w,
            efficiency_ratio: stretch.power_w.zip(input_w).filter(|(_, input)| *input > 0.0).map(|(output, input)| output / input),
        })
    }
}
