//! A tone as a WAV file in memory: one channel, whole numbers.

use std::io::Cursor;

use hound::{SampleFormat, WavSpec, WavWriter};
use serde::{Deserialize, Serialize};

/// Sampling rates that are made, hertz.
pub const RATES: [u32; 3] = [44_100, 48_000, 96_000];

/// Bits of a sample.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub enum Depth {
    /// 16 bit.
    #[serde(rename = "16")]
    Sixteen,
    /// 24 bit.
    #[serde(rename = "24")]
    TwentyFour,
}

impl Depth {
    /// Bits.
    #[must_use]
    pub const fn bits(self) -> u16 {
        match self {
            Self::Sixteen => 16,
            Self::TwentyFour => 24,
        }
    }
}

/// Writes samples of full scale 1. Each is rounded to the nearest step: half a step off at the most, −98 dB of full scale at
/// 16 bit and −146 dB at 24.
///
/// # Errors
/// When they are more than a WAV file holds.
pub fn wav(samples: impl IntoIterator<Item = f64>, rate: u32, depth: Depth) -> Result<Vec<u8>, hound::Error> {
    let spec = WavSpec { channels: 1, sample_rate: rate, bits_per_sample: depth.bits(), sample_format: SampleFormat::Int };
    let full = f64::from((1i32 << (depth.bits() - 1)) - 1);
    let mut file = Cursor::new(Vec::new());
    let mut writer = WavWriter::new(&mut file, spec)?;
    for sample in samples {
        writer.write_sample((sample * full).round() as i32)?;
    }
    writer.finalize()?;
    Ok(file.into_inner())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tones::{Shape, Tone};

    #[test]
    fn what_is_written_is_what_was_made() {
        let tone = Tone { hz: 1_000.0, level_dbfs: 0.0, shape: Shape::Sine };
        for (depth, step) in [(Depth::Sixteen, 1.0 / 32_767.0), (Depth::TwentyFour, 1.0 / 8_388_607.0)] {
            for rate in RATES {
                let made: Vec<f64> = tone.file(0.25, rate).collect();
                let bytes = wav(made.iter().copied(), rate, depth).unwrap();
                let mut reader = hound::WavReader::new(Cursor::new(bytes)).unwrap();
                let spec = reader.spec();
                assert_eq!((spec.sample_rate, spec.bits_per_sample, spec.channels), (rate, depth.bits(), 1));
                let read: Vec<f64> = reader.samples::<i32>().map(|s| f64::from(s.unwrap()) * step).collect();
                assert_eq!(read.len(), made.len());
                assert!(read.iter().zip(&made).all(|(a, b)| (a - b).abs() <= 0.501 * step));
                let peak = read.iter().copied().fold(0.0, f64::max);
                assert!(peak <= 1.0 && peak > 0.999, "full scale is reached and never passed: {peak}");
            }
        }
    }
}
