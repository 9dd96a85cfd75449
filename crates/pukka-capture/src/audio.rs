//! Audio files.

use std::fs::File;
use std::ops::ControlFlow;
use std::path::Path;

use pukka_core::traces::{Recording, Source, SourceError};
use symphonia::core::codecs::audio::{AudioDecoder, AudioDecoderOptions};
use symphonia::core::errors::Error;
use symphonia::core::formats::probe::Hint;
use symphonia::core::formats::{FormatOptions, FormatReader, SeekMode, SeekTo, TrackType};
use symphonia::core::io::MediaSourceStream;
use symphonia::core::meta::MetadataOptions;
use symphonia::core::units::Timestamp;

use crate::wav::WavHeader;
use crate::{CaptureError, MOST_CHANNELS, RATES_HZ};

/// An audio file, decoded as it is asked for.
pub struct AudioFile {
    format: Box<dyn FormatReader>,
    decoder: Box<dyn AudioDecoder>,
    track: u32,
    recording: Recording,
    /// The window that was read last, of all channels: the others are asked for the same one.
    kept: (u64, Vec<Vec<f64>>),
}

impl std::fmt::Debug for AudioFile {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "AudioFile({:?})", self.recording)
    }
}

/// Frames that a window brings at least, so that the next one is there already.
const WINDOW: usize = 16_384;

impl AudioFile {
    /// Opens an audio file; of a WAV its header was looked at before.
    ///
    /// # Errors
    /// [`CaptureError`].
    pub fn open(path: &Path, header: Option<WavHeader>) -> Result<Self, CaptureError> {
        let stream = MediaSourceStream::new(Box::new(File::open(path)?), Default::default());
        let probed = symphonia::default::get_probe().probe(&Hint::new(), stream, FormatOptions::default(), MetadataOptions::default());
        let format = probed.map_err(|why| unreadable(&why))?;
        let track = format.default_track(TrackType::Audio).ok_or_else(|| CaptureError::Unknown("There is no sound in it.".into()))?;
        let (id, counted) = (track.id, track.num_frames);
        let parameters = track.codec_params.as_ref().and_then(|parameters| parameters.audio());
        let parameters = parameters.ok_or_else(|| CaptureError::Unknown("How its sound is coded is not known.".into()))?.clone();
        let decoder = symphonia::default::get_codecs().make_audio_decoder(&parameters, &AudioDecoderOptions::default());
        let rate_hz = f64::from(parameters.sample_rate.unwrap_or(0));
        let channels = parameters.channels.as_ref().map_or(0, |channels| channels.count());
        if !RATES_HZ.contains(&rate_hz) {
            return Err(CaptureError::Unknown(format!("Its header says {rate_hz} samples a second: 8 kHz to 1 MHz are read.")));
        }
        if channels == 0 || channels > MOST_CHANNELS {
            return Err(CaptureError::Unknown(format!("It has {channels} channels: 1 to {MOST_CHANNELS} are read.")));
        }
        let frames = header.map(|header| header.frames).or(counted).unwrap_or(0);
        let is_float = parameters.sample_format.is_some_and(|format| format!("{format:?}").starts_with('F'));
        let bits = header.map_or_else(|| parameters.bits_per_sample.filter(|_| !is_float), |header| header.bits);
        let recording = Recording { rate_hz, frames, channels, full_scale: Some(1.0), bits };
        let mut opened = Self { format, decoder: decoder.map_err(|why| unreadable(&why))?, track: id, recording, kept: (0, Vec::new()) };
        if header.is_none() && counted.is_none() {
            opened.recording.frames = opened.count()?;
        }
        Ok(opened)
    }

    /// How many frames there are, where no header says it.
    fn count(&mut self) -> Result<u64, CaptureError> {
        let mut frames = 0;
        let counted = self.blocks(&mut |block| {
            frames += block.first().map_or(0, Vec::len) as u64;
            ControlFlow::Continue(())
        });
        counted.map_err(|why| CaptureError::Unknown(why.to_string()))?;
        Ok(frames)
    }

    /// The next packet decoded: where it begins, and its samples, a list a channel.
    fn next<T: symphonia::core::audio::sample::Sample + symphonia::core::audio::conv::ConvertibleSample>(
        &mut self,
        into: &mut Vec<Vec<T>>,
    ) -> Result<Option<u64>, SourceError> {
        loop {
            let packet = match self.format.next_packet() {
                Ok(Some(packet)) => packet,
                Ok(None) => return Ok(None),
                Err(why) => return Err(self.broken(&why)),
            };
            if packet.track_id != self.track {
                continue;
            }
            let at = u64::try_from(packet.pts.get()).unwrap_or(0);
            return match self.decoder.decode(&packet) {
                Ok(decoded) => {
                    decoded.copy_to_vecs_planar(into);
                    Ok(Some(at))
                }
                Err(why) => Err(SourceError::Unreadable(format!("At {:.3} s: {}", at as f64 / self.recording.rate_hz, plain(&why)))),
            };
        }
    }

    fn broken(&self, why: &Error) -> SourceError {
        SourceError::Unreadable(format!("The file breaks off: {}", plain(why)))
    }

    fn rewind(&mut self, frame: u64) -> Result<(), SourceError> {
        let ts = Timestamp::new(i64::try_from(frame).unwrap_or(i64::MAX));
        self.format.seek(SeekMode::Accurate, SeekTo::Timestamp { ts, track_id: self.track }).map_err(|why| self.broken(&why))?;
        self.decoder.reset();
        Ok(())
    }
}

/// Why a file cannot be read, without words of the decoder's own.
fn plain(why: &Error) -> String {
    match why {
        Error::IoError(_) => "the file ends before its sound does.".into(),
        Error::DecodeError(_) => "the samples cannot be decoded.".into(),
        _ => "its format is not read.".into(),
    }
}

fn unreadable(why: &Error) -> CaptureError {
    CaptureError::Unknown(format!("It cannot be read as sound: {}", plain(why)))
}

impl Source for AudioFile {
    fn recording(&self) -> Recording {
        self.recording
    }

    fn blocks(&mut self, each: &mut dyn FnMut(&[Vec<f32>]) -> ControlFlow<()>) -> Result<(), SourceError> {
        self.rewind(0)?;
        let (mut block, mut done) = (Vec::<Vec<f32>>::new(), 0u64);
        while self.next(&mut block)?.is_some() {
            for (channel, samples) in block.iter().enumerate() {
                if let Some(at) = samples.iter().position(|sample| !sample.is_finite()) {
                    let what = if samples[at].is_nan() { "NaN" } else { "infinity" };
                    let at_s = format!("{:.6}", (done + at as u64) as f64 / self.recording.rate_hz);
                    return Err(SourceError::NotFinite { channel: channel + 1, at_s, what });
                }
            }
            done += block.first().map_or(0, Vec::len) as u64;
            if each(&block).is_break() {
                return Err(SourceError::Stopped);
            }
        }
        if done < self.recording.frames {
            let says = format!(
                "The file breaks off at {:.3} s: its header promises {:.3} s.",
                done as f64 / self.recording.rate_hz,
                self.recording.seconds()
            );
            return Err(SourceError::Unreadable(says));
        }
        Ok(())
    }

    fn window(&mut self, channel: usize, from: u64, frames: usize) -> Result<Vec<f64>, SourceError> {
        let there = usize::try_from(self.recording.frames.saturating_sub(from)).unwrap_or(usize::MAX);
        let frames = frames.min(there);
        let covers = |kept: &(u64, Vec<Vec<f64>>)| {
            let length = kept.1.first().map_or(0, Vec::len) as u64;
            kept.0 <= from && from + frames as u64 <= kept.0 + length
        };
        if !covers(&self.kept) {
            self.kept = (from, self.read(from, frames.max(WINDOW.min(there)))?);
        }
        let start = (from - self.kept.0) as usize;
        let samples = self.kept.1.get(channel).map_or(&[][..], Vec::as_slice);
        Ok(samples.get(start..(start + frames).min(samples.len())).unwrap_or_default().to_vec())
    }
}

impl AudioFile {
    fn read(&mut self, from: u64, frames: usize) -> Result<Vec<Vec<f64>>, SourceError> {
        self.rewind(from)?;
        let mut found: Vec<Vec<f64>> = vec![Vec::with_capacity(frames); self.recording.channels];
        let mut block = Vec::<Vec<f64>>::new();
        while found.first().is_some_and(|samples| samples.len() < frames) {
            let Some(at) = self.next(&mut block)? else { break };
            // An accurate seek ends at or before what was asked for.
            let skipped = usize::try_from(from.saturating_sub(at)).unwrap_or(usize::MAX);
            let skip = if found.first().is_some_and(Vec::is_empty) { skipped } else { 0 };
            for (own, samples) in found.iter_mut().zip(&block) {
                let room = frames - own.len();
                own.extend(samples.iter().skip(skip).take(room));
            }
        }
        Ok(found)
    }
}
