//! What is said while an amplifier is shown round, beside its ends and controls.

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::absent::or_default;
use crate::kernel::problem::{Problem, check_text};

/// A line of what the amplifier's own data port says.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PortLine {
    /// Name there.
    pub name: String,
    /// Value shown.
    pub value: String,
}

/// Facts told while it is shown round.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Tour {
    /// Way of switching it on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub remote: Option<String>,
    /// Meaning of its lights.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lights: Option<String>,
    /// Quality of its manual.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub manual: Option<String>,
    /// Warranty.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub warranty: Option<String>,
    /// Cooling.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cooling: Option<String>,
    /// Water rating: "IPX6".
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub water_rating: Option<String>,
    /// Points that stood out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stood_out: Option<String>,
    /// Readings of its own data port.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub data_port: Vec<PortLine>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

impl Tour {
    /// Problems with it.
    pub(super) fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        let texts = [
            ("remote", &self.remote),
            ("lights", &self.lights),
            ("manual", &self.manual),
            ("warranty", &self.warranty),
            ("cooling", &self.cooling),
            ("water_rating", &self.water_rating),
            ("stood_out", &self.stood_out),
        ];
        for (name, text) in texts {
            check_text(&mut problems, name, text.as_deref().unwrap_or(""), false, 500);
        }
        for (i, line) in self.data_port.iter().enumerate() {
            check_text(&mut problems, &format!("data_port[{i}].name"), &line.name, true, 80);
            check_text(&mut problems, &format!("data_port[{i}].value"), &line.value, false, 300);
        }
        problems
    }
}
