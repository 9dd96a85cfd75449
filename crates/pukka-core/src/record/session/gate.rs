//! Gates that were opened: which, for what, why and by whom.

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::format;
use crate::kernel::units::{Hertz, Ohms};
use crate::kernel::wiring::{Wiring, same_load};
use crate::record::session::Mode;

/// Why a run asks for a reason before it starts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum GateCode {
    /// The load is below the floor.
    BelowFloor,
    /// The supply is above what the maker allows.
    AboveSupply,
    /// The draw may pass the fuses by more than they bear.
    Fuses,
    /// A resistor would take more than its ten-second rating.
    LoadBank,
}

impl GateCode {
    /// Every gate there is.
    pub const ALL: [Self; 4] = [Self::BelowFloor, Self::AboveSupply, Self::Fuses, Self::LoadBank];

    /// What it is a gate against, for a sentence.
    #[must_use]
    pub const fn past(self) -> &'static str {
        match self {
            Self::BelowFloor => "below the floor",
            Self::AboveSupply => "above the maximum supply",
            Self::Fuses => "past the fuses",
            Self::LoadBank => "past the load bank",
        }
    }

    /// Its word in files.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::BelowFloor => "below-floor",
            Self::AboveSupply => "above-supply",
            Self::Fuses => "fuses",
            Self::LoadBank => "load-bank",
        }
    }
}

/// The owner's consent to a run that can kill a borrowed amplifier.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct OwnerConsent {
    /// Who agreed.
    pub by: String,
    /// On which day.
    #[schema(value_type = String, format = Date)]
    pub on: jiff::civil::Date,
    /// Who pays if it dies.
    pub who_pays: String,
}

/// A gate that was opened.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Gate {
    /// Which gate.
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
    /// Why.
    pub reason: String,
    /// Who opened it.
    pub by: String,
    /// A second reason, where the first is not enough: below the floor on a raised supply.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub second_reason: Option<String>,
    /// The owner's consent, where it is somebody else's amplifier.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub owner_consent: Option<OwnerConsent>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

impl Gate {
    /// Whether this record is about `code` for a run; whether it is enough to open it is for [`crate::plan::gates`] to say.
    #[must_use]
    pub fn is_about(&self, code: GateCode, wiring: Wiring, load_ohm: f64, mode: Mode) -> bool {
        self.code == code
            && self.wiring.is_none_or(|own| own == wiring)
            && same_load(self.load_ohm.get(), load_ohm)
            && self.mode.is_none_or(|own| own == mode)
    }
}

/// Reasons, consent and who gave them, for the verdict and the sheet: gates opened at one load in the same words are one line.
#[must_use]
pub fn spoken(gates: &[Gate]) -> Vec<String> {
    let same = |a: &Gate, b: &Gate| {
        same_load(a.load_ohm.get(), b.load_ohm.get())
            && a.wiring == b.wiring
            && (&a.reason, &a.by, &a.second_reason, &a.owner_consent) == (&b.reason, &b.by, &b.second_reason, &b.owner_consent)
    };
    let mut lines: Vec<(Vec<GateCode>, &Gate)> = Vec::new();
    for gate in gates {
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
            let mut text = format!("{load}, {}: {} ({}).", format::list(&past), gate.reason.trim_end_matches('.'), gate.by);
            if let Some(second) = &gate.second_reason {
                text.push_str(&format!(" And: {}.", second.trim_end_matches('.')));
            }
            if let Some(consent) = &gate.owner_consent {
                text.push_str(&format!(" Consent: {}, {}; if it dies, {} pays.", consent.by, consent.on, consent.who_pays));
            }
            text
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
        let gates = [gate("fuses", "dynamic", true), gate("below-floor", "dynamic", true), gate("fuses", "certified", false)];
        assert_eq!(
            spoken(&gates),
            [
                "0.67\u{202f}Ω, below the floor and past the fuses: agreed (M. Tarrow). Consent: R. Oakshott, 2026-11-20; if it dies, the owner pays.",
                "0.67\u{202f}Ω, past the fuses: agreed (M. Tarrow).",
            ]
        );
    }
}
