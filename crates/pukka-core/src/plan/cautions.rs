//! What hurts people at this bench: once before a session's first run, and again at the step where it matters.

use serde::{Deserialize, Serialize};

use crate::assess::checks::blade_fuse;
use crate::evidence::floor::is_below;
use crate::evidence::rungs::Rung;
use crate::kernel::format;
use crate::kernel::units::more_than;
use crate::kernel::wiring::Wiring;
use crate::plan::gates::{GateFinding, Look};
use crate::record::amplifier::{Topology, controls_left};
use crate::record::bench::{Quantity, SupplyKind};
use crate::record::session::{Mode, Session};

/// A caution: what to see to, and why.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Caution {
    /// Word: what was ticked is kept by it.
    pub code: String,
    /// Title of the caution.
    pub title: String,
    /// Reason, and how.
    pub says: String,
}

/// The cautions that concerns any run of this session. The year tells an old amplifier; it comes from outside.
#[must_use]
pub fn cautions(session: &Session, this_year: Option<u16>) -> Vec<Caution> {
    let mut list = Vec::new();
    let mut add = |code: &str, title: &str, says: &str| list.push(Caution { code: code.into(), title: title.into(), says: says.into() });
    let supply = &session.bench.supply;
    if supply.kind != SupplyKind::Supply {
        add(
            "bank",
            "The bank is fused at its post and covered.",
            "It can deliver thousands of amps into a short. Insulated tools, no rings or watches. Ventilate while it charges; connect a charger with its supply off. Lithium packs only with their protection board.",
        );
    }
    if supply.supercapacitors {
        add(
            "supercapacitors",
            "The supercapacitors count as live.",
            "They stay so when they are disconnected: bleed them through a resistor, and measure.",
        );
    }
    if supply.kind != SupplyKind::Battery {
        add(
            "mains",
            "Mains wiring is as an electrician left it.",
            "Fixed wiring and protective devices are for a licensed electrician, by the local code. Pukka never replaces that.",
        );
    }
    add(
        "leads",
        "Leads are sized, fused and tied down.",
        "They jump and heat at hundreds of amps. No bare ends; read the print twice where power and speakers share a block.",
    );
    add(
        "loads",
        "Loads stand in free air, nothing above them.",
        "They get hot enough to burn and to light paper. Do not touch; let them cool.",
    );
    if session.bench.meters.iter().any(|meter| meter.quantity == Quantity::Current) {
        add(
            "clamp",
            "The clamp is zeroed and reads the mean of a direct current.",
            "One that reads only alternating current, or holds its peak, makes every efficiency wrong.",
        );
    }
    let bridged = session.claims.iter().any(|claim| matches!(claim.wiring, Some(Wiring::Bridged { .. })));
    if bridged || session.amplifier.topology != Some(Topology::HalfBridge) {
        add(
            "scope",
            "No scope ground on an output.",
            "A bridged or full-bridge output has no ground side: use a differential or isolated input.",
        );
    }
    if session.amplifier.is_fragile(this_year) {
        add(
            "first-power-up",
            "First power-up was through a current limit.",
            "It is old or was repaired, and can fail while idling. Cover on, watch the idle draw before any tone, and log it.",
        );
    }
    if session.amplifier.provenance.is_borrowed() {
        add(
            "borrowed",
            "Its owner knows what it will be put through.",
            "It is somebody else's: agree on who pays before the first run, not after the last.",
        );
    }
    add(
        "ears",
        "No speaker is on the bench.",
        "Tones at these levels damage hearing and speakers. Hearing protection when one has to be. Before listening: take the extra drive off, check for direct current, speaker last.",
    );
    add(
        "cover",
        "Eye protection on, cover on.",
        "Failing capacitors and transistors burst. With the power off they still hold charge: discharge through a resistor and measure before a board is touched.",
    );
    add(
        "not-alone",
        "You are not alone, and can cut the supply with one hand.",
        "An extinguisher for electrical fires is in reach. Fuses are never bridged and never up-rated.",
    );
    list
}

/// Draw past which leads jump and heat.
const HIGH_A: f64 = 150.0;

/// Points to mind at one run, beyond the list before the first.
#[must_use]
pub fn at_step(session: &Session, look: &Look, rung: &Rung, mode: Mode) -> Vec<String> {
    let mut mind = Vec::new();
    if is_below(session, rung.id.wiring, rung.id.load_ohm) {
        mind.push("Below the floor: cover on, eye protection, stand to the side, one hand on the supply switch.".to_owned());
        if session.amplifier.provenance.is_borrowed() {
            mind.push("It is borrowed, and this is how bench amplifiers die.".to_owned());
        }
    }
    if mode == Mode::Dynamic && rung.id.tone_hz.get() >= 500.0 {
        mind.push("Bursts are harsher on the ear than they read: hearing protection on.".to_owned());
    }
    if let Some(p) = look.of(mode)
        && more_than(p.high_a, HIGH_A)
    {
        let amps = format::with_unit(&format::amps(p.high_a), "A");
        mind.push(format!("Up to {amps}: leads tied down, nothing bare, hands off them."));
    }
    mind.extend(fuse_caution(session, look, mode));
    let (filters_out, boost_off) = session.gain.as_ref().map_or((false, false), |gain| (gain.filters_out, gain.boost_off));
    mind.extend(controls_left(&session.amplifier, rung.id.tone_hz.get(), filters_out, boost_off));
    mind
}

/// Draw over the supply fuses past which a blade fuse may open. The amplifier's own fuses never gate: they are its protection,
/// doing its work.
pub const PAST_FUSES: f64 = 1.10;

/// Caution on the supply fuses at a run that may open one.
#[must_use]
pub fn fuse_caution(session: &Session, look: &Look, mode: Mode) -> Option<String> {
    let ratio = look.fuse_ratio_in(session, mode).filter(|ratio| more_than(*ratio, PAST_FUSES))?;
    let amps = format::with_unit(&format::amps(look.of(mode)?.high_a), "A");
    let percent = format::with_unit(&format::fixed(100.0 * ratio, 0), "%");
    Some(format!(
        "It may draw {amps}, {percent} of its fuses: {} Keep spares of the same rating; never bridge or up-rate one.",
        blade_fuse(ratio)
    ))
}

/// Reasons to ask once more before a run is started: its gates, open or not, and a draw that may open a fuse.
#[must_use]
pub fn before_start(session: &Session, look: &Look, mode: Mode, gates: &[GateFinding]) -> Vec<String> {
    gates.iter().map(|gate| gate.title.clone()).chain(fuse_caution(session, look, mode)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::amplifier::Provenance;
    use crate::record::session::examples::mono_1100;

    fn titles(session: &Session) -> String {
        cautions(session, Some(2026)).into_iter().map(|c| c.title).collect::<Vec<_>>().join(" ")
    }

    #[test]
    fn what_bears_on_this_bench_is_shown_and_no_more() {
        let mut session = mono_1100();
        assert!(titles(&session).contains("bank") && !titles(&session).contains("Mains") && !titles(&session).contains("scope"));
        assert!(
            !titles(&session).contains("supercapacitors") && !titles(&session).contains("power-up") && titles(&session).contains("owner")
        );
        session.bench.supply.kind = SupplyKind::Supply;
        session.bench.supply.supercapacitors = true;
        session.amplifier.topology = None;
        session.amplifier.year = Some(1999);
        session.amplifier.provenance = Provenance::Bought;
        let changed = titles(&session);
        assert!(!changed.contains("bank") && changed.contains("electrician") && changed.contains("scope"));
        assert!(changed.contains("supercapacitors") && changed.contains("power-up") && !changed.contains("owner"));
    }

    #[test]
    fn past_110_percent_of_the_fuses_a_start_asks_and_below_it_does_not() {
        use crate::plan::gates::gates;
        use crate::predict::known::Prior;
        let mut session = mono_1100();
        let reasons = |session: &Session| {
            let known = Prior::of(session, &[]);
            let rung = crate::plan::ladder::find(session, "mono@1@40").unwrap();
            let look = Look::at(&known, &rung);
            (
                look.fuse_ratio(session).unwrap(),
                before_start(session, &look, Mode::Certified, &gates(&known, &look, &rung, Mode::Certified)),
            )
        };
        let (ratio, _) = reasons(&session);
        let fuse = session.amplifier.supply_fuse_a().unwrap();
        for (share, asks) in [(1.09, false), (1.11, true)] {
            session.amplifier.fuses_a = vec![crate::kernel::units::Amps::new(fuse * ratio / share).unwrap()];
            let (now, reasons) = reasons(&session);
            assert!((now - share).abs() < 1e-6);
            assert_eq!(reasons.iter().any(|says| says.contains("of its fuses")), asks, "{share}: {reasons:?}");
        }
    }

    #[test]
    fn every_caution_has_a_word_of_its_own() {
        let mut session = mono_1100();
        session.bench.supply.kind = SupplyKind::Both;
        session.amplifier.year = Some(1999);
        let list = cautions(&session, Some(2026));
        let codes: std::collections::BTreeSet<_> = list.iter().map(|caution| caution.code.as_str()).collect();
        assert_eq!(codes.len(), list.len());
    }

    #[test]
    fn a_clamp_is_minded_where_there_is_one() {
        let mut session = mono_1100();
        let minded = |session: &Session| cautions(session, Some(2026)).iter().any(|caution| caution.code == "clamp");
        session.bench.meters.retain(|meter| meter.quantity != Quantity::Current);
        assert!(!minded(&session), "{:?}", session.bench.meters);
        let clamp = serde_json::json!({ "id": "clamp", "quantity": "current", "reading_ratio": 0.02, "absolute": 0.0 });
        session.bench.meters.push(serde_json::from_value(clamp).unwrap());
        assert!(minded(&session));
    }
}
