use std::f64::consts::TAU;
use std::ops::ControlFlow;

use super::*;
use crate::evidence::rungs::{Rung, rungs};
use crate::evidence::total;
use crate::record::session::examples::mono_1100;
use crate::record::session::{EvidenceKind, Method, Mode, OutputReading, ReadingName, Run, Session, Trace, TraceChannel};
use crate::traces::report::Stretch;
use crate::traces::{ChannelKind, Memory, TraceReport, read};

const RATE: f64 = 48_000.0;

fn wave(seconds: f64, of: impl Fn(f64) -> f64) -> Vec<f64> {
    (0..(seconds * RATE) as usize).map(|n| of(n as f64 / RATE)).collect()
}

fn channel(kind: ChannelKind, meter: Option<&str>) -> TraceChannel {
    TraceChannel { kind: kind.word().into(), scale: Some(1.0), meter: meter.map(str::to_owned), ..TraceChannel::default() }
}

/// An output, supply volts and supply amps, as they were captured.
fn captured(output: Vec<f64>, meter: Option<&str>) -> (Trace, TraceReport) {
    let n = output.len();
    let kinds = [ChannelKind::Output, ChannelKind::SupplyVolts, ChannelKind::SupplyAmps];
    let trace = Trace {
        sha256: "a".repeat(64),
        name: "burst.wav".into(),
        channels: kinds.iter().map(|kind| channel(*kind, meter.filter(|_| *kind == ChannelKind::Output))).collect(),
    };
    let mut source = Memory::new(RATE, vec![output, vec![13.9; n], vec![52.0; n]], None, None).unwrap();
    let asked = trace_settings(&trace, 3, Some(3.91), 0.01);
    let report = read(&mut source, &asked, &mut |_| ControlFlow::Continue(())).unwrap();
    (trace, report)
}

fn longest(report: &TraceReport) -> Stretch {
    let mut all = report.channels[0].stretches.clone();
    all.sort_by(|a, b| (b.to_s - b.from_s).total_cmp(&(a.to_s - a.from_s)));
    all.swap_remove(0)
}

fn at(stretch: Stretch) -> Moment {
    Moment { outputs: vec![(0, stretch)], ..Moment::default() }
}

/// The session's place of 4 Ω, at its own tone of 40 Hz.
fn place(session: &Session) -> Rung {
    rungs(session).into_iter().find(|rung| (rung.id.load_ohm.get() - 4.0).abs() < 1e-9).unwrap()
}

fn logged(session: &Session, mode: Mode, (trace, found): (&Trace, &CapturedReading)) -> Run {
    captured_run(session, &place(session), mode, (trace, found), ("t1".into(), "2026-11-20T10:00:00Z".parse().unwrap(), None))
}

#[test]
fn a_clean_tone_is_certified_power_by_volts_and_the_measured_load() {
    let session = mono_1100();
    let (trace, report) = captured(wave(1.0, |t| 59.0 * (TAU * 40.0 * t).sin()), None);
    let tone = longest(&report);
    let efficiency = tone.supply.as_ref().and_then(|supply| supply.efficiency_ratio).unwrap();
    assert!((efficiency - 59f64.powi(2) / 2.0 / 3.91 / (13.9 * 52.0)).abs() < 1e-3, "{efficiency}");
    let moment = at(tone);
    let found = reading(&session, &place(&session), Mode::Certified, &trace, &moment).unwrap();
    let run = logged(&session, Mode::Certified, (&trace, &found));
    assert_eq!(
        (run.method, run.evidence[0].kind, run.evidence[0].sha256.clone()),
        (Some(Method::Trace), EvidenceKind::Trace, Some("a".repeat(64)))
    );
    // (59/√2)² / 3.91 Ω = 445.1 W, within the scope's 3 % and the load's 1 %: U = 2 · √((2 · 3/√3)² + (1/√3)²) %.
    let made = total(&session, &run).unwrap();
    assert!((made.total_w - 445.14).abs() < 0.05, "{}", made.total_w);
    assert!((made.expanded_w() / made.total_w - 2.0 * (0.06f64 / 3f64.sqrt()).hypot(0.01 / 3f64.sqrt())).abs() < 1e-3);
    assert_eq!((run.end_v.unwrap().get(), run.current_a.unwrap().get()), (13.9, 52.0));
    assert_eq!(run.approximate, [ReadingName::EndVolts, ReadingName::Current], "no meter gave the supply its scale");
    assert!(run.thd_ratio.unwrap().get() < 0.001 && !run.incomplete);
    let why = reading(&session, &place(&session), Mode::Clipping, &trace, &moment).unwrap_err();
    assert!(matches!(why, Unfit::InsideLimit { .. }) && why.to_string().ends_with("It is logged as certified."), "{why}");
    assert_eq!(reading(&session, &place(&session), Mode::Dynamic, &trace, &moment), Err(Unfit::NoBurst));
}

#[test]
fn a_scale_by_a_meter_is_as_good_as_the_meter() {
    let mut session = mono_1100();
    session
        .bench
        .meters
        .push(serde_json::from_value(serde_json::json!({ "id": "dmm", "quantity": "voltage", "reading_ratio": 0.005 })).unwrap());
    let (trace, report) = captured(wave(1.0, |t| 59.0 * (TAU * 40.0 * t).sin()), Some("dmm"));
    let found = reading(&session, &place(&session), Mode::Certified, &trace, &at(longest(&report))).unwrap();
    let made = total(&session, &logged(&session, Mode::Certified, (&trace, &found))).unwrap();
    assert!((made.expanded_w() / made.total_w - 2.0 * (0.01f64 / 3f64.sqrt()).hypot(0.01 / 3f64.sqrt())).abs() < 1e-3);
}

#[test]
fn a_wave_with_flat_tops_is_clipping_and_no_clean_power() {
    let session = mono_1100();
    let (trace, report) = captured(wave(1.0, |t| (70.0 * (TAU * 40.0 * t).sin()).clamp(-60.0, 60.0)), None);
    let moment = at(longest(&report));
    let why = reading(&session, &place(&session), Mode::Certified, &trace, &moment).unwrap_err();
    assert!(matches!(why, Unfit::PastLimit { .. }), "{why}");
    let found = reading(&session, &place(&session), Mode::Clipping, &trace, &moment).unwrap();
    let run = logged(&session, Mode::Clipping, (&trace, &found));
    assert!(total(&session, &run).is_ok(), "rms counts where a peak would not");
    let begins = onset(&moment.outputs[0].1).unwrap();
    assert!((begins.volts_rms - 60.0 / 2f64.sqrt()).abs() < 0.3, "{begins:?}");
}

#[test]
fn a_ramp_is_certified_where_it_crosses_and_at_least_where_it_does_not() {
    let session = mono_1100();
    let clipped = |most: f64| wave(4.0, move |t| ((10.0 + most * t / 4.0) * (TAU * 40.0 * t).sin()).clamp(-60.0, 60.0));
    let (trace, report) = captured(clipped(80.0), None);
    let ramp = longest(&report);
    let supply = ramp.supply.as_ref().unwrap();
    assert!(supply.input_w.is_some() && supply.efficiency_ratio.is_none(), "its power is of one moment, its draw of all of it");
    let found = reading(&session, &place(&session), Mode::Certified, &trace, &at(ramp.clone())).unwrap();
    let volts = found.readings.outputs[0].volts_rms.unwrap().get();
    // One percent of a clipped sine is where its limit is 0.9716 of its amplitude: 60 / 0.9716 · 0.7236… = 43.4 V rms.
    assert!((volts - 43.4).abs() < 0.9, "{volts}");
    assert_eq!((found.readings.thd_ratio.unwrap().get(), found.at_least), (0.01, false));
    let top = reading(&session, &place(&session), Mode::Clipping, &trace, &at(ramp)).unwrap();
    assert!(top.readings.outputs[0].volts_rms.unwrap().get() > volts && top.readings.thd_ratio.unwrap().get() > 0.05);
    let (trace, report) = captured(clipped(40.0), None);
    let clean = reading(&session, &place(&session), Mode::Certified, &trace, &at(longest(&report))).unwrap();
    let run = logged(&session, Mode::Certified, (&trace, &clean));
    assert!(run.incomplete && total(&session, &run).unwrap().at_least, "it ended before the limit");
}

#[test]
fn a_burst_is_standard_or_counted_by_its_cycles_and_belongs_to_its_tone() {
    let session = mono_1100();
    let burst = |cycles: f64| {
        wave(0.6, move |t| {
            let level = if (0.2..0.2 + cycles / 40.0).contains(&t) { 60.0 - 20.0 * (t - 0.2) } else { 2.0 };
            level * (TAU * 40.0 * (t - 0.2)).sin()
        })
    };
    let (trace, report) = captured(burst(2.0), None);
    let of = |report: &TraceReport| report.channels[0].stretches.iter().find(|stretch| stretch.cycles.is_some()).unwrap().clone();
    let standard = reading(&session, &place(&session), Mode::Dynamic, &trace, &at(of(&report))).unwrap();
    assert!(
        standard.readings.cycles.is_none() && standard.readings.outputs[0].volts_rms.is_some(),
        "two cycles below 100 Hz are the standard burst"
    );
    assert_eq!(reading(&session, &place(&session), Mode::Certified, &trace, &at(of(&report))), Err(Unfit::IsBurst));
    let (trace, report) = captured(burst(8.0), None);
    let counted = reading(&session, &place(&session), Mode::Dynamic, &trace, &at(of(&report))).unwrap();
    let cycles = counted.readings.cycles.clone().unwrap();
    assert_eq!(cycles.count, 8);
    let rms = |end: &OutputReading| end.volts_rms.unwrap().get();
    assert!(rms(&cycles.first) > rms(cycles.last.as_ref().unwrap()));
    let (trace, report) = captured(wave(1.0, |t| 20.0 * (TAU * 1_000.0 * t).sin()), None);
    let other = reading(&session, &place(&session), Mode::Certified, &trace, &at(longest(&report))).unwrap_err();
    assert_eq!(other, Unfit::OtherTone { heard: "1\u{202f}000 Hz".into(), wanted: "40 Hz".into() });
}

#[test]
fn a_hand_reading_and_a_trace_are_second_meters_of_one_another() {
    let session = mono_1100();
    let run = session.runs[0].clone();
    let (trace, report) = captured(wave(1.0, |t| 59.0 * (TAU * 40.0 * t).sin()), None);
    let found = reading(&session, &place(&session), Mode::Certified, &trace, &at(longest(&report))).unwrap();
    let both = with_second_meter(&run, &trace, &found, "r1b".into());
    assert_eq!(
        (both.supersedes.as_deref(), both.outputs[0].power_w),
        (Some(run.id.as_str()), run.outputs[0].power_w),
        "the hand's stays the reading"
    );
    let second = &both.outputs[0].also[0];
    // Watts beside watts: 41.72² / 3.91.
    assert!((second.power_w.unwrap().get() - 445.14).abs() < 0.1 && second.volts_rms.is_none());
    assert_eq!(both.supply_also[0].end_v.unwrap().get(), 13.9);
    assert!(both.evidence.iter().any(|own| own.kind == EvidenceKind::Trace));
}

#[test]
fn more_outputs_than_are_driven_are_refused_and_silence_is_no_reading() {
    let session = mono_1100();
    let (trace, report) = captured(wave(1.0, |t| 59.0 * (TAU * 40.0 * t).sin()), None);
    let one = longest(&report);
    let two = Moment { outputs: vec![(0, one.clone()), (1, one)], ..Moment::default() };
    let why = reading(&session, &place(&session), Mode::Certified, &trace, &two).unwrap_err();
    assert_eq!(why, Unfit::MoreOutputs { found: 2, wanted: 1 });
    let (trace, report) = captured(wave(0.5, |_| 0.0), None);
    assert_eq!(reading(&session, &place(&session), Mode::Certified, &trace, &at(longest(&report))), Err(Unfit::Quiet));
    assert_eq!(reading(&session, &place(&session), Mode::Certified, &trace, &Moment::default()), Err(Unfit::Quiet));
}

#[test]
fn words_of_channels_that_are_not_known_mean_nothing_here() {
    let kind = |word: &str| kind_of(&TraceChannel { kind: word.into(), ..TraceChannel::default() });
    assert_eq!(
        [kind("output"), kind("output-volts"), kind("supply-volts")],
        [ChannelKind::Output, ChannelKind::Output, ChannelKind::SupplyVolts]
    );
    assert_eq!([kind("temperature"), kind(""), kind("-volts")], [ChannelKind::Unused; 3]);
}

#[test]
fn corners_are_held_against_the_knobs() {
    use crate::record::amplifier::{Control, ControlKind};
    use crate::traces::report::Response;
    let mut amplifier = mono_1100().amplifier;
    let control = |kind, from: f64, to: f64| -> Control {
        serde_json::from_value(serde_json::json!({ "kind": kind, "from_hz": from, "to_hz": to })).unwrap()
    };
    amplifier.controls = vec![control("low-pass", 40.0, 150.0)];
    let response = Response {
        points: Vec::new(),
        low_corner_hz: Some(22.0),
        high_corner_hz: Some(118.0),
        low_slope_db_octave: Some(12.0),
        high_slope_db_octave: Some(-24.3),
        boost: None,
    };
    let said = corners_said(&amplifier, &response);
    assert_eq!(
        said.iter().map(|corner| (corner.kind, corner.within)).collect::<Vec<_>>(),
        [(ControlKind::HighPass, None), (ControlKind::LowPass, Some(true))]
    );
    assert_eq!(
        said[1].says.replace('\u{202f}', " "),
        "−3 dB at the high end: 118 Hz, 24 dB an octave, as the low-pass (40 Hz to 150 Hz) can make it."
    );
    let far = Response { high_corner_hz: Some(300.0), ..response };
    assert_eq!(corners_said(&amplifier, &far)[1].within, Some(false));
}
