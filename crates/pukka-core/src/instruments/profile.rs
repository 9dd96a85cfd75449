//! A profile: how an instrument is spoken to, as a file that a person can write.

use std::collections::BTreeMap;

use regex::Regex;
use serde::{Deserialize, Serialize};

use crate::instruments::level::LevelUnit;
use crate::instruments::pattern::Pattern;
use crate::instruments::unit::Unit;
use crate::instruments::{Quantity, Role};
use crate::kernel::problem::Problem;
use crate::kernel::units::Level;

/// Question and scale of one quantity. Quantities with the same query are read from one answer.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Reading {
    /// The query.
    pub query: String,
    /// Factor from its answer to watts, volts, amps, or a fraction.
    #[serde(default = "one")]
    pub scale: f64,
    /// The unit that bare numbers are in: "mV", "dBV", "%". An answer that says its unit is taken at its word.
    #[serde(default)]
    pub unit: Option<String>,
    /// The field of a list, from 1.
    #[serde(default)]
    pub field: Option<usize>,
    /// A regular expression; what its first group catches is the number.
    #[serde(default)]
    pub pattern: Option<Pattern>,
    /// Milliseconds that this reading takes to follow, where that is longer than the profile's.
    #[serde(default)]
    pub settle_ms: Option<u64>,
    /// Least and most that can be, in the quantity's own unit.
    #[serde(default)]
    pub least: Option<f64>,
    /// Most of it.
    #[serde(default)]
    pub most: Option<f64>,
}

impl Default for Reading {
    fn default() -> Self {
        Self { query: String::new(), scale: 1.0, unit: None, field: None, pattern: None, settle_ms: None, least: None, most: None }
    }
}

const fn one() -> f64 {
    1.0
}

/// Way in which a generator is set.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Playing {
    /// Takes the level away: on every stop, and whenever a link comes up.
    pub zero: Vec<String>,
    /// Before a run, the level down and the output off.
    pub prepare: Vec<String>,
    /// Switches the output on, the level still down: sent only after the run is armed.
    #[serde(default)]
    pub on: Vec<String>,
    /// Sets a level.
    pub level: String,
    /// Unit of a level.
    #[serde(default)]
    pub unit: LevelUnit,
    /// Volts rms at 0 dB: full output.
    #[serde(default = "one")]
    pub full_v: f64,
    /// Asks for the level, in the same unit: what was set is read back.
    #[serde(default)]
    pub read_level: Option<String>,
    /// Asks whether the output is on: 0 or 1, OFF or ON.
    #[serde(default)]
    pub read_output: Option<String>,
    /// Value of `{shape}` for a sine.
    #[serde(default)]
    pub sine: String,
    /// Value of `{shape}` for the standard burst.
    #[serde(default)]
    pub burst: String,
    /// Value of `{shape}` for counted cycles; `{cycles}` stands for how many.
    #[serde(default)]
    pub cycles: String,
    /// Sets the longest that a level may play, `{ms}`: sent with each level, where the generator can.
    #[serde(default)]
    pub limit: Option<String>,
    /// Never raised past this, dB.
    #[serde(default)]
    pub most_db: Level,
}

/// Way in which a supply is set.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Feeding {
    /// Sets volts and the current limit: `{volts}`, `{amps}`.
    pub set: Vec<String>,
    /// Switches its output on.
    pub on: Vec<String>,
    /// Switches its output off: on an alarm, and by hand.
    pub off: Vec<String>,
    /// Asks whether its output is on.
    #[serde(default)]
    pub read_output: Option<String>,
    /// Most volts and amps that it is ever set to.
    #[serde(default = "most_volts")]
    pub most_v: f64,
    /// The same of amps.
    #[serde(default = "most_amps")]
    pub most_a: f64,
}

const fn most_volts() -> f64 {
    16.0
}

const fn most_amps() -> f64 {
    200.0
}

/// Capture of a wave: the answer is a definite-length block with a WAV in it, a channel an output.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Capture {
    /// The query; `{ms}` stands for how long.
    pub query: String,
    /// Volts at the full scale of the WAV.
    pub full_scale_v: f64,
}

/// A serial port, where the address names one.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Serial {
    /// Bits a second.
    pub baud: u32,
    /// 7 or 8.
    pub data_bits: u8,
    /// "none", "even" or "odd".
    pub parity: Parity,
    /// 1 or 2.
    pub stop_bits: u8,
}

/// Parity of a serial port.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Parity {
    /// No bit for it.
    #[default]
    None,
    /// Even.
    Even,
    /// Odd.
    Odd,
}

impl Default for Serial {
    fn default() -> Self {
        Self { baud: 9_600, data_bits: 8, parity: Parity::None, stop_bits: 1 }
    }
}

/// A profile.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Profile {
    /// Name.
    pub name: String,
    /// Behind every line that is sent.
    #[serde(default = "line_feed")]
    pub line_end: String,
    /// An answer that takes longer is none, milliseconds.
    #[serde(default = "second")]
    pub timeout_ms: u64,
    /// After a change of level, before a reading means anything, milliseconds.
    #[serde(default = "settling")]
    pub settle_ms: u64,
    /// Query for the identity.
    #[serde(default = "identify")]
    pub identify: String,
    /// The oldest error; nothing where an instrument has none to read.
    #[serde(default = "error")]
    pub error: String,
    /// Sent as soon as a link comes up.
    #[serde(default)]
    pub on_connect: Vec<String>,
    /// Of a serial port.
    #[serde(default)]
    pub serial: Serial,
    /// Of a generator.
    #[serde(default)]
    pub generator: Option<Playing>,
    /// Of a supply.
    #[serde(default)]
    pub supply: Option<Feeding>,
    /// Of an analyser or an oscilloscope that gives its wave.
    #[serde(default)]
    pub capture: Option<Capture>,
    /// Of meters, by the quantity's word.
    #[serde(default)]
    pub read: BTreeMap<String, Reading>,
}

fn line_feed() -> String {
    "\n".into()
}

fn identify() -> String {
    "*IDN?".into()
}

fn error() -> String {
    "SYST:ERR?".into()
}

const fn second() -> u64 {
    1_000
}

const fn settling() -> u64 {
    150
}

impl Profile {
    /// Reads a profile for a task.
    ///
    /// # Errors
    /// What is wrong with it, each with its place in the file.
    pub fn read(text: &str, role: Role) -> Result<Self, Vec<Problem>> {
        let profile = Self::parse(text)?;
        let problems = profile.check_role(role);
        if problems.is_empty() { Ok(profile) } else { Err(placed(text, problems)) }
    }

    /// Reads a profile, for whatever task it serves.
    ///
    /// # Errors
    /// What is wrong with it, each with its place in the file.
    pub fn parse(text: &str) -> Result<Self, Vec<Problem>> {
        let profile: Self = toml::from_str(text).map_err(|error| vec![unreadable(text, &error)])?;
        let problems = profile.check();
        if problems.is_empty() { Ok(profile) } else { Err(placed(text, problems)) }
    }

    /// The tasks that it serves.
    #[must_use]
    pub fn serves(&self) -> Vec<Role> {
        Role::ALL.into_iter().filter(|role| self.check_role(*role).is_empty()).collect()
    }

    /// Reading of a quantity, where the profile has it.
    #[must_use]
    pub fn reading(&self, quantity: Quantity) -> Option<&Reading> {
        self.read.get(quantity.word())
    }

    fn check(&self) -> Vec<Problem> {
        let mut found = Checking::default();
        found.refuse(self.name.trim().is_empty(), "name", "A profile has a name.");
        found.refuse(self.line_end.is_empty() || self.line_end.len() > 4, "line_end", "A line ends with 1 to 4 characters.");
        found.refuse(!(20..=60_000).contains(&self.timeout_ms), "timeout_ms", "A timeout is 20 ms to 60 s.");
        found.refuse(self.settle_ms > 60_000, "settle_ms", "Settling takes 60 s at the most.");
        found.refuse(self.identify.trim().is_empty(), "identify", "Without a question that is answered nobody knows whether it is there.");
        let bits = [7, 8].contains(&self.serial.data_bits) && [1, 2].contains(&self.serial.stop_bits);
        found.refuse(!bits, "serial", "A serial port has 7 or 8 data bits, and 1 or 2 stop bits.");
        found.refuse(!(300..=4_000_000).contains(&self.serial.baud), "serial.baud", "300 to 4 000 000 bits a second are possible.");
        for (word, reading) in &self.read {
            check_reading(&mut found, word, reading);
        }
        if let Some(playing) = &self.generator {
            check_playing(&mut found, playing);
        }
        if let Some(feeding) = &self.supply {
            check_feeding(&mut found, feeding);
        }
        if let Some(capture) = &self.capture {
            found.refuse(!capture.query.contains('?'), "capture.query", "A query has a question mark.");
            let sound = capture.full_scale_v.is_finite() && capture.full_scale_v > 0.0;
            found.refuse(!sound, "capture.full_scale_v", "Full scale is a number of volts above 0.");
        }
        found.problems
    }

    fn check_role(&self, role: Role) -> Vec<Problem> {
        let mut found = Checking::default();
        match role {
            Role::Generator => {
                let says = "A generator needs [generator] with lines for zero, and a level line with {level} in it.";
                found.refuse(self.generator.is_none(), "generator", says);
            }
            Role::Supply => found.refuse(self.supply.is_none(), "supply", "A supply needs [supply] with lines that set it and switch it."),
            Role::Analyser | Role::Voltmeter | Role::Ammeter | Role::Thermometer => {
                let reads = role.reads().iter().any(|quantity| self.reading(*quantity).is_some());
                let wanted = role.reads().iter().map(|quantity| format!("read.{}", quantity.word())).collect::<Vec<_>>().join(" or ");
                found.refuse(!reads, "read", &format!("The {} needs {wanted}.", role.words()));
            }
        }
        found.problems
    }
}

#[derive(Default)]
struct Checking {
    problems: Vec<Problem>,
}

impl Checking {
    fn refuse(&mut self, bad: bool, path: &str, says: &str) {
        if bad {
            self.problems.push(Problem::new(path, says));
        }
    }
}

fn check_reading(found: &mut Checking, word: &str, reading: &Reading) {
    let path = |name: &str| format!("read.{word}.{name}");
    let Some(quantity) = Quantity::parse(word) else {
        let all = Quantity::ALL.map(Quantity::word).join(", ");
        found.refuse(true, &format!("read.{word}"), &format!("“{word}” is none of what is read: {all}."));
        return;
    };
    found.refuse(reading.query.trim().is_empty(), &path("query"), "There is no query.");
    found.refuse(!reading.scale.is_finite() || reading.scale == 0.0, &path("scale"), "A scale is a number, and not 0.");
    let unit = |word: &str| Unit::parse(quantity, word).or_else(|| Unit::parse(Quantity::OutputV, word));
    let known = reading.unit.as_deref().is_none_or(|word| unit(word).is_some());
    found.refuse(
        !known,
        &path("unit"),
        "That is no unit of this quantity: W, mW, V, mV, dBV, dBu, A, mA, %, dB, ratio, C, F and K are known.",
    );
    found.refuse(reading.field == Some(0), &path("field"), "Fields count from 1.");
    if let Some(pattern) = &reading.pattern {
        let groups = pattern.regex().map(Regex::captures_len);
        found.refuse(groups.is_none(), &path("pattern"), "The regular expression cannot be read.");
        found.refuse(groups.is_some_and(|groups| groups != 2), &path("pattern"), "The regular expression has one group: the number.");
    }
    found.refuse(reading.settle_ms.is_some_and(|ms| ms > 60_000), &path("settle_ms"), "Settling takes 60 s at the most.");
    let limits = reading.least.zip(reading.most).is_some_and(|(least, most)| least >= most);
    found.refuse(limits, &path("most"), "The most is above the least.");
}

fn check_playing(found: &mut Checking, playing: &Playing) {
    found.refuse(playing.zero.is_empty(), "generator.zero", "Without a line for zero the level cannot be taken away.");
    let places = playing.level.contains("{level}") || playing.level.contains("{level_db}");
    found.refuse(!places, "generator.level", "A level line has {level} in it.");
    let asks = |line: &Option<String>| line.as_ref().is_some_and(|line| !line.contains('?'));
    found.refuse(asks(&playing.read_level), "generator.read_level", "A query has a question mark.");
    found.refuse(asks(&playing.read_output), "generator.read_output", "A query has a question mark.");
    let full = playing.full_v.is_finite() && playing.full_v > 0.0;
    found.refuse(!full, "generator.full_v", "Full output is a number of volts above 0.");
    let limit = playing.limit.as_ref().is_some_and(|line| !line.contains("{ms}"));
    found.refuse(limit, "generator.limit", "A limit line has {ms} in it.");
    let counts = playing.cycles.is_empty() || playing.cycles.contains("{cycles}");
    found.refuse(!counts, "generator.cycles", "Counted cycles have {cycles} in their line.");
}

fn check_feeding(found: &mut Checking, feeding: &Feeding) {
    let set = feeding.set.join(" ");
    found.refuse(
        !set.contains("{volts}") || !set.contains("{amps}"),
        "supply.set",
        "The lines that set it have {volts} and {amps} in them.",
    );
    found.refuse(feeding.off.is_empty(), "supply.off", "Without a line for it the output cannot be switched off.");
    found.refuse(feeding.on.is_empty(), "supply.on", "Without a line for it the output cannot be switched on.");
    let limits = feeding.most_v > 0.0 && feeding.most_v <= 60.0 && feeding.most_a > 0.0 && feeding.most_a <= 5_000.0;
    found.refuse(!limits, "supply.most_v", "Most volts are above 0 and up to 60, most amps above 0 and up to 5 000.");
}

/// Problems with the line of the file that they are about.
fn placed(text: &str, problems: Vec<Problem>) -> Vec<Problem> {
    problems
        .into_iter()
        .map(|problem| match line_of(text, &problem.path) {
            Some(line) => Problem::new(format!("line {line}: {}", problem.path), problem.says),
            None => problem,
        })
        .collect()
}

/// The line of a key: of its own table, or of the table itself.
fn line_of(text: &str, path: &str) -> Option<usize> {
    let (table, key) = path.rsplit_once('.').unwrap_or(("", path));
    let mut inside = "";
    let mut header = None;
    for (n, line) in text.lines().enumerate() {
        let line = line.trim();
        if let Some(name) = line.strip_prefix('[').and_then(|rest| rest.split(']').next()) {
            inside = name.trim();
            if inside == table || inside == path {
                header = Some(n + 1);
            }
        } else if inside == table && line.split('=').next().is_some_and(|name| name.trim() == key) {
            return Some(n + 1);
        }
    }
    header
}

/// Place in the file, and the reason.
fn unreadable(text: &str, error: &toml::de::Error) -> Problem {
    let line = error.span().map(|span| text.get(..span.start).unwrap_or_default().matches('\n').count() + 1);
    let path = line.map_or_else(|| "profile".to_owned(), |line| format!("line {line}"));
    Problem::new(path, format!("{}.", error.message().trim_end_matches('.')))
}
