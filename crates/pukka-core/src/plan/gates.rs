//! Runs that ask for a reason before they start.

use serde::{Deserialize, Serialize};

use crate::assess::check_session;
use crate::assess::checks::blade_fuse;
use crate::evidence::rungs::Rung;
use crate::kernel::format;
use crate::kernel::problem::{Problem, check_text};
use crate::kernel::units::{Ohms, Volts, at_least, more_than};
use crate::kernel::wiring::{Wiring, same_load};
use crate::predict::known::{Prior, Where};
use crate::predict::prediction::{Prediction, predict};
use crate::record::amplifier::Provenance;
use crate::record::bench::inventory::{Build, way};
use crate::record::session::{Gate, GateCode, Mode, OwnerConsent, Run, Session};

/// How far above the claim's voltage a supply may stand below the floor.
const FLOOR_SUPPLY_V: f64 = 0.3;

/// A gate in the way of a run.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct GateFinding {
    /// Which.
    pub code: GateCode,
    /// Three or four words.
    pub title: String,
    /// What, why it matters, what to do.
    pub says: String,
    /// Opening it asks for the owner's consent, and who pays.
    pub asks_consent: bool,
    /// Opening it asks for a second reason.
    pub asks_second_reason: bool,
    /// Whether it is open: a record says all that it asks for.
    pub open: bool,
    /// The reason it was opened with, when it was.
    pub reason: Option<String>,
    /// The second reason, when there is one.
    pub second_reason: Option<String>,
    /// Who opened it.
    pub by: Option<String>,
    /// The owner's consent.
    pub owner_consent: Option<OwnerConsent>,
}

/// What a rung asks of amplifier and loads: made once a rung, as its gates and its figures stand on it.
#[derive(Debug, Clone)]
pub struct Look {
    /// What to expect.
    pub prediction: Option<Prediction>,
    /// How its load is made of the bench's resistors.
    pub build: Option<Build>,
}

impl Look {
    /// Looks at a rung.
    #[must_use]
    pub fn at(known: &Prior, rung: &Rung) -> Self {
        let prediction = predict(known, rung);
        let need_w = prediction.as_ref().map_or(0.0, |p| p.high_w() / p.outputs);
        let build = way(&known.session().bench.loads, rung.id.wiring, rung.id.load_ohm.get(), need_w, rung.set.made_of.as_deref());
        Self { prediction, build }
    }

    /// Most draw over the supply fuses.
    #[must_use]
    pub fn fuse_ratio(&self, session: &Session) -> Option<f64> {
        Some(self.prediction.as_ref()?.high_a / session.amplifier.supply_fuse_a()?)
    }
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
pub fn gates(known: &Prior, look: &Look, rung: &Rung, mode: Mode) -> Vec<GateFinding> {
    let session = known.session();
    let found = [below_floor(known, look, rung, mode), above_supply(session, rung), fuses(session, look), load_bank(look)];
    found.into_iter().flatten().map(|(code, title, says)| stand(session, known, rung, mode, code, title, says)).collect()
}

/// The gates before a run that is about to be made, from nothing but the session.
#[must_use]
pub fn gates_before(session: &Session, rung: &Rung, mode: Mode) -> Vec<GateFinding> {
    let known = Prior::of(session, &check_session(session));
    gates(&known, &Look::at(&known, rung), rung, mode)
}

/// The same, those still shut.
#[must_use]
pub fn shut(session: &Session, rung: &Rung, mode: Mode) -> Vec<GateFinding> {
    gates_before(session, rung, mode).into_iter().filter(|gate| !gate.open).collect()
}

/// What is said to open the gates before a run.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Opening {
    /// Why.
    pub reason: String,
    /// Who says so.
    pub by: String,
    /// A second reason, where one is asked for.
    #[serde(default)]
    pub second_reason: Option<String>,
    /// The owner's consent, on a borrowed amplifier.
    #[serde(default)]
    pub owner_consent: Option<OwnerConsent>,
}

/// The records that open every gate still shut before a run.
///
/// # Errors
/// What is missing, with its path.
pub fn open(session: &Session, rung: &Rung, mode: Mode, opening: &Opening) -> Result<Vec<Gate>, Vec<Problem>> {
    let found = shut(session, rung, mode);
    let mut problems = Vec::new();
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
        mode: Some(mode),
        reason: opening.reason.trim().to_owned(),
        by: opening.by.trim().to_owned(),
        second_reason: Some(second.trim().to_owned()).filter(|text| !text.is_empty()),
        owner_consent: opening.owner_consent.clone().filter(|consent| !consent.by.trim().is_empty()),
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
    past.iter().any(|code| !opened_for(session, *code, run))
}

fn opened_for(session: &Session, code: GateCode, run: &Run) -> bool {
    let at = (run.wiring, run.load_nominal_ohm, run.mode);
    let reference_v = Prior::of(session, &[]).reference_v(Where {
        wiring: run.wiring,
        setting: run.setting.as_deref(),
        load_ohm: run.load_nominal_ohm,
        tone_hz: run.tone_hz.get(),
    });
    let asks = Asks::of(session, code, run.rest_v, reference_v);
    records(session, code, at).any(|gate| asks.met_by(gate))
}

fn records(session: &Session, code: GateCode, at: (Wiring, Ohms, Mode)) -> impl Iterator<Item = &Gate> {
    session.gates.iter().filter(move |gate| gate.is_about(code, at.0, at.1.get(), at.2))
}

/// What opening a gate asks for, beyond a reason and a name.
struct Asks {
    consent: bool,
    second_reason: bool,
}

impl Asks {
    fn of(session: &Session, code: GateCode, rest_v: Option<Volts>, reference_v: f64) -> Self {
        // A supply that is not known may be a raised one.
        let raised = rest_v.is_none_or(|rest| more_than(rest.get(), reference_v + FLOOR_SUPPLY_V));
        Self { consent: session.amplifier.provenance == Provenance::Lent, second_reason: code == GateCode::BelowFloor && raised }
    }

    fn met_by(&self, gate: &Gate) -> bool {
        let said = |text: &str| !text.trim().is_empty();
        let consent = gate.owner_consent.as_ref().is_some_and(|consent| said(&consent.by) && said(&consent.who_pays));
        said(&gate.reason)
            && said(&gate.by)
            && (consent || !self.consent)
            && (gate.second_reason.as_deref().is_some_and(said) || !self.second_reason)
    }
}

fn place(rung: &Rung) -> Where<'_> {
    Where { wiring: rung.id.wiring, setting: rung.id.setting.as_deref(), load_ohm: rung.id.load_ohm, tone_hz: rung.id.tone_hz.get() }
}

fn stand(session: &Session, known: &Prior, rung: &Rung, mode: Mode, code: GateCode, title: String, says: String) -> GateFinding {
    let asks = Asks::of(session, code, rung.set.rest_v, known.reference_v(place(rung)));
    let about = || records(session, code, (rung.id.wiring, rung.id.load_ohm, mode));
    let enough = about().find(|gate| asks.met_by(gate));
    let shown = enough.or_else(|| about().last());
    GateFinding {
        code,
        title,
        says,
        asks_consent: asks.consent,
        asks_second_reason: asks.second_reason,
        open: enough.is_some(),
        reason: shown.map(|gate| gate.reason.clone()),
        second_reason: shown.and_then(|gate| gate.second_reason.clone()),
        by: shown.map(|gate| gate.by.clone()),
        owner_consent: shown.and_then(|gate| gate.owner_consent.clone()),
    }
}

type Found = Option<(GateCode, String, String)>;

fn below_floor(known: &Prior, look: &Look, rung: &Rung, mode: Mode) -> Found {
    let session = known.session();
    let floor = floor_ohm(session, rung.id.wiring)?;
    let load = rung.id.load_ohm.get();
    if load >= floor || same_load(load, floor) {
        return None;
    }
    let mut says = format!("The floor is {} for {}.", ohms(floor), rung.id.wiring.words());
    if session.amplifier.provenance == Provenance::Lent {
        says.push_str(" This amplifier belongs to somebody else.");
    }
    if let Some(prediction) = &look.prediction {
        let proven = known.proven_peak_a.map_or_else(
            || "nothing is proven yet".to_owned(),
            |proven| format!("{} is the most it has been seen to survive", format::with_unit(&format::amps(proven), "A")),
        );
        says.push_str(&format!(" It asks for {} peak an output; {proven}.", format::with_unit(&format::amps(prediction.peak_a), "A")));
    }
    says.push_str(if mode == Mode::Dynamic {
        " A burst is no protection: the usual death on a bench is a burst, one rung too low, on a raised supply."
    } else {
        " Stand to the side, cover on."
    });
    let reference_v = known.reference_v(place(rung));
    if Asks::of(session, GateCode::BelowFloor, rung.set.rest_v, reference_v).second_reason {
        let least = format::with_unit(&format::as_read(reference_v + FLOOR_SUPPLY_V), "V");
        says.push_str(&format!(" Bring the supply to {least} or less, or give a second reason."));
    }
    Some((GateCode::BelowFloor, format!("{} is below what the maker allows.", ohms(load)), says))
}

fn ohms(value: f64) -> String {
    format::with_unit(&format::ohms(value), "Ω")
}

fn above_supply(session: &Session, rung: &Rung) -> Found {
    let rest = rung.set.rest_v?.get();
    let (limit, stated) = match session.amplifier.max_supply_v {
        Some(limit) => (limit.get(), "its maker allows"),
        None => (session.policy.unstated_max_supply_v.get(), "is safe to assume, as its maker states no maximum"),
    };
    more_than(rest, limit).then(|| {
        let says = format!("{} V at rest, and {} V is the most that {stated}.", format::as_read(rest), format::as_read(limit));
        (GateCode::AboveSupply, "The supply is too high.".to_owned(), says)
    })
}

fn fuses(session: &Session, look: &Look) -> Found {
    let (ratio, draw) = (look.fuse_ratio(session)?, look.prediction.as_ref()?.high_a);
    if at_least(session.policy.fuse_gate_ratio.get(), ratio) {
        return None;
    }
    let says = format!(
        "Up to {} A through {} A of fuse, {} %: {} Never bridge or up-rate a fuse to get a number.",
        format::amps(draw),
        format::as_read(session.amplifier.supply_fuse_a()?),
        format::fixed(100.0 * ratio, 0),
        blade_fuse(ratio)
    );
    Some((GateCode::Fuses, "It may draw more than its fuses bear.".to_owned(), says))
}

fn load_bank(look: &Look) -> Found {
    let (prediction, build) = (look.prediction.as_ref()?, look.build.as_ref()?);
    let (asked, most) = (prediction.high_w() / prediction.outputs, build.ten_second_w.as_ref()?.value);
    more_than(asked, most).then(|| {
        let says = format!(
            "Up to {} an output into {}, which bears {} for ten seconds. Use more or larger resistors: hot ones drift, burn and light what is near.",
            format::with_unit(&format::watts(asked), "W"),
            build.words,
            format::with_unit(&format::watts(most), "W"),
        );
        (GateCode::LoadBank, "The load bank would not bear it.".to_owned(), says)
    })
}
