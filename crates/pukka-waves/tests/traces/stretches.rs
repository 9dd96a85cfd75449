//! Whole recordings: how they are cut, and what each stretch says.

use std::f64::consts::TAU;
use std::ops::ControlFlow;

use proptest::prelude::*;
use pukka_waves::cut::StretchKind;
use pukka_waves::report::{DoubtCode, Stretch};
use pukka_waves::{ChannelKind, ChannelSetting, Memory, SourceError, TraceReport, TraceSettings, read};

use crate::wave::{Clipped, noise, sine};

const RATE: f64 = 48_000.0;

fn said(channels: Vec<Vec<f64>>, rate_hz: f64, asked: &TraceSettings) -> TraceReport {
    let mut source = Memory::new(rate_hz, channels, None, None).unwrap();
    read(&mut source, asked, &mut |_| ControlFlow::Continue(())).unwrap()
}

fn of_one(samples: Vec<f64>) -> Vec<Stretch> {
    said(vec![samples], RATE, &TraceSettings { load_ohm: Some(4.0), ..TraceSettings::default() }).channels.remove(0).stretches
}

fn kinds(stretches: &[Stretch]) -> Vec<StretchKind> {
    stretches.iter().map(|stretch| stretch.kind).collect()
}

/// Silence, `cycles` of a tone with an amplitude a cycle, silence.
fn burst_of(hz: f64, rate_hz: f64, lead_s: f64, amplitudes: &[f64]) -> Vec<f64> {
    let (lead, period) = ((lead_s * rate_hz).round(), rate_hz / hz);
    let length = (2.0 * lead + amplitudes.len() as f64 * period) as usize;
    (0..length)
        .map(|n| {
            let at = (n as f64 - lead) / period;
            if at < 0.0 { 0.0 } else { amplitudes.get(at as usize).map_or(0.0, |a| a * (TAU * at).sin()) }
        })
        .collect()
}

#[test]
fn quiet_tone_and_quiet_are_told_apart_and_the_tone_is_measured() {
    let mut samples = vec![0.0; 24_000];
    samples.extend(sine(28.284_271, 1_000.0, RATE, 0.0, 96_000));
    samples.extend(vec![0.0; 24_000]);
    let found = of_one(samples);
    assert_eq!(kinds(&found), [StretchKind::Quiet, StretchKind::Tone, StretchKind::Quiet]);
    let tone = &found[1];
    assert!((tone.from_s - 0.5).abs() < 2e-3 && (tone.to_s - 2.5).abs() < 2e-3, "{tone:?}");
    assert!((tone.rms - 20.0).abs() < 1e-2 && (tone.power_w.unwrap() - 100.0).abs() < 0.1, "{} {:?}", tone.rms, tone.power_w);
    assert!((tone.frequency_hz.unwrap() - 1_000.0).abs() < 1e-3 && tone.thd_ratio.unwrap() < 1e-6);
    assert_eq!(found[0].frequency_hz, None);
}

#[test]
fn twenty_cycles_that_droop_and_one_cycle_alone() {
    let amplitudes: Vec<f64> = (0..20).map(|n| 42.0 - 0.2 * f64::from(n)).collect();
    let found = of_one(burst_of(1_000.0, RATE, 0.1, &amplitudes));
    assert_eq!(kinds(&found), [StretchKind::Quiet, StretchKind::Burst, StretchKind::Quiet]);
    let burst = &found[1];
    assert_eq!(burst.cycles, Some(20));
    assert!((burst.from_s - 0.1).abs() < 1e-4 && (burst.to_s - 0.12).abs() < 1e-4, "{} to {}", burst.from_s, burst.to_s);
    let (first, last) = (burst.first.unwrap(), burst.last.unwrap());
    assert!((first.peak - 42.0).abs() < 0.1 && (last.peak - 38.2).abs() < 0.1, "{first:?} {last:?}");
    assert!((first.rms - 42.0 / 2f64.sqrt()).abs() < 0.1 && (burst.droop_db.unwrap() - 20.0 * (38.2f64 / 42.0).log10()).abs() < 0.03);
    for count in [1, 2, 3, 8] {
        let found = of_one(burst_of(1_000.0, RATE, 0.05, &vec![57.6; count]));
        let burst =
            found.iter().find(|stretch| stretch.kind == StretchKind::Burst).unwrap_or_else(|| panic!("{count}: {:?}", kinds(&found)));
        assert_eq!(burst.cycles, Some(count as u32), "{count}");
        assert!((burst.first.unwrap().peak - 57.6).abs() < 0.3, "{:?}", burst.first);
        assert!((burst.frequency_hz.unwrap() - 1_000.0).abs() < 25.0, "{:?}", burst.frequency_hz);
    }
}

#[test]
fn the_standard_burst_again_and_again_over_a_lower_level() {
    // 20 ms of 1 kHz in every 500 ms, 20 dB lower in between.
    let samples: Vec<f64> = (0..(2.0 * RATE) as usize)
        .map(|n| {
            let at = n as f64 / RATE;
            let loud = (at % 0.5) >= 0.2 && (at % 0.5) < 0.22 - 1e-9;
            (if loud { 40.0 } else { 4.0 }) * (TAU * 1_000.0 * at).sin()
        })
        .collect();
    let found = of_one(samples);
    let bursts: Vec<&Stretch> = found.iter().filter(|stretch| stretch.kind == StretchKind::Burst).collect();
    assert_eq!((bursts.len(), found.len()), (4, 9), "{:?}", kinds(&found));
    for (n, burst) in bursts.iter().enumerate() {
        assert_eq!(burst.cycles, Some(20));
        assert!((burst.from_s - (0.2 + 0.5 * n as f64)).abs() < 2e-4, "{}", burst.from_s);
        assert!((burst.over_between_db.unwrap() - 20.0).abs() < 0.2 && burst.thd_ratio.unwrap() < 1e-3, "{burst:?}");
    }
}

#[test]
fn two_whole_cycles_of_forty_hertz() {
    let found = of_one(burst_of(40.0, RATE, 0.2, &[30.0, 29.0]));
    let burst = found.iter().find(|stretch| stretch.kind == StretchKind::Burst).unwrap();
    assert_eq!(burst.cycles, Some(2));
    assert!((burst.last.unwrap().peak - 29.0).abs() < 0.2 && burst.thd_n_ratio.is_none(), "{burst:?}");
}

/// A ramp that rises by so many decibels a second, hard-clipped at 40 V.
fn ramp(rate_hz: f64, hz: f64, seconds: f64) -> Vec<f64> {
    (0..(seconds * rate_hz) as usize)
        .map(|n| {
            let at = n as f64 / rate_hz;
            let amplitude = 4.0 * 10f64.powf(24.0 * at / seconds / 20.0);
            (amplitude * (TAU * hz * at).sin()).clamp(-40.0, 40.0)
        })
        .collect()
}

#[test]
fn a_ramp_is_certified_where_it_crosses_the_limit() {
    // 1 % of THD in the closed form is c = 0.9717: 40/0.9717 V before the limit; rms/limit there about 0.7236.
    let rate = 192_000.0;
    let asked = TraceSettings { load_ohm: Some(4.0), ..TraceSettings::default() };
    let report = said(vec![ramp(rate, 1_000.0, 4.0)], rate, &asked);
    let found = &report.channels[0].stretches;
    let ramp = found.iter().find(|stretch| stretch.kind == StretchKind::Ramp).unwrap_or_else(|| panic!("{:?}", kinds(found)));
    let mut best = (0.0, f64::INFINITY);
    for n in 0..4_000 {
        let c = 0.95 + 0.05 * f64::from(n) / 4_000.0;
        let thd = Clipped { c, hz: 1_000.0, rate_hz: rate, phase: 0.0 }.thd(20_000.0);
        if (thd - 0.01).abs() < best.1 {
            best = (c, (thd - 0.01).abs());
        }
    }
    let c = best.0;
    let wave = Clipped { c, hz: 1_000.0, rate_hz: rate, phase: 0.0 }.samples(19_200);
    let wanted = 40.0 * (wave.iter().map(|x| x * x).sum::<f64>() / wave.len() as f64).sqrt();
    let certified = ramp.certified.unwrap();
    assert!((certified.rms / wanted - 1.0).abs() < 0.003, "{} not {wanted}", certified.rms);
    assert!((certified.power_w.unwrap() - certified.rms * certified.rms / 4.0).abs() < 0.2);
    assert!(ramp.points.as_ref().unwrap().len() > 100);
    let clean = &ramp.points.as_ref().unwrap()[20];
    assert!(clean.thd_n_ratio.unwrap() < 1e-4, "a level that rises is no distortion: {clean:?}");
}

#[test]
fn a_sweep_through_a_high_pass_shows_its_corner() {
    let (seconds, from, to) = (4.0, 20.0f64, 2_000.0f64);
    let octaves = (to / from).ln();
    let mut phase = 0.0;
    let (mut samples, mut reference) = (Vec::new(), Vec::new());
    for n in 0..(seconds * RATE) as usize {
        let hz = from * (octaves * n as f64 / RATE / seconds).exp();
        phase += TAU * hz / RATE;
        let level = 1.0 / (1.0 + (80.0 / hz).powi(4)).sqrt();
        samples.push(10.0 * level * phase.sin());
        reference.push(0.5 * phase.sin());
    }
    let generator = ChannelSetting::new(ChannelKind::Generator, 1.0);
    let asked = TraceSettings { channels: vec![ChannelSetting::default(), generator], ..TraceSettings::default() };
    let report = said(vec![samples, reference], RATE, &asked);
    let found = &report.channels[0].stretches;
    let sweep = found.iter().find(|stretch| stretch.kind == StretchKind::Sweep).unwrap_or_else(|| panic!("{:?}", kinds(found)));
    let response =
        sweep.response.as_ref().unwrap_or_else(|| panic!("{:?}", found.iter().map(|s| (s.kind, s.from_s, s.to_s)).collect::<Vec<_>>()));
    let corner = response.low_corner_hz.unwrap_or_else(|| panic!("{response:?} {:?}", kinds(found)));
    assert!((corner / 80.0 - 1.0).abs() < 0.08, "{corner}");
    assert!((response.low_slope_db_octave.unwrap() - 12.0).abs() < 2.0, "{:?}", response.low_slope_db_octave);
    assert_eq!(response.high_corner_hz, None);
}

#[test]
fn one_tone_behind_another_and_noise_that_is_none() {
    let mut samples = sine(10.0, 1_000.0, RATE, 0.0, 48_000);
    samples.extend(sine(1.0, 50.0, RATE, 0.0, 48_000));
    samples.extend(sine(3.0, 400.0, RATE, 0.0, 48_000));
    let found = of_one(samples);
    assert_eq!(kinds(&found), [StretchKind::Tone; 3]);
    for (stretch, (hz, rms)) in found.iter().zip([(1_000.0, 10.0), (50.0, 1.0), (400.0, 3.0)]) {
        assert!((stretch.frequency_hz.unwrap() / hz - 1.0).abs() < 1e-3, "{:?}, not {hz}", stretch.frequency_hz);
        assert!((stretch.rms * 2f64.sqrt() / rms - 1.0).abs() < 2e-3, "{}, not {rms}", stretch.rms);
    }
    assert!((found[1].from_s - 1.0).abs() < 2e-3 && (found[2].from_s - 2.0).abs() < 2e-3, "{} {}", found[1].from_s, found[2].from_s);
    let hiss = of_one(noise(1.0, 48_000, 5));
    assert_eq!((kinds(&hiss), hiss[0].frequency_hz), (vec![StretchKind::Tone], None), "noise has no frequency, and is not cut up");
}

#[test]
fn two_cycles_of_forty_hertz_over_the_same_tone_more_quietly() {
    let samples: Vec<f64> = (0..48_000)
        .map(|n| {
            let at = n as f64 / RATE - 0.3;
            (if (0.0..0.05 - 1e-9).contains(&at) { 30.0 } else { 3.0 }) * (TAU * 40.0 * at).sin()
        })
        .collect();
    let found = of_one(samples);
    let burst = found.iter().find(|stretch| stretch.kind == StretchKind::Burst).unwrap_or_else(|| panic!("{:?}", kinds(&found)));
    assert_eq!(burst.cycles, Some(2));
    assert!((burst.frequency_hz.unwrap() - 40.0).abs() < 0.2, "{:?}", burst.frequency_hz);
    assert!((burst.from_s - 0.3).abs() < 1e-3 && (burst.to_s - 0.35).abs() < 1e-3, "{} to {}", burst.from_s, burst.to_s);
}

#[test]
fn a_staircase_is_steps() {
    let samples: Vec<f64> = (0..8).flat_map(|step| sine(10f64.powf(f64::from(step) / 20.0), 1_000.0, RATE, 0.0, 24_000)).collect();
    assert_eq!(kinds(&of_one(samples)), [StretchKind::Steps]);
}

fn doubts(report: &TraceReport) -> Vec<(DoubtCode, usize)> {
    report.doubts.iter().map(|doubt| (doubt.code, doubt.channel)).collect()
}

#[test]
fn what_is_doubtful_is_named_with_its_place() {
    let n = 96_000;
    let clean = || sine(0.5, 1_000.0, RATE, 0.0, n);
    let asked = TraceSettings::default();
    let audio = |channels: Vec<Vec<f64>>| {
        let mut source = Memory::new(RATE, channels, Some(1.0), Some(16)).unwrap();
        read(&mut source, &asked, &mut |_| ControlFlow::Continue(())).unwrap()
    };
    let hiss = noise(1e-3, n, 3);
    let with_hiss: Vec<f64> = clean().iter().zip(&hiss).map(|(a, b)| a + b).collect();
    assert_eq!(doubts(&audio(vec![with_hiss.clone()])), []);
    let over: Vec<f64> = sine(1.2, 1_000.0, RATE, 0.0, n).into_iter().map(|x| x.clamp(-1.0, 32_767.0 / 32_768.0)).collect();
    let report = audio(vec![over]);
    assert_eq!(report.doubts[0].code, DoubtCode::OverRange);
    assert!(report.channels[0].over_range[0].from_s < 0.01 && report.channels[0].over_range[0].to_s > 1.99, "one touch, from end to end");
    // 17 samples are missing at one second.
    let mut cut = with_hiss.clone();
    cut.drain(48_000..48_017);
    let report = audio(vec![cut]);
    assert_eq!(report.doubts[0].code, DoubtCode::Dropout);
    assert!((report.doubts[0].from_s - 1.0).abs() < 1e-3, "{:?}", report.doubts[0]);
    let hum: Vec<f64> = with_hiss.iter().zip(sine(0.01, 50.0, RATE, 1.0, n)).map(|(a, b)| a + b).collect();
    assert_eq!(doubts(&audio(vec![hum])), [(DoubtCode::Hum, 1)]);
    let other: Vec<f64> = with_hiss.iter().map(|x| -0.9 * x).collect();
    assert_eq!(doubts(&audio(vec![with_hiss.clone(), other])), [(DoubtCode::Polarity, 2)]);
    let rounded: Vec<f64> = clean().into_iter().map(|x| (x * 32_768.0).round() / 32_768.0).collect();
    assert_eq!(doubts(&audio(vec![rounded])), [(DoubtCode::Floor, 1)]);
    assert_eq!(
        doubts(&audio(vec![sine(0.5, 9_000.0, RATE, 0.0, n).iter().zip(&hiss).map(|(a, b)| a + b).collect()])),
        [(DoubtCode::Aliased, 1)]
    );
}

#[test]
fn silence_nan_and_infinity() {
    assert_eq!(kinds(&of_one(vec![0.0; 48_000])), [StretchKind::Quiet]);
    assert_eq!(kinds(&of_one(vec![0.25; 48_000])), [StretchKind::Quiet], "a level that stands still is no tone");
    assert!(of_one(Vec::new()).is_empty());
    for samples in [vec![0.5], vec![0.5; 3], vec![1.0, -1.0]] {
        of_one(samples);
    }
    for (bad, what) in [(f64::NAN, "NaN"), (f64::INFINITY, "infinity"), (f64::NEG_INFINITY, "infinity")] {
        let refused = Memory::new(RATE, vec![vec![0.0; 4], vec![0.0, 0.0, bad, 0.0]], None, None).unwrap_err();
        assert_eq!(refused, SourceError::NotFinite { channel: 2, at_s: "0.000042".into(), what });
    }
    let mut source = Memory::new(RATE, vec![vec![0.0; 200_000]], None, None).unwrap();
    assert_eq!(read(&mut source, &TraceSettings::default(), &mut |_| ControlFlow::Break(())), Err(SourceError::Stopped));
}

#[test]
fn the_supply_under_a_tone_and_what_the_tone_makes_of_it() {
    let n = 48_000;
    let volts: Vec<f64> = sine(0.2, 2_000.0, RATE, 0.0, n).into_iter().map(|x| 13.8 + x).collect();
    let settings = [(ChannelKind::Output, 80.0), (ChannelKind::SupplyVolts, 1.0), (ChannelKind::SupplyAmps, 100.0)];
    let channels = settings.map(|(kind, scale)| ChannelSetting::new(kind, scale)).to_vec();
    let asked = TraceSettings { channels, load_ohm: Some(4.0), ..TraceSettings::default() };
    let report = said(vec![sine(0.5, 1_000.0, RATE, 0.0, n), volts, vec![0.2; n]], RATE, &asked);
    let supply = report.channels[0].stretches[0].supply.clone().unwrap();
    // (40/√2)²/4 = 200 W out of 13.8 V × 20 A = 276 W.
    assert!((supply.mean_v.unwrap() - 13.8).abs() < 1e-3 && (supply.lowest_v.unwrap() - 13.6).abs() < 1e-3);
    assert!((supply.input_w.unwrap() - 276.0).abs() < 0.5 && (supply.efficiency_ratio.unwrap() - 200.0 / 276.0).abs() < 2e-3, "{supply:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]

    #[test]
    fn bursts_are_counted_exactly(cycles in 1usize..40, hz in 200.0f64..3_000.0, lead in 0.03f64..0.2, volts in 1.0f64..80.0, hiss in 0.0f64..0.002) {
        let mut samples = burst_of(hz, 96_000.0, lead, &vec![volts; cycles]);
        let noise = noise(hiss * volts, samples.len(), cycles as u64);
        samples.iter_mut().zip(noise).for_each(|(x, n)| *x += n);
        let report = said(vec![samples], 96_000.0, &TraceSettings::default());
        let found: Vec<&Stretch> = report.channels[0].stretches.iter().filter(|stretch| stretch.kind == StretchKind::Burst).collect();
        prop_assert_eq!(found.len(), 1, "{:?}", kinds(&report.channels[0].stretches));
        prop_assert_eq!(found[0].cycles, Some(cycles as u32));
    }

    #[test]
    fn a_recording_cut_in_two_says_the_same_of_both_halves(at in 20_000usize..76_000, c in 0.7f64..0.97, phase in 0.0f64..6.0) {
        let wave = Clipped { c, hz: 997.0, rate_hz: RATE, phase }.samples(96_000);
        let (one, other) = (of_one(wave[..at].to_vec()), of_one(wave[at..].to_vec()));
        let whole = of_one(wave);
        prop_assert_eq!((one.len(), other.len(), whole.len()), (1, 1, 1));
        for half in [&one[0], &other[0]] {
            prop_assert!((half.thd_ratio.unwrap() / whole[0].thd_ratio.unwrap() - 1.0).abs() < 1e-3);
            prop_assert!((half.rms / whole[0].rms - 1.0).abs() < 1e-3, "{} {}", half.rms, whole[0].rms);
            prop_assert!((half.frequency_hz.unwrap() / 997.0 - 1.0).abs() < 1e-6);
        }
    }

    #[test]
    fn a_channel_says_the_same_whatever_stands_beside_it(swap in any::<bool>(), phase in 0.0f64..6.0) {
        let samples = sine(3.0, 997.0, RATE, phase, 24_000);
        let whole = of_one(samples.clone());
        let channels = if swap { vec![sine(1.0, 500.0, RATE, 0.0, 24_000), samples] } else { vec![samples, sine(1.0, 500.0, RATE, 0.0, 24_000)] };
        let report = said(channels, RATE, &TraceSettings { load_ohm: Some(4.0), ..TraceSettings::default() });
        prop_assert_eq!(&report.channels[usize::from(swap)].stretches, &whole);
    }
}
