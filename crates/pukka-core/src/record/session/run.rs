//! One run, as read.

use std::borrow::Cow;

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::absent::{is_yes, or_default, or_yes, yes};
use crate::kernel::problem::{Problem, check_text, under};
use crate::kernel::units::{Amps, Celsius, Drive, Hertz, Ohms, Ratio, Volts, Watts};
use crate::kernel::wiring::{Group, Wiring};
use crate::record::amplifier::check_load;
use crate::record::session::evidence::{self, Evidence, EvidenceKind};
use crate::record::session::grouped;
use crate::record::session::reading::{Cycles, Hold, LevelStep, OutputReading, SupplyReading, check_rows};
use crate::record::session::{CheckCode, ReadingName, Session};

/// Aim of a run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Mode {
    /// Clean: distortion inside the limit.
    Certified,
    /// The same tone past the limit.
    Clipping,
    /// A burst.
    Dynamic,
}

impl Mode {
    /// In the order of the bench.
    pub const ALL: [Self; 3] = [Self::Certified, Self::Clipping, Self::Dynamic];

    /// Word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Certified => "certified",
            Self::Clipping => "clipping",
            Self::Dynamic => "dynamic",
        }
    }

    /// In words, with the count of a burst of counted cycles: "dynamic, 20 cycles".
    #[must_use]
    pub fn words(self, burst: Option<Burst>) -> String {
        match burst {
            Some(counted @ Burst::Counted(_)) => format!("{}, {}", self.word(), counted.words()),
            _ => self.word().to_owned(),
        }
    }
}

/// A kind of burst as a file says it: `"standard"`, or how many cycles.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(untagged)]
pub enum BurstWord {
    /// Counted cycles.
    Counted(u32),
    /// By name.
    Named(BurstName),
}

/// The kind of burst that has a name.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum BurstName {
    /// 20 ms of 1 kHz in every 500 ms.
    Standard,
}

impl From<BurstWord> for Burst {
    fn from(word: BurstWord) -> Self {
        match word {
            BurstWord::Counted(count) => Self::Counted(count),
            BurstWord::Named(BurstName::Standard) => Self::Standard,
        }
    }
}

impl From<Burst> for BurstWord {
    fn from(burst: Burst) -> Self {
        match burst {
            Burst::Counted(count) => Self::Counted(count),
            Burst::Standard => Self::Named(BurstName::Standard),
        }
    }
}

/// Kinds of burst: never repeats of one another.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(from = "BurstWord", into = "BurstWord")]
pub enum Burst {
    /// 20 ms of 1 kHz in every 500 ms; below 100 Hz, two whole cycles.
    Standard,
    /// A number of cycles in every 500 ms.
    Counted(u32),
}

/// Fewest counted cycles that speak for dynamic power.
const SPEAKING_CYCLES: u32 = 8;

impl Burst {
    /// Name: "standard burst", "20 cycles".
    #[must_use]
    pub fn words(self) -> String {
        match self {
            Self::Standard => "standard burst".into(),
            Self::Counted(1) => "1 cycle".into(),
            Self::Counted(count) => format!("{count} cycles"),
        }
    }

    /// The kind of these that speaks for dynamic power: standard burst, else the longest count of at least 8.
    #[must_use]
    pub fn speaking(kinds: impl IntoIterator<Item = Self>) -> Option<Self> {
        kinds.into_iter().filter(|kind| !matches!(kind, Self::Counted(count) if *count < SPEAKING_CYCLES)).min_by_key(|kind| match kind {
            Self::Standard => u32::MIN,
            Self::Counted(count) => u32::MAX - *count,
        })
    }
}

/// Method of a certified figure.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Method {
    /// The level rises and stops at the limit.
    Ramp,
    /// Fixed levels, interpolated at the limit.
    Steps,
    /// By eye, on a scope.
    Eye,
    /// From a captured wave.
    Trace,
}

/// Mishap in a run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Incident {
    /// Went into protection.
    Protection,
    /// A fuse opened.
    Fuse,
    /// Smoked.
    Smoke,
    /// Died.
    Died,
}

/// A meter that a run names.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct MeterUse {
    /// Path in the run.
    pub path: String,
    /// Id.
    pub meter: String,
}

/// A check that the reviewer settled by accepting it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Acceptance {
    /// The check's word, or `incident`. A word of a later version is kept as it came.
    pub code: String,
    /// Reason.
    pub reason: String,
}

impl Acceptance {
    /// Whether this is what it settles.
    #[must_use]
    pub fn is_of(&self, check: CheckCode) -> bool {
        self.code == check.word()
    }
}

/// A run, as read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Run {
    /// Id inside the session.
    pub id: String,
    /// Time of it.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// Channels driven, and how.
    pub wiring: Wiring,
    /// The amplifier's switch.
    #[serde(default)]
    pub setting: Option<String>,
    /// Nominal load of each output.
    pub load_nominal_ohm: Ohms,
    /// Load as measured at the amplifier's terminals.
    #[serde(default)]
    pub load_measured_ohm: Option<Ohms>,
    /// Loads as measured of the groups of a mixed wiring, in their order.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub group_loads_measured_ohm: Vec<Ohms>,
    /// Aim.
    pub mode: Mode,
    /// Method of its figure.
    #[serde(default)]
    pub method: Option<Method>,
    /// Test frequency.
    pub tone_hz: Hertz,
    /// Distortion limit it was run to.
    #[serde(default)]
    pub limit_ratio: Option<Ratio>,
    /// Drive above clip onset.
    #[serde(default)]
    pub extra_drive_db: Option<Drive>,
    /// Readings at the outputs.
    #[serde(default, deserialize_with = "or_default")]
    pub outputs: Vec<OutputReading>,
    /// Total of all outputs, where only a total was read; `outputs` is empty then.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub total_power_w: Option<Watts>,
    /// Readings off a moving display: known to 5 %, or to the meter's limits where those are wider.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub approximate: Vec<ReadingName>,
    /// Watts that a climbing reading started from; the higher one is the reading.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub climbed_from_w: Option<Watts>,
    /// False where nobody said in which mode it was read: it bounds from above, and proves nothing.
    #[serde(default = "yes", deserialize_with = "or_yes", skip_serializing_if = "is_yes")]
    pub mode_stated: bool,
    /// Supply before the run.
    #[serde(default)]
    pub rest_v: Option<Volts>,
    /// Supply under load, at the moment of the reading.
    #[serde(default)]
    pub end_v: Option<Volts>,
    /// Supply current.
    #[serde(default)]
    pub current_a: Option<Amps>,
    /// Whether a charger was on.
    #[serde(default)]
    pub charger_on: Option<bool>,
    /// Distortion, as a fraction.
    #[serde(default)]
    pub thd_ratio: Option<Ratio>,
    /// Heatsink.
    #[serde(default)]
    pub temperature_c: Option<Celsius>,
    /// False when it was taken back.
    #[serde(default = "yes", deserialize_with = "or_yes")]
    pub valid: bool,
    /// Efficiency as read off a meter.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub efficiency_read_ratio: Option<Ratio>,
    /// A row a level, of a run by level steps.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub steps: Vec<LevelStep>,
    /// A burst of counted cycles.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cycles: Option<Cycles>,
    /// Readings after the tone was held.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hold: Option<Hold>,
    /// Readings of other meters on the supply.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub supply_also: Vec<SupplyReading>,
    /// Evidence that can be looked at again: a ramp that was kept as it was driven, a captured wave, a photo.
    #[serde(default, deserialize_with = "evidence::list", skip_serializing_if = "Vec::is_empty")]
    pub evidence: Vec<Evidence>,
    /// Bank that fed it, when the bench has several.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bank: Option<String>,
    /// Readings kept and shown, but not computed with.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub struck: Vec<ReadingName>,
    /// Checks settled by accepting.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub accepted: Vec<Acceptance>,
    /// The run this one corrects.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub supersedes: Option<String>,
    /// Reason why it corrects it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reason: Option<String>,
    /// Mishap, if any.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub incident: Option<Incident>,
    /// Run past a gate for which no reason has been given.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub ungated: bool,
    /// Cut short.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub incomplete: bool,
    /// Person who ran it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub who: Option<String>,
    /// A note.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<String>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

/// Least reading above nothing: watts, volts or amps.
const LEAST_READING: f64 = 1e-6;

impl Run {
    /// Ended before it came to its limit, by nothing that the amplifier did: its power is "at least so much".
    #[must_use]
    pub fn cut_short(&self) -> bool {
        self.incomplete && self.incident.is_none()
    }

    /// Mode in words: "dynamic, 20 cycles" of counted ones.
    #[must_use]
    pub fn mode_words(&self) -> String {
        self.mode.words(self.burst())
    }

    /// Place on the ladder: "2 Ω, clipping", with the wiring when it is not mono.
    #[must_use]
    pub fn place_words(&self) -> String {
        format!("{}, {}", self.wiring.place_words(self.load_nominal_ohm), self.mode_words())
    }

    /// The load computed with: measured when known, else nominal.
    #[must_use]
    pub fn load(&self) -> Ohms {
        self.load_measured_ohm.unwrap_or(self.load_nominal_ohm)
    }

    /// The same run, as if only one group of its mixed wiring had been driven.
    #[must_use]
    pub fn of_group(&self, index: u8, group: &Group) -> Self {
        Self {
            wiring: group.wiring.into(),
            load_nominal_ohm: group.load_ohm,
            load_measured_ohm: self.group_loads_measured_ohm.get(usize::from(index)).copied(),
            tone_hz: group.tone_hz.unwrap_or(self.tone_hz),
            outputs: self.outputs.iter().filter(|output| output.group == Some(index)).cloned().collect(),
            group_loads_measured_ohm: Vec::new(),
            ..self.clone()
        }
    }

    /// The parts of it that have one load each: itself, or its groups.
    pub fn parts(&self) -> impl Iterator<Item = Cow<'_, Self>> {
        let groups = self.wiring.groups();
        let whole = groups.is_none().then_some(Cow::Borrowed(self));
        let each = (0u8..).zip(groups.into_iter().flatten()).map(|(i, group)| Cow::Owned(self.of_group(i, &group)));
        whole.into_iter().chain(each)
    }

    /// Whether anything was read at an output: an incident may leave nothing.
    #[must_use]
    pub fn was_read(&self) -> bool {
        !self.outputs.is_empty() || !self.steps.is_empty() || self.cycles.is_some() || self.total_power_w.is_some()
    }

    /// Kind of burst; nothing unless it is one.
    #[must_use]
    pub fn burst(&self) -> Option<Burst> {
        let counted = self.cycles.as_ref().map_or(Burst::Standard, |cycles| Burst::Counted(cycles.count));
        (self.mode == Mode::Dynamic).then_some(counted)
    }

    /// Whether a reading was taken off a moving display.
    #[must_use]
    pub fn is_approximate(&self, reading: ReadingName) -> bool {
        self.approximate.contains(&reading)
    }

    /// Clean, and said to be.
    #[must_use]
    pub fn is_certified(&self) -> bool {
        self.mode == Mode::Certified && self.mode_stated
    }

    /// Whether a reading was struck.
    #[must_use]
    pub fn is_struck(&self, reading: ReadingName) -> bool {
        self.struck.contains(&reading)
    }

    /// Supply volts under load, unless struck.
    #[must_use]
    pub fn end_volts(&self) -> Option<Volts> {
        self.end_v.filter(|_| !self.is_struck(ReadingName::EndVolts))
    }

    /// Supply amps, unless struck.
    #[must_use]
    pub fn amps(&self) -> Option<Amps> {
        self.current_a.filter(|_| !self.is_struck(ReadingName::Current))
    }

    /// Efficiency off a meter, unless struck.
    #[must_use]
    pub fn efficiency_read(&self) -> Option<Ratio> {
        self.efficiency_read_ratio.filter(|_| !self.is_struck(ReadingName::Efficiency))
    }

    /// Supply volts at rest, unless struck.
    #[must_use]
    pub fn rest_volts(&self) -> Option<Volts> {
        self.rest_v.filter(|_| !self.is_struck(ReadingName::RestVolts))
    }

    /// Every meter it names, and where.
    #[must_use]
    pub fn meters_used(&self) -> Vec<MeterUse> {
        let mut found = Vec::new();
        let mut add = |path: String, meter: Option<&String>| found.extend(meter.map(|meter| MeterUse { path, meter: meter.clone() }));
        let own = self.outputs.iter().enumerate().map(|(i, output)| (format!("outputs[{i}]"), output));
        let steps = self.steps.iter().enumerate();
        let stepped = steps
            .flat_map(|(n, step)| step.outputs.iter().enumerate().map(move |(i, output)| (format!("steps[{n}].outputs[{i}]"), output)));
        for (at, output) in own.chain(stepped) {
            add(format!("{at}.meter"), output.meter.as_ref());
            for (i, second) in output.also.iter().enumerate() {
                add(format!("{at}.also[{i}].meter"), second.meter.as_ref());
            }
        }
        for (i, second) in self.supply_also.iter().enumerate() {
            add(format!("supply_also[{i}].meter"), second.meter.as_ref());
        }
        found
    }

    /// Whether the program drove it itself.
    #[must_use]
    pub fn is_driven(&self) -> bool {
        self.evidence.iter().any(|evidence| evidence.kind == EvidenceKind::Ramp)
    }

    /// Readings that no meter shows: above nothing, and below what any of them could tell from it.
    fn vanishing(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        let mut look = |path: String, value: Option<f64>| {
            if value.is_some_and(|value| value != 0.0 && value.abs() < LEAST_READING) {
                problems.push(Problem::new(path, "This is smaller than any meter shows."));
            }
        };
        for (i, output) in self.outputs.iter().enumerate() {
            look(format!("outputs[{i}].power_w"), output.power_w.map(f64::from));
            look(format!("outputs[{i}].volts_rms"), output.volts_rms.map(f64::from));
            look(format!("outputs[{i}].volts_peak"), output.volts_peak.map(f64::from));
            look(format!("outputs[{i}].volts_pp"), output.volts_pp.map(f64::from));
        }
        look("total_power_w".into(), self.total_power_w.map(f64::from));
        look("rest_v".into(), self.rest_v.map(f64::from));
        look("end_v".into(), self.end_v.map(f64::from));
        look("current_a".into(), self.current_a.map(f64::from));
        problems
    }

    /// Problems with it inside its session.
    #[must_use]
    pub fn check(&self, session: &Session) -> Vec<Problem> {
        let mut problems = Vec::new();
        self.wiring.check(session.amplifier.channels, "wiring", &mut problems);
        check_load(&mut problems, "load_nominal_ohm", self.load_nominal_ohm);
        if let Some(load) = self.load_measured_ohm {
            check_load(&mut problems, "load_measured_ohm", load);
        }
        problems.extend(grouped::check_run(self));
        problems.extend(self.vanishing());
        if self.outputs.len() > usize::from(self.wiring.outputs()) {
            problems.push(Problem::new(
                "outputs",
                format!("{} outputs were read, but {} has {}.", self.outputs.len(), self.wiring.words(), self.wiring.outputs()),
            ));
        }
        for (i, evidence) in self.evidence.iter().enumerate() {
            problems.extend(under(&format!("evidence[{i}]"), evidence.check()));
        }
        if self.total_power_w.is_some() && !self.outputs.is_empty() {
            problems.push(Problem::new("total_power_w", "Either each output was read, or only the total: not both."));
        }
        for MeterUse { path, meter } in self.meters_used() {
            if !session.bench.meters.iter().any(|known| known.id == meter) {
                problems.push(Problem::new(path, format!("There is no meter “{meter}” on this bench.")));
            }
        }
        problems.extend(check_rows(&self.steps, self.cycles.as_ref(), self.hold.as_ref(), usize::from(self.wiring.outputs())));
        if let Some(note) = &self.note {
            check_text(&mut problems, "note", note, false, 2_000);
        }
        if let Some(old) = &self.supersedes
            && session.run(old).is_none()
        {
            problems.push(Problem::new("supersedes", format!("There is no run “{old}”.")));
        }
        problems
    }
}
