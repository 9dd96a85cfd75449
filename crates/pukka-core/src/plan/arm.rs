//! Arming: the one way to start a run. What its gates were judged on is written down as it is armed, and stands.

use serde::{Deserialize, Serialize};

use crate::assess::prior;
use crate::evidence::floor::floor;
use crate::evidence::rungs::Rung;
use crate::kernel::format;
use crate::kernel::working::Input;
use crate::plan::gates::{GateFinding, Look, gates};
use crate::plan::ladder::Place;
use crate::predict::known::Prior;
use crate::record::session::{Mode, Session};

/// A run that may be started. There is no way to make one but [`arm`].
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Arming {
    /// The run.
    pub place: Place,
    /// "1 Ω, certified".
    pub says: String,
    /// Gates, all open.
    pub gates: Vec<GateFinding>,
    /// Inputs that they were judged on, as they were then.
    pub inputs: Vec<Input>,
}

/// Arms a run.
///
/// # Errors
/// The gates that are still shut.
pub fn arm(session: &Session, rung: &Rung, mode: Mode) -> Result<Arming, Vec<GateFinding>> {
    let known = prior(session);
    let look = Look::at(&known, rung);
    let found = gates(&known, &look, rung, mode);
    let shut: Vec<GateFinding> = found.iter().filter(|gate| !gate.open).cloned().collect();
    if !shut.is_empty() {
        return Err(shut);
    }
    Ok(Arming {
        place: Place { rung: rung.id.key(), mode },
        says: format!("{}, {}", rung.id.wiring.load_words(rung.id.load_ohm), mode.word()),
        inputs: inputs(&known, &look, rung, mode),
        gates: found,
    })
}

fn inputs(known: &Prior, look: &Look, rung: &Rung, mode: Mode) -> Vec<Input> {
    let session = known.session();
    let shown = |value: f64, unit: &str| format::with_unit(&format::as_read(value), unit);
    let mut inputs = Vec::new();
    let mut add = |symbol: &str, what: &str, value: Option<String>| {
        inputs.extend(value.map(|value| Input { symbol: symbol.into(), what: what.into(), value }));
    };
    for (i, (wiring, load)) in rung.id.wiring.places(rung.id.load_ohm).enumerate() {
        let of = if rung.id.wiring.groups().is_some() { format!(", {}", wiring.words()) } else { String::new() };
        let n = if i == 0 { String::new() } else { (i + 1).to_string() };
        add(&format!("R{n}"), &format!("load{of}"), Some(shown(load.get(), "Ω")));
        add(&format!("floor{n}"), &format!("lowest load its maker allows{of}"), floor(session, wiring).map(|floor| shown(floor.ohm, "Ω")));
    }
    add("Vrest", "supply at rest", rung.set.rest_v.map(|rest| shown(rest.get(), "V")));
    add("Vmax", "most its maker allows", session.amplifier.max_supply_v.map(|most| shown(most.get(), "V")));
    add("lead fuse", "the bench's own", session.bench.supply.lead_fuse_a.map(|fuse| shown(fuse.get(), "A")));
    add("fuses", "supply fuses", session.amplifier.supply_fuse_a().map(|fuses| shown(fuses, "A")));
    if let Some(p) = look.of(mode) {
        add("I", "highest expected draw", Some(format::with_unit(&format::amps(p.high_a), "A")));
        add("Ipk", "peak amps of one output", Some(format::with_unit(&format::amps(p.peak_a), "A")));
    }
    add("proven", "peak amps it came through", known.proven_peak_a.map(|peak| format::with_unit(&format::amps(peak), "A")));
    add("load", "how it is made", look.made_of());
    inputs
}
