//! The verdict for people: rows with bars, figures with their working, the efficiency against load, what to tell.

use serde::{Deserialize, Serialize};

use super::at_volts::{VoltageRow, at_volts};
use super::band::band;
use super::choose::{Usable, Wanted, best_for_max, choose, choose_for_claim, usable};
use super::overall::Overall;
use super::sentence::{Phrase, phrases};
use super::{ClaimVerdict, Outcome, judge};
use crate::amplifier::SupplyType;
use crate::claims::{Claim, ClaimKind};
use crate::format;
use crate::plan::rungs::{RungId, rungs};
use crate::runs::checks::Check;
use crate::runs::figures::{band_figure, figures, numbers};
use crate::session::{Mode, Session, spoken};
use crate::working::{Figure, Working, source};

/// A bar of one mode.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Bar {
    /// Its mode.
    pub mode: Mode,
    /// Power it stands for.
    pub total: Figure,
    /// Its length, of 1.
    pub fraction: f64,
}

/// One claim and what became of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ClaimRow {
    /// Which claim.
    pub claim_id: String,
    /// "4 Ω".
    pub load: String,
    /// Lines under it: the claim, its wiring, its source.
    pub under: Vec<String>,
    /// Claimed watts as shown over the mark.
    pub claim: Option<String>,
    /// Where its mark stands, of 1.
    pub claim_fraction: Option<f64>,
    /// Its bars, as far as there are runs.
    pub bars: Vec<Bar>,
    /// What became of it.
    pub outcome: Outcome,
    /// In words.
    pub outcome_words: String,
    /// Percent of the claim, as read.
    pub as_read: Option<Figure>,
    /// Power at the claim's voltage: one figure, or the two ends of a band.
    pub at_reference: Vec<Figure>,
    /// That voltage.
    pub reference: String,
    /// Shortfall in decibels.
    pub shortfall: Option<Figure>,
    /// What has to be said with it.
    pub remarks: Vec<String>,
}

/// Efficiency at one load.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct EfficiencyPoint {
    /// "4 Ω".
    pub load: String,
    /// Its wiring, in words.
    pub wiring: String,
    /// Efficiency.
    pub efficiency: Figure,
    /// Heat.
    pub heat: Option<Figure>,
}

/// One thing to tell.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Tell {
    /// In words; the figure stands in them.
    pub says: String,
    /// The figure, with its working.
    pub figure: Figure,
}

/// The verdict for people.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct VerdictView {
    /// The word over all.
    pub overall: Overall,
    /// As shown.
    pub overall_word: String,
    /// "2 of 3 claims tested".
    pub tested: String,
    /// A claim is untested, or a stop unsettled.
    pub provisional: bool,
    /// The paragraph.
    pub phrases: Vec<Phrase>,
    /// The line under it: voltages and uncertainty.
    pub basis: String,
    /// Every claim.
    pub rows: Vec<ClaimRow>,
    /// Certified efficiency by load, highest load first.
    pub efficiency: Vec<EfficiencyPoint>,
    /// Power at the usual voltages, for every load that was run clean.
    pub at_volts: Vec<VoltageRow>,
    /// What to tell an audience.
    pub tell: Vec<Tell>,
    /// What they are owed.
    pub disclosure: String,
    /// Checks that fired.
    pub checks: Vec<Check>,
    /// Gates that were opened, and why.
    pub gates: Vec<String>,
    /// Runs past a gate, out of the verdict until a reason is given.
    pub ungated: usize,
}

/// Makes the verdict for people.
#[must_use]
pub fn view(session: &Session) -> VerdictView {
    let judgement = judge(session);
    let usable = usable(session, &judgement.checks);
    let rows: Vec<ClaimRow> =
        session.claims.iter().zip(&judgement.claims).map(|(claim, verdict)| row(session, &usable, claim, verdict)).collect();
    VerdictView {
        overall: judgement.overall,
        overall_word: judgement.overall.word().into(),
        tested: format!(
            "{} of {} {} tested",
            judgement.tested,
            judgement.claims_in_use,
            if judgement.claims_in_use == 1 { "claim" } else { "claims" }
        ),
        provisional: judgement.provisional,
        phrases: phrases(session, &judgement),
        basis: basis(session, &usable),
        rows,
        efficiency: efficiency(session, &usable),
        at_volts: at_volts(session, &usable),
        tell: tell(session, &usable),
        disclosure: session.amplifier.provenance.disclosure().into(),
        gates: spoken(&session.gates),
        ungated: session.standing_runs().filter(|run| run.ungated).count(),
        checks: judgement.checks,
    }
}

/// Where the claim mark stands on a bar, unless a bar would run off the scale.
const CLAIM_AT: f64 = 0.74;

fn row(session: &Session, usable: &[Usable], claim: &Claim, verdict: &ClaimVerdict) -> ClaimRow {
    let bars: Vec<(Mode, Figure)> = Mode::ALL.into_iter().filter_map(|mode| bar(session, usable, claim, mode)).collect();
    let most = bars.iter().map(|(_, figure)| figure.value).fold(0.0, f64::max);
    let claim_w = verdict.claim_total_w;
    let scale_w = claim_w.map_or(0.0, |claim_w| claim_w / CLAIM_AT).max(most / 0.86);
    let reference_v = claim.reference_v();
    ClaimRow {
        claim_id: claim.id.clone(),
        load: claim.load_ohm.map_or_else(|| "no load".into(), |load| format!("{}{}Ω", format::ohms(load.get()), format::THIN)),
        under: under(claim, claim_w),
        claim: claim_w.map(format::watts),
        claim_fraction: claim_w.map(|claim_w| claim_w / scale_w),
        bars: bars.into_iter().map(|(mode, total)| Bar { mode, fraction: total.value / scale_w, total }).collect(),
        outcome: verdict.outcome,
        outcome_words: outcome_words(verdict),
        as_read: verdict.as_read_ratio.zip(claim_w).map(|(ratio, claim_w)| {
            Figure::percent(
                ratio,
                Working::new("Percent of the claim, as read", "100 · P / C", source::METHOD)
                    .with("P", "power as read", ratio * claim_w, "W")
                    .with("C", "power claimed, in total", claim_w, "W"),
            )
        }),
        at_reference: at_reference(session, usable, claim, verdict),
        reference: format::with_unit(&format::as_read(reference_v), "V"),
        shortfall: verdict.shortfall_db.zip(verdict.as_read_ratio).map(|(db, ratio)| {
            Figure::decibels(
                db,
                Working::new("Against the claim, in decibels", "10 · log10(P / C)", source::METHOD).with(
                    "P/C",
                    "power as read over the claim",
                    ratio,
                    "",
                ),
            )
        }),
        remarks: remarks(claim, verdict),
    }
}

fn outcome_words(verdict: &ClaimVerdict) -> String {
    let upper = verdict.basis == Some(super::ProofBasis::UpperBound);
    format!("{}{}", verdict.outcome.words(), if upper { ", at most" } else { "" })
}

fn under(claim: &Claim, claim_w: Option<f64>) -> Vec<String> {
    let kind = match claim.kind {
        ClaimKind::Rms => "claim",
        ClaimKind::Max => "“max”",
        ClaimKind::Unstated => "kind not stated,",
    };
    let mut lines =
        vec![claim_w.map_or_else(|| "no watts given".into(), |w| format!("{kind} {}", format::with_unit(&format::watts(w), "W")))];
    if let Some(wiring) = claim.wiring.filter(|wiring| *wiring != crate::wiring::Wiring::Mono) {
        lines.push(wiring.words());
    }
    lines.extend(claim.setting.clone());
    lines
}

fn bar(session: &Session, usable: &[Usable], claim: &Claim, mode: Mode) -> Option<(Mode, Figure)> {
    if claim.kind == ClaimKind::Max {
        let of_mode: Vec<Usable> = usable.iter().filter(|u| u.run.mode == mode).cloned().collect();
        let (best, _) = best_for_max(&of_mode, claim)?;
        return Some((mode, figures(session, best.run).ok()?.total));
    }
    let chosen = choose_for_claim(session, usable, claim, mode)?;
    let [only] = chosen.runs.as_slice() else {
        let working =
            Working::new("Mean of the repeats", "Σ P / n", source::METHOD).with_text("n", "repeats", chosen.runs.len().to_string());
        return Some((mode, Figure::watts(chosen.sample.power_w, working)));
    };
    Some((mode, figures(session, only).ok()?.total))
}

fn at_reference(session: &Session, usable: &[Usable], claim: &Claim, verdict: &ClaimVerdict) -> Vec<Figure> {
    let Some([low, high]) = verdict.at_reference_w else {
        return Vec::new();
    };
    let Some(chosen) = choose_for_claim(session, usable, claim, Mode::Certified).filter(|chosen| chosen.sample.end_v.is_some()) else {
        return Vec::new();
    };
    let reference_v = claim.reference_v();
    let made = band(session, chosen.sample, reference_v);
    let mut shown = vec![band_figure(chosen.sample, &made, reference_v, false)];
    if high > low {
        shown.push(band_figure(chosen.sample, &made, reference_v, true));
    }
    shown
}

/// What has to be said with an outcome.
fn remarks(claim: &Claim, verdict: &ClaimVerdict) -> Vec<String> {
    let mut remarks: Vec<String> = verdict
        .assumptions
        .iter()
        .filter_map(|assumption| match assumption.as_str() {
            "no-supply-volts" => Some("no supply volts read"),
            "claim-voltage-assumed" => Some("no voltage printed: judged at 14.4 V"),
            "unstated-judged-as-rms" => Some("kind not stated: judged as rms"),
            "judged-at-the-runs-distortion-limit" => Some("claimed at another distortion: judged at the runs’ limit"),
            _ => None,
        })
        .map(str::to_owned)
        .collect();
    if verdict.equivalent {
        remarks.push("by bridging: a run that asks the same of every channel".into());
    }
    if verdict.fits_as_total {
        let total = claim.power_w.map(|w| format::with_unit(&format::watts(w.get()), "W")).unwrap_or_default();
        remarks.push(format!("{total} would fit as the total"));
    }
    remarks
}

/// The line under the paragraph: at which voltage it is rated, where the bench ended, what was done about it, ±.
fn basis(session: &Session, usable: &[Usable]) -> String {
    let certified: Vec<&Usable> = usable.iter().filter(|u| u.run.mode == Mode::Certified).collect();
    let volts: Vec<f64> = certified.iter().filter_map(|u| u.total.end_v).collect();
    let mut said = Vec::new();
    let mut rated: Vec<f64> = session.claims.iter().filter(|c| c.used && c.is_rating()).map(Claim::reference_v).collect();
    rated.sort_by(f64::total_cmp);
    rated.dedup();
    let rated: Vec<String> = rated.iter().map(|v| format::with_unit(&format::as_read(*v), "V")).collect();
    if !rated.is_empty() {
        said.push(format!("Rated at {}", format::list(&rated)));
    }
    if let (Some(low), Some(high)) = (volts.iter().copied().min_by(f64::total_cmp), volts.iter().copied().max_by(f64::total_cmp)) {
        let span = if high - low < 0.005 { format::volts(low) } else { format!("{} to {}", format::volts(low), format::volts(high)) };
        said.push(format!("the supply ended at {span}{}V", format::THIN));
    }
    let mut text = if said.is_empty() { String::new() } else { format!("{}.", said.join("; ")) };
    if !volts.is_empty() {
        text.push_str(match session.amplifier.supply_type {
            SupplyType::Unregulated => " Unregulated supply, so readings are also brought to the claim’s voltage.",
            SupplyType::Regulated => " Regulated supply: readings stand as they are within a volt.",
            SupplyType::Unknown => " Regulated or not is not known: the truth lies between as read and brought to the claim’s voltage.",
        });
    }
    let widest = certified.iter().map(|u| 2.0 * u.total.relative_u()).fold(0.0, f64::max);
    if widest > 0.0 {
        text.push_str(&format!(" Watts ±\u{a0}{}\u{202f}% at most, k\u{a0}=\u{a0}2.", format::percent(widest)));
    }
    text
}

fn efficiency(session: &Session, usable: &[Usable]) -> Vec<EfficiencyPoint> {
    rungs(session)
        .iter()
        .filter_map(|rung| {
            let run = certified_run(session, usable, &rung.id)?;
            let shown = figures(session, run).ok()?;
            Some(EfficiencyPoint {
                load: format!("{}{}Ω", format::ohms(rung.id.load_ohm.get()), format::THIN),
                wiring: rung.id.wiring.words(),
                efficiency: shown.efficiency?,
                heat: shown.heat,
            })
        })
        .collect()
}

fn wanted(id: &RungId) -> Wanted<'_> {
    Wanted { place: (id.wiring, id.load_ohm), setting: id.setting.as_deref(), tone_hz: id.tone_hz.get(), reference_v: None }
}

fn certified_run<'a>(session: &'a Session, usable: &[Usable<'a>], id: &RungId) -> Option<&'a crate::session::Run> {
    mode_run(session, usable, id, Mode::Certified)
}

fn mode_run<'a>(session: &'a Session, usable: &[Usable<'a>], id: &RungId, mode: Mode) -> Option<&'a crate::session::Run> {
    let own: Vec<Usable<'a>> = usable.iter().filter(|u| RungId::of(u.run).is(id)).cloned().collect();
    choose(session, &own, &wanted(id), mode)?.runs.first().copied()
}

fn tell(session: &Session, usable: &[Usable]) -> Vec<Tell> {
    let all = rungs(session);
    let clean = all
        .iter()
        .filter_map(|rung| {
            let run = certified_run(session, usable, &rung.id)?;
            Some((rung, run, numbers(session, run).total.ok()?.total_w))
        })
        .max_by(|a, b| a.2.total_cmp(&b.2));
    let Some((rung, run, clean_w)) = clean else {
        return Vec::new();
    };
    let load = format!("{}{}Ω", format::ohms(rung.id.load_ohm.get()), format::THIN);
    let mut told = Vec::new();
    told.extend(value(session, clean_w, &load));
    if let Some(burst) = mode_run(session, usable, &rung.id, Mode::Dynamic).and_then(|run| numbers(session, run).total.ok()) {
        told.extend(headroom(burst.total_w, clean_w, &load));
    }
    told.extend(fuses(session, run, &load));
    told
}

fn value(session: &Session, clean_w: f64, load: &str) -> Option<Tell> {
    let price = session.amplifier.price.as_ref().filter(|price| price.amount.get() > 0.0 && clean_w > 0.0)?;
    let each = price.amount.get() / clean_w;
    let text = format::money(each, &price.currency, 2);
    let working = Working::new("Price of a watt", "price / P", source::METHOD)
        .with_text("price", "price", format::money(price.amount.get(), &price.currency, 2))
        .with("P", format!("certified, in total, at {load}"), clean_w, "W");
    let mut figure = Figure::watts(each, working);
    figure.text.clone_from(&text);
    figure.unit = "a watt".into();
    Some(Tell { says: format!("{text} a watt of clean power at {load}."), figure })
}

fn headroom(burst_w: f64, clean_w: f64, load: &str) -> Option<Tell> {
    let db = crate::units::power_db(burst_w / clean_w)?;
    let working = Working::new("Headroom", "10 · log10(Pdynamic / Pcertified)", source::METHOD)
        .with("Pdynamic", format!("burst at {load}"), burst_w, "W")
        .with("Pcertified", format!("certified at {load}"), clean_w, "W");
    let figure = Figure::decibels(db, working);
    let so = if db < 1.0 { "what it makes clean is what you get" } else { "peaks have room that a long tone has not" };
    Some(Tell { says: format!("{} of burst headroom at {load}: {so}.", figure.words()), figure })
}

fn fuses(session: &Session, run: &crate::session::Run, load: &str) -> Option<Tell> {
    let (amps, fuses) = (run.amps()?.get(), session.amplifier.supply_fuse_a()?);
    let working = Working::new("Draw against the fuses", "100 · I / fuses", source::METHOD)
        .with("I", format!("supply current at {load}"), amps, "A")
        .with("fuses", "supply fuses, together", fuses, "A");
    let figure = Figure::percent(amps / fuses, working);
    let says = if crate::units::more_than(amps, fuses) {
        format!("At {load} it drew {} of what its fuses are rated for.", figure.words())
    } else {
        format!("Its fuses had {} of their rating to carry at {load}.", figure.words())
    };
    Some(Tell { says, figure })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::session::examples::{claim, mono_1100};
    use crate::wiring::Wiring;

    #[test]
    fn the_drawing_of_the_example() {
        let view = view(&mono_1100());
        let said: String = view.phrases.iter().map(|phrase| phrase.text.as_str()).collect();
        assert_eq!(said, "It does what the box says. All three claims hold on clean power once the bench’s sag is allowed for.");
        assert_eq!((view.overall_word.as_str(), view.tested.as_str()), ("Pukka", "3 of 3 claims tested"));
        let outcomes: Vec<_> = view.rows.iter().map(|row| row.outcome_words.as_str()).collect();
        assert_eq!(outcomes, ["Holds, within ±", "Holds", "Holds"]);
        assert_eq!(view.rows[0].as_read.as_ref().unwrap().text, "99.3");
        assert_eq!(view.rows[2].at_reference[0].text, "1\u{202f}136");
        let efficiency: Vec<_> = view.efficiency.iter().map(|point| point.efficiency.text.as_str()).collect();
        assert_eq!(efficiency, ["75.4", "70.7", "61.4"]);
        let told: Vec<_> = view.tell.iter().map(|tell| tell.says.replace('\u{202f}', " ")).collect();
        assert_eq!(
            told,
            [
                "£0.13 a watt of clean power at 1 Ω.",
                "+0.78 dB of burst headroom at 1 Ω: what it makes clean is what you get.",
                "At 1 Ω it drew 118.7 % of what its fuses are rated for."
            ]
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
    fn an_empty_session_has_a_verdict_too() {
        let mut session = mono_1100();
        session.claims.clear();
        session.runs.clear();
        let view = view(&session);
        assert_eq!(view.overall, Overall::Open);
        assert_eq!(view.phrases[0].text, "Nothing to judge yet: no claim is in use.");
        assert!(view.rows.is_empty() && view.tell.is_empty() && view.efficiency.is_empty());
    }
}
