//! The sense-check for people: a word a line, and the fuses beside the claims.

use serde::{Deserialize, Serialize};

use crate::kernel::format;
use crate::kernel::wiring::Wiring;
use crate::record::amplifier::Amplifier;
use crate::record::claims::sense::{
    Sense, SenseCode, Weight, against_fuses, ceiling_w, class_efficiency, is_checked, sense_check, volts, watts,
};
use crate::record::claims::{Claim, ClaimKind, USUAL_SUPPLY_V};

/// Result of the sense-check for one claim line.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct AddsUp {
    /// The claim.
    pub claim_id: String,
    /// "yes", or what does not add up.
    pub word: String,
    /// Gravity; nothing when it adds up, or is only worth knowing.
    pub weight: Option<Weight>,
    /// Anything was there to check it by.
    pub checked: bool,
}

/// A claim against what the fuses can feed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct FuseRow {
    /// The claim.
    pub claim_id: String,
    /// "4 × 90 W, fits".
    pub label: String,
    /// Claimed watts, in total.
    pub power_w: f64,
    /// Gravity; nothing when it fits.
    pub weight: Option<Weight>,
}

/// Power that the supply fuses can feed, beside what is claimed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct FusePicture {
    /// "Can 50 A of fuse carry this?"
    pub title: String,
    /// "fuses can feed about 470 W"
    pub label: String,
    /// "50 A × 14.4 V × 65 % for class AB."
    pub under: String,
    /// The ceiling, watts.
    pub ceiling_w: f64,
    /// The claims, in the order they were entered.
    pub rows: Vec<FuseRow>,
}

/// The sense-check for people.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SenseView {
    /// Findings, the gravest first.
    pub found: Vec<Sense>,
    /// Each claim line.
    pub adds_up: Vec<AddsUp>,
    /// The fuse picture, when fuses and watts are known.
    pub fuses: Option<FusePicture>,
}

/// Makes the sense-check for people.
#[must_use]
pub fn sense_view(amplifier: &Amplifier, claims: &[Claim]) -> SenseView {
    let found = sense_check(amplifier, claims);
    let adds_up = claims
        .iter()
        .map(|claim| {
            let gravest = found.iter().find(|sense| sense.weight != Weight::Note && sense.claims.first() == Some(&claim.id));
            let checked = is_checked(amplifier, claims, claim);
            let sound = match (claim.power_w.is_some(), checked, amplifier.supply_fuse_a().is_some()) {
                (false, ..) => "no watts",
                (true, true, _) => "yes",
                (true, false, true) => "nothing to check it against",
                (true, false, false) => "nothing to check it against: note the fuses",
            };
            AddsUp {
                claim_id: claim.id.clone(),
                checked,
                word: gravest.map_or_else(|| sound.to_owned(), |sense| sense.word.clone()),
                weight: gravest.map(|sense| sense.weight),
            }
        })
        .collect();
    SenseView { fuses: fuse_picture(amplifier, claims, &found), adds_up, found }
}

fn fuse_picture(amplifier: &Amplifier, claims: &[Claim], found: &[Sense]) -> Option<FusePicture> {
    let fuses = amplifier.supply_fuse_a()?;
    let supply_v = claims.iter().find(|claim| claim.is_rating()).map_or(USUAL_SUPPLY_V, Claim::reference_v);
    let ceiling = ceiling_w(amplifier, supply_v)?;
    let rows: Vec<FuseRow> = claims.iter().filter_map(|claim| fuse_row(amplifier, claim, found)).collect();
    let amps = format::with_unit(&format::as_read(fuses), "A");
    let efficiency = format::with_unit(&format::fixed(class_efficiency(amplifier.class) * 100.0, 0), "%");
    (!rows.is_empty()).then(|| FusePicture {
        title: format!("Can {amps} of fuse carry this?"),
        label: format!("fuses can feed about {}", watts(ceiling)),
        under: format!("{amps} × {} × {efficiency} for {}.", volts(supply_v), amplifier.class.words()),
        ceiling_w: ceiling,
        rows,
    })
}

fn fuse_row(amplifier: &Amplifier, claim: &Claim, found: &[Sense]) -> Option<FuseRow> {
    let power_w = claim.total_w().filter(|_| against_fuses(amplifier, claim))?;
    let finding = found
        .iter()
        .find(|sense| matches!(sense.code, SenseCode::Fuses | SenseCode::PerChannel) && sense.claims.first() == Some(&claim.id));
    let outputs = claim.wiring.map_or(1, Wiring::outputs);
    let one = format::with_unit(&format::as_read(power_w / f64::from(outputs)), "W");
    let figure = if outputs > 1 { format!("{outputs} × {one}") } else { one };
    let kind = if claim.kind == ClaimKind::Max { " “max”" } else { "" };
    let ratio = power_w / ceiling_w(amplifier, claim.reference_v())?;
    let word = match finding.map(|sense| sense.weight) {
        None => "fits".to_owned(),
        Some(Weight::Doubt) => "strains".to_owned(),
        Some(_) => format!("{} times the fuses", format::fixed(ratio, 1)),
    };
    Some(FuseRow {
        claim_id: claim.id.clone(),
        label: format!("{figure}{kind}, {word}"),
        power_w,
        weight: finding.map(|sense| sense.weight),
    })
}
