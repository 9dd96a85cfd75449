//! Gates that were opened: which, for what, why and by whom.

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use super::Mode;
use crate::format;
use crate::units::Ohms;
use crate::wiring::{Wiring, same_load};

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
    /// Reason, consent and who gave them, in a sentence: on the verdict and on the sheet.
    #[must_use]
    pub fn words(&self) -> String {
        let mode = self.mode.map_or_else(String::new, |mode| format!(", {}", mode.word()));
        let mut text = format!("{}{}Ω{mode}, past the gate “{}”: {} ({}).", format::ohms(self.load_ohm.get()), format::THIN, self.code.word(), self.reason, self.by);
        if let Some(second) = &self.second_reason {
            text.push_str(&format!(" And: {second}."));
        }
        if let Some(consent) = &self.owner_consent {
            text.push_str(&format!(" Its owner agreed: {}, {}; {} pays.", consent.by, consent.on, consent.who_pays));
        }
        text
    }

    /// Whether this record is about `code` for a run; whether it is enough to open it is for [`crate::plan::gates`] to say.
    #[must_use]
    pub fn is_about(&self, code: GateCode, wiring: Wiring, load_ohm: f64, mode: Mode) -> bool {
        self.code == code
            && self.wiring.is_none_or(|own| own == wiring)
            && same_load(self.load_ohm.get(), load_ohm)
            && self.mode.is_none_or(|own| own == mode)
    }
}
