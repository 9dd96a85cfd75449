//! Short captures of an amplifier on the bench, by its own recorder: what a reviewer would bring home.

use crate::bench::{Bench, Shape};
use crate::character::Character;
use crate::supply::SupplyKind;

/// A capture, and the name of its file.
pub type Capture = (&'static str, Vec<u8>);

/// Steps of level that the limit is looked for in, decibels, and where that begins.
const STEP_DB: f64 = 0.25;
const FROM_DB: f64 = -30.0;
/// Distortion that a clean tone has at most.
const LIMIT: f64 = 0.01;
/// Milliseconds that a level is left to settle.
const SETTLE_MS: u64 = 300;
const RAMP_MS: u64 = 4_000;
/// Decibels that a ramp rises, and how far past the limit: of a low tone each window of it takes a fifth of a second.
const RAMP_DB: f64 = 18.0;
const PAST_DB: f64 = 3.5;

/// A clean tone, a clipping one, a burst and a ramp of an amplifier into a load, at a tone.
#[must_use]
pub fn captures(seed: u64, character: &'static Character, load_ohm: f64, hz: f64) -> [Capture; 4] {
    let bench = || {
        let mut bench = Bench::with(seed, character, SupplyKind::bank(), load_ohm);
        (bench.generator.hz, bench.generator.on) = (hz, true);
        bench
    };
    let limit_db = limit_db(bench());
    let held = |level_db: f64, shape: Shape, ms: u64| {
        let mut bench = bench();
        (bench.generator.level_db, bench.generator.shape) = (level_db, shape);
        bench.advance(SETTLE_MS + ms);
        bench.recording(ms as usize)
    };
    [
        ("clean tone.wav", held(limit_db - 0.5, Shape::Sine, 500)),
        ("clipping tone.wav", held(limit_db + 1.0, Shape::Sine, 500)),
        ("burst.wav", held(limit_db + 0.3, Shape::Burst, 700)),
        ("ramp.wav", ramp(bench(), limit_db + PAST_DB)),
    ]
}

/// The highest level at which nothing clips yet.
fn limit_db(mut bench: Bench) -> f64 {
    let mut level_db = FROM_DB;
    while level_db < 0.0 {
        bench.generator.level_db = level_db;
        bench.advance(SETTLE_MS);
        if bench.reads_power_w(0) > 1.0 && bench.reads_distortion(0) > LIMIT {
            break;
        }
        level_db += STEP_DB;
    }
    level_db - STEP_DB
}

fn ramp(mut bench: Bench, to_db: f64) -> Vec<u8> {
    for ms in 0..RAMP_MS {
        bench.generator.level_db = to_db - RAMP_DB * (1.0 - ms as f64 / RAMP_MS as f64);
        bench.advance(1);
    }
    bench.recording(RAMP_MS as usize)
}

#[cfg(test)]
mod tests {
    use std::ops::ControlFlow;

    use pukka_core::traces::cut::StretchKind;
    use pukka_core::traces::{ChannelKind, ChannelSetting, Memory, TraceSettings, read};

    use super::*;
    use crate::character::ALL;
    use crate::recorder::{OUTPUT_V, RATE_HZ, SUPPLY_A, SUPPLY_V};

    #[test]
    fn each_shows_what_it_is_named_for() {
        let made = captures(7, &ALL[1], 2.0, 40.0);
        let kinds = made.map(|(name, bytes)| {
            let mut reader = hound::WavReader::new(std::io::Cursor::new(bytes)).unwrap();
            let count = usize::from(reader.spec().channels);
            let all: Vec<f64> = reader.samples::<f32>().map(|x| f64::from(x.unwrap())).collect();
            let channels = (0..count).map(|n| all.iter().skip(n).step_by(count).copied().collect()).collect();
            let mut source = Memory::new(f64::from(RATE_HZ), channels, Some(1.0), None).unwrap();
            let asked = TraceSettings {
                channels: vec![
                    ChannelSetting::new(ChannelKind::Output, OUTPUT_V),
                    ChannelSetting::new(ChannelKind::SupplyVolts, SUPPLY_V),
                    ChannelSetting::new(ChannelKind::SupplyAmps, SUPPLY_A),
                ],
                load_ohm: Some(2.0),
                ..TraceSettings::default()
            };
            let report = read(&mut source, &asked, &mut |_| ControlFlow::Continue(())).unwrap();
            let longest = report.channels[0].stretches.iter().max_by(|a, b| (a.to_s - a.from_s).total_cmp(&(b.to_s - b.from_s))).unwrap();
            let burst = report.channels[0].stretches.iter().find(|stretch| stretch.kind == StretchKind::Burst);
            (name, longest.kind, longest.clipped, longest.certified.is_some(), burst.and_then(|burst| burst.cycles))
        });
        assert_eq!(kinds[0], ("clean tone.wav", StretchKind::Tone, Some(false), false, None));
        assert_eq!(kinds[1], ("clipping tone.wav", StretchKind::Tone, Some(true), false, None));
        assert_eq!((kinds[2].0, kinds[2].4), ("burst.wav", Some(2)), "two cycles of a low tone are the standard burst");
        assert_eq!((kinds[3].0, kinds[3].1, kinds[3].3), ("ramp.wav", StretchKind::Ramp, true), "{:?}", kinds[3]);
    }
}
