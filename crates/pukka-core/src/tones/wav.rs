//! A tone as a WAV, piece by piece: one channel, or two that swing against one another; whole numbers.
//!
//! At 16 bit there is triangular dither of one step either way (TPDF), so that −100 dBFS is a tone and not nothing; what is silent stays
//! silent. At 24 bit rounding alone is 146 dB down.
//!
//! Ref: RIFF/WAVE; AES17, 5 (dither of test signals).

use serde::{Deserialize, Serialize};

use crate::tones::Tone;

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

    /// A sample of full scale 1 as a number of steps.
    fn steps(self, sample: f64, n: u64) -> i32 {
        let full = f64::from((1i32 << (self.bits() - 1)) - 1);
        let dithered = self == Self::Sixteen && sample != 0.0;
        let value = sample * full + if dithered { triangular(n) } else { 0.0 };
        value.round().clamp(-full, full) as i32
    }
}

/// Channels of a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Sides {
    /// One.
    #[default]
    One,
    /// Two, the right one upside down: for bridged and strapped outputs.
    Against,
}

impl Sides {
    const fn count(self) -> u16 {
        match self {
            Self::One => 1,
            Self::Against => 2,
        }
    }
}

/// A tone on its way into a file.
#[derive(Debug, Clone)]
pub struct WavPieces {
    tone: Tone,
    rate: u32,
    depth: Depth,
    sides: Sides,
    looped: bool,
    samples: u64,
    done: Option<u64>,
}

/// Samples of a piece.
const PIECE: u64 = 65_536;
/// Bytes of the header.
const HEADER: u64 = 44;

impl WavPieces {
    /// A tone of so many seconds; to be played over and over where that is asked for and goes.
    #[must_use]
    pub fn new(tone: Tone, seconds: f64, rate: u32, depth: Depth, sides: Sides, looped: bool) -> Self {
        let round = tone.loop_samples(rate).filter(|_| looped);
        let samples = round.unwrap_or_else(|| tone.file_samples(seconds, rate));
        Self { tone, rate, depth, sides, looped: round.is_some(), samples, done: None }
    }

    const fn frame(&self) -> u64 {
        self.depth.bits() as u64 / 8 * self.sides.count() as u64
    }

    /// Bytes of the whole file.
    #[must_use]
    pub const fn bytes(&self) -> u64 {
        HEADER + self.samples * self.frame()
    }

    fn header(&self) -> Vec<u8> {
        let data = u32::try_from(self.samples * self.frame()).unwrap_or(u32::MAX);
        let (channels, bits) = (self.sides.count(), self.depth.bits());
        let frame = channels * bits / 8;
        let mut header = Vec::with_capacity(HEADER as usize);
        header.extend(b"RIFF");
        header.extend((data.saturating_add(HEADER as u32 - 8)).to_le_bytes());
        header.extend(b"WAVEfmt ");
        header.extend(16u32.to_le_bytes());
        header.extend(1u16.to_le_bytes());
        header.extend(channels.to_le_bytes());
        header.extend(self.rate.to_le_bytes());
        header.extend((self.rate * u32::from(frame)).to_le_bytes());
        header.extend(frame.to_le_bytes());
        header.extend(bits.to_le_bytes());
        header.extend(b"data");
        header.extend(data.to_le_bytes());
        header
    }
}

impl Iterator for WavPieces {
    type Item = Vec<u8>;

    fn next(&mut self) -> Option<Vec<u8>> {
        let Some(from) = self.done else {
            self.done = Some(0);
            return Some(self.header());
        };
        let to = (from + PIECE).min(self.samples);
        if from == to {
            return None;
        }
        self.done = Some(to);
        let mut piece = Vec::with_capacity(((to - from) * self.frame()) as usize);
        let wide = usize::from(self.depth.bits() / 8);
        for n in from..to {
            let sample = if self.looped { self.tone.sample(n, self.rate) } else { self.tone.file_sample(n, self.samples, self.rate) };
            let steps = self.depth.steps(sample, n);
            piece.extend_from_slice(&steps.to_le_bytes()[..wide]);
            if self.sides == Sides::Against {
                piece.extend_from_slice(&(-steps).to_le_bytes()[..wide]);
            }
        }
        Some(piece)
    }
}

/// The difference of two even random numbers of a step, always the same for a sample.
fn triangular(n: u64) -> f64 {
    let even = |seed: u64| {
        // SplitMix64.
        let mut z = seed.wrapping_mul(0x9E37_79B9_7F4A_7C15).wrapping_add(0x9E37_79B9_7F4A_7C15);
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        ((z ^ (z >> 31)) >> 11) as f64 / (1u64 << 53) as f64
    };
    even(2 * n) - even(2 * n + 1)
}

#[cfg(test)]
mod tests {
    use std::io::Cursor;

    use super::*;
    use crate::tones::Shape;

    fn file(tone: &Tone, seconds: f64, rate: u32, depth: Depth, sides: Sides) -> Vec<u8> {
        WavPieces::new(tone.clone(), seconds, rate, depth, sides, false).flatten().collect()
    }

    fn read(bytes: Vec<u8>) -> (hound::WavSpec, Vec<i32>) {
        let mut reader = hound::WavReader::new(Cursor::new(bytes)).unwrap();
        let samples = reader.samples::<i32>().map(Result::unwrap).collect();
        (reader.spec(), samples)
    }

    #[test]
    fn what_is_written_is_what_was_made() {
        let tone = Tone { hz: 1_000.0, level_dbfs: 0.0, shape: Shape::Sine };
        for (depth, full, off) in [(Depth::Sixteen, 32_767.0, 1.51), (Depth::TwentyFour, 8_388_607.0, 0.51)] {
            for rate in RATES {
                let pieces = WavPieces::new(tone.clone(), 1.25, rate, depth, Sides::One, false);
                let bytes: Vec<u8> = pieces.clone().flatten().collect();
                assert_eq!(bytes.len() as u64, pieces.bytes(), "how long it is was known before");
                let (spec, samples) = read(bytes);
                assert_eq!((spec.sample_rate, spec.bits_per_sample, spec.channels), (rate, depth.bits(), 1));
                let made: Vec<f64> = tone.file(1.25, rate).collect();
                assert_eq!(samples.len(), made.len());
                assert!(samples.iter().zip(&made).all(|(a, b)| (f64::from(*a) - b * full).abs() <= off));
                let peak = samples.iter().copied().max().unwrap();
                assert!(f64::from(peak) <= full && f64::from(peak) > 0.999 * full, "full scale is reached and never passed: {peak}");
            }
        }
    }

    #[test]
    fn a_hundred_decibels_down_there_is_a_tone_at_sixteen_bit() {
        let tone = Tone { hz: 1_000.0, level_dbfs: -100.0, shape: Shape::Sine };
        let (_, samples) = read(file(&tone, 4.0, 48_000, Depth::Sixteen, Sides::One));
        let inner: Vec<f64> = samples[4_800..187_200].iter().map(|x| f64::from(*x) / 32_767.0).collect();
        let sine = crate::traces::sine::fit_at(&inner, 48_000.0, 1_000.0).unwrap();
        let off_db = 20.0 * sine.amplitude().log10() + 100.0;
        assert!(off_db.abs() < 0.2, "{off_db} dB off");
    }

    #[test]
    fn one_side_against_the_other_cancels_to_the_last_step() {
        let tone = Tone { hz: 50.0, level_dbfs: -3.0, shape: Shape::Sine };
        let (spec, samples) = read(file(&tone, 1.0, 48_000, Depth::Sixteen, Sides::Against));
        assert_eq!((spec.channels, samples.len()), (2, 96_000));
        assert!(samples.chunks(2).all(|pair| pair[0] == -pair[1]) && samples.iter().any(|x| *x > 20_000));
    }
}
