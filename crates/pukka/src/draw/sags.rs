//! The supply, run by run: a bar hangs from the voltage at rest down to that of the reading, in the fill of its mode.

use maud::html;
use pukka_core::assess::sags::SagRow;

use super::bars::{pattern_of, patterns};
use super::{PlacedChart, Point, tenth};

const WIDTH: f64 = 346.0;
const HEIGHT: f64 = 150.0;
const LEFT: f64 = 42.0;
const RIGHT: f64 = 340.0;
const TOP: f64 = 12.0;
const BOTTOM: f64 = 122.0;
const BASE: f64 = 144.0;
const WIDEST: f64 = 22.0;

/// The chart; nothing without a run that has both voltages. Its points are the lower ends.
#[must_use]
pub fn sags(rows: &[SagRow]) -> Option<PlacedChart> {
    let least = rows.iter().map(|row| row.end_v.min(row.rest_v)).min_by(f64::total_cmp)?;
    let most = rows.iter().map(|row| row.rest_v.max(row.end_v)).max_by(f64::total_cmp)?;
    // Half volts around them.
    let (low, high) = ((least * 2.0).floor() / 2.0, ((most * 2.0).ceil() / 2.0).max((least * 2.0).floor() / 2.0 + 0.5));
    let y = |volts: f64| BOTTOM - (volts - low) / (high - low) * (BOTTOM - TOP);
    let column = (RIGHT - LEFT) / rows.len() as f64;
    let x = |i: usize| LEFT + column * (i as f64 + 0.5);
    let bar = (column * 0.6).min(WIDEST);

    let said: Vec<String> = rows.iter().map(|row| format!("{} {} {} V", row.load, row.mode.word(), row.sag.text)).collect();
    let lines = ((high - low) * 2.0).round() as usize;
    // A line every half volt, or every volt or more where those would crowd.
    let every = lines.div_ceil(5).max(1);
    let svg = html! {
        svg class="chart" viewBox={ "0 0 " (WIDTH) " " (HEIGHT) } width="100%" role="img"
            "aria-label"={ "Supply sag by run: " (said.join(", ")) } {
            defs { (patterns("sags")) }
            @for i in (0..=lines).step_by(every) {
                @let volts = low + 0.5 * i as f64;
                line class="grid" x1=(LEFT) x2=(RIGHT) y1=(tenth(y(volts))) y2=(tenth(y(volts))) {}
                text class="axis" x="2" y=(tenth(y(volts) + 4.0)) { (tenth(volts)) @if i + every > lines { " V" } }
            }
            @for (i, row) in rows.iter().enumerate() {
                @let top = y(row.rest_v.max(row.end_v));
                @let end = y(row.end_v.min(row.rest_v));
                rect class={ "bar bar-" (row.mode.word()) } "data-sag"=(format!("{:.3}", row.sag.value)) x=(tenth(x(i) - bar / 2.0))
                    y=(tenth(top)) width=(tenth(bar)) height=(tenth((end - top).max(1.0))) fill=[pattern_of(row.mode, "sags")] {}
            }
            @for (from, to) in super::groups(rows, |row| (row.load.clone(), row.wiring.clone())) {
                text class="axis" x=(tenth(f64::midpoint(x(from), x(to)))) y=(BASE) "text-anchor"="middle" { (rows[from].load) }
            }
        }
    };
    let points = rows.iter().enumerate().map(|(i, row)| Point { x: x(i) / WIDTH, y: y(row.end_v) / HEIGHT }).collect();
    Some(PlacedChart { svg: svg.into_string(), points })
}
