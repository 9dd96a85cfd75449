//! What changed of one amplifier from one session to another: place by place, with what of it is outside both ±.

use serde::{Deserialize, Serialize};

use super::apart::{both_u_w, share};
use super::{Comparison, Contender, Joined, Per, is_apart, with_joined};
use crate::kernel::format;
use crate::kernel::working::{Figure, Working, source};

/// What changed at a place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RetestChange {
    /// The later power less the earlier, in percent of the earlier, with its ±; nothing where they cannot be joined.
    pub percent: Option<Figure>,
    /// The same as it is shown, with its sign: "−5.2 % ± 3.1".
    pub says: String,
    /// Whether the two are told apart.
    pub apart: bool,
}

/// What changed from one session to another.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Changes {
    /// The two side by side: the earlier first.
    pub comparison: Comparison,
    /// What changed, one for each row of the comparison.
    pub changes: Vec<RetestChange>,
    /// All of it in a sentence.
    pub says: String,
}

/// Sets the later session of an amplifier against an earlier one, at a voltage.
#[must_use]
pub fn changes(earlier: Contender, later: Contender, volts: f64) -> Changes {
    let (comparison, joined) = with_joined(&[earlier, later], volts, Per::Total);
    let changes: Vec<RetestChange> = joined
        .iter()
        .map(|cells| match cells.as_slice() {
            [Some(before), Some(after)] => RetestChange::of(before, after),
            _ => RetestChange { percent: None, says: "not both".into(), apart: false },
        })
        .collect();
    let says = sum(&comparison, &changes);
    Changes { comparison, changes, says }
}

impl RetestChange {
    fn of(before: &Joined, after: &Joined) -> Self {
        let (up, down) = (after.low_w - before.high_w, after.high_w - before.low_w);
        // Bands that overlap leave no difference to speak of.
        let (difference_w, u_w, reference_w) = if up > 0.0 {
            (up, both_u_w(after, before), before.high_w)
        } else if down < 0.0 {
            (down, both_u_w(before, after), before.low_w)
        } else {
            (0.0, both_u_w(after, before), before.high_w)
        };
        let apart = is_apart(after, before) || is_apart(before, after);
        let (percent, u) = (100.0 * difference_w / reference_w, 100.0 * u_w / reference_w);
        let shared = if share(before, after) { "½·√(U1² + U2²): the same meter and load made both" } else { "√(U1² + U2²)" };
        let working = Working::new("Change of power", "100 · (P2 − P1) / P1", source::METHOD)
            .with("P2", "the later power at this voltage", reference_w + difference_w, "W")
            .with("P1", "the earlier", reference_w, "W")
            .with_text("±", "what it can be off", shared.into());
        let text = format::signed(percent, 1);
        let figure = Figure { text, ..Figure::percent(percent / 100.0, working) }.give_or_take(Some(u));
        Self { says: figure.words_with_u(), percent: Some(figure), apart }
    }
}

/// What is told apart, the largest first.
fn sum(comparison: &Comparison, changes: &[RetestChange]) -> String {
    let joined = changes.iter().filter(|change| change.percent.is_some()).count();
    if joined == 0 {
        return "No power of one can be set against one of the other.".into();
    }
    let value = |change: &RetestChange| change.percent.as_ref().map_or(0.0, |percent| percent.value);
    let mut apart: Vec<_> = changes.iter().zip(&comparison.rows).filter(|(change, _)| change.apart).collect();
    if apart.is_empty() {
        return format!("None of {joined} powers changed beyond what both can be off.");
    }
    apart.sort_by(|a, b| value(b.0).abs().total_cmp(&value(a.0).abs()));
    let each = apart.iter().map(|(change, row)| {
        let percent = value(change);
        let by = format::with_unit(&format::fixed(percent.abs(), 1), "%");
        format!("{by} {} at {}, {}", if percent < 0.0 { "less" } else { "more" }, row.load, row.mode_words)
    });
    let each: Vec<String> = each.collect();
    format!("{} of {joined} changed beyond what both can be off: {}.", apart.len(), each.join("; "))
}

#[cfg(test)]
mod tests {
    use super::super::tests::plain;
    use super::*;
    use crate::assess::judge::judge;
    use crate::kernel::units::Watts;
    use crate::record::session::Session;
    use crate::record::session::examples::mono_1100;

    fn between(before: &Session, after: &Session) -> Changes {
        let checks = [judge(before).checks, judge(after).checks];
        let one = |n: usize, session| Contender { id: "a", of: Some(["1 May", "2 June"][n]), session, checks: &checks[n], overall: None };
        changes(one(0, before), one(1, after), 14.4)
    }

    #[test]
    fn nothing_changed_is_said_so() {
        let same = between(&mono_1100(), &mono_1100());
        assert_eq!(same.says, "None of 9 powers changed beyond what both can be off.");
        assert!(same.changes.iter().all(|change| !change.apart && change.percent.as_ref().unwrap().value.abs() < 1e-9));
        assert_eq!(same.comparison.heads[1].name, "Tolland & Pike Mono 1100 of 2 June");
    }

    #[test]
    fn a_change_beyond_both_is_told_with_its_percent_and_a_smaller_one_is_not() {
        let before = mono_1100();
        let weaker = |factor: f64| {
            let mut after = mono_1100();
            let watts = after.runs[3].outputs[0].power_w.unwrap().get();
            after.runs[3].outputs[0].power_w = Some(Watts::new(watts * factor).unwrap());
            between(&before, &after)
        };
        let less = weaker(0.85);
        let at = less.changes.iter().position(|change| change.apart).unwrap();
        let percent = less.changes[at].percent.clone().unwrap();
        assert!((percent.value + 15.0).abs() < 1e-9, "both were made at one voltage: {}", percent.value);
        assert_eq!(plain(&less.says), "1 of 9 changed beyond what both can be off: 15.0 % less at 2 Ω, certified.");
        assert!(plain(&less.changes[at].says).starts_with("−15.0 % ± "), "{}", less.changes[at].says);
        // U of the difference from the two U of the figures as they are shown, by the rule of the method.
        let number = |text: &Option<String>| text.as_deref().unwrap().parse::<f64>().unwrap();
        let cells = less.comparison.rows[at].cells.iter().map(|cell| &cell.as_ref().unwrap().power);
        let (power, u): (Vec<f64>, Vec<f64>) = cells.map(|power| (power.value, number(&power.plus_minus))).unzip();
        let (both, shown) = (100.0 * u[0].hypot(u[1]) / power[0], number(&percent.plus_minus));
        assert!((shown - both).abs() < 0.1 || (shown - both / 2.0).abs() < 0.1, "{shown} of {both}");
        // A hair inside is none, a hair outside is one.
        assert!(weaker(1.0 - 0.009 * shown).changes.iter().all(|change| !change.apart));
        assert!(weaker(1.0 - 0.011 * shown).changes.iter().any(|change| change.apart));
    }

    #[test]
    fn what_was_made_at_volts_that_nobody_read_is_not_joined() {
        let mut after = mono_1100();
        for run in &mut after.runs {
            run.end_v = None;
        }
        let none = between(&mono_1100(), &after);
        assert_eq!(none.says, "No power of one can be set against one of the other.");
        assert!(none.changes.iter().all(|change| change.percent.is_none() && !change.apart));
    }
}
