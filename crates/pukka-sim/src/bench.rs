//! The whole stand-in bench, a tick at a time.

use std::f64::consts::TAU;

use crate::TICK_S;
use crate::amplifier::{AMBIENT_C, Amplifier, Budget, State};
use crate::character::{ALL, Character};
use crate::meters::Meter;
use crate::noise::normal;
use crate::recorder::{Moment, RATE_HZ, Recorder};
use crate::supply::{Supply, SupplyKind};
use pukka_core::traces::distortion::residue_ratio;

/// Signal of the generator.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shape {
    /// A sine.
    Sine,
    /// The standard burst.
    Burst,
    /// A number of cycles, every half second.
    Cycles(u32),
}

/// A crossover filter that is switched on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Filter {
    /// Second order, Butterworth, from this frequency on.
    LowPass(f64),
    /// Likewise, down to this frequency.
    HighPass(f64),
}

impl Filter {
    /// Part that it leaves of a frequency.
    #[must_use]
    pub fn gain(self, hz: f64) -> f64 {
        let over = match self {
            Self::LowPass(corner) => hz / corner,
            Self::HighPass(corner) => corner / hz,
        };
        1.0 / (1.0 + over.powi(4)).sqrt()
    }
}

/// The signal generator.
#[derive(Debug, Clone, PartialEq)]
pub struct Generator {
    /// Hertz.
    pub hz: f64,
    /// Level, dB against its full output of 1 V rms.
    pub level_db: f64,
    /// The output is on.
    pub on: bool,
    /// Shape played.
    pub shape: Shape,
}

impl Default for Generator {
    /// As it is switched on: silent.
    fn default() -> Self {
        Self { hz: 1_000.0, level_db: -120.0, on: false, shape: Shape::Sine }
    }
}

/// Something wrong with the bench itself.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Faults {
    /// The clamp is off by this factor.
    pub clamp_factor: Option<f64>,
    /// The load switch stands one step lower than it says: half the ohms.
    pub load_switch: bool,
}

/// Temperature coefficient of the load resistors, a kelvin; kelvin a watt; joules a kelvin.
const LOAD_TCR: f64 = 180e-6;
const LOAD_K_PER_W: f64 = 0.18;
const LOAD_J_PER_K: f64 = 600.0;
/// Noise of the analyser's own input, volts in the audio band, and the band.
const NOISE_V: f64 = 0.006_7;
const BAND_HZ: f64 = 20_000.0;
/// Samples that distortion is read from, and whole cycles in them.
const SAMPLES: usize = 2_048;
const CYCLES: usize = 16;
const BURST_ON_S: f64 = 0.020;
const BURST_EVERY_S: f64 = 0.500;
/// Level between bursts: 20 dB down.
const BETWEEN: f64 = 0.1;
/// Periods that the analyser gathers for its distortion.
const PERIODS: f64 = 16.0;

/// Source of the analyser's distortion: a window of whole periods, as it was at its end.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
struct Heard {
    tick: u64,
    drive_v: f64,
    rail_v: f64,
    loaded: f64,
    hz: f64,
}

/// The bench.
#[derive(Debug, Clone)]
pub struct Bench {
    seed: u64,
    tick: u64,
    /// The generator.
    pub generator: Generator,
    /// The amplifier under test.
    pub amplifier: Amplifier,
    /// Supply.
    pub supply: Supply,
    /// Load of each output as it says on the switch, ohms.
    pub load_ohm: f64,
    load_c: f64,
    /// Problems with the bench.
    pub faults: Faults,
    /// A crossover filter of the amplifier's own.
    pub filter: Option<Filter>,
    /// State of the analyser's last whole window of distortion, and when it began to gather the next one.
    heard: Heard,
    window_from: u64,
    power: Vec<Meter>,
    volts: Vec<Meter>,
    burst: Vec<f64>,
    burst_sum: Vec<(f64, u32)>,
    supply_v: Meter,
    supply_a: Meter,
    recorder: Recorder,
    /// Joules since the start, by where they went.
    pub energy: Budget,
}

impl Bench {
    /// An honest amplifier on a bank.
    #[must_use]
    pub fn new(seed: u64) -> Self {
        Self::with(seed, &ALL[0], SupplyKind::bank(), 4.0)
    }

    /// An amplifier on a supply, into a load.
    #[must_use]
    pub fn with(seed: u64, character: &'static Character, supply: SupplyKind, load_ohm: f64) -> Self {
        let outputs = character.outputs.len() as u64;
        let amplifier = Amplifier::new(character, supply.rest_v);
        Self {
            seed,
            tick: 0,
            generator: Generator::default(),
            amplifier,
            supply: Supply::new(supply),
            load_ohm,
            load_c: AMBIENT_C,
            faults: Faults::default(),
            filter: None,
            heard: Heard::default(),
            window_from: 0,
            power: (0..outputs).map(|i| Meter::new(seed, 100 + i, 0.006, 0.000_8, 0.06)).collect(),
            volts: (0..outputs).map(|i| Meter::new(seed, 200 + i, 0.003, 0.000_4, 0.06)).collect(),
            burst: vec![0.0; character.outputs.len()],
            burst_sum: vec![(0.0, 0); character.outputs.len()],
            supply_v: Meter::new(seed, 301, 0.001, 0.000_2, 0.04),
            supply_a: Meter::new(seed, 302, 0.008, 0.001, 0.05),
            recorder: Recorder::default(),
            energy: Budget::default(),
        }
    }

    /// Puts another amplifier on the bench: cold, and rested.
    pub fn change(&mut self, character: &'static Character) {
        let (load_ohm, generator, tick) = (self.load_ohm, Generator { on: false, ..self.generator.clone() }, self.tick);
        let supply = self.supply.kind.clone();
        *self = Self {
            generator,
            tick,
            window_from: tick,
            filter: self.filter,
            faults: self.faults.clone(),
            ..Self::with(self.seed, character, supply, load_ohm)
        };
    }

    /// The same bench with meters that do not flutter: their own errors stay.
    #[must_use]
    pub fn without_noise(mut self) -> Self {
        let still = |meters: Vec<Meter>| meters.into_iter().map(Meter::without_noise).collect();
        (self.power, self.volts) = (still(self.power), still(self.volts));
        (self.supply_v, self.supply_a) = (self.supply_v.without_noise(), self.supply_a.without_noise());
        self
    }

    /// Ticks so far.
    #[must_use]
    pub const fn ticks(&self) -> u64 {
        self.tick
    }

    /// Load of each output as it really is, ohms.
    #[must_use]
    pub fn true_load_ohm(&self) -> f64 {
        let switch = if self.faults.load_switch { self.load_ohm / 2.0 } else { self.load_ohm };
        switch * (1.0 + LOAD_TCR * (self.load_c - AMBIENT_C))
    }

    /// Volts peak at the amplifier's input at full level, as its response and its filter leave it.
    fn full_peak_v(&self) -> f64 {
        let g = &self.generator;
        if !g.on {
            return 0.0;
        }
        let filter = self.filter.map_or(1.0, |filter| filter.gain(g.hz));
        2f64.sqrt() * 10f64.powf(g.level_db / 20.0) * self.amplifier.character.response(g.hz) * filter
    }

    /// Time that a burst sounds; nothing of a tone without an end.
    fn burst_s(&self) -> Option<f64> {
        match self.generator.shape {
            Shape::Sine => None,
            Shape::Burst => Some(BURST_ON_S.max(2.0 / self.generator.hz)),
            Shape::Cycles(count) => Some(f64::from(count) / self.generator.hz),
        }
    }

    /// The part of this tick that a burst sounds in.
    fn in_burst(&self) -> f64 {
        let Some(on_s) = self.burst_s() else { return 1.0 };
        let into_s = (self.tick as f64 * TICK_S) % BURST_EVERY_S;
        ((on_s - into_s) / TICK_S).clamp(0.0, 1.0)
    }

    fn input_peak_v(&self) -> f64 {
        let (full, part) = (self.full_peak_v(), self.in_burst());
        // Of a tick that a burst ends in, the mean square.
        full * (part + (1.0 - part) * BETWEEN * BETWEEN).sqrt()
    }

    /// Whether a burst sounds, as far as ticks tell.
    fn sounds(&self) -> bool {
        self.in_burst() > 0.5
    }

    /// Goes on so many ticks.
    pub fn advance(&mut self, ticks: u64) {
        for _ in 0..ticks {
            self.step();
        }
    }

    fn step(&mut self) {
        let loads = vec![self.true_load_ohm(); self.amplifier.outputs.len()];
        let (input, in_burst) = (self.input_peak_v(), self.sounds());
        self.amplifier.tick(self.supply.volts, input, &loads);
        let budget = self.amplifier.budget;
        for (i, output) in self.amplifier.outputs.iter().enumerate() {
            self.power[i].tick(output.power_w);
            self.volts[i].tick(output.volts_rms);
            if self.generator.shape != Shape::Sine {
                let (sum, count) = &mut self.burst_sum[i];
                if in_burst {
                    *sum += output.power_w;
                    *count += 1;
                } else if *count > 0 {
                    self.burst[i] = *sum / f64::from(*count);
                    (*sum, *count) = (0.0, 0);
                }
            } else {
                self.burst[i] = output.power_w;
            }
        }
        self.supply_v.tick(self.supply.volts);
        self.supply_a.tick(self.amplifier.input_a * self.faults.clamp_factor.unwrap_or(1.0));
        self.record(input, loads[0]);
        self.supply.tick(self.amplifier.input_a);
        let per_load = budget.load_w / loads.len() as f64;
        self.load_c += (per_load - (self.load_c - AMBIENT_C) / LOAD_K_PER_W) * TICK_S / LOAD_J_PER_K;
        let e = &mut self.energy;
        e.input_w += budget.input_w * TICK_S;
        e.load_w += budget.load_w * TICK_S;
        e.stage_w += budget.stage_w * TICK_S;
        e.converter_w += budget.converter_w * TICK_S;
        e.idle_w += budget.idle_w * TICK_S;
        e.stored_w += budget.stored_w * TICK_S;
        self.tick += 1;
        let window = (PERIODS / self.generator.hz / TICK_S).ceil().max(1.0) as u64;
        if self.tick >= self.window_from + window {
            self.window_from = self.tick;
            self.heard = self.hears();
        }
    }

    /// Signal that the analyser hears now.
    fn hears(&self) -> Heard {
        let (load, character) = (self.true_load_ohm(), self.amplifier.character);
        let playing = self.amplifier.state == State::On;
        Heard {
            tick: self.tick,
            drive_v: if playing { character.gain * self.full_peak_v() } else { 0.0 },
            rail_v: self.amplifier.rail_v,
            loaded: load / (load + character.out_ohm),
            hz: self.generator.hz,
        }
    }

    fn record(&mut self, input_peak_v: f64, load_ohm: f64) {
        let playing = self.amplifier.state == State::On;
        let character = self.amplifier.character;
        self.recorder.keep(Moment {
            drive_v: if playing { character.gain * input_peak_v } else { 0.0 },
            rail_v: self.amplifier.rail_v,
            loaded: load_ohm / (load_ohm + character.out_ohm),
            hz: self.generator.hz,
            supply_v: self.supply.volts,
            supply_a: self.amplifier.input_a,
        });
    }

    /// The last milliseconds as its recorder heard them: a WAV.
    #[must_use]
    pub fn recording(&self, ms: usize) -> Vec<u8> {
        self.recorder.wav(self.amplifier.character, NOISE_V * (f64::from(RATE_HZ) / 2.0 / BAND_HZ).sqrt(), self.seed, ms)
    }

    /// Reading of the analyser at an output, watts.
    #[must_use]
    pub fn reads_power_w(&self, output: usize) -> f64 {
        self.power.get(output).map_or(0.0, |meter| meter.shows(self.seed, self.tick))
    }

    /// Reading of the last burst of an output, watts.
    #[must_use]
    pub fn reads_burst_w(&self, output: usize) -> f64 {
        let error = self
            .power
            .get(output)
            .map_or(1.0, |meter| if meter.averaged() > 0.0 { meter.shows(self.seed, self.tick) / meter.averaged() } else { 1.0 });
        self.burst.get(output).copied().unwrap_or_default() * error
    }

    /// Reading of an output, volts rms.
    #[must_use]
    pub fn reads_volts_rms(&self, output: usize) -> f64 {
        self.volts.get(output).map_or(0.0, |meter| meter.shows(self.seed, self.tick))
    }

    /// Supply volts as the voltmeter shows them.
    #[must_use]
    pub fn reads_supply_v(&self) -> f64 {
        self.supply_v.shows(self.seed, self.tick)
    }

    /// Supply amps as the clamp shows them.
    #[must_use]
    pub fn reads_supply_a(&self) -> f64 {
        self.supply_a.shows(self.seed, self.tick)
    }

    /// Distortion and noise of an output, by the kernel that reads captures: from the last whole window of sixteen periods, so that it
    /// takes its time as real ones do.
    #[must_use]
    pub fn reads_distortion(&self, output: usize) -> f64 {
        let heard = self.heard;
        let rate_hz = heard.hz * SAMPLES as f64 / CYCLES as f64;
        // Spread evenly up to half the rate, so that there is as much of it in the band whatever the rate.
        let noise_v = NOISE_V * (rate_hz / 2.0 / BAND_HZ).sqrt();
        let wave: Vec<f64> = (0..SAMPLES)
            .map(|n| {
                let phase = TAU * CYCLES as f64 * n as f64 / SAMPLES as f64;
                let noise = noise_v * normal(self.seed, 400 + output as u64, heard.tick.wrapping_mul(SAMPLES as u64) + n as u64);
                self.amplifier.character.shaped(heard.rail_v, heard.drive_v * phase.sin(), output) * heard.loaded + noise
            })
            .collect();
        // Nothing but noise has no distortion to speak of: 1.
        residue_ratio(&wave, rate_hz, heard.hz).map_or(1.0, |ratio| ratio.min(1.0))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::character::find;

    fn bench(key: &str, load_ohm: f64) -> Bench {
        Bench::with(11, find(key).unwrap(), SupplyKind::bank(), load_ohm)
    }

    fn play(bench: &mut Bench, level_db: f64, ms: u64) {
        bench.generator.level_db = level_db;
        bench.generator.on = true;
        bench.advance(ms);
    }

    /// The level and the watts at which an output distorts by 1 %.
    fn clean(bench: &mut Bench) -> (f64, f64) {
        let mut best = (-60.0, 0.0);
        for tenth in -250..60 {
            play(bench, f64::from(tenth) / 10.0, 120);
            if bench.reads_distortion(0) > 0.01 && bench.reads_power_w(0) > 5.0 {
                break;
            }
            best = (bench.generator.level_db, bench.power[0].averaged());
        }
        bench.generator.on = false;
        best
    }

    #[test]
    fn the_same_seed_and_script_give_the_same_session() {
        let script = |seed| {
            let mut bench = Bench::new(seed);
            play(&mut bench, -8.0, 700);
            [bench.reads_power_w(0), bench.reads_supply_v(), bench.reads_supply_a(), bench.reads_distortion(0)].map(f64::to_bits)
        };
        assert_eq!(script(5), script(5));
        assert_ne!(script(5), script(6));
    }

    #[test]
    fn a_lower_load_gives_more_power_and_less_than_twice_as_much() {
        let (four, two) = (clean(&mut bench("honest", 4.0)).1, clean(&mut bench("honest", 2.0)).1);
        assert!(two > 1.4 * four && two < 2.0 * four, "{four} {two}");
    }

    #[test]
    fn the_supply_sags_with_the_draw_and_efficiency_falls_with_the_load() {
        let mut efficiencies = Vec::new();
        for load in [4.0, 1.0] {
            let mut bench = bench("honest", load);
            let (level, _) = clean(&mut bench);
            play(&mut bench, level, 400);
            let (volts, amps) = (bench.supply_v.averaged(), bench.supply_a.averaged());
            assert!(volts < 14.6 - 0.0045 * amps + 0.05, "{volts} V at {amps} A");
            efficiencies.push(bench.power[0].averaged() / (volts * amps));
        }
        assert!(efficiencies[0] > efficiencies[1] && efficiencies[0] < 0.95, "{efficiencies:?}");
        let mut ab = bench("regulated", 4.0);
        let (level, _) = clean(&mut ab);
        play(&mut ab, level, 400);
        let class_ab = (ab.power[0].averaged() + ab.power[1].averaged()) / (ab.supply_v.averaged() * ab.supply_a.averaged());
        assert!(class_ab < efficiencies[1] && class_ab > 0.4, "{class_ab}");
    }

    #[test]
    fn an_unregulated_amplifier_gives_a_burst_more_than_a_long_tone() {
        for key in ["honest", "weak-supply", "headroom"] {
            let mut bench = bench(key, 2.0);
            let (level, certified) = clean(&mut bench);
            bench.advance(3_000);
            bench.generator.shape = Shape::Burst;
            play(&mut bench, level + 1.5, 1_400);
            assert!(bench.burst[0] >= certified, "{key}: {} against {certified}", bench.burst[0]);
        }
    }

    #[test]
    fn what_goes_in_comes_out_within_one_percent() {
        for character in &ALL {
            for (load, level) in [(4.0, -14.0), (4.0, -4.0), (2.0, 0.0)] {
                let mut bench = Bench::with(3, character, SupplyKind::bank(), load);
                play(&mut bench, level, 800);
                let e = bench.energy;
                let out = e.load_w + e.stage_w + e.converter_w + e.idle_w + e.stored_w;
                assert!((out / e.input_w - 1.0).abs() < 0.01, "{} at {level} dB into {load} Ω: {out} J of {} J", character.key, e.input_w);
            }
        }
    }

    #[test]
    fn regulated_rails_hold_until_the_converter_drops_out() {
        let rail = |volts: f64| {
            let mut bench = Bench::with(1, find("regulated").unwrap(), SupplyKind { rest_v: volts, ..SupplyKind::bank() }, 4.0);
            play(&mut bench, -10.0, 300);
            bench.amplifier.rail_v
        };
        assert!((rail(14.4) - rail(12.5)).abs() < 0.3);
        assert!(rail(14.4) - rail(10.5) > 1.5);
    }

    #[test]
    fn protection_death_and_a_fuse() {
        let mut protective = bench("protective", 1.0);
        play(&mut protective, 0.0, 500);
        assert_eq!(protective.amplifier.state, State::OverCurrent);
        assert!(protective.reads_power_w(0) < 5.0);
        protective.generator.on = false;
        protective.advance(2_500);
        assert_eq!(protective.amplifier.state, State::On, "it comes back without a tone");
        let mut fragile = bench("fragile", 0.67);
        play(&mut fragile, 0.0, 50);
        assert_eq!(fragile.amplifier.state, State::Dead);
        fragile.advance(1_500);
        assert_eq!(fragile.amplifier.state, State::FuseOpen);
        assert!(fragile.amplifier.input_a < 0.1, "{}", fragile.amplifier.input_a);
        let mut safe = bench("fragile", 4.0);
        play(&mut safe, 0.0, 2_000);
        assert_eq!(safe.amplifier.state, State::On, "above its floor it lives");
    }

    #[test]
    fn one_weak_channel_and_warm_loads() {
        let mut four = bench("weak-channel", 4.0);
        play(&mut four, 2.0, 400);
        let watts: Vec<f64> = four.power.iter().map(Meter::averaged).collect();
        assert!(watts[2] < 0.85 * watts[0] && (watts[1] - watts[0]).abs() < 1.0, "{watts:?}");
        let before = four.true_load_ohm();
        four.advance(60_000);
        assert!(four.true_load_ohm() > before * 1.0005);
    }

    #[test]
    fn faults_of_the_bench() {
        let mut bench = bench("honest", 4.0);
        play(&mut bench, -12.0, 500);
        let honest = bench.reads_supply_a();
        bench.faults.clamp_factor = Some(0.5);
        bench.advance(500);
        assert!((bench.reads_supply_a() / honest - 0.5).abs() < 0.02);
        bench.faults.load_switch = true;
        bench.advance(500);
        let (volts, watts) = (bench.reads_volts_rms(0), bench.reads_power_w(0));
        assert!((volts * volts / watts - 2.0).abs() < 0.1, "the switch says 4 Ω, and it is {}", volts * volts / watts);
    }
}
