//! Source resistance of a supply, from what its runs showed: sag over amps.

use crate::kernel::format;
use crate::kernel::working::{Figure, Working, source};
use crate::record::bench::Bench;
use crate::record::session::{Mode, ReadingName, Run, Session};

/// Runs of one session that make its own figure worth more than the bench's.
pub const ENOUGH_RUNS: usize = 3;

/// A steady run: how far the supply sagged, and at how many amps.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sag {
    /// Rest − end, volts.
    pub sag_v: f64,
    /// Amps at the end.
    pub current_a: f64,
}

/// A source resistance, and how far its runs scatter.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Source {
    /// Ohms.
    pub ohm: f64,
    /// Standard deviation of the runs' own figures, weighted by their amps squared; needs two.
    pub scatter_ohm: Option<f64>,
    /// Number of runs that it stands on; 0 when it was entered.
    pub runs: usize,
}

/// Sag of the supply in a run: not bursts (a clamp catches the inrush), not with a charger on, nothing struck.
#[must_use]
pub fn sag_of(run: &Run) -> Option<Sag> {
    let steady = run.mode != Mode::Dynamic && run.charger_on != Some(true) && !run.is_struck(ReadingName::RestVolts);
    let (rest, end, amps) = (run.rest_v.filter(|_| steady)?, run.end_volts()?, run.amps()?);
    let sag = Sag { sag_v: rest.get() - end.get(), current_a: amps.get() };
    (sag.sag_v > 0.0 && sag.current_a > 0.0).then_some(sag)
}

/// Sums that a fit is made from.
#[derive(Debug, Clone, Copy, Default)]
pub struct SagSums {
    /// Number of runs.
    pub runs: usize,
    products: f64,
    squares: f64,
}

impl SagSums {
    /// Of all of these.
    pub fn of(sags: impl IntoIterator<Item = Sag>) -> Self {
        sags.into_iter().fold(Self::default(), |all, sag| Self {
            runs: all.runs + 1,
            products: all.products + sag.sag_v * sag.current_a,
            squares: all.squares + sag.current_a * sag.current_a,
        })
    }

    /// Likewise, without one that is in them.
    #[must_use]
    pub fn without(self, sag: Sag) -> Self {
        Self {
            runs: self.runs - 1,
            products: self.products - sag.sag_v * sag.current_a,
            squares: self.squares - sag.current_a * sag.current_a,
        }
    }

    /// Least squares through the origin: R = Σ sag·I / Σ I².
    #[must_use]
    pub fn ohm(self) -> Option<f64> {
        (self.squares > 0.0).then(|| self.products / self.squares)
    }
}

/// The source resistance that runs show, and their scatter.
#[must_use]
pub fn fit(sags: &[Sag]) -> Option<Source> {
    let sums = SagSums::of(sags.iter().copied());
    let (ohm, squares) = (sums.ohm()?, sums.squares);
    let n = sags.len() as f64;
    // Weighted as the fit is: at few amps a hundredth of a volt is many milliohms.
    let spread: f64 = sags.iter().map(|s| (s.sag_v - ohm * s.current_a).powi(2)).sum();
    Some(Source { ohm, scatter_ohm: (sags.len() >= 2).then(|| (spread / squares * n / (n - 1.0)).sqrt()), runs: sags.len() })
}

/// The source resistance to use: this session's own from three runs on, else the bench's, else what runs there are.
#[must_use]
pub fn source(session: &Session) -> Option<Source> {
    source_without(session, None)
}

/// Likewise, as if one run had not been made.
#[must_use]
pub fn source_without(session: &Session, run_id: Option<&str>) -> Option<Source> {
    let whole = |run: &&Run| !run.incomplete && Some(run.id.as_str()) != run_id;
    let own: Vec<Sag> = session.standing_runs().filter(whole).filter_map(sag_of).collect();
    if own.len() >= ENOUGH_RUNS {
        return fit(&own);
    }
    entered(&session.bench).or_else(|| fit(&own))
}

fn entered(bench: &Bench) -> Option<Source> {
    bench.supply.source_ohm.map(|ohm| Source { ohm: ohm.get(), scatter_ohm: None, runs: 0 })
}

/// The figure for people, in milliohms.
#[must_use]
pub fn figure(found: &Source) -> Figure {
    let mut working = Working::new("Source resistance of the supply", "Σ sag·I / Σ I²", source::CIRCUITS);
    working = match found.runs {
        0 => working.assuming("As entered for this bench."),
        n => working.with("n", "steady runs, charger off", n as f64, ""),
    };
    if let Some(scatter) = found.scatter_ohm {
        working = working.with_text("s", "standard deviation of the runs", format::with_unit(&format::fixed(scatter * 1e3, 1), "mΩ"));
    }
    Figure::milliohms(found.ohm, working).give_or_take_text(found.scatter_ohm.map(|scatter| format::fixed(2e3 * scatter, 1)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::kernel::units::Ohms;
    use crate::record::session::examples::mono_1100;

    #[test]
    fn a_fit_worked_by_hand() {
        // 0.22 V at 41.2 A and 0.64 V at 124.6 A: (9.064 + 79.744)/(1697.44 + 15525.16) = 5.1565 mΩ
        let sags = [Sag { sag_v: 0.22, current_a: 41.2 }, Sag { sag_v: 0.64, current_a: 124.6 }];
        let found = fit(&sags).unwrap();
        assert!((found.ohm - 5.156_5e-3).abs() < 1e-7);
        // Residuals 0.00755 V and −0.00250 V: s = √(6.326e-5 / 17222.6 · 2/1) = 0.0857 mΩ
        assert!((found.scatter_ohm.unwrap() - 0.085_7e-3).abs() < 1e-7);
        assert_eq!(fit(&[]), None);
    }

    #[test]
    fn bursts_chargers_and_struck_readings_say_nothing_of_the_supply() {
        let mut session = mono_1100();
        assert_eq!(session.standing_runs().filter(|run| sag_of(run).is_some()).count(), 6);
        session.runs[0].charger_on = Some(true);
        session.runs[1].struck.push(ReadingName::Current);
        assert_eq!(session.standing_runs().filter(|run| sag_of(run).is_some()).count(), 4);
    }

    #[test]
    fn three_own_runs_come_before_what_was_entered() {
        let mut session = mono_1100();
        session.bench.supply.source_ohm = Some(Ohms::new(0.02).unwrap());
        assert_eq!(source(&session).unwrap().runs, 6);
        session.runs.truncate(2);
        assert_eq!(source(&session).unwrap(), Source { ohm: 0.02, scatter_ohm: None, runs: 0 });
        session.bench.supply.source_ohm = None;
        assert_eq!(source(&session).unwrap().runs, 2);
        assert_eq!(figure(&source(&session).unwrap()).unit, "mΩ");
    }
}
