//! What the header of a WAV says, before anything is decoded: a recorder that was stopped too early leaves sizes that are none.
//!
//! Ref: RIFF/WAVE: chunks of a four-letter word and a size of four bytes; a chunk of odd size is padded by one byte.

use std::io::{BufReader, Read, Seek, SeekFrom};

use crate::{CaptureError, MOST_CHANNELS, RATES_HZ};

/// Content of a header.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct WavHeader {
    /// Samples of each channel.
    pub frames: u64,
    /// Bits a sample, of a whole-number format.
    pub bits: Option<u32>,
}

const PCM: u16 = 1;
const FLOAT: u16 = 3;
const EXTENSIBLE: u16 = 0xFFFE;
/// A size that stands for "not known yet".
const OPEN_END: u32 = u32::MAX;

fn at(at: u64, says: impl Into<String>) -> CaptureError {
    CaptureError::AtByte { at, says: says.into() }
}

struct Format {
    channels: u16,
    bytes_a_frame: u16,
    bits: u16,
    float: bool,
}

/// Walks the chunks of a WAV.
///
/// # Errors
/// [`CaptureError::AtByte`] where something cannot be.
pub fn check(bytes: impl Read + Seek) -> Result<WavHeader, CaptureError> {
    let mut file = BufReader::new(bytes);
    let length = file.seek(SeekFrom::End(0))?;
    file.seek(SeekFrom::Start(0))?;
    let mut head = [0; 12];
    file.read_exact(&mut head).map_err(|_| at(length, "The file ends inside its header."))?;
    if head[..4] == *b"RIFX" {
        return Err(at(0, "It is big-endian (RIFX), which is not read."));
    }
    if head[8..] != *b"WAVE" {
        return Err(at(8, "It is a RIFF file, but no WAVE."));
    }
    let riff = u32::from_le_bytes([head[4], head[5], head[6], head[7]]);
    if riff == 0 || riff == OPEN_END {
        let says = format!("The header gives the file {riff} bytes: the recorder was stopped before it could write how long it is.");
        return Err(at(4, says));
    }
    let mut format = None;
    loop {
        let place = file.stream_position()?;
        let mut chunk = [0; 8];
        if place >= length || file.read_exact(&mut chunk).is_err() {
            let missing = if format.is_some() { "data" } else { "fmt" };
            return Err(at(place.min(length), format!("The file ends without a “{missing}” chunk.")));
        }
        let size = u32::from_le_bytes([chunk[4], chunk[5], chunk[6], chunk[7]]);
        match &chunk[..4] {
            b"fmt " => format = Some(read_format(&mut file, place, size)?),
            b"data" => return data(format.as_ref(), place, size, length),
            _ => {}
        }
        // Past what was read of it, and its padding.
        file.seek(SeekFrom::Start(place + 8 + u64::from(size) + u64::from(size % 2)))?;
    }
}

fn read_format(file: &mut impl Read, place: u64, size: u32) -> Result<Format, CaptureError> {
    let mut bytes = [0; 40];
    let wanted = (size as usize).min(40);
    if wanted < 16 || file.read_exact(&mut bytes[..wanted]).is_err() {
        return Err(at(place + 4, format!("The “fmt” chunk has {size} bytes: 16 at least.")));
    }
    let word = |i: usize| u16::from_le_bytes([bytes[i], bytes[i + 1]]);
    let (mut tag, channels, bytes_a_frame, bits) = (word(0), word(2), word(12), word(14));
    let rate = u32::from_le_bytes([bytes[4], bytes[5], bytes[6], bytes[7]]);
    if tag == EXTENSIBLE && wanted >= 26 {
        tag = word(24);
    }
    if tag != PCM && tag != FLOAT {
        return Err(at(place + 8, format!("Samples of format {tag} are compressed: only whole numbers and floats are read.")));
    }
    if channels == 0 || usize::from(channels) > MOST_CHANNELS {
        return Err(at(place + 10, format!("{channels} channels: 1 to {MOST_CHANNELS} are read.")));
    }
    if !RATES_HZ.contains(&f64::from(rate)) {
        return Err(at(place + 12, format!("{rate} samples a second: 8 kHz to 1 MHz are read.")));
    }
    let float = tag == FLOAT;
    let known = if float { [32, 64].contains(&bits) } else { [8, 16, 24, 32].contains(&bits) };
    if !known || bytes_a_frame != channels * bits.div_ceil(8) {
        return Err(at(place + 20, format!("{bits} bits a sample in frames of {bytes_a_frame} bytes cannot be.")));
    }
    Ok(Format { channels, bytes_a_frame, bits, float })
}

fn data(format: Option<&Format>, place: u64, size: u32, length: u64) -> Result<WavHeader, CaptureError> {
    let Some(format) = format else { return Err(at(place, "The “data” chunk comes before the “fmt” chunk.")) };
    let there = length.saturating_sub(place + 8);
    if size == 0 && there > 0 {
        let says =
            format!("The header gives the data 0 bytes, and {there} follow: the recorder was stopped before it could write how many.");
        return Err(at(place + 4, says));
    }
    if size == OPEN_END {
        return Err(at(place + 4, "The header gives the data no end: the recorder was stopped before it could write how long it is."));
    }
    if u64::from(size) > there {
        return Err(at(length, format!("The file ends here: its header promises {size} bytes of data, and {there} are there.")));
    }
    let frame = u64::from(format.bytes_a_frame);
    if u64::from(size) % frame != 0 {
        return Err(at(place + 4, format!("{size} bytes are no whole number of frames of {frame} bytes.")));
    }
    debug_assert!(format.channels > 0, "checked");
    Ok(WavHeader { frames: u64::from(size) / frame, bits: (!format.float).then_some(u32::from(format.bits)) })
}
