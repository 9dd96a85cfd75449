//! Reads a recording: one pass for its levels, then each stretch over windows of it.

mod figures;
mod find;
mod over_all;
mod supply;

use std::ops::ControlFlow;
use std::sync::atomic::{AtomicUsize, Ordering};

use crate::cut::{Envelope, Piece, StretchKind};
use crate::distortion::Tools;
use crate::doubts;
use crate::levels::{Level, Levels, levels};
use crate::report::{ChannelKind, ChannelReport, OverRange, Stretch, TraceReport};
use crate::source::{Source, SourceError};

/// Meaning of a channel, and its scale.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ChannelSetting {
    /// Quantity of the channel.
    pub kind: ChannelKind,
    /// Units per unit of the file: volts at full scale of an audio file, 1 of a file in volts.
    pub scale: f64,
    /// Uncertainty of the scale, as a ratio.
    pub scale_u_ratio: f64,
}

/// Uncertainty of an oscilloscope's vertical scale, unless it is known better.
pub const SCOPE_U_RATIO: f64 = 0.03;

impl ChannelSetting {
    /// A channel whose scale is as good as an oscilloscope's.
    #[must_use]
    pub const fn new(kind: ChannelKind, scale: f64) -> Self {
        Self { kind, scale, scale_u_ratio: SCOPE_U_RATIO }
    }
}

impl Default for ChannelSetting {
    fn default() -> Self {
        Self::new(ChannelKind::Output, 1.0)
    }
}

/// Settings that a trace is read with.
#[derive(Debug, Clone, PartialEq)]
pub struct TraceSettings {
    /// Channels in order; those left out are outputs of scale 1.
    pub channels: Vec<ChannelSetting>,
    /// Load of the outputs.
    pub load_ohm: Option<f64>,
    /// Uncertainty of the load, as a ratio.
    pub load_u_ratio: f64,
    /// Distortion that a clean tone has at most.
    pub limit_ratio: f64,
}

/// Uncertainty of a load whose ohms were measured, unless it is known better.
pub const LOAD_U_RATIO: f64 = 0.01;

impl Default for TraceSettings {
    fn default() -> Self {
        Self { channels: Vec::new(), load_ohm: None, load_u_ratio: LOAD_U_RATIO, limit_ratio: 0.01 }
    }
}

/// Samples that a tone is looked for in.
const LOOKED_AT: usize = 65_536;
/// Samples of a stretch that its tone is looked for in.
const SEARCHED: usize = 16_384;
/// Reads a recording. `progress` hears how many frames were read in the first pass, and may end it.
///
/// # Errors
/// [`SourceError`].
pub fn read(
    source: &mut dyn Source,
    asked: &TraceSettings,
    progress: &mut dyn FnMut(u64) -> ControlFlow<()>,
) -> Result<TraceReport, SourceError> {
    let levels = levels(source, progress)?;
    read_by(source, asked, &levels)
}

/// Reads a recording whose levels are known: with other scales, its first pass stays as it was.
///
/// # Errors
/// [`SourceError`].
pub fn read_by(source: &mut dyn Source, asked: &TraceSettings, levels: &Levels) -> Result<TraceReport, SourceError> {
    let recording = source.recording();
    let mut channels = channels(source, asked, levels)?;
    over_all::responses(&mut channels);
    let together = over_all::together(&channels);
    let doubts = doubts::doubts(source, levels, &channels)?;
    Ok(TraceReport {
        format: "pukka-trace".into(),
        version: 1,
        sample_rate_hz: recording.rate_hz,
        seconds: recording.seconds(),
        channels,
        together,
        doubts,
    })
}

/// A stretch whose ends somebody moved, or whose kind somebody knows better.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cut {
    /// The channel, from 0.
    pub channel: usize,
    /// Kind of stretch.
    pub kind: StretchKind,
    /// Seconds from the start.
    pub from_s: f64,
    /// Behind its end.
    pub to_s: f64,
    /// Frequency near which its tone is; that of the channel's loudest part when it is not known.
    pub near_hz: Option<f64>,
}

/// Measures one stretch between ends that are given, to the quarter of a millisecond; a burst is found to the sample again.
///
/// # Errors
/// [`SourceError::Unreadable`] where it lies outside the recording; else as [`read`].
pub fn cut_anew(source: &mut dyn Source, asked: &TraceSettings, levels: &Levels, cut: Cut) -> Result<Stretch, SourceError> {
    let recording = source.recording();
    let all = levels.channels.get(cut.channel).map_or(0, |level| level.hops.len());
    let at = |s: f64| (s * recording.rate_hz / levels.hop as f64).round();
    let (from, to) = (at(cut.from_s), at(cut.to_s).min(all as f64));
    if !(from >= 0.0 && from < to) {
        let says = format!("From {} to {} s is outside the recording, which lasts {:.3} s.", cut.from_s, cut.to_s, recording.seconds());
        return Err(SourceError::Unreadable(says));
    }
    let piece = Piece { kind: cut.kind, from: from as usize, to: to as usize, level_db: 0.0 };
    let mut reader = Reader { source, asked, levels, tools: Tools::default() };
    let near = match cut.near_hz {
        Some(hz) => Some(hz),
        None => reader.strongest(cut.channel, &levels.channels[cut.channel])?,
    };
    let mut stretch = match near {
        Some(hz) if reader.setting(cut.channel).kind.has_tone() => reader.stretch(cut.channel, piece, hz, None)?,
        _ => reader.bare(cut.channel, StretchKind::Quiet, piece.from, piece.to),
    };
    reader.supplies(cut.channel, std::slice::from_mut(&mut stretch))?;
    Ok(stretch)
}

/// Every channel, by as many threads as the machine has and as the recording can be had times.
fn channels(source: &mut dyn Source, asked: &TraceSettings, levels: &Levels) -> Result<Vec<ChannelReport>, SourceError> {
    let count = source.recording().channels;
    let threads = std::thread::available_parallelism().map_or(1, std::num::NonZero::get).min(count);
    let mut others: Vec<Box<dyn Source>> = (1..threads).map_while(|_| source.again()).collect();
    let next = AtomicUsize::new(0);
    let work = |source: &mut dyn Source| {
        let mut reader = Reader { source, asked, levels, tools: Tools::default() };
        let turns = std::iter::from_fn(|| Some(next.fetch_add(1, Ordering::Relaxed)).filter(|channel| *channel < count));
        turns.map(|channel| Ok((channel, reader.channel(channel)?))).collect::<Result<Vec<_>, SourceError>>()
    };
    let mut found = std::thread::scope(|scope| {
        let helpers: Vec<_> = others.iter_mut().map(|source| scope.spawn(|| work(source.as_mut()))).collect();
        let mut found = work(source)?;
        for helper in helpers {
            found.extend(helper.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))?);
        }
        Ok(found)
    })?;
    found.sort_by_key(|(channel, _)| *channel);
    Ok(found.into_iter().map(|(_, report)| report).collect())
}

/// A part of the recording that has a tone of its own, in hops.
#[derive(Debug, Clone, Copy)]
struct Region {
    from: usize,
    to: usize,
    hz: f64,
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
        let ChannelSetting { kind, scale, scale_u_ratio } = self.setting(channel);
        let level = &self.levels.channels[channel];
        let (all, hop) = (level.hops.len(), self.levels.hop);
        let mut stretches = if kind == ChannelKind::Unused || all == 0 {
            Vec::new()
        } else {
            match self.strongest(channel, level)? {
                Some(hz) if kind.has_tone() => self.stretches(channel, level, hz)?,
                _ => vec![self.bare(channel, StretchKind::Quiet, 0, all)],
            }
        };
        self.supplies(channel, &mut stretches)?;
        let over = |span: &crate::levels::Span| OverRange { from_s: self.seconds(span.from as f64), to_s: self.seconds(span.to as f64) };
        Ok(ChannelReport {
            channel: channel + 1,
            kind,
            scale,
            scale_u_ratio,
            dc: level.mean(0, all, hop) * scale,
            rms: level.mean_square(0, all, hop).sqrt() * scale.abs(),
            peak: level.peak(0, all) * scale.abs(),
            over_range: level.over.iter().map(over).collect(),
            repeats: over_all::repeats(&stretches),
            response: None,
            stretches,
        })
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
            let regions = self.regions(channel, level, hz)?;
            // Of each region alone: beside it there is another tone, whose level is no ramp of this one.
            let own: Vec<Level> = regions.iter().map(|region| level.part(region.from, region.to)).collect();
            let envelope = |(own, region): (_, &Region)| Envelope::new(own, self.levels.hop, self.rate_hz() / region.hz);
            let mut envelopes: Vec<Envelope> = own.iter().zip(&regions).map(envelope).collect();
            Envelope::of_one_channel(&mut envelopes);
            for (envelope, region) in envelopes.iter().zip(&regions) {
                let shifted = |piece: Piece| Piece { from: piece.from + region.from, to: piece.to + region.from, ..piece };
                pieces.extend(envelope.pieces().into_iter().map(|piece| (shifted(piece), region.hz)));
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

    /// A stretch of which only the levels are known.
    fn bare(&self, channel: usize, kind: StretchKind, from: usize, to: usize) -> Stretch {
        let (level, hop, scale) = (&self.levels.channels[channel], self.levels.hop, self.setting(channel).scale);
        let dc = level.mean(from, to, hop);
        Stretch {
            kind,
            from_s: self.seconds((from * hop) as f64),
            to_s: self.seconds((to * hop) as f64),
            dc: dc * scale,
            rms: level.mean_square(from, to, hop).sqrt() * scale.abs(),
            peak: level.peak(from, to) * scale.abs(),
            ..Stretch::default()
        }
    }
}
