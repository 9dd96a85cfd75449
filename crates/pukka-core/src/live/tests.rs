use proptest::prelude::*;

use super::*;

/// An amplifier for the test: watts by level, distortion that leaps at its limit, a supply that sags.
#[derive(Clone, Copy)]
struct Bench {
    clips_db: f64,
    noise: f64,
    volts_per_100_w: f64,
    protects_w: Option<f64>,
}

const HONEST: Bench = Bench { clips_db: -3.25, noise: 1e-4, volts_per_100_w: 0.05, protects_w: None };

impl Bench {
    fn round(&self, t_ms: u64, level_db: f64) -> Round {
        let clean = 500.0 * 10f64.powf(level_db.min(self.clips_db) / 10.0);
        let over_db = (level_db - self.clips_db).max(0.0);
        let watts = clean * 10f64.powf(0.02 * over_db);
        let watts = if self.protects_w.is_some_and(|most| watts > most) { 0.2 } else { watts };
        let thd = self.noise / 10f64.powf(level_db / 20.0) + 0.002 + 0.05 * over_db;
        Round {
            t_ms,
            level_db: Level::new(level_db).ok(),
            power_w: vec![watts],
            thd_ratio: Some(thd),
            supply_v: Some(14.4 - self.volts_per_100_w * watts / 100.0),
            supply_a: Some(watts / 11.0),
        }
    }

    /// Drives a run on a fake clock: 50 ms a round. Gives every level that was set, how it ended, and what was found.
    fn drive(&self, rules: Rules) -> (Vec<f64>, Ending, RampResult) {
        let (mut live, first) = Live::start(rules);
        let Action::Level(mut level) = first else { panic!("{first:?}") };
        let mut levels = vec![level.get()];
        for t in 1..100_000u64 {
            match live.round(&self.round(t * 50, level.get())) {
                Action::Hold => {}
                Action::Level(next) => {
                    level = next;
                    levels.push(next.get());
                }
                Action::End(ended) => return (levels, ended, live.found().clone()),
            }
        }
        panic!("it never ended")
    }
}

fn level(db: f64) -> Level {
    Level::new(db).unwrap()
}

fn rules(mode: Mode, method: Method) -> Rules {
    Rules::new(&Policy::default(), mode, method, level(10.0), 200)
}

#[test]
fn a_ramp_ends_at_the_limit_and_takes_the_highest_reading_inside() {
    let (levels, ended, found) = HONEST.drive(rules(Mode::Certified, Method::Ramp));
    assert_eq!(ended, Ending::Done);
    let best = found.best.unwrap();
    // 1 % is passed 0.16 dB above the onset of clipping, less what noise and the rest take: the last tenth inside is −3.1 dB.
    assert!(best.thd_ratio.unwrap() <= 0.01 && (best.level_db.unwrap().get() + 3.1).abs() < 1e-6, "{best:?}");
    let most = levels.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    assert!(most <= -2.0 + 1e-9, "never more than a coarse step past the last level inside: {most}");
    let (_, ended, clipping) = HONEST.drive(rules(Mode::Clipping, Method::Ramp));
    assert_eq!(ended, Ending::Done);
    assert!(clipping.best.unwrap().thd_ratio.unwrap() > 0.025, "on to 3 %");
}

#[test]
fn noise_at_low_levels_is_no_limit() {
    let (_, ended, found) = Bench { noise: 3e-3, ..HONEST }.drive(rules(Mode::Certified, Method::Ramp));
    assert_eq!(ended, Ending::Done);
    assert!(found.best.unwrap().level_db.unwrap() > level(-4.0));
    let loud = Bench { noise: 10.0, ..HONEST }.drive(rules(Mode::Certified, Method::Ramp));
    assert_eq!((loud.1, loud.2.best), (Ending::NothingClean, None));
}

#[test]
fn a_generator_at_its_top_says_so() {
    let low = Rules { most: level(-8.5), ..rules(Mode::Certified, Method::Ramp) };
    let (levels, ended, found) = HONEST.drive(low);
    assert_eq!(ended, Ending::Top);
    assert!(levels.iter().all(|level| *level <= -8.5) && found.best.is_some());
}

#[test]
fn stop_rules() {
    let sagging = Bench { volts_per_100_w: 2.0, ..HONEST };
    assert_eq!(sagging.drive(rules(Mode::Certified, Method::Ramp)).1, Ending::Stopped { why: Stop::SupplyLow });
    let protects = Bench { protects_w: Some(100.0), ..HONEST };
    let (_, ended, found) = protects.drive(rules(Mode::Certified, Method::Ramp));
    assert_eq!(ended, Ending::Stopped { why: Stop::Protection });
    assert!(found.best.unwrap().total_w() > 70.0, "it is kept as far as it got");
    let bank = Rules { most_output_w: Some(150.0), ..rules(Mode::Certified, Method::Ramp) };
    assert_eq!(HONEST.drive(bank).1, Ending::Stopped { why: Stop::LoadBank });
    let long = Rules { most_ms: 3_000, ..rules(Mode::Certified, Method::Ramp) };
    assert_eq!(HONEST.drive(long).1, Ending::Stopped { why: Stop::TooLong });
}

#[test]
fn a_burst_ends_where_a_decibel_more_gives_hardly_more() {
    let (levels, ended, found) = HONEST.drive(rules(Mode::Dynamic, Method::Burst));
    assert_eq!(ended, Ending::Done);
    let top = levels.last().unwrap();
    assert!(*top > -3.25 && *top < 0.0, "{top}");
    assert!(found.best.unwrap().total_w() > 236.0);
}

#[test]
fn level_steps_are_a_row_each_and_end_past_the_limit() {
    let method = Method::Steps { levels_db: [-6.0, -5.0, -4.0, -3.0, -2.0, -1.0, 0.0].map(level).to_vec() };
    let (levels, ended, found) = HONEST.drive(rules(Mode::Certified, method));
    assert_eq!(
        (ended, levels.as_slice()),
        (Ending::Done, [-6.0, -5.0, -4.0, -3.0].as_slice()),
        "−3 dB is past the limit, so −2 is not asked for"
    );
    assert_eq!(found.steps.len(), 4);
    assert!(found.steps.last().unwrap().thd_ratio.unwrap().get() > 0.01 && found.steps[2].thd_ratio.unwrap().get() < 0.01);
}

#[test]
fn without_a_figure_for_distortion_it_does_not_go_on() {
    let (mut live, _) = Live::start(rules(Mode::Certified, Method::Ramp));
    let blind = |t_ms| Round { thd_ratio: None, ..HONEST.round(t_ms, START.get()) };
    let ends = (1..20).map(|t| live.round(&blind(t * 100))).find(|action| matches!(action, Action::End(_)));
    assert_eq!(ends, Some(Action::End(Ending::NothingClean)));
    assert_eq!(live.round(&HONEST.round(9_000, START.get())), Action::Hold, "and after its end it asks for nothing");
}

#[test]
fn watching_takes_the_best_until_it_is_stopped() {
    let (mut live, _) = Live::start(rules(Mode::Certified, Method::Watch));
    for (t, level) in [(1, -20.0), (2, -10.0), (3, -5.0), (4, 0.0), (5, -30.0)] {
        let round = Round { level_db: None, ..HONEST.round(t * 100, level) };
        assert_eq!(live.round(&round), Action::Hold);
    }
    assert_eq!(live.stop(Stop::Key), Action::End(Ending::Done));
    assert_eq!(live.found().best.as_ref().unwrap().t_ms, 300, "at 0 dB it was past the limit");
}

proptest! {
    #[test]
    fn the_level_never_leaps(clips_db in -30.0f64..5.0, noise in 0.0f64..1e-3, sag in 0.0f64..0.5) {
        let (levels, _, _) = Bench { clips_db, noise, volts_per_100_w: sag, protects_w: None }.drive(rules(Mode::Certified, Method::Ramp));
        prop_assert!(levels.windows(2).all(|pair| pair[1] - pair[0] <= 1.0 + 1e-9), "{levels:?}");
        prop_assert!(levels.iter().all(|level| *level <= 10.0));
    }
}
