//! The load ladder as it stands: every rung, every mode, what was logged and what is in the way.

use std::collections::HashMap;

use serde::{Deserialize, Serialize};

use crate::assess::check_session;
use crate::assess::checks::Check;
use crate::evidence::choose::{Usable, usable_with, used_run};
use crate::evidence::entry::{Readings, print};
use crate::evidence::figures::{RunNumbers, numbers};
use crate::evidence::rungs::{Rung, Step, bursts_left, is_done, next_step, rungs, steps, words};
use crate::evidence::source_ohm;
use crate::kernel::format;
use crate::kernel::units::{Ohms, SLACK, Volts};
use crate::kernel::wiring::Wiring;
use crate::kernel::working::Figure;
use crate::plan::expected::{Expectation, expected};
use crate::plan::gates::{GateFinding, Look, gates};
use crate::plan::view::minutes;
use crate::predict::known::{Prior, Where};
use crate::predict::prediction::Prediction;
use crate::record::claims::Claim;
use crate::record::session::{Burst, BurstWord, Mode, Order, Run, Session};

/// Place of a run: the key of a rung, and a mode.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Place {
    /// Key of the rung.
    pub rung: String,
    /// Mode.
    pub mode: Mode,
}

/// A run in a cell.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RunBrief {
    /// Id.
    pub id: String,
    /// Time of it.
    #[schema(value_type = String, format = DateTime)]
    pub at: jiff::Timestamp,
    /// Readings, as a line that can be typed again.
    pub line: String,
    /// Note on it.
    pub note: Option<String>,
    /// Total power as shown.
    pub total: String,
    /// The one the policy uses.
    pub used: bool,
    /// Run past a gate without a reason, and stays out of the verdict.
    pub ungated: bool,
    /// Pukka drove it, and its ramp was kept.
    pub driven: bool,
    /// Checks on it.
    pub checks: Vec<Check>,
}

/// Figures that a cell shows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CellFigures {
    /// Total power, without its unit.
    pub power: String,
    /// Supply volts and efficiency, as far as they are known.
    pub under: String,
    /// Length of its bar, of 1.
    pub fraction: f64,
}

/// A kind of burst in a cell.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct BurstFigure {
    /// "20 cycles".
    pub words: String,
    /// Total power with its unit; nothing while it is still to run.
    pub power: Option<String>,
    /// The figure of the cell.
    pub shown: bool,
}

/// A mode of a rung.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Cell {
    /// Mode.
    pub mode: Mode,
    /// Whether it is to be run.
    pub planned: bool,
    /// Figures shown, when something was logged.
    pub figures: Option<CellFigures>,
    /// Runs, the newest last.
    pub runs: Vec<RunBrief>,
    /// Kinds of burst, when there is more than one of them or one is planned: each its own figure, or still to run.
    pub bursts: Vec<BurstFigure>,
    /// Gates in the way, open or not.
    pub gates: Vec<GateFinding>,
    /// Whether one of them is shut.
    pub shut: bool,
    /// Extra drive for it, decibels.
    pub extra_drive_db: f64,
    /// Points to mind at this very step.
    pub mind: Vec<String>,
    /// Reason why Pukka asks once more before it starts this run; nothing when it does not.
    pub asks: Vec<String>,
}

/// Settings of a rung.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RungSettings {
    /// Supply at rest.
    pub rest_v: Option<Volts>,
    /// Load as measured.
    pub load_measured_ohm: Option<Ohms>,
    /// The same of the groups of a mixed wiring.
    pub group_loads_measured_ohm: Vec<Ohms>,
    /// Test frequency.
    pub tone_hz: f64,
    /// Whether a charger is on.
    pub charger_on: Option<bool>,
    /// Bank that feeds it.
    pub bank: Option<String>,
    /// Drive above clip onset; by mode when not set.
    pub extra_drive_db: Option<f64>,
    /// Build of its load from the bench's resistors.
    pub made_of: Option<String>,
    /// Kinds of burst to run; none said: the standard one.
    #[schema(value_type = Vec<BurstWord>)]
    pub bursts: Vec<Burst>,
    /// Modes to run; none when it is left out.
    pub modes: Vec<Mode>,
}

/// A load of the ladder.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LadderRung {
    /// Key.
    pub key: String,
    /// "4 Ω".
    pub label: String,
    /// "3.91 real", or that none was measured.
    pub real: String,
    /// "40 Hz · mono".
    pub words: String,
    /// Wiring.
    pub wiring: Wiring,
    /// Number of outputs that it has.
    pub outputs: u8,
    /// Switch.
    pub setting: Option<String>,
    /// Nominal load.
    pub load_ohm: Ohms,
    /// Settings.
    pub set: RungSettings,
    /// The claim to prove here, as shown.
    pub claim: Option<String>,
    /// Likewise, watts.
    pub claim_w: Option<f64>,
    /// Place of its mark, of 1.
    pub claim_fraction: Option<f64>,
    /// Figures to expect.
    pub expected: Option<Expectation>,
    /// The same as bars, beside the other rungs.
    pub bars: Option<PlanBars>,
    /// Certified, clipping, dynamic.
    pub cells: Vec<Cell>,
}

/// The ladder as it stands.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Ladder {
    /// Rungs, highest load first.
    pub rungs: Vec<LadderRung>,
    /// The run to make next; nothing when all are logged.
    pub next: Option<Place>,
    /// Every place, in the session's order.
    pub order: Vec<Place>,
    /// Places logged.
    pub logged: usize,
    /// Places planned.
    pub planned: usize,
    /// The order of the runs.
    pub run_order: Order,
    /// About how long they take, as shown: "about 21 min".
    pub minutes: String,
    /// The number in it, for a shorter word.
    #[serde(skip)]
    pub(crate) minutes_number: String,
    /// The supply's source resistance, when it is known.
    pub source_ohm: Option<Figure>,
    /// Supply at rest, for the whole plan.
    pub rest_v: Option<Volts>,
}

/// Length of the bars of a rung in the plan, each of 1: all rungs are drawn to one scale.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PlanBars {
    /// Output to expect.
    pub power: f64,
    /// The claim.
    pub claim: Option<f64>,
    /// Least draw.
    pub low_a: f64,
    /// Most draw.
    pub high_a: f64,
    /// Supply fuses.
    pub fuses: Option<f64>,
    /// Supply under load, of the span from the stop rule to the highest rest voltage.
    pub end_v: Option<f64>,
    /// The claim's voltage on the same span.
    pub reference_v: f64,
}

/// Place of the claim mark on a bar.
const CLAIM_AT: f64 = 0.8;

/// Builds the ladder.
#[must_use]
pub fn ladder(session: &Session) -> Ladder {
    ladder_checked(session, &check_session(session))
}

/// Likewise, when the session was checked already.
#[must_use]
pub fn ladder_checked(session: &Session, checks: &[Check]) -> Ladder {
    let all = rungs(session);
    let seen = Seen::all(session, checks);
    let usable = usable_with(session, seen.iter().map(|one| (one.run, one.numbers.total.as_ref().ok())), checks);
    let known = Prior::of_usable(session, &usable);
    let place = |step: Step| all.get(step.rung).map(|rung| Place { rung: rung.id.key(), mode: step.mode });
    let looks: Vec<Look> = all.iter().map(|rung| Look::at(&known, rung)).collect();
    let mut shown: Vec<LadderRung> = all.iter().zip(&looks).map(|(rung, look)| ladder_rung(&known, look, rung, (&seen, &usable))).collect();
    set_bars(session, &looks, &mut shown);
    let order: Vec<Place> = steps(session, &all).into_iter().filter_map(place).collect();
    let minutes_number = format::fixed(minutes(session, &all, &looks), 0);
    Ladder {
        next: next_step(session, &all, None).filter(|_| session.ended_by().is_none()).and_then(place),
        logged: all.iter().map(|rung| rung.set.modes.iter().filter(|mode| is_done(session, rung, **mode)).count()).sum(),
        planned: order.len(),
        order,
        rungs: shown,
        run_order: session.plan.order,
        minutes: format!("about {minutes_number} min"),
        minutes_number,
        source_ohm: known.source.as_ref().map(source_ohm::figure),
        rest_v: session.plan.rest_v,
    }
}

/// The place to go to after logging at `from`.
#[must_use]
pub fn next_after(session: &Session, from: &Place) -> Option<Place> {
    let all = rungs(session);
    let at = all.iter().position(|rung| rung.id.key() == from.rung).map(|rung| Step { rung, mode: from.mode });
    next_step(session, &all, at)
        .filter(|_| session.ended_by().is_none())
        .and_then(|step| all.get(step.rung).map(|rung| Place { rung: rung.id.key(), mode: step.mode }))
}

/// The rung with this key.
#[must_use]
pub fn find(session: &Session, key: &str) -> Option<Rung> {
    rungs(session).into_iter().find(|rung| rung.id.key() == key)
}

/// A run as it would be logged now: what was read, with what is set for the rung.
#[must_use]
pub fn run_at(session: &Session, rung: &Rung, mode: Mode, readings: Readings, id: String, at: jiff::Timestamp, who: Option<String>) -> Run {
    Run {
        id,
        at,
        wiring: rung.id.wiring,
        setting: rung.id.setting.clone(),
        load_nominal_ohm: rung.id.load_ohm,
        load_measured_ohm: rung.set.load_measured_ohm,
        group_loads_measured_ohm: rung.set.group_loads_measured_ohm.clone(),
        mode,
        method: crate::evidence::rungs::method_of(mode, &readings.outputs),
        tone_hz: rung.id.tone_hz,
        limit_ratio: (mode == Mode::Certified).then_some(session.policy.thd_limit_ratio),
        extra_drive_db: Some(rung.extra_drive_db(session, mode)),
        outputs: readings.outputs,
        total_power_w: readings.total_power_w,
        approximate: readings.approximate,
        climbed_from_w: readings.climbed_from_w,
        mode_stated: true,
        rest_v: readings.rest_v.or(rung.set.rest_v),
        end_v: readings.end_v,
        current_a: readings.current_a,
        charger_on: readings.charger_on.or(rung.set.charger_on),
        thd_ratio: readings.thd_ratio,
        temperature_c: readings.temperature_c,
        valid: true,
        efficiency_read_ratio: readings.efficiency_ratio,
        steps: Vec::new(),
        cycles: readings.cycles,
        hold: readings.hold,
        supply_also: readings.supply_also,
        bank: rung.set.bank.clone(),
        evidence: Vec::new(),
        struck: Vec::new(),
        accepted: Vec::new(),
        supersedes: None,
        reason: None,
        incident: None,
        ungated: false,
        incomplete: false,
        who,
        note: readings.note,
        extra: serde_json::Map::new(),
    }
}

/// Readings of a run, as a line.
#[must_use]
pub fn line_of(run: &Run) -> String {
    print(&Readings {
        outputs: run.outputs.clone(),
        total_power_w: run.total_power_w,
        approximate: run.approximate.clone(),
        climbed_from_w: run.climbed_from_w,
        end_v: run.end_v,
        current_a: run.current_a,
        thd_ratio: run.thd_ratio,
        temperature_c: run.temperature_c,
        efficiency_ratio: run.efficiency_read_ratio,
        cycles: run.cycles.clone(),
        hold: run.hold.clone(),
        supply_also: run.supply_also.clone(),
        note: run.note.clone(),
        ..Readings::default()
    })
}

fn real_words(rung: &Rung) -> String {
    let measured = rung.set.load_measured_ohm.iter().chain(&rung.set.group_loads_measured_ohm);
    let measured: Vec<String> = measured.map(|load| format::ohms(load.get())).collect();
    if measured.is_empty() { "nominal".into() } else { format!("{} real", measured.join(" + ")) }
}

/// A run that stands, with its numbers and the checks that name it.
struct Seen<'a> {
    run: &'a Run,
    numbers: RunNumbers,
    checks: Vec<&'a Check>,
}

impl<'a> Seen<'a> {
    fn all(session: &'a Session, checks: &'a [Check]) -> Vec<Self> {
        let mut naming: HashMap<&str, Vec<&Check>> = HashMap::new();
        for check in checks {
            for run in &check.runs {
                naming.entry(run).or_default().push(check);
            }
        }
        let seen = |run: &'a Run| Self { run, numbers: numbers(session, run), checks: naming.remove(run.id.as_str()).unwrap_or_default() };
        session.standing_runs().map(seen).collect()
    }

    fn total_words(&self) -> String {
        match &self.numbers.total {
            Ok(total) => format::with_unit(&total.watts_shown(), "W"),
            Err(why) => why.to_string(),
        }
    }

    fn figures(&self, scale_w: f64) -> Option<CellFigures> {
        let total = self.numbers.total.as_ref().ok()?;
        let volts = total.end_v.map(|volts| format::with_unit(&format::volts(volts.get()), "V"));
        let efficiency = self.numbers.efficiency.map(|ratio| format::with_unit(&format::fixed(ratio * 100.0, 0), "%"));
        Some(CellFigures {
            power: total.watts_shown(),
            under: volts.into_iter().chain(efficiency).collect::<Vec<_>>().join(" · "),
            fraction: if scale_w > 0.0 { (total.total_w / scale_w).min(1.0) } else { 0.0 },
        })
    }
}

fn ladder_rung(known: &Prior, look: &Look, rung: &Rung, (seen, usable): (&[Seen], &[Usable])) -> LadderRung {
    let id = &rung.id;
    let at = Where { wiring: id.wiring, setting: id.setting.as_deref(), load_ohm: id.load_ohm, tone_hz: id.tone_hz.get() };
    let claim_w = known.claim_at(at).and_then(Claim::total_w);
    let seen: Vec<&Seen> = seen.iter().filter(|one| id.is_of(one.run)).collect();
    let usable: Vec<&Usable> = usable.iter().filter(|u| id.is_of(u.run)).collect();
    let most = seen.iter().filter_map(|one| Some(one.numbers.total.as_ref().ok()?.total_w)).fold(0.0, f64::max);
    let scale_w = claim_w.map_or(0.0, |claim| claim / CLAIM_AT).max(most / 0.97);
    let cells = Mode::ALL.into_iter().map(|mode| cell(known, look, rung, mode, (&seen, &usable), scale_w)).collect();
    LadderRung {
        key: id.key(),
        label: id.wiring.load_words(id.load_ohm),
        real: real_words(rung),
        words: words(id),
        wiring: id.wiring,
        outputs: id.wiring.outputs(),
        setting: id.setting.clone(),
        load_ohm: id.load_ohm,
        set: RungSettings {
            rest_v: rung.set.rest_v,
            load_measured_ohm: rung.set.load_measured_ohm,
            group_loads_measured_ohm: rung.set.group_loads_measured_ohm.clone(),
            tone_hz: id.tone_hz.get(),
            charger_on: rung.set.charger_on,
            bank: rung.set.bank.clone(),
            extra_drive_db: rung.set.extra_drive_db.map(|db| db.get()),
            made_of: rung.set.made_of.clone(),
            bursts: rung.set.bursts.clone(),
            modes: rung.set.modes.clone(),
        },
        claim: claim_w.map(|w| format::with_unit(&format::watts(w), "W")),
        claim_w,
        claim_fraction: claim_w.map(|w| w / scale_w),
        expected: expected(known, look),
        bars: None,
        cells,
    }
}

fn cell(known: &Prior, look: &Look, rung: &Rung, mode: Mode, (seen, usable): (&[&Seen], &[&Usable]), scale_w: f64) -> Cell {
    let session = known.session();
    let seen: Vec<&Seen> = seen.iter().copied().filter(|one| one.run.mode == mode).collect();
    let usable: Vec<&Usable> = usable.iter().copied().filter(|u| u.run.mode == mode).collect();
    let used = used_run(session, &usable);
    let shown = shown(&seen, used);
    let gates = gates(known, look, rung, mode);
    Cell {
        mode,
        planned: rung.set.modes.contains(&mode),
        figures: shown.and_then(|one| one.figures(scale_w)),
        runs: seen
            .iter()
            .map(|one| RunBrief {
                id: one.run.id.clone(),
                at: one.run.at,
                line: line_of(one.run),
                note: one.run.note.clone(),
                total: one.total_words(),
                used: used.is_some_and(|used| used.id == one.run.id),
                ungated: one.run.ungated,
                driven: one.run.is_driven(),
                checks: one.checks.iter().copied().cloned().collect(),
            })
            .collect(),
        bursts: if mode == Mode::Dynamic { burst_figures(session, rung, (&seen, &usable), shown) } else { Vec::new() },
        shut: gates.iter().any(|gate| !gate.open),
        asks: crate::plan::cautions::before_start(session, look, mode, &gates),
        gates,
        extra_drive_db: rung.extra_drive_db(session, mode).get(),
        mind: crate::plan::cautions::at_step(session, look, rung, mode),
    }
}

/// The run that a cell shows: the one that is used, else the last.
fn shown<'b, 'a>(seen: &[&'b Seen<'a>], used: Option<&Run>) -> Option<&'b Seen<'a>> {
    seen.iter().find(|one| used.is_some_and(|used| used.id == one.run.id)).or_else(|| seen.last()).copied()
}

/// Kinds of burst are never repeats of one another: each has its own figure.
fn burst_figures(session: &Session, rung: &Rung, (seen, usable): (&[&Seen], &[&Usable]), in_cell: Option<&Seen>) -> Vec<BurstFigure> {
    let mut kinds: Vec<Burst> = seen.iter().filter_map(|one| one.run.burst()).collect();
    // The standard burst, then the longest count.
    kinds.sort_unstable_by_key(|kind| match kind {
        Burst::Standard => 0,
        Burst::Counted(count) => u32::MAX - count,
    });
    kinds.dedup();
    let left = bursts_left(session, rung);
    if kinds.len() < 2 && left.is_empty() {
        return Vec::new();
    }
    let read = kinds.into_iter().map(|kind| {
        let of_kind: Vec<&Seen> = seen.iter().copied().filter(|one| one.run.burst() == Some(kind)).collect();
        let usable: Vec<&Usable> = usable.iter().copied().filter(|u| u.run.burst() == Some(kind)).collect();
        let shown = shown(&of_kind, used_run(session, &usable));
        BurstFigure {
            words: kind.words(),
            power: shown.map(Seen::total_words),
            shown: in_cell.and_then(|one| one.run.burst()) == Some(kind),
        }
    });
    read.chain(left.iter().map(|kind| BurstFigure { words: kind.words(), power: None, shown: false })).collect()
}

/// Draws every rung to one scale.
fn set_bars(session: &Session, looks: &[Look], shown: &mut [LadderRung]) {
    let predictions = || looks.iter().filter_map(|look| look.prediction.as_ref());
    let most = |of: fn(&Prediction) -> f64| predictions().map(of).fold(0.0, f64::max);
    let fuses = session.amplifier.supply_fuse_a();
    let power_scale = most(|p| p.high_w()).max(most(|p| p.claim_w.unwrap_or(0.0)));
    // Room for the mark of the fuses, and no more: a draw far past them fills its bar.
    let draw_scale = most(|p| p.high_a).max(fuses.unwrap_or(0.0) * 1.1);
    let (stop_v, top_v) = (session.policy.supply_stop_v.get(), most(|p| p.rest_v.unwrap_or(p.reference_v).max(p.reference_v)));
    let on_span = |volts: f64| ((volts - stop_v) / (top_v - stop_v).max(SLACK)).clamp(0.0, 1.0);
    for (rung, look) in shown.iter_mut().zip(looks) {
        let claim_w = rung.claim_w;
        rung.bars = look.prediction.as_ref().map(|p| PlanBars {
            power: p.expected.power_w / power_scale,
            claim: claim_w.map(|claim| (claim / power_scale).min(1.0)),
            low_a: p.low_a / draw_scale,
            high_a: p.high_a / draw_scale,
            fuses: fuses.map(|fuses| fuses / draw_scale),
            end_v: p.end_v().map(on_span),
            reference_v: on_span(p.reference_v),
        });
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::examples::mono_1100;

    #[test]
    fn the_ladder_of_the_example() {
        let mut session = mono_1100();
        session.runs.truncate(7);
        let ladder = ladder(&session);
        assert_eq!((ladder.logged, ladder.planned), (7, 9));
        assert_eq!(ladder.next, Some(Place { rung: "mono@1@40".into(), mode: Mode::Clipping }));
        let four = &ladder.rungs[0];
        assert_eq!((four.label.as_str(), four.real.as_str(), four.words.as_str()), ("4\u{202f}Ω", "3.91 real", "40 Hz · mono"));
        assert_eq!(four.claim_fraction, Some(0.8));
        let shown = four.cells[0].figures.as_ref().unwrap();
        assert_eq!((shown.power.as_str(), shown.under.as_str()), ("447", "14.38\u{202f}V · 75\u{202f}%"));
        assert!((shown.fraction - 447.0 / 562.5).abs() < 1e-12);
        assert!(!four.cells[0].shut && !ladder.rungs[2].cells[0].shut, "its own fuses gate nothing");
        let minded = &ladder.rungs[2].cells[0].mind;
        let says = minded.iter().find(|says| says.contains("of its fuses")).unwrap().replace('\u{202f}', " ");
        // Three fuses of 35 A.
        let (drawn, part) =
            says.strip_prefix("It may draw ").and_then(|says| says.split_once(" % of")).unwrap().0.split_once(" A, ").unwrap();
        let (drawn, part): (f64, f64) = (drawn.parse().unwrap(), part.parse().unwrap());
        assert!(drawn > 115.5 && (part - 100.0 * drawn / 105.0).abs() < 1.0, "1 Ω may draw past them: {says}");
        assert!((four.cells[0].extra_drive_db, four.cells[1].extra_drive_db) == (6.0, 10.0));
    }

    #[test]
    fn kinds_of_burst_have_figures_of_their_own_and_those_planned_are_waited_for() {
        let mut session = mono_1100();
        let cycles = serde_json::json!({ "count": 20, "first": { "volts_peak": 66.0 }, "last": { "volts_peak": 66.0 } });
        let twenty =
            Run { id: "b20".into(), outputs: Vec::new(), cycles: serde_json::from_value(cycles).unwrap(), ..session.runs[2].clone() };
        let words = |session: &Session| {
            let bursts = ladder(session).rungs[0].cells[2].bursts.clone();
            bursts.into_iter().map(|burst| (burst.words, burst.power.is_some())).collect::<Vec<_>>()
        };
        assert_eq!(words(&session), [], "one kind is the cell's own figure");
        session.runs.push(twenty);
        assert_eq!(words(&session), [("standard burst".into(), true), ("20 cycles".into(), true)]);
        assert_eq!(ladder(&session).next, None);
        session.plan.rungs[0].bursts = vec![Burst::Standard, Burst::Counted(20), Burst::Counted(1)];
        assert_eq!(words(&session).last(), Some(&("1 cycle".into(), false)));
        let next = Place { rung: "mono@4@40".into(), mode: Mode::Dynamic };
        assert_eq!(ladder(&session).next, Some(next), "the one cycle is still to run");
    }

    #[test]
    fn of_repeats_the_best_is_used_and_all_are_kept() {
        let mut session = mono_1100();
        let mut again = session.runs[0].clone();
        again.id = "r1b".into();
        again.outputs[0].power_w = Some(crate::kernel::units::Watts::new(452.0).unwrap());
        session.runs.push(again);
        let cell = &ladder(&session).rungs[0].cells[0];
        assert_eq!(cell.runs.iter().map(|run| (run.id.as_str(), run.used)).collect::<Vec<_>>(), [("r1", false), ("r1b", true)]);
        assert_eq!(cell.figures.as_ref().unwrap().power, "452");
        assert_eq!(cell.runs[0].line, "447w@m1 14.38v 41.2a 0.98%");
    }

    #[test]
    fn a_run_as_it_would_be_logged() {
        let session = mono_1100();
        let rung = find(&session, "mono@2@40").unwrap();
        let asked = crate::evidence::entry::EntryContext { wiring: Wiring::Mono, mode: Mode::Certified, meters: &[] };
        let readings = crate::evidence::entry::read("55.3vp 14.2 77 # by eye", asked).readings;
        let run = run_at(&session, &rung, Mode::Certified, readings, "new".into(), "2026-11-20T11:00:00Z".parse().unwrap(), None);
        assert_eq!(run.method, Some(crate::record::session::Method::Eye));
        assert_eq!(run.load().get(), 1.98);
        assert_eq!(run.rest_v.map(Volts::get), Some(14.6));
        assert_eq!(line_of(&run), "55.3vp 14.2v 77a # by eye");
        // 55.3² / (2 × 1.98) = 772.2 W
        assert!((numbers(&session, &run).total.unwrap().total_w - 772.25).abs() < 0.01);
    }
}
