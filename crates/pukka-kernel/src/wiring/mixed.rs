//! Groups of outputs that are driven at once, each with a load of its own: "three-channel" is two channels and a bridged pair.

use std::cmp::Ordering;
use std::hash::{Hash, Hasher};

use serde::{Deserialize, Serialize};

use crate::format;
use crate::units::{Hertz, Ohms};
use crate::wiring::Wiring;

/// Joining of the channels of one group.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "kebab-case")]
pub enum GroupWiring {
    /// A number of channels, each into its own load.
    Channels {
        /// Number of are driven.
        driven: u8,
    },
    /// A number of pairs of channels, each pair across one load.
    Bridged {
        /// Number of pairs driven.
        pairs: u8,
    },
}

impl From<GroupWiring> for Wiring {
    fn from(group: GroupWiring) -> Self {
        match group {
            GroupWiring::Channels { driven } => Self::Channels { driven },
            GroupWiring::Bridged { pairs } => Self::Bridged { pairs },
        }
    }
}

/// A group of a mixed wiring.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Group {
    /// Channels, and how they are joined.
    pub wiring: GroupWiring,
    /// Nominal load of each of its outputs.
    pub load_ohm: Ohms,
    /// Tone, where it is another than the run's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tone_hz: Option<Hertz>,
}

impl Group {
    /// Features that tell groups apart. The bits of positive numbers are in the order of the numbers.
    fn key(&self) -> (GroupWiring, u64, u64) {
        (self.wiring, self.load_ohm.get().to_bits(), self.tone_hz.map_or(0, |tone| tone.get().to_bits()))
    }

    /// Outputs.
    #[must_use]
    pub fn outputs(&self) -> u8 {
        Wiring::from(self.wiring).outputs()
    }

    /// In words: "2 channels into 4 Ω".
    #[must_use]
    pub fn words(&self) -> String {
        let tone = self.tone_hz.map(|tone| format!(" at {}", format::tone(tone.get()))).unwrap_or_default();
        let load = format::with_unit(&format::ohms(self.load_ohm.get()), "Ω");
        format!("{} into {load}{tone}", Wiring::from(self.wiring).words())
    }

    /// A word for addresses and keys: `channels-2-4`, with its tone behind when it has one.
    fn address(&self) -> String {
        let tone = self.tone_hz.map(|tone| format!("-{}", tone.get())).unwrap_or_default();
        format!("{}-{}{tone}", Wiring::from(self.wiring).key(), self.load_ohm.get())
    }
}

impl Eq for Group {}

impl Hash for Group {
    fn hash<H: Hasher>(&self, state: &mut H) {
        self.key().hash(state);
    }
}

impl PartialOrd for Group {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Group {
    fn cmp(&self, other: &Self) -> Ordering {
        self.key().cmp(&other.key())
    }
}

/// Most groups of one wiring.
const MOST: usize = 4;

/// The groups of a mixed wiring, two to four, in the order they were named. Of a fixed size, so that a wiring can be handed about
/// like a number.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(try_from = "Vec<Group>", into = "Vec<Group>")]
pub struct Groups([Option<Group>; MOST]);

impl Groups {
    /// In their order.
    pub fn iter(&self) -> impl Iterator<Item = &Group> {
        self.0.iter().flatten()
    }

    /// The one with this index, from 0.
    #[must_use]
    pub fn get(&self, index: u8) -> Option<&Group> {
        self.0.get(usize::from(index))?.as_ref()
    }

    /// Outputs of each group.
    #[must_use]
    pub fn outputs(&self) -> Vec<u8> {
        self.iter().map(Group::outputs).collect()
    }

    /// The load of the first group, which stands for the wiring where one load is asked for.
    #[must_use]
    pub fn first_load(&self) -> Ohms {
        self.iter().next().map_or_else(|| unreachable!("there are two at least"), |group| group.load_ohm)
    }

    pub(super) fn words(&self) -> String {
        self.iter().map(Group::words).collect::<Vec<_>>().join(" + ")
    }

    pub(super) fn key(&self) -> String {
        let groups: Vec<String> = self.iter().map(Group::address).collect();
        format!("mixed~{}", groups.join("~"))
    }
}

impl IntoIterator for Groups {
    type Item = Group;
    type IntoIter = std::iter::Flatten<std::array::IntoIter<Option<Group>, MOST>>;

    fn into_iter(self) -> Self::IntoIter {
        self.0.into_iter().flatten()
    }
}

impl TryFrom<Vec<Group>> for Groups {
    type Error = String;

    fn try_from(groups: Vec<Group>) -> Result<Self, String> {
        if !(2..=MOST).contains(&groups.len()) {
            return Err(format!("A mixed wiring has 2 to {MOST} groups, not {}.", groups.len()));
        }
        let mut kept = [None; MOST];
        for (slot, group) in kept.iter_mut().zip(groups) {
            *slot = Some(group);
        }
        Ok(Self(kept))
    }
}

impl From<Groups> for Vec<Group> {
    fn from(groups: Groups) -> Self {
        groups.iter().copied().collect()
    }
}
