//! One amplifier, its claims, one sitting on one bench: the value everything is computed from, and the open file's shape.

pub mod about;
mod audience;
pub mod evidence;
pub mod examples;
mod file;
pub mod gain;
mod gate;
pub mod grouped;
pub mod merge;
mod names;
mod plan;
mod policy;
mod post_mortem;
mod reading;
mod repair;
mod run;
pub mod schema;
mod share;

pub use about::About;
pub use audience::{Clap, Guess, Guesses, Listening, Trace, TraceChannel, is_hash, read_guesses};
pub use evidence::{Evidence, EvidenceKind};
pub use file::SessionFile;
pub use gain::Gain;
pub use gate::{Gate, GateCode, OwnerConsent, spoken};
pub use names::{CheckCode, ReadingName};
pub use plan::{Order, Plan, PlannedRung, ToneOrder};
pub use policy::{Policy, Repeats};
pub use post_mortem::{FailedPart, PostMortem};
pub use reading::{Cycles, Hold, LevelStep, MOST_STEPS, OutputReading, SecondReading, SupplyReading};
pub use repair::Repair;
pub use run::{Acceptance, Burst, BurstWord, Incident, MeterUse, Method, Mode, Run};
pub use share::Audience;

use std::collections::{HashMap, HashSet};

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::absent::or_default;
use crate::kernel::problem::{Problem, check_count, check_text, under};
use crate::kernel::units::{Amps, Volts};
use crate::kernel::wiring::Wiring;
use crate::record::amplifier::Amplifier;
use crate::record::bench::Bench;
use crate::record::claims::{Claim, headline};

/// Draw at rest, read once.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Idle {
    /// Supply amps with no tone.
    pub current_a: Amps,
    /// Supply volts with no tone.
    #[serde(default)]
    pub supply_v: Option<Volts>,
}

/// A sitting of one amplifier on one bench.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Session {
    /// Always `pukka-session`.
    pub format: String,
    /// Version of the shape.
    pub version: u32,
    /// Id where it was written: a file that comes back is told from another of the same name by it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub id: Option<String>,
    /// Id of another session of the same amplifier, where several travel together.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub same_amplifier_as: Option<String>,
    /// The device under test.
    pub amplifier: Amplifier,
    /// Claims of the maker.
    #[serde(default, deserialize_with = "or_default")]
    pub claims: Vec<Claim>,
    /// The bench as it was.
    #[serde(default, deserialize_with = "or_default")]
    pub bench: Bench,
    /// The thresholds judged by.
    #[serde(default, deserialize_with = "or_default")]
    pub policy: Policy,
    /// Draw at rest.
    #[serde(default)]
    pub idle: Option<Idle>,
    /// Way in which the gain was set.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gain: Option<Gain>,
    /// Plan of the runs.
    #[serde(default, deserialize_with = "or_default")]
    pub plan: Plan,
    /// Gates that were opened, and why.
    #[serde(default, deserialize_with = "or_default")]
    pub gates: Vec<Gate>,
    /// Runs made.
    #[serde(default, deserialize_with = "or_default")]
    pub runs: Vec<Run>,
    /// Repairs after a death, or the replacement.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub repairs: Vec<Repair>,
    /// Findings after a death.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub post_mortem: Option<PostMortem>,
    /// The day it was measured, when that is not the day it was typed in.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub measured_on: Option<jiff::civil::Date>,
    /// Reason why the amplifier came to the bench again: of a retest.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub occasion: Option<String>,
    /// Source of its footage.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub footage_from: Option<String>,
    /// Claps before the camera.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub claps: Vec<Clap>,
    /// Listening notes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub listening: Option<Listening>,
    /// Guesses of its power.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub guesses: Option<Guesses>,
    /// Captured waves.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub traces: Vec<Trace>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

/// The word in every session file.
pub const FORMAT: &str = "pukka-session";
/// The version this program writes.
pub const VERSION: u32 = 1;

/// The longest lists that a session has: years of work on one amplifier do not fill them.
const MOST_RUNS: usize = 5_000;
const MOST_CLAIMS: usize = 500;
const MOST_RUNGS: usize = 500;

impl Session {
    /// A session that has not begun.
    #[must_use]
    pub fn new(amplifier: Amplifier) -> Self {
        Self {
            format: FORMAT.into(),
            version: VERSION,
            id: None,
            same_amplifier_as: None,
            amplifier,
            claims: Vec::new(),
            bench: Bench::default(),
            policy: Policy::default(),
            idle: None,
            gain: None,
            plan: Plan::default(),
            gates: Vec::new(),
            runs: Vec::new(),
            repairs: Vec::new(),
            post_mortem: None,
            measured_on: None,
            occasion: None,
            footage_from: None,
            claps: Vec::new(),
            listening: None,
            guesses: None,
            traces: Vec::new(),
            extra: Map::new(),
        }
    }

    /// Reads a session file.
    ///
    /// # Errors
    /// Every [`Problem`] found, each with its path in the file.
    pub fn read(text: &[u8]) -> Result<Self, Vec<Problem>> {
        SessionFile::read(text).map(|file| file.session)
    }

    /// Problems with the session, beyond what its types refuse.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        if self.format != FORMAT {
            problems.push(Problem::new("format", format!("This is not a session file: its format is “{}”.", self.format)));
        }
        if self.version != VERSION {
            problems.push(Problem::new("version", format!("Version {} is not known; this program reads version {VERSION}.", self.version)));
        }
        check_text(&mut problems, "id", self.id.as_deref().unwrap_or(""), false, 80);
        check_text(&mut problems, "same_amplifier_as", self.same_amplifier_as.as_deref().unwrap_or(""), false, 80);
        problems.extend(under("amplifier", self.amplifier.check()));
        problems.extend(under("bench", self.bench.check()));
        problems.extend(under("gain", self.gain.as_ref().map(Gain::check).unwrap_or_default()));
        let lists = [
            ("claims", self.claims.len(), MOST_CLAIMS),
            ("plan.rungs", self.plan.rungs.len(), MOST_RUNGS),
            ("gates", self.gates.len(), MOST_RUNS),
            ("runs", self.runs.len(), MOST_RUNS),
            ("repairs", self.repairs.len(), MOST_CLAIMS),
            ("claps", self.claps.len(), MOST_RUNS),
            ("traces", self.traces.len(), MOST_RUNS),
        ];
        if lists.into_iter().filter(|(path, count, most)| check_count(&mut problems, path, *count, *most)).count() > 0 {
            // What is far too long is not looked through.
            return problems;
        }
        for (i, claim) in self.claims.iter().enumerate() {
            problems.extend(under(&format!("claims[{i}]"), claim.check(self.amplifier.channels)));
        }
        for (i, rung) in self.plan.rungs.iter().enumerate() {
            problems.extend(under(&format!("plan.rungs[{i}]"), rung.check(self.amplifier.channels)));
        }
        for (i, repair) in self.repairs.iter().enumerate() {
            problems.extend(under(&format!("repairs[{i}]"), repair.check()));
        }
        problems.extend(under("post_mortem", self.post_mortem.as_ref().map(PostMortem::check).unwrap_or_default()));
        check_text(&mut problems, "occasion", self.occasion.as_deref().unwrap_or(""), false, 200);
        check_text(&mut problems, "footage_from", self.footage_from.as_deref().unwrap_or(""), false, 300);
        problems.extend(under("listening", self.listening.as_ref().map(Listening::check).unwrap_or_default()));
        problems.extend(under("guesses", self.guesses.as_ref().map(Guesses::check).unwrap_or_default()));
        for (i, trace) in self.traces.iter().enumerate() {
            problems.extend(under(&format!("traces[{i}]"), trace.check()));
        }
        same_ids(&mut problems, "claims", self.claims.iter().map(|claim| claim.id.as_str()));
        same_ids(&mut problems, "runs", self.runs.iter().map(|run| run.id.as_str()));
        for (i, run) in self.runs.iter().enumerate() {
            problems.extend(under(&format!("runs[{i}]"), run.check(self)));
        }
        problems.extend(self.corrections_in_a_ring());
        problems
    }

    /// Runs that correct one another in a ring: none of them is the last word.
    fn corrections_in_a_ring(&self) -> Option<Problem> {
        let corrects: HashMap<&str, &str> =
            self.runs.iter().filter_map(|run| Some((run.id.as_str(), run.supersedes.as_deref()?))).collect();
        let mut sound: HashSet<&str> = HashSet::new();
        for (i, run) in self.runs.iter().enumerate() {
            let (mut at, mut path) = (run.id.as_str(), HashSet::new());
            while let Some(next) = corrects.get(at).copied().filter(|_| !sound.contains(at)) {
                if !path.insert(at) {
                    return Some(Problem::new(format!("runs[{i}].supersedes"), "Runs correct one another in a ring."));
                }
                at = next;
            }
            sound.extend(path);
        }
        None
    }

    /// Misfits if the amplifier were this one: claims, rungs or runs that need more channels.
    #[must_use]
    pub fn misfits(&self, amplifier: &Amplifier) -> Option<Problem> {
        let changed = Self { amplifier: amplifier.clone(), ..self.clone() };
        let misfit = changed.check().into_iter().find(|problem| problem.path.ends_with(".wiring"))?;
        Some(Problem::new("channels", format!("Earlier entries would no longer fit: {}", misfit.says)))
    }

    /// The run with this id.
    #[must_use]
    pub fn run(&self, id: &str) -> Option<&Run> {
        self.runs.iter().find(|run| run.id == id)
    }

    /// Supply volts at rest before a run: its own, else the plan's.
    #[must_use]
    pub fn rest_before(&self, run: &Run) -> Option<Volts> {
        run.rest_volts().or(self.plan.rest_v)
    }

    /// Whether a claim is in use: one of several amplifiers strapped only once they were run so.
    #[must_use]
    pub fn is_in_use(&self, claim: &Claim) -> bool {
        claim.used && !self.needs_two(claim)
    }

    /// Whether a claim is one of several amplifiers strapped, and none was run so.
    #[must_use]
    pub fn needs_two(&self, claim: &Claim) -> bool {
        let strapped = |wiring: Wiring| matches!(wiring, Wiring::Strapped { .. });
        claim.wiring.is_some_and(strapped) && !self.standing_runs().any(|run| strapped(run.wiring))
    }

    /// The headline claim: the rating in use with the most watts in total; at equal watts the lowest load.
    #[must_use]
    pub fn headline(&self) -> Option<&Claim> {
        headline(self.claims.iter().filter(|claim| self.is_in_use(claim)))
    }

    /// The run that the amplifier died in: the last one, when it died more than once.
    #[must_use]
    pub fn death(&self) -> Option<&Run> {
        self.standing_runs().filter(|run| run.incident == Some(Incident::Died)).max_by_key(|run| run.at)
    }

    /// The death that ends the session, as nothing was mended since.
    #[must_use]
    pub fn ended_by(&self) -> Option<&Run> {
        let mended = |death: &Run| self.repairs.iter().any(|repair| repair.on >= jiff::tz::TimeZone::UTC.to_datetime(death.at).date());
        self.death().filter(|death| !mended(death))
    }

    /// Runs that stand: not marked invalid, and not replaced by a correction that stands itself.
    pub fn standing_runs(&self) -> impl Iterator<Item = &Run> {
        let corrections = self.runs.iter().filter(|run| run.valid);
        let replaced: HashSet<&str> = corrections.filter_map(|run| run.supersedes.as_deref()).collect();
        self.runs.iter().filter(move |run| run.valid && !replaced.contains(run.id.as_str()))
    }
}

fn same_ids<'a>(problems: &mut Vec<Problem>, list: &str, ids: impl Iterator<Item = &'a str>) {
    let mut seen = std::collections::BTreeSet::new();
    for (i, id) in ids.enumerate() {
        if id.is_empty() {
            problems.push(Problem::new(format!("{list}[{i}].id"), "This cannot be left empty."));
        } else if !seen.insert(id) {
            problems.push(Problem::new(format!("{list}[{i}].id"), format!("There is another “{id}” in this list.")));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_session_survives_the_round_trip_with_keys_we_do_not_know() {
        let mut session = examples::mono_1100();
        session.extra.insert("weather".into(), Value::from("wet"));
        session.runs[0].extra.insert("mood".into(), Value::from(3));
        let text = serde_json::to_vec(&session).unwrap();
        assert_eq!(Session::read(&text).unwrap(), session);
    }

    #[test]
    fn what_cannot_be_is_refused_with_its_path() {
        let good = serde_json::to_value(examples::mono_1100()).unwrap();
        let refused = |path: &str, value: Value| {
            let mut bad = good.clone();
            *bad.pointer_mut(path).unwrap() = value;
            Session::read(&serde_json::to_vec(&bad).unwrap()).unwrap_err()[0].path.clone()
        };
        assert_eq!(refused("/claims/0/load_ohm", 0.into()), "claims[0].load_ohm");
        assert_eq!(refused("/runs/1/outputs/0/power_w", (-3).into()), "runs[1].outputs[0].power_w");
        assert_eq!(refused("/runs/1/mode", "loud".into()), "runs[1].mode");
        assert_eq!(refused("/format", "other".into()), "format");
        assert_eq!(refused("/runs/1/id", "r1".into()), "runs[1].id");
        assert_eq!(refused("/runs/0/outputs/0/meter", "m9".into()), "runs[0].outputs[0].meter");
        assert_eq!(refused("/amplifier/channels", 300.into()), "amplifier.channels");
        assert_eq!(refused("/runs/1/outputs/0/power_w", 1e-308.into()), "runs[1].outputs[0].power_w");
        assert_eq!(refused("/amplifier/make", "\u{200b}".into()), "amplifier.make");
        let many = |value: &Value| vec![value.clone(); 100_000];
        assert_eq!(refused("/runs", many(&good["runs"][0]).into()), "runs");
        assert_eq!(refused("/claims", many(&good["claims"][0]).into()), "claims");
        assert_eq!(refused("/amplifier/fuses_a", many(&1.into()).into()), "amplifier.fuses_a");
    }

    #[test]
    fn corrections_in_a_ring_are_refused_and_a_chain_is_not() {
        let mut session = examples::mono_1100();
        let ids: Vec<String> = session.runs.iter().map(|run| run.id.clone()).collect();
        for i in 1..ids.len() {
            session.runs[i].supersedes = Some(ids[i - 1].clone());
        }
        assert_eq!(session.check(), []);
        session.runs[0].supersedes = ids.last().cloned();
        assert_eq!(session.check()[0].path, "runs[0].supersedes");
        let mut alone = examples::mono_1100();
        alone.runs[1].supersedes = Some(ids[1].clone());
        assert_eq!(alone.check()[0].path, "runs[1].supersedes");
    }

    #[test]
    fn a_correction_replaces_what_it_names() {
        let mut session = examples::mono_1100();
        let mut correction = session.runs[0].clone();
        correction.id = "r1b".into();
        correction.supersedes = Some("r1".into());
        session.runs.push(correction);
        assert!(session.standing_runs().all(|run| run.id != "r1"));
        assert!(session.run("r1").is_some(), "and the old one stays visible");
    }
}
