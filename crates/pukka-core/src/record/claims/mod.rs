//! What makers say.

pub mod paste;
pub mod sense;
pub mod sense_view;

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::absent::{or_default, or_yes, yes};
use crate::kernel::problem::{Problem, check_text};
use crate::kernel::units::{ClaimedWatts, Hertz, Ohms, Ratio, Volts};
use crate::kernel::wiring::Wiring;
use crate::record::amplifier::check_load;

/// Kind of power that a claim states.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ClaimKind {
    /// Continuous.
    Rms,
    /// Max, peak, "up to".
    Max,
    /// Not stated: judged as rms, and says so.
    Unstated,
}

/// Whether the watts are of each output or of all of them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Per {
    /// Of each output.
    Output,
    /// Of all outputs together.
    Total,
}

/// The voltage a claim without one is taken to be made at: the rating condition for mobile amplifiers.
///
/// Ref: CTA-2006, rating conditions: 14.4 V, 4 Ω, not more than 1 % THD+N.
pub const USUAL_SUPPLY_V: f64 = 14.4;

/// A line of what the maker says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Claim {
    /// Id inside the session.
    #[serde(default)]
    pub id: String,
    /// Source in print: box, manual, site, sticker.
    pub source: String,
    /// Channels driven, and how. A `max` claim may leave it open.
    #[serde(default)]
    pub wiring: Option<Wiring>,
    /// The amplifier's switch it belongs to, when it has one.
    #[serde(default)]
    pub setting: Option<String>,
    /// Into which load.
    #[serde(default)]
    pub load_ohm: Option<Ohms>,
    /// Watts, of each output or in total.
    #[serde(default)]
    pub power_w: Option<ClaimedWatts>,
    /// The watts of each group of a mixed wiring, in their order, in place of `power_w`.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub group_power_w: Vec<ClaimedWatts>,
    /// Basis of the watts.
    pub per: Per,
    /// Kind of power.
    pub kind: ClaimKind,
    /// At which supply voltage.
    #[serde(default)]
    pub supply_v: Option<Volts>,
    /// Up to which distortion, as a fraction.
    #[serde(default)]
    pub thd_limit_ratio: Option<Ratio>,
    /// At which tone.
    #[serde(default)]
    pub tone_hz: Option<Hertz>,
    /// Whether the verdict uses it.
    #[serde(default = "yes", deserialize_with = "or_yes")]
    pub used: bool,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

impl Claim {
    /// Total claimed watts over the outputs of its wiring; without a wiring the figure stands for the total.
    #[must_use]
    pub fn total_w(&self) -> Option<f64> {
        let by_group = self.group_totals_w();
        if !by_group.is_empty() {
            return Some(by_group.iter().sum());
        }
        let outputs = match (self.per, self.wiring) {
            (Per::Output, Some(wiring)) => f64::from(wiring.outputs()),
            _ => 1.0,
        };
        self.power_w.map(|power| power.get() * outputs)
    }

    /// Claimed watts of each group of a mixed wiring, over its outputs; none where it is not mixed.
    #[must_use]
    pub fn group_totals_w(&self) -> Vec<f64> {
        let Some(groups) = self.wiring.and_then(Wiring::groups) else { return Vec::new() };
        let each = self.group_power_w.iter().zip(groups.iter());
        each.map(|(power, group)| power.get() * if self.per == Per::Output { f64::from(group.outputs()) } else { 1.0 }).collect()
    }

    /// The claim of each group by itself; itself where it is not mixed.
    #[must_use]
    pub fn by_group(&self) -> Vec<Self> {
        let Some(groups) = self.wiring.and_then(Wiring::groups) else { return vec![self.clone()] };
        let each = groups.iter().zip(&self.group_power_w);
        each.map(|(group, power)| Self {
            wiring: Some(group.wiring.into()),
            load_ohm: Some(group.load_ohm),
            power_w: Some(*power),
            group_power_w: Vec::new(),
            ..self.clone()
        })
        .collect()
    }

    /// Whether it is judged as a continuous rating.
    #[must_use]
    pub fn is_rating(&self) -> bool {
        self.kind != ClaimKind::Max
    }

    /// The voltage it is judged at.
    #[must_use]
    pub fn reference_v(&self) -> f64 {
        self.supply_v.map_or(USUAL_SUPPLY_V, Volts::get)
    }

    /// Wiring and load, when both are given.
    #[must_use]
    pub fn place(&self) -> Option<(Wiring, Ohms)> {
        let wiring = self.wiring?;
        Some((wiring, self.load_ohm.or_else(|| wiring.groups().map(|groups| groups.first_load()))?))
    }

    fn check_groups(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        let groups = self.wiring.and_then(Wiring::groups).map_or(0, |groups| groups.iter().count());
        problems.extend(self.wiring.zip(self.load_ohm).and_then(|(wiring, load)| wiring.check_load("load_ohm", load)));
        let says = match (groups, self.group_power_w.len()) {
            (0, 0) => None,
            (0, _) => Some("Only a mixed wiring has groups.".to_owned()),
            (_, 0) if self.power_w.is_some() && self.per == Per::Output => {
                Some("Of a mixed wiring give the watts of each group.".to_owned())
            }
            (_, 0) => None,
            (groups, given) if groups != given => Some(format!("{given} powers for {groups} groups: give each of them.")),
            _ if self.power_w.is_some() => Some("Either one power, or that of each group: not both.".to_owned()),
            _ => None,
        };
        problems.extend(says.map(|says| Problem::new("group_power_w", says)));
        problems
    }

    /// Problems with the line, for an amplifier of so many channels.
    #[must_use]
    pub fn check(&self, channels: u8) -> Vec<Problem> {
        let mut problems = Vec::new();
        check_text(&mut problems, "source", &self.source, true, 80);
        if let Some(setting) = &self.setting {
            check_text(&mut problems, "setting", setting, true, 40);
        }
        match self.wiring {
            Some(wiring) => wiring.check(channels, "wiring", &mut problems),
            None if self.is_rating() => problems.push(Problem::new("wiring", "Only a max claim can leave its wiring open.")),
            None => {}
        }
        if let Some(load) = self.load_ohm {
            check_load(&mut problems, "load_ohm", load);
        }
        problems.extend(self.check_groups());
        if let Some(volts) = self.supply_v
            && !(6.0..=60.0).contains(&volts.get())
        {
            problems.push(Problem::new("supply_v", "A rating's supply voltage is between 6 and 60 V."));
        }
        if let Some(limit) = self.thd_limit_ratio
            && !(limit.get() > 0.0 && limit.get() <= 0.5)
        {
            problems.push(Problem::new("thd_limit_ratio", "A distortion limit is above 0 and at most 50 %."));
        }
        if let Some(tone) = self.tone_hz
            && !(10.0..=22_000.0).contains(&tone.get())
        {
            problems.push(Problem::new("tone_hz", "A test tone is between 10 Hz and 22 kHz."));
        }
        problems
    }
}

/// Of claims in use, the rating with the most watts in total; at equal watts the lowest load.
#[must_use]
pub fn headline<'a>(in_use: impl IntoIterator<Item = &'a Claim>) -> Option<&'a Claim> {
    in_use.into_iter().filter(|claim| claim.is_rating() && claim.total_w().is_some()).min_by(|a, b| {
        let watts = |claim: &Claim| claim.total_w().unwrap_or(0.0);
        let load = |claim: &Claim| claim.load_ohm.map_or(f64::INFINITY, Ohms::get);
        watts(b).total_cmp(&watts(a)).then(load(a).total_cmp(&load(b)))
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::examples::{claim, mono_1100};

    #[test]
    fn total_is_per_output_times_outputs() {
        let mut line = claim("c1", Wiring::Channels { driven: 4 }, 2.0, 140.0);
        assert_eq!(line.total_w(), Some(560.0));
        line.per = Per::Total;
        assert_eq!(line.total_w(), Some(140.0));
        line.per = Per::Output;
        line.wiring = Some(Wiring::Bridged { pairs: 2 });
        assert_eq!(line.total_w(), Some(280.0));
        line.power_w = None;
        assert_eq!(line.total_w(), None);
    }

    #[test]
    fn headline_is_the_most_watts_then_the_lowest_load() {
        let mut claims = mono_1100().claims;
        assert_eq!(headline(&claims).unwrap().id, "c3");
        let mut same = claim("c9", Wiring::Mono, 0.5, 1_100.0);
        claims.push(same.clone());
        assert_eq!(headline(&claims).unwrap().id, "c9");
        same.kind = ClaimKind::Max;
        *claims.last_mut().unwrap() = same;
        assert_eq!(headline(&claims).unwrap().id, "c3", "a max claim is no rating");
    }

    #[test]
    fn a_line_is_checked_against_its_amplifier() {
        let mut line = claim("c1", Wiring::Channels { driven: 4 }, 2.0, 140.0);
        assert!(line.check(4).is_empty());
        assert_eq!(line.check(2)[0].path, "wiring");
        line.wiring = None;
        assert_eq!(line.check(4)[0].says, "Only a max claim can leave its wiring open.");
        line.kind = ClaimKind::Max;
        assert!(line.check(4).is_empty());
        line.source = "x".repeat(4_000);
        line.tone_hz = Some(Hertz::new(1.0).unwrap());
        line.load_ohm = Some(Ohms::new(1_000.0).unwrap());
        let paths: Vec<_> = line.check(4).into_iter().map(|p| p.path).collect();
        assert_eq!(paths, ["source", "load_ohm", "tone_hz"]);
    }
}
