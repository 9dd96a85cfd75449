//! A scale by a meter: what a stretch of the recording read, over what its samples come to.

use crate::report::ChannelKind;
use crate::source::{Source, SourceError};

/// Samples at most that are looked at.
const MOST: usize = 1 << 22;

/// Units per unit of the file, by a meter that read so much over a stretch: true rms of a wave, the mean of a supply.
///
/// # Errors
/// [`SourceError::Unreadable`] where the stretch lies outside, or there is nothing in it.
pub fn by_meter(source: &mut dyn Source, channel: usize, kind: ChannelKind, reading: f64, span_s: (f64, f64)) -> Result<f64, SourceError> {
    let recording = source.recording();
    let place = |s: f64| (s * recording.rate_hz).round();
    let (from, to) = (place(span_s.0), place(span_s.1));
    if !(from >= 0.0 && from < to && to <= recording.frames as f64) {
        let says = format!("From {} to {} s is outside the recording, which lasts {:.3} s.", span_s.0, span_s.1, recording.seconds());
        return Err(SourceError::Unreadable(says));
    }
    let samples = source.window(channel, from as u64, ((to - from) as usize).min(MOST))?;
    let mean = samples.iter().sum::<f64>() / samples.len().max(1) as f64;
    let rms = (samples.iter().map(|x| (x - mean) * (x - mean)).sum::<f64>() / samples.len().max(1) as f64).sqrt();
    let own = if kind.has_tone() { rms } else { mean.abs() };
    if own > 0.0 {
        return Ok(reading / own);
    }
    Err(SourceError::Unreadable(format!(
        "Channel {} is silent from {} to {} s: no scale follows from it.",
        channel + 1,
        span_s.0,
        span_s.1
    )))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Memory;

    #[test]
    fn what_the_meter_read_over_what_is_there() {
        let wave: Vec<f64> = (0..48_000).map(|n| 0.1 + 0.5 * (std::f64::consts::TAU * f64::from(n) / 48.0).sin()).collect();
        let mut source = Memory::new(48_000.0, vec![wave, vec![0.25; 48_000], vec![0.0; 48_000]], None, None).unwrap();
        // 0.5/√2 reads 20.04 V.
        let scale = by_meter(&mut source, 0, ChannelKind::Output, 20.04, (0.25, 0.75)).unwrap();
        assert!((scale - 20.04 / (0.5 / 2f64.sqrt())).abs() < 1e-6, "{scale}");
        assert_eq!(by_meter(&mut source, 1, ChannelKind::SupplyVolts, 14.0, (0.0, 1.0)), Ok(56.0));
        assert!(by_meter(&mut source, 2, ChannelKind::Output, 1.0, (0.0, 1.0)).unwrap_err().to_string().contains("silent"));
        for span in [(0.5, 0.5), (-0.1, 0.2), (0.5, 1.5), (f64::NAN, 1.0)] {
            assert!(by_meter(&mut source, 0, ChannelKind::Output, 1.0, span).is_err(), "{span:?}");
        }
    }
}
