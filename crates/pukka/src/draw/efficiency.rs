//! Efficiency against load, highest load first.

use std::fmt::Write as _;

use pukka_core::assess::loads::LoadRow;
use pukka_core::kernel::working::Figure;

use super::{PlacedChart, Point, escape};

const WIDTH: f64 = 346.0;
const HEIGHT: f64 = 146.0;
/// More height for a second line under the loads, when they differ in wiring.
const SECOND: f64 = 15.0;
const LEFT: f64 = 42.0;
const RIGHT: f64 = 340.0;
const TOP: f64 = 26.0;
const BOTTOM: f64 = 112.0;
const BASE: f64 = 136.0;

/// The chart, a point for every load that has an efficiency; nothing without one.
#[must_use]
pub fn efficiency(loads: &[LoadRow]) -> Option<PlacedChart> {
    let points: Vec<(&LoadRow, &Figure)> = loads.iter().filter_map(|row| Some((row, row.efficiency.as_ref()?))).collect();
    let values: Vec<f64> = points.iter().map(|(_, efficiency)| efficiency.value).collect();
    let least = values.iter().copied().min_by(f64::total_cmp)?;
    let most = values.iter().copied().max_by(f64::total_cmp)?;
    // Whole tens around the points, two steps at least.
    let low = (least / 10.0).floor() * 10.0;
    let high = ((most / 10.0).ceil() * 10.0).max(low + 20.0);
    let y = |percent: f64| BOTTOM - (percent - low) / (high - low) * (BOTTOM - TOP);
    let column = (RIGHT - LEFT) / points.len() as f64;
    let x = |i: usize| LEFT + column * (i as f64 + 0.5);

    let mixed = points.iter().any(|(row, _)| row.wiring != points[0].0.wiring);
    let height = if mixed { HEIGHT + SECOND } else { HEIGHT };
    let said: Vec<String> = points.iter().map(|(row, efficiency)| format!("{} {} %", row.load, efficiency.text)).collect();
    let mut svg = format!(
        r#"<svg class="chart" viewBox="0 0 {WIDTH} {height}" width="100%" role="img" aria-label="Efficiency by load: {}">"#,
        escape(&said.join(", "))
    );
    let step = if high - low > 40.0 { 20.0 } else { 10.0 };
    let lines = ((high - low) / step).floor() as usize;
    for i in 0..=lines {
        let percent = low + step * i as f64;
        let at = y(percent);
        let unit = if i == lines { " %" } else { "" };
        let _ = write!(
            svg,
            r#"<line class="grid" x1="{LEFT}" x2="{RIGHT}" y1="{at:.1}" y2="{at:.1}"/><text class="axis" x="2" y="{:.1}">{percent:.0}{unit}</text>"#,
            at + 4.0
        );
    }
    let path: Vec<String> = values.iter().enumerate().map(|(i, v)| format!("{:.1} {:.1}", x(i), y(*v))).collect();
    let _ = write!(svg, r#"<path class="line" d="M{}"/>"#, path.join(" L"));
    for (i, (row, _)) in points.iter().enumerate() {
        let (cx, cy) = (x(i), y(values[i]));
        let _ = write!(
            svg,
            r#"<circle class="point" data-load="{0}" cx="{cx:.1}" cy="{cy:.1}" r="5"/><text class="axis" x="{cx:.1}" y="{BASE}" text-anchor="middle">{0}</text>"#,
            escape(&row.load)
        );
    }
    if mixed {
        // Neighbours of one wiring share its name.
        for (from, to) in super::groups(&points, |(row, _)| row.wiring.clone()) {
            let _ = write!(
                svg,
                r#"<text class="axis small" x="{:.1}" y="{:.1}" text-anchor="middle">{}</text>"#,
                f64::midpoint(x(from), x(to)),
                BASE + SECOND,
                escape(&points[from].0.wiring)
            );
        }
    }
    svg.push_str("</svg>");
    let places = values.iter().enumerate().map(|(i, v)| Point { x: x(i) / WIDTH, y: y(*v) / height }).collect();
    Some(PlacedChart { svg, points: places })
}
