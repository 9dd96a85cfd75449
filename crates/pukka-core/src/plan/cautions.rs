//! What hurts people at this bench: shown once before a session's first run.

use serde::{Deserialize, Serialize};

use crate::amplifier::Topology;
use crate::bench::SupplyKind;
use crate::session::Session;
use crate::wiring::Wiring;

/// One caution: what to see to, and why.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Caution {
    /// What to see to.
    pub title: String,
    /// Why, and how.
    pub says: String,
}

/// The cautions that bear on any run of this session.
#[must_use]
pub fn cautions(session: &Session) -> Vec<Caution> {
    let caution = |title: &str, says: &str| Caution { title: title.into(), says: says.into() };
    let mut list = Vec::new();
    if session.bench.supply.kind != SupplyKind::Supply {
        list.push(caution(
            "The bank is fused at its post and covered.",
            "It can deliver thousands of amps into a short. Insulated tools, no rings or watches. Ventilate while it charges; connect a charger with its supply off.",
        ));
    }
    if session.bench.supply.kind != SupplyKind::Battery {
        list.push(caution(
            "Mains wiring is as an electrician left it.",
            "Fixed wiring and protective devices are for a licensed electrician, by the local code. Pukka never replaces that.",
        ));
    }
    list.push(caution(
        "Leads are sized, fused and tied down.",
        "They jump and heat at hundreds of amps. No bare ends; read the print twice where power and speakers share a block.",
    ));
    list.push(caution(
        "Loads stand in free air, nothing above them.",
        "They get hot enough to burn and to light paper. Do not touch; let them cool.",
    ));
    let bridged = session.claims.iter().any(|claim| matches!(claim.wiring, Some(Wiring::Bridged { .. })));
    if bridged || session.amplifier.topology != Some(Topology::HalfBridge) {
        list.push(caution(
            "No scope ground on an output.",
            "A bridged or full-bridge output has no ground side: use a differential or isolated input.",
        ));
    }
    list.push(caution(
        "No speaker is on the bench.",
        "Tones at these levels damage hearing and speakers. Hearing protection when one has to be.",
    ));
    list.push(caution(
        "Eye protection on, cover on.",
        "Failing capacitors and transistors burst. With the power off they still hold charge: discharge and measure.",
    ));
    list.push(caution(
        "You are not alone, and can cut the supply with one hand.",
        "An extinguisher for electrical fires is in reach. Fuses are never bridged and never up-rated.",
    ));
    list
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::session::examples::mono_1100;

    #[test]
    fn what_bears_on_this_bench_is_shown_and_no_more() {
        let mut session = mono_1100();
        let titles = |session: &Session| cautions(session).into_iter().map(|c| c.title).collect::<Vec<_>>().join(" ");
        assert!(titles(&session).contains("bank") && !titles(&session).contains("Mains") && !titles(&session).contains("scope"));
        session.bench.supply.kind = SupplyKind::Supply;
        session.amplifier.topology = None;
        let changed = titles(&session);
        assert!(!changed.contains("bank") && changed.contains("electrician") && changed.contains("scope"));
    }
}
