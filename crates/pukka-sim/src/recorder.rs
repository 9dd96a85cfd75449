//! The bench's recorder: the last seconds of every output and of the supply, as a wave.
//!
//! The bench is computed in ticks; what each was like is kept, and the wave is made of it when it is asked for, by the same curve that
//! the amplifier bends and clips with.

use std::collections::VecDeque;
use std::f64::consts::TAU;
use std::io::Cursor;

use hound::{SampleFormat, WavSpec, WavWriter};

use crate::TICK_S;
use crate::character::Character;
use crate::noise::normal;

/// Samples a second of a recording.
pub const RATE_HZ: u32 = 96_000;
/// Meaning of full scale: volts of an output, volts and amps of the supply.
pub const OUTPUT_V: f64 = 200.0;
/// Supply volts at full scale.
pub const SUPPLY_V: f64 = 20.0;
/// Supply amps at full scale.
pub const SUPPLY_A: f64 = 500.0;
/// Ticks that are kept.
pub const MOST_TICKS: usize = 4_000;

/// State at a tick.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Moment {
    /// Volts peak that the amplifier was driven to.
    pub drive_v: f64,
    /// Rails.
    pub rail_v: f64,
    /// Part of its open volts that reaches the load.
    pub loaded: f64,
    /// Hertz.
    pub hz: f64,
    /// Supply at its terminals.
    pub supply_v: f64,
    /// Supply current.
    pub supply_a: f64,
}

/// The last moments.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Recorder {
    moments: VecDeque<(Moment, f64)>,
    /// Turns of the generator since its start, and ticks.
    turns: f64,
    ticks: u64,
}

impl Recorder {
    /// Keeps a tick.
    pub fn keep(&mut self, moment: Moment) {
        if self.moments.len() == MOST_TICKS {
            self.moments.pop_front();
        }
        self.moments.push_back((moment, self.turns));
        self.turns = (self.turns + moment.hz * TICK_S).fract();
        self.ticks += 1;
    }

    /// The last ticks as a WAV of floats: a channel an output, then supply volts, then supply amps.
    #[must_use]
    pub fn wav(&self, character: &Character, noise_v: f64, seed: u64, ticks: usize) -> Vec<u8> {
        let outputs = character.outputs.len();
        let spec = WavSpec { channels: outputs as u16 + 2, sample_rate: RATE_HZ, bits_per_sample: 32, sample_format: SampleFormat::Float };
        let mut file = Cursor::new(Vec::new());
        let per_tick = (f64::from(RATE_HZ) * TICK_S).round() as usize;
        let skipped = self.moments.len().saturating_sub(ticks);
        let first = self.ticks - (self.moments.len() - skipped) as u64;
        let written = WavWriter::new(&mut file, spec).and_then(|mut writer| {
            for (tick, (moment, turns)) in (first..).zip(self.moments.iter().skip(skipped)) {
                for n in 0..per_tick {
                    let phase = TAU * (turns + moment.hz * n as f64 / f64::from(RATE_HZ));
                    let at = tick.wrapping_mul(per_tick as u64) + n as u64;
                    for output in 0..outputs {
                        let noise = noise_v * normal(seed, 600 + output as u64, at);
                        let volts = character.shaped(moment.rail_v, moment.drive_v * phase.sin(), output) * moment.loaded + noise;
                        writer.write_sample((volts / OUTPUT_V) as f32)?;
                    }
                    writer.write_sample((moment.supply_v / SUPPLY_V) as f32)?;
                    writer.write_sample((moment.supply_a / SUPPLY_A) as f32)?;
                }
            }
            writer.finalize()
        });
        if let Err(why) = written {
            unreachable!("memory takes it: {why}");
        }
        file.into_inner()
    }
}

/// A definite-length block: `#`, how many digits, how many bytes, the bytes.
///
/// Ref: IEEE 488.2, 8.7.9 (definite length arbitrary block response data).
#[must_use]
pub fn block(bytes: &[u8]) -> Vec<u8> {
    let length = bytes.len().to_string();
    [format!("#{}{length}", length.len()).as_bytes(), bytes].concat()
}

#[cfg(test)]
mod tests {
    use std::ops::ControlFlow;

    use pukka_core::traces::cut::StretchKind;
    use pukka_core::traces::{ChannelKind, ChannelSetting, Memory, TraceSettings, read};

    use super::*;
    use crate::bench::{Bench, Shape};

    fn channels(bytes: Vec<u8>) -> Vec<Vec<f64>> {
        let mut reader = hound::WavReader::new(Cursor::new(bytes)).unwrap();
        let count = usize::from(reader.spec().channels);
        let all: Vec<f64> = reader.samples::<f32>().map(|x| f64::from(x.unwrap())).collect();
        (0..count).map(|channel| all.iter().skip(channel).step_by(count).copied().collect()).collect()
    }

    fn asked(bench: &Bench) -> TraceSettings {
        let setting = ChannelSetting::new;
        let outputs = bench.amplifier.outputs.len();
        let channels = std::iter::repeat_n(setting(ChannelKind::Output, OUTPUT_V), outputs)
            .chain([setting(ChannelKind::SupplyVolts, SUPPLY_V), setting(ChannelKind::SupplyAmps, SUPPLY_A)])
            .collect();
        TraceSettings { channels, load_ohm: Some(bench.true_load_ohm()), ..TraceSettings::default() }
    }

    #[test]
    fn a_recording_reads_what_the_meters_read() {
        let mut bench = Bench::new(7);
        bench.generator.level_db = -8.0;
        bench.generator.on = true;
        bench.advance(1_200);
        let mut source = Memory::new(f64::from(RATE_HZ), channels(bench.recording(500)), Some(1.0), None).unwrap();
        let report = read(&mut source, &asked(&bench), &mut |_| ControlFlow::Continue(())).unwrap();
        let tone = &report.channels[0].stretches[0];
        assert_eq!((tone.kind, report.seconds), (StretchKind::Tone, 0.5));
        let watts = bench.reads_power_w(0);
        assert!((tone.power_w.unwrap() / watts - 1.0).abs() < 0.02, "{:?} and {watts}", tone.power_w);
        assert!(
            (tone.thd_n_ratio.unwrap() - bench.reads_distortion(0)).abs() < 0.002,
            "{:?} and {}",
            tone.thd_n_ratio,
            bench.reads_distortion(0)
        );
        let supply = tone.supply.clone().unwrap();
        assert!(
            (supply.mean_v.unwrap() - bench.reads_supply_v()).abs() < 0.1
                && (supply.mean_a.unwrap() / bench.reads_supply_a() - 1.0).abs() < 0.05
        );
    }

    #[test]
    fn a_standard_burst_has_twenty_cycles() {
        let mut bench = Bench::new(7);
        bench.generator.shape = Shape::Burst;
        bench.generator.level_db = -6.0;
        bench.generator.on = true;
        bench.advance(1_300);
        let mut source = Memory::new(f64::from(RATE_HZ), channels(bench.recording(1_000)), Some(1.0), None).unwrap();
        let report = read(&mut source, &asked(&bench), &mut |_| ControlFlow::Continue(())).unwrap();
        let bursts: Vec<u32> = report.channels[0].stretches.iter().filter_map(|stretch| stretch.cycles).collect();
        assert!(!bursts.is_empty() && bursts.iter().all(|cycles| *cycles == 20), "{bursts:?}");
    }

    #[test]
    fn a_block_says_how_long_it_is() {
        assert_eq!(block(b"twelve bytes"), b"#212twelve bytes");
        assert_eq!(block(b""), b"#10");
    }
}
