//! What the supply fuses can feed, beside what is claimed.

use maud::{Markup, html};
use pukka_core::record::claims::sense::Weight;
use pukka_core::record::claims::sense_view::FusePicture;

use super::{percent, tenth};

const BAR: f64 = 16.0;
const STEP: f64 = 25.0;
const FIRST: f64 = 34.0;
/// A bar up to this part of the width has its label behind it, a longer one inside.
const BEHIND: f64 = 0.52;

/// The picture: the fuses' bar on top, then a bar a claim, all to one scale. Widths are percentages.
#[must_use]
pub fn fuses(picture: &FusePicture) -> String {
    let most = picture.rows.iter().map(|row| row.power_w).fold(picture.ceiling_w, f64::max);
    let height = FIRST + STEP * picture.rows.len() as f64;
    let said: Vec<&str> = std::iter::once(picture.label.as_str()).chain(picture.rows.iter().map(|row| row.label.as_str())).collect();
    let svg = html! {
        svg class="chart" width="100%" height=(height) role="img" "aria-label"=(said.join("; ")) {
            (bar(0.0, picture.ceiling_w / most, "fed", &picture.label, None))
            @for (i, row) in picture.rows.iter().enumerate() {
                (bar(FIRST + STEP * i as f64, row.power_w / most, class_of(row.weight), &row.label, Some(&row.claim_id)))
            }
        }
    };
    svg.into_string()
}

const fn class_of(weight: Option<Weight>) -> &'static str {
    match weight {
        None | Some(Weight::Note) => "fits",
        Some(Weight::Doubt) => "strains",
        Some(Weight::Unlikely) => "beyond",
    }
}

fn bar(y: f64, fraction: f64, class: &str, label: &str, claim: Option<&str>) -> Markup {
    let (width, text) = (percent(fraction), tenth(y + 12.5));
    html! {
        g "data-claim"=[claim] {
            rect class=(class) x="0" y=(tenth(y)) width=(width) height=(BAR) {}
            @if fraction > BEHIND {
                text class={ "on-" (class) } x="8" y=(text) { (label) }
            } @else {
                text class="label" x=(width) dx="8" y=(text) { (label) }
            }
        }
    }
}
