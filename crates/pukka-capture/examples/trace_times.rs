//! How long a minute of four channels at 192 kHz takes to read, cut and measure, against one transform of the same samples.

#![allow(clippy::unwrap_used, reason = "a measurement that cannot set itself up has failed")]

use std::f64::consts::TAU;
use std::ops::ControlFlow;
use std::path::Path;
use std::time::Instant;

use pukka_waves::levels::levels;
use pukka_waves::{ChannelKind, ChannelSetting, TraceSettings, read};
use realfft::RealFftPlanner;

const RATE: u32 = 192_000;
const SECONDS: usize = 60;
const CHANNELS: usize = 4;
const FRAME: usize = 65_536;
const TIMES: usize = 9;

/// A tone, a ramp, bursts, quiet: what a session on the bench sounds like. The supply is a level with some ripple.
fn sample(channel: usize, n: usize) -> f64 {
    let at = n as f64 / f64::from(RATE);
    let wave = (TAU * 1_000.0 * at).sin();
    match channel {
        2 => 0.5 + 0.01 * (TAU * 2_000.0 * at).sin(),
        3 => 0.2,
        _ => match at {
            at if at < 15.0 => 0.4 * wave,
            at if at < 35.0 => (0.03 * 10f64.powf((at - 15.0) / 20.0 * 30.0 / 20.0) * wave).clamp(-0.7, 0.7),
            at if at < 55.0 => (if at % 0.5 < 0.02 { 0.6 } else { 0.06 }) * wave,
            _ => 0.0,
        },
    }
}

fn write(path: &Path) {
    let spec =
        hound::WavSpec { channels: CHANNELS as u16, sample_rate: RATE, bits_per_sample: 24, sample_format: hound::SampleFormat::Int };
    let mut writer = hound::WavWriter::create(path, spec).unwrap();
    for n in 0..SECONDS * RATE as usize {
        for channel in 0..CHANNELS {
            writer.write_sample((sample(channel, n) * 8_388_607.0) as i32).unwrap();
        }
    }
    writer.finalize().unwrap();
}

fn median(times: &mut [f64]) -> f64 {
    times.sort_by(f64::total_cmp);
    times[times.len() / 2]
}

/// Most memory that was resident so far, megabytes.
fn resident_mb() -> f64 {
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let line = status.lines().find(|line| line.starts_with("VmHWM")).unwrap_or_default();
    line.split_whitespace().nth(1).and_then(|kb| kb.parse::<f64>().ok()).unwrap_or(0.0) / 1e3
}

fn transform_all(path: &Path) -> (f64, f64) {
    let plan = RealFftPlanner::<f64>::new().plan_fft_forward(FRAME);
    let mut bins = plan.make_output_vec();
    let mut held: Vec<Vec<f64>> = vec![Vec::new(); CHANNELS];
    let (mut transforming, whole) = (0.0, Instant::now());
    pukka_capture::open(path)
        .unwrap()
        .blocks(0, &mut |block| {
            for (held, samples) in held.iter_mut().zip(block) {
                held.extend(samples.iter().map(|x| f64::from(*x)));
                while held.len() >= FRAME {
                    let mut frame: Vec<f64> = held.drain(..FRAME).collect();
                    let start = Instant::now();
                    plan.process(&mut frame, &mut bins).unwrap();
                    transforming += start.elapsed().as_secs_f64();
                }
            }
            ControlFlow::Continue(())
        })
        .unwrap();
    (transforming, whole.elapsed().as_secs_f64())
}

fn main() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("minute.wav");
    write(&path);
    let setting = |kind| ChannelSetting::new(kind, 80.0);
    let channels = [ChannelKind::Output, ChannelKind::Output, ChannelKind::SupplyVolts, ChannelKind::SupplyAmps].map(setting).to_vec();
    let asked = TraceSettings { channels, load_ohm: Some(4.0), ..TraceSettings::default() };
    let before = resident_mb();
    let (mut reading, mut transforming, mut decoding, mut ratios, mut passing) =
        (Vec::new(), Vec::new(), Vec::new(), Vec::new(), Vec::new());
    let (mut stretches, mut most) = (0, 0.0);
    // By turns, as a machine that is shared is faster now and slower then.
    for _ in 0..TIMES {
        let start = Instant::now();
        let report = read(pukka_capture::open(&path).unwrap().as_mut(), &asked, &mut |_| ControlFlow::Continue(())).unwrap();
        let took = start.elapsed().as_secs_f64();
        reading.push(took);
        stretches = report.channels.iter().map(|channel| channel.stretches.len()).sum();
        let start = Instant::now();
        levels(pukka_capture::open(&path).unwrap().as_mut(), &mut |_| ControlFlow::Continue(())).unwrap();
        passing.push(start.elapsed().as_secs_f64());
        most = resident_mb();
        let (fft, all) = transform_all(&path);
        transforming.push(fft);
        decoding.push(all - fft);
        ratios.push(took / fft);
    }
    let (read, fft, decode) = (median(&mut reading), median(&mut transforming), median(&mut decoding));
    println!("a minute of trace  {:>9.0} ms  ({stretches} stretches, median of {TIMES})", read * 1e3);
    println!("one transform pass {:>9.0} ms, decoding alone {:.0} ms: {:.2} times the pass", fft * 1e3, decode * 1e3, median(&mut ratios));
    println!("its first pass     {:>9.0} ms", median(&mut passing) * 1e3);
    println!("resident           {most:>9.1} MB at most, {before:.1} before");
}
