//! The verdict for people: rows with bars, figures with their working, the efficiency against load, what to tell.

use serde::{Deserialize, Serialize};

use crate::assess::Overall;
use crate::assess::Phrase;
use crate::assess::at_volts::{VoltageRow, at_volts};
use crate::assess::judge::{JudgementParts, judged};
use crate::assess::loads::{self, LoadRow};
use crate::assess::sags::{SagRow, sags};
use crate::assess::tell::Tell;
use crate::assess::would_change::{WouldChange, would_change};
use crate::evidence::check::Check;
use crate::evidence::choose::Usable;
use crate::evidence::rungs::rungs;
use crate::kernel::format;
use crate::record::amplifier::SupplyType;
use crate::record::claims::Claim;
use crate::record::session::{CheckCode, Mode, Session, spoken};
use crate::report::rows::{ClaimRow, row, row_of_load};

/// The verdict for people.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct VerdictView {
    /// The word over all.
    pub overall: Option<Overall>,
    /// As shown.
    pub overall_word: String,
    /// "2 of 3 claims tested".
    pub tested: String,
    /// A claim is untested, or a stop unsettled.
    pub provisional: bool,
    /// Outcome of the claims, in sixteen words at most.
    pub heading: Vec<Phrase>,
    /// The details behind it.
    pub phrases: Vec<Phrase>,
    /// Further facts, behind it.
    pub to_know: String,
    /// The line under it: voltages and uncertainty.
    pub basis: String,
    /// Every claim.
    pub rows: Vec<ClaimRow>,
    /// Changes that would alter it.
    pub would_change: Vec<WouldChange>,
    /// Load by load, highest load first.
    pub loads: Vec<LoadRow>,
    /// The supply, run by run.
    pub sags: Vec<SagRow>,
    /// Power at the usual voltages, for every load that was run clean.
    pub at_volts: Vec<VoltageRow>,
    /// Facts to tell an audience.
    pub tell: Vec<Tell>,
    /// Disclosure owed to an audience.
    pub disclosure: String,
    /// Checks that fired.
    pub checks: Vec<Check>,
    /// Gates that were opened, and why.
    pub gates: Vec<String>,
    /// Runs past a gate, out of the verdict until a reason is given.
    pub ungated: usize,
}

impl VerdictView {
    /// The row of the claim with the most watts.
    #[must_use]
    pub fn headline(&self, session: &Session) -> Option<&ClaimRow> {
        let claim = session.headline()?;
        self.rows.iter().find(|row| row.claim_id == claim.id)
    }

    /// The verdict as it is said: heading and details, without the breaks of the page.
    #[must_use]
    pub fn spoken(&self) -> String {
        let joined = |phrases: &[Phrase]| phrases.iter().map(|phrase| phrase.text.as_str()).collect::<String>();
        let parts = [joined(&self.heading), joined(&self.phrases)];
        parts.iter().map(|part| part.trim()).filter(|part| !part.is_empty()).collect::<Vec<_>>().join(" ")
    }
}

/// Makes the verdict for people.
#[must_use]
pub fn view(session: &Session) -> VerdictView {
    let JudgementParts { judgement, usable, loads, told, said, to_know } = judged(session);
    let rows: Vec<ClaimRow> = if session.claims.is_empty() {
        let most_w = usable.iter().map(|u| u.total.total_w).fold(0.0, f64::max);
        rungs(session).iter().filter_map(|rung| row_of_load(session, &usable, &rung.id, most_w)).collect()
    } else {
        session.claims.iter().zip(&judgement.claims).map(|(claim, verdict)| row(session, &usable, claim, verdict)).collect()
    };
    VerdictView {
        overall: judgement.overall,
        overall_word: Overall::word_of(judgement.overall).into(),
        tested: match judgement.claims_in_use {
            0 => "nothing is claimed".into(),
            1 => format!("{} of 1 claim tested", judgement.tested),
            n => format!("{} of {n} claims tested", judgement.tested),
        },
        provisional: judgement.provisional,
        heading: said.heading,
        phrases: said.detail,
        basis: basis(session, &usable),
        rows,
        would_change: would_change(session, &judgement),
        loads: loads::rows(session, &loads),
        sags: sags(session),
        at_volts: at_volts(session, &usable),
        to_know,
        tell: told,
        disclosure: session.amplifier.provenance.disclosure().into(),
        gates: spoken(&session.gates),
        ungated: session.standing_runs().filter(|run| run.ungated).count(),
        checks: once_a_session(judgement.checks),
    }
}

/// Checks that hold of many runs alike, said once: that their supply volts were not read.
fn once_a_session(checks: Vec<Check>) -> Vec<Check> {
    let mut shown: Vec<Check> = Vec::new();
    for check in checks {
        let told = shown.iter_mut().find(|other| check.code == CheckCode::NoSupplyVolts && other.code == check.code);
        match told {
            Some(first) => {
                first.place = "several runs".into();
                first.runs.extend(check.runs);
            }
            None => shown.push(check),
        }
    }
    shown
}

/// The line under the paragraph: at which voltage it is rated, where the bench ended, what was done about it, ±.
fn basis(session: &Session, usable: &[Usable]) -> String {
    let certified: Vec<&Usable> = usable.iter().filter(|u| u.run.mode == Mode::Certified && !u.run.cut_short()).collect();
    let volts: Vec<f64> = certified.iter().filter_map(|u| u.total.end_v).map(|v| v.get()).collect();
    let mut said = Vec::new();
    let in_use = || session.claims.iter().filter(|c| session.is_in_use(c) && c.is_rating());
    let mut rated: Vec<f64> = in_use().filter(|c| c.supply_v.is_some()).map(Claim::reference_v).collect();
    rated.sort_by(f64::total_cmp);
    rated.dedup();
    let rated: Vec<String> = rated.iter().map(|v| format::with_unit(&format::as_read(*v), "V")).collect();
    if !rated.is_empty() {
        said.push(format!("Rated at {}", format::list(&rated)));
    } else if in_use().next().is_some() {
        said.push("No voltage is printed, so it is judged at 14.4\u{202f}V".to_owned());
    }
    if let (Some(low), Some(high)) = (volts.iter().copied().min_by(f64::total_cmp), volts.iter().copied().max_by(f64::total_cmp)) {
        let span = if high - low < 0.005 { format::volts(low) } else { format!("{} to {}", format::volts(low), format::volts(high)) };
        let the = if said.is_empty() { "The" } else { "the" };
        said.push(format!("{the} supply ended at {span}{}V", format::THIN));
    }
    let mut text = if said.is_empty() { String::new() } else { format!("{}.", said.join("; ")) };
    if !volts.is_empty() && in_use().next().is_some() {
        text.push_str(match session.amplifier.supply_type {
            SupplyType::Unregulated => " Unregulated supply, so readings are also brought to the claim’s voltage.",
            SupplyType::Regulated => " Regulated supply: readings count as read within a volt.",
            SupplyType::Unknown => " Regulated or not is not known: the true figure is between as read and brought to the claim’s voltage.",
        });
    }
    let widest = certified.iter().map(|u| 2.0 * u.total.relative_u()).fold(0.0, f64::max);
    if widest > 0.0 {
        text.push_str(&format!(" Watts ±\u{a0}{}\u{202f}% at most, k\u{a0}=\u{a0}2.", format::percent(widest)));
    }
    text
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::kernel::wiring::Wiring;
    use crate::record::session::examples::{claim, mono_1100};

    #[test]
    fn the_drawing_of_the_example() {
        let view = view(&mono_1100());
        let said: String = view
            .heading
            .iter()
            .map(|phrase| format!("{} ", phrase.text))
            .chain(view.phrases.iter().map(|phrase| phrase.text.clone()))
            .collect();
        assert_eq!(said, "It does what the box says. All three claims hold on clean power once the bench’s sag is allowed for.");
        assert_eq!((view.overall_word.as_str(), view.tested.as_str()), ("Pukka", "3 of 3 claims tested"));
        let outcomes: Vec<_> = view.rows.iter().map(|row| row.outcome_words.as_str()).collect();
        assert_eq!(outcomes, ["Holds, within ±", "Holds", "Holds"]);
        assert_eq!(view.rows[0].as_read.as_ref().unwrap().text, "99.3");
        assert_eq!(view.rows[2].at_reference[0].text, "1\u{202f}136");
        let efficiency: Vec<_> = view.loads.iter().map(|row| row.efficiency.as_ref().unwrap().text.as_str()).collect();
        assert_eq!(efficiency, ["75.4", "70.7", "61.4"]);
        let told: Vec<_> = view.tell.iter().map(|tell| tell.says.replace('\u{202f}', " ")).collect();
        assert_eq!(
            told,
            [
                "£0.13 a watt of clean power at 1 Ω: 7.68 W for £1.",
                "At 1 Ω it turns 61.4 % of its draw into output and 671 W as heat.",
                "+0.78 dB of burst headroom at 1 Ω, +0.16 dB of it because the supply was higher: peaks have room that a long tone does not.",
                "At 1 Ω it drew 118.7 % of what its fuses are rated for: it cannot hold that power for long."
            ]
        );
        assert_eq!(
            view.to_know.replace('\u{202f}', " "),
            "At 1 Ω it turns 61.4 % of its draw into output and 671 W as heat. At 1 Ω it drew 118.7 % of what its fuses are rated for: it cannot hold that power for long."
        );
        assert_eq!(
            view.basis.replace(['\u{202f}', '\u{a0}'], " "),
            "Rated at 14.4 V; the supply ended at 13.96 to 14.38 V. Unregulated supply, so readings are also brought to the claim’s voltage. Watts ± 1.2 % at most, k = 2."
        );
    }

    #[test]
    fn bars_never_run_off_and_the_mark_moves_instead() {
        let mut session = mono_1100();
        session.claims[0] = claim("c1", Wiring::Mono, 4.0, 100.0);
        let row = &view(&session).rows[0];
        assert!(row.bars.iter().all(|bar| bar.fraction <= 0.861));
        assert!(row.claim_fraction.unwrap() < 0.2);
    }

    #[test]
    fn each_kind_of_burst_has_a_bar_of_its_own_and_only_one_speaks() {
        let mut session = mono_1100();
        let counted = |count: u32, volts: f64| {
            let mut run = session.runs[2].clone();
            let end = serde_json::json!({ "volts_peak": volts });
            let last = if count > 1 { end.clone() } else { serde_json::Value::Null };
            run.cycles = serde_json::from_value(serde_json::json!({ "count": count, "first": end, "last": last })).unwrap();
            (run.id, run.outputs) = (format!("b{count}"), Vec::new());
            run
        };
        let more = [counted(20, 60.0), counted(1, 70.0)];
        session.runs.extend(more);
        let bars = view(&session).rows[0].bars.clone();
        let drawn: Vec<(u32, Option<&str>)> = bars.iter().map(|bar| (bar.track, bar.burst.as_deref())).collect();
        assert_eq!(drawn, [(0, None), (1, None), (2, None), (3, Some("1 cycle")), (4, Some("20 cycles"))]);
        // 70²/(2 · 3.91) = 627 W: the longest bar, and no headroom of it.
        assert_eq!(bars[3].total.text, "627");
        assert!(bars.iter().all(|bar| bar.fraction <= 0.861));
        session.runs.retain(|run| run.id != "r3");
        let bars = view(&session).rows[0].bars.clone();
        assert_eq!((bars[2].track, bars[2].burst.as_deref()), (2, Some("20 cycles")), "without a standard burst it speaks");
        let sheet = crate::report::sheet::sheet(&session);
        assert!(sheet.rows.iter().any(|row| row.mode_words == "dynamic, 20 cycles"));
    }

    #[test]
    fn an_empty_session_has_a_verdict_too() {
        let mut session = mono_1100();
        session.claims.clear();
        session.runs.clear();
        let view = view(&session);
        assert_eq!((view.overall, view.overall_word.as_str()), (None, "What it makes"));
        assert_eq!(view.heading[0].text, "No claims and no runs yet.");
        assert!(view.rows.is_empty() && view.tell.is_empty() && view.loads.is_empty());
    }
}
