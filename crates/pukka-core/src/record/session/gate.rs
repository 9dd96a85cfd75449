//! Gates that were opened: which, for what, why and by whom.

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::format;
use crate::kernel::units::{Hertz, Ohms};
use crate::kernel::wiring::{Wiring, same_load};
use crate::record::session::Mode;

/// Reason why a run asks for a reason before it starts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum GateCode {
    /// The load is below the floor.
    BelowFloor,
    /// The supply is above what the maker allows.
    AboveSupply,
    /// The draw may pass the bench's own lead fuse by more than it takes.
    LeadFuse,
    /// A resistor would take more than it takes.
    LoadBank,
    /// The amplifier's own fuses, of files before version 5 of the rules: they gate nothing any more.
    Fuses,
}

impl GateCode {
    /// Every gate there is.
    pub const ALL: [Self; 4] = [Self::BelowFloor, Self::AboveSupply, Self::LeadFuse, Self::LoadBank];

    /// Danger that it guards against, for a sentence.
    #[must_use]
    pub const fn past(self) -> &'static str {
        match self {
            Self::BelowFloor => "below the floor",
            Self::AboveSupply => "above the maximum supply",
            Self::LeadFuse => "past the lead fuse",
            Self::LoadBank => "past the load bank",
            Self::Fuses => "past the fuses",
        }
    }

    /// Word in files.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::BelowFloor => "below-floor",
            Self::AboveSupply => "above-supply",
            Self::LeadFuse => "lead-fuse",
            Self::LoadBank => "load-bank",
            Self::Fuses => "fuses",
        }
    }
}

/// The owner's consent to a run that can kill a borrowed amplifier.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct OwnerConsent {
    /// Person who agreed.
    pub by: String,
    /// On which day.
    #[schema(value_type = String, format = Date)]
    pub on: jiff::civil::Date,
    /// Person who pays if it dies.
    pub who_pays: String,
}

/// A gate that was opened.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Gate {
    /// The gate.
    pub code: GateCode,
    /// For which wiring; any when not given.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wiring: Option<Wiring>,
    /// For which load.
    pub load_ohm: Ohms,
    /// For which switch; any when not given.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub setting: Option<String>,
    /// For which tone; any when not given.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tone_hz: Option<Hertz>,
    /// For which mode; any when not given.
    #[serde(default)]
    pub mode: Option<Mode>,
    /// Reason.
    pub reason: String,
    /// Person who opened it; empty in a shared file.
    #[serde(default)]
    pub by: String,
    /// A second reason, where the first is not enough: below the floor on a raised supply.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub second_reason: Option<String>,
    /// The owner's consent, where it is somebody else's amplifier.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub owner_consent: Option<OwnerConsent>,
    /// Came in with a file: kept, and it opens nothing here.
    #[serde(skip)]
    pub from_file: bool,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

/// Place where a record came from is no part of what it says.
impl PartialEq for Gate {
    fn eq(&self, other: &Self) -> bool {
        let place = |gate: &Self| (gate.code, gate.wiring, gate.load_ohm, gate.tone_hz, gate.mode);
        place(self) == place(other)
            && self.setting == other.setting
            && (&self.reason, &self.by, &self.second_reason) == (&other.reason, &other.by, &other.second_reason)
            && self.owner_consent == other.owner_consent
            && self.extra == other.extra
    }
}

/// Reasons for the verdict and the sheet: gates opened at one load with the same reason are one line. Who opened them, who agreed
/// and who pays is nobody else's business.
#[must_use]
pub fn spoken(gates: &[Gate]) -> Vec<String> {
    let same = |a: &Gate, b: &Gate| same_load(a.load_ohm.get(), b.load_ohm.get()) && a.wiring == b.wiring && a.reason == b.reason;
    let mut lines: Vec<(Vec<GateCode>, &Gate)> = Vec::new();
    for gate in gates.iter().filter(|gate| gate.code != GateCode::Fuses) {
        match lines.iter_mut().find(|(_, other)| same(gate, other)) {
            Some((codes, _)) => codes.push(gate.code),
            None => lines.push((vec![gate.code], gate)),
        }
    }
    lines
        .into_iter()
        .map(|(mut codes, gate)| {
            codes.sort_unstable();
            codes.dedup();
            let past: Vec<String> = codes.into_iter().map(|code| code.past().to_owned()).collect();
            let load = format::with_unit(&format::ohms(gate.load_ohm.get()), "Ω");
            format!("{load}, {}: {}.", format::list(&past), gate.reason.trim_end_matches('.'))
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_opened_in_the_same_words_is_one_line() {
        let gate = |code: &str, mode: &str, consent: bool| -> Gate {
            let mut record = serde_json::json!({ "code": code, "load_ohm": 0.67, "mode": mode, "reason": "agreed.", "by": "M. Tarrow" });
            if consent {
                record["owner_consent"] = serde_json::json!({ "by": "R. Oakshott", "on": "2026-11-20", "who_pays": "the owner" });
            }
            serde_json::from_value(record).unwrap()
        };
        let gates = [gate("lead-fuse", "dynamic", true), gate("below-floor", "dynamic", false), gate("fuses", "certified", false)];
        let lines = spoken(&gates);
        assert_eq!(lines, ["0.67\u{202f}Ω, below the floor and past the lead fuse: agreed."]);
        assert!(!lines[0].contains("Oakshott") && !lines[0].contains("Tarrow"), "names and who pays are private");
    }
}
