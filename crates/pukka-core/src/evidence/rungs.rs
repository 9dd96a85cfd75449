//! The rungs of a session: from its claims, from what was added, from what was run; and what is set for each.

use std::cmp::Ordering;

use crate::kernel::format;
use crate::kernel::units::{Drive, Hertz, Ohms};
use crate::kernel::wiring::{Wiring, same_load};
use crate::record::claims::Claim;
use crate::record::session::{Burst, Method, Mode, Order, PlannedRung, Run, Session, ToneOrder};

/// Features that tell one rung from another.
#[derive(Debug, Clone, PartialEq)]
pub struct RungId {
    /// Channels driven, and how.
    pub wiring: Wiring,
    /// The amplifier's switch.
    pub setting: Option<String>,
    /// Nominal load.
    pub load_ohm: Ohms,
    /// Tone.
    pub tone_hz: Hertz,
}

impl RungId {
    /// Whether both are the same rung.
    #[must_use]
    pub fn is(&self, other: &Self) -> bool {
        self.is_place(other.wiring, other.setting.as_deref(), other.load_ohm) && same_tone(self.tone_hz, other.tone_hz)
    }

    fn is_place(&self, wiring: Wiring, setting: Option<&str>, load_ohm: Ohms) -> bool {
        self.wiring == wiring && self.setting.as_deref() == setting && same_load(self.load_ohm.get(), load_ohm.get())
    }

    /// Whether a run was made here.
    #[must_use]
    pub fn is_of(&self, run: &Run) -> bool {
        self.is_place(run.wiring, run.setting.as_deref(), run.load_nominal_ohm) && same_tone(self.tone_hz, run.tone_hz)
    }

    /// Whether a planned rung is this one.
    #[must_use]
    pub fn is_planned(&self, planned: &PlannedRung, session: &Session) -> bool {
        let tone_hz = planned.tone_hz.unwrap_or_else(|| own_tone(session));
        self.is_place(planned.wiring, planned.setting.as_deref(), planned.load_ohm) && same_tone(self.tone_hz, tone_hz)
    }

    /// A word for addresses: `mono@4@40`, with `@setting` behind it when there is one.
    #[must_use]
    pub fn key(&self) -> String {
        let setting = self.setting.as_ref().map(|setting| format!("@{setting}")).unwrap_or_default();
        format!("{}@{}@{}{setting}", self.wiring.key(), self.load_ohm.get(), self.tone_hz.get())
    }

    /// The rung of a run.
    #[must_use]
    pub fn of(run: &Run) -> Self {
        Self { wiring: run.wiring, setting: run.setting.clone(), load_ohm: run.load_nominal_ohm, tone_hz: run.tone_hz }
    }
}

pub(crate) fn same_tone(a: Hertz, b: Hertz) -> bool {
    (a.get() / b.get() - 1.0).abs() < 1e-6
}

/// A rung, with what is set for it.
#[derive(Debug, Clone, PartialEq)]
pub struct Rung {
    /// Key of the rung.
    pub id: RungId,
    /// Settings, with what carries over from the rungs before it.
    pub set: PlannedRung,
}

impl Rung {
    /// Extra drive for a mode: as set, else by the policy.
    #[must_use]
    pub fn extra_drive_db(&self, session: &Session, mode: Mode) -> Drive {
        let usual = if mode == Mode::Certified { session.policy.extra_drive_certified_db } else { session.policy.extra_drive_clipping_db };
        self.set.extra_drive_db.unwrap_or(usual)
    }
}

/// Every run that stands, along the ladder: by rung, mode and time.
#[must_use]
pub fn runs_along(session: &Session) -> Vec<&Run> {
    let ladder = rungs(session);
    let place = |run: &Run| ladder.iter().position(|rung| rung.id.is_of(run)).unwrap_or(usize::MAX);
    let mut runs: Vec<&Run> = session.standing_runs().collect();
    runs.sort_by_key(|run| (place(run), run.mode, run.at));
    runs
}

/// Every rung of a session: by wiring, setting and tone, highest load first.
#[must_use]
pub fn rungs(session: &Session) -> Vec<Rung> {
    let mut rungs: Vec<Rung> = Vec::new();
    for planned in &session.plan.rungs {
        let id = RungId {
            wiring: planned.wiring,
            setting: planned.setting.clone(),
            load_ohm: planned.load_ohm,
            tone_hz: planned.tone_hz.unwrap_or_else(|| own_tone(session)),
        };
        add(&mut rungs, Rung { id, set: planned.clone() });
    }
    for claim in session.claims.iter().filter(|claim| claim.used) {
        if let Some(id) = claim_rung(session, claim) {
            // A rung that was set up for this load is the claim's, whatever its tone, unless the claim names one.
            let there = claim.tone_hz.is_none() && rungs.iter().any(|rung| rung.id.is_place(id.wiring, id.setting.as_deref(), id.load_ohm));
            if !there {
                add(&mut rungs, bare(id));
            }
        }
    }
    for run in session.standing_runs() {
        if !rungs.iter().any(|rung| rung.id.is_of(run)) {
            rungs.push(bare(RungId::of(run)));
        }
    }
    rungs.sort_by(|a, b| order(session.plan.tone_order, &a.id, &b.id));
    carry_over(session, &mut rungs);
    rungs
}

/// The tone of an amplifier by its purpose.
#[must_use]
pub fn own_tone(session: &Session) -> Hertz {
    Hertz::new(session.amplifier.purpose.tone_hz()).unwrap_or_else(|error| unreachable!("the amplifier's own tone: {error}"))
}

fn claim_rung(session: &Session, claim: &Claim) -> Option<RungId> {
    let (wiring, load_ohm) = claim.place()?;
    let load_ohm = wiring.own_load(load_ohm);
    Some(RungId { wiring, setting: claim.setting.clone(), load_ohm, tone_hz: claim.tone_hz.unwrap_or_else(|| own_tone(session)) })
}

/// A rung of which nothing is set.
#[must_use]
pub fn bare(id: RungId) -> Rung {
    let set = PlannedRung {
        wiring: id.wiring,
        setting: id.setting.clone(),
        load_ohm: id.load_ohm,
        tone_hz: Some(id.tone_hz),
        load_measured_ohm: None,
        group_loads_measured_ohm: Vec::new(),
        rest_v: None,
        charger_on: None,
        bank: None,
        extra_drive_db: None,
        modes: Mode::ALL.to_vec(),
        bursts: Vec::new(),
        made_of: None,
        extra: serde_json::Map::new(),
    };
    Rung { id, set }
}

fn add(rungs: &mut Vec<Rung>, rung: Rung) {
    if !rungs.iter().any(|other| other.id.is(&rung.id)) {
        rungs.push(rung);
    }
}

fn order(tones: ToneOrder, a: &RungId, b: &RungId) -> Ordering {
    let (tone, load) = (b.tone_hz.get().total_cmp(&a.tone_hz.get()), b.load_ohm.get().total_cmp(&a.load_ohm.get()));
    let within = match tones {
        ToneOrder::Tone => tone.then(load),
        ToneOrder::Load if same_load(a.load_ohm.get(), b.load_ohm.get()) => tone,
        ToneOrder::Load => load,
    };
    a.wiring.cmp(&b.wiring).then_with(|| a.setting.cmp(&b.setting)).then(within)
}

/// Rest voltage, charger, bank and extra drive stay as they were set until they are set again.
fn carry_over(session: &Session, rungs: &mut [Rung]) {
    let mut rest_v = session.plan.rest_v;
    let (mut charger_on, mut extra_drive_db, mut bank) = (None, None, None);
    for rung in rungs {
        rest_v = rung.set.rest_v.or(rest_v);
        charger_on = rung.set.charger_on.or(charger_on);
        extra_drive_db = rung.set.extra_drive_db.or(extra_drive_db);
        bank = rung.set.bank.clone().or(bank);
        (rung.set.rest_v, rung.set.charger_on, rung.set.extra_drive_db) = (rest_v, charger_on, extra_drive_db);
        rung.set.bank.clone_from(&bank);
    }
}

/// A run to make: a rung and a mode.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Step {
    /// Index of the rung.
    pub rung: usize,
    /// The mode.
    pub mode: Mode,
}

/// Every run to make, in the session's order.
#[must_use]
pub fn steps(session: &Session, rungs: &[Rung]) -> Vec<Step> {
    let all = |rung: usize, mode: Mode| rungs.get(rung).filter(|r| r.set.modes.contains(&mode)).map(|_| Step { rung, mode });
    match session.plan.order {
        Order::Rung => (0..rungs.len()).flat_map(|rung| Mode::ALL.into_iter().filter_map(move |mode| all(rung, mode))).collect(),
        Order::Mode => Mode::ALL.into_iter().flat_map(|mode| (0..rungs.len()).filter_map(move |rung| all(rung, mode))).collect(),
    }
}

/// Whether something was read at a place: an incident alone is no reading.
#[must_use]
pub fn is_logged(session: &Session, id: &RungId, mode: Mode) -> bool {
    session.standing_runs().any(|run| run.mode == mode && run.was_read() && id.is_of(run))
}

/// Kinds of burst that a rung still waits for: those planned and not read.
#[must_use]
pub fn bursts_left(session: &Session, rung: &Rung) -> Vec<Burst> {
    let read: Vec<Burst> = session.standing_runs().filter(|run| run.was_read() && rung.id.is_of(run)).filter_map(Run::burst).collect();
    rung.set.bursts.iter().copied().filter(|burst| !read.contains(burst)).collect()
}

/// Whether a mode of a rung is done: read, and of a burst every kind that was planned.
#[must_use]
pub fn is_done(session: &Session, rung: &Rung, mode: Mode) -> bool {
    is_logged(session, &rung.id, mode) && (mode != Mode::Dynamic || bursts_left(session, rung).is_empty())
}

/// The next run without a reading: after `from`, round to the start; `None` when all are logged.
#[must_use]
pub fn next_step(session: &Session, rungs: &[Rung], from: Option<Step>) -> Option<Step> {
    let steps = steps(session, rungs);
    let logged = |step: &&Step| rungs.get(step.rung).is_some_and(|rung| is_done(session, rung, step.mode));
    let start = from.and_then(|from| steps.iter().position(|step| *step == from)).map_or(0, |at| at + 1);
    let (before, after) = steps.split_at(start.min(steps.len()));
    after.iter().chain(before).find(|step| !logged(step)).copied()
}

/// Method of a certified figure, by what was read: a peak comes off a scope, by eye.
#[must_use]
pub fn method_of(mode: Mode, outputs: &[crate::record::session::OutputReading]) -> Option<Method> {
    if mode == Mode::Dynamic {
        return None;
    }
    let by_eye = outputs.iter().any(|o| o.power_w.is_none() && o.volts_rms.is_none() && (o.volts_peak.is_some() || o.volts_pp.is_some()));
    Some(if by_eye { Method::Eye } else { Method::Ramp })
}

/// The words of a rung: "40 Hz · mono".
#[must_use]
pub fn words(id: &RungId) -> String {
    let setting = id.setting.as_ref().map(|setting| format!(" · {setting}")).unwrap_or_default();
    format!("{} · {}{setting}", format::tone(id.tone_hz.get()), id.wiring.words())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::examples::{claim, mono_1100};

    fn keys(session: &Session) -> Vec<String> {
        rungs(session).iter().map(|rung| rung.id.key()).collect()
    }

    #[test]
    fn from_the_claims_highest_load_first() {
        let mut session = mono_1100();
        session.plan.rungs.clear();
        session.runs.clear();
        session.claims.reverse();
        assert_eq!(keys(&session), ["mono@4@40", "mono@2@40", "mono@1@40"]);
        session.claims[0].used = false;
        assert_eq!(keys(&session), ["mono@4@40", "mono@2@40"]);
    }

    #[test]
    fn what_is_set_carries_over_until_it_is_set_again() {
        let mut session = mono_1100();
        session.plan.rungs[1].rest_v = Some(crate::kernel::units::Volts::new(14.1).unwrap());
        session.plan.rungs[0].charger_on = Some(true);
        let set: Vec<_> = rungs(&session)
            .iter()
            .map(|r| (r.set.rest_v.unwrap().get(), r.set.charger_on, r.set.load_measured_ohm.unwrap().get()))
            .collect();
        assert_eq!(set, [(14.6, Some(true), 3.91), (14.1, Some(true), 1.98), (14.1, Some(true), 1.01)]);
    }

    #[test]
    fn another_tone_is_another_rung() {
        let mut session = mono_1100();
        session.plan.rungs[0].tone_hz = Some(Hertz::new(50.0).unwrap());
        assert_eq!(keys(&session), ["mono@4@50", "mono@4@40", "mono@2@40", "mono@1@40"], "its runs at 40 Hz stay to be seen");
        session.runs.retain(|run| run.load_nominal_ohm.get() != 4.0);
        assert_eq!(keys(&session), ["mono@4@50", "mono@2@40", "mono@1@40"]);
        session.claims[0].tone_hz = Some(Hertz::new(40.0).unwrap());
        assert_eq!(keys(&session), ["mono@4@50", "mono@4@40", "mono@2@40", "mono@1@40"], "a claim that names its tone keeps it");
    }

    #[test]
    fn a_second_tone_comes_behind_the_first_or_load_by_load() {
        let mut session = mono_1100();
        for at in 0..3 {
            let low = PlannedRung { tone_hz: Some(Hertz::new(30.0).unwrap()), ..session.plan.rungs[at].clone() };
            session.plan.rungs.push(low);
        }
        assert_eq!(keys(&session), ["mono@4@40", "mono@2@40", "mono@1@40", "mono@4@30", "mono@2@30", "mono@1@30"]);
        session.plan.tone_order = ToneOrder::Load;
        assert_eq!(keys(&session), ["mono@4@40", "mono@4@30", "mono@2@40", "mono@2@30", "mono@1@40", "mono@1@30"]);
    }

    #[test]
    fn both_orders_and_the_next_run() {
        let mut session = mono_1100();
        let all = rungs(&session);
        let walk = |session: &Session| {
            steps(session, &all).iter().map(|s| format!("{}{}", s.rung, &s.mode.word()[..2])).collect::<Vec<_>>().join(" ")
        };
        assert_eq!(walk(&session), "0ce 0cl 0dy 1ce 1cl 1dy 2ce 2cl 2dy");
        assert_eq!(next_step(&session, &all, None), None, "all nine are logged");
        session.runs.retain(|run| run.id != "r2" && run.id != "r8");
        let step = |rung, mode| Some(Step { rung, mode });
        assert_eq!(next_step(&session, &all, None), step(0, Mode::Clipping));
        assert_eq!(next_step(&session, &all, step(0, Mode::Clipping)), step(2, Mode::Clipping));
        assert_eq!(next_step(&session, &all, step(2, Mode::Clipping)), step(0, Mode::Clipping), "and round again");
        session.plan.order = Order::Mode;
        assert_eq!(walk(&session), "0ce 1ce 2ce 0cl 1cl 2cl 0dy 1dy 2dy");
    }

    #[test]
    fn bridged_pairs_come_after_channels() {
        let mut session = mono_1100();
        session.amplifier.channels = 4;
        session.runs.clear();
        session.plan.rungs.clear();
        session.claims = vec![
            claim("b", Wiring::Bridged { pairs: 2 }, 4.0, 210.0),
            claim("a", Wiring::Channels { driven: 4 }, 2.0, 140.0),
            claim("c", Wiring::Channels { driven: 4 }, 4.0, 90.0),
        ];
        assert_eq!(keys(&session), ["channels-4@4@40", "channels-4@2@40", "bridged-2@4@40"]);
    }
}
