//! Guesses against what was measured: how far off each is, and which is nearest.

use serde::{Deserialize, Serialize};

use crate::kernel::format;
use crate::record::session::Session;
use crate::report::view::VerdictView;

/// A guess that was opened.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ScoredGuess {
    /// Name, as the session may show it.
    pub by: String,
    /// Watts guessed, as shown.
    pub watts: String,
    /// Off what was measured, as shown with its sign: "+52 W"; nothing before the run.
    pub off: Option<String>,
    /// The nearest; of equals the one that was handed in first.
    pub nearest: bool,
}

/// Opened guesses, the nearest first, and the figure they are held against.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct GuessScores {
    /// Clean watts measured at the headline claim, as shown with the load; nothing before the run.
    pub measured: Option<String>,
    /// Guesses.
    pub guesses: Vec<ScoredGuess>,
}

/// Scores a session's guesses; none while they are sealed.
#[must_use]
pub fn scores(session: &Session, view: &VerdictView) -> GuessScores {
    let Some(opened) = session.guesses.as_ref().filter(|guesses| guesses.is_open()) else { return GuessScores::default() };
    let clean = view.headline(session).and_then(|row| Some((row, row.clean_w()?)));
    let mut order: Vec<(usize, f64)> =
        opened.list.iter().enumerate().map(|(n, guess)| (n, clean.map_or(0.0, |(_, watts)| guess.power_w.get() - watts))).collect();
    order.sort_by(|a, b| a.1.abs().total_cmp(&b.1.abs()).then(a.0.cmp(&b.0)));
    let guesses = order.into_iter().enumerate().filter_map(|(place, (n, off_w))| {
        let guess = opened.list.get(n)?;
        Some(ScoredGuess {
            by: guess.by.clone(),
            watts: format::with_unit(&format::watts(guess.power_w.get()), "W"),
            off: clean.map(|_| signed(off_w)),
            nearest: clean.is_some() && place == 0,
        })
    });
    GuessScores {
        measured: clean.map(|(row, watts)| format!("{} clean into {}", format::with_unit(&format::watts(watts), "W"), row.load)),
        guesses: guesses.collect(),
    }
}

fn signed(off_w: f64) -> String {
    let sign = if off_w < 0.0 { "−" } else { "+" };
    format::with_unit(&format!("{sign}{}", format::fixed(off_w.abs(), 0)), "W")
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use super::*;
    use crate::record::session::examples::mono_1100;
    use crate::report::view::view;

    #[test]
    fn the_nearest_comes_first_and_a_seal_says_nothing() {
        let mut session = mono_1100();
        session.guesses = serde_json::from_value(json!({ "sha256": "0".repeat(64), "sealed_at": "2026-11-20T09:00:00Z", "salt": "grit",
            "list": [{ "by": "Wren", "power_w": 1_120.0 }, { "by": "Tarrow", "power_w": 1_050.0 }, { "by": "Oakshott", "power_w": 1_086.0 }] }))
        .unwrap();
        let found = scores(&session, &view(&session));
        let plain = |text: &str| text.replace(['\u{202f}', '\u{a0}'], " ");
        assert_eq!(found.measured.as_deref().map(plain).as_deref(), Some("1 068 W clean into 1 Ω"));
        let said: Vec<(&str, String, bool)> =
            found.guesses.iter().map(|guess| (guess.by.as_str(), plain(guess.off.as_deref().unwrap()), guess.nearest)).collect();
        // 18 W off both ways: the first handed in
        assert_eq!(said, [("Tarrow", "−18 W".into(), true), ("Oakshott", "+18 W".into(), false), ("Wren", "+52 W".into(), false)]);
        session.guesses.as_mut().unwrap().sealed = true;
        assert_eq!(scores(&session, &view(&session)), GuessScores::default());
        session.guesses.as_mut().unwrap().sealed = false;
        session.runs.clear();
        let before = scores(&session, &view(&session));
        assert!(before.measured.is_none() && before.guesses.iter().all(|guess| guess.off.is_none() && !guess.nearest));
    }
}
