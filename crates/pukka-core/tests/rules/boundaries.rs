//! Where an outcome turns: exactly on the boundary, and a hair to either side. Comparisons favour the more favourable word.

use proptest::prelude::*;
use pukka_core::assess::{Judgement, Outcome, Overall, judge};
use pukka_core::kernel::units::{Ohms, Volts, VoltsPeak, VoltsPeakToPeak, VoltsRms};
use pukka_core::kernel::wiring::{Wiring, same_load};
use pukka_core::record::amplifier::SupplyType;
use pukka_core::record::session::examples::{claim, mono_1100, run};
use pukka_core::record::session::{Mode, Session};

/// A certified run against one claim of 1000 W, its meters without limits of their own.
fn session(power_w: f64, end_v: f64) -> Session {
    let mut session = mono_1100();
    session.amplifier.supply_type = SupplyType::Regulated;
    session.bench.meters =
        serde_json::from_value(serde_json::json!([{ "id": "w", "quantity": "power", "reading_ratio": 0.0 }, { "id": "v", "quantity": "supply_voltage", "reading_ratio": 0.0 }])).unwrap();
    session.claims = vec![claim("c", Wiring::Mono, 4.0, 1_000.0)];
    session.runs = vec![run("r", Wiring::Mono, 4.0, Mode::Certified, power_w, Some(end_v))];
    session
}

fn judged(power_w: f64, end_v: f64) -> Judgement {
    judge(&session(power_w, end_v))
}

fn outcome(power_w: f64, end_v: f64) -> Outcome {
    judged(power_w, end_v).claims[0].outcome
}

#[test]
fn one_volt_from_the_claims_voltage_is_still_inside() {
    // Regulated: inside the window the power stands as read, further below it may be held back by the bench.
    assert_eq!(outcome(990.0, 13.4), Outcome::Short, "exactly 1.0 V below");
    assert_eq!(outcome(990.0, 13.399), Outcome::BenchLimited);
    let above = |end_v: f64| {
        let mut session = session(1_010.0, end_v);
        session.amplifier.supply_type = SupplyType::Unregulated;
        judge(&session).claims[0].outcome
    };
    // Unregulated, 15.4 V: 1010 · (14.4/15.4)² = 883 W, inside; a hair above it the truth lies between that and 1010 W.
    assert_eq!((above(15.4), above(15.401)), (Outcome::Short, Outcome::TestedHigh));
}

#[test]
fn a_load_within_two_percent_is_the_same_load() {
    let at = |load: f64| {
        let mut session = session(1_000.0, 14.4);
        session.runs[0].load_nominal_ohm = Ohms::new(load).unwrap();
        judge(&session).claims[0].outcome
    };
    assert_eq!((at(4.08), at(3.92)), (Outcome::Holds, Outcome::Holds), "exactly 2 %");
    assert_eq!((at(4.081), at(3.919)), (Outcome::NotTested, Outcome::NotTested));
}

#[test]
fn seventy_percent_is_short_and_a_hair_less_is_far_short() {
    assert_eq!((outcome(700.0, 14.4), judged(700.0, 14.4).overall), (Outcome::Short, Some(Overall::Optimistic)));
    assert_eq!((outcome(699.999, 14.4), judged(699.999, 14.4).overall), (Outcome::FarShort, Some(Overall::TallTale)));
}

#[test]
fn ninety_five_percent_is_near_enough_and_a_hair_less_is_optimistic() {
    assert_eq!(judged(950.0, 14.4).overall, Some(Overall::NearEnough));
    assert_eq!(judged(949.999, 14.4).overall, Some(Overall::Optimistic));
}

#[test]
fn five_percent_over_beats_it_and_a_hair_less_does_not() {
    assert_eq!(
        (outcome(1_050.0, 14.4), judged(1_050.0, 14.4).overall),
        (Outcome::Beats, Some(Overall::Modest)),
        "the more favourable word"
    );
    assert_eq!((outcome(1_049.999, 14.4), judged(1_049.999, 14.4).overall), (Outcome::Holds, Some(Overall::Pukka)));
}

#[test]
fn exactly_the_claim_holds_and_a_relative_slack_favours_the_kinder_word() {
    assert_eq!(outcome(1_000.0, 14.4), Outcome::Holds);
    assert_eq!(outcome(1_000.0 * (1.0 - 5e-10), 14.4), Outcome::Holds, "inside 10⁻⁹");
    assert_eq!(outcome(1_000.0 * (1.0 - 5e-9), 14.4), Outcome::Short);
}

proptest! {
    #[test]
    fn units_go_round(watts in 0.01f64..5_000.0, ohms in 0.3f64..16.0) {
        let load = Ohms::new(ohms).unwrap();
        let rms = (watts * ohms).sqrt();
        let near = |power: f64| (power / watts - 1.0).abs() < 1e-12;
        prop_assert!(near(VoltsRms::new(rms).unwrap().power_w(load)));
        prop_assert!(near(VoltsPeak::new(rms * 2f64.sqrt()).unwrap().sine_power_w(load)));
        prop_assert!(near(VoltsPeakToPeak::new(rms * 8f64.sqrt()).unwrap().sine_power_w(load)));
        prop_assert!(same_load(ohms, ohms) && same_load(ohms, ohms * 1.02) && !same_load(ohms, ohms * 1.021));
    }

    #[test]
    fn a_quantity_survives_json_to_the_last_bit(volts in 0.001f64..100.0) {
        let made = Volts::new(volts).unwrap();
        let back: Volts = serde_json::from_str(&serde_json::to_string(&made).unwrap()).unwrap();
        prop_assert_eq!(back.get().to_bits(), volts.to_bits());
    }
}
