use proptest::prelude::*;

use super::*;
use crate::kernel::wiring::Wiring;
use crate::record::claims::{ClaimKind, Per};

fn watts(claim: &Claim) -> String {
    let each: Vec<String> = claim.power_w.iter().chain(&claim.group_power_w).map(|w| w.get().to_string()).collect();
    each.join("+")
}

/// A claim in one short line: wiring, load, watts, kind, supply, distortion, tone.
fn short(claim: &Claim) -> String {
    let or_dash = |value: Option<String>| value.unwrap_or_else(|| "-".into());
    [
        or_dash(claim.wiring.map(Wiring::key)),
        or_dash(claim.load_ohm.map(|load| format!("{}R", load.get()))),
        format!("{}W{}", watts(claim), if claim.per == Per::Total { "t" } else { "" }),
        match claim.kind {
            ClaimKind::Rms => "rms",
            ClaimKind::Max => "max",
            ClaimKind::Unstated => "?",
        }
        .into(),
        or_dash(claim.supply_v.map(|v| format!("{}V", v.get()))),
        or_dash(claim.thd_limit_ratio.map(|t| format!("{}%", (t.get() * 1e9).round() / 1e7))),
        or_dash(claim.tone_hz.map(|t| format!("{}Hz", t.get()))),
    ]
    .join(" ")
}

fn answer(pasted: &PasteResult) -> String {
    let claims: Vec<String> =
        pasted.claims.iter().map(|line| short(&line.claim) + if line.ask.is_some() { " (asked)" } else { "" }).collect();
    let facts: Vec<String> = pasted.facts.iter().map(|fact| format!("+ {}", fact.words.replace('\u{202f}', " "))).collect();
    if claims.is_empty() && facts.is_empty() {
        return if pasted.not_understood.is_empty() { "heading" } else { "nothing" }.into();
    }
    let unread: Vec<String> = pasted.not_understood.iter().map(|piece| format!("? {piece}")).collect();
    [claims.join("; ")].into_iter().filter(|claims| !claims.is_empty()).chain(facts).chain(unread).collect::<Vec<_>>().join(" ")
}

/// Texts by kind; a line of a text ends at ⏎.
const CORPUS: [(&str, &str); 6] = [
    ("lines", include_str!("corpus/lines.txt")),
    ("sentences", include_str!("corpus/sentences.txt")),
    ("units", include_str!("corpus/units.txt")),
    ("blocks", include_str!("corpus/blocks.txt")),
    ("facts", include_str!("corpus/facts.txt")),
    ("other tongues", include_str!("corpus/other_tongues.txt")),
];

#[test]
fn every_text_of_the_corpus_is_read_whole() {
    let (mut wrong, mut count) = (Vec::new(), 0);
    for (kind, file) in CORPUS {
        for (n, line) in file.lines().enumerate().filter(|(_, line)| !line.is_empty() && !line.starts_with("# ")) {
            let (text, expected) = line.split_once(" => ").unwrap_or_else(|| panic!("{kind}, line {}: no =>", n + 1));
            count += 1;
            let found = answer(&paste(&text.replace(" ⏎ ", "\n"), None));
            if found != expected {
                wrong.push(format!("{kind} {}: {text}\n   expected {expected}\n      found {found}", n + 1));
            }
        }
    }
    assert!(count >= 150, "{count} texts are too few");
    assert!(wrong.is_empty(), "{} of {count} wrong\n{}", wrong.len(), wrong.join("\n"));
}

#[test]
fn headings_hold_for_the_lines_below_them() {
    let pasted =
        paste("Continuous power (14.4 V, 1 % THD+N)\n4 Ω: 4 x 90 W\n2 Ω: 4 x 140 W\nBridged\n4 Ω: 2 x 280 W\n\nColour: black", None);
    let found: Vec<String> = pasted.claims.iter().map(|p| short(&p.claim)).collect();
    assert_eq!(found, ["channels-4 4R 90W rms 14.4V 1% -", "channels-4 2R 140W rms 14.4V 1% -", "bridged-2 4R 280W rms 14.4V 1% -"]);
    assert_eq!(pasted.not_understood, ["Colour: black"]);
    assert_eq!(pasted.claims[1].text, "2 Ω: 4 x 140 W");
}

#[test]
fn a_max_figure_does_not_take_the_conditions_of_the_ratings_above_it() {
    let pasted = paste("RMS power (14.4 V, 1 % THD+N)\n4 Ω: 4 x 90 W\nMAX POWER 1400 WATTS", None);
    let found: Vec<String> = pasted.claims.iter().map(|p| short(&p.claim)).collect();
    assert_eq!(found, ["channels-4 4R 90W rms 14.4V 1% -", "- - 1400Wt max - - -"]);
}

#[test]
fn the_columns_of_a_table() {
    let pasted =
        paste("            4 Ω      2 Ω      1 Ω\nRMS         450 W    780 W    1,100 W\nMax         900 W    1,560 W  2,200 W", Some(1));
    let found: Vec<String> = pasted.claims.iter().map(|p| short(&p.claim)).collect();
    assert_eq!(found[..3], ["mono 4R 450W rms - - -", "mono 2R 780W rms - - -", "mono 1R 1100W rms - - -"]);
    assert_eq!(found[5], "mono 1R 2200W max - - -");
}

#[test]
fn the_amplifier_says_how_many_channels_when_the_line_does_not() {
    let one = |text, channels| paste(text, channels).claims.first().map(|p| short(&p.claim)).unwrap_or_default();
    assert_eq!(one("75 W per channel into 4 ohms", Some(4)), "channels-4 4R 75W ? - - -");
    assert_eq!(one("300 W mono into 4 ohms RMS", Some(2)), "bridged-1 4R 300W rms - - -");
    assert_eq!(one("300 W mono into 4 ohms RMS", Some(1)), "mono 4R 300W rms - - -");
    assert_eq!(
        paste("4-channel amplifier\nRMS power at 4 ohms: 90 W per channel", None).claims[0].claim.wiring,
        Some(Wiring::Channels { driven: 4 })
    );
}

#[test]
fn figures_joined_by_a_plus_are_driven_at_once() {
    let first = |text: &str, channels| {
        let pasted = paste(text, channels);
        let line = pasted.claims.first().map(|line| (short(&line.claim), line.ask.is_some()));
        (pasted.claims.len(), line.unwrap_or_default())
    };
    let three = |text| first(text, Some(4));
    let bridged = (1, ("mixed~channels-2-4~bridged-1-4 4R 75+300W rms - - -".to_owned(), true));
    assert_eq!(three("75 W x 2 + 300 W x 1 @ 4 ohms RMS"), bridged, "four channels, and one is left over");
    assert_eq!(three("RMS: 2 x 75 W + 1 x 300 W at 4 Ω"), bridged);
    let five = "mixed~channels-4-4~channels-1-2 4R 75+350W rms 14.4V - -".to_owned();
    assert_eq!(first("75 W x 4 @ 4 Ω + 350 W x 1 @ 2 Ω RMS at 14.4 V", Some(5)), (1, (five.clone(), false)));
    assert_eq!(first("75 W x 4 @ 4 Ω + 350 W x 1 @ 2 Ω RMS at 14.4 V", None), (1, (five, true)), "how many it has is not known");
    assert_eq!(first("75 W x 4 @ 4 Ω + 110 W x 4 @ 2 Ω RMS", Some(4)).0, 2, "eight channels are not there: two lines");
    assert_eq!(first("75 W x 4 @ 4 Ω (1 % THD+N), 350 W x 1 @ 2 Ω", Some(5)).0, 2, "no plus between them");
}

#[test]
fn watts_glued_to_a_word_are_listed_whatever_else_the_line_says() {
    for line in ["10v,a1,100 W", "at 14.4 V: model7500 W", "75 W x 4 at 4 ohms. At 14.4 V, a1,100 W"] {
        assert!(!paste(line, None).not_understood.is_empty(), "{line}");
    }
    let watts = |line: &str| paste(line, None).claims.first().and_then(|read| read.claim.power_w).map(|w| w.get());
    assert_eq!(watts("10v,a0 100 W"), Some(100.0), "no thousand begins with a nought");
    assert_eq!(watts("1 100 W at 4 ohms"), Some(1_100.0));
}

#[test]
fn a_text_as_long_as_a_book_is_cut_and_nothing_panics() {
    let long = "4 x 90 W at 4 ohms\n".repeat(10_000);
    assert!(paste(&long, None).claims.len() < 2_000);
    assert_eq!(paste("", None), PasteResult::default());
}

proptest! {
    #[test]
    fn whatever_is_pasted_is_read_or_listed(text in "\\PC{0,300}") {
        let pasted = paste(&text, None);
        prop_assert!(pasted.not_understood.len() <= text.chars().count());
        prop_assert!(pasted.not_understood.iter().all(|piece| !piece.trim().is_empty()));
        prop_assert!(pasted.claims.iter().all(|p| p.claim.total_w().is_some()));
    }

    #[test]
    fn a_figure_of_watts_is_read_or_listed(before in "[a-z ,.:;/0-9]{0,40}", watts in 5u32..3_000, after in "[a-z ,.:;/0-9]{0,40}") {
        let pasted = paste(&format!("{before} {watts} W {after}"), None);
        prop_assert!(!pasted.claims.is_empty() || !pasted.not_understood.is_empty());
    }

    #[test]
    fn every_ordinary_line_reads_back(n in 1u8..8, watts in 10u32..2_000, ohm in prop::sample::select(vec!["1", "2", "4", "8", "2.67"])) {
        for line in [format!("{n} x {watts} W @ {ohm} Ω RMS"), format!("{watts}W x {n} at {ohm} ohms rms"), format!("RMS: {n}×{watts} Watt an {ohm} Ohm")] {
            let pasted = paste(&line, None);
            prop_assert_eq!(pasted.claims.len(), 1, "{}", line);
            let claim = &pasted.claims[0].claim;
            prop_assert_eq!(claim.power_w.map(|w| w.get()), Some(f64::from(watts)), "{}", line);
            prop_assert_eq!(claim.load_ohm.map(|r| r.get()), ohm.parse().ok(), "{}", line);
            prop_assert_eq!(claim.wiring.map(Wiring::outputs), Some(n), "{}", line);
        }
    }
}
