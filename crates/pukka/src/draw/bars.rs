//! A claim against what was made: a bar a mode, the claim an upright mark across them.

use maud::{Markup, html};
use pukka_core::record::session::Mode;
use pukka_core::report::ClaimRow;

use super::percent;

/// Heights; the width is whatever there is.
#[derive(Debug, Clone, Copy)]
pub struct Measures {
    /// Room for the mark's label above the bars.
    top: u32,
    bar: u32,
    step: u32,
}

/// On a screen.
pub const SCREEN: Measures = Measures { top: 17, bar: 15, step: 23 };
/// On the sheet.
pub const SHEET: Measures = Measures { top: 15, bar: 10, step: 14 };

impl Measures {
    /// Top of a track.
    #[must_use]
    pub const fn top(self, track: u32) -> u32 {
        self.top + track * self.step
    }
}

/// The bars of one claim. Widths are percentages, so that text keeps its size.
#[must_use]
pub fn bars(row: &ClaimRow, measures: Measures) -> Markup {
    let tracks = row.bars.iter().map(|bar| bar.track + 1).fold(3, u32::max);
    let (height, tall) = (measures.top(tracks), measures.bar);
    let id = row.claim_id.as_str();
    html! {
        svg class="chart" width="100%" height=(height) role="img" "aria-label"=(words(row)) {
            defs { (patterns(id)) }
            @for track in 0..tracks {
                @let y = measures.top(track);
                rect class="track" x="0" y=(y) width="100%" height=(tall) {}
                @if let Some(bar) = row.bars.iter().find(|bar| bar.track == track) {
                    @let word = bar.mode.word();
                    rect class={ "bar bar-" (word) } "data-mode"=(word) x="0" y=(y) width=(percent(bar.fraction)) height=(tall)
                        fill=[pattern_of(bar.mode, id)] {}
                    (whisker(bar.fraction, bar.plus_minus, f64::from(y) + f64::from(tall) / 2.0))
                }
            }
            @if let (Some(at), Some(claim)) = (row.claim_fraction, &row.claim) {
                @if let Some(from) = row.within_fraction {
                    rect class="within" x=(percent(from)) y="14" width=(percent((at - from).max(0.0))) height=(height - 15) {}
                }
                g "data-claim"=(id) {
                    line class="mark" x1=(percent(at)) x2=(percent(at)) y1="14" y2=(height - 1) {}
                    text class="mark-label" x=(percent(at)) y="11" "text-anchor"="middle" { (claim) }
                }
            }
        }
    }
}

/// ± at the end of a bar: a line from end to end, and a stop at each.
fn whisker(end: f64, plus_minus: f64, middle: f64) -> Markup {
    let (from, to, half) = (percent((end - plus_minus).max(0.0)), percent(end + plus_minus), 3.5);
    let (above, below) = (middle - half, middle + half);
    html! {
        g class="plus-minus" "data-plus-minus"=(format!("{plus_minus:.4}")) {
            line x1=(from) x2=(to) y1=(middle) y2=(middle) {}
            line x1=(from) x2=(from) y1=(above) y2=(below) {}
            line x1=(to) x2=(to) y1=(above) y2=(below) {}
        }
    }
}

/// The fill of a mode; certified is solid.
pub(super) fn pattern_of(mode: Mode, id: &str) -> Option<String> {
    (mode != Mode::Certified).then(|| format!("url(#{}-{id})", mode.word()))
}

/// The fills of clipping and dynamic: a slanted hatch, and dots.
pub(super) fn patterns(id: &str) -> Markup {
    html! {
        pattern id={ "clipping-" (id) } width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(25)" {
            rect class="hatch-light" width="8" height="8" {}
            rect class="hatch-dark" width="4" height="8" {}
        }
        pattern id={ "dynamic-" (id) } width="8" height="7.5" patternUnits="userSpaceOnUse" y="2" {
            circle class="dot" cx="4" cy="4" r="2" {}
        }
    }
}

fn words(row: &ClaimRow) -> String {
    let made: Vec<String> =
        row.bars.iter().map(|bar| format!("{} {} W", bar.burst.as_deref().unwrap_or_else(|| bar.mode.word()), bar.total.text)).collect();
    let made = if made.is_empty() { "nothing run".to_owned() } else { made.join(", ") };
    match &row.claim {
        Some(claim) => format!("{claim} W claimed into {}: {made}", row.load),
        None => format!("no watts claimed: {made}"),
    }
}
