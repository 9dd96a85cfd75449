//! Recordings of waves as blocks of samples: audio files, and the CSV of oscilloscopes.
//!
//! [`open`] looks at what a file is, not at what it is called. A file that cannot be read whole is refused, with the place: nothing
//! is filled in, and nothing is read in part.

mod audio;
mod bare;
mod csv_file;
mod layout;
mod pcm;
mod wav;

use std::fs::File;
use std::io::{Cursor, Read as _};
use std::path::Path;
use std::sync::Arc;

use pukka_waves::Source;
use thiserror::Error;

pub use audio::{AudioFile, Origin};
pub use bare::bare;
pub use csv_file::CsvFile;

/// Reason why a file cannot be read, with the place.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum CaptureError {
    /// The system refuses it.
    #[error("It cannot be opened: {0}.")]
    Io(String),
    /// Something in it cannot be, at a byte.
    #[error("Byte {at}: {says}")]
    AtByte {
        /// From 0.
        at: u64,
        /// Doubt, and why it matters.
        says: String,
    },
    /// Something in it cannot be, on a line.
    #[error("Line {line}{}: {says}", .column.map(|column| format!(", column {column}")).unwrap_or_default())]
    AtLine {
        /// From 1.
        line: u64,
        /// From 1.
        column: Option<usize>,
        /// Doubt, and why it matters.
        says: String,
    },
    /// No recording that is known.
    #[error("{0}")]
    Unknown(String),
}

impl From<std::io::Error> for CaptureError {
    fn from(error: std::io::Error) -> Self {
        Self::Io(error.to_string())
    }
}

/// Channels at most, and rates, that are read of an audio file.
pub(crate) const MOST_CHANNELS: usize = 8;
pub(crate) const RATES_HZ: std::ops::RangeInclusive<f64> = 8_000.0..=1_000_000.0;

/// Form of a file, by what its first bytes say.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Form {
    /// RIFF/WAVE.
    Wav,
    /// Free lossless audio.
    Flac,
    /// AIFF or AIFF-C.
    Aiff,
    /// Core audio.
    Caf,
    /// Text of an oscilloscope.
    Csv,
}

impl Form {
    /// Form of a file.
    ///
    /// # Errors
    /// [`CaptureError`] when it is none of them.
    pub fn of(path: &Path) -> Result<Self, CaptureError> {
        let mut first = Vec::with_capacity(16);
        File::open(path)?.take(16).read_to_end(&mut first)?;
        let is = |at: usize, word: &[u8]| first.get(at..at + word.len()) == Some(word);
        if first.is_empty() {
            return Err(CaptureError::AtByte { at: 0, says: "The file is empty.".into() });
        }
        if is(0, &[0xFF, 0xFE]) || is(0, &[0xFE, 0xFF]) {
            return Err(CaptureError::AtByte { at: 0, says: "It is UTF-16: save it as UTF-8, or as plain text.".into() });
        }
        if is(0, b"RF64") || is(0, b"BW64") {
            let says = "It is a WAV past 4 GiB (RF64), which is not read: cut it into pieces.";
            return Err(CaptureError::AtByte { at: 0, says: says.into() });
        }
        if is(0, b"RIFF") || is(0, b"RIFX") {
            return Ok(Self::Wav);
        }
        if is(0, b"fLaC") {
            return Ok(Self::Flac);
        }
        if is(0, b"FORM") {
            return Ok(Self::Aiff);
        }
        if is(0, b"caff") {
            return Ok(Self::Caf);
        }
        if first.contains(&0) {
            let says = "It is neither WAV, FLAC, AIFF nor CAF, nor text that a CSV would be.";
            return Err(CaptureError::AtByte { at: first.iter().position(|byte| *byte == 0).unwrap_or(0) as u64, says: says.into() });
        }
        Ok(Self::Csv)
    }

    /// Ending of its name.
    #[must_use]
    pub const fn ending(self) -> &'static str {
        match self {
            Self::Wav => "wav",
            Self::Flac => "flac",
            Self::Aiff => "aiff",
            Self::Caf => "caf",
            Self::Csv => "csv",
        }
    }
}

/// Opens a recording, by what its first bytes say.
///
/// # Errors
/// [`CaptureError`].
pub fn open(path: &Path) -> Result<Box<dyn Source>, CaptureError> {
    Ok(match Form::of(path)? {
        Form::Wav => {
            let header = wav::check(File::open(path)?)?;
            Box::new(AudioFile::open(Origin::Path(path.to_owned()), Some(header))?)
        }
        Form::Flac | Form::Aiff | Form::Caf => Box::new(AudioFile::open(Origin::Path(path.to_owned()), None)?),
        Form::Csv => Box::new(CsvFile::open(path)?),
    })
}

/// Opens a WAV that an instrument sent as a block.
///
/// # Errors
/// [`CaptureError`].
pub fn open_wav(bytes: Vec<u8>) -> Result<Box<dyn Source>, CaptureError> {
    let bytes: Arc<[u8]> = bytes.into();
    let header = wav::check(Cursor::new(&bytes))?;
    Ok(Box::new(AudioFile::open(Origin::Bytes(bytes), Some(header))?))
}
