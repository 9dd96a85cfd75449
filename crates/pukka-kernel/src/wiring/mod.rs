//! Which channels are driven, and how they are joined.

mod mixed;

pub use mixed::{Group, GroupWiring, Groups};

use serde::{Deserialize, Serialize};

use crate::format;
use crate::problem::Problem;
use crate::units::Ohms;

/// The channels that are driven and how.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "kebab-case")]
pub enum Wiring {
    /// The one output of a mono amplifier.
    Mono,
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
    /// Several amplifiers joined across one load.
    Strapped {
        /// Number of amplifiers.
        amplifiers: u8,
    },
    /// Groups of outputs driven at once, each with a load of its own.
    Mixed {
        /// Two to four of them.
        #[schema(value_type = Vec<Group>)]
        groups: Groups,
    },
}

impl Wiring {
    /// Number of outputs, each with a load of its own.
    #[must_use]
    pub fn outputs(self) -> u8 {
        match self {
            Self::Mono | Self::Strapped { .. } => 1,
            Self::Channels { driven } => driven,
            Self::Bridged { pairs } => pairs,
            Self::Mixed { groups } => groups.iter().map(Group::outputs).fold(0, u8::saturating_add),
        }
    }

    /// Groups, where it is mixed.
    #[must_use]
    pub const fn groups(self) -> Option<Groups> {
        match self {
            Self::Mixed { groups } => Some(groups),
            _ => None,
        }
    }

    /// Places driven at once: itself with its load, or each group with its own.
    pub fn places(self, load_ohm: Ohms) -> impl Iterator<Item = (Self, Ohms)> {
        let groups = self.groups();
        let own = groups.is_none().then_some((self, load_ohm));
        own.into_iter().chain(groups.into_iter().flatten().map(|group| (group.wiring.into(), group.load_ohm)))
    }

    /// The load that stands for it: that of the first group where it is mixed, else the one given.
    #[must_use]
    pub fn own_load(self, load_ohm: Ohms) -> Ohms {
        self.groups().map_or(load_ohm, |groups| groups.first_load())
    }

    /// The wiring and load that ask the same of every channel: each channel of a pair bridged into 2·R works into R.
    #[must_use]
    pub fn equivalent(self, load_ohm: f64) -> Option<(Self, f64)> {
        match self {
            Self::Channels { driven } if driven >= 2 && driven % 2 == 0 => Some((Self::Bridged { pairs: driven / 2 }, load_ohm * 2.0)),
            Self::Bridged { pairs } => Some((Self::Channels { driven: pairs * 2 }, load_ohm / 2.0)),
            _ => None,
        }
    }

    /// Channels of one amplifier that work at once.
    #[must_use]
    pub fn channels_driven(self) -> u16 {
        match self {
            Self::Mono | Self::Strapped { .. } => 1,
            Self::Channels { driven } => driven.into(),
            Self::Bridged { pairs } => u16::from(pairs) * 2,
            Self::Mixed { groups } => groups.iter().map(|group| Self::from(group.wiring).channels_driven()).sum(),
        }
    }

    /// The load of an output over what each channel sees of it: both halves of a bridge, and each of two amplifiers that are
    /// strapped, see half. Of a mixed wiring each group has its own: see [`Self::places`].
    #[must_use]
    pub const fn load_a_channel_ohm(self) -> f64 {
        match self {
            Self::Mono | Self::Channels { .. } | Self::Mixed { .. } => 1.0,
            Self::Bridged { .. } | Self::Strapped { .. } => 2.0,
        }
    }

    /// Ohms that each channel sees, with this load at each output.
    #[must_use]
    pub const fn ohms_a_channel(self, load_ohm: f64) -> f64 {
        load_ohm / self.load_a_channel_ohm()
    }

    /// In words: "4 channels", "2 bridged pairs".
    #[must_use]
    pub fn words(self) -> String {
        match self {
            Self::Mono => "mono".into(),
            Self::Channels { driven: 1 } => "1 channel".into(),
            Self::Channels { driven } => format!("{driven} channels"),
            Self::Bridged { pairs: 1 } => "1 bridged pair".into(),
            Self::Bridged { pairs } => format!("{pairs} bridged pairs"),
            Self::Strapped { amplifiers } => format!("{amplifiers} strapped"),
            Self::Mixed { groups } => groups.words(),
        }
    }

    /// Place on the ladder: "2 Ω", "2 Ω, 4 channels"; a mixed wiring says its loads itself.
    #[must_use]
    pub fn place_words(self, load_ohm: Ohms) -> String {
        let load = format::with_unit(&format::ohms(load_ohm.get()), "Ω");
        match self {
            Self::Mono => load,
            Self::Mixed { .. } => self.words(),
            _ => format!("{load}, {}", self.words()),
        }
    }

    /// The load in words: "4 Ω", "4 Ω + 2 Ω".
    #[must_use]
    pub fn load_words(self, load_ohm: Ohms) -> String {
        let loads: Vec<String> = self.places(load_ohm).map(|(_, load)| format::ohms(load.get())).collect();
        format::with_unit(&loads.join(" + "), "Ω")
    }

    /// A word for addresses and keys: `channels-4`.
    #[must_use]
    pub fn key(self) -> String {
        match self {
            Self::Mono => "mono".into(),
            Self::Channels { driven } => format!("channels-{driven}"),
            Self::Bridged { pairs } => format!("bridged-{pairs}"),
            Self::Strapped { amplifiers } => format!("strapped-{amplifiers}"),
            Self::Mixed { groups } => groups.key(),
        }
    }

    /// The one load beside a mixed wiring is that of its first group, so that every record of it says the same.
    #[must_use]
    pub fn check_load(self, at: &str, load: Ohms) -> Option<Problem> {
        let first = self.groups()?.first_load();
        let says = || format!("The load of a mixed wiring is that of its first group, {} Ω.", format::ohms(first.get()));
        (!same_load(load.get(), first.get())).then(|| Problem::new(at, says()))
    }

    /// Whether an amplifier of `channels` channels can be wired so.
    pub fn check(self, channels: u8, path: &str, problems: &mut Vec<Problem>) {
        let says = match self {
            Self::Mono => None,
            Self::Channels { driven: 0 } | Self::Bridged { pairs: 0 } => Some("At least one has to be driven.".to_owned()),
            Self::Channels { driven } if driven > channels => {
                Some(format!("{driven} channels cannot be driven: the amplifier has {channels}."))
            }
            Self::Bridged { pairs } if u16::from(pairs) * 2 > u16::from(channels) => {
                Some(format!("{} would need {} channels: the amplifier has {channels}.", self.words(), u16::from(pairs) * 2))
            }
            Self::Strapped { amplifiers } if !(2..=8).contains(&amplifiers) => {
                Some("Strapped is 2 to 8 amplifiers on one load.".to_owned())
            }
            Self::Mixed { groups } => {
                for (i, group) in groups.iter().enumerate() {
                    Self::from(group.wiring).check(channels, &format!("{path}.groups[{i}].wiring"), problems);
                }
                let needed = self.channels_driven();
                (needed > u16::from(channels)).then(|| format!("{} need {needed} channels: the amplifier has {channels}.", self.words()))
            }
            _ => None,
        };
        problems.extend(says.map(|says| Problem::new(path, says)));
    }
}

/// Loads that count as the same nominal load: within 2 %.
#[must_use]
pub fn same_load(a_ohm: f64, b_ohm: f64) -> bool {
    (a_ohm - b_ohm).abs() <= (0.02 + crate::units::SLACK) * a_ohm.max(b_ohm)
}

/// Whether a load is within 2 % of the one asked for.
fn near(asked_ohm: f64, load_ohm: f64) -> bool {
    (asked_ohm - load_ohm).abs() <= (0.02 + crate::units::SLACK) * asked_ohm
}

/// Whether `run` is the very wiring and load of `asked`, or stands for it by bridging.
#[must_use]
pub fn relation(asked: (Wiring, Ohms), run: (Wiring, Ohms)) -> Option<Relation> {
    if asked.0 == run.0 && near(asked.1.get(), run.1.get()) {
        return Some(Relation::Same);
    }
    let (wiring, load) = asked.0.equivalent(asked.1.get())?;
    (wiring == run.0 && near(load, run.1.get())).then_some(Relation::Equivalent)
}

/// Relation of a run's wiring and load to those asked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Relation {
    /// The same wiring, the same load.
    Same,
    /// Every channel sees the same load and gives the same power, wired otherwise.
    Equivalent,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bridging_halves_what_each_channel_sees() {
        assert_eq!(Wiring::Bridged { pairs: 2 }.equivalent(4.0), Some((Wiring::Channels { driven: 4 }, 2.0)));
        assert_eq!(Wiring::Channels { driven: 2 }.equivalent(2.0), Some((Wiring::Bridged { pairs: 1 }, 4.0)));
        assert_eq!(Wiring::Channels { driven: 3 }.equivalent(2.0), None, "an odd channel has no partner");
        assert_eq!(Wiring::Mono.equivalent(2.0), None);
    }

    #[test]
    fn two_percent_is_still_the_same_load() {
        assert!(same_load(4.0, 3.92) && same_load(3.92, 4.0));
        assert!(!same_load(4.0, 3.91));
    }

    #[test]
    fn wiring_must_fit_the_channels() {
        let complaints = |wiring: Wiring, channels| {
            let mut problems = Vec::new();
            wiring.check(channels, "wiring", &mut problems);
            problems.into_iter().map(|p| p.says).collect::<Vec<_>>()
        };
        assert_eq!(complaints(Wiring::Bridged { pairs: 2 }, 2), ["2 bridged pairs would need 4 channels: the amplifier has 2."]);
        assert_eq!(complaints(Wiring::Channels { driven: 5 }, 4), ["5 channels cannot be driven: the amplifier has 4."]);
        assert_eq!(complaints(Wiring::Channels { driven: 0 }, 4), ["At least one has to be driven."]);
        assert_eq!(complaints(Wiring::Bridged { pairs: 200 }, 4).len(), 1, "no overflow");
        assert!(complaints(Wiring::Channels { driven: 4 }, 4).is_empty());
    }

    #[test]
    fn json_words() {
        let wiring: Wiring = serde_json::from_str(r#"{"kind":"bridged","pairs":2}"#).unwrap();
        assert_eq!(wiring, Wiring::Bridged { pairs: 2 });
        assert!(serde_json::from_str::<Wiring>(r#"{"kind":"bridged","pairs":-2}"#).is_err());
        assert!(serde_json::from_str::<Wiring>(r#"{"kind":"sideways"}"#).is_err());
    }
}
