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

    /// Whether a sample may be no number.
    #[must_use]
    pub const fn is_float(self) -> bool {
        matches!(self, Self::F32 | Self::F64)
    }

    /// Adds every sample of one channel, out of frames of so many.
    pub fn channel<T: Value>(self, frames: &[u8], channel: usize, channels: usize, into: &mut Vec<T>) {
        fn add<T, const N: usize>(frames: &[u8], channel: usize, channels: usize, into: &mut Vec<T>, value: impl Fn([u8; N]) -> T) {
            // From the channel's first byte on every frame begins with its sample; the last one is short, but of the first channel.
            let own = frames.get(channel * N..).unwrap_or_default().chunks_exact(N * channels);
            let last = own.remainder().first_chunk::<N>().copied();
            let first = |frame: &[u8]| frame.first_chunk::<N>().copied().unwrap_or([0; N]);
            into.extend(own.map(|frame| value(first(frame))));
            into.extend(last.map(value));
        }
        let whole = frames.len() - frames.len() % (self.bytes() * channels);
        let frames = &frames[..whole];
        match self {
            Self::U8 => add(frames, channel, channels, into, |[x]| T::whole(i32::from(x) - 128, 128.0)),
            Self::S16 => add(frames, channel, channels, into, |x| T::whole(i32::from(i16::from_le_bytes(x)), 32_768.0)),
            // Into the upper three bytes, so that its sign is where it belongs.
            Self::S24 => {
                add(frames, channel, channels, into, |[a, b, c]| T::whole(i32::from_le_bytes([0, a, b, c]) >> 8, 8_388_608.0));
            }
            Self::S32 => add(frames, channel, channels, into, |x| T::whole(i32::from_le_bytes(x), 2_147_483_648.0)),
            Self::F32 => add(frames, channel, channels, into, |x| T::float(f64::from(f32::from_le_bytes(x)))),
            Self::F64 => add(frames, channel, channels, into, |x| T::float(f64::from_le_bytes(x))),
        }
    }
}

/// A sample as it is computed with: each way of writing it comes to the number nearest to what the file says.
pub trait Value {
    /// A whole number against its full scale, a power of two.
    fn whole(x: i32, full_scale: f64) -> Self;
    /// A float.
    fn float(x: f64) -> Self;
}

impl Value for f32 {
    fn whole(x: i32, full_scale: f64) -> Self {
        x as Self / full_scale as Self
    }

    fn float(x: f64) -> Self {
        x as Self
    }
}

impl Value for f64 {
    fn whole(x: i32, full_scale: f64) -> Self {
        Self::from(x) / full_scale
    }

    fn float(x: f64) -> Self {
        x
    }
}
