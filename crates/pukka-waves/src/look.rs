//! What a trace looks like: lows and highs of pieces for a wave that is zoomed, a spectrum, one cycle beside a pure sine.

use std::f64::consts::TAU;
use std::ops::ControlFlow;

use serde::{Deserialize, Serialize};

use crate::interpolate::{Interpolator, STEPS};
use crate::sine::fit;
use crate::source::{Source, SourceError};
use crate::spectrum::Transforms;

/// Pieces of a channel at the most: more than any screen has columns, few enough to be sent at once.
pub const MOST_PIECES: u64 = 65_536;

/// A piece of a channel, in the unit of the file.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Peak {
    /// Lowest sample.
    pub low: f32,
    /// Highest sample.
    pub high: f32,
    /// Rms.
    pub rms: f32,
}

/// Lows and highs of every channel.
#[derive(Debug, Clone, PartialEq)]
pub struct Peaks {
    /// Samples of a piece: a power of two, 1 of a short recording.
    pub piece: usize,
    /// A channel each.
    pub channels: Vec<Vec<Peak>>,
}

/// A piece that is being filled.
#[derive(Debug, Clone, Copy)]
struct Filling {
    peak: Peak,
    square: f64,
    samples: usize,
}

impl Filling {
    const EMPTY: Self = Self { peak: Peak { low: f32::INFINITY, high: f32::NEG_INFINITY, rms: 0.0 }, square: 0.0, samples: 0 };

    fn add(&mut self, samples: &[f32]) {
        for x in samples {
            self.peak.low = self.peak.low.min(*x);
            self.peak.high = self.peak.high.max(*x);
            self.square += f64::from(*x) * f64::from(*x);
        }
        self.samples += samples.len();
    }

    fn take(&mut self) -> Option<Peak> {
        let Self { peak, square, samples } = std::mem::replace(self, Self::EMPTY);
        (samples > 0).then(|| Peak { rms: (square / samples as f64).sqrt() as f32, ..peak })
    }
}

/// Lows and highs of a recording, in one pass. `progress` hears how many frames were read, and may end it.
///
/// # Errors
/// [`SourceError`].
pub fn peaks(source: &mut dyn Source, progress: &mut dyn FnMut(u64) -> ControlFlow<()>) -> Result<Peaks, SourceError> {
    let recording = source.recording();
    let piece = usize::try_from(recording.frames.div_ceil(MOST_PIECES).max(1).next_power_of_two()).unwrap_or(usize::MAX);
    let room = usize::try_from(recording.frames.div_ceil(piece as u64)).unwrap_or_default();
    let mut channels: Vec<Vec<Peak>> = (0..recording.channels).map(|_| Vec::with_capacity(room)).collect();
    let mut filling = vec![Filling::EMPTY; recording.channels];
    let mut done = 0;
    source.blocks(0, &mut |block| {
        for ((peaks, filling), samples) in channels.iter_mut().zip(&mut filling).zip(block) {
            let mut left = samples.as_slice();
            while !left.is_empty() {
                let (now, later) = left.split_at((piece - filling.samples).min(left.len()));
                filling.add(now);
                if filling.samples == piece {
                    peaks.extend(filling.take());
                }
                left = later;
            }
        }
        done += block.first().map_or(0, Vec::len) as u64;
        progress(done)
    })?;
    for (peaks, filling) in channels.iter_mut().zip(&mut filling) {
        peaks.extend(filling.take());
    }
    Ok(Peaks { piece, channels })
}

/// A place of a spectrum.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SpectrumLine {
    /// Frequency.
    pub hz: f64,
    /// Decibels of the strongest.
    pub db: f64,
}

/// The spectrum of a stretch.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Spectrum {
    /// In order of frequency, evenly on a logarithmic scale: of each part its strongest.
    pub lines: Vec<SpectrumLine>,
    /// The tone and its harmonics, as far as they reach.
    pub harmonics: Vec<SpectrumLine>,
}

/// Samples of a spectrum at the most.
pub const SPECTRUM_SAMPLES: usize = 65_536;
/// Parts of its scale, and where it begins.
const PARTS: usize = 480;
const FROM_HZ: f64 = 20.0;
/// Lines below this are its floor.
const FLOOR_DB: f64 = -140.0;
/// Harmonics that are marked.
const HARMONICS: usize = 20;
/// Bins on either side that a line is spread over by the window.
const SPREAD: usize = 4;
/// Blackman and Harris' window of four terms: its side lobes are 92 dB down.
///
/// Ref: F. J. Harris, On the Use of Windows for Harmonic Analysis with the Discrete Fourier Transform, Proc. IEEE 66 (1978), table 1.
const WINDOW: [f64; 4] = [0.358_75, -0.488_29, 0.141_28, -0.011_68];

/// The spectrum of samples, against its strongest line; `tone_hz` marks its harmonics. Nothing of silence.
#[must_use]
pub fn spectrum(transforms: &mut Transforms, samples: &[f64], rate_hz: f64, tone_hz: Option<f64>) -> Spectrum {
    let n = samples.len();
    if n < 16 {
        return Spectrum::default();
    }
    let mean = samples.iter().sum::<f64>() / n as f64;
    let window = |i: usize| (0..4).map(|k| WINDOW[k] * (TAU * k as f64 * (i as f64 + 0.5) / n as f64).cos()).sum::<f64>();
    let power = transforms.squared(samples.iter().enumerate().map(|(i, x)| (x - mean) * window(i)).collect());
    let bin_hz = rate_hz / n as f64;
    let most = power.iter().skip(SPREAD).copied().fold(0.0, f64::max);
    if most <= 0.0 {
        return Spectrum::default();
    }
    let db = |power: f64| (10.0 * (power / most).log10()).max(FLOOR_DB);
    let (low, high) = (FROM_HZ.max(SPREAD as f64 * bin_hz), rate_hz / 2.0);
    let part = |hz: f64| ((hz / low).ln() / (high / low).ln() * PARTS as f64).floor();
    let mut lines: Vec<SpectrumLine> = Vec::new();
    let mut last = f64::NAN;
    for (k, power) in power.iter().enumerate() {
        let hz = k as f64 * bin_hz;
        let at = part(hz);
        if hz < low || at >= PARTS as f64 {
            continue;
        }
        let line = SpectrumLine { hz, db: db(*power) };
        match lines.last_mut() {
            Some(known) if at <= last => {
                if line.db > known.db {
                    *known = line;
                }
            }
            _ => lines.push(line),
        }
        last = at;
    }
    let harmonic = |h: usize| {
        let hz = tone_hz? * h as f64;
        let bin = (hz / bin_hz).round() as usize;
        let near = power.get(bin.saturating_sub(SPREAD)..(bin + SPREAD + 1).min(power.len()))?;
        (hz < high).then(|| SpectrumLine { hz, db: db(near.iter().copied().fold(0.0, f64::max)) })
    };
    Spectrum { lines, harmonics: (1..=HARMONICS).map_while(harmonic).collect() }
}

/// Two cycles of a wave, beside its fundamental alone.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TwoCycles {
    /// Length of both, seconds.
    pub seconds: f64,
    /// The wave, evenly in time, from an upward zero crossing of the fundamental on.
    pub wave: Vec<f64>,
    /// A pure sine of the same fundamental.
    pub sine: Vec<f64>,
}

/// Places of a cycle.
const PLACES: usize = 160;

/// Two cycles out of the middle of samples whose tone is near `near_hz`; nothing where they hold fewer than three.
#[must_use]
pub fn cycles(fine: &Interpolator, samples: &[f64], rate_hz: f64, near_hz: f64) -> Option<TwoCycles> {
    let sine = fit(samples, rate_hz, near_hz)?;
    let period = rate_hz / sine.hz;
    if (samples.len() as f64) < 3.0 * period {
        return None;
    }
    // The last upward zero crossing from which two cycles end before the samples do, near their middle.
    let first = (-sine.phase() / TAU).rem_euclid(1.0) * period;
    let middle = (samples.len() as f64 / 2.0 - period).max(0.0);
    let start = first + ((middle - first) / period).round().max(0.0) * period;
    let place = |i: usize| start + 2.0 * period * i as f64 / (2 * PLACES) as f64;
    let value = |at: f64| {
        let eighths = (at * STEPS as f64).round() as usize;
        fine.value(samples, (eighths / STEPS).min(samples.len() - 1), eighths % STEPS) - sine.dc
    };
    let pure = |at: f64| {
        let (s, c) = (TAU * at / period).sin_cos();
        sine.cos * c + sine.sin * s
    };
    Some(TwoCycles {
        seconds: 2.0 / sine.hz,
        wave: (0..=2 * PLACES).map(|i| value(place(i))).collect(),
        sine: (0..=2 * PLACES).map(|i| pure(place(i))).collect(),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Memory;

    fn sine(amplitude: f64, hz: f64, n: usize) -> Vec<f64> {
        (0..n).map(|i| amplitude * (TAU * hz * i as f64 / 48_000.0 + 0.3).sin()).collect()
    }

    #[test]
    fn a_short_recording_is_shown_sample_by_sample_and_a_long_one_in_pieces() {
        let on = &mut |_| ControlFlow::Continue(());
        let mut short = Memory::new(48_000.0, vec![vec![0.5, -0.25, 0.125]], None, None).unwrap();
        let made = peaks(&mut short, on).unwrap();
        assert_eq!((made.piece, made.channels[0].len()), (1, 3));
        assert_eq!(made.channels[0][1], Peak { low: -0.25, high: -0.25, rms: 0.25 });
        let mut wave = vec![0.0; 200_001];
        (wave[70_000], wave[70_001], wave[200_000]) = (1.0, -2.0, 0.75);
        let mut long = Memory::new(48_000.0, vec![wave.clone(), wave], None, None).unwrap();
        let made = peaks(&mut long, on).unwrap();
        assert_eq!((made.piece, made.channels[1].len()), (4, 50_001));
        let peak = made.channels[1][70_000 / 4];
        assert_eq!((peak.low, peak.high), (-2.0, 1.0), "no sample is lost, however far one is from it");
        assert!((f64::from(peak.rms) - (5.0f64 / 4.0).sqrt()).abs() < 1e-6);
        assert_eq!(made.channels[0][50_000].high, 0.75, "nor the last one, whose piece is not full");
        let stopped = peaks(&mut long, &mut |_| ControlFlow::Break(()));
        assert_eq!(stopped, Err(SourceError::Stopped));
    }

    #[test]
    fn a_spectrum_shows_tone_and_harmonics_in_decibels_of_the_tone() {
        let mut wave = sine(10.0, 1_000.0, 48_000);
        for (x, third) in wave.iter_mut().zip(sine(0.1, 3_000.0, 48_000)) {
            *x += third;
        }
        let found = spectrum(&mut Transforms::default(), &wave, 48_000.0, Some(1_000.0));
        let at = |hz: f64| found.lines.iter().min_by(|a, b| (a.hz - hz).abs().total_cmp(&(b.hz - hz).abs())).unwrap().db;
        assert!(at(1_000.0).abs() < 1e-9 && (at(3_000.0) + 40.0).abs() < 0.1, "a hundredth is 40 dB below: {}", at(3_000.0));
        assert!(
            found.lines.iter().filter(|line| (line.hz - 1_000.0).abs() > 200.0 && (line.hz - 3_000.0).abs() > 200.0).all(|l| l.db < -110.0)
        );
        assert!((found.harmonics[2].db + 40.0).abs() < 0.1 && found.harmonics[1].db < -110.0);
        assert_eq!(found.harmonics.len(), 20, "24 would reach half the rate");
        assert!(found.lines.len() <= PARTS && found.lines.windows(2).all(|pair| pair[0].hz < pair[1].hz));
        assert_eq!(spectrum(&mut Transforms::default(), &[0.0; 4_096], 48_000.0, None), Spectrum::default(), "silence has none");
    }

    #[test]
    fn two_cycles_begin_where_their_fundamental_does() {
        let wave: Vec<f64> = sine(1.0, 1_000.0, 4_800).into_iter().map(|x: f64| 0.25 + x.clamp(-0.7, 0.7)).collect();
        let seen = cycles(&Interpolator::default(), &wave, 48_000.0, 998.0).unwrap();
        assert!((seen.seconds - 0.002).abs() < 1e-6 && seen.wave.len() == 2 * PLACES + 1);
        assert!(seen.sine[0].abs() < 1e-6 && seen.sine[1] > 0.0 && seen.wave[0].abs() < 0.05, "the mean is taken away");
        let top = |list: &[f64]| list.iter().copied().fold(0.0, f64::max);
        // Clipped at 0.7 of its amplitude: b1 = 2/π · (θ − sin 2θ / 2) + 4 c/π · cos θ with sin θ = c.
        assert!((top(&seen.sine) - 0.811_9).abs() < 0.01, "{}", top(&seen.sine));
        assert!((top(&seen.wave) - 0.7).abs() < 0.03, "{}", top(&seen.wave));
        assert_eq!(cycles(&Interpolator::default(), &wave[..100], 48_000.0, 1_000.0), None, "two and a bit are no two clear of the ends");
    }
}
