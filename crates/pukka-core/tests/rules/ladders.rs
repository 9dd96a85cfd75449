//! The ladder, its expectations and its gates, for amplifiers with several wirings, settings and tones.

use proptest::prelude::*;
use pukka_core::assess::check_session;
use pukka_core::evidence::floor::floor;
use pukka_core::evidence::rungs::{Rung, RungId};
use pukka_core::kernel::units::{Amps, Hertz, Ohms};
use pukka_core::kernel::wiring::Wiring;
use pukka_core::plan::gates::{gates_before, shut};
use pukka_core::plan::ladder::{Place, ladder, next_after};
use pukka_core::predict::known::Prior;
use pukka_core::predict::prediction::{Basis, Prediction, predict};
use pukka_core::record::session::examples::{claim, mono_1100, run};
use pukka_core::record::session::{GateCode, Mode, Order, Session};

const FOUR: Wiring = Wiring::Channels { driven: 4 };
const TWO: Wiring = Wiring::Channels { driven: 2 };
const PAIRS: Wiring = Wiring::Bridged { pairs: 2 };

fn four_channels() -> Session {
    let mut session = mono_1100();
    session.amplifier.channels = 4;
    session.amplifier.floors.clear();
    session.plan.rungs.clear();
    session.runs.clear();
    session.claims =
        vec![claim("a", FOUR, 4.0, 90.0), claim("b", FOUR, 2.0, 140.0), claim("c", PAIRS, 4.0, 280.0), claim("d", TWO, 4.0, 100.0)];
    session
}

fn place(rung: &str, mode: Mode) -> Place {
    Place { rung: rung.into(), mode }
}

#[test]
fn wirings_stand_apart_and_each_falls_from_its_highest_load() {
    let ladder = ladder(&four_channels());
    let keys: Vec<&str> = ladder.rungs.iter().map(|rung| rung.key.as_str()).collect();
    assert_eq!(keys, ["channels-2@4@40", "channels-4@4@40", "channels-4@2@40", "bridged-2@4@40"]);
    assert_eq!((ladder.logged, ladder.planned, ladder.order.len()), (0, 12, 12));
    assert_eq!(ladder.rungs[3].outputs, 2);
    assert_eq!(ladder.rungs[2].claim.as_deref(), Some("560\u{202f}W"), "claims are shown in total");
}

#[test]
fn a_setting_is_a_rung_of_its_own() {
    let mut session = four_channels();
    session.claims.truncate(1);
    let mut high = claim("h", FOUR, 4.0, 110.0);
    high.setting = Some("high voltage".into());
    session.claims.push(high);
    let ladder = ladder(&session);
    assert_eq!(ladder.rungs.len(), 2);
    assert_eq!(ladder.rungs[1].words, "40 Hz · 4 channels · high voltage");
    assert_eq!(ladder.rungs[1].claim.as_deref(), Some("440\u{202f}W"));
    assert_eq!(ladder.rungs[0].claim.as_deref(), Some("360\u{202f}W"));
}

#[test]
fn the_next_run_goes_round_in_both_orders() {
    let mut session = four_channels();
    session.claims.truncate(2);
    let at = |session: &Session, rung: &str, mode| next_after(session, &place(rung, mode)).map(|next| (next.rung, next.mode));
    assert_eq!(at(&session, "channels-4@4@40", Mode::Dynamic), Some(("channels-4@2@40".into(), Mode::Certified)));
    assert_eq!(at(&session, "channels-4@2@40", Mode::Dynamic), Some(("channels-4@4@40".into(), Mode::Certified)), "round to the start");
    session.plan.order = Order::Mode;
    assert_eq!(at(&session, "channels-4@4@40", Mode::Certified), Some(("channels-4@2@40".into(), Mode::Certified)));
    assert_eq!(at(&session, "channels-4@2@40", Mode::Certified), Some(("channels-4@4@40".into(), Mode::Clipping)));
    assert_eq!(at(&session, "nowhere", Mode::Certified), Some(("channels-4@4@40".into(), Mode::Certified)), "an unknown place starts over");
}

#[test]
fn modes_that_are_not_planned_are_not_asked_for_but_can_be_logged() {
    let mut session = four_channels();
    session.claims.truncate(1);
    session.plan.rungs = vec![rung(FOUR, 4.0, None).set];
    session.plan.rungs[0].modes = vec![Mode::Certified];
    assert_eq!(ladder(&session).planned, 1);
    session.runs = vec![run("x", FOUR, 4.0, Mode::Dynamic, 95.0, None)];
    let ladder = ladder(&session);
    assert_eq!((ladder.logged, ladder.rungs[0].cells[2].runs.len()), (0, 1));
    assert_eq!(ladder.next, Some(place("channels-4@4@40", Mode::Certified)));
}

#[test]
fn a_run_off_the_ladder_makes_its_own_rung() {
    let mut session = four_channels();
    session.runs = vec![run("x", Wiring::Strapped { amplifiers: 2 }, 1.0, Mode::Certified, 900.0, Some(14.0))];
    let rungs = ladder(&session).rungs;
    let last = rungs.last().unwrap();
    assert_eq!((last.key.as_str(), last.claim.as_deref(), last.claim_fraction), ("strapped-2@1@40", None, None));
    assert_eq!(last.expected.as_ref().unwrap().basis, Basis::OneRun, "of it only the run itself is known");
    assert!(last.cells[0].figures.as_ref().unwrap().fraction <= 0.97 + 1e-12);
}

fn rung(wiring: Wiring, load: f64, rest_v: Option<f64>) -> Rung {
    let (load_ohm, tone_hz) = (Ohms::new(load).unwrap(), Hertz::new(40.0).unwrap());
    let set = serde_json::json!({ "wiring": wiring, "load_ohm": load, "tone_hz": 40.0, "rest_v": rest_v });
    Rung { id: RungId { wiring, setting: None, load_ohm, tone_hz }, set: serde_json::from_value(set).unwrap() }
}

fn expect(session: &Session, rung: &Rung) -> Option<Prediction> {
    predict(&Prior::of(session, &check_session(session)), rung)
}

#[test]
fn what_to_expect_comes_from_the_own_claims_then_equivalents_then_a_guess() {
    let session = four_channels();
    let expected = |session: &Session, wiring, ohm| expect(session, &rung(wiring, ohm, None));
    let own = expected(&session, FOUR, 2.0).unwrap();
    assert!((own.expected.power_w - 560.0).abs() < 1e-9 && own.from == ["a", "b"] && own.basis == Basis::Claim);
    let mut without = session.clone();
    without.claims.remove(2);
    let by_bridging = expected(&without, PAIRS, 4.0).unwrap();
    assert!((by_bridging.expected.power_w - 560.0).abs() < 1e-9, "bridged into 4 Ω asks what 4 channels into 2 Ω do");
    let guess = expected(&session, FOUR, 1.0).unwrap();
    // 18.974 V at 4.743 A and 16.733 V at 8.367 A: Rout 0.618 Ω, Voc 21.907 V; 21.907² / 1.618² = 183.2 W each.
    assert!((guess.expected.power_w - 4.0 * 183.2).abs() < 1.0, "{}", guess.expected.power_w);
    assert!(guess.assumptions.iter().any(|says| says.ends_with("a guess.")));
    assert!(expected(&session, Wiring::Mono, 4.0).is_none());
}

#[test]
fn the_floor_is_per_wiring_and_carries_over() {
    let mut session = four_channels();
    let ohm = |session: &Session, wiring| floor(session, wiring).map(|floor| floor.ohm);
    assert_eq!((ohm(&session, FOUR), ohm(&session, PAIRS), ohm(&session, TWO)), (Some(2.0), Some(4.0), Some(4.0)));
    session.amplifier.floors = vec![pukka_core::record::amplifier::Floor { wiring: TWO, load_ohm: Ohms::new(2.0).unwrap() }];
    assert_eq!(ohm(&session, TWO), Some(2.0), "what is stated comes before what is claimed");
    assert_eq!((ohm(&session, FOUR), ohm(&session, PAIRS)), (Some(2.0), Some(4.0)), "and stands for the other wirings");
}

#[test]
fn a_burst_below_the_floor_says_that_it_is_no_protection() {
    let mut session = four_channels();
    session.amplifier.fuses_a.clear();
    let says = |session: &Session, mode| gates_before(session, &rung(FOUR, 1.0, None), mode)[0].says.clone();
    assert!(says(&session, Mode::Dynamic).contains("A burst is no protection"));
    assert!(says(&session, Mode::Dynamic).contains("peak an output; nothing is proven yet"));
    assert!(!says(&session, Mode::Certified).contains("burst"));
    assert!(says(&session, Mode::Certified).contains("belongs to somebody else"), "it is on loan");
    session.amplifier.provenance = pukka_core::record::amplifier::Provenance::Bought;
    assert!(!says(&session, Mode::Certified).contains("somebody else"));
}

#[test]
fn a_higher_supply_draws_less_and_the_gate_follows() {
    let mut session = four_channels();
    session.amplifier.supply_type = pukka_core::record::amplifier::SupplyType::Regulated;
    session.bench.supply.source_ohm = Some(Ohms::new(0.001).unwrap());
    let most = |session: &Session, rest| expect(session, &rung(FOUR, 2.0, Some(rest))).unwrap().high_a;
    let (low, high) = (most(&session, 13.0), most(&session, 14.4));
    assert!(low > 1.08 * high, "{low} A at 13.0 V, {high} A at 14.4 V");
    session.bench.supply.lead_fuse_a = Some(Amps::new((low + high) / 2.0 / 1.35).unwrap());
    assert_eq!(shut(&session, &rung(FOUR, 2.0, Some(13.0)), Mode::Certified).len(), 1);
    assert_eq!(shut(&session, &rung(FOUR, 2.0, Some(14.4)), Mode::Certified).len(), 0);
}

#[test]
fn tones_of_claims_make_rungs_and_sort_high_to_low() {
    let mut session = four_channels();
    session.claims.truncate(1);
    let mut low = claim("low", FOUR, 4.0, 80.0);
    low.tone_hz = Some(Hertz::new(50.0).unwrap());
    let mut high = claim("high", FOUR, 4.0, 90.0);
    high.tone_hz = Some(Hertz::new(1_000.0).unwrap());
    session.claims = vec![low, high];
    let keys: Vec<String> = ladder(&session).rungs.into_iter().map(|rung| rung.key).collect();
    assert_eq!(keys, ["channels-4@4@1000", "channels-4@4@50"]);
}

proptest! {
    #[test]
    fn the_gate_of_the_lead_fuse_is_shut_exactly_past_135_percent(fuse in 5.0f64..400.0, watts in 50.0f64..3_000.0) {
        let mut session = mono_1100();
        session.claims = vec![claim("c", Wiring::Mono, 1.0, watts)];
        session.bench.supply.lead_fuse_a = Some(Amps::new(fuse).unwrap());
        session.bench.supply.source_ohm = None;
        session.runs.clear();
        let expected = expect(&session, &rung(Wiring::Mono, 1.0, None)).unwrap();
        // From the claim alone, class D: P/(V · 0.85) to 1.15 · P/(V · 0.55).
        prop_assert!((expected.low_a - watts / (14.4 * 0.85)).abs() < 1e-9 && (expected.high_a - 1.15 * watts / (14.4 * 0.55)).abs() < 1e-9);
        let codes: Vec<GateCode> = shut(&session, &rung(Wiring::Mono, 1.0, None), Mode::Certified).into_iter().map(|g| g.code).collect();
        let past = expected.high_a / fuse > 1.35 * (1.0 + 1e-9);
        prop_assert_eq!(codes.contains(&GateCode::LeadFuse), past);
    }

    #[test]
    fn every_place_is_reached_once_by_pressing_on(logged in prop::collection::vec(0usize..12, 0..12)) {
        let mut session = four_channels();
        let order = ladder(&session).order;
        for i in &logged {
            let at = &order[*i];
            let rung = pukka_core::plan::ladder::find(&session, &at.rung).unwrap();
            let id = format!("r{}", session.runs.len());
            session.runs.push(run(&id, rung.id.wiring, rung.id.load_ohm.get(), at.mode, 50.0, None));
        }
        let free = order.iter().filter(|at| !logged.iter().any(|i| &order[*i] == *at)).count();
        let mut walked = Vec::new();
        let mut at = ladder(&session).next;
        while let Some(here) = at {
            if walked.contains(&here) { break; }
            at = next_after(&session, &here);
            walked.push(here);
        }
        prop_assert_eq!(walked.len(), free);
    }
}
