//! What leads cost: volts dropped and heat, from length and section.

use crate::kernel::format;
use crate::kernel::units::SquareMillimetres;
use crate::kernel::working::{Figure, Working, source};
use crate::record::bench::Lead;

/// Resistivity of copper at 20 °C, Ω·mm²/m.
pub const COPPER: f64 = 0.0172;

/// Section of an AWG size, mm²: d = 0.127 mm · 92^((36 − n)/39). 1/0 is n = 0, 2/0 is −1, 4/0 is −3.
#[must_use]
pub fn awg_mm2(n: f64) -> f64 {
    let diameter_mm = 0.127 * 92f64.powf((36.0 - n) / 39.0);
    std::f64::consts::FRAC_PI_4 * diameter_mm * diameter_mm
}

/// The AWG size nearest to a section, as it is written: "8 AWG", "1/0 AWG".
#[must_use]
pub fn nearest_awg(section: SquareMillimetres) -> String {
    let diameter_mm = (section.get() / std::f64::consts::FRAC_PI_4).sqrt();
    let n = (36.0 - 39.0 * (diameter_mm / 0.127).ln() / 92f64.ln()).round().clamp(-3.0, 40.0);
    if n < 1.0 { format!("{}/0 AWG", format::fixed(1.0 - n, 0)) } else { format!("{} AWG", format::fixed(n, 0)) }
}

/// Resistance of a lead there and back, ohms.
#[must_use]
pub fn lead_ohm(lead: &Lead) -> f64 {
    2.0 * COPPER * lead.length_m.get() / lead.section_mm2.get()
}

/// A section as people write it: `50`, `50 mm2`, `4 AWG`, `1/0 AWG`, `4/0`, `AWG 8`.
///
/// # Errors
/// Why it cannot be read, in a sentence.
pub fn read_section(text: &str) -> Result<SquareMillimetres, String> {
    let lower = text.trim().to_lowercase().replace(',', ".");
    let gauge = lower.contains("awg") || lower.contains("ga") || lower.contains("/0");
    let bare: String = lower.chars().filter(|c| c.is_ascii_digit() || matches!(c, '.' | '/' | '-')).collect();
    if gauge {
        let n = match bare.split_once('/') {
            Some((aughts, "0")) => aughts.parse::<f64>().ok().map(|aughts| 1.0 - aughts),
            Some(_) => None,
            None => bare.parse().ok(),
        };
        return n
            .filter(|n| (-3.0..=40.0).contains(n) && n.fract() == 0.0)
            .and_then(|n| SquareMillimetres::new(awg_mm2(n)).ok())
            .ok_or_else(|| format!("“{}” is not an AWG size: 4/0 to 40.", text.trim()));
    }
    let number = lower.trim_end_matches("mm2").trim_end_matches("mm²").trim_end_matches("sqmm").trim();
    let parsed = number.parse::<f64>().map_err(|_| format!("“{}” is not a section: write 50 mm² or 1/0 AWG.", text.trim()))?;
    SquareMillimetres::new(parsed).map_err(|why| format!("{why}."))
}

/// Volts dropped and heat in a lead at a current.
#[must_use]
pub fn drop_and_heat(lead: &Lead, current_a: f64) -> (Figure, Figure) {
    let drop_v = lead_ohm(lead) * current_a;
    let working = |title: &str, formula: &str| {
        Working::new(title, formula, source::CIRCUITS)
            .with("ρ", "copper at 20 °C, Ω·mm²/m", COPPER, "")
            .with("L", format!("length each way, {}", lead.name), lead.length_m.get(), "m")
            .with_text("A", "section", format::with_unit(&format::fixed(lead.section_mm2.get(), 1), "mm²"))
            .with_text("I", "current", format::with_unit(&format::amps(current_a), "A"))
            .assuming("Copper at 20 °C; lugs and clamps add to it.")
    };
    (
        Figure::volts(drop_v, working("Drop in the lead, there and back", "2 · ρ · L / A · I")),
        Figure::watts(drop_v * current_a, working("Heat in the lead", "2 · ρ · L / A · I²")),
    )
}

#[cfg(test)]
mod tests {
    use serde_json::Map;

    use super::*;
    use crate::kernel::units::Metres;

    #[test]
    fn gauges_against_the_table_of_the_standard() {
        // ASTM B258, nominal sections.
        for (n, mm2) in [(-3.0, 107.2), (0.0, 53.49), (4.0, 21.15), (8.0, 8.367), (12.0, 3.309), (36.0, 0.012_67)] {
            assert!((awg_mm2(n) / mm2 - 1.0).abs() < 5e-4, "AWG {n}: {}", awg_mm2(n));
        }
    }

    #[test]
    fn and_back_to_the_nearest_gauge() {
        for (mm2, words) in [(107.2, "4/0 AWG"), (53.5, "1/0 AWG"), (50.0, "1/0 AWG"), (21.0, "4 AWG"), (8.0, "8 AWG"), (0.01, "37 AWG")] {
            assert_eq!(nearest_awg(SquareMillimetres::new(mm2).unwrap()), words, "{mm2} mm²");
        }
    }

    #[test]
    fn sections_as_people_write_them() {
        let read = |text: &str| read_section(text).map(|section| (section.get() * 100.0).round() / 100.0);
        for text in ["50", "50 mm2", "50mm²", "50,0"] {
            assert_eq!(read(text), Ok(50.0), "{text}");
        }
        for (text, mm2) in [("4 AWG", 21.15), ("AWG 8", 8.37), ("1/0", 53.49), ("4/0 awg", 107.22), ("0 AWG", 53.48)] {
            assert!((read(text).unwrap() - mm2).abs() < 0.02, "{text}: {:?}", read(text));
        }
        for text in ["", "thick", "50 AWG", "-5", "2/1 AWG", "0"] {
            assert!(read(text).is_err(), "{text}");
        }
    }

    #[test]
    fn the_drop_worked_by_hand() {
        let lead = Lead {
            name: "bank to amplifier".into(),
            length_m: Metres::new(1.5).unwrap(),
            section_mm2: SquareMillimetres::new(50.0).unwrap(),
            extra: Map::new(),
        };
        // 2 × 0.0172 × 1.5 / 50 = 1.032 mΩ; at 125 A 0.129 V and 16.1 W
        let (drop, heat) = drop_and_heat(&lead, 125.0);
        assert!((drop.value - 0.129).abs() < 1e-9 && (heat.value - 16.125).abs() < 1e-9);
        assert_eq!((drop.text.as_str(), heat.text.as_str()), ("0.13", "16.1"));
    }
}
