//! How it is known that a level is down, or a supply off: by reading back, or else by an answer to what was asked behind it.

use pukka_core::instruments::{LevelUnit, Profile, Role};

use super::link::LinkFault;

/// Read back at or below this, a level is down, dB.
const DOWN_DB: f64 = -60.0;

/// Whether an answer says that an output is off.
pub fn is_off(answer: &str) -> bool {
    let answer = answer.trim();
    answer.eq_ignore_ascii_case("OFF") || answer.parse::<f64>().is_ok_and(|state| state == 0.0)
}

/// Messages that take a level away, and the proof of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Proof {
    /// Lines that take it away.
    pub lines: Vec<String>,
    /// Questions behind them; each is answered by one line.
    pub queries: Vec<String>,
    level: Option<(String, LevelUnit, f64)>,
    output: Option<String>,
}

impl Proof {
    /// Of a generator or a supply; nothing of what has nothing to take away.
    #[must_use]
    pub fn of(profile: &Profile, role: Role) -> Option<Self> {
        let (lines, level, output) = match role {
            Role::Generator => {
                let playing = profile.generator.as_ref()?;
                let level = playing.read_level.clone().map(|query| (query, playing.unit, playing.full_v));
                (playing.zero.clone(), level, playing.read_output.clone())
            }
            Role::Supply => {
                let feeding = profile.supply.as_ref()?;
                (feeding.off.clone(), None, feeding.read_output.clone())
            }
            _ => return None,
        };
        let mut queries: Vec<String> = level.iter().map(|(query, ..)| query.clone()).chain(output.clone()).collect();
        if queries.is_empty() {
            queries.push(profile.identify.clone());
        }
        Some(Self { lines, queries, level, output })
    }

    /// By an answer alone.
    #[must_use]
    pub fn answered(profile: &Profile) -> Self {
        Self { lines: Vec::new(), queries: vec![profile.identify.clone()], level: None, output: None }
    }

    /// Whether it reads back, and is not only answered.
    #[must_use]
    pub const fn is_read_back(&self) -> bool {
        self.level.is_some() || self.output.is_some()
    }

    /// The questions that read it back.
    pub fn reads_back(&self) -> impl Iterator<Item = &String> {
        self.queries.iter().filter(|_| self.is_read_back())
    }

    /// Whether an answer says that it is down.
    ///
    /// # Errors
    /// [`LinkFault::NotObeyed`].
    pub fn accepts(&self, query: &str, answer: &str) -> Result<(), LinkFault> {
        let answer = answer.trim();
        if let Some((_, unit, full_v)) = self.level.as_ref().filter(|(asked, ..)| asked == query) {
            // The whole answer is a number: what belongs to another question is none.
            let level = answer.parse::<f64>().map(|number| unit.level_db(number, *full_v));
            return match level {
                Ok(level) if level <= DOWN_DB => Ok(()),
                _ => Err(LinkFault::NotObeyed(format!("its level reads “{answer}”"))),
            };
        }
        if self.output.as_deref() == Some(query) {
            return if is_off(answer) { Ok(()) } else { Err(LinkFault::NotObeyed(format!("its output reads “{answer}”"))) };
        }
        Ok(())
    }

    /// Whether the answers to all questions say so. A level that is down is enough where the output cannot be switched, and the other
    /// way round.
    ///
    /// # Errors
    /// The first that says no, when none says yes; an answer that is none of its question's is a no to both.
    pub fn all(&self, answers: &[String]) -> Result<(), LinkFault> {
        let found: Vec<Result<(), LinkFault>> =
            self.queries.iter().zip(answers).map(|(query, answer)| self.accepts(query, answer)).collect();
        if found.iter().any(Result::is_ok) { Ok(()) } else { found.into_iter().next().unwrap_or(Ok(())) }
    }
}

#[cfg(test)]
mod tests {
    use pukka_core::instruments::GENERIC;

    use super::*;

    fn proof() -> Proof {
        Proof::of(&Profile::parse(GENERIC).unwrap(), Role::Generator).unwrap()
    }

    fn says(answers: [&str; 2]) -> Result<(), LinkFault> {
        proof().all(&answers.map(str::to_owned))
    }

    #[test]
    fn down_is_what_reads_so() {
        assert_eq!(proof().queries, ["LEV?", "OUTP?"]);
        assert_eq!(says(["-1.200000E2", "0"]), Ok(()));
        assert_eq!(says(["-120", "1"]), Ok(()), "an output that cannot be switched, its level down");
        assert_eq!(says(["-3.1", "OFF"]), Ok(()), "a level that stays, its output off");
        assert_eq!(says(["-3.1", "1"]), Err(LinkFault::NotObeyed("its level reads “-3.1”".into())));
        assert!(says(["0,\"No error\"", "-3.1"]).is_err(), "answers to other questions prove nothing");
    }

    #[test]
    fn a_supply_is_off_when_it_says_so() {
        let supply = Proof::of(&Profile::parse(GENERIC).unwrap(), Role::Supply).unwrap();
        assert_eq!(
            (supply.lines.as_slice(), supply.queries.as_slice()),
            (["OUTP OFF".to_owned()].as_slice(), ["OUTP?".to_owned()].as_slice())
        );
        assert!(supply.all(&["0".into()]).is_ok() && supply.all(&["1".into()]).is_err());
        assert_eq!(Proof::of(&Profile::parse(GENERIC).unwrap(), Role::Analyser), None);
    }
}
