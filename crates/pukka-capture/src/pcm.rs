//! Samples that are not coded at all, straight from the bytes of a packet: nearly every recording is such a one, and the way through
//! a decoder's own buffers costs several times as much.

use symphonia::core::codecs::audio::AudioCodecId;
use symphonia::core::codecs::audio::well_known as codec;

/// Form of a sample: whole numbers against their full scale, or floats as they are.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Pcm {
    /// Eight bits, 128 in the middle.
    U8,
    /// Little end first.
    S16,
    /// Little end first.
    S24,
    /// Little end first.
    S32,
    /// Little end first.
    F32,
    /// Little end first.
    F64,
}

impl Pcm {
    /// Form that a file states; nothing of what has to be decoded.
    #[must_use]
    pub fn of(id: AudioCodecId) -> Option<Self> {
        [
            (codec::CODEC_ID_PCM_U8, Self::U8),
            (codec::CODEC_ID_PCM_S16LE, Self::S16),
            (codec::CODEC_ID_PCM_S24LE, Self::S24),
            (codec::CODEC_ID_PCM_S32LE, Self::S32),
            (codec::CODEC_ID_PCM_F32LE, Self::F32),
            (codec::CODEC_ID_PCM_F64LE, Self::F64),
        ]
        .into_iter()
        .find(|(known, _)| *known == id)
        .map(|(_, pcm)| pcm)
    }

    /// Bytes of a sample.
    #[must_use]
    pub const fn bytes(self) -> usize {
        match self {
            Self::U8 => 1,
            Self::S16 => 2,
            Self::S24 => 3,
            Self::S32 | Self::F32 => 4,
            Self::F64 => 8,
        }
    }

    /// Every sample of one channel, out of frames of so many.
    pub fn channel(self, frames: &[u8], channel: usize, channels: usize, mut each: impl FnMut(f64)) {
        fn samples<const N: usize>(frames: &[u8], channel: usize, channels: usize) -> impl Iterator<Item = [u8; N]> + '_ {
            frames.chunks_exact(N * channels).filter_map(move |frame| frame[channel * N..].first_chunk::<N>().copied())
        }
        match self {
            Self::U8 => samples::<1>(frames, channel, channels).for_each(|[x]| each((f64::from(x) - 128.0) / 128.0)),
            Self::S16 => samples(frames, channel, channels).for_each(|x| each(f64::from(i16::from_le_bytes(x)) / 32_768.0)),
            // Into the upper three bytes, so that its sign is where it belongs.
            Self::S24 => samples(frames, channel, channels)
                .for_each(|[a, b, c]| each(f64::from(i32::from_le_bytes([0, a, b, c]) >> 8) / 8_388_608.0)),
            Self::S32 => samples(frames, channel, channels).for_each(|x| each(f64::from(i32::from_le_bytes(x)) / 2_147_483_648.0)),
            Self::F32 => samples(frames, channel, channels).for_each(|x| each(f64::from(f32::from_le_bytes(x)))),
            Self::F64 => samples(frames, channel, channels).for_each(|x| each(f64::from_le_bytes(x))),
        }
    }
}
