//! The paragraph under the verdict, written from the facts.

use serde::{Deserialize, Serialize};

use crate::assess::overall::{Overall, is_tested};
use crate::assess::tell::Tell;
use crate::assess::{ClaimVerdict, Judgement, Outcome, ProofBasis};
use crate::evidence::choose::{Usable, choose_for_claim, interpolate};
use crate::kernel::format;
use crate::record::claims::{Claim, ClaimKind};
use crate::record::session::{Mode, Session};

/// How a phrase is set.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Stress {
    /// As the rest.
    Plain,
    /// Proved.
    Proved,
    /// In doubt.
    Doubt,
    /// Disproved.
    Failed,
}

/// A piece of the paragraph.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Phrase {
    /// Its words.
    pub text: String,
    /// How it is set.
    pub stress: Stress,
}

fn phrase(stress: Stress, text: impl Into<String>) -> Phrase {
    Phrase { text: text.into(), stress }
}

/// The pieces as one text, with what else there is to know behind them.
pub fn text(phrases: &[Phrase], to_know: &str) -> String {
    let said: String = phrases.iter().map(|phrase| phrase.text.as_str()).collect();
    if to_know.is_empty() { said } else { format!("{said} {to_know}") }
}

/// Of what there is to tell, what belongs into the paragraph.
pub fn to_know(told: &[Tell]) -> String {
    told.iter().filter(|tell| tell.matters).map(|tell| tell.says.as_str()).collect::<Vec<_>>().join(" ")
}

struct Facts<'a> {
    session: &'a Session,
    judgement: &'a Judgement,
    usable: &'a [Usable<'a>],
    /// Claims in use with their verdicts, tested or not.
    in_use: Vec<(&'a Claim, &'a ClaimVerdict)>,
}

impl<'a> Facts<'a> {
    fn overall(&self) -> Overall {
        self.judgement.overall.unwrap_or(Overall::Open)
    }

    fn which(&self, wanted: impl Fn(&ClaimVerdict) -> bool) -> Vec<(&'a Claim, &'a ClaimVerdict)> {
        self.in_use.iter().copied().filter(|(_, verdict)| wanted(verdict)).collect()
    }
}

/// Writes the paragraph.
pub fn phrases<'a>(session: &'a Session, judgement: &'a Judgement, usable: &'a [Usable<'a>]) -> Vec<Phrase> {
    let paired = || session.claims.iter().zip(&judgement.claims).filter(|(claim, _)| session.is_in_use(claim));
    let ratings: Vec<_> = paired().filter(|(claim, _)| claim.is_rating()).collect();
    let in_use = if ratings.is_empty() { paired().collect() } else { ratings };
    let facts = Facts { session, judgement, usable, in_use };
    if facts.in_use.is_empty() {
        return vec![phrase(Stress::Plain, "Nothing to judge yet: no claim is in use.")];
    }
    let mut phrases = match judgement.overall.unwrap_or(Overall::Open) {
        Overall::Open => open(&facts),
        Overall::Modest => vec![
            phrase(Stress::Plain, "It gives more than it says. "),
            phrase(Stress::Proved, format!("{} beaten", subject(facts.which(is_tested).len(), facts.in_use.len(), "is", "are"))),
            phrase(Stress::Plain, " on clean power."),
        ],
        Overall::Pukka => holds(&facts),
        Overall::NearEnough | Overall::Optimistic | Overall::TallTale => falls_short(&facts),
    };
    phrases.extend(missed_max(&facts));
    phrases.extend(death(session));
    phrases
}

/// "All three claims hold", "Both claims hold", "Two of three claims hold", with the verb to match.
fn subject(n: usize, of: usize, one: &str, many: &str) -> String {
    match (n, of) {
        (1, 1) => format!("Its one claim {one}"),
        (2, 2) => format!("Both claims {many}"),
        (n, of) if n == of => format!("All {} claims {many}", format::count(n)),
        (n, of) => {
            let verb = if n == 1 { one } else { many };
            format!("{} of {} claims {verb}", format::count_capital(n), format::count(of))
        }
    }
}

fn holds(facts: &Facts) -> Vec<Phrase> {
    let proved = facts.which(|verdict| verdict.outcome.is_proved());
    let brought = proved.iter().any(|(_, verdict)| verdict.basis == Some(ProofBasis::AtReference));
    let within = proved.iter().any(|(_, verdict)| verdict.basis == Some(ProofBasis::Uncertainty));
    let end = match (brought, within) {
        (true, _) => " on clean power once the bench’s sag is allowed for.",
        (false, true) => " on clean power, within what the meters can tell.",
        (false, false) => " on clean power, as read.",
    };
    let met = facts.which(|verdict| verdict.outcome == Outcome::MaxMet);
    if !met.is_empty() {
        return vec![
            phrase(Stress::Plain, "It states no continuous rating. "),
            phrase(Stress::Proved, subject(met.len(), facts.in_use.len(), "is reached", "are reached")),
            phrase(Stress::Plain, " in one mode or another."),
        ];
    }
    let raised = proved.iter().any(|(_, verdict)| verdict.at_reference_w.is_some_and(|[low, _]| verdict.as_read_w() < Some(low)));
    let end = if brought && !raised { " on clean power, brought to the claim’s voltage." } else { end };
    vec![
        phrase(Stress::Plain, "It does what the box says. "),
        phrase(Stress::Proved, subject(proved.len(), facts.in_use.len(), "holds", "hold")),
        phrase(Stress::Plain, end),
    ]
}

fn into_load(claim: &Claim) -> String {
    let load = claim.load_ohm.map(|load| format!("into {}{}Ω", format::ohms(load.get()), format::THIN));
    let wiring = claim.wiring.filter(|wiring| wiring.outputs() > 1 || matches!(wiring, crate::kernel::wiring::Wiring::Bridged { .. }));
    let setting = claim.setting.as_ref().map(|setting| format!("at “{setting}”"));
    [load, wiring.map(|wiring| format!("with {} driven", wiring.words())), setting].into_iter().flatten().collect::<Vec<_>>().join(" ")
}

fn watts(value: f64) -> String {
    format::with_unit(&format::watts(value), "W")
}

/// "into 1 Ω, it makes 812 W of 1 100 W, 26 % short, and gets there only when clipping"
fn shortfall(facts: &Facts, claim: &Claim, verdict: &ClaimVerdict, stress: Stress) -> Vec<Phrase> {
    let made = verdict.as_read_w().unwrap_or(0.0);
    let claimed = verdict.claim_total_w.unwrap_or(0.0);
    let high = verdict.at_reference_w.map_or(made, |[_, high]| high.max(made));
    let at = format::with_unit(&format::as_read(claim.reference_v()), "V");
    let short = format::fixed((1.0 - high / claimed).max(0.0) * 100.0, 1);
    let brought = if high > made * 1.001 { format!(" ({} at {at})", watts(high)) } else { String::new() };
    let upto = if verdict.basis == Some(ProofBasis::UpperBound) { "at most " } else { "" };
    let mut phrases = vec![
        phrase(Stress::Plain, format!("{}, it makes {upto}{} of {}{brought}, ", into_load(claim), watts(made), watts(claimed))),
        phrase(stress, format!("{} short", format::with_unit(&short, "%"))),
    ];
    phrases.extend(match verdict.outcome {
        Outcome::OnlyClipping => Some(phrase(Stress::Plain, ", and gets there only when clipping")),
        Outcome::OnlyDynamic => Some(phrase(Stress::Plain, ", and gets there only in bursts")),
        _ => at_best(facts, claim, verdict).map(|best| phrase(Stress::Plain, best)),
    });
    phrases
}

/// ", and even clipping it gives 900 W": the most of it there is past the limit or in bursts, when that is no more than short either.
fn at_best(facts: &Facts, claim: &Claim, verdict: &ClaimVerdict) -> Option<String> {
    if !verdict.outcome.is_failed() || verdict.basis == Some(ProofBasis::UpperBound) {
        return None;
    }
    let made = |mode: Mode| choose_for_claim(facts.session, facts.usable, claim, mode).map(|chosen| chosen.sample.power_w);
    let of = [("even clipping", made(Mode::Clipping)), ("even in bursts", made(Mode::Dynamic))];
    let (how, most) = of.into_iter().filter_map(|(how, power_w)| Some((how, power_w?))).max_by(|a, b| a.1.total_cmp(&b.1))?;
    Some(format!(", and {how} it gives {}", watts(most)))
}

/// Several shortfalls, set apart by semicolons and ended by a full stop.
fn shortfalls(facts: &Facts, failed: &[(&Claim, &ClaimVerdict)], stress: Stress) -> Vec<Phrase> {
    let mut phrases = Vec::new();
    for (i, (claim, verdict)) in failed.iter().enumerate() {
        if i > 0 {
            phrases.push(phrase(Stress::Plain, "; "));
        }
        phrases.extend(shortfall(facts, claim, verdict, stress));
    }
    phrases.push(phrase(Stress::Plain, "."));
    phrases
}

fn falls_short(facts: &Facts) -> Vec<Phrase> {
    let failed = facts.which(|verdict| verdict.outcome.is_failed() || verdict.outcome == Outcome::MaxMissed);
    let proved = facts.which(|verdict| verdict.outcome.is_proved() || verdict.outcome == Outcome::MaxMet);
    let lead = match facts.overall() {
        Overall::NearEnough => "Near enough: ",
        Overall::Optimistic => "Optimistic: ",
        _ => "A tall tale: ",
    };
    let stress = if facts.overall() == Overall::NearEnough { Stress::Doubt } else { Stress::Failed };
    let mut phrases = vec![phrase(Stress::Plain, lead)];
    if failed.is_empty() {
        phrases.push(phrase(
            Stress::Proved,
            format!("{} on clean power.", lower(&subject(proved.len(), facts.in_use.len(), "holds", "hold"))),
        ));
        return phrases;
    }
    phrases.extend(shortfalls(facts, &failed, stress));
    if failed.iter().any(|(_, verdict)| verdict.fits_as_total) {
        phrases.push(phrase(Stress::Plain, " Read as a total instead of per output, the figure would fit."));
    }
    if !proved.is_empty() {
        let rest = match proved.len() {
            1 => " The other claim holds.".to_owned(),
            n => format!(" The other {} hold.", format::count(n)),
        };
        let untested = facts.in_use.len() - failed.len() - proved.len();
        let rest = if untested > 0 { format!(" {}.", subject(proved.len(), facts.in_use.len(), "holds", "hold")) } else { rest };
        phrases.push(phrase(Stress::Proved, rest));
    }
    phrases
}

fn lower(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map(|c| format!("{}{}", c.to_lowercase(), letters.as_str())).unwrap_or_default()
}

fn open(facts: &Facts) -> Vec<Phrase> {
    let ahead = facts
        .session
        .headline()
        .and_then(|head| facts.in_use.iter().find(|(claim, _)| claim.id == head.id))
        .or_else(|| facts.in_use.first());
    let Some((claim, verdict)) = ahead else {
        return Vec::new();
    };
    let claimed = verdict.claim_total_w.map(watts).unwrap_or_default();
    let name = [format!("the headline claim, {claimed}"), into_load(claim)].join(" ");
    let why = match verdict.outcome {
        Outcome::BenchLimited => format!("{name}, cannot be settled: the bench held it back, {}.", away(facts, claim, verdict, "below")),
        Outcome::TestedHigh => format!("{name}, cannot be settled: the bench was high, {}.", away(facts, claim, verdict, "above")),
        Outcome::CannotTell => format!("{name}, depends on whether its supply is regulated, which is not known."),
        Outcome::NotComparable => format!("{name}, states no load to test it into."),
        Outcome::NotTested if verdict.basis == Some(ProofBasis::LowerBound) => {
            let most = verdict.as_read_w().map(watts).unwrap_or_default();
            format!("{name}, was not run to the limit: it gives {most} at least.")
        }
        _ => format!("{name}, has not been tested."),
    };
    let mut phrases = vec![phrase(Stress::Plain, "Open: "), phrase(Stress::Doubt, why)];
    let proved = facts.which(|verdict| verdict.outcome.is_proved());
    let failed = facts.which(|verdict| verdict.outcome.is_failed());
    if !proved.is_empty() {
        phrases.push(phrase(Stress::Plain, format!(" So far {}.", lower(&subject(proved.len(), facts.in_use.len(), "holds", "hold")))));
    }
    if !failed.is_empty() {
        phrases.push(phrase(Stress::Plain, " But "));
        phrases.extend(shortfalls(facts, &failed, Stress::Failed));
    }
    phrases
}

/// "ending at 12.91 V, more than 1 V below 14.4 V, and brought there it gives 980 to 1 219 W".
fn away(facts: &Facts, claim: &Claim, verdict: &ClaimVerdict, side: &str) -> String {
    let end_v = choose_for_claim(facts.session, facts.usable, claim, Mode::Certified)
        .or_else(|| interpolate(facts.session, facts.usable, claim))
        .and_then(|chosen| chosen.sample.end_v());
    let ended = end_v.map(|v| format!("ending at {}, ", format::with_unit(&format::volts(v), "V"))).unwrap_or_default();
    let at = format::with_unit(&format::as_read(claim.reference_v()), "V");
    let brought =
        verdict.at_reference_w.map(|[low, high]| format!(", and brought there it gives {} to {}", format::watts(low), watts(high)));
    format!("{ended}more than 1{}V {side} {at}{}", format::THIN, brought.unwrap_or_default())
}

/// Where it died on the bench, when it did.
fn death(session: &Session) -> Option<Phrase> {
    let run = session.death()?;
    let load = format::with_unit(&format::ohms(run.load_nominal_ohm.get()), "Ω");
    Some(phrase(Stress::Failed, format!(" It died on the bench in a {} run into {load}.", run.mode.word())))
}

/// What became of a max claim beside the ratings.
fn missed_max(facts: &Facts) -> Vec<Phrase> {
    let beside = facts.in_use.iter().all(|(claim, _)| claim.is_rating());
    facts
        .session
        .claims
        .iter()
        .zip(&facts.judgement.claims)
        .filter(|(claim, verdict)| beside && claim.kind == ClaimKind::Max && verdict.outcome == Outcome::MaxMissed)
        .map(|(_, verdict)| {
            let (made, claimed) = (verdict.as_read_w().unwrap_or(0.0), verdict.claim_total_w.unwrap_or(0.0));
            phrase(
                Stress::Failed,
                format!(" The {} it advertises as “max” were not seen in any mode: {} was the most.", watts(claimed), watts(made)),
            )
        })
        .collect()
}
