//! The supply, run by run: a bar hangs from the voltage at rest down to that of the reading, in the fill of its mode.

use std::fmt::Write as _;

use pukka_core::assess::sags::SagRow;
use pukka_core::record::session::Mode;

use super::bars::patterns;
use super::{PlacedChart, Point, escape};

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
    let mut svg = format!(
        r#"<svg class="chart" viewBox="0 0 {WIDTH} {HEIGHT}" width="100%" role="img" aria-label="Supply sag by run: {}"><defs>{}</defs>"#,
        escape(&said.join(", ")),
        patterns("sags")
    );
    let lines = ((high - low) * 2.0).round() as usize;
    // A line every half volt, or every volt or more where those would crowd.
    let every = lines.div_ceil(5).max(1);
    for i in (0..=lines).step_by(every) {
        let volts = low + 0.5 * i as f64;
        let at = y(volts);
        let unit = if i + every > lines { " V" } else { "" };
        let _ = write!(
            svg,
            r#"<line class="grid" x1="{LEFT}" x2="{RIGHT}" y1="{at:.1}" y2="{at:.1}"/><text class="axis" x="2" y="{:.1}">{volts:.1}{unit}</text>"#,
            at + 4.0
        );
    }
    for (i, row) in rows.iter().enumerate() {
        let (top, end, word) = (y(row.rest_v.max(row.end_v)), y(row.end_v.min(row.rest_v)), row.mode.word());
        let fill = if row.mode == Mode::Certified { String::new() } else { format!(r#" fill="url(#{word}-sags)""#) };
        let _ = write!(
            svg,
            r#"<rect class="bar bar-{word}" data-sag="{:.3}" x="{:.1}" y="{top:.1}" width="{bar:.1}" height="{:.1}"{fill}/>"#,
            row.sag.value,
            x(i) - bar / 2.0,
            (end - top).max(1.0)
        );
    }
    for (from, to) in super::groups(rows, |row| (row.load.clone(), row.wiring.clone())) {
        let middle = f64::midpoint(x(from), x(to));
        let _ = write!(svg, r#"<text class="axis" x="{middle:.1}" y="{BASE}" text-anchor="middle">{}</text>"#, escape(&rows[from].load));
    }
    svg.push_str("</svg>");
    let points = rows.iter().enumerate().map(|(i, row)| Point { x: x(i) / WIDTH, y: y(row.end_v) / HEIGHT }).collect();
    Some(PlacedChart { svg, points })
}
