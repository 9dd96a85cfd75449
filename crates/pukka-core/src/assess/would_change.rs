//! What would change a verdict: the untested, the bench-limited, the unsettled, the merely bounded.

use serde::{Deserialize, Serialize};

use crate::assess::{ClaimVerdict, Judgement, Outcome, ProofBasis};
use crate::evidence::band::WINDOW_V;
use crate::evidence::check::Severity;
use crate::evidence::choose::Tone;
use crate::evidence::rungs::RungId;
use crate::kernel::format;
use crate::kernel::units::Hertz;
use crate::kernel::wiring::Wiring;
use crate::record::claims::Claim;
use crate::record::session::{Mode, Session};

/// A thing to do that would change the verdict, or make it firmer.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct WouldChange {
    /// Action to take, and what it would settle.
    pub says: String,
    /// The rung it is done at.
    pub rung: Option<String>,
    /// In which mode.
    pub mode: Option<Mode>,
}

/// Everything there is, what weighs most first.
#[must_use]
pub fn would_change(session: &Session, judgement: &Judgement) -> Vec<WouldChange> {
    let mut all: Vec<WouldChange> = stops(session, judgement).collect();
    all.extend(ungated(session));
    let mut claims: Vec<(&Claim, &ClaimVerdict)> = session.claims.iter().zip(&judgement.claims).filter(|(claim, _)| claim.used).collect();
    claims.sort_by(|a, b| b.1.claim_total_w.unwrap_or(0.0).total_cmp(&a.1.claim_total_w.unwrap_or(0.0)));
    all.extend(claims.into_iter().filter_map(|(claim, verdict)| of_claim(session, claim, verdict)));
    all
}

fn stops<'a>(session: &'a Session, judgement: &'a Judgement) -> impl Iterator<Item = WouldChange> + 'a {
    judgement.checks.iter().filter(|check| check.severity == Severity::Stop && !check.settled).map(|check| {
        let run = check.runs.first().and_then(|id| session.run(id));
        WouldChange {
            says: format!("Settle “{}” at {}: until then its readings stay out.", check.title.trim_end_matches('.'), check.place),
            rung: run.map(|run| RungId::of(run).key()),
            mode: run.map(|run| run.mode),
        }
    })
}

fn ungated(session: &Session) -> impl Iterator<Item = WouldChange> + '_ {
    session.standing_runs().filter(|run| run.ungated).map(|run| WouldChange {
        says: format!(
            "Give a reason for the gate at {}, {}: without one its run stays out.",
            ohms(run.load_nominal_ohm.get()),
            run.mode.word()
        ),
        rung: Some(RungId::of(run).key()),
        mode: Some(run.mode),
    })
}

fn ohms(load: f64) -> String {
    format::with_unit(&format::ohms(load), "Ω")
}

fn volts(value: f64) -> String {
    format::with_unit(&format::as_read(value), "V")
}

fn of_claim(session: &Session, claim: &Claim, verdict: &ClaimVerdict) -> Option<WouldChange> {
    let watts = verdict.claim_total_w.map(|w| format::with_unit(&format::watts(w), "W"))?;
    let (wiring, load) = match claim.place() {
        Some((wiring, load)) => (wiring, load),
        None if verdict.outcome == Outcome::NotTested => return Some(no_place(&watts)),
        None => return None,
    };
    let wired = if wiring == Wiring::Mono { String::new() } else { format!(", {}", wiring.words()) };
    let place = format!("{}{wired}", ohms(load.get()));
    let reference_v = claim.reference_v();
    let says = match (verdict.outcome, verdict.basis) {
        (Outcome::NotTested, Some(ProofBasis::LowerBound)) => {
            format!("Run {place} on past the limit: so far it only says “at least”, and {watts} is not reached yet.")
        }
        (Outcome::NotTested, Some(ProofBasis::OwnRunUnsettled | ProofBasis::NeedsTwo)) => return None,
        (Outcome::CannotTell, Some(ProofBasis::NoSupplyVolts)) => {
            format!("Run {place} once more with the volts read: the supply under load settles {watts}.")
        }
        (Outcome::NotTested, _) => format!("Run {place} clean: it would settle {watts}."),
        (Outcome::BenchLimited, _) => {
            format!("Run {place} with the supply ending above {}: it would settle {watts}.", volts(reference_v - WINDOW_V))
        }
        (Outcome::TestedHigh, _) => {
            format!("Run {place} with the supply ending below {}: it would settle {watts}.", volts(reference_v + WINDOW_V))
        }
        (Outcome::CannotTell, _) => {
            format!("Run {place} clean at two supplies 1 V apart: how its power follows them settles {watts}.")
        }
        (Outcome::HoldsWithin, _) => {
            format!("Run {place} again, with a closer meter: {watts} holds only within ±, and may fall either way.")
        }
        (_, Some(ProofBasis::UpperBound)) => format!("Run {place} clean: it would say by how much {watts} is missed; it cannot hold."),
        _ if verdict.interpolated => format!("Run {place} itself: what is said of {watts} lies between two other loads."),
        _ => return None,
    };
    let tone_hz = Hertz::new(Tone::of(session, claim).hz()).ok()?;
    let rung = RungId { wiring, setting: claim.setting.clone(), load_ohm: load, tone_hz };
    Some(WouldChange { says, rung: Some(rung.key()), mode: Some(Mode::Certified) })
}

fn no_place(watts: &str) -> WouldChange {
    WouldChange { says: format!("Any run would say whether “max” {watts} is reached."), rung: None, mode: None }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::assess::judge;
    use crate::kernel::units::{Amps, Volts};
    use crate::record::amplifier::SupplyType;
    use crate::record::session::examples::mono_1100;

    fn said(session: &Session) -> Vec<String> {
        would_change(session, &judge(session)).into_iter().map(|one| one.says.replace('\u{202f}', " ")).collect()
    }

    #[test]
    fn the_untested_the_bench_limited_and_the_unsettled() {
        let mut session = mono_1100();
        assert_eq!(said(&session), ["Run 4 Ω again, with a closer meter: 450 W holds only within ±, and may fall either way."]);
        session.runs.retain(|run| run.load_nominal_ohm.get() > 1.5);
        assert_eq!(said(&session)[0], "Run 1 Ω clean: it would settle 1 100 W.");
        let first = &would_change(&session, &judge(&session))[0];
        assert_eq!((first.rung.as_deref(), first.mode), (Some("mono@1@40"), Some(Mode::Certified)));
        session.runs.iter_mut().for_each(|run| run.end_v = Some(Volts::new(13.2).unwrap()));
        assert!(said(&session)[1].contains("with the supply ending above 13.4 V: it would settle 780 W."), "{:?}", said(&session));
        session.runs[0].current_a = Some(Amps::new(20.0).unwrap());
        assert!(said(&session)[0].starts_with("Settle “More out than in” at 4 Ω, certified"), "{:?}", said(&session));
    }

    #[test]
    fn not_knowing_the_supply_is_settled_by_measuring_it() {
        let mut session = mono_1100();
        session.amplifier.supply_type = SupplyType::Unknown;
        assert!(said(&session).iter().any(|says| says.contains("at two supplies 1 V apart")), "{:?}", said(&session));
        session.runs[0].ungated = true;
        assert!(said(&session).iter().any(|says| says.starts_with("Give a reason for the gate at 4 Ω, certified")));
    }
}
