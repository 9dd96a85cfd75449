//! Loads from an inventory, against a search that knows nothing of handfuls and sizes.

use proptest::prelude::*;
use pukka_core::kernel::units::Ohms;
use pukka_core::kernel::wiring::Wiring;
use pukka_core::record::bench::LoadResistor;
use pukka_core::record::bench::inventory::{Stock, every_load, find, way};
use serde_json::json;

fn kind(nominal_ohm: f64, count: u32) -> LoadResistor {
    serde_json::from_value(json!({ "nominal_ohm": nominal_ohm, "count": count })).unwrap()
}

fn rated(nominal_ohm: f64, count: u32, continuous_w: f64) -> LoadResistor {
    serde_json::from_value(
        json!({ "nominal_ohm": nominal_ohm, "count": count, "continuous_w": continuous_w, "ten_second_w": 4.0 * continuous_w }),
    )
    .unwrap()
}

/// Every value that joining these resistors, all of them, two at a time, can come to.
fn joined(resistors: &[f64], into: &mut Vec<f64>) {
    if let [one] = resistors {
        into.push(*one);
        return;
    }
    for i in 0..resistors.len() {
        for j in i + 1..resistors.len() {
            for together in [resistors[i] + resistors[j], 1.0 / (1.0 / resistors[i] + 1.0 / resistors[j])] {
                let mut rest: Vec<f64> = resistors.iter().enumerate().filter(|(k, _)| *k != i && *k != j).map(|(_, r)| *r).collect();
                rest.push(together);
                joined(&rest, into);
            }
        }
    }
}

/// The naive search: every choice of up to six resistors, joined in every way.
fn naive(loads: &[LoadResistor], outputs: usize) -> Vec<f64> {
    let all: Vec<f64> = loads.iter().flat_map(|load| vec![load.ohm(); load.count as usize / outputs]).collect();
    let mut found = Vec::new();
    for choice in 1u32..1 << all.len() {
        if choice.count_ones() <= 6 {
            let chosen: Vec<f64> = all.iter().enumerate().filter(|(i, _)| choice >> i & 1 == 1).map(|(_, r)| *r).collect();
            joined(&chosen, &mut found);
        }
    }
    found.sort_by(f64::total_cmp);
    found.dedup_by(|a, b| (*a - *b).abs() <= 1e-9 * *b);
    found
}

fn same(found: &[(f64, usize)], expected: &[f64]) -> bool {
    found.len() == expected.len() && found.iter().zip(expected).all(|((ohm, _), other)| (ohm / other - 1.0).abs() < 1e-9)
}

#[test]
fn two_and_two_thirds_ohms_out_of_fours_and_eights() {
    let loads = [rated(4.0, 4, 100.0), rated(8.0, 4, 200.0)];
    let found = find(&loads, Wiring::Mono, 2.67);
    let best = &found.builds[0];
    assert_eq!((best.words.as_str(), best.parts, found.made), ("4\u{202f}Ω with 8\u{202f}Ω in parallel", 2, true));
    assert!((best.ohm.value - 8.0 / 3.0).abs() < 1e-12);
    // In parallel by conductance: 4 Ω takes two thirds, 8 Ω one third. 100/(2/3) = 150 W; 200/(1/3) = 600 W: the lesser.
    assert_eq!(
        best.shares.iter().map(|share| (share.label.as_str(), share.count, share.ratio.text.as_str())).collect::<Vec<_>>(),
        [("4\u{202f}Ω", 1, "66.7"), ("8\u{202f}Ω", 1, "33.3")]
    );
    assert!((best.continuous_w.as_ref().unwrap().value - 150.0).abs() < 1e-9);
    assert!((best.ten_second_w.as_ref().unwrap().value - 600.0).abs() < 1e-9);
    assert!(found.below.is_none() && found.above.is_none());
}

#[test]
fn of_equals_the_fewest_parts_come_first_and_what_cannot_be_made_is_bracketed() {
    let loads = [kind(4.0, 5)];
    let four = find(&loads, Wiring::Mono, 4.0);
    assert_eq!(four.builds.iter().take(2).map(|build| build.parts).collect::<Vec<_>>(), [1, 4], "one, then two by two");
    let loads = [kind(4.0, 3)];
    let three = find(&loads, Wiring::Mono, 3.0);
    assert!(!three.made);
    let (below, above) = (three.below.unwrap(), three.above.unwrap());
    assert!(below.ohm.value < 3.0 && above.ohm.value > 3.0);
    let every = every_load(&loads, Wiring::Mono);
    let nearest = |side: fn(f64) -> bool| every.iter().map(|(ohm, _)| *ohm).filter(|ohm| side(*ohm)).collect::<Vec<_>>();
    assert_eq!(below.ohm.value, *nearest(|ohm| ohm < 3.0).last().unwrap());
    assert_eq!(above.ohm.value, nearest(|ohm| ohm > 3.0)[0]);
}

#[test]
fn every_output_gets_one_at_once() {
    let loads = [kind(4.0, 4)];
    let words = |driven| find(&loads, Wiring::Channels { driven }, 2.0).builds[0].words.clone();
    assert_eq!(words(2), "2 × 4\u{202f}Ω in parallel");
    assert_eq!(words(4), "4\u{202f}Ω", "four outputs have one resistor each");
    assert!(find(&loads, Wiring::Channels { driven: 5 }, 2.0).builds.is_empty());
}

#[test]
fn a_measured_four_is_still_the_four() {
    let mut loads = [kind(4.0, 2)];
    loads[0].measured_ohm = Some(Ohms::new(3.91).unwrap());
    let found = find(&loads, Wiring::Mono, 4.0);
    assert!(found.made && found.builds[0].ohm.text == "3.91" && found.builds[0].off.text == "−2.2");
}

#[test]
fn a_rung_is_made_of_what_bears_it() {
    let loads = [rated(4.0, 8, 100.0)];
    let words = |need_w, named: Option<&str>| way(&loads, Wiring::Mono, 4.0, need_w, named).unwrap().words;
    assert_eq!(words(300.0, None), "4\u{202f}Ω");
    // Two by two, each takes a quarter: 1600 W for ten seconds.
    let four = words(1_500.0, None);
    assert!(four.matches("4\u{202f}Ω").count() >= 1 && four != "4\u{202f}Ω", "{four}");
    assert_eq!(words(90_000.0, None), "4\u{202f}Ω", "nothing takes it: the simplest, and the gate says so");
    assert_eq!(words(300.0, Some(&four)), four, "as the reviewer chose");
    assert!(way(&[rated(4.0, 3, 100.0)], Wiring::Mono, 3.0, 10.0, None).is_none() && way(&[], Wiring::Mono, 4.0, 10.0, None).is_none());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn the_same_loads_as_the_naive_search(ohms in prop::collection::vec(1u32..40, 1..4), counts in prop::collection::vec(1u32..4, 3), outputs in 1u8..3) {
        let mut distinct = ohms;
        distinct.sort_unstable();
        distinct.dedup();
        let mut left = 6;
        let loads: Vec<LoadResistor> = distinct.iter().zip(&counts).map(|(ohm, count)| {
            let count = (*count).min(left);
            left -= count;
            kind(f64::from(*ohm) / 2.0, count.max(1))
        }).take(3).collect();
        let total: u32 = loads.iter().map(|load| load.count).sum();
        prop_assume!(total <= 6);
        let wiring = Wiring::Channels { driven: outputs };
        let expected = naive(&loads, usize::from(outputs));
        prop_assert!(same(&every_load(&loads, wiring), &expected), "{:?} and {:?}", every_load(&loads, wiring), expected);
    }

    #[test]
    fn shares_add_up_and_the_weakest_resistor_is_the_limit(
        ohms in prop::collection::vec(1.0f64..16.0, 3), ratings in prop::collection::vec(20.0f64..500.0, 3), wanted in 0.5f64..20.0,
    ) {
        let loads: Vec<LoadResistor> = ohms.iter().zip(&ratings).map(|(ohm, watts)| rated((ohm * 100.0).round() / 100.0, 3, *watts)).collect();
        for build in find(&loads, Wiring::Mono, wanted).builds {
            let sum: f64 = build.shares.iter().map(|share| share.count as f64 * share.ratio.value / 100.0).sum();
            prop_assert!((sum - 1.0).abs() < 1e-9, "{}: {sum}", build.words);
            let most = build.continuous_w.as_ref().unwrap().value;
            let loaded = |share: &pukka_core::record::bench::inventory::Share| most * share.ratio.value / 100.0 / loads[share.kind].continuous_w.unwrap().get();
            let worst = build.shares.iter().map(loaded).fold(0.0, f64::max);
            prop_assert!((worst - 1.0).abs() < 1e-9, "one resistor is just at its rating");
        }
    }
}

#[test]
fn a_step_of_a_load_box_stands_beside_the_resistors_and_is_never_combined() {
    let loads = [rated(8.0, 4, 100.0)];
    let steps: Vec<Ohms> = [4.0, 2.67, 1.0].map(|ohm| Ohms::new(ohm).unwrap()).to_vec();
    let stock = Stock { loads: &loads, steps: &steps };
    let found = find(stock, Wiring::Mono, 2.67);
    assert!(found.made);
    assert_eq!(found.simplest[0].words, "step box, 2.67\u{202f}Ω");
    assert!(found.simplest[0].ten_second_w.is_none(), "what a box takes is not known");
    let half = find(stock, Wiring::Mono, 0.5);
    assert!(!half.made && half.above.as_ref().is_some_and(|above| above.words == "step box, 1\u{202f}Ω"), "{:?}", half.above);
    assert!(
        half.builds.iter().all(|build| !build.words.contains("step box") || !build.words.contains("parallel")),
        "two steps are never joined"
    );
    // Resistors that take it come before a box of which nothing is known; by name the box is taken.
    assert_eq!(way(stock, Wiring::Mono, 4.0, 10.0, None).unwrap().words, "2 × 8\u{202f}Ω in parallel");
    assert_eq!(way(stock, Wiring::Mono, 4.0, 10.0, Some("step box, 4\u{202f}Ω")).unwrap().parts, 1);
    assert_eq!(way(stock, Wiring::Mono, 1.0, 10.0, None).unwrap().words, "step box, 1\u{202f}Ω");
}
