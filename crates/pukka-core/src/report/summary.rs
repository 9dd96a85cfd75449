//! One line a session, for the shelf and the scale: stored, so that listing never judges.

use serde::{Deserialize, Serialize};
use unicode_normalization::UnicodeNormalization as _;
use unicode_normalization::char::is_combining_mark;

use crate::assess::Overall;
use crate::assess::{Judgement, Outcome, judge};
use crate::evidence::choose::usable;
use crate::kernel::format;
use crate::plan::progress::Progress;
use crate::predict::known::Prior;
use crate::record::amplifier::{Class, Purpose};
use crate::record::session::Session;
use crate::report::value::{CleanPower, clean_powers};

/// State of the work on an amplifier, and how it came out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Summary {
    /// Version of the rules that made it.
    pub rules_version: u32,
    /// Make and model.
    pub name: String,
    /// Maker, class, fuses.
    pub subtitle: String,
    /// The line under the name on the shelf.
    pub state: String,
    /// Way in which that line is set.
    pub tone: Tone,
    /// The word over all, when something was run.
    pub overall: Option<Overall>,
    /// Overall word, as shown.
    pub overall_word: Option<String>,
    /// Claims on the verdict's list.
    pub claims: usize,
    /// Under Claims on the scale.
    pub claims_word: String,
    /// Places logged.
    pub logged: usize,
    /// Places planned.
    pub planned: usize,
    /// Under Plan on the scale.
    pub plan_word: String,
    /// Under Runs on the scale.
    pub runs_word: String,
    /// Under Verdict on the scale.
    pub verdict_word: String,
    /// Under Publish on the scale.
    pub publish_word: String,
    /// Provisional.
    pub provisional: bool,
    /// The headline claim, as shown.
    pub headline: Option<String>,
    /// Clean power at the headline's load, as shown.
    pub headline_read: Option<String>,
    /// Price, as shown.
    pub price: Option<String>,
    /// Text that a search looks through: name, state and subtitle, folded.
    pub search: String,
    /// Stage that the work has reached.
    pub stage: Stage,
    /// Class.
    pub class: Class,
    /// Purpose.
    pub purpose: Purpose,
    /// Watts of the headline claim, all outputs.
    pub headline_w: Option<f64>,
    /// Watts of clean power at the headline's load, all outputs, as read.
    pub clean_w: Option<f64>,
    /// Price as a number, in its own currency.
    pub price_amount: Option<f64>,
    /// That currency.
    pub price_currency: Option<String>,
    /// The day it cost that.
    #[schema(value_type = Option<String>, format = Date)]
    pub price_on: Option<jiff::civil::Date>,
    /// Outputs of its own.
    pub outputs: u32,
    /// The day of the newest run.
    #[schema(value_type = Option<String>, format = Date)]
    pub tested_on: Option<jiff::civil::Date>,
    /// Clean power at each claimed load, the most first.
    pub powers: Vec<CleanPower>,
}

/// Text as a search compares it: in lower case and without accents.
#[must_use]
pub fn folded(text: &str) -> String {
    text.nfd().filter(|c| !is_combining_mark(*c)).flat_map(char::to_lowercase).collect()
}

/// Stage that the work on an amplifier has reached.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Stage {
    /// No claim is entered.
    NoClaims,
    /// Claims are entered, and no run is logged.
    NotRun,
    /// Some of the planned runs are logged.
    UnderTest,
    /// The planned runs are logged.
    Tested,
    /// The amplifier died.
    Died,
}

fn stage(session: &Session, claims: usize, logged: usize, planned: usize) -> Stage {
    match (session.death(), session.standing_runs().next()) {
        (Some(_), _) => Stage::Died,
        (None, None) if claims == 0 => Stage::NoClaims,
        (None, None) => Stage::NotRun,
        (None, Some(_)) if logged < planned => Stage::UnderTest,
        (None, Some(_)) => Stage::Tested,
    }
}

/// Tone of a line on the shelf.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Tone {
    /// Nothing is settled.
    Plain,
    /// Does what it says.
    Proved,
    /// Almost.
    Doubt,
    /// Does not, or it died.
    Failed,
}

impl Summary {
    /// Clean power that counts for value: the most at a claimed load.
    #[must_use]
    pub fn clean(&self) -> Option<&CleanPower> {
        self.powers.first()
    }

    /// Says that its verdict was settled, and whether it still stands so.
    pub fn settle(&mut self, stands: bool) {
        self.verdict_word = if stands { "locked".into() } else { "locked, changed since".into() };
        if stands {
            self.state = self.state.replace("verdict:", "locked:");
            self.search = self.search.replace("verdict:", "verdict: locked:");
        }
    }
}

fn tone(session: &Session, overall: Option<Overall>) -> Tone {
    if session.death().is_some() {
        return Tone::Failed;
    }
    match overall {
        None | Some(Overall::Open) => Tone::Plain,
        Some(Overall::Modest | Overall::Pukka) => Tone::Proved,
        Some(Overall::NearEnough) => Tone::Doubt,
        Some(Overall::Optimistic | Overall::TallTale) => Tone::Failed,
    }
}

/// Sums a session up.
#[must_use]
pub fn summary(session: &Session) -> Summary {
    summary_of(session, &judge(session))
}

/// Likewise, of a session that was judged.
pub(super) fn summary_of(session: &Session, judgement: &Judgement) -> Summary {
    let usable = usable(session, &judgement.checks);
    let progress = Progress::of(&Prior::of_usable(session, &usable));
    let any_run = session.standing_runs().next().is_some();
    let claims = session.claims.iter().filter(|claim| claim.used).count();
    let unsettled = judgement.checks.iter().filter(|c| c.severity == crate::evidence::check::Severity::Stop && !c.settled).count();
    let overall = judgement.overall.filter(|_| any_run);
    let plural = |n: usize, one: &str, many: &str| format!("{n} {}", if n == 1 { one } else { many });
    let tested = format!("{} of {} tested", judgement.tested, judgement.claims_in_use);
    let head = session.headline();
    let head_read = head
        .and_then(|head| judgement.claims.iter().find(|verdict| verdict.id == head.id))
        .filter(|verdict| verdict.outcome != Outcome::NotTested)
        .and_then(crate::assess::ClaimVerdict::as_read_w);
    let state = state(session, judgement, claims, progress.logged, progress.planned);
    Summary {
        rules_version: crate::RULES_VERSION,
        name: session.amplifier.name(),
        subtitle: session.amplifier.subtitle(),
        state: state.clone(),
        tone: tone(session, overall),
        overall,
        overall_word: overall.map(|overall| overall.word().to_owned()),
        claims,
        claims_word: if claims == 0 { "none yet".into() } else { format!("{claims} to prove") },
        logged: progress.logged,
        planned: progress.planned,
        plan_word: match progress.planned {
            0 => "no load yet".into(),
            planned => format!("{}, ~{} min", plural(planned, "run", "runs"), progress.minutes),
        },
        runs_word: match (any_run, progress.planned) {
            (_, 0) => "no load yet".into(),
            (false, planned) => plural(planned, "to run", "to run"),
            (true, planned) => format!("{} of {planned} logged", progress.logged),
        },
        verdict_word: if unsettled > 0 {
            plural(unsettled, "stop to settle", "stops to settle")
        } else if any_run {
            tested
        } else {
            "open".into()
        },
        publish_word: if any_run { "sheet ready".into() } else { "not yet".into() },
        provisional: judgement.provisional,
        headline: head.and_then(crate::record::claims::Claim::total_w).map(|w| format::with_unit(&format::watts(w), "W")),
        headline_read: head_read.map(|w| format::with_unit(&format::watts(w), "W")),
        price: session.amplifier.price.as_ref().map(|price| format::price(price.amount.get(), &price.currency)),
        search: folded(&format!("{} {state} {}", session.amplifier.name(), session.amplifier.subtitle())),
        stage: stage(session, claims, progress.logged, progress.planned),
        class: session.amplifier.class,
        purpose: session.amplifier.purpose,
        headline_w: head.and_then(crate::record::claims::Claim::total_w),
        clean_w: head_read,
        price_amount: session.amplifier.price.as_ref().map(|price| price.amount.get()),
        price_currency: session.amplifier.price.as_ref().map(|price| price.currency.clone()),
        price_on: session.amplifier.price.as_ref().and_then(|price| price.on),
        outputs: u32::from(session.amplifier.channels),
        tested_on: session.standing_runs().map(|run| run.at).max().map(|at| jiff::tz::TimeZone::UTC.to_datetime(at).date()),
        powers: clean_powers(session, &usable),
    }
}

fn state(session: &Session, judgement: &Judgement, claims: usize, logged: usize, planned: usize) -> String {
    if let Some(death) = session.death() {
        return format!("died at {}", death.wiring.load_words(death.load_nominal_ohm));
    }
    if logged == 0 && session.standing_runs().next().is_none() {
        return if claims == 0 { "no claims yet".into() } else { "claims entered, not run".into() };
    }
    if logged < planned && judgement.overall == Some(Overall::Open) {
        return format!("{logged} of {planned} runs logged");
    }
    let provisional = if judgement.provisional { ", provisional" } else { "" };
    format!("verdict: {}{provisional}", Overall::word_of(judgement.overall).to_lowercase())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::Incident;
    use crate::record::session::examples::mono_1100;

    #[test]
    fn a_search_knows_no_accents_and_no_capitals() {
        assert_eq!(folded("Éclair Größe 4 Ω"), "eclair große 4 ω");
        assert!(summary(&mono_1100()).search.contains("tolland & pike mono 1100 verdict: pukka"));
    }

    #[test]
    fn the_line_on_the_shelf_follows_the_work() {
        let mut session = mono_1100();
        let all = summary(&session);
        assert_eq!(
            (all.state.as_str(), all.verdict_word.as_str(), all.runs_word.as_str()),
            ("verdict: pukka", "3 of 3 tested", "9 of 9 logged")
        );
        assert_eq!(all.headline_read.as_deref(), Some("1\u{202f}068\u{202f}W"));
        assert_eq!((all.stage, all.clean_w, all.headline_w), (Stage::Tested, Some(1_068.0), Some(1_100.0)));
        session.runs.truncate(6);
        let some = summary(&session);
        assert_eq!((some.state.as_str(), some.overall), ("6 of 9 runs logged", Some(Overall::Open)));
        assert_eq!(some.stage, Stage::UnderTest);
        session.runs.clear();
        assert_eq!((summary(&session).state.as_str(), summary(&session).stage), ("claims entered, not run", Stage::NotRun));
        session.claims.clear();
        assert_eq!((summary(&session).state.as_str(), summary(&session).stage), ("no claims yet", Stage::NoClaims));
        let mut dead = mono_1100();
        dead.runs[8].incident = Some(Incident::Died);
        assert_eq!((summary(&dead).state.as_str(), summary(&dead).tone), ("died at 1\u{202f}Ω", Tone::Failed));
    }
}
