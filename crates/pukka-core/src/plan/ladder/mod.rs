//! The load ladder as it stands: every rung, every mode, what was logged and what is in the way.

mod cells;
mod shown;

use crate::assess::check_session;
use crate::assess::checks::Check;
use crate::evidence::rungs::{Rung, Step, next_step, rungs, steps};
use crate::evidence::source_ohm;
use crate::evidence::standing::{standing, usable_among};
use crate::plan::gates::Look;
use crate::plan::ladder::cells::{Seen, ladder_rung, set_bars};
use crate::plan::progress::Progress;
use crate::predict::known::Prior;
use crate::record::session::Session;

pub use shown::{BurstFigure, Cell, CellFigures, Ladder, LadderRung, Place, PlanBars, RunBrief, RungSettings};

/// Builds the ladder.
#[must_use]
pub fn ladder(session: &Session) -> Ladder {
    ladder_checked(session, &check_session(session))
}

/// Likewise, when the session was checked already.
#[must_use]
pub fn ladder_checked(session: &Session, checks: &[Check]) -> Ladder {
    let all = rungs(session);
    let standing = standing(session);
    let usable = usable_among(&standing, checks);
    let seen = Seen::all(&standing, checks);
    let known = Prior::of_usable(session, &usable);
    let place = |step: Step| all.get(step.rung).map(|rung| Place { rung: rung.id.key(), mode: step.mode });
    let looks: Vec<Look> = all.iter().map(|rung| Look::at(&known, rung)).collect();
    let mut shown: Vec<LadderRung> = all.iter().zip(&looks).map(|(rung, look)| ladder_rung(&known, look, rung, (&seen, &usable))).collect();
    set_bars(session, &looks, &mut shown);
    let order: Vec<Place> = steps(session, &all).into_iter().filter_map(place).collect();
    let Progress { logged, planned, minutes } = Progress::along(session, &all, &looks);
    Ladder {
        next: next_step(session, &all, None).filter(|_| session.ended_by().is_none()).and_then(place),
        logged,
        planned,
        order,
        rungs: shown,
        run_order: session.plan.order,
        minutes: format!("about {minutes} min"),
        source_ohm: known.source.as_ref().map(source_ohm::figure),
        rest_v: session.plan.rest_v,
    }
}

/// The place to go to after logging at `from`.
#[must_use]
pub fn next_after(session: &Session, from: &Place) -> Option<Place> {
    let all = rungs(session);
    let at = all.iter().position(|rung| rung.id.key() == from.rung).map(|rung| Step { rung, mode: from.mode });
    next_step(session, &all, at)
        .filter(|_| session.ended_by().is_none())
        .and_then(|step| all.get(step.rung).map(|rung| Place { rung: rung.id.key(), mode: step.mode }))
}

/// The rung with this key.
#[must_use]
pub fn find(session: &Session, key: &str) -> Option<Rung> {
    rungs(session).into_iter().find(|rung| rung.id.key() == key)
}
#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::examples::mono_1100;
    use crate::record::session::{Burst, Mode, Run};

    #[test]
    fn the_ladder_of_the_example() {
        let mut session = mono_1100();
        session.runs.truncate(7);
        let ladder = ladder(&session);
        assert_eq!((ladder.logged, ladder.planned), (7, 9));
        assert_eq!(ladder.next, Some(Place { rung: "mono@1@40".into(), mode: Mode::Clipping }));
        let four = &ladder.rungs[0];
        assert_eq!((four.label.as_str(), four.real.as_str(), four.words.as_str()), ("4\u{202f}Ω", "3.91 real", "40 Hz · mono"));
        assert_eq!(four.claim_fraction, Some(0.8));
        let shown = four.cells[0].figures.as_ref().unwrap();
        assert_eq!((shown.power.as_str(), shown.under.as_str()), ("447", "14.38\u{202f}V · 75\u{202f}%"));
        assert!((shown.fraction - 447.0 / 562.5).abs() < 1e-12);
        assert!(!four.cells[0].shut && !ladder.rungs[2].cells[0].shut, "its own fuses gate nothing");
        let minded = &ladder.rungs[2].cells[0].mind;
        let says = minded.iter().find(|says| says.contains("of its fuses")).unwrap().replace('\u{202f}', " ");
        // Three fuses of 35 A.
        let (drawn, part) =
            says.strip_prefix("It may draw ").and_then(|says| says.split_once(" % of")).unwrap().0.split_once(" A, ").unwrap();
        let (drawn, part): (f64, f64) = (drawn.parse().unwrap(), part.parse().unwrap());
        assert!(drawn > 115.5 && (part - 100.0 * drawn / 105.0).abs() < 1.0, "1 Ω may draw past them: {says}");
        assert!((four.cells[0].extra_drive_db, four.cells[1].extra_drive_db) == (6.0, 10.0));
    }

    #[test]
    fn kinds_of_burst_have_figures_of_their_own_and_those_planned_are_waited_for() {
        let mut session = mono_1100();
        let cycles = serde_json::json!({ "count": 20, "first": { "volts_peak": 66.0 }, "last": { "volts_peak": 66.0 } });
        let twenty =
            Run { id: "b20".into(), outputs: Vec::new(), cycles: serde_json::from_value(cycles).unwrap(), ..session.runs[2].clone() };
        let words = |session: &Session| {
            let bursts = ladder(session).rungs[0].cells[2].bursts.clone();
            bursts.into_iter().map(|burst| (burst.words, burst.power.is_some())).collect::<Vec<_>>()
        };
        assert_eq!(words(&session), [], "one kind is the cell's own figure");
        session.runs.push(twenty);
        assert_eq!(words(&session), [("standard burst".into(), true), ("20 cycles".into(), true)]);
        assert_eq!(ladder(&session).next, None);
        session.plan.rungs[0].bursts = vec![Burst::Standard, Burst::Counted(20), Burst::Counted(1)];
        assert_eq!(words(&session).last(), Some(&("1 cycle".into(), false)));
        let next = Place { rung: "mono@4@40".into(), mode: Mode::Dynamic };
        assert_eq!(ladder(&session).next, Some(next), "the one cycle is still to run");
    }

    #[test]
    fn of_repeats_the_best_is_used_and_all_are_kept() {
        let mut session = mono_1100();
        let mut again = session.runs[0].clone();
        again.id = "r1b".into();
        again.outputs[0].power_w = Some(crate::kernel::units::Watts::new(452.0).unwrap());
        session.runs.push(again);
        let cell = &ladder(&session).rungs[0].cells[0];
        assert_eq!(cell.runs.iter().map(|run| (run.id.as_str(), run.used)).collect::<Vec<_>>(), [("r1", false), ("r1b", true)]);
        assert_eq!(cell.figures.as_ref().unwrap().power, "452");
        assert_eq!(cell.runs[0].line, "447w@m1 14.38v 41.2a 0.98%");
    }
}
