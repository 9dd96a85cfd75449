//! Efficiency against load, highest load first.

use maud::html;
use pukka_core::assess::loads::LoadRow;
use pukka_core::kernel::working::Figure;

use super::{PlacedChart, Point, tenth};

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
    let step = if high - low > 40.0 { 20.0 } else { 10.0 };
    let lines = ((high - low) / step).floor() as usize;
    // A line joins only points of one wiring, setting and tone.
    let stretch = |from: usize, to: usize| {
        let of_one = values.iter().enumerate().take(to + 1).skip(from).map(|(i, v)| format!("{:.1} {:.1}", x(i), y(*v)));
        format!("M{}", of_one.collect::<Vec<_>>().join(" L"))
    };
    let path: String = super::groups(&points, |(row, _)| row.words.clone()).into_iter().map(|(from, to)| stretch(from, to)).collect();
    let svg = html! {
        svg class="chart" viewBox={ "0 0 " (WIDTH) " " (height) } width="100%" role="img"
            "aria-label"={ "Efficiency by load: " (said.join(", ")) } {
            @for i in 0..=lines {
                @let line = low + step * i as f64;
                line class="grid" x1=(LEFT) x2=(RIGHT) y1=(tenth(y(line))) y2=(tenth(y(line))) {}
                text class="axis" x="2" y=(tenth(y(line) + 4.0)) { (line) @if i == lines { " %" } }
            }
            path class="line" d=(path) {}
            @for (i, (row, efficiency)) in points.iter().enumerate() {
                circle class="point" "data-load"=(row.load) cx=(tenth(x(i))) cy=(tenth(y(efficiency.value))) r="5" {}
                text class="axis" x=(tenth(x(i))) y=(BASE) "text-anchor"="middle" { (row.load) }
            }
            @if mixed {
                // Neighbours of one wiring share its name.
                @for (from, to) in super::groups(&points, |(row, _)| row.wiring.clone()) {
                    text class="axis small" x=(tenth(f64::midpoint(x(from), x(to)))) y=(tenth(BASE + SECOND)) "text-anchor"="middle" {
                        (points[from].0.wiring)
                    }
                }
            }
        }
    };
    let places = values.iter().enumerate().map(|(i, v)| Point { x: x(i) / WIDTH, y: y(*v) / height }).collect();
    Some(PlacedChart { svg: svg.into_string(), points: places })
}
