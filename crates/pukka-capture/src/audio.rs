//! Audio files.

use std::fs::File;
use std::io::Cursor;
use std::ops::ControlFlow;
use std::path::PathBuf;
use std::sync::Arc;

use pukka_waves::source::not_finite;
use pukka_waves::{Recording, Source, SourceError};
use symphonia::core::audio::conv::ConvertibleSample;
use symphonia::core::audio::sample::Sample;
use symphonia::core::codecs::audio::{AudioDecoder, AudioDecoderOptions};
use symphonia::core::errors::Error;
use symphonia::core::formats::probe::Hint;
use symphonia::core::formats::{FormatOptions, FormatReader, SeekMode, SeekTo, TrackType};
use symphonia::core::io::{MediaSource, MediaSourceStream};
use symphonia::core::meta::MetadataOptions;
use symphonia::core::packet::Packet;
use symphonia::core::units::Timestamp;

use crate::pcm::Pcm;
use crate::wav::WavHeader;
use crate::{CaptureError, MOST_CHANNELS, RATES_HZ};

/// Place of the bytes.
#[derive(Debug, Clone)]
pub enum Origin {
    /// In a file.
    Path(PathBuf),
    /// In memory: a block that an instrument sent.
    Bytes(Arc<[u8]>),
}

impl Origin {
    fn media(&self) -> std::io::Result<Box<dyn MediaSource>> {
        Ok(match self {
            Self::Path(path) => Box::new(File::open(path)?),
            Self::Bytes(bytes) => Box::new(Cursor::new(Arc::clone(bytes))),
        })
    }
}

/// An audio file, decoded as it is asked for.
pub struct AudioFile {
    origin: Origin,
    header: Option<WavHeader>,
    format: Box<dyn FormatReader>,
    decoder: Box<dyn AudioDecoder>,
    track: u32,
    recording: Recording,
    /// Form of samples that need no decoder.
    pcm: Option<Pcm>,
    kept: Kept,
}

/// The window that was read last, of all channels: the others are asked for the same one.
#[derive(Debug, Default)]
struct Kept {
    from: u64,
    frames: usize,
    /// As they stand in the file, where they need no decoder.
    bytes: Vec<u8>,
    decoded: Vec<Vec<f64>>,
}

impl std::fmt::Debug for AudioFile {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "AudioFile({:?})", self.recording)
    }
}

/// Frames that a window brings at least, so that the next one is ready.
const WINDOW: usize = 16_384;

impl AudioFile {
    /// Opens an audio file; of a WAV its header was looked at before.
    ///
    /// # Errors
    /// [`CaptureError`].
    pub fn open(origin: Origin, header: Option<WavHeader>) -> Result<Self, CaptureError> {
        let format = reader(&origin)?;
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
        let (decoder, pcm) = (decoder.map_err(|why| unreadable(&why))?, Pcm::of(parameters.codec));
        let mut opened = Self { origin, header, format, decoder, track: id, recording, pcm, kept: Kept::default() };
        if header.is_none() && counted.is_none() {
            opened.recording.frames = opened.count()?;
        }
        Ok(opened)
    }

    /// Number of frames, where no header says it.
    fn count(&mut self) -> Result<u64, CaptureError> {
        let mut frames = 0;
        let counted = self.blocks(0, &mut |block| {
            frames += block.first().map_or(0, Vec::len) as u64;
            ControlFlow::Continue(())
        });
        counted.map_err(|why| CaptureError::Unknown(why.to_string()))?;
        Ok(frames)
    }

    /// The next packet: where it begins, and its bytes.
    fn packet(&mut self) -> Result<Option<Packet>, SourceError> {
        loop {
            match self.format.next_packet() {
                Ok(Some(packet)) if packet.track_id == self.track => return Ok(Some(packet)),
                Ok(Some(_)) => {}
                Ok(None) => return Ok(None),
                Err(why) => return Err(self.broken(&why)),
            }
        }
    }

    /// Samples, a list a channel.
    fn decode<T: Sample + ConvertibleSample>(&mut self, packet: &Packet, into: &mut Vec<Vec<T>>) -> Result<(), SourceError> {
        match self.decoder.decode(packet) {
            Ok(decoded) => decoded.copy_to_vecs_planar(into),
            Err(why) => {
                let says = format!("At {:.3} s: {}", begins(packet) as f64 / self.recording.rate_hz, plain(&why));
                return Err(SourceError::Unreadable(says));
            }
        }
        Ok(())
    }

    fn broken(&self, why: &Error) -> SourceError {
        SourceError::Unreadable(format!("The file breaks off: {}", plain(why)))
    }

    /// Goes to a frame, or to one before it: whoever reads on skips what comes before.
    fn rewind(&mut self, frame: u64) -> Result<(), SourceError> {
        // What is coded is opened anew: its reader may hold on to where it was, when it is sent to where a block begins.
        if self.pcm.is_none() {
            self.format = reader(&self.origin).map_err(|why| SourceError::Unreadable(why.to_string()))?;
        }
        let ts = Timestamp::new(i64::try_from(frame).unwrap_or(i64::MAX));
        self.format.seek(SeekMode::Accurate, SeekTo::Timestamp { ts, track_id: self.track }).map_err(|why| self.broken(&why))?;
        self.decoder.reset();
        Ok(())
    }
}

fn reader(origin: &Origin) -> Result<Box<dyn FormatReader>, CaptureError> {
    let stream = MediaSourceStream::new(origin.media()?, Default::default());
    let probed = symphonia::default::get_probe().probe(&Hint::new(), stream, FormatOptions::default(), MetadataOptions::default());
    probed.map_err(|why| unreadable(&why))
}

/// The first frame of a packet.
fn begins(packet: &Packet) -> u64 {
    u64::try_from(packet.pts.get()).unwrap_or(0)
}

/// Reason why a file cannot be read, without words of the decoder's own.
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

    fn blocks(&mut self, from: u64, each: &mut dyn FnMut(&[Vec<f32>]) -> ControlFlow<()>) -> Result<(), SourceError> {
        if from > 0 && from >= self.recording.frames {
            return Ok(());
        }
        self.rewind(from)?;
        let channels = self.recording.channels;
        let (mut block, mut done) = (vec![Vec::<f32>::new(); channels], from);
        while let Some(packet) = self.packet()? {
            // An accurate seek ends at or before what was asked for.
            let skip = if done == from { usize::try_from(from.saturating_sub(begins(&packet))).unwrap_or(usize::MAX) } else { 0 };
            match self.pcm {
                Some(pcm) => {
                    let bytes = packet.data.get(skip.saturating_mul(pcm.bytes() * channels)..).unwrap_or_default();
                    for (channel, samples) in block.iter_mut().enumerate() {
                        samples.clear();
                        pcm.channel(bytes, channel, channels, samples);
                    }
                }
                None => {
                    self.decode(&packet, &mut block)?;
                    block.iter_mut().for_each(|samples| drop(samples.drain(..skip.min(samples.len()))));
                }
            }
            // Whole numbers are numbers.
            if self.pcm.is_none_or(Pcm::is_float) {
                let mut each = block.iter().enumerate();
                if let Some(error) = each.find_map(|(channel, samples)| not_finite(samples, channel, done, self.recording.rate_hz)) {
                    return Err(error);
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
        if frames == 0 || channel >= self.recording.channels {
            return Ok(Vec::new());
        }
        if !(self.kept.from <= from && from + frames as u64 <= self.kept.from + self.kept.frames as u64) {
            self.keep(from, frames.max(WINDOW.min(there)))?;
        }
        let start = (from - self.kept.from) as usize;
        let end = (start + frames).min(self.kept.frames);
        let mut samples = Vec::with_capacity(frames);
        match self.pcm {
            Some(pcm) => {
                let frame = pcm.bytes() * self.recording.channels;
                pcm.channel(&self.kept.bytes[start * frame..end * frame], channel, self.recording.channels, &mut samples);
            }
            None => samples.extend_from_slice(&self.kept.decoded[channel][start..end]),
        }
        Ok(samples)
    }

    fn again(&self) -> Option<Box<dyn Source>> {
        Some(Box::new(Self::open(self.origin.clone(), self.header).ok()?))
    }
}

impl AudioFile {
    /// Reads a window into what is kept.
    fn keep(&mut self, from: u64, frames: usize) -> Result<(), SourceError> {
        self.rewind(from)?;
        let channels = self.recording.channels;
        let mut kept = std::mem::take(&mut self.kept);
        kept.bytes.clear();
        kept.decoded.resize(channels, Vec::new());
        kept.decoded.iter_mut().for_each(Vec::clear);
        (kept.from, kept.frames) = (from, 0);
        let mut block = Vec::<Vec<f64>>::new();
        while kept.frames < frames {
            let Some(packet) = self.packet()? else { break };
            // An accurate seek ends at or before what was asked for.
            let skip = if kept.frames == 0 { usize::try_from(from.saturating_sub(begins(&packet))).unwrap_or(usize::MAX) } else { 0 };
            let room = frames - kept.frames;
            let part = |there: usize| skip.min(there)..skip.saturating_add(room).min(there);
            kept.frames += match self.pcm {
                Some(pcm) => {
                    let frame = pcm.bytes() * channels;
                    let part = part(packet.data.len() / frame);
                    kept.bytes.extend_from_slice(&packet.data[part.start * frame..part.end * frame]);
                    part.len()
                }
                None => {
                    self.decode(&packet, &mut block)?;
                    let part = part(block.first().map_or(0, Vec::len));
                    for (own, samples) in kept.decoded.iter_mut().zip(&block) {
                        own.extend_from_slice(&samples[part.clone()]);
                    }
                    part.len()
                }
            };
        }
        self.kept = kept;
        Ok(())
    }
}
