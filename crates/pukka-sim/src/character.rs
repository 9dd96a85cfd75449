//! The stand-in amplifiers: each with a character of its own. Makers and models are invented.

/// Output stage.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Stage {
    /// Class AB: what the rail has over the output is heat.
    AB,
    /// Class D: resistance and switching.
    D,
}

/// An amplifier as it was built.
#[derive(Debug, Clone, PartialEq)]
pub struct Character {
    /// Short word for it.
    pub key: &'static str,
    /// Name.
    pub name: &'static str,
    /// Lesson.
    pub teaches: &'static str,
    /// Output stage.
    pub stage: Stage,
    /// Each output's strength, of the rail: 1, or less where a channel is weak.
    pub outputs: &'static [f64],
    /// Rail volts for each volt of supply.
    pub ratio: f64,
    /// A regulated converter holds its rails here, as long as the supply allows.
    pub regulated_v: Option<f64>,
    /// Output resistance of the converter, seen from the rail, ohms.
    pub converter_ohm: f64,
    /// Part of the power that comes out of the converter.
    pub converter_efficiency: f64,
    /// Rail capacitors, farads.
    pub rail_f: f64,
    /// Output resistance of each output, ohms.
    pub out_ohm: f64,
    /// Resistance of the switches (class D), ohms.
    pub switch_ohm: f64,
    /// Switching losses of each output, watts.
    pub switching_w: f64,
    /// Supply amps with no tone.
    pub idle_a: f64,
    /// Output volts for each volt of input.
    pub gain: f64,
    /// Part of the rail by which it bends before it clips.
    pub bend: f64,
    /// Supply fuses, together, amps.
    pub fuse_a: f64,
    /// Peak output amps at which it protects itself; nothing: it does not.
    pub protects_a: Option<f64>,
    /// Heatsink at which it protects itself, °C.
    pub protects_c: f64,
    /// Peak output amps that kill it.
    pub dies_a: Option<f64>,
    /// Heatsink: kelvin a watt, and joules a kelvin.
    pub heatsink: (f64, f64),
    /// Ends of its response, 3 dB down, hertz.
    pub band_hz: (f64, f64),
}

impl Character {
    /// Part that its response leaves of a frequency: first order at both ends.
    #[must_use]
    pub fn response(&self, hz: f64) -> f64 {
        let (low, high) = self.band_hz;
        1.0 / ((1.0 + (low / hz).powi(2)) * (1.0 + (hz / high).powi(2))).sqrt()
    }

    /// A sample of an output: the drive, bent a little and then cut at the rail.
    #[must_use]
    pub fn shaped(&self, rail_v: f64, drive_v: f64, output: usize) -> f64 {
        let most = rail_v * self.outputs.get(output).copied().unwrap_or(1.0);
        if most <= 0.0 {
            return 0.0;
        }
        let x = drive_v / most;
        let bent = x - self.bend * x.powi(3);
        // Past where the bend turns back it stays at the top.
        let top = 1.0 - self.bend;
        most * if x.abs() >= 1.0 { top.copysign(x) } else { bent.clamp(-top, top) }
    }
}

const MONO: Character = Character {
    key: "honest",
    name: "Tolland & Pike Mono 500",
    teaches: "does what it says, and sags with its supply",
    stage: Stage::D,
    outputs: &[1.0],
    ratio: 3.4,
    regulated_v: None,
    converter_ohm: 0.05,
    converter_efficiency: 0.93,
    rail_f: 0.010,
    out_ohm: 0.06,
    switch_ohm: 0.05,
    switching_w: 8.0,
    idle_a: 1.2,
    gain: 40.0,
    bend: 0.012,
    fuse_a: 60.0,
    protects_a: Some(60.0),
    protects_c: 85.0,
    dies_a: None,
    heatsink: (0.35, 900.0),
    band_hz: (8.0, 25_000.0),
};

/// Every one there is.
pub const ALL: [Character; 8] = [
    MONO,
    Character {
        key: "generous",
        name: "Quillmoor Mono 300",
        teaches: "gives more than it was rated for",
        ratio: 3.1,
        fuse_a: 50.0,
        ..MONO
    },
    Character {
        key: "weak-supply",
        name: "Copley Strand S500",
        teaches: "its own converter gives up before its outputs do",
        converter_ohm: 0.35,
        converter_efficiency: 0.88,
        rail_f: 0.004,
        ..MONO
    },
    Character {
        key: "regulated",
        name: "Fennway Slim 75.2",
        teaches: "the same watts at any voltage, until its converter drops out",
        stage: Stage::AB,
        outputs: &[1.0, 1.0],
        ratio: 2.4,
        regulated_v: Some(27.5),
        converter_ohm: 0.04,
        converter_efficiency: 0.88,
        rail_f: 0.008,
        out_ohm: 0.05,
        switch_ohm: 0.0,
        switching_w: 0.0,
        idle_a: 1.8,
        gain: 25.0,
        fuse_a: 50.0,
        protects_a: Some(22.0),
        heatsink: (0.45, 1_100.0),
        band_hz: (5.0, 60_000.0),
        ..MONO
    },
    Character {
        key: "weak-channel",
        name: "Hartsedge Four",
        teaches: "four channels, one of them weak",
        outputs: &[1.0, 1.0, 0.88, 1.0],
        ratio: 1.9,
        converter_ohm: 0.04,
        out_ohm: 0.07,
        switching_w: 4.0,
        gain: 22.0,
        fuse_a: 70.0,
        protects_a: Some(25.0),
        ..MONO
    },
    Character {
        key: "fragile",
        name: "Brackwater 600.1",
        teaches: "no protection: it dies below its floor",
        ratio: 3.2,
        protects_a: None,
        dies_a: Some(38.0),
        fuse_a: 60.0,
        ..MONO
    },
    Character {
        key: "protective",
        name: "Copley Strand Guard 400",
        teaches: "protects itself early, by current and by heat",
        ratio: 3.0,
        protects_a: Some(16.0),
        protects_c: 60.0,
        heatsink: (0.6, 250.0),
        ..MONO
    },
    Character {
        key: "headroom",
        name: "Quillmoor Deep 1",
        teaches: "big rail capacitors: full of headroom for bursts",
        ratio: 3.8,
        converter_ohm: 0.30,
        rail_f: 0.080,
        protects_a: Some(70.0),
        ..MONO
    },
];

/// The one with this key.
#[must_use]
pub fn find(key: &str) -> Option<&'static Character> {
    ALL.iter().find(|character| character.key.eq_ignore_ascii_case(key))
}
