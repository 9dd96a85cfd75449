//! A mixed wiring is judged by its total; what each of its groups made of its own claim is said beside it.

use crate::assess::powers::{margin, of_wiring};
use crate::assess::{ClaimVerdict, Judgement};
use crate::evidence::total;
use crate::record::claims::Claim;
use crate::record::session::Session;

/// A group of a claim: "2 channels into 4 Ω: 57 W × 2 of 75 W × 2, 24.0 % short".
fn words(session: &Session, claim: &Claim, verdict: &ClaimVerdict) -> Option<Vec<String>> {
    let (groups, claimed) = (claim.wiring?.groups()?, claim.group_totals_w());
    let made = verdict.runs.iter().filter_map(|id| session.run(id)).find(|run| Some(run.wiring) == claim.wiring)?;
    let made = total(session, made).ok()?.group_w;
    let each = groups.iter().zip(made).zip(claimed);
    let words = each.map(|((group, made_w), claimed_w)| {
        let of = |total_w: f64| of_wiring(group.wiring.into(), total_w);
        format!("{}: {} of {}, {}", group.words(), of(made_w), of(claimed_w), margin(made_w, claimed_w))
    });
    Some(words.collect())
}

/// Power that each group of a claim made; nothing where it is not mixed, or no run of its own speaks for it.
#[must_use]
pub fn remark(session: &Session, claim: &Claim, verdict: &ClaimVerdict) -> Option<String> {
    words(session, claim, verdict).filter(|words| !words.is_empty()).map(|words| words.join("; "))
}

/// The same of every claim, as a sentence.
pub(super) fn sentence(session: &Session, judgement: &Judgement) -> Option<String> {
    let each = session.claims.iter().zip(&judgement.claims).filter(|(claim, _)| claim.used);
    let said: Vec<String> = each.filter_map(|(claim, verdict)| words(session, claim, verdict)).flatten().collect();
    (!said.is_empty()).then(|| format!("By group: {}.", said.join("; ")))
}
