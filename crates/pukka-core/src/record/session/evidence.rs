//! What backs a run's readings: a ramp that the program drove, a captured wave, a photo.

use serde::{Deserialize, Deserializer, Serialize};
use serde_json::Value;

use crate::kernel::problem::{Problem, check_text};
use crate::record::session::audience::check_hash;

/// Kind of evidence.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum EvidenceKind {
    /// A captured wave.
    Trace,
    /// A ramp that the program drove.
    Ramp,
    /// A photo.
    Photo,
}

/// Evidence behind a reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Evidence {
    /// Format.
    pub kind: EvidenceKind,
    /// Of its file, in hexadecimal.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sha256: Option<String>,
    /// The channels of a wave, from 0.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub channels: Vec<u16>,
    /// From which second of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub from_s: Option<f64>,
    /// To which second of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to_s: Option<f64>,
}

impl Evidence {
    /// A ramp that the program drove.
    #[must_use]
    pub const fn ramp() -> Self {
        Self { kind: EvidenceKind::Ramp, sha256: None, channels: Vec::new(), from_s: None, to_s: None }
    }

    /// Problems with it.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        if let Some(hash) = &self.sha256 {
            check_hash(&mut problems, "sha256", hash);
        } else if self.kind != EvidenceKind::Ramp {
            check_text(&mut problems, "sha256", "", true, 64);
        }
        if self.from_s.zip(self.to_s).is_some_and(|(from, to)| !(from.is_finite() && to.is_finite() && (0.0..to).contains(&from))) {
            problems.push(Problem::new("to_s", "It ends before it begins."));
        }
        problems
    }
}

/// A list; what earlier versions wrote, an object that says `ramp`, is a driven ramp.
///
/// # Errors
/// When it is neither.
pub fn list<'de, D: Deserializer<'de>>(from: D) -> Result<Vec<Evidence>, D::Error> {
    let value = Option::<Value>::deserialize(from)?;
    match value {
        None | Some(Value::Null) => Ok(Vec::new()),
        Some(Value::Object(map)) if map.get("ramp") == Some(&Value::Bool(true)) => Ok(vec![Evidence::ramp()]),
        Some(other) => serde_json::from_value(other).map_err(serde::de::Error::custom),
    }
}
