//! A claim against what was made: a bar a mode, the claim an upright mark across them.

use std::fmt::Write as _;

use pukka_core::record::session::Mode;
use pukka_core::report::ClaimRow;

use super::escape;

/// How tall things are; the width is whatever there is.
#[derive(Debug, Clone, Copy)]
pub struct Measures {
    height: u32,
    /// Room for the mark's label above the bars.
    top: u32,
    bar: u32,
    step: u32,
}

/// On a screen.
pub const SCREEN: Measures = Measures { height: 84, top: 17, bar: 15, step: 23 };
/// On the sheet.
pub const SHEET: Measures = Measures { height: 56, top: 15, bar: 10, step: 14 };

/// The bars of one claim. Widths are percentages, so that text keeps its size.
#[must_use]
pub fn bars(row: &ClaimRow, measures: Measures) -> String {
    let Measures { height, top, bar: tall, step } = measures;
    let id = escape(&row.claim_id);
    let mut svg = format!(
        r#"<svg class="chart" width="100%" height="{height}" role="img" aria-label="{}"><defs>{}</defs>"#,
        escape(&words(row)),
        patterns(&id)
    );
    for (i, mode) in (0u32..).zip(Mode::ALL) {
        let (y, word) = (top + i * step, mode.word());
        let _ = write!(svg, r#"<rect class="track" x="0" y="{y}" width="100%" height="{tall}"/>"#);
        if let Some(bar) = row.bars.iter().find(|bar| bar.mode == mode) {
            let fill = if mode == Mode::Certified { String::new() } else { format!(r#" fill="url(#{word}-{id})""#) };
            let _ = write!(
                svg,
                r#"<rect class="bar bar-{word}" data-mode="{word}" x="0" y="{y}" width="{:.2}%" height="{tall}"{fill}/>"#,
                bar.fraction * 100.0
            );
            svg.push_str(&whisker(bar.fraction, bar.plus_minus, f64::from(y) + f64::from(tall) / 2.0));
        }
    }
    if let (Some(at), Some(claim)) = (row.claim_fraction, &row.claim) {
        let x = at * 100.0;
        if let Some(from) = row.within_fraction {
            let _ = write!(
                svg,
                r#"<rect class="within" x="{:.2}%" y="14" width="{:.2}%" height="{}"/>"#,
                from * 100.0,
                (at - from).max(0.0) * 100.0,
                height - 15
            );
        }
        let _ = write!(
            svg,
            r#"<g data-claim="{id}"><line class="mark" x1="{x:.2}%" x2="{x:.2}%" y1="14" y2="{}"/><text class="mark-label" x="{x:.2}%" y="11" text-anchor="middle">{}</text></g>"#,
            height - 1,
            escape(claim)
        );
    }
    svg.push_str("</svg>");
    svg
}

/// ± at the end of a bar: a line from end to end, and a stop at each.
fn whisker(end: f64, plus_minus: f64, middle: f64) -> String {
    let (from, to, half) = ((end - plus_minus).max(0.0) * 100.0, (end + plus_minus) * 100.0, 3.5);
    let (above, below) = (middle - half, middle + half);
    format!(
        concat!(
            r#"<g class="plus-minus" data-plus-minus="{:.4}"><line x1="{from:.2}%" x2="{to:.2}%" y1="{middle}" y2="{middle}"/>"#,
            r#"<line x1="{from:.2}%" x2="{from:.2}%" y1="{above}" y2="{below}"/><line x1="{to:.2}%" x2="{to:.2}%" y1="{above}" y2="{below}"/></g>"#
        ),
        plus_minus,
        from = from,
        to = to,
        middle = middle,
        above = above,
        below = below
    )
}

/// The fills of clipping and dynamic: a slanted hatch, and dots. Certified is solid.
pub(super) fn patterns(id: &str) -> String {
    format!(
        concat!(
            r#"<pattern id="clipping-{id}" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(25)">"#,
            r#"<rect class="hatch-light" width="8" height="8"/><rect class="hatch-dark" width="4" height="8"/></pattern>"#,
            r#"<pattern id="dynamic-{id}" width="8" height="7.5" patternUnits="userSpaceOnUse" y="2"><circle class="dot" cx="4" cy="4" r="2"/></pattern>"#
        ),
        id = id
    )
}

fn words(row: &ClaimRow) -> String {
    let made: Vec<String> = row.bars.iter().map(|bar| format!("{} {} W", bar.mode.word(), bar.total.text)).collect();
    let made = if made.is_empty() { "nothing run".to_owned() } else { made.join(", ") };
    match &row.claim {
        Some(claim) => format!("{claim} W claimed into {}: {made}", row.load),
        None => format!("no watts claimed: {made}"),
    }
}
