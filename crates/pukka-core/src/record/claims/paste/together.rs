//! "75 W x 2 + 300 W x 1 at 4 Ω": figures joined by a plus are of outputs driven at once, and are one claim.

use crate::kernel::wiring::{Group, GroupWiring, Groups, Wiring};
use crate::record::claims::{Claim, ClaimKind, Per};

use super::words;

/// Whether what stands between two figures joins them.
pub fn joins(between: &str) -> bool {
    words::WITH_NOISE.replace_all(between, "").contains('+')
}

const fn group_of(wiring: Wiring) -> Option<GroupWiring> {
    match wiring {
        Wiring::Mono => Some(GroupWiring::Channels { driven: 1 }),
        Wiring::Channels { driven } => Some(GroupWiring::Channels { driven }),
        Wiring::Bridged { pairs } => Some(GroupWiring::Bridged { pairs }),
        Wiring::Strapped { .. } | Wiring::Mixed { .. } => None,
    }
}

/// A claim of claims that are driven at once; nothing where they cannot be: another kind or supply, a load that nobody gave, more
/// channels than there are, or the same outputs twice.
pub fn one(claims: &[Claim], channels: Option<u8>) -> Option<Claim> {
    let first = claims.first().filter(|_| claims.len() > 1)?;
    // What one of them says, it says of all.
    let kind = claims.iter().map(|claim| claim.kind).find(|kind| *kind != ClaimKind::Unstated).unwrap_or(ClaimKind::Unstated);
    let supply_v = claims.iter().find_map(|claim| claim.supply_v);
    let load = |claim: &Claim| claim.load_ohm.or_else(|| claims.iter().rev().find_map(|other| other.load_ohm));
    let alike = |claim: &Claim| {
        let one_kind = claim.kind == kind || claim.kind == ClaimKind::Unstated;
        one_kind && claim.supply_v.is_none_or(|own| Some(own) == supply_v) && claim.per == Per::Output
    };
    let groups: Option<Vec<Group>> = claims
        .iter()
        .filter(|claim| alike(claim))
        .map(|claim| Some(Group { wiring: group_of(claim.wiring?)?, load_ohm: load(claim)?, tone_hz: None }))
        .collect();
    let groups = Groups::try_from(groups.filter(|groups| groups.len() == claims.len())?).ok()?;
    let wiring = Wiring::Mixed { groups };
    let counts = groups.outputs();
    let again = counts.windows(2).any(|pair| pair[0] == pair[1]);
    let fits = channels.map_or(!again, |most| wiring.channels_driven() <= most.into());
    fits.then(|| Claim {
        wiring: Some(wiring),
        load_ohm: Some(groups.first_load()),
        power_w: None,
        kind,
        supply_v,
        thd_limit_ratio: claims.iter().find_map(|claim| claim.thd_limit_ratio),
        tone_hz: claims.iter().find_map(|claim| claim.tone_hz),
        group_power_w: claims.iter().filter_map(|claim| claim.power_w).collect(),
        ..first.clone()
    })
}
