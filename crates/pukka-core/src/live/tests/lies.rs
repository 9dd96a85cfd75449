//! Meters that do not tell the truth. No case climbs more than 3 dB after the fault begins, and none is called done.

use super::*;
use crate::instruments::Role;

/// Drives a ramp whose meters lie from a level on. Gives how it ended, how far it climbed past that level, and its figure.
fn lying(from_db: f64, mut lie: impl FnMut(&mut Round, &Round)) -> (Ending, f64, f64) {
    let mut last_true = None;
    let driven = HONEST.drive(ramp(), |round| {
        if round.level_db.is_some_and(|level| level.get() >= from_db) {
            let before = last_true.clone().unwrap_or_else(|| round.clone());
            lie(round, &before);
        } else {
            last_true = Some(round.clone());
        }
    });
    let (climbed, watts) = (driven.top_db() - from_db, driven.watts());
    (driven.ended, climbed, watts)
}

#[test]
fn a_frozen_analyser_from_any_level() {
    for from_db in [-40.0, -30.0, -20.0, -10.0, -6.0, -4.0] {
        let mut held: Option<Round> = None;
        let (ended, climbed, watts) = lying(from_db, |round, _| {
            let first = held.get_or_insert_with(|| round.clone());
            (round.power_w, round.thd_ratio) = (first.power_w.clone(), first.thd_ratio);
        });
        assert!(
            matches!(ended, Ending::Stopped { why: Stop::Frozen | Stop::NotFollowing | Stop::AmpsWithoutWatts }),
            "{from_db}: {ended:?}"
        );
        assert!(climbed <= 3.0, "{from_db}: {climbed} dB");
        assert!(watts <= HONEST.watts(from_db) * 1.001, "{from_db}: nothing false is kept: {watts}");
    }
}

#[test]
fn an_analyser_frozen_at_nothing_and_one_that_hears_nothing() {
    let (ended, climbed, _) = lying(-40.0, |round, _| (round.power_w, round.thd_ratio) = (vec![0.0], Some(0.053)));
    assert_eq!(ended, stopped(Stop::Frozen));
    assert!(climbed <= 3.0, "{climbed}");
    let mut n = 0.0;
    let (ended, climbed, watts) = lying(-40.0, |round, _| {
        n += 1.0;
        (round.power_w, round.thd_ratio) = (vec![0.0], Some(0.004 + 1e-7 * n));
    });
    assert_eq!((ended, watts), (stopped(Stop::Silent), 0.0));
    assert!(climbed <= 20.0, "the level stays 20 dB below what would be loud: {climbed}");
}

#[test]
fn watts_that_do_not_follow_the_level() {
    for from_db in [-30.0, -20.0, -8.0] {
        let mut n = 0.0;
        let (ended, climbed, _) = lying(from_db, |round, before| {
            n += 1.0;
            round.power_w = before.power_w.iter().map(|watts| watts * (1.0 + 1e-6 * n)).collect();
            round.supply_a = before.supply_a;
        });
        assert_eq!(ended, stopped(Stop::NotFollowing), "{from_db}");
        assert!(climbed <= 3.0, "{climbed}");
    }
}

#[test]
fn amps_that_rise_without_watts() {
    let mut n = 0.0;
    let (ended, climbed, _) = lying(-8.0, |round, before| {
        n += 1.0;
        round.power_w = before.power_w.iter().map(|watts| watts * (1.0 + 1e-6 * n)).collect();
        // Above a fifth of the limit the level rule says nothing.
        round.thd_ratio = Some(0.004 + 1e-7 * n);
    });
    assert_eq!(ended, stopped(Stop::AmpsWithoutWatts));
    assert!(climbed <= 3.0, "{climbed}");
}

#[test]
fn distortion_that_never_comes_inside() {
    for thd in [0.015, 0.40] {
        let mut n = 0.0;
        let driven = HONEST.drive(ramp(), |round| {
            n += 1e-7;
            round.thd_ratio = Some(thd + n);
        });
        assert!(matches!(driven.ended, Ending::NothingClean { .. }) && driven.found.best.is_none(), "{:?}", driven.ended);
        assert!(driven.top_db() - START.get() <= 3.0, "{:?}", driven.levels);
    }
}

#[test]
fn percent_for_a_ratio_and_a_ratio_for_percent() {
    let hundredfold = HONEST.drive(ramp(), |round| round.thd_ratio = round.thd_ratio.map(|thd| thd * 100.0));
    assert!(matches!(hundredfold.ended, Ending::NothingClean { .. }), "{:?}", hundredfold.ended);
    let hundredth = HONEST.drive(ramp(), |round| round.thd_ratio = round.thd_ratio.map(|thd| thd / 100.0));
    assert_eq!(hundredth.ended, stopped(Stop::NotFollowing), "clipping shows in the watts");
    assert!(hundredth.top_db() < HONEST.clips_db + 3.0, "{:?}", hundredth.levels);
}

#[test]
fn milliamps_for_amps_and_more_out_than_in() {
    let thousandfold =
        HONEST.drive(Rules { expected_a: Some(40.0), ..ramp() }, |round| round.supply_a = round.supply_a.map(|amps| amps * 1e3));
    assert!(matches!(thousandfold.ended, Ending::Stopped { why: Stop::Impossible { .. } }), "{:?}", thousandfold.ended);
    assert!(thousandfold.top_db() - START.get() <= 3.0);
    let thousandth = HONEST.drive(ramp(), |round| round.supply_a = round.supply_a.map(|amps| amps / 1e3));
    assert!(matches!(thousandth.ended, Ending::Stopped { why: Stop::Impossible { .. } }), "{:?}", thousandth.ended);
    assert!(HONEST.watts(thousandth.top_db()) < 10.0, "as soon as there is something to compare: {:?}", thousandth.levels);
}

#[test]
fn decibels_for_volts() {
    // Watts made of what is really dBV: 20 dBV is taken for 20 V.
    let dbv = HONEST.drive(ramp(), |round| {
        let volts = (round.power_w[0] * 4.0).sqrt();
        let read = 20.0 * volts.log10();
        round.power_w = vec![(read * read / 4.0).max(0.0)];
        round.supply_a = None;
    });
    assert!(matches!(dbv.ended, Ending::Stopped { .. } | Ending::NothingClean { .. }), "{:?}", dbv.ended);
    assert!(dbv.worst_thd < 0.03, "{:?}", dbv.levels);
}

#[test]
fn answers_one_question_late() {
    // Distortion in percent is answered where watts were asked for, and watts where distortion was.
    let late = HONEST.drive(ramp(), |round| {
        let (watts, thd) = (round.power_w[0], round.thd_ratio.unwrap_or_default());
        (round.power_w, round.thd_ratio) = (vec![100.0 * thd], Some(watts / 100.0));
    });
    assert!(!matches!(late.ended, Ending::Done | Ending::Top), "{:?}", late.ended);
    assert!(late.worst_thd < 0.02, "{:?}", late.levels);
}

#[test]
fn a_meter_between_two_ranges_is_waited_for_and_one_past_its_range_is_not() {
    let mut last = None;
    let mut since = 0;
    let ranging = HONEST.drive(ramp(), |round| {
        if last != round.level_db {
            (last, since) = (round.level_db, round.t_ms);
        }
        round.ranging = (round.t_ms - since < 300).then_some(Role::Analyser);
    });
    assert_eq!(ranging.ended, Ending::Done);
    let past = HONEST.drive(ramp(), |round| round.ranging = round.level_db.filter(|level| level.get() > -12.0).map(|_| Role::Analyser));
    assert!(matches!(past.ended, Ending::Stopped { why: Stop::BadReading { .. } }), "{:?}", past.ended);
    assert!(past.top_db() <= -11.0);
}

#[test]
fn a_level_counts_from_when_it_was_set_and_not_from_when_it_was_asked_for() {
    let (mut live, _) = Live::start(ramp());
    live.level_was_set(2_000);
    let round = |t_ms| Round { t_ms, level_db: Some(START), power_w: vec![0.05], thd_ratio: Some(0.002), ..Round::default() };
    assert_eq!(live.round(&round(2_100)), Action::Hold, "a hundred milliseconds of it");
    assert!(matches!(live.round(&round(2_200)), Action::Level(_)));
}

#[test]
fn slow_meters_are_waited_for() {
    // Four queries of 0.9 s each: a round every 1.8 s.
    let mut next = 0;
    let mut held: Option<Round> = None;
    let slow = HONEST.drive(Rules { most_ms: 900_000, ..ramp() }, |round| {
        // A reading that was begun before the level changed is one of the level before.
        if round.t_ms >= next {
            next = round.t_ms + 1_800;
            held = Some(round.clone());
        } else if let Some(held) = &held {
            *round = held.clone();
        }
    });
    assert_eq!(slow.ended, Ending::Done);
    assert!((slow.watts() / HONEST.at_limit_w(0.01) - 1.0).abs() < 0.003, "{}", slow.watts());
}
