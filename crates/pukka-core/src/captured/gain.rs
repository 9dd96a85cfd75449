//! Gain and filters by a captured wave: where clipping begins, and what the corners say against what the knobs are said to do.

use serde::{Deserialize, Serialize};

use crate::kernel::format;
use crate::record::amplifier::{Amplifier, Control, ControlKind};
use crate::traces::cut::StretchKind;
use crate::traces::report::{Response, Stretch};

/// Onset of clipping of an output.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Onset {
    /// Volts rms where it begins.
    pub volts_rms: f64,
    /// How it was found, in a sentence.
    pub says: String,
}

/// The onset of clipping that a stretch shows: where a ramp crosses the limit, or below a tone that clips by what is known of clipped
/// sines. Nothing of one that does not clip.
#[must_use]
pub fn onset(stretch: &Stretch) -> Option<Onset> {
    let shown = |volts: f64| format::with_unit(&format::significant(volts, 4), "V");
    match stretch.kind {
        StretchKind::Ramp | StretchKind::Steps => {
            let found = stretch.certified?;
            let says = format!("Distortion crosses the limit at {}, {} s into it.", shown(found.rms), format::fixed(found.at_s, 2));
            Some(Onset { volts_rms: found.rms, says })
        }
        StretchKind::Tone | StretchKind::Burst => {
            let past = stretch.past_onset_db.filter(|db| *db > 0.0 && stretch.clipped == Some(true))?;
            // The limit that its tops are cut at is the peak of the largest sine that passes whole.
            let volts_rms = stretch.peak / 2f64.sqrt();
            let says = format!(
                "It clips at {} peak, which a sine of {} just reaches; it is driven {} past that.",
                shown(stretch.peak),
                shown(volts_rms),
                format::with_unit(&format::fixed(past, 2), "dB")
            );
            Some(Onset { volts_rms, says })
        }
        StretchKind::Quiet | StretchKind::Sweep => None,
    }
}

/// A corner of a response, against the control that is said to make it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CornerSaid {
    /// Which: high-pass or low-pass.
    pub kind: ControlKind,
    /// Where it was found.
    pub corner_hz: f64,
    /// Slope beyond it.
    pub slope_db_octave: Option<f64>,
    /// Whether a control of the amplifier reaches there; nothing where it is said to have none.
    pub within: Option<bool>,
    /// In a sentence.
    pub says: String,
}

/// A corner at the end of a knob's way may be off by its tolerance.
const KNOB: f64 = 1.1;

/// What the corners of a response say of the filters that the amplifier is said to have.
#[must_use]
pub fn corners_said(amplifier: &Amplifier, response: &Response) -> Vec<CornerSaid> {
    let corner = |kind: ControlKind, hz: Option<f64>, slope: Option<f64>| {
        let corner_hz = hz?;
        let own: Vec<&Control> = amplifier.controls.iter().filter(|control| control.kind == kind).collect();
        let reaches = |control: &&Control| {
            let (from, to) = (control.from_hz.or(control.to_hz), control.to_hz.or(control.from_hz));
            from.is_none_or(|from| corner_hz >= from.get() / KNOB) && to.is_none_or(|to| corner_hz <= to.get() * KNOB)
        };
        let within = (!own.is_empty()).then(|| own.iter().any(reaches));
        let name = if kind == ControlKind::HighPass { "low" } else { "high" };
        let slope_words =
            slope.map(|db| format!(", {} an octave", format::with_unit(&format::fixed(db.abs(), 0), "dB"))).unwrap_or_default();
        let knobs: Vec<String> = own.iter().map(|control| control.words()).collect();
        let ending = match within {
            None => "no control of the amplifier is said to make it.".to_owned(),
            Some(true) => format!("as the {} can make it.", knobs.join(" or ")),
            Some(false) => format!("where the {} does not reach.", knobs.join(" or ")),
        };
        let says = format!("−3 dB at the {name} end: {}{slope_words}, {ending}", format::tone(corner_hz));
        Some(CornerSaid { kind, corner_hz, slope_db_octave: slope, within, says })
    };
    let low = corner(ControlKind::HighPass, response.low_corner_hz, response.low_slope_db_octave);
    let high = corner(ControlKind::LowPass, response.high_corner_hz, response.high_slope_db_octave);
    low.into_iter().chain(high).collect()
}
