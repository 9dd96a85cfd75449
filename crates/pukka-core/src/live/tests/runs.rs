//! Runs with honest meters.

use proptest::prelude::*;

use super::*;

#[test]
fn a_ramp_reads_the_power_at_the_limit_between_two_settled_levels() {
    for flutter in [0.0, 0.0008] {
        let driven = Bench { flutter, ..HONEST }.drive(ramp(), |_| {});
        assert_eq!(driven.ended, Ending::Done);
        let (read, truth) = (driven.watts(), HONEST.at_limit_w(0.01));
        assert!((read / truth - 1.0).abs() < 0.001, "{read} W, and {truth} W at the limit");
        assert_eq!(driven.found.best.unwrap().thd_ratio, Some(0.01));
        assert!(driven.worst_thd < 0.03, "three times the limit is a defect: {}", driven.worst_thd);
        assert!(driven.took_ms < 21_000, "{} ms {:?}", driven.took_ms, driven.levels);
    }
    let clipping = HONEST.drive(rules(Mode::Clipping, Method::Ramp), |_| {});
    assert_eq!(clipping.ended, Ending::Done);
    assert!((clipping.watts() / HONEST.at_limit_w(0.03) - 1.0).abs() < 0.001, "on to 3 %");
}

#[test]
fn steps_are_small_near_the_edge_whatever_is_known_of_it() {
    let step_at = |driven: &Drive, db: f64| {
        let at = driven.levels.iter().rposition(|level| *level <= db + 1e-9).unwrap();
        driven.levels[at + 1] - driven.levels[at]
    };
    let quiet = Bench { noise: 1e-5, ..HONEST };
    let claimed = quiet.drive(ramp(), |_| {});
    assert!((step_at(&claimed, -20.0) - 1.0).abs() < 1e-9 && (step_at(&claimed, -10.0) - 0.5).abs() < 1e-9, "{:?}", claimed.levels);
    let predicted = quiet.drive(Rules { predicted_w: Some(240.0), ..ramp() }, |_| {});
    assert!((step_at(&predicted, -8.0) - 1.0).abs() < 1e-9 && step_at(&predicted, -5.0) < 0.51 && step_at(&predicted, -3.5) < 0.11);
    assert!(predicted.took_ms < claimed.took_ms, "what is known saves time");
    let unknown = quiet.drive(Rules { claim_w: None, ..ramp() }, |_| {});
    assert!((step_at(&unknown, -20.0) - 0.5).abs() < 1e-9);
    for driven in [claimed, predicted, unknown] {
        assert!(driven.levels.windows(2).all(|pair| pair[1] - pair[0] <= 1.0 + 1e-9), "{:?}", driven.levels);
        assert!(driven.top_db() < HONEST.clips_db + 0.6 && driven.worst_thd < 0.03, "{:?}", driven.levels);
    }
}

#[test]
fn meters_that_lag_make_a_figure_only_when_they_stand_still() {
    // The slowest says in its profile that it is slow.
    for (lags_s, settle_ms) in [(0.1, 150), (0.3, 150), (1.0, 2_000)] {
        let rules = Rules {
            claim_w: Some(250.0),
            ..Rules::new(&Policy::default(), Mode::Certified, Method::Ramp, level(10.0), settle_ms, 1_000.0)
        };
        let driven = Bench { lags_s, ..HONEST }.drive(rules, |_| {});
        assert_eq!(driven.ended, Ending::Done, "{lags_s} s: {:?}", driven.levels);
        assert!((driven.watts() / HONEST.at_limit_w(0.01) - 1.0).abs() < 0.003, "{lags_s} s: {} W", driven.watts());
    }
    let mut n = 0.0;
    let restless = HONEST.drive(ramp(), |round| {
        n += 1.0;
        round.power_w[0] *= 1.0 + 0.002 * n;
    });
    assert_eq!(restless.ended, stopped(Stop::Unsettled));
}

#[test]
fn noise_at_low_levels_is_no_limit_while_it_falls() {
    let noisy = Bench { noise: 2e-4, ..HONEST }.drive(ramp(), |_| {});
    assert_eq!(noisy.ended, Ending::Done);
    assert!((noisy.watts() / HONEST.at_limit_w(0.01) - 1.0).abs() < 0.01);
    let loud = Bench { noise: 10.0, ..HONEST }.drive(ramp(), |_| {});
    assert!(matches!(loud.ended, Ending::NothingClean { thd_ratio: Some(thd), .. } if thd > 0.01), "{:?}", loud.ended);
    assert!(loud.ended.says().starts_with("No reading was inside the distortion limit: at −") && loud.found.best.is_none());
    assert!(HONEST.watts(loud.top_db()) < 1.3, "above a watt it is no noise: {} dB", loud.top_db());
    // By luck one reading is inside, far below the level where the noise really is.
    for lucky_db in [-40.0, -39.0, -38.0, -37.0] {
        let lucky = Bench { noise: 2e-4, ..HONEST }.drive(ramp(), |round| {
            let is_lucky = round.level_db.is_some_and(|level| (level.get() - lucky_db).abs() < 0.01);
            round.thd_ratio = round.thd_ratio.map(|thd| if is_lucky { 0.0099 } else { thd });
        });
        assert_eq!(lucky.ended, Ending::Done, "lucky at {lucky_db} dB: {:?}", lucky.levels);
        assert!((lucky.watts() / HONEST.at_limit_w(0.01) - 1.0).abs() < 0.01);
    }
    // A reading here and there that does not fall ends nothing.
    let (mut n, mut last) = (0, None);
    let restless = Bench { noise: 2e-4, ..HONEST }.drive(ramp(), |round| {
        if last != round.level_db {
            (n, last) = (n + 1, round.level_db);
        }
        let low = round.level_db.is_some_and(|level| level.get() < -35.0);
        round.thd_ratio = round.thd_ratio.map(|thd| if low && n % 2 == 0 { 1.2 * thd } else { thd });
    });
    assert_eq!(restless.ended, Ending::Done, "{:?}", restless.levels);
}

#[test]
fn a_generator_at_its_top_says_so() {
    let driven = HONEST.drive(Rules { most: level(-8.5), ..ramp() }, |_| {});
    assert_eq!(driven.ended, Ending::Top);
    assert!((driven.watts() / HONEST.watts(-8.5) - 1.0).abs() < 0.002 && driven.levels.iter().all(|level| *level <= -8.5));
}

#[test]
fn stop_rules() {
    let sagging = Bench { volts_per_100_w: 2.0, ..HONEST };
    assert_eq!(sagging.drive(ramp(), |_| {}).ended, stopped(Stop::SupplyLow));
    let protects = Bench { protects_w: Some(100.0), ..HONEST }.drive(ramp(), |_| {});
    assert_eq!(protects.ended, stopped(Stop::Protection));
    // Also on the way back from the first level outside.
    let mut outside = false;
    let opens = HONEST.drive(ramp(), |round| {
        let level = round.level_db.unwrap().get();
        outside |= level > -3.05;
        if outside && level < -3.05 {
            (round.power_w, round.thd_ratio) = (vec![0.2], Some(0.9));
        }
    });
    assert_eq!(opens.ended, stopped(Stop::Protection), "{:?}", opens.levels);
    assert!(protects.watts() > 70.0 && protects.watts() <= 100.0, "it is kept as far as it got: {}", protects.watts());
    assert_eq!(HONEST.drive(Rules { most_output_w: Some(150.0), ..ramp() }, |_| {}).ended, stopped(Stop::LoadBank));
    assert_eq!(HONEST.drive(Rules { most_ms: 3_000, ..ramp() }, |_| {}).ended, stopped(Stop::TooLong));
    assert_eq!(HONEST.drive(ramp(), |round| round.temperature_c = Some(60.0 + round.total_w() / 10.0)).ended, stopped(Stop::Hot));
}

#[test]
fn one_reading_that_would_end_it_is_asked_again() {
    let mut n = 0;
    let once = HONEST.drive(ramp(), |round| {
        n += 1;
        if n == 60 {
            round.supply_v = Some(0.0);
        }
    });
    assert_eq!(once.ended, Ending::Done, "0.0 V once is no supply that fell");
}

#[test]
fn a_burst_ends_at_its_own_distortion_or_where_a_decibel_gives_clearly_less() {
    let read = HONEST.drive(rules(Mode::Dynamic, Method::Burst { cycles: None }), |_| {});
    assert_eq!(read.ended, Ending::Done);
    assert!((read.watts() / HONEST.at_limit_w(0.01) - 1.0).abs() < 0.003, "{}", read.watts());
    let unread = HONEST.drive(rules(Mode::Dynamic, Method::Burst { cycles: None }), |round| round.thd_ratio = None);
    assert_eq!((unread.ended.clone(), unread.found.onset_within_db), (Ending::Done, Some(0.4)));
    let off_db = 10.0 * (unread.watts() / HONEST.watts(HONEST.clips_db)).log10();
    assert!(off_db.abs() < 0.4 && unread.top_db() <= HONEST.clips_db + 1.3, "{off_db} dB");
}

#[test]
fn a_wave_that_is_not_of_this_level_yet_says_nothing_of_it() {
    let burst = || rules(Mode::Dynamic, Method::Burst { cycles: None });
    // A machine that is busy reads each level's first whole burst 2 s late: until then its rounds have no reading of the outputs.
    let late = |hot_from_ms: u64| {
        let (mut last, mut since) = (None, 0);
        HONEST.drive(burst(), move |round| {
            if last != round.level_db {
                (last, since) = (round.level_db, round.t_ms);
            }
            round.before_wave = round.t_ms < since + 2_000;
            if round.before_wave {
                (round.power_w, round.thd_ratio) = (vec![], None);
            }
            round.temperature_c = Some(if round.t_ms < hot_from_ms { 30.0 } else { 90.0 });
        })
    };
    let driven = late(u64::MAX);
    assert_eq!(driven.ended, Ending::Done);
    assert!((driven.watts() / HONEST.at_limit_w(0.01) - 1.0).abs() < 0.003, "{}", driven.watts());
    // The other meters are minded all the same.
    assert_eq!(late(500).ended, stopped(Stop::Hot));
}

#[test]
fn level_steps_are_a_row_each_and_end_past_the_limit() {
    let table = |levels: &[f64]| rules(Mode::Certified, Method::Steps { levels_db: levels.iter().copied().map(level).collect() });
    let driven = HONEST.drive(table(&[-6.0, -5.0, -4.0, -3.0, -2.0, -1.0, 0.0]), |_| {});
    assert_eq!(driven.ended, Ending::Done);
    let rows: Vec<f64> = driven.found.steps.iter().map(|step| step.level_db.get()).collect();
    assert_eq!(rows, [-6.0, -5.0, -4.0, -3.0], "−3 dB is past the limit, so −2 is not asked for");
    assert!(driven.levels.windows(2).all(|pair| pair[1] - pair[0] <= 3.0 + 1e-9), "never more than 3 dB at once: {:?}", driven.levels);
    let thd = |i: usize| driven.found.steps[i].thd_ratio.unwrap().get();
    assert!(thd(3) > 0.01 && thd(2) < 0.01);
    let apart = HONEST.drive(table(&[-20.0, 0.0]), |_| {});
    assert!(apart.worst_thd < 0.06 && apart.top_db() < -2.0, "the stairs end where it clips: {:?}", apart.levels);
}

#[test]
fn level_steps_without_a_distortion_end_below_the_predicted_clipping() {
    let method = Method::Steps { levels_db: [-12.0, -9.0, -6.0, -5.0, -4.0, -3.0].map(level).to_vec() };
    let blind = |predicted_w: Option<f64>, claim_w: Option<f64>| {
        let rules = Rules { predicted_w, claim_w, ..rules(Mode::Certified, method.clone()) };
        HONEST.drive(rules, |round| round.thd_ratio = None)
    };
    let known = blind(Some(240.0), None);
    assert_eq!(known.ended, Ending::NearClipping);
    assert!((known.top_db() + 5.0).abs() < 1e-9, "−4 dB would be 199 W, a decibel and less below 240: {:?}", known.levels);
    assert_eq!(blind(None, Some(100.0)).ended, Ending::NearClipping);
    assert!((blind(None, None).top_db() - START.get()).abs() < 1e-9, "without either it does not climb at all");
}

#[test]
fn without_a_figure_for_distortion_a_ramp_does_not_go_on() {
    let blind = HONEST.drive(ramp(), |round| round.thd_ratio = None);
    assert_eq!((blind.ended, blind.levels.len()), (Ending::NothingClean { thd_ratio: None, level_db: None }, 1));
}

#[test]
fn watching_takes_the_best_settled_reading_until_it_is_stopped() {
    let (mut live, _) = Live::start(rules(Mode::Certified, Method::Watch));
    // Somebody turns it up, holds it, goes past the limit, and turns it down.
    let turned = |t: u64| match t {
        0..20 => -20.0 + t as f64 * 0.5,
        20..50 => -6.0,
        50..70 => 0.0,
        _ => -30.0,
    };
    for t in 0..100u64 {
        let round =
            Round { t_ms: t * 50, power_w: vec![HONEST.watts(turned(t))], thd_ratio: Some(HONEST.thd(turned(t))), ..Round::default() };
        assert_eq!(live.round(&round), Action::Hold);
    }
    assert_eq!(live.stop(Stop::Key), Action::End(Ending::Done));
    let best = live.found().best.clone().unwrap();
    assert!((best.total_w() - HONEST.watts(-6.0)).abs() < 1e-9, "what it passed on the way stood still nowhere: {best:?}");
}

#[test]
fn what_was_cut_off_counts_settled_rounds_only_and_never_more_than_there_was() {
    let rounds = |flutter: f64| -> Vec<Round> {
        let watts = |t: u64| 100.0 * (1.0 + flutter * (t as f64 * 7.7).sin()) * if t < 10 { 2.0 } else { 1.0 };
        (0..60)
            .map(|t| Round {
                t_ms: t * 50,
                level_db: Some(level(-7.0)),
                power_w: vec![watts(t)],
                thd_ratio: Some(0.001),
                ..Round::default()
            })
            .collect()
    };
    let best = best_settled(&rounds(0.0008), 0.01, 500).unwrap();
    assert!((best.total_w() / 100.0 - 1.0).abs() < 0.0005, "the first half second is a reading on its way down: {}", best.total_w());
    assert_eq!(best_settled(&rounds(0.0)[..9], 0.01, 500), None);
    assert_eq!(best_settled(&rounds(0.0), 0.0001, 500), None, "none is inside the limit");
}

proptest! {
    #[test]
    fn the_level_never_leaps_and_the_figure_is_right(clips_db in -25.0f64..5.0, noise in 0.0f64..1e-4, sag in 0.0f64..0.2, flutter in 0.0f64..0.001) {
        let bench = Bench { clips_db, noise, volts_per_100_w: sag, flutter, ..HONEST };
        let driven = bench.drive(ramp(), |_| {});
        prop_assert!(driven.levels.windows(2).all(|pair| pair[1] - pair[0] <= 1.0 + 1e-9), "{:?}", driven.levels);
        prop_assert!(driven.levels.iter().all(|level| *level <= 10.0));
        if driven.ended == Ending::Done && bench.watts(clips_db) > 5.0 {
            let off = driven.watts() / bench.at_limit_w(0.01) - 1.0;
            prop_assert!(off.abs() < 0.003, "{off}");
        }
    }
}
