//! What leaves the house: a shared file has nothing private in it, a full one has all.

use serde::{Deserialize, Serialize};

use crate::record::session::Session;

/// Purpose of a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Audience {
    /// One's own: everything.
    #[default]
    Full,
    /// For others: without names, consents, who pays, and loans.
    Shared,
}

impl Session {
    /// The session as `audience` may see it.
    #[must_use]
    pub fn for_audience(self, audience: Audience) -> Self {
        match audience {
            Audience::Full => self,
            Audience::Shared => self.shared(),
        }
    }

    /// Without what is private: who opened a gate, their second reasons, owners' consents, who logged a run, the loan, tags, and
    /// guessers who did not agree to be named; and sealed guesses.
    fn shared(mut self) -> Self {
        self.amplifier.loan = None;
        (self.amplifier.tags, self.amplifier.archived) = (Vec::new(), false);
        for gate in &mut self.gates {
            gate.by.clear();
            gate.second_reason = None;
            gate.owner_consent = None;
        }
        for run in &mut self.runs {
            run.who = None;
        }
        if let Some(guesses) = &mut self.guesses {
            if guesses.sealed {
                guesses.salt = None;
                guesses.list.clear();
            }
            let mut unnamed = 0;
            for guess in guesses.list.iter_mut().filter(|guess| !guess.may_be_named) {
                unnamed += 1;
                guess.by = format!("guesser {unnamed}");
            }
        }
        self
    }
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use super::*;
    use crate::record::session::examples::mono_1100;

    #[test]
    fn a_shared_file_names_nobody_and_is_judged_alike() {
        let mut session = mono_1100();
        session.amplifier.tags = vec!["van".into()];
        session.amplifier.archived = true;
        session.amplifier.loan = serde_json::from_value(json!({ "lent_by": "R. Oakshott" })).unwrap();
        session.gates.push(
            serde_json::from_value(json!({ "code": "below-floor", "load_ohm": 0.67, "mode": "dynamic", "reason": "agreed",
                "by": "M. Tarrow", "second_reason": "M. Tarrow asked twice",
                "owner_consent": { "by": "R. Oakshott", "on": "2026-11-20", "who_pays": "R. Oakshott" } }))
            .unwrap(),
        );
        session.runs[0].who = Some("M. Tarrow".into());
        session.guesses = serde_json::from_value(json!({ "sha256": "0".repeat(64), "sealed_at": "2026-11-20T09:00:00Z", "salt": "grit",
            "list": [{ "by": "P. Tarrow", "power_w": 900.0, "may_be_named": false }, { "by": "Wren", "power_w": 1_000.0, "may_be_named": true }] }))
        .unwrap();
        assert_eq!(session.clone().for_audience(Audience::Full), session);
        let text = session.clone().for_audience(Audience::Shared).to_file().unwrap().to_string();
        assert!(!text.contains("Tarrow") && !text.contains("Oakshott"), "{text}");
        assert!(!text.contains("\"tags\"") && !text.contains("archived"), "tags are one's own: {text}");
        assert!(text.contains("Wren") && text.contains("agreed"), "what may be said stays");
        let mut sealed = session.clone();
        sealed.guesses.as_mut().unwrap().sealed = true;
        let text = sealed.for_audience(Audience::Shared).to_file().unwrap().to_string();
        assert!(!text.contains("Wren") && !text.contains("grit") && text.contains(&"0".repeat(64)), "a seal is a hash and no more");
        let read = Session::read(text.as_bytes()).unwrap();
        let judged = |session: &Session| crate::assess::judge::judge(session);
        assert_eq!(judged(&read), judged(&session));
    }
}
