//! What several stretches and several channels say together.

use std::f64::consts::TAU;
use std::ops::ControlFlow;

use pukka_waves::cut::StretchKind;
use pukka_waves::{ChannelKind, ChannelSetting, Memory, TraceReport, TraceSettings, read};

use crate::wave::sine;

const RATE: f64 = 48_000.0;

fn said(channels: Vec<Vec<f64>>, rate_hz: f64, settings: &[ChannelSetting]) -> TraceReport {
    let mut source = Memory::new(rate_hz, channels, None, None).unwrap();
    let asked = TraceSettings { channels: settings.to_vec(), load_ohm: Some(4.0), ..TraceSettings::default() };
    read(&mut source, &asked, &mut |_| ControlFlow::Continue(())).unwrap()
}

/// 20 cycles of 1 kHz in every 500 ms, each burst of its own level, and a tenth of the first between them.
fn bursts(levels: &[f64]) -> Vec<f64> {
    (0..(0.5 * RATE) as usize * levels.len())
        .map(|n| {
            let at = n as f64 / RATE;
            let inside = at % 0.5 >= 0.2 && at % 0.5 < 0.22 - 1e-9;
            let level = if inside { levels[(at / 0.5) as usize] } else { levels[0] / 10.0 };
            level * (TAU * 1_000.0 * at).sin()
        })
        .collect()
}

#[test]
fn bursts_of_one_kind_are_averaged_and_others_are_not() {
    let found = said(vec![bursts(&[40.0, 41.0, 39.0, 20.0])], RATE, &[]).channels.remove(0);
    assert_eq!(found.repeats.len(), 1, "half the level is no repeat: {:?}", found.repeats);
    let repeats = &found.repeats[0];
    assert_eq!((repeats.count, repeats.cycles), (3, 20));
    let square = (40.0f64.powi(2) + 41.0f64.powi(2) + 39.0f64.powi(2)) / 3.0 / 2.0;
    assert!((repeats.rms - square.sqrt()).abs() < 0.02 && (repeats.power_w.unwrap() - square / 4.0).abs() < 0.2, "{repeats:?}");
    assert!((repeats.spread_db - 20.0 * (41.0f64 / 39.0).log10()).abs() < 0.02);
    assert!((repeats.first.peak - 40.0).abs() < 0.1 && repeats.droop_db.unwrap().abs() < 0.02, "{repeats:?}");
    let burst = found.stretches.iter().find(|stretch| stretch.kind == StretchKind::Burst).unwrap();
    assert_eq!(burst.each.as_ref().unwrap().len(), 20);
    assert!(burst.sustained.unwrap().rms <= burst.best.unwrap().rms);
}

#[test]
fn outputs_driven_at_once_are_added_up() {
    let report = said(vec![sine(20.0, 1_000.0, RATE, 0.0, 48_000), sine(18.0, 1_000.0, RATE, 0.0, 48_000)], RATE, &[]);
    assert_eq!(report.together.len(), 1);
    let both = &report.together[0];
    assert_eq!(both.channels, [1, 2]);
    // 20²/2/4 + 18²/2/4 = 50 + 40.5 W; 20·lg(20/18) = 0.915 dB.
    assert!((both.power_w.unwrap() - 90.5).abs() < 0.05 && (both.balance_db - 0.915_2).abs() < 1e-3, "{both:?}");
    // ± of 50 W: twice 3 % of the scale, and 1 % of the load.
    let stretch = &report.channels[0].stretches[0];
    assert!((stretch.power_u_w.unwrap() / stretch.power_w.unwrap() - 0.06f64.hypot(0.01)).abs() < 1e-9);
    let quiet = said(vec![sine(20.0, 1_000.0, RATE, 0.0, 48_000), vec![0.0; 48_000]], RATE, &[]);
    assert!(quiet.together.is_empty(), "an output that is quiet is not driven");
}

#[test]
fn tones_one_behind_another_are_a_response() {
    // A first-order high pass at 50 Hz: |H| = 1/√(1 + (50/f)²).
    let level = |hz: f64| 1.0 / (1.0 + (50.0 / hz).powi(2)).sqrt();
    let tones = [20.0, 31.5, 50.0, 80.0, 125.0, 250.0, 500.0, 1_000.0, 2_000.0];
    let wave =
        |gain: &dyn Fn(f64) -> f64| -> Vec<f64> { tones.iter().flat_map(|hz| sine(10.0 * gain(*hz), *hz, RATE, 0.0, 48_000)).collect() };
    let alone = said(vec![wave(&level)], RATE, &[]).channels.remove(0);
    let response =
        alone.response.unwrap_or_else(|| panic!("{:?}", alone.stretches.iter().map(|s| (s.kind, s.frequency_hz)).collect::<Vec<_>>()));
    assert_eq!(response.points.len(), tones.len());
    assert!((response.low_corner_hz.unwrap() / 50.0 - 1.0).abs() < 0.05, "{:?}", response.low_corner_hz);
    for (point, hz) in response.points.iter().zip(tones) {
        let wanted = 20.0 * (level(hz) / level(1_000.0)).log10();
        assert!((point.db - wanted).abs() < 0.02, "{point:?}, not {wanted}");
    }
    // A generator whose own level falls is no fault of the amplifier.
    let played = |hz: f64| 0.1 * (1_000.0 / hz).powf(0.2);
    let settings = [ChannelSetting::default(), ChannelSetting::new(ChannelKind::Generator, 1.0)];
    let against = said(vec![wave(&|hz| level(hz) * played(hz)), wave(&played)], RATE, &settings).channels.remove(0).response.unwrap();
    for (point, hz) in against.points.iter().zip(tones) {
        assert!((point.db - 20.0 * level(hz).log10()).abs() < 0.02, "{point:?}");
    }
    assert_eq!(said(vec![sine(1.0, 1_000.0, RATE, 0.0, 48_000)], RATE, &[]).channels[0].response, None);
}

#[test]
fn a_third_of_an_octave_at_a_time_is_no_sweep() {
    let hz = |i: i32| 1_000.0 * 10f64.powf(f64::from(i) / 10.0);
    let wave: Vec<f64> =
        (-17..=13).flat_map(|i| sine(10.0 / (1.0 + (hz(i) / 12_000.0).powi(2)).sqrt(), hz(i), RATE, 0.0, 24_000)).collect();
    let found = said(vec![wave], RATE, &[]).channels.remove(0);
    assert!(
        found.stretches.iter().all(|stretch| stretch.kind == StretchKind::Tone),
        "{:?}",
        found.stretches.iter().map(|s| s.kind).collect::<Vec<_>>()
    );
    let response = found.response.unwrap();
    assert_eq!(response.points.len(), 31);
    assert!((response.high_corner_hz.unwrap() / 12_000.0 - 1.0).abs() < 0.05, "{:?}", response.high_corner_hz);
}

#[test]
fn what_lies_above_the_band_is_measured() {
    let rate = 192_000.0;
    let wave: Vec<f64> =
        sine(10.0, 1_000.0, rate, 0.0, 192_000).iter().zip(sine(0.2, 61_000.0, rate, 0.4, 192_000)).map(|(a, b)| a + b).collect();
    let above = said(vec![wave], rate, &[]).channels[0].stretches[0].above_band.unwrap();
    assert!((above.hz - 61_000.0).abs() < 50.0 && (above.rms - 0.2 / 2f64.sqrt()).abs() < 2e-3, "{above:?}");
}

#[test]
fn what_a_long_tone_draws_is_that_of_all_of_it_and_of_how_volts_and_amps_swing() {
    // Two seconds at 192 kHz, looked at in part: 14 V and 40 A, each with a ripple of twice the tone, 2.5 rad apart; the amps fall by 6 A.
    let (rate, n) = (192_000.0, 384_000);
    let ripple = |amplitude: f64, phase: f64, i: i32| amplitude * (TAU * 94.0 * f64::from(i) / rate + phase).sin();
    let volts = (0..n).map(|i| 14.0 + ripple(0.2, 0.0, i)).collect();
    let amps = (0..n).map(|i| 43.0 - 6.0 * f64::from(i) / f64::from(n) + ripple(8.0, 2.5, i)).collect();
    let settings =
        [ChannelSetting::default(), ChannelSetting::new(ChannelKind::SupplyVolts, 1.0), ChannelSetting::new(ChannelKind::SupplyAmps, 1.0)];
    let report = said(vec![sine(20.0, 47.0, rate, 0.0, n as usize), volts, amps], rate, &settings);
    let drawn = report.channels[0].stretches[0].supply.clone().unwrap().input_w.unwrap();
    let closed = 14.0 * 40.0 + 0.2 * 8.0 / 2.0 * 2.5f64.cos();
    assert!((drawn - closed).abs() < 0.05, "{drawn} W, not {closed}");
}

#[test]
fn the_supply_sags_in_so_many_places() {
    let volts: Vec<f64> = (0..48_000).map(|n| 14.4 - 1.4 * f64::from(n) / 48_000.0).collect();
    let settings = [ChannelSetting::default(), ChannelSetting::new(ChannelKind::SupplyVolts, 1.0)];
    let report = said(vec![sine(20.0, 1_000.0, RATE, 0.0, 48_000), volts], RATE, &settings);
    let sag = report.channels[0].stretches[0].supply.clone().unwrap().sag.unwrap();
    assert!((32..=64).contains(&sag.len()), "{}", sag.len());
    assert!(sag.iter().all(|point| (point.v - (14.4 - 1.4 * point.at_s)).abs() < 0.02), "{sag:?}");
}

#[test]
fn a_filter_in_a_sweep_against_the_generator() {
    // y = (1 − a)·x + a·y₋₁: a low pass of first order whose |H| is known exactly.
    let (seconds, from, to) = (6.0, 20.0f64, 15_000.0f64);
    let a = (-TAU * 2_000.0 / RATE).exp();
    let (mut phase, mut before) = (0.0f64, 0.0);
    let (mut heard, mut played) = (Vec::new(), Vec::new());
    for n in 0..(seconds * RATE) as usize {
        phase += TAU * from * ((to / from).ln() * n as f64 / RATE / seconds).exp() / RATE;
        before = (1.0 - a) * phase.sin() + a * before;
        heard.push(30.0 * before);
        played.push(phase.sin());
    }
    let settings = [ChannelSetting::default(), ChannelSetting::new(ChannelKind::Generator, 1.0)];
    let report = said(vec![heard, played], RATE, &settings);
    let sweep = report.channels[0].stretches.iter().find(|stretch| stretch.kind == StretchKind::Sweep).unwrap();
    let response = sweep.response.as_ref().unwrap();
    assert!(response.points.len() > 80, "{}", response.points.len());
    for point in &response.points {
        let w = TAU * point.hz / RATE;
        let gain = 30.0 * (1.0 - a) / ((1.0 - a * w.cos()).powi(2) + (a * w.sin()).powi(2)).sqrt();
        assert!((point.db - 20.0 * gain.log10()).abs() < 0.1, "{point:?}, not {}", 20.0 * gain.log10());
        assert!(point.coherence.unwrap() > 0.98, "{point:?}");
    }
}
