//! The sense-check: what to doubt about a maker's claims before a watt is made.
//!
//! Each finding names the claims it is about, says in a sentence what does not add up, and carries its working.

use serde::{Deserialize, Serialize};

use crate::kernel::format;
use crate::kernel::units::{SLACK, at_least, more_than};
use crate::kernel::wiring::{Wiring, same_load};
use crate::kernel::working::{Working, source};
use crate::record::amplifier::{Amplifier, Class, Inside};
use crate::record::claims::{Claim, ClaimKind, Per};

/// Claim over ceiling up to which it strains the fuses rather than being beyond them.
const STRAINS: f64 = 1.35;
/// Most that bridged and unbridged claims may differ.
const BRIDGING: f64 = 0.10;
/// Supply voltages that count as the same.
const SAME_VOLTS: f64 = 0.05;

/// Subject of a finding.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum SenseCode {
    /// The supply fuses cannot feed it, or only just.
    Fuses,
    /// Bridged and unbridged lines disagree.
    Bridging,
    /// Halving the load more than doubles the power.
    LoadLine,
    /// The figure fits only as the total.
    PerChannel,
    /// "Max" is no rating.
    Kind,
    /// Claims at two supply voltages tell regulated from unregulated.
    TwoVoltages,
    /// The rail capacitors take less than the claim needs.
    RailParts,
    /// Sources print different figures for one thing.
    SourcesDisagree,
}

/// Gravity of a finding.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Weight {
    /// Cannot be.
    Unlikely,
    /// Look again.
    Doubt,
    /// Good to know.
    Note,
}

/// A thing to doubt, or to know.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Sense {
    /// Kind of finding.
    pub code: SenseCode,
    /// Gravity.
    pub weight: Weight,
    /// The claims it names.
    pub claims: Vec<String>,
    /// Three or four words, for the line of the claim.
    pub word: String,
    /// A short title.
    pub title: String,
    /// Contradiction, and what will resolve it.
    pub says: String,
    /// Working behind it.
    pub working: Working,
}

/// Class efficiency by which fuses are turned into watts.
#[must_use]
pub const fn class_efficiency(class: Class) -> f64 {
    match class {
        Class::AB => 0.65,
        Class::D => 0.80,
        Class::GH => 0.70,
        Class::Other => 0.75,
    }
}

/// Power that the supply fuses can feed at a supply voltage, watts: fuses × volts × class efficiency.
#[must_use]
pub fn ceiling_w(amplifier: &Amplifier, supply_v: f64) -> Option<f64> {
    amplifier.supply_fuse_a().map(|fuses| fuses * supply_v * class_efficiency(amplifier.class))
}

/// Checks every claim, used or not: a line that is not used may still be the one that is right.
#[must_use]
pub fn sense_check(amplifier: &Amplifier, claims: &[Claim]) -> Vec<Sense> {
    let mut found = Vec::new();
    for claim in claims {
        found.extend(fuses(amplifier, claims, claim));
        found.extend(kind(claim));
        let rails = amplifier.inside.as_ref().and_then(Inside::rail_v);
        found.extend(rails.and_then(|rating| rail_parts(claim, rating)));
    }
    for (i, one) in claims.iter().enumerate() {
        found.extend(claims.iter().filter_map(|other| bridging(one, other)));
        for other in &claims[i + 1..] {
            found.extend(load_line(one, other));
            found.extend(two_voltages(one, other));
            found.extend(sources(one, other));
        }
    }
    found.sort_by_key(|sense| sense.weight);
    found
}

pub(super) fn watts(value: f64) -> String {
    format::with_unit(&format::watts(value), "W")
}

fn ohms(value: f64) -> String {
    format::with_unit(&format::ohms(value), "Ω")
}

pub(super) fn volts(value: f64) -> String {
    format::with_unit(&format::as_read(value), "V")
}

/// Whether two lines are of the same kind, switch and supply: only then do their watts have to agree.
fn comparable(a: &Claim, b: &Claim) -> bool {
    a.is_rating() && b.is_rating() && a.setting == b.setting && same_volts(a, b)
}

fn same_volts(a: &Claim, b: &Claim) -> bool {
    (a.reference_v() - b.reference_v()).abs() <= SAME_VOLTS
}

fn per_output_w(claim: &Claim) -> Option<f64> {
    Some(claim.total_w()? / f64::from(claim.wiring?.outputs()))
}

/// Whether a line is held against the fuses: one of several amplifiers is not held against one's.
pub(super) fn against_fuses(amplifier: &Amplifier, claim: &Claim) -> bool {
    let several = matches!(claim.wiring, Some(Wiring::Strapped { .. }));
    !several && claim.total_w().is_some() && amplifier.supply_fuse_a().is_some()
}

/// Whether anything was there to check a line by: the fuses, or another line that it has to agree with.
pub(super) fn is_checked(amplifier: &Amplifier, claims: &[Claim], claim: &Claim) -> bool {
    against_fuses(amplifier, claim) || claims.iter().any(|other| other.id != claim.id && held_together(claim, other))
}

/// Whether two lines bind one another: the same outputs at two loads, or bridged and not.
fn held_together(a: &Claim, b: &Claim) -> bool {
    let (Some((wa, la)), Some((wb, lb))) = (a.place(), b.place()) else { return false };
    let bridges = |pair: (Wiring, f64), single: (Wiring, f64)| {
        matches!((pair.0, single.0), (Wiring::Bridged { .. }, Wiring::Channels { .. })) && same_load(pair.1 / 2.0, single.1)
    };
    let (a_at, b_at) = ((wa, la.get()), (wb, lb.get()));
    comparable(a, b)
        && a.power_w.is_some()
        && b.power_w.is_some()
        && ((wa == wb && !same_load(la.get(), lb.get())) || bridges(a_at, b_at) || bridges(b_at, a_at))
}

fn fuses(amplifier: &Amplifier, claims: &[Claim], claim: &Claim) -> Option<Sense> {
    if !against_fuses(amplifier, claim) {
        return None;
    }
    let claim_w = claim.total_w()?;
    let fuses = amplifier.supply_fuse_a()?;
    let supply_v = claim.reference_v();
    let ceiling = ceiling_w(amplifier, supply_v)?;
    let ratio = claim_w / ceiling;
    if at_least(1.0, ratio) {
        return None;
    }
    let mut working = Working::new("Claim over what the fuses can feed", "C / (fuses · V · η)", source::METHOD)
        .with("C", "power claimed, in total", claim_w, "W")
        .with("fuses", if amplifier.fuses_a.is_empty() { "recommended fuse, outside" } else { "supply fuses, together" }, fuses, "A")
        .with("V", "supply voltage", supply_v, "V")
        .with("η", format!("efficiency of {}", amplifier.class.words()), class_efficiency(amplifier.class), "");
    if claim.supply_v.is_none() {
        working = working.assuming("No supply voltage printed: 14.4 V.");
    }
    let times = format::fixed(ratio, if ratio < 3.0 { 1 } else { 0 });
    let amps = format::with_unit(&format::as_read(fuses), "A");
    if at_least(STRAINS, ratio) {
        return Some(Sense {
            code: SenseCode::Fuses,
            weight: Weight::Doubt,
            claims: vec![claim.id.clone()],
            word: "strains the fuses".into(),
            title: format!("{} strains {amps} of fuse.", watts(claim_w)),
            says: format!("They can feed about {} at {}: {times} times that for a while, not for long.", watts(ceiling), volts(supply_v)),
            working,
        });
    }
    if let Some(total) = fits_as_total(amplifier, claims, claim) {
        return Some(Sense {
            code: SenseCode::PerChannel,
            weight: Weight::Unlikely,
            claims: vec![claim.id.clone()],
            word: "only as a total".into(),
            title: format!("{} fits only as the total.", watts(total)),
            says: format!(
                "Per output it would be {}, {times} times what {amps} of fuse can feed; as the total it agrees with the fuses and the other lines. Change “of each output” to “in total” if that is what is meant.",
                watts(claim_w)
            ),
            working,
        });
    }
    Some(Sense {
        code: SenseCode::Fuses,
        weight: Weight::Unlikely,
        claims: vec![claim.id.clone()],
        word: format!("not from {amps}"),
        title: format!("{} is not from these fuses.", watts(claim_w)),
        says: format!("{amps} of fuse can feed about {} at {}; this is {times} times that.", watts(ceiling), volts(supply_v)),
        working,
    })
}

/// The figure as a total, when as a total it agrees with the fuses and with every other line of its wiring.
fn fits_as_total(amplifier: &Amplifier, claims: &[Claim], claim: &Claim) -> Option<f64> {
    let several = claim.per == Per::Output && claim.wiring.is_some_and(|wiring| wiring.outputs() > 1);
    let figure = claim.power_w.filter(|_| several)?.get();
    let as_total = Claim { per: Per::Total, ..claim.clone() };
    let fed = ceiling_w(amplifier, claim.reference_v()).is_some_and(|ceiling| at_least(ceiling, figure));
    let agrees = claims.iter().filter(|other| other.id != claim.id).all(|other| {
        let sound = load_line(&as_total, other).is_none() && bridging(&as_total, other).is_none() && bridging(other, &as_total).is_none();
        sound && rises(&as_total, other)
    });
    (fed && agrees).then_some(figure)
}

/// Slowest rise of power towards lower loads, if two lines are to agree: by the ratio of the loads to this power.
const LEAST_RISE: f64 = 0.3;

/// Whether the lower load of two lines of one wiring gives more: a "total" that is no more than another line's is none.
fn rises(a: &Claim, b: &Claim) -> bool {
    let (Some((wa, la)), Some((wb, lb))) = (a.place(), b.place()) else { return true };
    if wa != wb || !comparable(a, b) || same_load(la.get(), lb.get()) {
        return true;
    }
    let (high, low) = if la.get() > lb.get() { (a, b) } else { (b, a) };
    let (Some(high_w), Some(low_w)) = (per_output_w(high), per_output_w(low)) else { return true };
    let loads = la.get().max(lb.get()) / la.get().min(lb.get());
    at_least(low_w / high_w, loads.powf(LEAST_RISE))
}

/// A line bridged into R against one channel into R/2.
fn bridging(bridged: &Claim, single: &Claim) -> Option<Sense> {
    let (Wiring::Bridged { .. }, Wiring::Channels { .. }) = (bridged.wiring?, single.wiring?) else {
        return None;
    };
    let (load, half) = (bridged.load_ohm?.get(), single.load_ohm?.get());
    if !comparable(bridged, single) || !same_load(load / 2.0, half) {
        return None;
    }
    let (pair_w, channel_w) = (per_output_w(bridged)?, per_output_w(single)?);
    let off = pair_w / (2.0 * channel_w) - 1.0;
    if off.abs() <= BRIDGING + SLACK {
        return None;
    }
    Some(Sense {
        code: SenseCode::Bridging,
        weight: Weight::Doubt,
        claims: vec![bridged.id.clone(), single.id.clone()],
        word: format!("not with {}", ohms(half)),
        title: format!("The bridged claim disagrees with the {} claim.", ohms(half)),
        says: format!(
            "Bridged into {}, each half works into {}: two {} halves make {}, and {} is claimed. The bench will show which is right.",
            ohms(load),
            ohms(half),
            watts(channel_w),
            watts(2.0 * channel_w),
            watts(pair_w)
        ),
        working: Working::new("Bridged against two halves", "Pbridged(R) / (2 · P(R/2))", source::METHOD)
            .with("Pbridged", format!("claimed bridged into {}", ohms(load)), pair_w, "W")
            .with("P", format!("claimed of one channel into {}", ohms(half)), channel_w, "W")
            .assuming("Within ± 10 % they agree."),
    })
}

/// Halving the load can at most double the power at equal supply voltage.
fn load_line(a: &Claim, b: &Claim) -> Option<Sense> {
    if a.wiring? != b.wiring? || !comparable(a, b) {
        return None;
    }
    let (high, low) = if a.load_ohm?.get() > b.load_ohm?.get() { (a, b) } else { (b, a) };
    let (high_ohm, low_ohm) = (high.load_ohm?.get(), low.load_ohm?.get());
    let (high_w, low_w) = (per_output_w(high)?, per_output_w(low)?);
    if same_load(high_ohm, low_ohm) || !more_than(low_w / high_w, high_ohm / low_ohm) {
        return None;
    }
    Some(Sense {
        code: SenseCode::LoadLine,
        weight: Weight::Unlikely,
        claims: vec![low.id.clone(), high.id.clone()],
        word: format!("not with {}", ohms(high_ohm)),
        title: format!("{} into {} is a misprint, or {} is.", watts(low_w), ohms(low_ohm), watts(high_w)),
        says: format!(
            "From {} to {} the same voltage makes {} times the power at most; here it is {} times.",
            ohms(high_ohm),
            ohms(low_ohm),
            format::fixed(high_ohm / low_ohm, 2),
            format::fixed(low_w / high_w, 2)
        ),
        working: Working::new("Step of the load line", "P2 / P1 ≤ R1 / R2", source::CIRCUITS)
            .with("P2", format!("claimed into {}", ohms(low_ohm)), low_w, "W")
            .with("P1", format!("claimed into {}", ohms(high_ohm)), high_w, "W")
            .with("R1/R2", "ratio of the loads", high_ohm / low_ohm, ""),
    })
}

fn kind(claim: &Claim) -> Option<Sense> {
    let claim_w = claim.total_w().filter(|_| claim.kind == ClaimKind::Max)?;
    Some(Sense {
        code: SenseCode::Kind,
        weight: Weight::Note,
        claims: vec![claim.id.clone()],
        word: "no rating".into(),
        title: "“Max” is not a power rating.".into(),
        says: format!(
            "{} is kept as advertised and graded as advertised. Half of it, {}, is the usual sine equivalent.",
            watts(claim_w),
            watts(claim_w / 2.0)
        ),
        working: Working::new("Sine equivalent of a max claim", "C / 2", source::METHOD)
            .with("C", "max claimed", claim_w, "W")
            .assuming("A peak is twice the mean of a sine."),
    })
}

/// The exponent between two supply voltages tells regulated (0) from unregulated (2).
fn two_voltages(a: &Claim, b: &Claim) -> Option<Sense> {
    let (va, vb) = (a.supply_v?.get(), b.supply_v?.get());
    let same_place = a.wiring? == b.wiring? && a.setting == b.setting && same_load(a.load_ohm?.get(), b.load_ohm?.get());
    if !same_place || !a.is_rating() || !b.is_rating() || (va - vb).abs() <= SAME_VOLTS {
        return None;
    }
    let ((high_v, high_w), (low_v, low_w)) = {
        let (one, other) = ((va, a.total_w()?), (vb, b.total_w()?));
        if va > vb { (one, other) } else { (other, one) }
    };
    let exponent = (high_w / low_w).ln() / (high_v / low_v).ln();
    let word = match exponent {
        e if e < 0.5 => "regulated",
        e if e > 1.5 => "unregulated",
        _ => "in between",
    };
    Some(Sense {
        code: SenseCode::TwoVoltages,
        weight: Weight::Note,
        claims: vec![a.id.clone(), b.id.clone()],
        word: word.to_owned(),
        title: format!("Its claims say: {word}."),
        says: format!(
            "{} at {} and {} at {}: {} times the power for {} times the volts. Unregulated would be {} times.",
            watts(high_w),
            volts(high_v),
            watts(low_w),
            volts(low_v),
            format::fixed(high_w / low_w, 2),
            format::fixed(high_v / low_v, 2),
            format::fixed((high_v / low_v).powi(2), 2)
        ),
        working: Working::new("Exponent between two supply voltages", "e = ln(P1/P2) / ln(V1/V2)", source::METHOD)
            .with("P1", "claimed at the higher voltage", high_w, "W")
            .with("P2", "claimed at the lower voltage", low_w, "W")
            .with("V1", "higher voltage", high_v, "V")
            .with("V2", "lower voltage", low_v, "V")
            .assuming("e = 0 is regulated, e = 2 unregulated."),
    })
}

/// Box, manual, site and sticker print different watts for the same thing.
fn sources(a: &Claim, b: &Claim) -> Option<Sense> {
    let same_thing = a.wiring == b.wiring
        && a.setting == b.setting
        && a.kind == b.kind
        && a.load_ohm.is_some() == b.load_ohm.is_some()
        && a.load_ohm.zip(b.load_ohm).is_none_or(|(x, y)| same_load(x.get(), y.get()))
        && same_volts(a, b);
    if !same_thing || a.source == b.source {
        return None;
    }
    let (a_w, b_w) = (a.total_w()?, b.total_w()?);
    if (a_w / b_w - 1.0).abs() <= SLACK {
        return None;
    }
    let both = a.used && b.used;
    Some(Sense {
        code: SenseCode::SourcesDisagree,
        weight: if both { Weight::Doubt } else { Weight::Note },
        claims: vec![a.id.clone(), b.id.clone()],
        word: format!("the {} differs", if a.used { &b.source } else { &a.source }),
        title: format!("The {} and the {} disagree.", a.source, b.source),
        says: format!(
            "{} against {} for the same thing. Both are kept{}",
            watts(a_w),
            watts(b_w),
            if both { "; mark the one that the verdict uses." } else { "." }
        ),
        working: Working::new("Two sources", "C1 / C2", source::METHOD).with("C1", format!("the {}", a.source), a_w, "W").with(
            "C2",
            format!("the {}", b.source),
            b_w,
            "W",
        ),
    })
}

/// Whether the rail capacitors withstand what a claim needs of them: Vpk = √(2·P·R) at each output. A half bridge puts all of
/// Vpk on each rail, a full bridge on one rail puts all of it there; of a bridged pair each channel swings half.
#[must_use]
pub fn rail_parts(claim: &Claim, rail_capacitor_v: f64) -> Option<Sense> {
    claim.by_group().iter().find_map(|claim| rails_of_one(claim, rail_capacitor_v))
}

fn rails_of_one(claim: &Claim, rail_capacitor_v: f64) -> Option<Sense> {
    let (power_w, load_ohm) = (per_output_w(claim).filter(|_| claim.is_rating())?, claim.load_ohm?.get());
    let bridged = matches!(claim.wiring, Some(Wiring::Bridged { .. }));
    let needed = (2.0 * power_w * load_ohm).sqrt() / if bridged { 2.0 } else { 1.0 };
    if at_least(rail_capacitor_v, needed) {
        return None;
    }
    Some(Sense {
        code: SenseCode::RailParts,
        weight: Weight::Unlikely,
        claims: vec![claim.id.clone()],
        word: "not on these rails".into(),
        title: format!("{} needs more volts than its rails can give.", watts(power_w)),
        says: format!(
            "{} into {} peaks at {}{}, and the rail capacitors are rated {}.",
            watts(power_w),
            ohms(load_ohm),
            format::with_unit(&format::fixed(needed, 1), "V"),
            if bridged { " a channel" } else { "" },
            volts(rail_capacitor_v)
        ),
        working: Working::new("Peak volts needed", if bridged { "Vpk = √(2 · P · R) / 2" } else { "Vpk = √(2 · P · R)" }, source::CIRCUITS)
            .with("P", "claimed of one output", power_w, "W")
            .with("R", "load", load_ohm, "Ω")
            .with_text("rating", "rail capacitors", volts(rail_capacitor_v)),
    })
}

#[cfg(test)]
#[path = "sense_tests.rs"]
mod tests;
