//! What one session adds to what the bench taught: small enough to be kept beside its summary.

use serde::{Deserialize, Serialize};

use crate::assess::{Judgement, Outcome, Overall, judge};
use crate::evidence::floor::floor;
use crate::evidence::source_ohm::{ENOUGH_RUNS, fit, sag_of};
use crate::kernel::format;
use crate::kernel::wiring::same_load;
use crate::record::amplifier::{Class, RelationKind};
use crate::record::bench::SupplyKind;
use crate::record::session::{Incident, Run, Session};
use crate::report::summary::{Summary, summary_of};
use crate::report::value::CleanPower;

/// What one session adds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Lesson {
    /// Maker.
    pub make: String,
    /// Model.
    pub model: String,
    /// Names of amplifiers that are the same under another name.
    pub look_alikes: Vec<String>,
    /// The day it was measured, else the day of its last run.
    pub on: Option<jiff::civil::Date>,
    /// Class.
    pub class: Class,
    /// Kind of the supply.
    pub supply: SupplyKind,
    /// The word over all.
    pub overall: Option<Overall>,
    /// Clean power, where it counts for value.
    pub clean: Option<CleanPower>,
    /// Each load it was run into.
    pub tries: Vec<Try>,
    /// Claims that came out true.
    pub kept: u32,
    /// Claims that did not.
    pub short: u32,
    /// Source resistance of the supply that its own runs show, ohms, and their scatter.
    pub source_ohm: Option<(f64, Option<f64>)>,
    /// Meters that read the same thing.
    pub meters: Vec<MeterPair>,
    /// Loads as they were measured.
    pub loads: Vec<MeasuredLoad>,
}

/// The summary of a session and what it adds: one judgement makes both.
#[must_use]
pub fn summary_and_lesson(session: &Session) -> (Summary, Lesson) {
    let judgement = judge(session);
    let summary = summary_of(session, &judgement);
    let lesson = Lesson::of(session, &judgement, &summary);
    (summary, lesson)
}

/// A load that an amplifier was run into.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Try {
    /// "2 Ω".
    pub load: String,
    /// Ohms, nominal, of an output.
    pub load_ohm: f64,
    /// Where it stands to the floor.
    pub to_floor: ToFloor,
    /// The worst that happened there.
    pub fate: Fate,
}

/// A load against the floor of its wiring.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum ToFloor {
    /// Above it.
    Above,
    /// At it.
    At,
    /// Below it.
    Below,
    /// No floor is known.
    Unknown,
}

/// What became of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Fate {
    /// Held.
    Held,
    /// Went into protection, or opened a fuse.
    Protected,
    /// Smoked, or died.
    Died,
}

/// Two meters that read the same thing in the runs of a session.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct MeterPair {
    /// The first, by its name.
    pub first: String,
    /// The other.
    pub second: String,
    /// Watts or volts.
    pub what: String,
    /// Readings of both.
    pub count: u32,
    /// Sum of second over first less one.
    pub sum: f64,
    /// Sum of its squares.
    pub squares: f64,
}

/// A load as it was measured.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct MeasuredLoad {
    /// Nominal, ohms.
    pub nominal_ohm: f64,
    /// Measured, ohms.
    pub measured_ohm: f64,
}

impl Lesson {
    /// Of a session, with its judgement and its summary.
    fn of(session: &Session, judgement: &Judgement, summary: &Summary) -> Self {
        let runs: Vec<&Run> = session.standing_runs().collect();
        let came_out = |yes: &[Outcome]| {
            let count = judgement.claims.iter().filter(|claim| yes.contains(&claim.outcome)).count();
            u32::try_from(count).unwrap_or(u32::MAX)
        };
        let last = runs.iter().map(|run| run.at).max().map(|at| jiff::tz::TimeZone::UTC.to_datetime(at).date());
        let sags: Vec<_> = runs.iter().filter(|run| !run.incomplete).filter_map(|run| sag_of(run)).collect();
        let source = fit(&sags).filter(|source| source.runs >= ENOUGH_RUNS);
        Self {
            make: session.amplifier.make.clone(),
            model: session.amplifier.model.clone(),
            look_alikes: session
                .amplifier
                .relations
                .iter()
                .filter(|relation| relation.kind == RelationKind::LookAlike)
                .map(|relation| relation.name.clone())
                .collect(),
            on: session.measured_on.or(last),
            class: session.amplifier.class,
            supply: session.bench.supply.kind,
            overall: summary.overall,
            clean: summary.clean().cloned(),
            tries: tries(session, &runs),
            kept: came_out(&KEPT),
            short: came_out(&SHORT),
            source_ohm: source.map(|source| (source.ohm, source.scatter_ohm)),
            meters: pairs(session, &runs),
            loads: loads(&runs),
        }
    }
}

const KEPT: [Outcome; 4] = [Outcome::Beats, Outcome::Holds, Outcome::HoldsWithin, Outcome::MaxMet];
const SHORT: [Outcome; 5] = [Outcome::OnlyClipping, Outcome::OnlyDynamic, Outcome::Short, Outcome::FarShort, Outcome::MaxMissed];

fn tries(session: &Session, runs: &[&Run]) -> Vec<Try> {
    let mut tries: Vec<Try> = Vec::new();
    for run in runs {
        for (wiring, load) in run.wiring.places(run.load_nominal_ohm) {
            let to_floor = match floor(session, wiring).map(|floor| floor.ohm) {
                None => ToFloor::Unknown,
                Some(floor) if same_load(load.get(), floor) => ToFloor::At,
                Some(floor) if load.get() < floor => ToFloor::Below,
                Some(_) => ToFloor::Above,
            };
            let fate = match run.incident {
                None => Fate::Held,
                Some(Incident::Protection | Incident::Fuse) => Fate::Protected,
                Some(Incident::Smoke | Incident::Died) => Fate::Died,
            };
            let same = |known: &&mut Try| same_load(known.load_ohm, load.get()) && known.to_floor == to_floor;
            match tries.iter_mut().find(same) {
                Some(known) => known.fate = known.fate.max(fate),
                None => tries.push(Try { load: format::with_unit(&format::ohms(load.get()), "Ω"), load_ohm: load.get(), to_floor, fate }),
            }
        }
    }
    tries
}

/// Second meters against the first, watts with watts and volts with volts.
fn pairs(session: &Session, runs: &[&Run]) -> Vec<MeterPair> {
    let name = |id: &Option<String>| {
        let id = id.as_deref()?;
        let meter = session.bench.meters.iter().find(|meter| meter.id == id);
        Some(meter.and_then(|meter| meter.name.clone()).unwrap_or_else(|| id.to_owned()))
    };
    let mut pairs: Vec<MeterPair> = Vec::new();
    for output in runs.iter().flat_map(|run| &run.outputs) {
        for other in &output.also {
            let (Some(first), Some(second)) = (name(&output.meter), name(&other.meter)) else { continue };
            let both = output.in_order().into_iter().zip(other.in_order()).enumerate();
            let Some((at, (one, two))) = both.filter_map(|(at, (one, two))| Some((at, (one?, two?)))).next() else { continue };
            let what = if at == 0 { "watts" } else { "volts" };
            let off = two / one - 1.0;
            let same = |known: &&mut MeterPair| known.first == first && known.second == second && known.what == what;
            match pairs.iter_mut().find(same) {
                Some(known) => {
                    known.count += 1;
                    known.sum += off;
                    known.squares += off * off;
                }
                None => pairs.push(MeterPair { first, second, what: what.into(), count: 1, sum: off, squares: off * off }),
            }
        }
    }
    pairs
}

fn loads(runs: &[&Run]) -> Vec<MeasuredLoad> {
    let mut loads: Vec<MeasuredLoad> = Vec::new();
    for run in runs {
        let Some(measured) = run.load_measured_ohm else { continue };
        let nominal_ohm = run.load_nominal_ohm.get();
        // The last one measured stands.
        loads.retain(|known| !same_load(known.nominal_ohm, nominal_ohm));
        loads.push(MeasuredLoad { nominal_ohm, measured_ohm: measured.get() });
    }
    loads
}
