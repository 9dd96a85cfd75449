//! Each rung and cell of the ladder, from the runs that stand there.

use std::collections::HashMap;

use crate::assess::checks::Check;
use crate::evidence::choose::{Usable, used_run};
use crate::evidence::figures::RunNumbers;
use crate::evidence::rungs::{Rung, bursts_left, words};
use crate::evidence::standing::RunEvidence;
use crate::kernel::format;
use crate::kernel::units::SLACK;
use crate::plan::expected::expected;
use crate::plan::gates::{Look, gates};
use crate::plan::ladder::shown::{BurstFigure, Cell, CellFigures, LadderRung, PlanBars, RunBrief, RungSettings};
use crate::plan::run_line::line_of;
use crate::predict::known::{Prior, Where};
use crate::predict::prediction::Prediction;
use crate::record::claims::Claim;
use crate::record::session::{Burst, Mode, Run, Session};

/// Place of the claim mark on a bar.
const CLAIM_AT: f64 = 0.8;

fn real_words(rung: &Rung) -> String {
    let measured = rung.set.load_measured_ohm.iter().chain(&rung.set.group_loads_measured_ohm);
    let measured: Vec<String> = measured.map(|load| format::ohms(load.get())).collect();
    if measured.is_empty() { "nominal".into() } else { format!("{} real", measured.join(" + ")) }
}

/// A run that stands, with its numbers and the checks that name it.
pub(super) struct Seen<'a> {
    run: &'a Run,
    numbers: &'a RunNumbers,
    checks: Vec<&'a Check>,
}

impl<'a> Seen<'a> {
    pub(super) fn all(standing: &'a [RunEvidence<'a>], checks: &'a [Check]) -> Vec<Self> {
        let mut naming: HashMap<&str, Vec<&Check>> = HashMap::new();
        for check in checks {
            for run in &check.runs {
                naming.entry(run).or_default().push(check);
            }
        }
        let checks = |run: &Run| naming.get(run.id.as_str()).cloned().unwrap_or_default();
        standing.iter().map(|RunEvidence { run, numbers, .. }| Self { run, numbers, checks: checks(run) }).collect()
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

pub(super) fn ladder_rung(known: &Prior, look: &Look, rung: &Rung, (seen, usable): (&[Seen], &[Usable])) -> LadderRung {
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
pub(super) fn set_bars(session: &Session, looks: &[Look], shown: &mut [LadderRung]) {
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
