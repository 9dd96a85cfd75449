//! What a steady tone says: rms, peak, distortion, noise, how flat its tops are.

use std::f64::consts::PI;

use crate::harmonics::{self, Harmonics, past_onset_db};
use crate::interpolate::{Interpolator, STEPS};
use crate::sine::Sine;
use crate::spectrum::Transforms;
use crate::sums::sum_of;

/// Length of a tone that is fitted: so many seconds, and so many periods at least.
const LONG_S: f64 = 0.125;
const LONG_PERIODS: f64 = 16.0;
/// Most samples that noise is looked for in.
const NOISE: usize = 32_768;
/// Samples a period from which on the wave between them is near enough a straight line.
pub(super) const DENSE: f64 = 150.0;
/// Fewest periods that have distortion and noise, and distortion.
const PERIODS_FOR_NOISE: f64 = 8.0;
const PERIODS_FOR_HARMONICS: f64 = 2.0;
/// Cycles that the tops are looked at in.
const TOPS: f64 = 10.0;
/// Part of its peak from which a wave counts as flat.
const FLAT: f64 = 0.995;
/// Flat share from which on a wave is clipped: a sine stays 6.4 %.
const CLIPPED_SHARE: f64 = 0.10;
/// The band that noise is measured in, and its lower edge for low tones.
const BAND_HZ: (f64, f64) = (20.0, 20_000.0);
const LOW_EDGE_HZ: f64 = 10.0;
const LOW_TONE_HZ: f64 = 60.0;

/// From this sampling rate on there is something to see above the audio band, in so many samples.
const ABOVE_BAND_RATE_HZ: f64 = 88_000.0;
const ABOVE_BAND: usize = 8_192;

/// A steady tone, measured.
#[derive(Debug, Clone, PartialEq)]
pub struct Tone {
    /// Fundamental.
    pub sine: Sine,
    /// Rms of all of it but its DC, over whole periods.
    pub rms: f64,
    /// Largest value either way, between the samples too.
    pub peak: f64,
    /// √ΣVh²/V1; nothing of fewer than two periods.
    pub thd_ratio: Option<f64>,
    /// Distortion and noise over all, in the band; nothing of fewer than eight periods.
    pub thd_n_ratio: Option<f64>,
    /// Content above the audio band: its strongest frequency, and its rms; nothing where the sampling rate does not reach there.
    pub above_band: Option<(f64, f64)>,
    /// Rms of what is left after the fundamental, in the band.
    pub residue_rms: Option<f64>,
    /// Share of a cycle in which it stays within 0.5 % of its half cycle's peak.
    pub flat_ratio: Option<f64>,
    /// Decibels past the onset of clipping.
    pub past_onset_db: Option<f64>,
}

impl Tone {
    /// Whether its tops are cut, or its distortion is past the limit.
    #[must_use]
    pub fn is_clipped(&self, limit_ratio: f64) -> bool {
        self.flat_ratio.is_some_and(|flat| flat > CLIPPED_SHARE) || self.thd_ratio.is_some_and(|thd| thd > limit_ratio)
    }

    /// Peak over rms, decibels.
    #[must_use]
    pub fn crest_db(&self) -> Option<f64> {
        (self.rms > 0.0).then(|| 20.0 * (self.peak / self.rms).log10())
    }
}

/// Tools that measuring needs again and again.
#[derive(Debug, Default)]
pub struct Tools {
    /// Transforms.
    pub transforms: Transforms,
    /// Values between samples.
    pub fine: Interpolator,
}

/// The band of a tone.
#[must_use]
pub fn band(hz: f64) -> (f64, f64) {
    if hz < LOW_TONE_HZ { (LOW_EDGE_HZ, BAND_HZ.1) } else { BAND_HZ }
}

/// Number of samples of a stretch that are looked at.
#[must_use]
pub fn looked_at(rate_hz: f64, hz: f64) -> usize {
    ((LONG_S * rate_hz).max(LONG_PERIODS * rate_hz / hz) as usize).max(NOISE)
}

/// Measures a tone; `near_hz` is within half a bin of it. Nothing where there are too few samples, or no tone.
#[must_use]
pub fn tone(tools: &mut Tools, samples: &[f64], rate_hz: f64, near_hz: f64) -> Option<Tone> {
    let long = (LONG_S * rate_hz).max(LONG_PERIODS * rate_hz / near_hz) as usize;
    let noisy = centre(samples, NOISE);
    let middle = centre(samples, long);
    let periods = middle.len() as f64 * near_hz / rate_hz;
    let sine = if periods >= PERIODS_FOR_HARMONICS {
        harmonics::tone(whole(middle, near_hz, rate_hz), rate_hz, near_hz)?
    } else {
        // Of one cycle the frequency cannot be told better than it is known.
        crate::sine::fit_at(middle, rate_hz, near_hz)?
    };
    let hz = sine.hz;
    let over = harmonics::window(middle.len(), hz, rate_hz);
    let enough = middle.len() as f64 * hz / rate_hz >= PERIODS_FOR_HARMONICS - 0.02;
    let found = Some(centre(middle, over)).filter(|_| enough && over > 0).and_then(|window| harmonics::harmonics(window, rate_hz, hz));
    let fundamental = found.as_ref().map_or(sine, |found| found.fundamental);
    let dc = sine.dc;
    let peak = tools.fine.peak(&centred(middle, dc));
    let noise = noise(tools, noisy, rate_hz, hz, fundamental.rms());
    let amplitude = fundamental.amplitude();
    let reaches = rate_hz >= ABOVE_BAND_RATE_HZ && noise.is_some();
    let above_band = reaches.then(|| tools.transforms.above(centre(noisy, ABOVE_BAND), rate_hz, BAND_HZ.1)).flatten();
    let (flat_ratio, tops) = flat(tools, middle, rate_hz, hz, dc).unzip();
    Some(Tone {
        rms: rms_over_periods(whole_span(middle, hz, rate_hz), middle, dc),
        peak,
        thd_ratio: found.as_ref().map(Harmonics::thd_ratio),
        thd_n_ratio: noise.map(|(ratio, _)| ratio),
        above_band,
        residue_rms: noise.map(|(_, rms)| rms),
        flat_ratio,
        past_onset_db: tops.filter(|tops| *tops > 0.0).map(|tops| past_onset_db(amplitude / tops)),
        sine: Sine { dc, ..fundamental },
    })
}

fn centred(samples: &[f64], dc: f64) -> Vec<f64> {
    samples.iter().map(|x| x - dc).collect()
}

/// The middle of samples, so many of them.
#[must_use]
pub fn centre(samples: &[f64], most: usize) -> &[f64] {
    let from = samples.len().saturating_sub(most) / 2;
    &samples[from..samples.len().min(from + most)]
}

/// Samples cut to a whole number of periods, to half a sample.
fn whole(samples: &[f64], hz: f64, rate_hz: f64) -> &[f64] {
    &samples[..whole_span(samples, hz, rate_hz).round() as usize]
}

/// Number of samples that a whole number of periods takes, with its fraction.
fn whole_span(samples: &[f64], hz: f64, rate_hz: f64) -> f64 {
    let period = rate_hz / hz;
    let periods = ((samples.len() as f64 + 0.5) / period).floor().max(1.0);
    (periods * period).min(samples.len() as f64)
}

/// Rms about the DC over a span that may end between two samples: each sample stands for itself, the last for its part.
#[must_use]
pub fn rms_over_periods(span: f64, samples: &[f64], dc: f64) -> f64 {
    let (full, part) = (span.floor() as usize, span.fract());
    let square = |x: f64| (x - dc) * (x - dc);
    let sum = sum_of(&samples[..full.min(samples.len())], square);
    let rest = samples.get(full).map_or(0.0, |x| part * square(*x));
    ((sum + rest) / span).sqrt()
}

/// Rest after the fundamental in the band, over all that is in it; and its rms.
///
/// Ref: AES17, 6.3: 20 Hz to 20 kHz; the lower edge is 10 Hz for tones below 60 Hz.
fn noise(tools: &mut Tools, samples: &[f64], rate_hz: f64, hz: f64, fundamental_rms: f64) -> Option<(f64, f64)> {
    let period = rate_hz / hz;
    if (samples.len() as f64) < (PERIODS_FOR_NOISE - 0.02) * period {
        return None;
    }
    let window = centre(samples, easy_length(samples.len().min(NOISE), period));
    let own = crate::sine::fit_at(window, rate_hz, hz)?;
    let mut left = window.to_vec();
    own.take_from(&mut left, rate_hz);
    let residue = tools.transforms.mean_square_in(left, rate_hz, band(hz));
    let all = residue + fundamental_rms * fundamental_rms;
    (all > 0.0).then(|| ((residue / all).sqrt(), residue.sqrt()))
}

/// Distortion and noise over all in the band, of a window of whole periods of a known frequency; nothing where no tone is.
#[must_use]
pub fn residue_ratio(samples: &[f64], rate_hz: f64, hz: f64) -> Option<f64> {
    let own = crate::sine::fit_at(samples, rate_hz, hz)?;
    let mut left = samples.to_vec();
    own.take_from(&mut left, rate_hz);
    let residue = Transforms::default().mean_square_in(left, rate_hz, band(hz));
    let all = residue + own.rms() * own.rms();
    (all > 0.0).then(|| (residue / all).sqrt())
}

/// Number of samples to transform: nearly a whole number of periods, and a product of small primes, of the twenty-four longest there are.
fn easy_length(most: usize, period: f64) -> usize {
    let periods = (most as f64 / period).floor() as usize;
    let length = |n: usize| (n as f64 * period).round() as usize;
    let off = |n: usize| (n as f64 * period - length(n) as f64).abs();
    let least = periods.saturating_sub(24).max(periods / 2).max(1);
    let easy = (least..=periods).filter(|n| is_easy(length(*n)) && length(*n) <= most);
    easy.min_by(|a, b| off(*a).total_cmp(&off(*b)).then(b.cmp(a))).map_or_else(|| length(periods).min(most), length)
}

fn is_easy(mut n: usize) -> bool {
    for prime in [2usize, 3, 5, 7, 11, 13, 17, 19, 23] {
        while n > 0 && n.is_multiple_of(prime) {
            n /= prime;
        }
    }
    n == 1
}

/// The share of a cycle in which the wave is flat, and the mean of its half cycles' peaks.
fn flat(tools: &Tools, samples: &[f64], rate_hz: f64, hz: f64, dc: f64) -> Option<(f64, f64)> {
    let period = rate_hz / hz;
    let cycles = (samples.len() as f64 / period).floor().min(TOPS);
    if cycles < 1.0 || period < 4.0 {
        return None;
    }
    let window = centred(centre(samples, (cycles * period).ceil() as usize + 2), dc);
    let own = crate::sine::fit_at(&window, rate_hz, hz)?;
    let (fine, steps) = if period < DENSE { (tools.fine.fine(&window), STEPS as f64) } else { (window.clone(), 1.0) };
    // Half cycles begin where the fundamental passes zero.
    let half = period * steps / 2.0;
    let start = (-own.phase()).rem_euclid(PI) / PI * half;
    let halves = ((fine.len() as f64 - 1.0 - start) / half).floor() as usize;
    let (mut flat, mut tops) = (0.0, 0.0);
    for n in 0..halves {
        let (from, to) = (start + n as f64 * half, start + (n + 1) as f64 * half);
        let piece = &fine[from.ceil() as usize..=(to.floor() as usize).min(fine.len() - 1)];
        let peak = piece.iter().fold(0.0f64, |most, x| most.max(x.abs()));
        tops += peak;
        flat += piece.windows(2).map(|pair| above(pair[0].abs(), pair[1].abs(), FLAT * peak)).sum::<f64>() / half;
    }
    (halves > 0).then(|| (flat / halves as f64, tops / halves as f64))
}

/// The part of a step between two values that lies at or above a threshold.
fn above(a: f64, b: f64, threshold: f64) -> f64 {
    match (a >= threshold, b >= threshold) {
        (true, true) => 1.0,
        (false, false) => 0.0,
        _ => ((a.max(b) - threshold) / (a - b).abs()).clamp(0.0, 1.0),
    }
}
