//! What a gate asks of a record that is to open it, which runs a record is about, and the runs that release a gate by having come
//! through.

use crate::evidence::rungs::{Rung, RungId, same_tone};
use crate::kernel::units::{Volts, at_least, more_than};
use crate::kernel::wiring::same_load;
use crate::record::session::{Gate, GateCode, Mode, Run, Session};

/// Most that a supply below the floor may stand above the claim's voltage.
pub(super) const FLOOR_SUPPLY_V: f64 = 0.3;
/// Most that a supply may be lower than the one a run came through on.
const SURVIVED_V: f64 = 0.2;

/// Whether a record is about a gate before a run. One that names no mode is about all of them, but below the floor a burst asks
/// again; where no maximum supply is stated, one is about the whole session.
#[must_use]
pub fn is_about(session: &Session, gate: &Gate, code: GateCode, rung: &RungId, mode: Mode) -> bool {
    if gate.code != code {
        return false;
    }
    if code == GateCode::AboveSupply && session.amplifier.max_supply_v.is_none() {
        return true;
    }
    gate.mode.map_or(code != GateCode::BelowFloor || mode != Mode::Dynamic, |own| own == mode)
        && gate.wiring.is_none_or(|own| own == rung.wiring)
        && same_load(gate.load_ohm.get(), rung.load_ohm.get())
        && (gate.setting.is_none() || gate.setting == rung.setting)
        && gate.tone_hz.is_none_or(|own| same_tone(own, rung.tone_hz))
}

/// The run that came through without harm at a rung, in a mode, on no lower a supply.
pub(super) fn survived<'a>(session: &'a Session, rung: &Rung, mode: Mode) -> Option<&'a Run> {
    let unharmed = session.standing_runs().filter(|run| run.mode == mode && run.incident.is_none() && run.was_read());
    unharmed.filter(|run| rung.id.is_of(run)).find(|run| match (session.rest_before(run), rung.set.rest_v) {
        (_, None) => true,
        (Some(then), Some(now)) => at_least(then.get() + SURVIVED_V, now.get()),
        (None, Some(_)) => false,
    })
}

/// Requirements for opening a gate, beyond a reason and a name.
pub(super) struct Asks {
    pub consent: bool,
    pub second_reason: bool,
}

impl Asks {
    /// On a borrowed amplifier below the floor: consent, and a supply that is not raised, or a second reason.
    pub fn of(session: &Session, code: GateCode, rest_v: Option<Volts>, reference_v: f64) -> Self {
        let borrowed = code == GateCode::BelowFloor && session.amplifier.provenance.is_borrowed();
        // A supply that is not known may be a raised one.
        let raised = rest_v.is_none_or(|rest| more_than(rest.get(), reference_v + FLOOR_SUPPLY_V));
        Self { consent: borrowed, second_reason: borrowed && raised }
    }

    pub fn met_by(&self, gate: &Gate) -> bool {
        let said = |text: &str| !text.trim().is_empty();
        let consent = gate.owner_consent.as_ref().is_some_and(|consent| said(&consent.by) && said(&consent.who_pays));
        said(&gate.reason)
            && said(&gate.by)
            && (consent || !self.consent)
            && (gate.second_reason.as_deref().is_some_and(said) || !self.second_reason)
    }
}
