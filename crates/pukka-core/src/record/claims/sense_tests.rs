use proptest::prelude::*;

use super::*;
use crate::kernel::units::{Amps, ClaimedWatts, Volts};
use crate::record::claims::sense_view::sense_view;
use crate::record::session::examples::{claim, mono_1100};

const FOUR: Wiring = Wiring::Channels { driven: 4 };
const PAIRS: Wiring = Wiring::Bridged { pairs: 2 };

/// A class AB amplifier of four channels behind 2 × 25 A: 50 × 14.4 × 0.65 = 468 W.
fn four_ninety() -> Amplifier {
    let mut amplifier = mono_1100().amplifier;
    amplifier.class = Class::AB;
    amplifier.channels = 4;
    amplifier.fuses_a = vec![Amps::new(25.0).unwrap(); 2];
    amplifier
}

fn found(claims: &[Claim]) -> Vec<(SenseCode, Weight, String)> {
    sense_check(&four_ninety(), claims).into_iter().map(|sense| (sense.code, sense.weight, sense.word)).collect()
}

fn at(mut line: Claim, supply_v: f64) -> Claim {
    line.supply_v = Some(Volts::new(supply_v).unwrap());
    line
}

fn printed(mut line: Claim, source: &str) -> Claim {
    line.source = source.into();
    line
}

fn max(power_w: f64) -> Claim {
    Claim {
        kind: ClaimKind::Max,
        wiring: None,
        load_ohm: None,
        supply_v: None,
        per: Per::Total,
        power_w: Some(ClaimedWatts::new(power_w).unwrap()),
        ..claim("m", FOUR, 4.0, 1.0)
    }
}

#[test]
fn an_ordinary_set_of_claims_stays_quiet() {
    assert_eq!(found(&[claim("a", FOUR, 4.0, 75.0), claim("b", FOUR, 2.0, 110.0), claim("c", PAIRS, 4.0, 220.0)]), []);
    assert_eq!(sense_check(&mono_1100().amplifier, &mono_1100().claims), [], "1100 W from 105 A × 14.4 V × 0.80 = 1210 W");
}

#[test]
fn fuses_fit_strain_or_cannot() {
    let mono = |watts| found(&[claim("a", Wiring::Mono, 1.0, watts)]);
    assert_eq!(mono(468.0), [], "exactly the ceiling");
    assert_eq!(mono(480.0), [(SenseCode::Fuses, Weight::Doubt, "strains the fuses".into())]);
    assert_eq!(mono(468.0 * 1.35), [(SenseCode::Fuses, Weight::Doubt, "strains the fuses".into())], "exactly 1.35");
    assert_eq!(mono(640.0), [(SenseCode::Fuses, Weight::Unlikely, "not from 50\u{202f}A".into())]);
    let says = sense_check(&four_ninety(), &[claim("a", Wiring::Mono, 1.0, 1_404.0)]).remove(0).says.replace('\u{202f}', " ");
    assert_eq!(says, "50 A of fuse can feed about 468 W at 14.4 V; this is 3 times that.");
    let mut outside = four_ninety();
    outside.fuses_a.clear();
    assert_eq!(sense_check(&outside, &[claim("a", Wiring::Mono, 1.0, 9_000.0)]), [], "no fuse known, nothing to say");
    outside.recommended_fuse_a = Some(Amps::new(60.0).unwrap());
    assert!((ceiling_w(&outside, 14.4).unwrap() - 561.6).abs() < 1e-9, "the one outside counts when there is none on board");
    outside.output_fuses_a = vec![Amps::new(10.0).unwrap(); 4];
    assert!((ceiling_w(&outside, 14.4).unwrap() - 561.6).abs() < 1e-9, "fuses in the outputs are another thing");
}

#[test]
fn two_halves_make_a_bridge() {
    let pair = |watts| found(&[claim("a", FOUR, 2.0, 100.0), claim("b", PAIRS, 4.0, watts)]);
    assert_eq!(pair(200.0), []);
    assert_eq!(pair(180.0), [], "exactly 10 % under");
    assert_eq!(pair(220.0), [], "exactly 10 % over");
    assert_eq!(pair(179.0), [(SenseCode::Bridging, Weight::Doubt, "not with 2\u{202f}Ω".into())]);
    assert_eq!(pair(221.0), [(SenseCode::Bridging, Weight::Doubt, "not with 2\u{202f}Ω".into())]);
    let other_load = [claim("a", FOUR, 4.0, 60.0), claim("b", PAIRS, 4.0, 220.0)];
    assert_eq!(found(&other_load), [], "4 Ω bridged says nothing of 4 Ω a channel");
    let other_volts = [at(claim("a", FOUR, 2.0, 80.0), 13.0), claim("b", PAIRS, 4.0, 220.0)];
    assert_eq!(found(&other_volts), [], "nor at another voltage");
}

#[test]
fn halving_the_load_doubles_at_most() {
    let step = |low, high| found(&[claim("a", FOUR, 4.0, high), claim("b", FOUR, 2.0, low)]);
    assert_eq!(step(110.0, 55.0), []);
    assert_eq!(step(90.0, 80.0), [], "less is ordinary");
    assert_eq!(step(111.0, 55.0), [(SenseCode::LoadLine, Weight::Unlikely, "not with 4\u{202f}Ω".into())]);
    let says = sense_check(&four_ninety(), &[claim("a", FOUR, 4.0, 40.0), claim("b", FOUR, 2.0, 100.0)]).remove(0).says;
    assert_eq!(
        says.replace('\u{202f}', " "),
        "From 4 Ω to 2 Ω the same voltage makes 2.00 times the power at most; here it is 2.50 times."
    );
}

#[test]
fn a_figure_that_fits_only_as_a_total_is_offered_so_and_never_changed() {
    // 4 × 400 = 1600 W from 468 W; 400 W in total fits, and is 100 W a channel.
    let lines = [claim("a", FOUR, 4.0, 400.0)];
    assert_eq!(found(&lines), [(SenseCode::PerChannel, Weight::Unlikely, "only as a total".into())]);
    let contradicted = [claim("a", FOUR, 4.0, 400.0), claim("b", FOUR, 2.0, 110.0), claim("c", FOUR, 8.0, 40.0)];
    assert!(found(&contradicted).iter().any(|(code, ..)| *code == SenseCode::LoadLine), "400 W into 4 Ω is more than twice 40 W into 8 Ω");
    assert!(found(&contradicted).iter().all(|(code, ..)| *code != SenseCode::PerChannel));
    assert_eq!(found(&[claim("a", FOUR, 4.0, 600.0)])[0].2, "not from 50\u{202f}A", "even as a total it is too much");
}

#[test]
fn max_is_kept_and_halved() {
    let sense = sense_check(&four_ninety(), &[max(1_400.0)]);
    assert_eq!(sense.iter().map(|s| s.code).collect::<Vec<_>>(), [SenseCode::Fuses, SenseCode::Kind]);
    assert!(sense[1].says.contains("Half of it, 700\u{202f}W"), "{}", sense[1].says);
    assert_eq!(sense[0].working.assumptions, ["No supply voltage printed: 14.4 V."]);
}

#[test]
fn two_voltages_tell_the_supply() {
    let word = |low_w| found(&[at(claim("a", FOUR, 4.0, 80.0), 14.4), at(claim("b", FOUR, 4.0, low_w), 12.0)])[0].2.clone();
    // (14.4/12)² = 1.44
    assert_eq!(word(80.0 / 1.44), "unregulated");
    assert_eq!(word(80.0), "regulated");
    assert_eq!(word(80.0 / 1.2), "in between");
    assert_eq!(found(&[claim("a", FOUR, 4.0, 75.0), at(claim("b", FOUR, 2.0, 90.0), 12.0)]), [], "another load says nothing");
}

#[test]
fn sources_that_disagree_are_both_kept() {
    let mut lines = [claim("a", FOUR, 4.0, 75.0), printed(claim("b", FOUR, 4.0, 90.0), "box")];
    assert_eq!(found(&lines), [(SenseCode::SourcesDisagree, Weight::Doubt, "the box differs".into())]);
    lines[1].used = false;
    assert_eq!(found(&lines), [(SenseCode::SourcesDisagree, Weight::Note, "the box differs".into())], "settled by marking one");
    lines[1] = printed(claim("b", FOUR, 4.0, 75.0), "box");
    assert_eq!(found(&lines), []);
}

#[test]
fn rails_that_cannot_swing_so_far() {
    // √(2 × 450 × 4) = 60.0 V
    let line = claim("a", Wiring::Mono, 4.0, 450.0);
    assert_eq!(rail_parts(&line, 63.0), None);
    assert_eq!(rail_parts(&line, 60.0), None, "exactly what is needed");
    let sense = rail_parts(&line, 50.0).unwrap();
    assert_eq!(sense.says.replace('\u{202f}', " "), "450 W into 4 Ω peaks at 60.0 V, and the rail capacitors are rated 50 V.");
    let pair = claim("p", Wiring::Bridged { pairs: 1 }, 4.0, 450.0);
    assert_eq!(rail_parts(&pair, 30.0), None, "of a bridged pair each channel swings half: 30 V");
    assert!(rail_parts(&pair, 29.0).unwrap().says.contains("a channel"));
    let mut amplifier = mono_1100().amplifier;
    amplifier.inside = serde_json::from_str(r#"{"rail_capacitor_v": 50}"#).unwrap();
    assert!(sense_check(&amplifier, &[line]).iter().any(|sense| sense.code == SenseCode::RailParts));
    assert_eq!(rail_parts(&max(5_000.0), 10.0), None, "a max claim names no load");
}

proptest! {
    #[test]
    fn more_watts_never_fit_the_fuses_better(watts in 10.0f64..4_000.0, more in 1.0f64..2.0) {
        let weight = |watts| found(&[claim("a", Wiring::Mono, 2.0, watts)]).first().map_or(3, |(_, weight, _)| match weight {
            Weight::Unlikely => 1,
            Weight::Doubt => 2,
            Weight::Note => 3,
        });
        prop_assert!(weight(watts * more) <= weight(watts));
    }

    #[test]
    fn the_order_of_the_lines_does_not_change_what_is_found(order in Just(vec![0usize, 1, 2, 3]).prop_shuffle()) {
        let lines = [claim("a", FOUR, 4.0, 90.0), claim("b", FOUR, 2.0, 140.0), claim("c", PAIRS, 4.0, 210.0), max(1_400.0)];
        let shuffled: Vec<Claim> = order.iter().map(|i| lines[*i].clone()).collect();
        let mut a = found(&lines);
        let mut b = found(&shuffled);
        a.sort_by(|x, y| x.2.cmp(&y.2));
        b.sort_by(|x, y| x.2.cmp(&y.2));
        prop_assert_eq!(a, b);
    }
}

#[test]
fn the_picture_and_the_column_of_the_drawing() {
    let lines = [claim("a", FOUR, 4.0, 90.0), claim("b", FOUR, 2.0, 140.0), claim("c", PAIRS, 4.0, 210.0), max(1_400.0)];
    let view = sense_view(&four_ninety(), &lines);
    let plain = |text: &str| text.replace('\u{202f}', " ");
    let words: Vec<(String, Option<Weight>)> = view.adds_up.iter().map(|row| (plain(&row.word), row.weight)).collect();
    assert_eq!(
        words,
        [
            ("yes".into(), None),
            ("strains the fuses".into(), Some(Weight::Doubt)),
            ("not with 2 Ω".into(), Some(Weight::Doubt)),
            ("not from 50 A".into(), Some(Weight::Unlikely))
        ]
    );
    let picture = view.fuses.unwrap();
    assert_eq!(plain(&picture.title), "Can 50 A of fuse carry this?");
    assert_eq!(plain(&picture.under), "50 A × 14.4 V × 65 % for class AB.");
    let labels: Vec<String> = picture.rows.iter().map(|row| plain(&row.label)).collect();
    assert_eq!(labels, ["4 × 90 W, fits", "4 × 140 W, strains", "2 × 210 W, fits", "1 400 W “max”, 3.0 times the fuses"]);
    assert_eq!(sense_view(&four_ninety(), &[]).fuses, None);
}

#[test]
fn a_line_adds_up_only_when_something_was_there_to_check_it_by() {
    let mut amplifier = four_ninety();
    let words = |amplifier: &Amplifier, claims: &[Claim]| {
        sense_view(amplifier, claims).adds_up.into_iter().map(|line| (line.word, line.checked)).collect::<Vec<_>>()
    };
    let (high, low) = (claim("a", FOUR, 4.0, 75.0), claim("b", FOUR, 2.0, 110.0));
    assert_eq!(words(&amplifier, std::slice::from_ref(&high)), [("yes".into(), true)]);
    amplifier.fuses_a.clear();
    assert_eq!(words(&amplifier, std::slice::from_ref(&high)), [("nothing to check it against: note the fuses".into(), false)]);
    assert_eq!(words(&amplifier, &[high, low]), [("yes".into(), true), ("yes".into(), true)], "each by the other");
}

#[test]
fn a_claim_of_several_amplifiers_is_not_held_against_the_fuses_of_one() {
    let strapped = claim("a", Wiring::Strapped { amplifiers: 2 }, 2.0, 2_000.0);
    assert_eq!(found(std::slice::from_ref(&strapped)), []);
    assert_eq!(sense_view(&four_ninety(), &[strapped]).fuses, None);
}

#[test]
fn a_figure_that_is_no_more_than_another_line_is_no_total() {
    // Two channels: 250 W each into 4 Ω are 500 W; "500 W" into 2 Ω is that again only if halving the load gave nothing.
    let mut amplifier = four_ninety();
    amplifier.fuses_a = vec![Amps::new(30.0).unwrap(); 2];
    let pair = Wiring::Channels { driven: 2 };
    let lines = [claim("a", pair, 4.0, 250.0), claim("b", pair, 2.0, 500.0)];
    let codes: Vec<SenseCode> =
        sense_check(&amplifier, &lines).into_iter().filter(|sense| sense.claims[0] == "b").map(|sense| sense.code).collect();
    assert_eq!(codes, [SenseCode::Fuses]);
    // Beside 140 W each into 4 Ω it fits as the total: 250 W each.
    let lines = [claim("a", pair, 4.0, 140.0), claim("b", pair, 2.0, 500.0)];
    let codes: Vec<SenseCode> =
        sense_check(&amplifier, &lines).into_iter().filter(|sense| sense.claims[0] == "b").map(|sense| sense.code).collect();
    assert_eq!(codes, [SenseCode::PerChannel, SenseCode::LoadLine]);
}
