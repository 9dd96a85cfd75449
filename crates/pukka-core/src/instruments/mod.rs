//! How an instrument is spoken to: a profile, a small TOML file that a user can write for their own.

mod answer;

pub use answer::{BadReading, read};

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::kernel::problem::Problem;
use crate::kernel::units::Level;

/// What an instrument does on the bench.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Role {
    /// Plays the tone.
    Generator,
    /// Reads power and distortion.
    Analyser,
    /// Reads the supply at the amplifier's terminals.
    Voltmeter,
    /// Reads the supply current.
    Ammeter,
}

impl Role {
    /// All of them.
    pub const ALL: [Self; 4] = [Self::Generator, Self::Analyser, Self::Voltmeter, Self::Ammeter];

    /// Its word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Generator => "generator",
            Self::Analyser => "analyser",
            Self::Voltmeter => "voltmeter",
            Self::Ammeter => "ammeter",
        }
    }

    /// In a sentence.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Generator => "signal generator",
            Self::Analyser => "power and distortion analyser",
            Self::Voltmeter => "supply voltmeter",
            Self::Ammeter => "clamp or shunt ammeter",
        }
    }

    /// What it reads.
    #[must_use]
    pub const fn reads(self) -> &'static [Quantity] {
        match self {
            Self::Generator => &[],
            Self::Analyser => &[Quantity::Power, Quantity::Burst, Quantity::Distortion],
            Self::Voltmeter => &[Quantity::SupplyV],
            Self::Ammeter => &[Quantity::SupplyA],
        }
    }

    /// The one with this word.
    #[must_use]
    pub fn parse(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|role| role.word() == word)
    }
}

/// What is read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Quantity {
    /// Watts of one output.
    Power,
    /// Watts of one output in a burst.
    Burst,
    /// Distortion of one output, a fraction.
    Distortion,
    /// Supply volts.
    SupplyV,
    /// Supply amps.
    SupplyA,
}

impl Quantity {
    /// All of them.
    pub const ALL: [Self; 5] = [Self::Power, Self::Burst, Self::Distortion, Self::SupplyV, Self::SupplyA];

    /// As it is named in a profile.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Power => "power",
            Self::Burst => "burst",
            Self::Distortion => "distortion",
            Self::SupplyV => "supply_v",
            Self::SupplyA => "supply_a",
        }
    }

    /// Its unit, and the most that can be: past it a scale is wrong.
    #[must_use]
    pub const fn most(self) -> (&'static str, f64) {
        match self {
            Self::Power | Self::Burst => ("W", 100_000.0),
            Self::Distortion => ("of the tone", 10.0),
            Self::SupplyV => ("V", 60.0),
            Self::SupplyA => ("A", 5_000.0),
        }
    }
}

/// How one quantity is read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Reading {
    /// The query.
    pub query: String,
    /// What its answer is multiplied by: to watts, volts, amps, or a fraction.
    #[serde(default = "one")]
    pub scale: f64,
}

const fn one() -> f64 {
    1.0
}

/// How a generator is set.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Playing {
    /// Takes the level away: on every stop, and whenever a link comes up.
    pub zero: Vec<String>,
    /// Before a run, the level still down.
    pub prepare: Vec<String>,
    /// Sets a level.
    pub level: String,
    /// What `{shape}` is for a sine.
    #[serde(default)]
    pub sine: String,
    /// What it is for the standard burst.
    #[serde(default)]
    pub burst: String,
    /// Never raised past this, dB.
    #[serde(default)]
    pub most_db: Level,
}

/// A profile.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Profile {
    /// What it is called.
    pub name: String,
    /// Behind every line that is sent.
    #[serde(default = "line_feed")]
    pub line_end: String,
    /// An answer that takes longer is none, milliseconds.
    #[serde(default = "second")]
    pub timeout_ms: u64,
    /// After a change of level, before a reading counts, milliseconds.
    #[serde(default = "quarter")]
    pub settle_ms: u64,
    /// Who is there.
    #[serde(default = "identify")]
    pub identify: String,
    /// The oldest error.
    #[serde(default = "error")]
    pub error: String,
    /// Sent as soon as a link comes up.
    #[serde(default)]
    pub on_connect: Vec<String>,
    /// Of a generator.
    #[serde(default)]
    pub generator: Option<Playing>,
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

const fn quarter() -> u64 {
    250
}

/// The profile that ships with the program.
pub const GENERIC: &str = include_str!("generic.toml");

impl Profile {
    /// Reads a profile for a task.
    ///
    /// # Errors
    /// What is wrong with it, each with its place in the file.
    pub fn read(text: &str, role: Role) -> Result<Self, Vec<Problem>> {
        let profile: Self = toml::from_str(text).map_err(|error| vec![unreadable(text, &error)])?;
        let problems = profile.check(role);
        if problems.is_empty() { Ok(profile) } else { Err(problems) }
    }

    fn check(&self, role: Role) -> Vec<Problem> {
        let mut problems = Vec::new();
        let mut refuse = |bad: bool, path: &str, says: String| {
            if bad {
                problems.push(Problem::new(path, says));
            }
        };
        refuse(self.name.trim().is_empty(), "name", "A profile has a name.".into());
        refuse(self.line_end.is_empty() || self.line_end.len() > 4, "line_end", "A line ends with 1 to 4 characters.".into());
        refuse(!(20..=60_000).contains(&self.timeout_ms), "timeout_ms", "A timeout is 20 ms to 60 s.".into());
        refuse(self.settle_ms > 60_000, "settle_ms", "Settling takes 60 s at the most.".into());
        for (word, reading) in &self.read {
            let known = Quantity::ALL.iter().any(|quantity| quantity.word() == word);
            let all = Quantity::ALL.map(Quantity::word).join(", ");
            refuse(!known, &format!("read.{word}"), format!("“{word}” is none of what is read: {all}."));
            refuse(reading.query.trim().is_empty(), &format!("read.{word}.query"), "There is no query.".into());
            let sound = reading.scale.is_finite() && reading.scale != 0.0;
            refuse(!sound, &format!("read.{word}.scale"), "A scale is a number, and not 0.".into());
        }
        if role == Role::Generator {
            let zero = self.generator.as_ref().is_none_or(|g| g.zero.is_empty() || !g.level.contains("{level_db}"));
            refuse(zero, "generator", "A generator needs lines for zero, and a level line with {level_db} in it.".into());
        } else {
            let reads = role.reads().iter().any(|quantity| self.read.contains_key(quantity.word()));
            let wanted = role.reads().iter().map(|quantity| format!("read.{}", quantity.word())).collect::<Vec<_>>().join(" or ");
            refuse(!reads, "read", format!("The {} needs {wanted}.", role.words()));
        }
        problems
    }
}

/// Where in the file, and why.
fn unreadable(text: &str, error: &toml::de::Error) -> Problem {
    let line = error.span().map(|span| text.get(..span.start).unwrap_or_default().matches('\n').count() + 1);
    let path = line.map_or_else(|| "profile".to_owned(), |line| format!("line {line}"));
    Problem::new(path, format!("{}.", error.message().trim_end_matches('.')))
}

/// What the placeholders of a line stand for.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Filling<'a> {
    /// Hertz.
    pub hz: f64,
    /// dB against full output.
    pub level_db: Level,
    /// The profile's own word.
    pub shape: &'a str,
    /// From 1.
    pub output: usize,
}

/// A line with its placeholders filled.
#[must_use]
pub fn fill(line: &str, with: Filling) -> String {
    line.replace("{hz}", &plain(with.hz))
        .replace("{level_db}", &plain(with.level_db.get()))
        .replace("{shape}", with.shape)
        .replace("{output}", &with.output.to_string())
}

/// A number as instruments take it: a point, three decimals at the most.
fn plain(value: f64) -> String {
    let text = format!("{value:.3}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_shipped_profile_serves_every_task() {
        for role in Role::ALL {
            let profile = Profile::read(GENERIC, role).unwrap();
            assert!(role.reads().iter().all(|quantity| profile.read.contains_key(quantity.word())), "{role:?}");
        }
        let generator = Profile::read(GENERIC, Role::Generator).unwrap().generator.unwrap();
        let filled = fill(&generator.level, Filling { hz: 40.0, level_db: Level::new(-12.5).unwrap(), shape: "SIN", output: 1 });
        assert_eq!(filled, "LEV -12.5");
        assert_eq!(
            fill("FREQ {hz};FUNC {shape};X {output}", Filling { hz: 1_000.0, level_db: Level::FULL, shape: "SIN", output: 2 }),
            "FREQ 1000;FUNC SIN;X 2"
        );
    }

    #[test]
    fn what_is_wrong_with_a_profile_is_said_with_its_place() {
        let first = |text: &str, role| Profile::read(text, role).unwrap_err().remove(0);
        assert_eq!(first("name = \"x\"\nsettle_ms = \"soon\"\n", Role::Voltmeter).path, "line 2");
        assert_eq!(first("name = \"x\"\n[read.colour]\nquery = \"?\"\n", Role::Voltmeter).path, "read.colour");
        assert!(first("name = \"x\"\n", Role::Voltmeter).says.contains("read.supply_v"));
        assert!(first("name = \"x\"\n", Role::Generator).says.contains("{level_db}"));
        assert_eq!(first("name = \"x\"\n[read.supply_v]\nquery = \"V?\"\nscale = 0.0\n", Role::Voltmeter).path, "read.supply_v.scale");
        assert_eq!(first("name = \"x\"\ncolour = 1\n", Role::Ammeter).path, "line 2");
    }
}
