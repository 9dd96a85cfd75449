//! What is left open by a text, and has to be asked: never guessed in silence.

use crate::kernel::format;
use crate::kernel::wiring::{Group, GroupWiring, Groups, Wiring, same_load};
use crate::record::claims::{Claim, ClaimKind, Per};

use super::PastedClaim;

/// Watts of one output over those of the channels, from which on fewer outputs at the same load can only be bridged.
const MORE_THAN_A_CHANNEL: f64 = 1.4;

/// Marks lines whose wiring the text does not say: half as many outputs with far more watts each are bridged.
pub fn wirings(pasted: &mut [PastedClaim], channels: Option<u8>) {
    let all: Vec<Claim> = pasted.iter().map(|line| line.claim.clone()).collect();
    let most = all.iter().filter_map(channels_of).max().max(channels).unwrap_or(1);
    for line in pasted {
        let mixed = line.claim.wiring.filter(|wiring| wiring.groups().is_some());
        line.ask = line.ask.take().or_else(|| pair_left(&mut line.claim, most));
        if let Some(mixed) = mixed.filter(|_| channels.is_none() && line.ask.is_none()) {
            line.ask = Some(format!("Read as driven at once: {}. Right?", mixed.words()));
        }
        let Some(outputs) = channels_of(&line.claim) else { continue };
        if outputs >= most || line.claim.per == Per::Total {
            continue;
        }
        // The last of an odd number of channels has no partner: it is the one for a subwoofer.
        let bridged_fits = most % 2 == 0 && u16::from(outputs) * 2 <= u16::from(most);
        if bridged_fits && all.iter().any(|other| dwarfs(&line.claim, other, outputs)) {
            line.claim.wiring = Some(Wiring::Bridged { pairs: outputs });
            line.ask = Some(format!(
                "Read as bridged: {outputs} × {} is far more than a channel gives into this load. Right?",
                watts(&line.claim)
            ));
        } else {
            line.ask = Some(format!("{outputs} of {most} channels, or bridged? The text does not say."));
        }
    }
}

/// Of a mixed wiring that leaves channels over, just enough to bridge its last group: they are taken for its partners.
fn pair_left(claim: &mut Claim, most: u8) -> Option<String> {
    let wiring = claim.wiring?;
    let mut groups: Vec<Group> = wiring.groups()?.into();
    let last = groups.last_mut()?;
    let GroupWiring::Channels { driven } = last.wiring else { return None };
    if wiring.channels_driven() + u16::from(driven) != u16::from(most) {
        return None;
    }
    last.wiring = GroupWiring::Bridged { pairs: driven };
    claim.wiring = Some(Wiring::Mixed { groups: Groups::try_from(groups).ok()? });
    Some(format!("Read as bridged: {most} channels, and this leaves {driven} over. Right?"))
}

fn watts(claim: &Claim) -> String {
    format::with_unit(&format::watts(claim.power_w.map_or(0.0, |w| w.get())), "W")
}

/// Outputs of a line that are channels; a lone output counts as one.
const fn channels_of(claim: &Claim) -> Option<u8> {
    match claim.wiring {
        Some(Wiring::Channels { driven }) => Some(driven),
        Some(Wiring::Mono) => Some(1),
        _ => None,
    }
}

fn dwarfs(claim: &Claim, other: &Claim, outputs: u8) -> bool {
    let more_outputs = channels_of(other).is_some_and(|n| n >= outputs.saturating_mul(2));
    let alike = (claim.kind == ClaimKind::Max) == (other.kind == ClaimKind::Max);
    let same = claim.load_ohm.zip(other.load_ohm).is_none_or(|(a, b)| same_load(a.get(), b.get()));
    let ratio = claim.power_w.zip(other.power_w).map_or(0.0, |(a, b)| a.get() / b.get());
    more_outputs && alike && same && other.per == Per::Output && ratio >= MORE_THAN_A_CHANNEL
}
