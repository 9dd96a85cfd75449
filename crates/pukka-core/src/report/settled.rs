//! A verdict that was settled: as it stood that day, by which version of the rules; and what has changed since.

use serde::{Deserialize, Serialize};
use serde_json::Value;

use crate::assess::{ClaimVerdict, Judgement, Overall};
use crate::kernel::format;
use crate::record::claims::Claim;
use crate::record::session::{Run, Session};

/// A verdict as it was settled: the session it stands on, whole, and the judgement made of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SettledVerdict {
    /// Version of the rules that made it.
    pub rules_version: u32,
    /// The session file as it was.
    pub session: Session,
    /// Outcome of its claims.
    pub judgement: Judgement,
}

impl SettledVerdict {
    /// Settles the verdict of a session as it stands.
    #[must_use]
    pub fn now(session: &Session) -> Self {
        Self { rules_version: crate::RULES_VERSION, session: session.clone(), judgement: crate::assess::judge(session) }
    }

    /// Differences now, in sentences; none when it stands as it was settled.
    #[must_use]
    pub fn changes(&self, session: &Session) -> Vec<String> {
        let judgement = crate::assess::judge(session);
        let mut changes = Vec::new();
        if self.judgement.overall != judgement.overall {
            changes.push(format!(
                "Overall it went from {} to {}.",
                Overall::word_of(self.judgement.overall),
                Overall::word_of(judgement.overall)
            ));
        }
        changes.extend(claims(self, session, &judgement));
        changes.extend(runs(&self.session, session));
        changes.extend(checks(&self.judgement, &judgement));
        for (what, then, now) in [
            ("The amplifier’s record", judged_by(&self.session), judged_by(session)),
            ("The bench", json(&self.session.bench), json(&session.bench)),
            ("The policy", json(&self.session.policy), json(&session.policy)),
        ] {
            if then != now {
                changes.push(format!("{what} was changed."));
            }
        }
        if self.rules_version != crate::RULES_VERSION {
            changes.push(format!(
                "It was locked under version {} of the rules; this is version {}.",
                self.rules_version,
                crate::RULES_VERSION
            ));
        }
        changes
    }
}

fn json(value: &impl Serialize) -> Value {
    serde_json::to_value(value).unwrap_or_default()
}

/// Parts of the amplifier's record that the judgement, or the sheet, uses.
fn judged_by(session: &Session) -> Value {
    let a = &session.amplifier;
    json(&(&a.make, &a.model, a.class, a.purpose, a.supply_type, a.channels, &a.fuses_a, &a.floors, &a.price, a.provenance))
}

fn name(claim: &Claim) -> String {
    let watts = claim.total_w().map_or_else(|| "no watts".into(), |w| format::with_unit(&format::watts(w), "W"));
    let load = claim.place().map(|(wiring, load)| format!(" into {}", wiring.load_words(load))).unwrap_or_default();
    format!("{watts}{load}")
}

fn claims(then: &SettledVerdict, session: &Session, judgement: &Judgement) -> Vec<String> {
    let pairs = |session: &Session, judgement: &Judgement| -> Vec<(Claim, ClaimVerdict)> {
        session.claims.iter().cloned().zip(judgement.claims.iter().cloned()).collect()
    };
    let (before, after) = (pairs(&then.session, &then.judgement), pairs(session, judgement));
    let mut changes = Vec::new();
    for (claim, verdict) in &after {
        match before.iter().find(|(old, _)| old.id == claim.id) {
            None => changes.push(format!("{} is claimed now, too: {}.", name(claim), verdict.outcome.words().to_lowercase())),
            Some((old, was)) if was.outcome != verdict.outcome => changes.push(format!(
                "{}: from {} to {}.",
                name(if old == claim { claim } else { old }),
                was.outcome.words().to_lowercase(),
                verdict.outcome.words().to_lowercase()
            )),
            Some((old, was)) => {
                if old != claim {
                    changes.push(format!("The claim {} was changed.", name(old)));
                }
                let moved = was.as_read_w().zip(verdict.as_read_w()).filter(|(then, now)| (now / then - 1.0).abs() > 1e-9);
                if let Some((then_w, now_w)) = moved {
                    let watts = |w: f64| format::with_unit(&format::watts(w), "W");
                    changes.push(format!("{} stands on {} instead of {}.", name(claim), watts(now_w), watts(then_w)));
                }
            }
        }
    }
    let gone = before.iter().filter(|(old, _)| after.iter().all(|(claim, _)| claim.id != old.id));
    changes.extend(gone.map(|(old, _)| format!("{} is no longer claimed.", name(old))));
    changes
}

fn runs(then: &Session, now: &Session) -> Vec<String> {
    let standing = |session: &Session, id: &str| session.standing_runs().any(|run| run.id == id);
    let new: Vec<&Run> = now.standing_runs().filter(|run| then.run(&run.id).is_none()).collect();
    let fell = then.standing_runs().filter(|run| !standing(now, &run.id)).count();
    let rose = now.standing_runs().filter(|run| then.run(&run.id).is_some() && !standing(then, &run.id)).count();
    let altered = now.standing_runs().filter(|run| then.run(&run.id).is_some_and(|old| standing(then, &run.id) && old != *run)).count();
    let say =
        |n: usize, what: &str| (n > 0).then(|| format!("{} {} {what}.", format::count_capital(n), if n == 1 { "run" } else { "runs" }));
    let verb = |n: usize, one: &'static str, many: &'static str| if n == 1 { one } else { many };
    [
        say(new.len(), verb(new.len(), "was logged since", "were logged since")),
        say(fell, verb(fell, "was withdrawn or corrected", "were withdrawn or corrected")),
        say(rose, verb(rose, "stands again", "stand again")),
        say(
            altered,
            verb(
                altered,
                "has a reading struck, a check accepted or a gate answered",
                "have a reading struck, a check accepted or a gate answered",
            ),
        ),
    ]
    .into_iter()
    .flatten()
    .collect()
}

fn checks(then: &Judgement, now: &Judgement) -> Vec<String> {
    let open = |judgement: &Judgement| {
        judgement.checks.iter().filter(|check| !check.settled).map(|check| (check.code, check.runs.clone())).collect::<Vec<_>>()
    };
    let before = open(then);
    let fresh = now.checks.iter().filter(|check| !check.settled && !before.contains(&(check.code, check.runs.clone())));
    fresh.map(|check| format!("A check fires now: {}, {}", check.place, check.title)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::kernel::wiring::Wiring;
    use crate::record::session::Mode;
    use crate::record::session::examples::{claim, mono_1100, run};

    #[test]
    fn what_changed_since_is_said() {
        let mut session = mono_1100();
        let settled = SettledVerdict::now(&session);
        assert!(settled.changes(&session).is_empty(), "{:?}", settled.changes(&session));
        session.runs.push(run("late", Wiring::Mono, 4.0, Mode::Certified, 480.0, Some(14.4)));
        session.claims.push(claim("c4", Wiring::Mono, 0.5, 1_500.0));
        session.runs[3].valid = false;
        let said: Vec<String> = settled.changes(&session).into_iter().map(|says| says.replace('\u{202f}', " ")).collect();
        assert!(said.contains(&"450 W into 4 Ω: from holds, within ± to holds.".to_owned()), "{said:?}");
        assert!(said.contains(&"One run was logged since.".to_owned()), "{said:?}");
        assert!(said.contains(&"One run was withdrawn or corrected.".to_owned()), "{said:?}");
        assert!(said.iter().any(|says| says.starts_with("1 500 W into 0.5 Ω is claimed now")), "{said:?}");
        assert!(said.contains(&"Overall it went from Pukka to Open.".to_owned()), "{said:?}");
        let older = SettledVerdict { rules_version: 1, ..settled };
        assert!(older.changes(&mono_1100())[0].starts_with("It was locked under version 1 of the rules"));
    }

    #[test]
    fn a_settled_verdict_survives_being_kept() {
        let settled = SettledVerdict::now(&mono_1100());
        let kept: SettledVerdict = serde_json::from_str(&serde_json::to_string(&settled).unwrap()).unwrap();
        assert_eq!(kept.session, settled.session);
        assert!(kept.changes(&mono_1100()).is_empty());
    }
}
