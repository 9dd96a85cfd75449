//! A run driven on the bench's own time: by the program's run machine, without a link and without waiting.

use pukka_core::kernel::units::Level;
use pukka_core::live::{Action, Ending, Live, RampResult, Round, Rules};

use crate::bench::Bench;

/// A run that ended.
#[derive(Debug, Clone, PartialEq)]
pub struct Driven {
    /// Its end.
    pub ended: Ending,
    /// Its result.
    pub found: RampResult,
    /// Time it took, milliseconds of the bench's.
    pub took_ms: u64,
}

/// Rounds after which a run that has not ended never does.
const MOST_ROUNDS: u64 = 20_000;

/// Drives a run by rounds of so many milliseconds, as `read` reads them; nothing where it never ends.
pub fn drive_by(bench: &mut Bench, rules: Rules, every_ms: u64, mut read: impl FnMut(&Bench, u64, Level) -> Round) -> Option<Driven> {
    let (mut live, first) = Live::start(rules);
    let Action::Level(mut level) = first else { return None };
    (bench.generator.level_db, bench.generator.on) = (level.get(), true);
    for n in 1..MOST_ROUNDS {
        bench.advance(every_ms);
        match live.round(&read(bench, n * every_ms, level)) {
            Action::Hold | Action::AskAgain => {}
            Action::Level(next) => {
                level = next;
                bench.generator.level_db = next.get();
            }
            Action::End(ended) => {
                bench.generator.on = false;
                return Some(Driven { ended, found: live.found().clone(), took_ms: n * every_ms });
            }
        }
    }
    None
}

/// A round as the meters read it; of a burst without its distortion.
#[must_use]
pub fn round(bench: &Bench, t_ms: u64, level: Level, burst: bool) -> Round {
    let outputs = bench.amplifier.outputs.len();
    let power = |i: usize| if burst { bench.reads_burst_w(i) } else { bench.reads_power_w(i) };
    let worst = (0..outputs).map(|i| bench.reads_distortion(i)).fold(0.0, f64::max);
    Round {
        t_ms,
        level_db: Some(level),
        power_w: (0..outputs).map(|i| power(i).max(0.0)).collect(),
        thd_ratio: (!burst).then_some(worst),
        supply_v: Some(bench.reads_supply_v()),
        supply_a: Some(bench.reads_supply_a().max(0.0)),
        ..Round::default()
    }
}
