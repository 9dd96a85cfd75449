//! The plan as a whole: how long it takes, what the supply is, and the rows that `pukka plan` prints.

use serde::{Deserialize, Serialize};

use crate::assess::prior;
use crate::evidence::rungs::{Rung, rungs, steps};
use crate::kernel::units::{Hertz, Ohms};
use crate::kernel::wiring::Wiring;
use crate::plan::cautions::fuse_caution;
use crate::plan::expected::cooling_s;
use crate::plan::gates::{Look, gates};
use crate::predict::known::Prior;
use crate::predict::prediction::Basis;
use crate::record::session::{GateCode, Mode, Order, Session};

/// Seconds of one run: tone, reading, typing.
const RUN_S: f64 = 45.0;
/// Seconds to change the load, with the supply off and what was hot left to cool.
const LOAD_CHANGE_S: f64 = 90.0;

/// A rung of a plan, for other programs. Figures that cannot be given are null.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct PlannedRow {
    /// Channels driven, and how.
    pub wiring: Wiring,
    /// The amplifier's switch.
    pub setting: Option<String>,
    /// Nominal load of each output.
    pub load_ohm: Ohms,
    /// Test frequency.
    pub tone_hz: Hertz,
    /// Modes to run.
    pub modes: Vec<Mode>,
    /// Output to expect, in total.
    pub predicted_w: Option<f64>,
    /// Band.
    pub predicted_w_band: Option<[f64; 2]>,
    /// Band of the draw.
    pub predicted_a_band: Option<[f64; 2]>,
    /// Supply under load.
    pub predicted_end_v: Option<f64>,
    /// Most draw over the supply fuses.
    pub fuse_ratio: Option<f64>,
    /// √2·Vrms/R of one output.
    pub peak_output_a: Option<f64>,
    /// The most that an output was seen to survive.
    pub proven_peak_output_a: Option<f64>,
    /// Source of the prediction.
    pub basis: Option<Basis>,
    /// Gates in the way of any of its modes.
    pub gates: Vec<GateCode>,
    /// Less than a gate, and to be minded: `fuses`.
    pub cautions: Vec<String>,
    /// The ones that no full reason opens yet.
    pub shut: Vec<GateCode>,
    /// Start voltage that would end at the claim's, capped.
    pub start_v_for_reference: Option<f64>,
    /// Build of its load from the bench's resistors.
    pub made_of: Option<String>,
}

/// A plan, for other programs.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct PlanReport {
    /// The order of the runs.
    pub order: Order,
    /// Time that they take.
    pub minutes: f64,
    /// Source resistance it was computed with.
    pub source_ohm: Option<f64>,
    /// The rungs, as the plan lists them; from the claims when it lists none.
    pub rungs: Vec<PlannedRow>,
}

/// Reports the plan of a session.
#[must_use]
pub fn report(session: &Session) -> PlanReport {
    let known = prior(session);
    let all = rungs(session);
    let listed: Vec<&Rung> = if session.plan.rungs.is_empty() {
        all.iter().collect()
    } else {
        session.plan.rungs.iter().filter_map(|planned| all.iter().find(|rung| rung.id.is_planned(planned, session))).collect()
    };
    let looks: Vec<Look> = all.iter().map(|rung| Look::at(&known, rung)).collect();
    PlanReport {
        order: session.plan.order,
        minutes: minutes(session, &all, &looks),
        source_ohm: known.source.map(|source| source.ohm),
        rungs: listed.into_iter().map(|rung| row(&known, rung)).collect(),
    }
}

/// Codes of what is to be minded in any of its modes.
fn cautions(session: &Session, look: &Look, rung: &Rung) -> Vec<String> {
    let past_fuses = rung.set.modes.iter().any(|mode| fuse_caution(session, look, *mode).is_some());
    past_fuses.then(|| "fuses".to_owned()).into_iter().collect()
}

fn row(known: &Prior, rung: &Rung) -> PlannedRow {
    let session = known.session();
    let look = Look::at(known, rung);
    let found: Vec<_> = rung.set.modes.iter().flat_map(|mode| gates(known, &look, rung, *mode)).collect();
    let codes = |only_shut: bool| {
        GateCode::ALL.into_iter().filter(|code| found.iter().any(|gate| gate.code == *code && !(only_shut && gate.open))).collect()
    };
    let p = look.prediction.as_ref();
    PlannedRow {
        wiring: rung.id.wiring,
        setting: rung.id.setting.clone(),
        load_ohm: rung.id.load_ohm,
        tone_hz: rung.id.tone_hz,
        modes: rung.set.modes.clone(),
        predicted_w: p.map(|p| p.expected.power_w),
        predicted_w_band: p.map(|p| [p.low_w(), p.high_w()]),
        predicted_a_band: p.map(|p| [p.low_a, p.high_a]),
        predicted_end_v: p.and_then(|p| p.end_v()),
        fuse_ratio: look.fuse_ratio(session),
        peak_output_a: p.map(|p| p.peak_a),
        proven_peak_output_a: known.proven_peak_a,
        basis: p.map(|p| p.basis),
        gates: codes(false),
        cautions: cautions(session, &look, rung),
        shut: codes(true),
        start_v_for_reference: p.and_then(|p| p.start_for_reference()),
        made_of: look.made_of(),
    }
}

/// Time that the runs take, minutes: each run and its rest (longer where the loads have to cool), and each change of load.
#[must_use]
pub fn minutes(session: &Session, all: &[Rung], looks: &[Look]) -> f64 {
    let order = steps(session, all);
    let changes = order.windows(2).filter(|pair| pair[0].rung != pair[1].rung).count() + usize::from(!order.is_empty());
    let rest = |rung: usize| {
        let look = looks.get(rung);
        let heat = look.and_then(|look| {
            let high_w = look.prediction.as_ref()?.high_w();
            let cools = look.banks(Mode::Certified).filter_map(|(group, build)| Some(cooling_s(group.output_w(high_w), build)?.max(0.0)));
            cools.max_by(f64::total_cmp)
        });
        heat.unwrap_or(0.0).max(session.policy.rest_s)
    };
    let seconds: f64 = order.iter().map(|step| RUN_S + rest(step.rung)).sum::<f64>() + LOAD_CHANGE_S * changes as f64;
    seconds / 60.0
}
