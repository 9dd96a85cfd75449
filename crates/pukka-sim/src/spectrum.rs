//! Distortion and noise of a waveform, from its spectrum: all that is not the tone, against the tone.
//!
//! Ref: AES17 (THD+N); the discrete Fourier transform of whole cycles has no leakage.

use realfft::RealFftPlanner;

/// Samples that are looked at, and cycles in them: whole ones.
pub const SAMPLES: usize = 2_048;
/// Cycles in that stretch.
pub const CYCLES: usize = 16;

/// √(all but the tone) / tone, of a stretch of whole cycles. Nothing but noise has no distortion to speak of: 1.
#[must_use]
pub fn distortion(samples: &[f64]) -> f64 {
    let mut planner = RealFftPlanner::<f64>::new();
    let forward = planner.plan_fft_forward(samples.len());
    let (mut input, mut spectrum) = (samples.to_vec(), forward.make_output_vec());
    if forward.process(&mut input, &mut spectrum).is_err() {
        return 1.0;
    }
    let power = |bin: usize| spectrum.get(bin).map_or(0.0, |x| x.norm_sqr());
    let tone = power(CYCLES);
    let rest: f64 = (1..spectrum.len()).filter(|bin| *bin != CYCLES).map(power).sum();
    if tone <= 0.0 { 1.0 } else { (rest / tone).sqrt().min(1.0) }
}

#[cfg(test)]
mod tests {
    use std::f64::consts::{PI, TAU};

    use super::*;

    fn wave(of: impl Fn(f64) -> f64) -> Vec<f64> {
        (0..SAMPLES).map(|n| of(TAU * CYCLES as f64 * n as f64 / SAMPLES as f64)).collect()
    }

    #[test]
    fn a_harmonic_of_one_percent_is_one_percent() {
        assert!(distortion(&wave(f64::sin)) < 1e-9);
        let third = distortion(&wave(|x| x.sin() + 0.01 * (3.0 * x).sin()));
        assert!((third - 0.01).abs() < 1e-9, "{third}");
    }

    #[test]
    fn a_square_wave_has_what_its_series_says() {
        // Σ 1/n² over odd n from 3 = π²/8 − 1, so √(π²/8 − 1) = 48.3 %; the bins above half the rate fold back a little.
        let square = distortion(&wave(|x| if x.sin() >= 0.0 { 1.0 } else { -1.0 }));
        assert!((square - (PI * PI / 8.0 - 1.0).sqrt()).abs() < 0.005, "{square}");
    }
}
