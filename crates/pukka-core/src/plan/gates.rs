//! Runs that ask for a reason before they start.

use serde::{Deserialize, Serialize};

use super::expect::{expected_draw, expected_power};
use crate::claims::USUAL_SUPPLY_V;
use crate::format;
use crate::session::{Gate, GateCode, Mode, Run, Session};
use crate::units::{Ohms, Volts, at_least, more_than};
use crate::wiring::{Wiring, same_load};

/// A gate in the way of a run.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct GateFound {
    /// Which.
    pub code: GateCode,
    /// Three or four words.
    pub title: String,
    /// What, why it matters, what to do.
    pub says: String,
    /// The reason it was opened with, when it was.
    pub reason: Option<String>,
    /// Who opened it.
    pub by: Option<String>,
}

impl GateFound {
    /// Whether a reason was given.
    #[must_use]
    pub const fn is_open(&self) -> bool {
        self.reason.is_some()
    }
}

/// The run that is to be started.
#[derive(Debug, Clone, Copy)]
pub struct Intended<'a> {
    /// Its wiring.
    pub wiring: Wiring,
    /// Its switch.
    pub setting: Option<&'a str>,
    /// Its nominal load.
    pub load_ohm: Ohms,
    /// Its mode.
    pub mode: Mode,
    /// The supply before it, when known.
    pub rest_v: Option<Volts>,
}

/// The lowest load allowed for a wiring: the maker's floor, else the lowest load claimed.
#[must_use]
pub fn floor_ohm(session: &Session, wiring: Wiring) -> Option<f64> {
    let stated = session.amplifier.floors.iter().find(|floor| floor.wiring == wiring).map(|floor| floor.load_ohm.get());
    let claimed = || {
        let loads = session.claims.iter().filter(|claim| claim.wiring == Some(wiring)).filter_map(|claim| claim.load_ohm);
        loads.map(Ohms::get).min_by(f64::total_cmp)
    };
    stated.or_else(claimed)
}

/// Every gate in the way of a run, open or not.
#[must_use]
pub fn gates(session: &Session, intended: &Intended) -> Vec<GateFound> {
    let found = [below_floor(session, intended), above_supply(session, intended), fuses(session, intended)];
    let opened =
        |code: GateCode| session.gates.iter().find(|gate| gate.opens(code, intended.wiring, intended.load_ohm.get(), intended.mode));
    found
        .into_iter()
        .flatten()
        .map(|(code, title, says)| {
            let gate = opened(code);
            GateFound { code, title, says, reason: gate.map(|gate| gate.reason.clone()), by: gate.map(|gate| gate.by.clone()) }
        })
        .collect()
}

/// The gates still shut before a run.
#[must_use]
pub fn shut(session: &Session, intended: &Intended) -> Vec<GateFound> {
    gates(session, intended).into_iter().filter(|gate| !gate.is_open()).collect()
}

/// Whether a run that was logged past `codes` is still without a reason for one of them.
#[must_use]
pub fn still_ungated(run: &Run, gates: &[Gate], codes: &[GateCode]) -> bool {
    codes.iter().any(|code| !gates.iter().any(|gate| gate.opens(*code, run.wiring, run.load_nominal_ohm.get(), run.mode)))
}

fn below_floor(session: &Session, intended: &Intended) -> Option<(GateCode, String, String)> {
    let floor = floor_ohm(session, intended.wiring)?;
    let load = intended.load_ohm.get();
    if load >= floor || same_load(load, floor) {
        return None;
    }
    let burst =
        if intended.mode == Mode::Dynamic { " A burst is no protection: bursts below the floor are how bench amplifiers die." } else { "" };
    let owner = if session.amplifier.provenance == crate::amplifier::Provenance::Bought {
        ""
    } else {
        " It is not yours: ask its owner, and who pays."
    };
    Some((
        GateCode::BelowFloor,
        format!("{} Ω is below what the maker allows.", format::ohms(load)),
        format!("The floor is {} Ω for {}.{burst}{owner}", format::ohms(floor), intended.wiring.words()),
    ))
}

fn above_supply(session: &Session, intended: &Intended) -> Option<(GateCode, String, String)> {
    let rest = intended.rest_v?.get();
    let (limit, stated) = match session.amplifier.max_supply_v {
        Some(limit) => (limit.get(), "its maker allows"),
        None => (session.policy.unstated_max_supply_v.get(), "is safe to assume, as its maker states no maximum"),
    };
    more_than(rest, limit).then(|| {
        (
            GateCode::AboveSupply,
            "The supply is too high.".to_owned(),
            format!("{} V at rest, and {} V is the most that {stated}.", format::as_read(rest), format::as_read(limit)),
        )
    })
}

fn fuses(session: &Session, intended: &Intended) -> Option<(GateCode, String, String)> {
    let fuses = session.amplifier.supply_fuse_a()?;
    let expected = expected_power(session, intended.wiring, intended.setting, intended.load_ohm)?;
    let draw = expected_draw(&expected, intended.rest_v.map_or(USUAL_SUPPLY_V, Volts::get)).high.value;
    let limit = session.policy.fuse_gate_ratio.get();
    if at_least(limit, draw / fuses) {
        return None;
    }
    Some((
        GateCode::Fuses,
        "It may draw more than its fuses bear.".to_owned(),
        format!(
            "Up to {} A through {} A of fuse, {} %: {} Never bridge or up-rate a fuse to get a number.",
            format::amps(draw),
            format::as_read(fuses),
            format::fixed(100.0 * draw / fuses, 0),
            crate::runs::checks::blade_fuse(draw / fuses)
        ),
    ))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::session::examples::mono_1100;

    fn codes(session: &Session, load_ohm: f64, rest_v: Option<f64>) -> Vec<GateCode> {
        let intended = intended(load_ohm, rest_v);
        shut(session, &intended).into_iter().map(|gate| gate.code).collect()
    }

    fn intended(load_ohm: f64, rest_v: Option<f64>) -> Intended<'static> {
        Intended {
            wiring: Wiring::Mono,
            setting: None,
            load_ohm: Ohms::new(load_ohm).unwrap(),
            mode: Mode::Dynamic,
            rest_v: rest_v.map(|v| Volts::new(v).unwrap()),
        }
    }

    #[test]
    fn floor_supply_and_fuses_each_ask() {
        let mut session = mono_1100();
        assert_eq!(codes(&session, 4.0, Some(14.6)), []);
        assert_eq!(codes(&session, 1.0, Some(14.6)), [GateCode::Fuses], "up to 178 A through 105 A");
        assert_eq!(codes(&session, 0.67, Some(14.6)), [GateCode::BelowFloor, GateCode::Fuses]);
        assert_eq!(codes(&session, 4.0, Some(16.1)), [GateCode::AboveSupply]);
        session.amplifier.max_supply_v = None;
        assert_eq!(codes(&session, 4.0, Some(15.0)), []);
        assert_eq!(codes(&session, 4.0, Some(15.01)), [GateCode::AboveSupply], "asks above 15 V when nothing is stated");
        session.amplifier.fuses_a.clear();
        assert_eq!(codes(&session, 1.0, None), [], "unknown fuses and an unknown supply do not gate");
    }

    #[test]
    fn the_lowest_load_claimed_is_the_floor_when_none_is_stated() {
        let mut session = mono_1100();
        session.amplifier.floors.clear();
        assert_eq!(floor_ohm(&session, Wiring::Mono), Some(1.0));
        assert_eq!(floor_ohm(&session, Wiring::Strapped { amplifiers: 2 }), None);
        assert_eq!(codes(&session, 0.99, None), [GateCode::Fuses], "within 2 % is the same load");
    }

    #[test]
    fn a_reason_opens_its_own_gate_and_no_other() {
        let mut session = mono_1100();
        session.gates.push(Gate {
            code: GateCode::BelowFloor,
            wiring: None,
            load_ohm: Ohms::new(0.67).unwrap(),
            mode: Some(Mode::Dynamic),
            reason: "owner agreed".into(),
            by: "M. Tarrow".into(),
            owner_consent: None,
        });
        assert_eq!(codes(&session, 0.67, None), [GateCode::Fuses]);
        assert_eq!(codes(&session, 0.5, None), [GateCode::BelowFloor, GateCode::Fuses]);
        let mut certified = intended(0.67, None);
        certified.mode = Mode::Certified;
        assert!(shut(&session, &certified).iter().any(|gate| gate.code == GateCode::BelowFloor), "another mode is another risk");
    }

    #[test]
    fn a_run_stays_out_until_every_reason_is_given() {
        let mut session = mono_1100();
        let run = session.runs[8].clone();
        assert!(still_ungated(&run, &session.gates, &[GateCode::Fuses]));
        session.gates.push(Gate {
            code: GateCode::Fuses,
            wiring: Some(Wiring::Mono),
            load_ohm: Ohms::new(1.0).unwrap(),
            mode: None,
            reason: "short bursts only".into(),
            by: "us".into(),
            owner_consent: None,
        });
        assert!(!still_ungated(&run, &session.gates, &[GateCode::Fuses]));
        assert!(still_ungated(&run, &session.gates, &[GateCode::Fuses, GateCode::AboveSupply]));
        assert!(!still_ungated(&run, &session.gates, &[]));
    }
}
