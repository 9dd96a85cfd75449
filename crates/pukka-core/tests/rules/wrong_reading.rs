//! Which reading is wrong: the one without which load line, losses and supply agree, or several, or none.

use pukka_core::assess::check_session;
use pukka_core::assess::wrong::{Suspicion, suspicion};
use pukka_core::kernel::units::{Amps, ClaimedWatts, Volts, VoltsRms, Watts};
use pukka_core::record::session::examples::mono_1100;
use pukka_core::record::session::{ReadingName, Session};

fn suspected(change: impl FnOnce(&mut Session)) -> Option<Suspicion> {
    let mut session = mono_1100();
    change(&mut session);
    suspicion(&session, &check_session(&session))
}

fn named(suspicion: &Suspicion) -> Vec<(&str, &str)> {
    suspicion.readings.iter().map(|one| (one.run_id.as_str(), one.reading.word())).collect()
}

fn amps(value: f64) -> Option<Amps> {
    Some(Amps::new(value).unwrap())
}

#[test]
fn a_session_without_a_doubtful_reading_asks_nothing() {
    assert_eq!(suspected(|_| {}), None, "fuses and sag are no reading's fault");
}

#[test]
fn amps_that_cannot_be_are_told_from_watts_that_cannot_be() {
    // 74.6 A for 124.6 A: 1068 W out of 1041 W in. Watts and load line agree, the sag does not go with so few amps.
    let low = suspected(|s| s.runs[6].current_a = amps(74.6)).unwrap();
    assert_eq!(named(&low), [("r7", "current_a")], "{}", low.says);
    let says = low.says.replace('\u{202f}', " ");
    assert!(says.starts_with("Without 74.6 A at 1 Ω, certified everything else agrees. The others expect about 130 A"), "{says}");
    // 1680 W typed for 1068 W: nearly all of the 1739 W in. The amps and the sag agree, the load line does not.
    let high = suspected(|s| s.runs[6].outputs[0].power_w = Some(Watts::new(1_680.0).unwrap())).unwrap();
    assert_eq!(named(&high), [("r7", "outputs")], "{}", high.says);
}

/// The same bench, of an amplifier with two channels that share what the one gave.
fn of_two_channels(session: &mut Session) {
    let both = pukka_core::kernel::wiring::Wiring::Channels { driven: 2 };
    let half = |watts: Watts| Watts::new(watts.get() / 2.0).unwrap();
    session.amplifier.channels = 2;
    for claim in &mut session.claims {
        (claim.wiring, claim.power_w) = (Some(both), claim.power_w.map(|watts| ClaimedWatts::new(watts.get() / 2.0).unwrap()));
    }
    session.plan.rungs.iter_mut().for_each(|rung| rung.wiring = both);
    for run in &mut session.runs {
        run.wiring = both;
        run.outputs[0].power_w = run.outputs[0].power_w.map(half);
        run.outputs.push(run.outputs[0].clone());
    }
}

#[test]
fn of_several_outputs_likewise() {
    let low = suspected(|s| {
        of_two_channels(s);
        s.runs[6].current_a = amps(74.6);
    })
    .unwrap();
    assert_eq!(named(&low), [("r7", "current_a")], "{}", low.says);
    let high = suspected(|s| {
        of_two_channels(s);
        s.runs[6].outputs.iter_mut().for_each(|output| output.power_w = Some(Watts::new(840.0).unwrap()));
    })
    .unwrap();
    assert_eq!(named(&high), [("r7", "outputs")], "{}", high.says);
}

#[test]
fn volts_at_rest_that_leave_no_sag() {
    // 14.05 V typed for 14.6 at rest: 0.09 V of sag at 125 A, where the other runs make it 0.64 V.
    let flat = suspected(|s| s.runs[6].rest_v = Some(Volts::new(14.05).unwrap())).unwrap();
    assert!(named(&flat).contains(&("r7", "rest_v")), "{}", flat.says);
}

#[test]
fn two_wrong_readings_are_not_blamed_on_one() {
    let two = suspected(|s| {
        s.runs[6].current_a = amps(74.6);
        s.runs[0].current_a = amps(20.0);
    })
    .unwrap();
    assert_eq!(named(&two), []);
    assert!(two.says.starts_with("No single reading explains them all"), "{}", two.says);
    assert!(two.tried >= 6);
}

#[test]
fn what_the_session_cannot_tell_apart_is_said_so() {
    // One run alone has nothing to agree with but itself: amps, volts or watts may be wrong.
    let alone = suspected(|s| {
        s.runs.truncate(1);
        s.runs[0].end_v = Some(Volts::new(14.7).unwrap());
    })
    .unwrap();
    assert!(alone.readings.len() > 1 && alone.says.contains("cannot tell which"), "{alone:?}");
    assert!(named(&alone).contains(&("r1", "rest_v")) && named(&alone).contains(&("r1", "end_v")));
}

#[test]
fn a_check_that_was_accepted_asks_no_more() {
    let settled = suspected(|s| {
        s.runs[6].current_a = amps(74.6);
        for code in ["over-unity", "efficiency-rises", "class-ceiling", "digit-slip", "sag-too-small"] {
            s.runs[6].accepted.push(pukka_core::record::session::Acceptance { code: code.into(), reason: "clamp seen".into() });
        }
    });
    assert_eq!(settled, None);
}

#[test]
fn watts_alone_are_left_out_as_outputs_and_beside_volts_each_by_itself() {
    // 30 A where about 41 were drawn: more out than in. Watts alone are one reading, with volts beside them two.
    let alone = suspected(|s| {
        s.runs.truncate(1);
        s.runs[0].current_a = amps(30.0);
    })
    .unwrap();
    assert_eq!(alone.tried, 4, "outputs, amps, end and rest");
    let both = suspected(|s| {
        s.runs.truncate(1);
        s.runs[0].current_a = amps(30.0);
        s.runs[0].outputs[0].volts_rms = Some(VoltsRms::new(41.8).unwrap());
    })
    .unwrap();
    assert_eq!(both.tried, 5, "watts, volts, amps, end and rest");
}

#[test]
fn volts_that_cannot_be_are_named_with_what_the_supply_would_have_had() {
    // 15.2 V at the end of the 1 Ω run, above its rest: by the other runs' resistance it ended at 14.6 less 0.64 V.
    let high = suspected(|s| s.runs[6].end_v = Some(Volts::new(15.2).unwrap())).unwrap();
    let end = high.readings.iter().find(|one| one.reading.word() == "end_v").unwrap();
    let expected: f64 = end.expected.as_ref().unwrap().replace("\u{202f}V", "").parse().unwrap();
    assert!((expected - 14.0).abs() < 0.15, "{expected}");
    assert_eq!(end.words.replace('\u{202f}', " "), "15.2 V at 1 Ω, certified");
}

#[test]
fn what_was_struck_before_is_still_shown_as_it_was_read() {
    // The watts of the suspected run were struck by hand: left out, its amps are named with the figure that was read.
    let doubted = suspected(|s| {
        s.runs[6].current_a = amps(74.6);
        s.runs[6].struck.push(ReadingName::Distortion);
    })
    .unwrap();
    assert!(doubted.says.contains("74.6"), "{}", doubted.says);
    let outputs = suspected(|s| s.runs[6].outputs[0].power_w = Some(Watts::new(1_680.0).unwrap())).unwrap();
    assert_eq!(outputs.readings[0].words.replace('\u{202f}', " "), "1 680 W at 1 Ω, certified", "left out, and shown all the same");
}

#[test]
fn watts_inside_their_band_beside_amps_outside_of_theirs_are_the_amps() {
    // The first run: only the claims expect something. 26 A typed for 62: more comes out than goes in, and any of the three could
    // be wrong by that alone.
    let found = suspected(|s| {
        s.runs.truncate(1);
        s.runs[0].current_a = amps(26.0);
    })
    .unwrap();
    assert_eq!(named(&found), [("r1", "current_a")], "{}", found.says);
    // A second meter that agrees on the amps leaves the watts.
    let watts = suspected(|s| {
        s.runs.truncate(1);
        s.runs[0].outputs[0].power_w = Some(Watts::new(744.0).unwrap());
        s.runs[0].supply_also = serde_json::from_value(serde_json::json!([{ "current_a": 41.1 }])).unwrap();
    })
    .unwrap();
    assert_eq!(named(&watts), [("r1", "outputs")], "{}", watts.says);
}
