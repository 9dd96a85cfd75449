//! What a rung will ask of the bench, from the claims alone.

use crate::format;
use crate::session::Session;
use crate::units::Ohms;
use crate::wiring::{Relation, Wiring, relation};
use crate::working::{Figure, Working, source};

/// Efficiency that no amplifier betters by much: it gives the least draw to expect.
const BEST_EFFICIENCY: f64 = 0.85;
/// Efficiency and excess that together give the most.
const WORST_EFFICIENCY: f64 = 0.55;
const MOST_OVER_CLAIM: f64 = 1.3;

/// Power to expect, and where the figure is from.
#[derive(Debug, Clone, PartialEq)]
pub struct ExpectedPower {
    /// Watts in total.
    pub power_w: f64,
    /// The claim it is from.
    pub claim: String,
    /// Why it is no more than a guess, when it is.
    pub assumption: Option<String>,
}

/// Power to expect of a wiring and load: its claim, else that of the nearest higher load, taken in proportion.
#[must_use]
pub fn expected_power(session: &Session, wiring: Wiring, setting: Option<&str>, load_ohm: Ohms) -> Option<ExpectedPower> {
    let ratings = || session.claims.iter().filter(|claim| claim.used && claim.is_rating() && claim.setting.as_deref() == setting);
    for wanted in [Relation::Same, Relation::Equivalent] {
        let bearing = ratings().filter(|c| c.place().and_then(|place| relation((wiring, load_ohm), place)) == Some(wanted));
        let most = bearing.filter_map(|claim| Some((claim.total_w()?, claim))).max_by(|a, b| a.0.total_cmp(&b.0));
        if let Some((power_w, claim)) = most {
            return Some(ExpectedPower { power_w, claim: claim.id.clone(), assumption: None });
        }
    }
    let nearest = ratings()
        .filter(|claim| claim.wiring == Some(wiring))
        .filter_map(|claim| Some((claim.load_ohm?.get(), claim.total_w()?, claim)))
        .min_by(|a, b| (a.0 / load_ohm.get()).ln().abs().total_cmp(&(b.0 / load_ohm.get()).ln().abs()))?;
    let (other_ohm, other_w, claim) = nearest;
    Some(ExpectedPower {
        power_w: other_w * other_ohm / load_ohm.get(),
        claim: claim.id.clone(),
        assumption: Some(format!("No claim for this load: taken from the {} Ω claim in proportion, a guess.", format::ohms(other_ohm))),
    })
}

/// A band of supply current.
#[derive(Debug, Clone, PartialEq)]
pub struct ExpectedDraw {
    /// The least.
    pub low: Figure,
    /// The most: gates use this end.
    pub high: Figure,
}

/// Draw to expect before any run: from claim/(V · 0.85) to 1.3 · claim/(V · 0.55).
#[must_use]
pub fn expected_draw(expected: &ExpectedPower, supply_v: f64) -> ExpectedDraw {
    let working = |title: &str, formula: &str| {
        let working = Working::new(title, formula, source::METHOD).with("C", "power claimed, in total", expected.power_w, "W").with(
            "V",
            "supply voltage",
            supply_v,
            "V",
        );
        match &expected.assumption {
            Some(assumption) => working.assuming(assumption.clone()),
            None => working.assuming("From the claim alone: no run has been made yet."),
        }
    };
    ExpectedDraw {
        low: Figure::amps(expected.power_w / (supply_v * BEST_EFFICIENCY), working("Least draw to expect", "C / (V · 0.85)")),
        high: Figure::amps(
            MOST_OVER_CLAIM * expected.power_w / (supply_v * WORST_EFFICIENCY),
            working("Most draw to expect", "1.3 · C / (V · 0.55)"),
        ),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::session::examples::mono_1100;

    fn ohms(value: f64) -> Ohms {
        Ohms::new(value).unwrap()
    }

    #[test]
    fn the_band_from_the_claim_worked_by_hand() {
        let session = mono_1100();
        let expected = expected_power(&session, Wiring::Mono, None, ohms(1.0)).unwrap();
        assert_eq!((expected.power_w, expected.claim.as_str(), &expected.assumption), (1100.0, "c3", &None));
        let draw = expected_draw(&expected, 14.4);
        // 1100/(14.4 × 0.85) = 89.87 A; 1.3 × 1100/(14.4 × 0.55) = 180.56 A
        assert!((draw.low.value - 89.869).abs() < 1e-3 && (draw.high.value - 180.556).abs() < 1e-3);
    }

    #[test]
    fn past_the_claims_it_is_a_guess_and_says_so() {
        let expected = expected_power(&mono_1100(), Wiring::Mono, None, ohms(0.67)).unwrap();
        assert!((expected.power_w - 1100.0 / 0.67).abs() < 1e-9);
        assert!(expected.assumption.unwrap().contains("from the 1 Ω claim"));
        assert!(expected_power(&mono_1100(), Wiring::Mono, Some("high current"), ohms(1.0)).is_none());
    }
}
