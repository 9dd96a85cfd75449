//! Opening gates with a reason, and the runs that lack one.

use serde::{Deserialize, Serialize};

use crate::evidence::rungs::{Rung, RungId};
use crate::kernel::problem::{Problem, check_text};
use crate::plan::asks::Asks;
pub use crate::plan::asks::is_about;
use crate::plan::gates::{GateFinding, shut};
use crate::predict::known::{Prior, Where};
use crate::record::session::{Gate, GateCode, Mode, OwnerConsent, Run, Session};

/// Statement that opens the gates before a run.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Opening {
    /// Reason.
    pub reason: String,
    /// Person who says so.
    pub by: String,
    /// A second reason, where one is asked for.
    #[serde(default)]
    pub second_reason: Option<String>,
    /// The owner's consent, on a borrowed amplifier.
    #[serde(default)]
    pub owner_consent: Option<OwnerConsent>,
}

/// The records that open every gate still shut before a run: once for the rung and all its modes, but for a burst below the floor.
///
/// # Errors
/// What is missing, with its path.
pub fn open(session: &Session, rung: &Rung, mode: Mode, opening: &Opening) -> Result<Vec<Gate>, Vec<Problem>> {
    let found = shut(session, rung, mode);
    let mut problems = Vec::new();
    if found.iter().any(|gate| gate.never) {
        problems.push(Problem::new("reason", "The house rule of this session is “never below the floor”: no reason opens it."));
    }
    check_text(&mut problems, "reason", &opening.reason, true, 500);
    check_text(&mut problems, "by", &opening.by, true, 80);
    let second = opening.second_reason.as_deref().unwrap_or("");
    check_text(&mut problems, "second_reason", second, found.iter().any(|gate| gate.asks_second_reason), 500);
    if second.trim() == opening.reason.trim() && !second.trim().is_empty() {
        problems.push(Problem::new("second_reason", "A second reason is another one than the first."));
    }
    let asks_consent = found.iter().any(|gate| gate.asks_consent);
    let (agreed, pays) = opening.owner_consent.as_ref().map_or(("", ""), |consent| (consent.by.as_str(), consent.who_pays.as_str()));
    check_text(&mut problems, "owner_consent.by", agreed, asks_consent, 120);
    check_text(&mut problems, "owner_consent.who_pays", pays, asks_consent, 200);
    if !problems.is_empty() {
        return Err(problems);
    }
    let gate = |found: GateFinding| Gate {
        code: found.code,
        wiring: Some(rung.id.wiring),
        load_ohm: rung.id.load_ohm,
        setting: rung.id.setting.clone(),
        tone_hz: Some(rung.id.tone_hz),
        mode: (found.code == GateCode::BelowFloor && mode == Mode::Dynamic).then_some(mode),
        reason: opening.reason.trim().to_owned(),
        by: opening.by.trim().to_owned(),
        second_reason: Some(second.trim().to_owned()).filter(|text| !text.is_empty()),
        owner_consent: opening.owner_consent.clone().filter(|consent| !consent.by.trim().is_empty()),
        from_file: false,
        extra: serde_json::Map::new(),
    };
    Ok(found.into_iter().map(gate).collect())
}

/// Marks runs that were logged past gates for which a full reason is still missing.
pub fn mark_ungated(session: &mut Session, past: &[(String, Vec<GateCode>)]) {
    let ungated: Vec<String> = past
        .iter()
        .filter_map(|(id, codes)| {
            let run = session.run(id)?;
            is_ungated(session, run, codes).then(|| id.clone())
        })
        .collect();
    for run in &mut session.runs {
        run.ungated = ungated.contains(&run.id);
    }
}

/// Whether a run that was logged past these gates still lacks a full reason for one of them.
#[must_use]
pub fn is_ungated(session: &Session, run: &Run, past: &[GateCode]) -> bool {
    past.iter().any(|code| *code != GateCode::Fuses && !opened_for(session, *code, run))
}

fn opened_for(session: &Session, code: GateCode, run: &Run) -> bool {
    let reference_v = Prior::of(session, &[]).reference_v(Where {
        wiring: run.wiring,
        setting: run.setting.as_deref(),
        load_ohm: run.load_nominal_ohm,
        tone_hz: run.tone_hz.get(),
    });
    let asks = Asks::of(session, code, run.rest_v, reference_v);
    let id = RungId::of(run);
    session.gates.iter().any(|gate| is_about(session, gate, code, &id, run.mode) && asks.met_by(gate))
}
