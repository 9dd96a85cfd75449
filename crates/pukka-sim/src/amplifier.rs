//! The amplifier: converter, rails, output stages, heat, protection, fuse. A tick at a time.

use std::f64::consts::TAU;

use crate::TICK_S;
use crate::character::{Character, Stage};

/// Ambient, °C.
pub const AMBIENT_C: f64 = 22.0;
/// Samples of a cycle that a tick is computed with.
const PHASES: usize = 64;

/// Watts of a tick, by where they went. What goes in is what comes out and what is stored.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Budget {
    /// Drawn from the supply.
    pub input_w: f64,
    /// In the loads.
    pub load_w: f64,
    /// Heat of the output stages and their output resistance.
    pub stage_w: f64,
    /// Heat of the converter.
    pub converter_w: f64,
    /// Heat of all else that runs without a tone.
    pub idle_w: f64,
    /// Into the rail capacitors; below nothing when they give.
    pub stored_w: f64,
}

/// State of an amplifier.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum State {
    /// Playing, or ready to.
    On,
    /// Too much current: off until there was no tone for two seconds.
    OverCurrent,
    /// Too hot: off until it cooled.
    OverHeat,
    /// A fuse opened.
    FuseOpen,
    /// Dead.
    Dead,
}

/// An output over a tick.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Output {
    /// In its load, watts.
    pub power_w: f64,
    /// Volts rms at its load.
    pub volts_rms: f64,
    /// Peak amps.
    pub peak_a: f64,
}

/// An amplifier as it stands.
#[derive(Debug, Clone)]
pub struct Amplifier {
    /// As it was built.
    pub character: &'static Character,
    /// Rail, volts.
    pub rail_v: f64,
    /// Heatsink, °C.
    pub heatsink_c: f64,
    /// State.
    pub state: State,
    /// The outputs over the last tick.
    pub outputs: Vec<Output>,
    /// Supply amps over the last tick.
    pub input_a: f64,
    /// Budget of the last tick's watts.
    pub budget: Budget,
    fuse_heat: f64,
    quiet_s: f64,
    dying_s: f64,
}

impl Amplifier {
    /// Cold, its rails up.
    #[must_use]
    pub fn new(character: &'static Character, supply_v: f64) -> Self {
        Self {
            character,
            rail_v: target(character, supply_v),
            heatsink_c: AMBIENT_C,
            state: State::On,
            outputs: vec![Output::default(); character.outputs.len()],
            input_a: 0.0,
            budget: Budget::default(),
            fuse_heat: 0.0,
            quiet_s: 0.0,
            dying_s: 0.0,
        }
    }

    /// A sample of an output: the drive, bent a little and then cut at the rail.
    #[must_use]
    pub fn shaped(&self, drive_v: f64, output: usize) -> f64 {
        self.character.shaped(self.rail_v, drive_v, output)
    }

    /// Goes on a tick: driven by a sine of so many volts peak at the input, into a load at each output.
    pub fn tick(&mut self, supply_v: f64, input_peak_v: f64, loads_ohm: &[f64]) {
        let c = self.character;
        let playing = self.state == State::On;
        let drive_v = if playing { c.gain * input_peak_v } else { 0.0 };
        let mut budget = Budget::default();
        let mut rail_w = 0.0;
        for (index, load_ohm) in (0..c.outputs.len()).zip(loads_ohm.iter().chain(std::iter::repeat(&f64::INFINITY))) {
            let (output, stage_w, drawn_w) = self.output(index, drive_v, *load_ohm);
            budget.load_w += output.power_w;
            budget.stage_w += stage_w;
            rail_w += drawn_w;
            if let Some(place) = self.outputs.get_mut(index) {
                *place = output;
            }
        }
        let rail_a = if self.rail_v > 0.1 { rail_w / self.rail_v } else { 0.0 };
        let dead = matches!(self.state, State::Dead | State::FuseOpen);
        let (converter_a, stored_w) = self.converter(supply_v, rail_a, dead);
        budget.stored_w = stored_w;
        let aim_v = target(c, supply_v);
        let from_supply_w = aim_v * converter_a / c.converter_efficiency;
        budget.converter_w = from_supply_w * (1.0 - c.converter_efficiency) + converter_a * converter_a * c.converter_ohm;
        budget.idle_w = if dead { 0.0 } else { c.idle_a * supply_v };
        budget.input_w = from_supply_w + budget.idle_w;
        self.input_a = if supply_v > 0.5 { budget.input_w / supply_v } else { 0.0 };
        if self.state == State::Dead && self.dying_s > 0.0 {
            self.input_a = 3.0 * c.fuse_a;
            budget.input_w = self.input_a * supply_v;
            budget.stage_w = budget.input_w;
            self.dying_s -= TICK_S;
        }
        self.budget = budget;
        self.heat(budget.stage_w + budget.converter_w + budget.idle_w);
        self.watch(input_peak_v);
    }

    /// An output over a whole cycle: what it gives, the heat of its stage, and what it takes from the rail.
    fn output(&self, index: usize, drive_v: f64, load_ohm: f64) -> (Output, f64, f64) {
        let c = self.character;
        if !load_ohm.is_finite() || drive_v <= 0.0 {
            let switching = if self.state == State::On { c.switching_w } else { 0.0 };
            return (Output::default(), switching, switching);
        }
        let (mut squares, mut heat, mut drawn, mut peak_a) = (0.0, 0.0, 0.0, 0.0f64);
        for n in 0..PHASES {
            let open_v = self.shaped(drive_v * (TAU * (n as f64 + 0.5) / PHASES as f64).sin(), index);
            let amps = open_v / (load_ohm + c.out_ohm);
            let volts = amps * load_ohm;
            squares += volts * volts;
            peak_a = peak_a.max(amps.abs());
            match c.stage {
                Stage::AB => {
                    heat += (self.rail_v - open_v.abs()) * amps.abs() + amps * amps * c.out_ohm;
                    drawn += self.rail_v * amps.abs();
                }
                Stage::D => {
                    let lost = amps * amps * (c.switch_ohm + c.out_ohm);
                    heat += lost;
                    drawn += open_v * amps + amps * amps * c.switch_ohm;
                }
            }
        }
        let n = PHASES as f64;
        let power_w = squares / n / load_ohm;
        (Output { power_w, volts_rms: (squares / n).sqrt(), peak_a }, heat / n + c.switching_w, drawn / n + c.switching_w)
    }

    /// Fills the rail capacitors, implicitly: amps of the converter at the rail, and watts that were stored.
    fn converter(&mut self, supply_v: f64, rail_a: f64, off: bool) -> (f64, f64) {
        let c = self.character;
        let aim_v = if off { 0.0 } else { target(c, supply_v) };
        let before = self.rail_v;
        let k = TICK_S / c.rail_f;
        let filled = (before + k * (aim_v / c.converter_ohm - rail_a)) / (1.0 + k / c.converter_ohm);
        let amps = ((aim_v - filled) / c.converter_ohm).max(0.0);
        // A converter does not take back: when the rail stands above its aim the capacitors alone feed the outputs.
        self.rail_v = if amps > 0.0 { filled } else { (before - k * rail_a).max(0.0) };
        (amps, 0.5 * c.rail_f * (self.rail_v.powi(2) - before.powi(2)) / TICK_S)
    }

    fn heat(&mut self, watts: f64) {
        let (kelvin_per_w, joules_per_k) = self.character.heatsink;
        self.heatsink_c += (watts - (self.heatsink_c - AMBIENT_C) / kelvin_per_w) * TICK_S / joules_per_k;
    }

    /// Protection, fuse, death.
    fn watch(&mut self, input_peak_v: f64) {
        let c = self.character;
        let peak_a = self.outputs.iter().map(|output| output.peak_a).fold(0.0, f64::max);
        self.quiet_s = if input_peak_v > 1e-4 { 0.0 } else { self.quiet_s + TICK_S };
        // The fourth power fits the opening times of a blade fuse between 135 and 350 %.
        let over = self.input_a / c.fuse_a;
        self.fuse_heat =
            if over > 1.1 { self.fuse_heat + (over.powi(4) - 1.1f64.powi(4)) * TICK_S } else { (self.fuse_heat - TICK_S).max(0.0) };
        match self.state {
            State::On | State::OverHeat | State::Dead if self.fuse_heat > 20.0 => self.state = State::FuseOpen,
            State::On if c.dies_a.is_some_and(|most| peak_a > most) => {
                self.state = State::Dead;
                self.dying_s = 0.4;
            }
            State::On if c.protects_a.is_some_and(|most| peak_a > most) => self.state = State::OverCurrent,
            State::On if self.heatsink_c > c.protects_c => self.state = State::OverHeat,
            State::OverCurrent if self.quiet_s > 2.0 => self.state = State::On,
            State::OverHeat if self.heatsink_c < c.protects_c - 15.0 => self.state = State::On,
            _ => {}
        }
    }
}

/// Voltage that the converter wants of its rail.
fn target(c: &Character, supply_v: f64) -> f64 {
    let most = c.ratio * supply_v;
    c.regulated_v.map_or(most, |held| held.min(most))
}
