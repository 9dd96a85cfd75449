//! How the gain was set: source, amplifier, extra drive.

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::format;
use crate::kernel::problem::{Problem, check_text};
use crate::kernel::units::{Drive, VoltsRms};
use crate::kernel::working::{Figure, Working, source};

/// The three steps, as they were done.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(default)]
pub struct Gain {
    /// Setting up to which the source is still clean: "47 of 50".
    pub source: Option<String>,
    /// Output volts at clip onset.
    pub onset_v: Option<VoltsRms>,
    /// Drive added to that.
    pub extra_drive_db: Option<Drive>,
    /// Filters are out of the tone's way.
    pub filters_out: bool,
    /// Boost is off.
    pub boost_off: bool,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

impl Gain {
    /// Problems with it.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        check_text(&mut problems, "source", self.source.as_deref().unwrap_or(""), false, 120);
        if self.extra_drive_db.is_some_and(|db| !(0.0..=30.0).contains(&db.get())) {
            problems.push(Problem::new("extra_drive_db", "Extra drive is 0 to 30 dB above the drive that just clips."));
        }
        problems
    }

    /// In a sentence.
    #[must_use]
    pub fn words(&self) -> String {
        let mut parts = Vec::new();
        parts.extend(self.source.as_ref().filter(|text| !text.trim().is_empty()).map(|text| format!("source clean to {}", text.trim())));
        parts.extend(self.onset_v.map(|v| format!("amplifier at clip onset, {}", format::with_unit(&format::as_read(v.get()), "V"))));
        parts.extend(self.extra_drive_db.map(|db| format!("then {} of extra drive", format::with_unit(&format::as_read(db.get()), "dB"))));
        parts.extend(self.filters_out.then(|| "filters out".to_owned()));
        parts.extend(self.boost_off.then(|| "boost off".to_owned()));
        if parts.is_empty() {
            return "Not set yet.".into();
        }
        let text = format!("{}.", parts.join(", "));
        text[..1].to_uppercase() + &text[1..]
    }
}

/// Volts to set for a power into a load: √(P·R).
#[must_use]
pub fn target_volts(power_w: f64, load_ohm: f64) -> Figure {
    let working = Working::new("Output volts for a power", "√(P · R)", source::CIRCUITS)
        .with("P", "power of one output", power_w, "W")
        .with("R", "its load", load_ohm, "Ω");
    Figure::volts((power_w * load_ohm).sqrt(), working)
}

/// Decibels between two voltages: 20·log10(V2/V1).
#[must_use]
pub fn drive_db(from_v: f64, to_v: f64) -> Figure {
    let working = Working::new("Extra drive", "20 · log10(V2 / V1)", source::CIRCUITS).with("V1", "at clip onset", from_v, "V").with(
        "V2",
        "raised to",
        to_v,
        "V",
    );
    Figure::decibels(Drive::of(to_v / from_v).map_or(0.0, Drive::get), working)
}

/// The voltage so many decibels above another: V1·10^(dB/20).
#[must_use]
pub fn driven_volts(from_v: f64, db: f64) -> Figure {
    let working = Working::new("Volts after extra drive", "V1 · 10^(dB / 20)", source::CIRCUITS)
        .with("V1", "at clip onset", from_v, "V")
        .with("dB", "extra drive", db, "dB");
    Figure { text: format::fixed(from_v * 10f64.powf(db / 20.0), 3), ..Figure::volts(from_v * 10f64.powf(db / 20.0), working) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_three_steps_worked_by_hand() {
        // √(450 × 4) = 42.43 V; 1 V to 2 V is 6.02 dB, and 6 dB up from 1 V is 1.995 V.
        assert_eq!(target_volts(450.0, 4.0).text, "42.43");
        assert_eq!(drive_db(1.0, 2.0).text, "+6.02");
        assert!((driven_volts(1.0, 6.0).value - 1.995_26).abs() < 1e-5);
        for (from, to) in [(0.5, 1.7), (2.0, 2.0), (3.0, 4.0)] {
            assert!((driven_volts(from, drive_db(from, to).value).value - to).abs() < 1e-12, "there and back");
        }
    }

    #[test]
    fn in_a_sentence() {
        assert_eq!(Gain::default().words(), "Not set yet.");
        let gain = Gain {
            source: Some("47 of 50".into()),
            onset_v: Some(VoltsRms::new(42.4).unwrap()),
            extra_drive_db: Some(Drive::new(6.0).unwrap()),
            filters_out: true,
            ..Gain::default()
        };
        assert_eq!(
            gain.words(),
            "Source clean to 47 of 50, amplifier at clip onset, 42.4\u{202f}V, then 6\u{202f}dB of extra drive, filters out."
        );
        assert_eq!(Gain { extra_drive_db: Some(Drive::new(60.0).unwrap()), ..gain }.check()[0].path, "extra_drive_db");
    }
}
