//! Where samples come from: blocks in order, and windows out of the middle.

use std::ops::ControlFlow;
use std::sync::Arc;

use thiserror::Error;

/// Format of a recording.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Recording {
    /// Samples a second.
    pub rate_hz: f64,
    /// Samples of each channel.
    pub frames: u64,
    /// Number of channels.
    pub channels: usize,
    /// Full scale of the samples, where they have one: 1 of an audio file, nothing of volts.
    pub full_scale: Option<f64>,
    /// Bits of a whole-number format: its own floor is known.
    pub bits: Option<u32>,
}

impl Recording {
    /// Length.
    #[must_use]
    pub fn seconds(&self) -> f64 {
        self.frames as f64 / self.rate_hz
    }

    /// The step between two values of a whole-number format.
    #[must_use]
    pub fn least_step(&self) -> Option<f64> {
        Some(self.full_scale? / 2f64.powi(i32::try_from(self.bits?).ok()? - 1))
    }
}

/// Reason why samples cannot be had, with the place.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum SourceError {
    /// Cannot be read: what, and where.
    #[error("{0}")]
    Unreadable(String),
    /// A sample is no number.
    #[error("Channel {channel} has no number at {at_s} s: {what}.")]
    NotFinite {
        /// From 1.
        channel: usize,
        /// Seconds from the start, as text.
        at_s: String,
        /// "NaN" or "infinity".
        what: &'static str,
    },
    /// Whoever asked has left.
    #[error("Stopped.")]
    Stopped,
}

/// Samples of a recording. Every sample is a number; a source that finds another says where.
pub trait Source: Send {
    /// Format.
    fn recording(&self) -> Recording;

    /// Every block in order from a frame on, a list a channel, all of one length. `each` may end it.
    ///
    /// # Errors
    /// [`SourceError`]; [`SourceError::Stopped`] where `each` ended it.
    fn blocks(&mut self, from: u64, each: &mut dyn FnMut(&[Vec<f32>]) -> ControlFlow<()>) -> Result<(), SourceError>;

    /// Samples of one channel, from a frame on; fewer where it ends.
    ///
    /// # Errors
    /// [`SourceError`].
    fn window(&mut self, channel: usize, from: u64, frames: usize) -> Result<Vec<f64>, SourceError>;

    /// The same recording once more, for another thread to read; nothing where it cannot be had twice.
    fn again(&self) -> Option<Box<dyn Source>> {
        None
    }
}

/// Samples that are in memory.
#[derive(Debug, Clone)]
pub struct Memory {
    recording: Recording,
    channels: Arc<Vec<Vec<f64>>>,
}

/// Frames of a block.
pub const BLOCK: usize = 65_536;

impl Memory {
    /// A recording of these channels.
    ///
    /// # Errors
    /// [`SourceError`] where a sample is no number, or a channel is shorter than another.
    pub fn new(rate_hz: f64, channels: Vec<Vec<f64>>, full_scale: Option<f64>, bits: Option<u32>) -> Result<Self, SourceError> {
        let frames = channels.first().map_or(0, Vec::len);
        if channels.iter().any(|channel| channel.len() != frames) {
            return Err(SourceError::Unreadable("Its channels are not of one length.".into()));
        }
        for (i, channel) in channels.iter().enumerate() {
            if let Some(error) = not_finite(channel, i, 0, rate_hz) {
                return Err(error);
            }
        }
        let recording = Recording { rate_hz, frames: frames as u64, channels: channels.len(), full_scale, bits };
        Ok(Self { recording, channels: Arc::new(channels) })
    }
}

/// The first sample that is no number.
#[must_use]
pub fn not_finite<T: Copy + Into<f64>>(samples: &[T], channel: usize, from: u64, rate_hz: f64) -> Option<SourceError> {
    let at = samples.iter().position(|sample| !(*sample).into().is_finite())?;
    let what = if samples[at].into().is_nan() { "NaN" } else { "infinity" };
    Some(SourceError::NotFinite { channel: channel + 1, at_s: format!("{:.6}", (from + at as u64) as f64 / rate_hz), what })
}

impl Source for Memory {
    fn recording(&self) -> Recording {
        self.recording
    }

    fn blocks(&mut self, from: u64, each: &mut dyn FnMut(&[Vec<f32>]) -> ControlFlow<()>) -> Result<(), SourceError> {
        let frames = self.channels.first().map_or(0, Vec::len);
        for from in (usize::try_from(from).unwrap_or(frames)..frames).step_by(BLOCK) {
            let to = (from + BLOCK).min(frames);
            let block: Vec<Vec<f32>> = self.channels.iter().map(|channel| channel[from..to].iter().map(|x| *x as f32).collect()).collect();
            if each(&block).is_break() {
                return Err(SourceError::Stopped);
            }
        }
        Ok(())
    }

    fn window(&mut self, channel: usize, from: u64, frames: usize) -> Result<Vec<f64>, SourceError> {
        let Some(samples) = self.channels.get(channel) else { return Ok(Vec::new()) };
        let from = usize::try_from(from).unwrap_or(usize::MAX).min(samples.len());
        Ok(samples[from..from.saturating_add(frames).min(samples.len())].to_vec())
    }

    fn again(&self) -> Option<Box<dyn Source>> {
        Some(Box::new(self.clone()))
    }
}
