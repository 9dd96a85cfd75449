//! What the verdict says, written from the facts: a heading of sixteen words at most, and the details behind it.

use serde::{Deserialize, Serialize};

use crate::assess::by_group;
use crate::assess::checks::table::rule;
use crate::assess::overall::{Overall, is_tested};
use crate::assess::powers::{each, margin, of_place, watts};
use crate::assess::tell::Tell;
use crate::assess::{ClaimVerdict, Judgement, Outcome, ProofBasis};
use crate::evidence::choose::{Usable, choose_for_claim, interpolate};
use crate::evidence::floor::below;
use crate::evidence::power::Total;
use crate::kernel::format;
use crate::kernel::wiring::Wiring;
use crate::record::claims::{Claim, ClaimKind};
use crate::record::session::{CheckCode, Mode, Run, Session};

/// Way in which a phrase is set.
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

/// A piece of what is said.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Phrase {
    /// Words.
    pub text: String,
    /// Stress.
    pub stress: Stress,
}

/// Words said: the heading, and the details behind it.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Statement {
    /// The word over all, where the heading goes on from it.
    pub lead: Option<&'static str>,
    /// Sixteen words at most.
    pub heading: Vec<Phrase>,
    /// Whole sentences.
    pub detail: Vec<Phrase>,
}

fn phrase(stress: Stress, text: impl Into<String>) -> Phrase {
    Phrase { text: text.into(), stress }
}

fn plain(text: impl Into<String>) -> Phrase {
    phrase(Stress::Plain, text)
}

impl Statement {
    fn headed(heading: Vec<Phrase>) -> Self {
        Self { lead: None, heading, detail: Vec::new() }
    }

    /// A heading that goes on from the word over all.
    fn led(lead: &'static str, mut heading: Vec<Phrase>) -> Self {
        if let Some(first) = heading.first_mut() {
            first.text = upper(&first.text);
        }
        Self { lead: Some(lead), heading, detail: Vec::new() }
    }

    /// Adds a sentence.
    fn say(&mut self, sentence: Phrase) {
        let text = if self.detail.is_empty() { sentence.text } else { format!(" {}", sentence.text) };
        self.detail.push(Phrase { text, stress: sentence.stress });
    }

    /// All of it as one text, with what else there is to know behind it.
    #[must_use]
    pub fn text(&self, to_know: &str) -> String {
        let joined = |phrases: &[Phrase]| phrases.iter().map(|phrase| phrase.text.as_str()).collect::<String>();
        let heading = match self.lead {
            Some(lead) => format!("{lead}: {}", lower(&joined(&self.heading))),
            None => joined(&self.heading),
        };
        [heading, joined(&self.detail), to_know.to_owned()].into_iter().filter(|part| !part.is_empty()).collect::<Vec<_>>().join(" ")
    }
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

    fn failed(&self) -> Vec<(&'a Claim, &'a ClaimVerdict)> {
        self.which(|verdict| verdict.outcome.is_failed() || verdict.outcome == Outcome::MaxMissed)
    }

    fn proved(&self) -> Vec<(&'a Claim, &'a ClaimVerdict)> {
        self.which(|verdict| verdict.outcome.is_proved() || verdict.outcome == Outcome::MaxMet)
    }
}

/// Writes what is said.
pub fn state<'a>(session: &'a Session, judgement: &'a Judgement, usable: &'a [Usable<'a>]) -> Statement {
    let paired = || session.claims.iter().zip(&judgement.claims).filter(|(claim, _)| session.is_in_use(claim));
    let ratings: Vec<_> = paired().filter(|(claim, _)| claim.is_rating()).collect();
    let in_use = if ratings.is_empty() { paired().collect() } else { ratings };
    let facts = Facts { session, judgement, usable, in_use };
    let mut said = match judgement.overall {
        _ if facts.in_use.is_empty() => what_it_makes(&facts),
        None => what_it_makes(&facts),
        Some(Overall::Open) => open(&facts),
        Some(Overall::Modest) => {
            let mut said = Statement::headed(vec![phrase(Stress::Proved, "It gives more than it says.")]);
            let beaten = subject(facts.which(is_tested).len(), facts.in_use.len(), "is", "are");
            said.say(phrase(Stress::Proved, format!("{beaten} beaten on clean power.")));
            said
        }
        Some(Overall::Pukka) => holds(&facts),
        Some(Overall::NearEnough | Overall::Optimistic | Overall::TallTale) => falls_short(&facts),
    };
    if let Some(by_group) = by_group::sentence(session, judgement) {
        said.say(plain(by_group));
    }
    missed_max(&facts, &mut said);
    disputed(&facts, &mut said);
    charger(&facts, &mut said);
    beyond_rating(&facts, &mut said);
    died(session, &mut said);
    said
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

fn holds(facts: &Facts) -> Statement {
    let met = facts.which(|verdict| verdict.outcome == Outcome::MaxMet);
    if !met.is_empty() {
        let mut said = Statement::headed(vec![phrase(Stress::Proved, "It reaches what it advertises.")]);
        let reached = subject(met.len(), facts.in_use.len(), "is reached", "are reached");
        said.say(plain(format!("It states no continuous rating. {reached} in one mode or another.")));
        return said;
    }
    let proved = facts.which(|verdict| verdict.outcome.is_proved());
    let brought = proved.iter().any(|(_, verdict)| verdict.basis == Some(ProofBasis::AtReference));
    let within = proved.iter().any(|(_, verdict)| verdict.basis == Some(ProofBasis::Uncertainty));
    let raised = proved.iter().any(|(_, verdict)| verdict.at_reference_w.is_some_and(|[low, _]| verdict.as_read_w() < Some(low)));
    let end = match (brought, raised, within) {
        (true, true, _) => " on clean power once the bench’s sag is allowed for.",
        (true, false, _) => " on clean power, brought to the claim’s voltage.",
        (false, _, true) => " on clean power, within what the meters can tell.",
        (false, _, false) => " on clean power, as read.",
    };
    let mut said = Statement::headed(vec![phrase(Stress::Proved, "It does what the box says.")]);
    said.say(phrase(Stress::Proved, format!("{}{end}", subject(proved.len(), facts.in_use.len(), "holds", "hold"))));
    said
}

/// The power that an outcome stands on, and the voltage it is brought to; one basis for both numbers of a shortfall.
struct Made {
    power_w: f64,
    at_v: Option<f64>,
    read_w: f64,
}

impl Made {
    fn of(claim: &Claim, verdict: &ClaimVerdict) -> Self {
        let read_w = verdict.as_read_w().unwrap_or(0.0);
        let power_w = verdict.at_reference_w.map_or(read_w, |[_, high]| high.max(read_w));
        Self { power_w, at_v: (power_w > read_w * 1.001).then(|| claim.reference_v()), read_w }
    }
}

fn lead(overall: Overall) -> &'static str {
    match overall {
        Overall::NearEnough => "Near enough",
        Overall::Optimistic => "Optimistic",
        _ => "A tall tale",
    }
}

fn falls_short(facts: &Facts) -> Statement {
    let failed = facts.failed();
    let overall = facts.overall();
    let stress = if overall == Overall::NearEnough { Stress::Doubt } else { Stress::Failed };
    let mut heading = Vec::new();
    let lead = lead(overall);
    let mut said = match failed.as_slice() {
        [] => {
            let holds = subject(facts.proved().len(), facts.in_use.len(), "holds", "hold");
            heading.push(phrase(Stress::Proved, format!("{holds} on clean power.")));
            return Statement::led(lead, heading);
        }
        [(claim, verdict)] => {
            heading.extend(one_short(facts, claim, verdict, stress));
            let mut said = Statement::led(lead, heading);
            if let Some(detail) = behind(facts, claim, verdict) {
                said.say(plain(detail));
            }
            said
        }
        several => {
            heading.push(phrase(stress, range_short(several)));
            let mut said = Statement::led(lead, heading);
            for (claim, verdict) in several {
                let detail = behind(facts, claim, verdict).map(|detail| format!(" {detail}")).unwrap_or_default();
                said.say(plain(format!("{}.{detail}", short_of(facts, claim, verdict))));
            }
            said
        }
    };
    if failed.iter().any(|(_, verdict)| verdict.fits_as_total) {
        said.say(plain("Read as a total instead of per output, the figure would fit."));
    }
    let proved = facts.proved();
    let untested = facts.in_use.len() - failed.len() - proved.len();
    match proved.len() {
        0 => {}
        n if untested > 0 => said.say(phrase(Stress::Proved, format!("{}.", subject(n, facts.in_use.len(), "holds", "hold")))),
        1 => said.say(phrase(Stress::Proved, "The other claim holds.")),
        n => said.say(phrase(Stress::Proved, format!("The other {} hold.", format::count(n)))),
    }
    said
}

/// "750 W of 780 W into 2 Ω, 3.8 % short.", and of a max claim "280 W, clipping, of 1 500 W “max”."
fn one_short(facts: &Facts, claim: &Claim, verdict: &ClaimVerdict, stress: Stress) -> Vec<Phrase> {
    let made = Made::of(claim, verdict);
    let claimed = verdict.claim_total_w.unwrap_or(0.0);
    if claim.kind == ClaimKind::Max {
        let mode = verdict.runs.first().and_then(|id| facts.session.run(id)).map_or("", |run| match run.mode {
            Mode::Certified => ", clean,",
            Mode::Clipping => ", clipping,",
            Mode::Dynamic => ", in a burst,",
        });
        return vec![phrase(stress, format!("{}{mode} of {} “max”.", watts(made.power_w), watts(claimed)))];
    }
    let upto = if verdict.basis == Some(ProofBasis::UpperBound) { "at most " } else { "" };
    let text = format!("{upto}{} of {} {}, ", each(claim, made.power_w), each(claim, claimed), into(claim));
    vec![plain(text), phrase(stress, format!("{}.", margin(made.power_w, claimed)))]
}

/// "Clean power falls 11 to 19 % short at two loads."
fn range_short(failed: &[(&Claim, &ClaimVerdict)]) -> String {
    let shares = failed.iter().map(|(claim, verdict)| {
        let short = 1.0 - Made::of(claim, verdict).power_w / verdict.claim_total_w.unwrap_or(1.0);
        (100.0 * short.max(0.0)).round()
    });
    let (least, most) = shares.fold((f64::INFINITY, 0.0f64), |(low, high), share| (low.min(share), high.max(share)));
    let ratings = failed.iter().all(|(claim, _)| claim.is_rating());
    let what = if ratings { "clean power falls" } else { "power falls" };
    let span = if least < most { format!("{least} to {most}") } else { format!("{most}") };
    format!("{what} {} short on {} claims.", format::with_unit(&span, "%"), format::count(failed.len()))
}

/// "57 W × 4 of 70 W × 4 into 4 Ω, 18.6 % short"
fn short_of(facts: &Facts, claim: &Claim, verdict: &ClaimVerdict) -> String {
    let text: String = one_short(facts, claim, verdict, Stress::Plain).into_iter().map(|phrase| phrase.text).collect();
    upper(text.trim_end_matches('.'))
}

/// Details of a shortfall: how it was brought to its voltage, and how far it gets past the limit.
fn behind(facts: &Facts, claim: &Claim, verdict: &ClaimVerdict) -> Option<String> {
    if claim.kind == ClaimKind::Max {
        return None;
    }
    let made = Made::of(claim, verdict);
    let read_at = certified_v(facts, claim).map(|v| format!(" at {}", format::with_unit(&format::volts(v), "V"))).unwrap_or_default();
    let brought = made.at_v.map(|at| {
        let printed = if claim.supply_v.is_some() { "the printed " } else { "" };
        let read = each(claim, made.read_w);
        format!("That is brought to {printed}{}: {read} was read{read_at}.", format::with_unit(&format::as_read(at), "V"))
    });
    let gets = match verdict.outcome {
        Outcome::OnlyClipping => Some("It gets there only by clipping.".to_owned()),
        Outcome::OnlyDynamic => Some("It gets there only in bursts.".to_owned()),
        _ => at_best(facts, claim, verdict),
    };
    let all: Vec<String> = [brought, gets].into_iter().flatten().collect();
    (!all.is_empty()).then(|| all.join(" "))
}

fn certified_v(facts: &Facts, claim: &Claim) -> Option<f64> {
    choose_for_claim(facts.session, facts.usable, claim, Mode::Certified)
        .or_else(|| interpolate(facts.session, facts.usable, claim))
        .and_then(|chosen| chosen.sample.end_v())
}

/// "Even clipping it gives 900 W.": the most there is past the limit or in bursts, when that is no more than short either.
fn at_best(facts: &Facts, claim: &Claim, verdict: &ClaimVerdict) -> Option<String> {
    if !verdict.outcome.is_failed() || verdict.basis == Some(ProofBasis::UpperBound) {
        return None;
    }
    let made = |mode: Mode| choose_for_claim(facts.session, facts.usable, claim, mode).map(|chosen| chosen.sample.power_w);
    let of = [("Even clipping", made(Mode::Clipping)), ("Even in bursts", made(Mode::Dynamic))];
    let (how, most) = of.into_iter().filter_map(|(how, power_w)| Some((how, power_w?))).max_by(|a, b| a.1.total_cmp(&b.1))?;
    Some(format!("{how} it gives {}.", each(claim, most)))
}

/// "into 2 Ω with 4 channels driven"
fn into(claim: &Claim) -> String {
    let mixed = claim.wiring.and_then(Wiring::groups).is_some();
    let load = claim.load_ohm.filter(|_| !mixed).map(|load| format!("into {}{}Ω", format::ohms(load.get()), format::THIN));
    let wiring = claim.wiring.and_then(wired);
    let setting = claim.setting.as_ref().map(|setting| format!("at “{setting}”"));
    [load, wiring, setting].into_iter().flatten().collect::<Vec<_>>().join(" ")
}

/// "with 4 channels driven", "bridged"; nothing of one channel.
fn wired(wiring: Wiring) -> Option<String> {
    match wiring {
        Wiring::Mono | Wiring::Channels { driven: 1 } => None,
        Wiring::Bridged { pairs: 1 } => Some("bridged".into()),
        Wiring::Strapped { .. } => Some(wiring.words()),
        Wiring::Mixed { .. } => Some("with all groups at once".into()),
        several => Some(format!("with {} driven", several.words())),
    }
}

fn upper(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map(|c| format!("{}{}", c.to_uppercase(), letters.as_str())).unwrap_or_default()
}

fn lower(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map(|c| format!("{}{}", c.to_lowercase(), letters.as_str())).unwrap_or_default()
}

fn open(facts: &Facts) -> Statement {
    let ahead = facts
        .session
        .headline()
        .and_then(|head| facts.in_use.iter().find(|(claim, _)| claim.id == head.id))
        .or_else(|| facts.in_use.first());
    let Some((claim, verdict)) = ahead else {
        return Statement::default();
    };
    let claimed = verdict.claim_total_w.map(|w| each(claim, w)).unwrap_or_default();
    let name = [claimed, into(claim)].into_iter().filter(|part| !part.is_empty()).collect::<Vec<_>>().join(" ");
    let (why, more) = match (verdict.outcome, verdict.basis) {
        (Outcome::BenchLimited, _) => {
            (format!("the bench limited it; {name} cannot be settled."), Some(away(facts, claim, verdict, "below")))
        }
        (Outcome::TestedHigh, _) => {
            (format!("the bench voltage was too high; {name} cannot be settled."), Some(away(facts, claim, verdict, "above")))
        }
        (Outcome::CannotTell, Some(ProofBasis::NoSupplyVolts)) => {
            let [low, high] = verdict.at_reference_w.unwrap_or_default();
            let at = format::with_unit(&format::as_read(claim.reference_v()), "V");
            let span = format!("Depending on the supply, it gives {} to {} at {at}.", format::watts(low), watts(high));
            (format!("{name} depends on supply volts that were not read."), Some(span))
        }
        (Outcome::CannotTell, _) => (format!("{name} depends on whether its supply is regulated, which is unknown."), None),
        (Outcome::NotComparable, _) => (format!("{name} states no load to test it into."), None),
        (_, Some(ProofBasis::OwnRunUnsettled)) => {
            (format!("the run for {name} is still unresolved."), Some("Until then no other run replaces it.".to_owned()))
        }
        (_, Some(ProofBasis::LowerBound)) => {
            let most = verdict.as_read_w().map(|w| each(claim, w)).unwrap_or_default();
            (format!("{name} was not run to its limit: {most} at least."), None)
        }
        _ => (format!("{name} has not been tested."), None),
    };
    let mut said = Statement::led("Open", vec![phrase(Stress::Doubt, why)]);
    if let Some(more) = more {
        said.say(plain(more));
    }
    let proved = facts.which(|verdict| verdict.outcome.is_proved());
    if !proved.is_empty() {
        said.say(phrase(Stress::Proved, format!("So far {}.", lower(&subject(proved.len(), facts.in_use.len(), "holds", "hold")))));
    }
    for (claim, verdict) in facts.which(|verdict| verdict.outcome.is_failed()) {
        said.say(phrase(Stress::Failed, format!("{}.", short_of(facts, claim, verdict))));
    }
    said
}

/// "It ended at 12.91 V, more than 1 V below 14.4 V; at that voltage it gives 980 to 1 219 W."
fn away(facts: &Facts, claim: &Claim, verdict: &ClaimVerdict, side: &str) -> String {
    let ended =
        certified_v(facts, claim).map(|v| format!("It ended at {}, ", format::with_unit(&format::volts(v), "V"))).unwrap_or_default();
    let at = format::with_unit(&format::as_read(claim.reference_v()), "V");
    let [low, high] = verdict.at_reference_w.unwrap_or_default();
    format!("{ended}more than 1{}V {side} {at}; at that voltage it gives {} to {}.", format::THIN, format::watts(low), watts(high))
}

/// Without a claim: the most clean power there is, and the most in any mode, not below the floor.
fn what_it_makes(facts: &Facts) -> Statement {
    let most = |clean: bool| {
        let rated = facts.usable.iter().filter(|u| !u.below_floor && (!clean || u.run.is_certified()));
        rated.max_by(|a, b| a.total.total_w.total_cmp(&b.total.total_w))
    };
    let words = |run: &Run, total: &Total| format!("{} {}", of_place(run, total.total_w), at_place(run));
    let mut said = match (most(true), most(false)) {
        (None, None) if facts.session.claims.is_empty() => Statement::headed(vec![plain("No claims and no runs yet.")]),
        (None, None) => Statement::headed(vec![plain("Nothing to judge yet: no claim is in use.")]),
        (Some(clean), _) => {
            let bound = if clean.total.at_least { " at least" } else { "" };
            Statement::headed(vec![phrase(Stress::Proved, format!("It makes {}{bound}, clean.", words(clean.run, &clean.total)))])
        }
        (None, Some(any)) => Statement::headed(vec![plain(format!("It makes {}, {}.", words(any.run, &any.total), past_limit(any.run)))]),
    };
    if let (Some(clean), Some(any)) = (most(true), most(false))
        && any.total.total_w > clean.total.total_w
    {
        said.say(plain(format!("The most in any mode is {}, {}.", words(any.run, &any.total), past_limit(any.run))));
    }
    said
}

fn past_limit(run: &Run) -> &'static str {
    match run.mode {
        Mode::Certified => "in a mode that was not stated",
        Mode::Clipping => "clipping",
        Mode::Dynamic => "in bursts",
    }
}

fn at_place(run: &Run) -> String {
    let load = run.wiring.groups().is_none().then(|| format!("into {}", run.wiring.load_words(run.load_nominal_ohm)));
    [load, wired(run.wiring)].into_iter().flatten().collect::<Vec<_>>().join(" ")
}

/// Outcome of a max claim beside the ratings.
fn missed_max(facts: &Facts, said: &mut Statement) {
    let beside = facts.in_use.iter().all(|(claim, _)| claim.is_rating());
    let pairs = facts.session.claims.iter().zip(&facts.judgement.claims);
    for (_, verdict) in pairs.filter(|(claim, verdict)| beside && claim.kind == ClaimKind::Max && verdict.outcome == Outcome::MaxMissed) {
        let (made, claimed) = (verdict.as_read_w().unwrap_or(0.0), verdict.claim_total_w.unwrap_or(0.0));
        let text = format!("The {} it advertises as “max” was not reached in any mode: {} was the most.", watts(claimed), watts(made));
        said.say(phrase(Stress::Failed, text));
    }
}

/// Doubts that stand open on the power that a claim's outcome rests on.
fn disputed(facts: &Facts, said: &mut Statement) {
    let behind = facts.which(|verdict| !verdict.disputed_by.is_empty() && is_tested(verdict));
    let mut codes: Vec<CheckCode> = behind.iter().flat_map(|(_, verdict)| verdict.disputed_by.iter().copied()).collect();
    codes.sort_unstable();
    codes.dedup();
    let titles: Vec<String> = codes.into_iter().map(|code| lower(rule(code).title.trim_end_matches('.'))).collect();
    let claimed: Vec<String> =
        behind.iter().filter_map(|(claim, verdict)| Some(format!("{} {}", each(claim, verdict.claim_total_w?), into(claim)))).collect();
    let (doubts, runs) = match (titles.len(), claimed.len()) {
        (0, _) => return,
        (1, 1) => ("A doubt stands", "run"),
        (1, _) => ("A doubt stands", "runs"),
        (_, 1) => ("Doubts stand", "run"),
        _ => ("Doubts stand", "runs"),
    };
    said.say(phrase(Stress::Doubt, format!("{doubts} open on the {runs} behind {}: {}.", format::list(&claimed), titles.join("; "))));
}

/// A charger that was on lifts what the claims stand on.
fn charger(facts: &Facts, said: &mut Statement) {
    let used = |run: &&Run| facts.judgement.claims.iter().any(|verdict| verdict.runs.contains(&run.id));
    let lifted = facts.session.standing_runs().filter(used).filter(|run| run.charger_on == Some(true)).count();
    match lifted {
        0 => {}
        1 => said.say(phrase(Stress::Doubt, "The charger was on for a run it stands on: that raises the supply and flatters the claim.")),
        n => {
            let text =
                format!("The charger was on for {} runs it stands on: that raises the supply and flatters the claim.", format::count(n));
            said.say(phrase(Stress::Doubt, text));
        }
    }
}

/// Runs below the floor: beyond its rating, in a sentence of their own.
fn beyond_rating(facts: &Facts, said: &mut Statement) {
    let used = |run: &Run| facts.judgement.claims.iter().any(|verdict| verdict.runs.contains(&run.id));
    let below: Vec<String> = facts
        .usable
        .iter()
        .filter(|u| u.below_floor && u.run.incident.is_none() && !used(u.run))
        .map(|u| {
            let how = if u.run.is_certified() { "clean" } else { past_limit(u.run) };
            format!("{} {}, {how}", of_place(u.run, u.total.total_w), at_place(u.run))
        })
        .collect();
    if !below.is_empty() {
        said.say(plain(format!("Beyond its rating, below the floor: {}.", below.join("; "))));
    }
}

/// A death leads, with the load, the floor and the supply it happened at.
fn died(session: &Session, said: &mut Statement) {
    let Some(run) = session.death() else { return };
    let load = run.wiring.load_words(run.load_nominal_ohm);
    let floor = below(session, run.wiring, run.load_nominal_ohm).map(|(_, floor)| floor);
    let below = floor.map(|floor| format!(", below its {} floor", format::with_unit(&format::ohms(floor.ohm), "Ω"))).unwrap_or_default();
    let rest = session.rest_before(run).or(run.end_volts());
    let on = rest.map(|rest| format!(", on {}", format::with_unit(&format::as_read(rest.get()), "V"))).unwrap_or_default();
    let how = if run.mode == Mode::Dynamic { "in a burst " } else { "" };
    said.lead = None;
    let was = std::mem::take(&mut said.heading);
    let detail = std::mem::take(&mut said.detail);
    said.heading = vec![phrase(Stress::Failed, format!("It died {how}at {load}{below}{on}."))];
    said.detail = was;
    if let Some(first) = detail.first() {
        said.detail.push(Phrase { text: format!(" {}", first.text), stress: first.stress });
    }
    said.detail.extend(detail.into_iter().skip(1));
}
