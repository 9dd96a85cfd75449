//! What the verdict says, word for word, for sessions that differ in one thing each.

use pukka_core::assess::{Phrase, Stress, judge};
use pukka_core::kernel::units::{Amps, ClaimedWatts, Ohms};
use pukka_core::kernel::wiring::Wiring;
use pukka_core::record::amplifier::SupplyType;
use pukka_core::record::claims::{Claim, ClaimKind, Per};
use pukka_core::record::session::examples::{claim, mono_1100, run};
use pukka_core::record::session::{Incident, Mode, Run, Session};
use pukka_core::report::view::{VerdictView, view};

const MONO: Wiring = Wiring::Mono;

fn session(claims: Vec<Claim>, runs: Vec<Run>) -> Session {
    let mut session = mono_1100();
    (session.claims, session.runs) = (claims, runs);
    session
}

fn certified(id: &str, load: f64, power: f64, volts: f64) -> Run {
    run(id, MONO, load, Mode::Certified, power, Some(volts))
}

fn plain(text: &str) -> String {
    text.replace(['\u{202f}', '\u{a0}'], " ")
}

fn says(session: &Session) -> String {
    let view = view(session);
    let joined = |phrases: &[Phrase]| phrases.iter().map(|phrase| phrase.text.as_str()).collect::<String>();
    let (heading, detail) = (joined(&view.heading), joined(&view.phrases));
    assert!((1..=16).contains(&heading.split(' ').count()), "a heading of sixteen words at most: {heading}");
    let sentence = judge(session).sentence;
    let ends: Vec<&str> = [detail.as_str(), view.to_know.as_str()].into_iter().filter(|part| !part.is_empty()).collect();
    assert!(sentence.ends_with(&ends.join(" ")), "the page and the command line say the same");
    // On the page the word over all stands above the heading; in the sentence it leads.
    assert!(sentence.to_lowercase().contains(&heading.to_lowercase()), "{heading} and {sentence}");
    plain(sentence.strip_suffix(&view.to_know).unwrap_or(&sentence).trim_end())
}

fn two_claims() -> Vec<Claim> {
    vec![claim("c1", MONO, 4.0, 450.0), claim("c2", MONO, 2.0, 780.0)]
}

#[test]
fn everything_holds_as_read_brought_or_within() {
    let as_read = session(two_claims(), vec![certified("a", 4.0, 455.0, 14.4), certified("b", 2.0, 790.0, 14.4)]);
    assert_eq!(says(&as_read), "It does what the box says. Both claims hold on clean power, as read.");
    let within = session(two_claims(), vec![certified("a", 4.0, 447.0, 14.4), certified("b", 2.0, 790.0, 14.4)]);
    assert_eq!(says(&within), "It does what the box says. Both claims hold on clean power, within what the meters can tell.");
    let sagged = session(two_claims(), vec![certified("a", 4.0, 440.0, 14.0), certified("b", 2.0, 790.0, 14.4)]);
    assert_eq!(says(&sagged), "It does what the box says. Both claims hold on clean power once the bench’s sag is allowed for.");
    let high = session(two_claims(), vec![certified("a", 4.0, 470.0, 14.6), certified("b", 2.0, 810.0, 14.6)]);
    assert_eq!(says(&high), "It does what the box says. Both claims hold on clean power, brought to the claim’s voltage.");
    let one = session(vec![claim("c1", MONO, 4.0, 450.0)], vec![certified("a", 4.0, 455.0, 14.4)]);
    assert_eq!(says(&one), "It does what the box says. Its one claim holds on clean power, as read.");
}

#[test]
fn beaten_claims() {
    let beaten = session(two_claims(), vec![certified("a", 4.0, 500.0, 14.4), certified("b", 2.0, 900.0, 14.4)]);
    assert_eq!(says(&beaten), "It gives more than it says. Both claims are beaten on clean power.");
}

#[test]
fn where_it_falls_short_by_how_much_and_how_it_gets_there() {
    let near = session(two_claims(), vec![certified("a", 4.0, 455.0, 14.4), certified("b", 2.0, 750.0, 14.4)]);
    assert_eq!(says(&near), "Near enough: 750 W of 780 W into 2 Ω, 3.8 % short. The other claim holds.");
    let mut clipping = session(two_claims(), vec![certified("a", 4.0, 455.0, 14.4), certified("b", 2.0, 690.0, 14.2)]);
    clipping.runs.push(run("d", MONO, 2.0, Mode::Dynamic, 900.0, Some(14.4)));
    assert_eq!(
        says(&clipping),
        "Optimistic: 710 W of 780 W into 2 Ω, 9.0 % short. That is brought to the printed 14.4 V: 690 W was read at 14.20 V. It gets there only in bursts. The other claim holds."
    );
    clipping.runs.push(run("c", MONO, 2.0, Mode::Clipping, 790.0, Some(14.4)));
    assert!(says(&clipping).contains("gets there only by clipping"), "clean past the limit comes before bursts");
    let both = session(two_claims(), vec![certified("a", 4.0, 200.0, 14.4), certified("b", 2.0, 300.0, 14.4)]);
    assert_eq!(
        says(&both),
        "A tall tale: clean power falls 56 to 62 % short on two claims. 200 W of 450 W into 4 Ω, 55.6 % short. 300 W of 780 W into 2 Ω, 61.5 % short."
    );
    let stresses: Vec<Stress> = view(&both).heading.iter().map(|phrase| phrase.stress).collect();
    assert_eq!(stresses, [Stress::Failed], "what is false is marked, not the whole paragraph");
}

#[test]
fn at_most_when_only_a_clipping_run_is_there() {
    let bound = session(vec![claim("c1", MONO, 1.0, 1_000.0)], vec![run("c", MONO, 1.0, Mode::Clipping, 800.0, Some(14.4))]);
    assert_eq!(says(&bound), "Optimistic: at most 800 W of 1 000 W into 1 Ω, 20.0 % short.");
    assert_eq!(view(&bound).rows[0].outcome_words, "Short, at most");
}

#[test]
fn why_it_is_still_open() {
    assert_eq!(says(&session(Vec::new(), Vec::new())), "No claims and no runs yet.");
    let untested = session(two_claims(), vec![certified("a", 4.0, 455.0, 14.4)]);
    assert_eq!(says(&untested), "Open: 780 W into 2 Ω has not been tested. So far one of two claims holds.");
    let sagging = session(two_claims(), vec![certified("b", 2.0, 700.0, 13.2)]);
    assert_eq!(
        says(&sagging),
        "Open: the bench limited it; 780 W into 2 Ω cannot be settled. It ended at 13.20 V, more than 1 V below 14.4 V; at that voltage it gives 700 to 833 W."
    );
    let high = session(two_claims(), vec![certified("b", 2.0, 850.0, 15.6)]);
    assert_eq!(
        says(&high),
        "Open: the bench voltage was too high; 780 W into 2 Ω cannot be settled. It ended at 15.60 V, more than 1 V above 14.4 V; at that voltage it gives 724 to 850 W."
    );
    let mut unknown = session(two_claims(), vec![certified("b", 2.0, 740.0, 13.9), certified("a", 4.0, 300.0, 14.4)]);
    unknown.amplifier.supply_type = SupplyType::Unknown;
    assert_eq!(
        says(&unknown),
        "Open: 780 W into 2 Ω depends on whether its supply is regulated, which is unknown. 300 W of 450 W into 4 Ω, 33.3 % short. A doubt stands open on the run behind 450 W into 4 Ω: more than the load allows."
    );
}

#[test]
fn max_claims_beside_ratings_and_alone() {
    let max = |power: f64| Claim {
        kind: ClaimKind::Max,
        wiring: None,
        load_ohm: None,
        per: Per::Total,
        power_w: Some(ClaimedWatts::new(power).unwrap()),
        ..claim("m", MONO, 4.0, power)
    };
    let mut beside = session(two_claims(), vec![certified("a", 4.0, 455.0, 14.4), certified("b", 2.0, 790.0, 14.4)]);
    beside.claims.push(max(2_000.0));
    assert_eq!(
        says(&beside),
        "Optimistic: both claims hold on clean power. The 2 000 W it advertises as “max” was not reached in any mode: 790 W was the most."
    );
    let alone = session(vec![max(700.0)], vec![run("d", MONO, 2.0, Mode::Dynamic, 720.0, None)]);
    assert_eq!(
        says(&alone),
        "It reaches what it advertises. It states no continuous rating. Its one claim is reached in one mode or another."
    );
    // The commonest cheap claim: one figure, no load, said once.
    let cheap = session(vec![max(1_500.0)], vec![certified("a", 4.0, 180.0, 14.4), run("c", MONO, 4.0, Mode::Clipping, 280.0, Some(14.2))]);
    assert_eq!(says(&cheap), "A tall tale: 280 W, clipping, of 1 500 W “max”.");
}

#[test]
fn what_fits_only_as_a_total_is_offered() {
    let mut four = session(
        vec![claim("c1", Wiring::Channels { driven: 4 }, 4.0, 400.0)],
        vec![run("a", Wiring::Channels { driven: 4 }, 4.0, Mode::Certified, 105.0, Some(14.4))],
    );
    four.amplifier.channels = 4;
    assert_eq!(
        says(&four),
        "A tall tale: 105 W × 4 of 400 W × 4 into 4 Ω with 4 channels driven, 73.8 % short. Read as a total instead of per output, the figure would fit."
    );
    let row = &view(&four).rows[0];
    assert_eq!(row.remarks, ["400\u{202f}W would fit as the total"]);
    assert_eq!(row.under, ["claim 1\u{202f}600\u{202f}W", "4 channels"]);
}

#[test]
fn a_death_is_not_left_out() {
    let mut dead = session(two_claims(), vec![certified("a", 4.0, 455.0, 14.4), certified("b", 2.0, 790.0, 14.4)]);
    let mut last = run("d", MONO, 1.33, Mode::Dynamic, 900.0, Some(14.2));
    last.incident = Some(Incident::Died);
    dead.runs.push(last);
    assert_eq!(
        says(&dead),
        "It died in a burst at 1.33 Ω, on 14.6 V. It does what the box says. Both claims hold on clean power, as read.",
        "a death leads"
    );
    dead.amplifier.floors[0].load_ohm = Ohms::new(2.0).unwrap();
    assert!(says(&dead).starts_with("It died in a burst at 1.33 Ω, below its 2 Ω floor, on 14.6 V."), "{}", says(&dead));
}

#[test]
fn what_waits_what_nobody_read_and_what_is_disputed() {
    let mut waiting = session(two_claims(), vec![certified("a", 4.0, 455.0, 14.4), certified("b", 2.0, 790.0, 14.4)]);
    waiting.runs[1].ungated = true;
    assert_eq!(
        says(&waiting),
        "Open: the run for 780 W into 2 Ω is still unresolved. Until then no other run replaces it. So far one of two claims holds."
    );
    let mut unread = session(two_claims(), vec![certified("a", 4.0, 455.0, 14.4), certified("b", 2.0, 740.0, 14.4)]);
    unread.runs[1].end_v = None;
    assert_eq!(
        says(&unread),
        "Open: 780 W into 2 Ω depends on supply volts that were not read. Depending on the supply, it gives 720 to 894 W at 14.4 V. So far one of two claims holds."
    );
    // 455 W into 4 Ω and 1 000 W into 2 Ω: 2.2 times, where the loads allow 2.
    let doubted = session(two_claims(), vec![certified("a", 4.0, 455.0, 14.4), certified("b", 2.0, 1_000.0, 14.4)]);
    assert_eq!(
        says(&doubted),
        "It does what the box says. Both claims hold on clean power, as read. A doubt stands open on the runs behind 450 W into 4 Ω and 780 W into 2 Ω: more than the load allows."
    );
    let mut charged = session(two_claims(), vec![certified("a", 4.0, 455.0, 14.4), certified("b", 2.0, 790.0, 14.4)]);
    charged.runs[0].charger_on = Some(true);
    assert!(says(&charged).contains("The charger was on for a run it stands on"), "{}", says(&charged));
}

#[test]
fn what_it_makes_without_a_claim_and_beyond_its_rating() {
    let mut bare = session(Vec::new(), vec![certified("a", 4.0, 455.0, 14.4), certified("b", 2.0, 790.0, 14.4)]);
    bare.runs.push(run("c", MONO, 2.0, Mode::Clipping, 850.0, Some(14.2)));
    bare.runs.push(certified("d", 0.5, 1_500.0, 13.8));
    assert_eq!(
        says(&bare),
        "It makes 790 W into 2 Ω, clean. The most in any mode is 850 W into 2 Ω, clipping. Beyond its rating, below the floor: 1 500 W into 0.5 Ω, clean."
    );
    assert!(view(&bare).tell.iter().all(|tell| !tell.says.contains("0.5")), "and in no figure of merit");
}

fn basis(change: impl FnOnce(&mut Session)) -> String {
    let mut session = session(two_claims(), vec![certified("a", 4.0, 447.0, 14.38), certified("b", 2.0, 771.0, 14.19)]);
    change(&mut session);
    plain(&view(&session).basis)
}

#[test]
fn the_line_under_it_says_what_it_stands_on() {
    assert_eq!(
        basis(|_| {}),
        "Rated at 14.4 V; the supply ended at 14.19 to 14.38 V. Unregulated supply, so readings are also brought to the claim’s voltage. Watts ± 1.2 % at most, k = 2."
    );
    assert!(basis(|s| s.amplifier.supply_type = SupplyType::Regulated).contains("readings count as read within a volt"));
    assert!(basis(|s| s.amplifier.supply_type = SupplyType::Unknown).contains("the true figure is between"));
    let none = basis(|s| s.runs.iter_mut().for_each(|run| run.end_v = None));
    assert_eq!(none, "Rated at 14.4 V. Watts ± 1.2 % at most, k = 2.");
    assert!(basis(|s| s.bench.meters.clear()).contains("Watts ± 2.3 % at most"), "wider without a meter's own limits");
    assert_eq!(
        basis(|s| s.claims[0].supply_v = Some(pukka_core::kernel::units::Volts::new(13.8).unwrap())).split(';').next(),
        Some("Rated at 13.8 V and 14.4 V")
    );
}

fn told(view: &VerdictView) -> Vec<String> {
    view.tell.iter().map(|tell| plain(&tell.says)).collect()
}

#[test]
fn what_to_tell_an_audience_is_computed_at_the_load_with_the_most_clean_power() {
    let mut session = session(two_claims(), vec![certified("a", 4.0, 455.0, 14.4), certified("b", 2.0, 790.0, 14.4)]);
    session.runs.push(run("d", MONO, 2.0, Mode::Dynamic, 1_200.0, Some(14.5)));
    session.runs[1].current_a = Some(Amps::new(80.0).unwrap());
    let view_ = view(&session);
    assert_eq!(
        told(&view_),
        [
            "£0.18 a watt of clean power at 2 Ω: 5.68 W for £1.",
            "At 2 Ω it turns 68.6 % of its draw into output and 362 W as heat.",
            "+1.82 dB of burst headroom at 2 Ω, +0.06 dB of it because the supply was higher: peaks have room that a long tone does not.",
            "Its fuses had 76.2 % of their rating to carry at 2 Ω."
        ]
    );
    assert!(view_.tell.iter().all(|tell| tell.says.contains(&tell.figure.text)), "the figure stands in its sentence, so that it opens");
    session.amplifier.price = None;
    session.amplifier.fuses_a.clear();
    assert_eq!(told(&view(&session)).len(), 2);
}

#[test]
fn an_equivalent_and_what_the_claim_leaves_out_are_said_beside_the_outcome() {
    let mut session = session(
        vec![claim("c1", Wiring::Channels { driven: 2 }, 2.0, 300.0)],
        vec![run("b", Wiring::Bridged { pairs: 1 }, 4.0, Mode::Certified, 640.0, Some(14.4))],
    );
    session.amplifier.channels = 2;
    session.claims[0].supply_v = None;
    session.claims[0].kind = ClaimKind::Unstated;
    let row = &view(&session).rows[0];
    assert_eq!(
        row.remarks,
        [
            "no voltage printed: judged at 14.4 V",
            "kind not stated: judged as rms",
            "by bridging: a run with the same load on every channel"
        ]
    );
    assert_eq!(row.under[0], "kind not stated, 600\u{202f}W");
}

#[test]
fn efficiency_is_listed_by_load_and_bursts_have_none() {
    let mut session = mono_1100();
    session.runs.retain(|run| run.mode != Mode::Certified || run.load_nominal_ohm == Ohms::new(2.0).unwrap());
    let view = view(&session);
    assert_eq!(view.loads.len(), 1);
    assert_eq!((view.loads[0].load.as_str(), view.loads[0].efficiency.as_ref().unwrap().text.as_str()), ("2\u{202f}Ω", "70.7"));
    assert_eq!(view.loads[0].heat.as_ref().map(|heat| heat.text.as_str()), Some("320"));
}

#[test]
fn what_else_there_is_to_know_balance_fade_and_bass() {
    let two = Wiring::Channels { driven: 2 };
    let at = |id: &str, watts: f64, hz: f64| {
        let mut one = run(id, two, 4.0, Mode::Certified, watts, Some(14.4));
        one.tone_hz = pukka_core::kernel::units::Hertz::new(hz).unwrap();
        one
    };
    let mut session = session(vec![claim("c1", two, 4.0, 100.0)], vec![at("mid", 110.0, 1_000.0), at("low", 96.0, 40.0)]);
    session.amplifier.channels = 2;
    let weak = pukka_core::kernel::units::Watts::new(95.0).unwrap();
    session.runs[0].outputs.push(pukka_core::record::session::OutputReading {
        power_w: Some(weak),
        name: Some("left".into()),
        ..Default::default()
    });
    session.runs[0].hold = serde_json::from_value(serde_json::json!({ "seconds": 60.0, "outputs": [{ "power_w": 90.0 }] })).unwrap();
    let said = told(&view(&session));
    // 10·log10(110/95) = 0.637 dB; held: 2 × 90 W of 205 W, −0.565 dB; bass: 2 × 96 W of 205 W, −0.285 dB
    assert!(said.contains(&"Its channels differ by +0.64 dB at 4 Ω: output left is the weakest.".to_owned()), "{said:?}");
    assert!(said.contains(&"Held for 60 s at 4 Ω, its power moved by −0.56 dB.".to_owned()), "{said:?}");
    assert!(said.contains(&"At 40 Hz it makes −0.28 dB against 1 kHz, into 4 Ω.".to_owned()), "{said:?}");
    let known = plain(&view(&session).to_know);
    assert!(known.contains("output left is the weakest") && known.contains("−0.56 dB") && !known.contains("1 kHz"), "{known}");
}

#[test]
fn how_far_it_gets_past_the_limit_when_that_is_short_too() {
    let mut short = session(two_claims(), vec![certified("a", 4.0, 455.0, 14.4), certified("b", 2.0, 690.0, 14.4)]);
    short.runs.push(run("c", MONO, 2.0, Mode::Clipping, 730.0, Some(14.4)));
    assert_eq!(says(&short), "Optimistic: 690 W of 780 W into 2 Ω, 11.5 % short. Even clipping it gives 730 W. The other claim holds.");
}
