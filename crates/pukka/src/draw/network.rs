//! How resistors are joined: series side by side, parallel one above the other.

use std::fmt::Write as _;

use pukka_core::kernel::format;
use pukka_core::record::bench::LoadResistor;
use pukka_core::record::bench::inventory::{Build, Tree};

use super::escape;

const BOX: (f64, f64) = (46.0, 20.0);
/// Wire before and after each part, and between two that stand in parallel.
const WIRE: f64 = 8.0;
const GAP: f64 = 6.0;

/// The build of one output, drawn from terminal to terminal.
#[must_use]
pub fn network(build: &Build, loads: &[LoadResistor]) -> String {
    let (width, height) = size(&build.tree);
    let (whole_w, whole_h) = (width + 2.0 * WIRE, height + 2.0);
    let mut svg = format!(
        r#"<svg class="network" viewBox="0 0 {whole_w:.1} {whole_h:.1}" width="{whole_w:.0}" height="{whole_h:.0}" role="img" aria-label="{}">"#,
        escape(&build.words)
    );
    let middle = 1.0 + height / 2.0;
    wire(&mut svg, 0.0, middle, WIRE, middle);
    part(&mut svg, &build.tree, loads, WIRE, 1.0, width);
    wire(&mut svg, WIRE + width, middle, whole_w, middle);
    svg.push_str("</svg>");
    svg
}

fn size(tree: &Tree) -> (f64, f64) {
    match tree {
        Tree::Resistor(_) => BOX,
        Tree::Series(parts) => {
            let sizes: Vec<(f64, f64)> = parts.iter().map(size).collect();
            let width = sizes.iter().map(|s| s.0).sum::<f64>() + WIRE * (sizes.len() - 1) as f64;
            (width, sizes.iter().map(|s| s.1).fold(0.0, f64::max))
        }
        Tree::Parallel(parts) => {
            let sizes: Vec<(f64, f64)> = parts.iter().map(size).collect();
            let width = sizes.iter().map(|s| s.0).fold(0.0, f64::max) + 2.0 * WIRE;
            (width, sizes.iter().map(|s| s.1).sum::<f64>() + GAP * (sizes.len() - 1) as f64)
        }
    }
}

fn wire(svg: &mut String, x1: f64, y1: f64, x2: f64, y2: f64) {
    let _ = write!(svg, r#"<path class="wire" d="M{x1:.1} {y1:.1}L{x2:.1} {y2:.1}"/>"#);
}

/// Draws a part into a space of `width` by its own height, from left to right.
fn part(svg: &mut String, tree: &Tree, loads: &[LoadResistor], x: f64, y: f64, width: f64) {
    let (own, height) = size(tree);
    let middle = y + height / 2.0;
    let left = x + (width - own) / 2.0;
    if width > own {
        wire(svg, x, middle, left, middle);
        wire(svg, left + own, middle, x + width, middle);
    }
    match tree {
        Tree::Resistor(kind) => {
            let ohms = loads.get(*kind).map_or_else(String::new, |load| format::ohms(load.nominal_ohm.get()));
            let (w, h) = BOX;
            let _ = write!(svg, r#"<rect class="resistor" x="{left:.1}" y="{y:.1}" width="{w}" height="{h}" rx="3"/>"#);
            let _ = write!(svg, r#"<text class="ohms" x="{:.1}" y="{:.1}">{ohms}{}Ω</text>"#, left + w / 2.0, middle + 4.0, format::THIN);
        }
        Tree::Series(parts) => {
            let mut at = left;
            for (i, inner) in parts.iter().enumerate() {
                if i > 0 {
                    wire(svg, at, middle, at + WIRE, middle);
                    at += WIRE;
                }
                let (w, h) = size(inner);
                part(svg, inner, loads, at, middle - h / 2.0, w);
                at += w;
            }
        }
        Tree::Parallel(parts) => {
            let inside = own - 2.0 * WIRE;
            let (mut at, mut middles) = (y, Vec::new());
            for inner in parts {
                let h = size(inner).1;
                let own_middle = at + h / 2.0;
                wire(svg, left, own_middle, left + WIRE, own_middle);
                part(svg, inner, loads, left + WIRE, at, inside);
                wire(svg, left + WIRE + inside, own_middle, left + own, own_middle);
                middles.push(own_middle);
                at += h + GAP;
            }
            if let (Some(first), Some(last)) = (middles.first(), middles.last()) {
                wire(svg, left, *first, left, *last);
                wire(svg, left + own, *first, left + own, *last);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use pukka_core::kernel::wiring::Wiring;
    use pukka_core::record::bench::inventory::find;

    use super::*;

    #[test]
    fn every_resistor_is_drawn_once_and_inside() {
        let loads: Vec<LoadResistor> =
            serde_json::from_str(r#"[{"nominal_ohm": 4.0, "count": 4}, {"nominal_ohm": 8.0, "count": 2}]"#).unwrap();
        for wanted in [0.8, 2.67, 5.3, 14.0] {
            for build in find(&loads, Wiring::Mono, wanted).builds {
                let svg = network(&build, &loads);
                assert_eq!(svg.matches("class=\"resistor\"").count(), build.parts, "{}", build.words);
                let (width, height) = size(&build.tree);
                let numbers = |name: &str| -> Vec<f64> {
                    svg.split(&format!("{name}=\"")).skip(1).filter_map(|rest| rest.split('"').next()?.parse().ok()).collect()
                };
                assert!(numbers(" x").iter().all(|x| (0.0..=width + 2.0 * WIRE).contains(x)), "{svg}");
                assert!(numbers(" y").iter().all(|y| (0.0..=height + 2.0).contains(y)), "{svg}");
            }
        }
    }
}
