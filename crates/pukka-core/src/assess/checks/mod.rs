//! Checks on what was read: each has a code, a plain sentence with the numbers it used, and what to look at.
//!
//! `single` looks at one run by itself, `pairs` at runs that concern one another, `outliers` at a run against what all the
//! others say, `uses` at what a run is used for. Struck readings and runs marked invalid take no part; runs under a stop do.

mod outliers;
mod pairs;
mod places;
pub mod second_meters;
mod single;
pub mod table;
pub mod thresholds;
mod uses;

pub use crate::evidence::check::{Check, Severity};
pub use single::blade_fuse;

use crate::assess::checks::table::{Rule, rule};
use crate::assess::checks::thresholds::Threshold;
use crate::evidence::choose::Usable;
use crate::evidence::standing::{RunEvidence, standing, usable_among};
use crate::predict::known::Prior;
use crate::record::session::{CheckCode, Run, Session};

/// A finding of a rule.
struct Finding {
    rule: &'static Rule,
    severity: Severity,
    says: String,
    remedy: Option<String>,
}

impl Finding {
    /// A finding of a rule past one of its thresholds.
    fn past(code: CheckCode, threshold: Threshold, says: impl Into<String>) -> Self {
        Self { rule: rule(code), severity: threshold.severity, says: says.into(), remedy: None }
    }

    /// With something better to look at than the table knows.
    fn remedy(self, remedy: impl Into<String>) -> Self {
        Self { remedy: Some(remedy.into()), ..self }
    }

    /// The check it is, of the runs it names. Accepting it on any of them settles it.
    fn on(self, runs: &[&Run]) -> Check {
        let mut ids: Vec<String> = Vec::new();
        for run in runs {
            if !ids.contains(&run.id) {
                ids.push(run.id.clone());
            }
        }
        let accepted = runs.iter().flat_map(|run| &run.accepted).find(|accepted| accepted.is_of(self.rule.code));
        let accepted = accepted.map(|accepted| accepted.reason.clone());
        Check {
            code: self.rule.code,
            severity: self.severity,
            runs: ids,
            place: runs.first().map(|run| run.place_words()).unwrap_or_default(),
            settled: accepted.is_some(),
            accepted,
            title: self.rule.title.into(),
            says: self.says,
            remedy: self.remedy.unwrap_or_else(|| self.rule.remedy.into()),
            strikes: self.rule.strikes.to_vec(),
        }
    }
}

/// Checks that stand on the readings alone, without asking what the runs are used for.
pub(crate) fn check_readings(session: &Session) -> Vec<Check> {
    check_readings_of(session, |_| true).0
}

/// Likewise, where only some runs are held against all the others; and the runs that may be used. First comes what asks for no
/// prediction; by that the usable runs are chosen; and from those the predictions are made that the rest is held against.
pub(crate) fn check_readings_of(session: &Session, wanted: impl Fn(&Run) -> bool + Copy) -> (Vec<Check>, Vec<Usable<'_>>) {
    let runs = standing(session);
    let mut checks = check_without_prediction(session, &runs, wanted);
    let usable = usable_among(&runs, &checks);
    checks.extend(outliers::check(session, &runs, &usable, wanted));
    (checks, usable)
}

/// Knowledge of a session's amplifier, where nobody asks for the checks: every stop stands on the readings alone, so that the runs it
/// keeps out are known without a prediction.
#[must_use]
pub fn prior(session: &Session) -> Prior<'_> {
    let runs = standing(session);
    let checks = check_without_prediction(session, &runs, |_| false);
    Prior::of_usable(session, &usable_among(&runs, &checks))
}

/// Checks that ask for no prediction. Runs that are not `wanted` are held against one another only where that may stop one.
fn check_without_prediction(session: &Session, runs: &[RunEvidence], wanted: impl Fn(&Run) -> bool) -> Vec<Check> {
    let mut checks: Vec<Check> = runs.iter().flat_map(|one| single::check(session, one)).collect();
    checks.extend(second_meters::check(session, runs));
    checks.extend(pairs::check(session, runs, wanted));
    checks
}

/// Checks that stand on what became of the claims.
pub(crate) use uses::check as check_uses;

#[cfg(test)]
mod tests {
    use super::*;
    use crate::assess::judge::check_session;
    use crate::kernel::units::{Amps, Celsius, Ratio, Volts, VoltsRms, Watts};
    use crate::kernel::wiring::Wiring;
    use crate::record::session::examples;

    fn fired(change: impl FnOnce(&mut Session)) -> Vec<(CheckCode, Severity)> {
        let mut session = examples::mono_1100();
        session.runs.truncate(1);
        change(&mut session);
        check_session(&session).into_iter().map(|check| (check.code, check.severity)).collect()
    }

    fn only(code: CheckCode, severity: Severity) -> Vec<(CheckCode, Severity)> {
        vec![(code, severity)]
    }

    #[test]
    fn an_ordinary_session_stays_quiet_but_for_its_fuses_and_its_sag() {
        let session = examples::mono_1100();
        let fired: Vec<_> = check_session(&session).into_iter().map(|check| (check.code, check.runs)).collect();
        assert_eq!(
            fired,
            [
                (CheckCode::Fuse, vec!["r7".to_owned()]),
                (CheckCode::Fuse, vec!["r8".to_owned()]),
                (CheckCode::OutOfWindow, vec!["r7".to_owned()])
            ],
            "124.6 and 134.2 A through 105 A; 13.96 V for a claim at 14.4 V"
        );
    }

    #[test]
    fn each_check_fires_on_what_it_is_for() {
        assert_eq!(fired(|s| s.runs[0].current_a = Some(Amps::new(30.0).unwrap())), only(CheckCode::OverUnity, Severity::Stop));
        assert_eq!(fired(|s| s.runs[0].current_a = Some(Amps::new(32.0).unwrap())), only(CheckCode::ClassCeiling, Severity::Doubt));
        assert_eq!(fired(|s| s.runs[0].end_v = Some(Volts::new(14.7).unwrap())), only(CheckCode::VoltageRose, Severity::Doubt));
        assert_eq!(fired(|s| s.runs[0].end_v = None), only(CheckCode::NoSupplyVolts, Severity::Note));
        assert_eq!(
            fired(|s| s.runs[0].thd_ratio = Some(Ratio::new(0.0101).unwrap())),
            only(CheckCode::DistortionOverLimit, Severity::Stop)
        );
        assert_eq!(fired(|s| s.runs[0].temperature_c = Some(Celsius::new(76.0).unwrap())), only(CheckCode::Hot, Severity::Doubt));
        assert_eq!(fired(|s| s.runs[0].current_a = Some(Amps::new(106.0).unwrap())), only(CheckCode::Fuse, Severity::Doubt));
        // 447 W into 3.91 Ω is 41.8 V; 45 V makes 4.53 Ω, 16 % off; 50 V makes 5.59 Ω, 43 % off
        assert_eq!(
            fired(|s| s.runs[0].outputs[0].volts_rms = Some(VoltsRms::new(45.0).unwrap())),
            only(CheckCode::LoadMismatch, Severity::Doubt)
        );
        assert_eq!(
            fired(|s| s.runs[0].outputs[0].volts_rms = Some(VoltsRms::new(50.0).unwrap())),
            only(CheckCode::LoadMismatch, Severity::Stop)
        );
    }

    #[test]
    fn the_weakest_channel_is_named() {
        let mut session = examples::mono_1100();
        let mut run = session.runs[0].clone();
        run.wiring = Wiring::Channels { driven: 2 };
        run.outputs.push(run.outputs[0].clone());
        run.outputs[1].name = Some("rear".into());
        run.outputs[1].power_w = Some(Watts::new(390.0).unwrap());
        run.current_a = Some(Amps::new(80.0).unwrap());
        session.runs = vec![run];
        let checks = check_session(&session);
        assert_eq!(checks[0].code, CheckCode::Balance);
        assert_eq!(checks[0].says, "0.59 dB between the strongest and the weakest; output rear is the weakest.");
    }

    #[test]
    fn accepting_settles_and_an_invalid_run_takes_no_part() {
        let mut session = examples::mono_1100();
        session.runs.truncate(1);
        session.runs[0].current_a = Some(Amps::new(30.0).unwrap());
        session.runs[0].accepted.push(crate::record::session::Acceptance { code: "over-unity".into(), reason: "shunt, checked".into() });
        assert!(check_session(&session)[0].settled);
        session.runs[0].valid = false;
        assert!(check_session(&session).is_empty());
    }
}
