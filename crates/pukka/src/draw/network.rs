//! How resistors are joined: series side by side, parallel one above the other.

use maud::{Markup, html};
use pukka_core::kernel::format;
use pukka_core::record::bench::LoadResistor;
use pukka_core::record::bench::inventory::{Build, Tree};

use super::tenth;

const BOX: (f64, f64) = (46.0, 20.0);
/// Wire before and after each part, and between two that stand in parallel.
const WIRE: f64 = 8.0;
const GAP: f64 = 6.0;

/// The build of one output, drawn from terminal to terminal.
#[must_use]
pub fn network(build: &Build, loads: &[LoadResistor]) -> String {
    let (width, height) = size(&build.tree);
    let (whole_w, whole_h) = (width + 2.0 * WIRE, height + 2.0);
    let middle = 1.0 + height / 2.0;
    let svg = html! {
        svg class="network" viewBox={ "0 0 " (tenth(whole_w)) " " (tenth(whole_h)) } width=(format!("{whole_w:.0}"))
            height=(format!("{whole_h:.0}")) role="img" "aria-label"=(build.words) {
            (wire((0.0, middle), (WIRE, middle)))
            (part(&build.tree, loads, (WIRE, 1.0), width))
            (wire((WIRE + width, middle), (whole_w, middle)))
        }
    };
    svg.into_string()
}

fn size(tree: &Tree) -> (f64, f64) {
    match tree {
        Tree::Resistor(_) | Tree::Step(_) => BOX,
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

fn wire(from: (f64, f64), to: (f64, f64)) -> Markup {
    html! { path class="wire" d=(format!("M{:.1} {:.1}L{:.1} {:.1}", from.0, from.1, to.0, to.1)) {} }
}

/// A part in a space of `width` by its own height, from left to right.
fn part(tree: &Tree, loads: &[LoadResistor], (x, y): (f64, f64), width: f64) -> Markup {
    let (own, height) = size(tree);
    let middle = y + height / 2.0;
    let left = x + (width - own) / 2.0;
    html! {
        @if width > own {
            (wire((x, middle), (left, middle)))
            (wire((left + own, middle), (x + width, middle)))
        }
        @match tree {
            Tree::Resistor(kind) => { (resistor(&nominal(loads, *kind), (left, y))) }
            Tree::Step(ohm) => { (resistor(&format::ohms(*ohm), (left, y))) }
            Tree::Series(parts) => { (series(parts, loads, (left, middle))) }
            Tree::Parallel(parts) => { (parallel(parts, loads, (left, y), own)) }
        }
    }
}

fn nominal(loads: &[LoadResistor], kind: usize) -> String {
    loads.get(kind).map_or_else(String::new, |load| format::ohms(load.nominal_ohm.get()))
}

fn resistor(ohms: &str, (x, y): (f64, f64)) -> Markup {
    let (w, h) = BOX;
    html! {
        rect class="resistor" x=(tenth(x)) y=(tenth(y)) width=(w) height=(h) rx="3" {}
        text class="ohms" x=(tenth(x + w / 2.0)) y=(tenth(y + h / 2.0 + 4.0)) { (ohms) (format::THIN) "Ω" }
    }
}

fn series(parts: &[Tree], loads: &[LoadResistor], (left, middle): (f64, f64)) -> Markup {
    let mut at = left;
    let places: Vec<(f64, &Tree)> = parts
        .iter()
        .map(|inner| {
            let here = at;
            at += size(inner).0 + WIRE;
            (here, inner)
        })
        .collect();
    html! {
        @for (i, (at, inner)) in places.iter().enumerate() {
            @let (w, h) = size(inner);
            @if i > 0 { (wire((at - WIRE, middle), (*at, middle))) }
            (part(inner, loads, (*at, middle - h / 2.0), w))
        }
    }
}

fn parallel(parts: &[Tree], loads: &[LoadResistor], (left, y): (f64, f64), own: f64) -> Markup {
    let inside = own - 2.0 * WIRE;
    let mut at = y;
    // Each part with its top, and the middle that its wires are at.
    let places: Vec<(f64, f64, &Tree)> = parts
        .iter()
        .map(|inner| {
            let (top, h) = (at, size(inner).1);
            at += h + GAP;
            (top, top + h / 2.0, inner)
        })
        .collect();
    html! {
        @for (top, middle, inner) in &places {
            (wire((left, *middle), (left + WIRE, *middle)))
            (part(inner, loads, (left + WIRE, *top), inside))
            (wire((left + WIRE + inside, *middle), (left + own, *middle)))
        }
        @if let (Some((_, first, _)), Some((_, last, _))) = (places.first(), places.last()) {
            (wire((left, *first), (left, *last)))
            (wire((left + own, *first), (left + own, *last)))
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
