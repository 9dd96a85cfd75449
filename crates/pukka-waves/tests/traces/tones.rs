//! Steady tones: level, frequency, distortion, flat tops.

use proptest::prelude::*;
use pukka_waves::distortion::{Tone, Tools, tone};

use crate::wave::{Clipped, noise, sine};

fn measured(samples: &[f64], rate_hz: f64, near_hz: f64) -> Tone {
    tone(&mut Tools::default(), samples, rate_hz, near_hz).unwrap()
}

#[test]
fn the_table_of_truths() {
    // c, fundamental/limit, rms/limit, THD in all, THD to the 20th, crest factor in dB.
    let table = [
        (1.0 / 1.03, 1.023_88, 0.724_03, 0.010_254, 0.010_200, 2.805),
        (0.95, 1.038_61, 0.734_54, 0.019_240, 0.019_198, 2.680),
        (0.90, 1.069_57, 0.756_97, 0.042_199, 0.042_153, 2.418),
        (std::f64::consts::FRAC_1_SQRT_2, 1.157_27, 0.825_65, 0.134_20, 0.134_15, 1.664),
    ];
    for (c, fundamental, rms, all, to_20, crest_db) in table {
        let wave = Clipped { c, hz: 1_000.0, rate_hz: 768_000.0, phase: 0.0 };
        assert!((wave.thd(f64::INFINITY) / all - 1.0).abs() < 1e-3, "the closed form itself: {}", wave.thd(f64::INFINITY));
        let found = measured(&wave.samples(76_800), 768_000.0, 1_000.3);
        let near = |got: f64, wanted: f64, within: f64| assert!((got - wanted).abs() < within, "c = {c}: {got}, not {wanted}");
        near(found.sine.amplitude(), fundamental, 2e-5);
        near(found.rms, rms, 2e-5);
        near(found.thd_ratio.unwrap() / to_20, 1.0, 2e-3);
        near(found.crest_db().unwrap(), crest_db, 0.02);
        near(found.past_onset_db.unwrap(), -20.0 * c.log10(), 0.02);
        assert!(found.is_clipped(1.0) || c > 0.96, "by its tops alone: {:?}", found.flat_ratio);
    }
}

#[test]
fn a_sine_has_no_distortion_and_stays_near_its_peak_for_6_4_percent() {
    let found = measured(&sine(28.284, 997.0, 48_000.0, 0.7, 24_000), 48_000.0, 997.4);
    assert!((found.rms - 20.0).abs() < 1e-3 && (found.peak - 28.284).abs() < 0.03, "{found:?}");
    assert!(found.thd_ratio.unwrap() < 1e-7 && found.thd_n_ratio.unwrap() < 1e-6, "{found:?}");
    assert!((found.flat_ratio.unwrap() - 0.0637).abs() < 0.002, "{:?}", found.flat_ratio);
    assert!(!found.is_clipped(0.01) && found.past_onset_db.unwrap() < 0.02);
}

#[test]
fn dc_is_told_apart_and_noise_counts_in_its_band() {
    let rate = 48_000.0;
    let hiss = noise(0.02, 48_000, 7);
    let wave: Vec<f64> = sine(2f64.sqrt(), 1_000.0, rate, 0.0, 48_000).iter().zip(&hiss).map(|(a, b)| 0.5 + a + b).collect();
    let found = measured(&wave, rate, 1_000.0);
    assert!((found.sine.dc - 0.5).abs() < 1e-3);
    // White to 24 kHz: 20 Hz to 20 kHz has 19 980/24 000 of its power.
    let wanted = 0.02 * (19_980.0f64 / 24_000.0).sqrt();
    assert!((found.residue_rms.unwrap() / wanted - 1.0).abs() < 0.03, "{:?}", found.residue_rms);
    assert!((found.thd_n_ratio.unwrap() / (wanted / (1.0 + wanted * wanted).sqrt()) - 1.0).abs() < 0.03);
}

#[test]
fn what_is_short_says_less() {
    let cycles = |n: f64| measured(&sine(1.0, 1_000.0, 48_000.0, 0.0, (n * 48.0) as usize), 48_000.0, 1_000.0);
    let told = |n: f64| (cycles(n).thd_ratio.is_some(), cycles(n).thd_n_ratio.is_some());
    assert_eq!((told(1.0), told(2.0), told(7.0), told(8.0)), ((false, false), (true, false), (true, false), (true, true)));
    assert!((cycles(1.0).rms - 0.5f64.sqrt()).abs() < 1e-3);
    assert!(tone(&mut Tools::default(), &[], 48_000.0, 1_000.0).is_none());
    assert!(tone(&mut Tools::default(), &[0.0; 3], 48_000.0, 1_000.0).is_none());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn distortion_is_exact_at_any_frequency_phase_rate_and_polarity(
        c in 0.6f64..0.98, hz in 40.0f64..6_000.0, phase in 0.0f64..6.2, rate in prop::sample::select(vec![44_100.0, 48_000.0, 96_000.0, 192_000.0]), up in any::<bool>()
    ) {
        let wave = Clipped { c, hz, rate_hz: rate, phase };
        let n = (rate * (12.0 / hz).max(0.06)) as usize;
        let sign = if up { 1.0 } else { -1.0 };
        let samples: Vec<f64> = wave.samples(n).into_iter().map(|x| sign * x).collect();
        let found = measured(&samples, rate, hz * 1.0004);
        let wanted = wave.thd(20_000f64.min(0.45 * rate));
        prop_assert!((found.thd_ratio.unwrap() - wanted).abs() < (0.002 * wanted).max(1e-6), "{:?} not {wanted}", found.thd_ratio);
        prop_assert!((found.sine.hz / hz - 1.0).abs() < 1e-5, "{} not {hz}", found.sine.hz);
    }

    #[test]
    fn frequency_is_within_a_millionth_over_a_tenth_of_a_second_at_60_db(hz in 100.0f64..8_000.0, phase in 0.0f64..6.2, seed in any::<u64>()) {
        let rate = 96_000.0;
        let hiss = noise(1e-3 / 2f64.sqrt(), 9_600, seed);
        let samples: Vec<f64> = sine(1.0, hz, rate, phase, 9_600).iter().zip(&hiss).map(|(a, b)| a + b).collect();
        let found = measured(&samples, rate, hz + 3.0);
        prop_assert!((found.sine.hz / hz - 1.0).abs() < 1e-6 * (1_000.0 / hz).max(1.0), "{} not {hz}", found.sine.hz);
        prop_assert!((20.0 * (found.rms * 2f64.sqrt()).log10()).abs() < 0.01, "{}", found.rms);
    }
}
