//! Which reading is wrong: the one without which load line, losses and supply agree, or several, or none.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

use pukka_core::assess::checks::check_session;
use pukka_core::assess::wrong::{Suspicion, suspicion};
use pukka_core::kernel::units::{Amps, Volts, Watts};
use pukka_core::record::session::Session;
use pukka_core::record::session::examples::mono_1100;

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
    assert!(says.starts_with("Without 74.6 A at 1 Ω, certified everything else agrees. The others expect about 140 A"), "{says}");
    // 1680 W typed for 1068 W: nearly all of the 1739 W in. The amps and the sag agree, the load line does not.
    let high = suspected(|s| s.runs[6].outputs[0].power_w = Some(Watts::new(1_680.0).unwrap())).unwrap();
    assert_eq!(named(&high), [("r7", "outputs")], "{}", high.says);
}

#[test]
fn two_wrong_readings_are_not_blamed_on_one() {
    let two = suspected(|s| {
        s.runs[6].current_a = amps(74.6);
        s.runs[0].current_a = amps(20.0);
    })
    .unwrap();
    assert_eq!(named(&two), []);
    assert!(two.says.starts_with("No one reading explains them all"), "{}", two.says);
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
