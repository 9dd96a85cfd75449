//! A row a claim: its bars, its mark, its figures with their working, and what has to be said with it.

use serde::{Deserialize, Serialize};

use crate::assess::checks::table::rule;
use crate::assess::{ClaimVerdict, Outcome, ProofBasis};
use crate::assess::{by_group, judge};
use crate::evidence::band::{Band, Sample, band};
use crate::evidence::choose::{Choice, Usable, best_for_max, burst_kinds, choose_burst, choose_for_claim, interpolate};
use crate::evidence::rungs::{RungId, words};
use crate::evidence::workings::{band_figure, percent_of_claim, total_figure};
use crate::evidence::{Total, total};
use crate::kernel::format;
use crate::kernel::units::{Ohms, Volts};
use crate::kernel::working::{Figure, Working, source};
use crate::record::claims::{Claim, ClaimKind, Per};
use crate::record::session::{Burst, Mode, ReadingName, Run, Session};

/// A bar of one mode.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Bar {
    /// Mode.
    pub mode: Mode,
    /// The burst that it is, where it is of counted cycles: "20 cycles".
    pub burst: Option<String>,
    /// The track that it lies on, from 0: one a mode, then one for each further kind of burst.
    pub track: u32,
    /// Power it stands for.
    pub total: Figure,
    /// Length, of 1.
    pub fraction: f64,
    /// ±, of 1.
    pub plus_minus: f64,
    /// Start of its figure, of 1.
    pub label_fraction: f64,
}

impl Bar {
    /// The same on another scale.
    fn scaled(self, scale_w: f64) -> Self {
        let by = self.total.value / scale_w / self.fraction.max(f64::MIN_POSITIVE);
        let (fraction, plus_minus) = (self.fraction * by, self.plus_minus * by);
        Self { fraction, plus_minus, label_fraction: fraction + plus_minus, ..self }
    }

    /// Start of its figure, of 1: behind its ±, and clear of the claim's mark.
    fn label_at(&self, claim_fraction: Option<f64>) -> f64 {
        let end = self.fraction + self.plus_minus;
        match claim_fraction {
            Some(claim) if end < claim + 0.002 && end > claim - LABEL => claim,
            _ => end,
        }
    }
}

/// Room that a figure takes, of 1.
const LABEL: f64 = 0.13;

/// A claim and what became of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ClaimRow {
    /// The claim.
    pub claim_id: String,
    /// "4 Ω".
    pub load: String,
    /// Lines under it: the claim, its wiring, its source.
    pub under: Vec<String>,
    /// Claimed watts as shown over the mark.
    pub claim: Option<String>,
    /// Place of its mark, of 1.
    pub claim_fraction: Option<f64>,
    /// From here to its mark a figure at the claim's voltage holds within ±, of 1.
    pub within_fraction: Option<f64>,
    /// Bars, as far as there are runs.
    pub bars: Vec<Bar>,
    /// Outcome of it; nothing where nothing is claimed.
    pub outcome: Option<Outcome>,
    /// In words.
    pub outcome_words: String,
    /// Percent of the claim, as read.
    pub as_read: Option<Figure>,
    /// Power at the claim's voltage: one figure, or the two ends of a band.
    pub at_reference: Vec<Figure>,
    /// Reference voltage.
    pub reference: String,
    /// Shortfall in decibels.
    pub shortfall: Option<Figure>,
    /// Remarks to make with it.
    pub remarks: Vec<String>,
    /// Consequences from each supply voltage it may have ended at, where nobody read it.
    pub if_supply: Vec<IfSupply>,
}

impl ClaimRow {
    /// Watts of its certified run.
    #[must_use]
    pub fn clean_w(&self) -> Option<f64> {
        self.bars.iter().find(|bar| bar.mode == Mode::Certified).map(|bar| bar.total.value)
    }
}

/// Consequences if the supply had ended at a voltage.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct IfSupply {
    /// Volts.
    pub volts: f64,
    /// "13.4 V: 917 W, holds within ±".
    pub says: String,
    /// Outcome of the claim.
    pub outcome: Outcome,
}

/// Volts from one point of the slider to the next.
const SUPPLY_STEP_V: f64 = 0.1;

/// Tries every voltage that the supply may have ended at, where that is what leaves a claim open.
fn if_supply(session: &Session, claim: &Claim, verdict: &ClaimVerdict, proof: Option<&Made>) -> Vec<IfSupply> {
    let Some(proof) = proof.filter(|_| verdict.basis == Some(ProofBasis::NoSupplyVolts)) else { return Vec::new() };
    let (low, high) = proof.sample.supply.span(claim.reference_v());
    let steps = ((high - low) / SUPPLY_STEP_V).round().max(1.0) as u32;
    let at = |step: u32| {
        let volts = low + (high - low) * f64::from(step) / f64::from(steps);
        let mut tried = session.clone();
        for run in tried.runs.iter_mut().filter(|run| verdict.runs.contains(&run.id)) {
            (run.end_v, run.struck) =
                (Volts::new(volts).ok(), run.struck.iter().copied().filter(|name| *name != ReadingName::EndVolts).collect());
        }
        let then = judge(&tried).claims.into_iter().find(|other| other.id == claim.id)?;
        let [low_w, high_w] = then.at_reference_w?.map(format::watts);
        let watts = if low_w == high_w { low_w } else { format!("{low_w} to {high_w}") };
        let says = format!(
            "{}: {}, {}",
            format::with_unit(&format::fixed(volts, 1), "V"),
            format::with_unit(&watts, "W"),
            then.outcome.words().to_lowercase()
        );
        Some(IfSupply { volts, says, outcome: then.outcome })
    };
    (0..=steps).filter_map(at).collect()
}

/// A row of a load where nothing is claimed: its bars, to one scale with the others.
pub(super) fn row_of_load(session: &Session, usable: &[Usable], id: &RungId, most_w: f64) -> Option<ClaimRow> {
    let claim = Claim {
        id: id.key(),
        source: String::new(),
        wiring: Some(id.wiring),
        setting: id.setting.clone(),
        load_ohm: Some(id.load_ohm),
        power_w: None,
        group_power_w: Vec::new(),
        per: Per::Total,
        kind: ClaimKind::Rms,
        supply_v: None,
        thd_limit_ratio: None,
        tone_hz: Some(id.tone_hz),
        used: true,
        extra: serde_json::Map::new(),
    };
    let own: Vec<Usable> = usable.iter().filter(|u| RungId::of(u.run).is(id) && !u.below_floor).cloned().collect();
    let verdict = ClaimVerdict::open(&claim, Outcome::NotComparable);
    let row = row(session, &own, &claim, &verdict);
    let bars: Vec<Bar> = row.bars.into_iter().map(|bar| bar.scaled(most_w / 0.86)).collect();
    (!bars.is_empty()).then(|| ClaimRow {
        bars,
        under: vec![words(id)],
        outcome: None,
        outcome_words: String::new(),
        remarks: Vec::new(),
        ..row
    })
}

/// The longest bar, where figures say which burst they are of.
const BESIDE_BURSTS: f64 = 0.72;

/// Place of the claim mark on a bar, unless a bar would run off the scale.
const CLAIM_AT: f64 = 0.74;

pub(super) fn row(session: &Session, usable: &[Usable], claim: &Claim, verdict: &ClaimVerdict) -> ClaimRow {
    let made: Vec<(Mode, Made)> = Mode::ALL.into_iter().filter_map(|mode| Some((mode, made(session, usable, claim, mode)?))).collect();
    let other_bursts = other_bursts(session, usable, claim, made.iter().find_map(|(_, made)| made.burst));
    let most = made.iter().map(|(_, made)| made).chain(&other_bursts).map(|made| made.total.value).fold(0.0, f64::max);
    let claim_w = verdict.claim_total_w;
    let scale_w = claim_w.map_or(0.0, |claim_w| claim_w / CLAIM_AT).max(most / if other_bursts.is_empty() { 0.86 } else { BESIDE_BURSTS });
    let claim_fraction = claim_w.map(|claim_w| claim_w / scale_w);
    let reference_v = claim.reference_v();
    let proof = made.iter().find(|(mode, _)| *mode == Mode::Certified).map(|(_, made)| made);
    let stands_on = standing(&made, verdict);
    let if_supply = if_supply(session, claim, verdict, proof);
    let of_proof = || stands_on.map(|made| made.total.working.clone());
    ClaimRow {
        claim_id: claim.id.clone(),
        load: claim.place().map(|(wiring, load)| wiring.load_words(load)).or_else(|| bare_load(claim)).unwrap_or_else(|| "no load".into()),
        under: under(claim, claim_w),
        claim: claim_w.map(format::watts),
        claim_fraction,
        within_fraction: proof.zip(claim_w).filter(|_| claim.is_rating()).map(|(proof, claim_w)| {
            // C ≤ L + U, with U in proportion to L.
            let relative = 2.0 * proof.at(session, reference_v).low_relative_u();
            claim_w / (1.0 + relative) / scale_w
        }),
        as_read: verdict.as_read_ratio.zip(claim_w).map(|(ratio, claim_w)| percent_of_claim(ratio * claim_w, claim_w, of_proof())),
        at_reference: proof.map(|proof| at_reference(session, proof, reference_v, verdict)).unwrap_or_default(),
        reference: format::with_unit(&format::as_read(reference_v), "V"),
        shortfall: verdict.shortfall_db.zip(verdict.as_read_ratio).map(|(db, ratio)| {
            let working = Working::new("Against the claim, in decibels", "10 · log10(P / C)", source::METHOD);
            Figure::decibels(db, working.with("P/C", "power as read over the claim", ratio, "").made_from(of_proof()))
        }),
        bars: made
            .into_iter()
            .map(|(mode, made)| made.bar(mode, mode as u32, scale_w, claim_fraction))
            .chain((3..).zip(other_bursts).map(|(track, made)| made.bar(Mode::Dynamic, track, scale_w, claim_fraction)))
            .collect(),
        outcome: Some(verdict.outcome),
        if_supply,
        outcome_words: outcome_words(verdict),
        remarks: remarks(session, claim, verdict),
    }
}

/// Points in favour of a claim in one mode.
struct Made {
    total: Figure,
    sample: Sample,
    burst: Option<Burst>,
}

impl Made {
    fn at(&self, session: &Session, reference_v: f64) -> Band {
        band(session, self.sample, reference_v)
    }

    fn bar(self, mode: Mode, track: u32, scale_w: f64, claim_fraction: Option<f64>) -> Bar {
        let plus_minus = 2.0 * self.sample.relative_u * self.sample.power_w / scale_w;
        let burst = self.burst.filter(|burst| *burst != Burst::Standard).map(Burst::words);
        let bar = Bar { mode, burst, track, fraction: self.total.value / scale_w, plus_minus, label_fraction: 0.0, total: self.total };
        Bar { label_fraction: bar.label_at(claim_fraction), ..bar }
    }
}

/// Ground that the outcome stands on: the certified power, or the clipping one that bounds it, or the best there is for a max claim.
fn standing<'a>(made: &'a [(Mode, Made)], verdict: &ClaimVerdict) -> Option<&'a Made> {
    let read = verdict.as_read_w()?;
    made.iter().map(|(_, made)| made).find(|made| (made.sample.power_w - read).abs() <= 1e-9 * read)
}

fn outcome_words(verdict: &ClaimVerdict) -> String {
    match verdict.basis {
        Some(ProofBasis::LowerBound) => "Not run to the limit".into(),
        Some(ProofBasis::OwnRunUnsettled) => "Its run waits".into(),
        Some(ProofBasis::NeedsTwo) => "Needs two".into(),
        Some(ProofBasis::UpperBound) => format!("{}, at most", verdict.outcome.words()),
        _ => verdict.outcome.words().into(),
    }
}

fn under(claim: &Claim, claim_w: Option<f64>) -> Vec<String> {
    let kind = match claim.kind {
        ClaimKind::Rms => "claim",
        ClaimKind::Max => "“max”",
        ClaimKind::Unstated => "kind not stated,",
    };
    let mut lines =
        vec![claim_w.map_or_else(|| "no watts given".into(), |w| format!("{kind} {}", format::with_unit(&format::watts(w), "W")))];
    if let Some(wiring) = claim.wiring.filter(|wiring| *wiring != crate::kernel::wiring::Wiring::Mono) {
        lines.push(wiring.words());
    }
    lines.extend(claim.setting.clone());
    lines
}

/// Further kinds of burst at the claim's place, beside the one that speaks: shown, and judging nothing.
fn other_bursts(session: &Session, usable: &[Usable], claim: &Claim, shown: Option<Burst>) -> Vec<Made> {
    if claim.kind == ClaimKind::Max {
        return Vec::new();
    }
    let kinds = burst_kinds(session, usable, claim).into_iter().filter(|kind| Some(*kind) != shown);
    kinds.filter_map(|kind| made_by(session, claim, choose_burst(session, usable, claim, kind)?).into()).collect()
}

fn made(session: &Session, usable: &[Usable], claim: &Claim, mode: Mode) -> Option<Made> {
    if claim.kind == ClaimKind::Max {
        let (best, _) = best_for_max(usable.iter().filter(|u| u.run.mode == mode), claim)?;
        let (total, sample) = (total_figure(session, best.run, &best.total), Sample::of(session, best.run, &best.total));
        return Some(Made { total, sample, burst: best.run.burst() });
    }
    let between = || interpolate(session, usable, claim).filter(|_| mode == Mode::Certified);
    Some(made_by(session, claim, choose_for_claim(session, usable, claim, mode).or_else(between)?))
}

fn made_by(session: &Session, claim: &Claim, chosen: Choice) -> Made {
    let beneath: Vec<(&Run, Total)> = chosen.runs.iter().filter_map(|run| Some((*run, total(session, run).ok()?))).collect();
    let sample = chosen.sample;
    let total = match beneath.as_slice() {
        [(run, total)] => total_figure(session, run, total),
        several => {
            let working = if chosen.interpolated { between_loads(claim, several) } else { mean_of(several) };
            let working = working.made_from(several.iter().map(|(run, total)| total_figure(session, run, total).working));
            let expanded = 2.0 * sample.relative_u * sample.power_w;
            Figure::watts(sample.power_w, working).give_or_take(Some(expanded))
        }
    };
    Made { total, sample, burst: chosen.runs.first().and_then(|run| run.burst()) }
}

fn mean_of(runs: &[(&Run, Total)]) -> Working {
    let working = Working::new("Mean of the repeats", "P = Σ Pi / n", source::METHOD).with_text("n", "repeats", runs.len().to_string());
    runs.iter().enumerate().fold(working, |working, (i, (_, total))| working.with(&format!("P{}", i + 1), "repeat", total.total_w, "W"))
}

fn between_loads(claim: &Claim, runs: &[(&Run, Total)]) -> Working {
    let formula = "ln P = ln P1 + (ln P2 − ln P1) · ln(R / R1) / ln(R2 / R1)";
    let working =
        Working::new("Between two loads", formula, source::METHOD).with("R", "load claimed", claim.load_ohm.map_or(0.0, Ohms::get), "Ω");
    let working = runs.iter().enumerate().fold(working, |working, (i, (run, total))| {
        let n = i + 1;
        working.with(&format!("R{n}"), "load run, nominal", run.load_nominal_ohm.get(), "Ω").with(
            &format!("P{n}"),
            "power there",
            total.total_w,
            "W",
        )
    });
    working.assuming("The load itself was not run; its power is interpolated between the loads on either side.")
}

fn at_reference(session: &Session, proof: &Made, reference_v: f64, verdict: &ClaimVerdict) -> Vec<Figure> {
    let Some([low, high]) = verdict.at_reference_w else {
        return Vec::new();
    };
    let made = proof.at(session, reference_v);
    let end = |upper: bool| band_figure(proof.sample, &made, reference_v, upper, [proof.total.working.clone()]);
    let mut shown = vec![end(false)];
    if high > low {
        shown.push(end(true));
    }
    shown
}

/// The load of a max claim that names no wiring.
fn bare_load(claim: &Claim) -> Option<String> {
    claim.load_ohm.map(|load| format::with_unit(&format::ohms(load.get()), "Ω"))
}

/// Remarks to make with an outcome.
fn remarks(session: &Session, claim: &Claim, verdict: &ClaimVerdict) -> Vec<String> {
    let mut remarks: Vec<String> = verdict.assumptions.iter().map(|assumption| assumption.words()).map(str::to_owned).collect();
    remarks.extend(by_group::remark(session, claim, verdict));
    if verdict.basis == Some(ProofBasis::LowerBound) {
        let cut = verdict.runs.iter().filter_map(|id| session.run(id)).any(Run::cut_short);
        remarks.push(if cut { "the run was cut short: a minimum" } else { "every level step was inside the limit: a minimum" }.into());
    }
    if verdict.basis == Some(ProofBasis::OwnRunUnsettled) {
        remarks.push("its run is unresolved: settle the stop, or give the reason for its gate".into());
    }
    if verdict.basis == Some(ProofBasis::NeedsTwo) {
        remarks.push("for two strapped amplifiers: not used until a strapped run is logged".into());
    }
    if verdict.basis == Some(ProofBasis::NoSupplyVolts) {
        remarks.push("read the supply under load next time: that settles it".into());
    }
    for code in &verdict.disputed_by {
        remarks.push(format!("its power is disputed: “{}”", rule(*code).title.trim_end_matches('.')));
    }
    let struck: Vec<&str> = verdict
        .runs
        .iter()
        .filter_map(|id| session.run(id))
        .flat_map(|run| &run.struck)
        .filter(|name| matches!(name, ReadingName::Power | ReadingName::VoltsRms | ReadingName::VoltsPeak | ReadingName::VoltsPeakToPeak))
        .map(|name| name.words())
        .collect();
    if let Some(first) = struck.first() {
        remarks.push(format!("a reading of its run was struck: {first}"));
    }
    if verdict.equivalent {
        remarks.push("by bridging: a run with the same load on every channel".into());
    }
    if verdict.interpolated {
        let mut loads: Vec<f64> = verdict.runs.iter().filter_map(|id| Some(session.run(id)?.load_nominal_ohm.get())).collect();
        loads.sort_by(|a, b| b.total_cmp(a));
        let loads: Vec<String> = loads.into_iter().map(|load| format::with_unit(&format::ohms(load), "Ω")).collect();
        remarks.push(format!("not run itself: between {}", format::list(&loads)));
    }
    if verdict.fits_as_total {
        let total = claim.power_w.map(|w| format::with_unit(&format::watts(w.get()), "W")).unwrap_or_default();
        remarks.push(format!("{total} would fit as the total"));
    }
    remarks
}
