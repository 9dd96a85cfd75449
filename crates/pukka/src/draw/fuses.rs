//! What the supply fuses can feed, beside what is claimed.

use std::fmt::Write as _;

use pukka_core::record::claims::sense::Weight;
use pukka_core::record::claims::sense_view::FusePicture;

use super::escape;

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
    let mut svg = format!(r#"<svg class="chart" width="100%" height="{height}" role="img" aria-label="{}">"#, escape(&said.join("; ")));
    bar(&mut svg, 0.0, picture.ceiling_w / most, "fed", &picture.label, None);
    for (i, row) in picture.rows.iter().enumerate() {
        let class = match row.weight {
            None | Some(Weight::Note) => "fits",
            Some(Weight::Doubt) => "strains",
            Some(Weight::Unlikely) => "beyond",
        };
        bar(&mut svg, FIRST + STEP * i as f64, row.power_w / most, class, &row.label, Some(&row.claim_id));
    }
    svg.push_str("</svg>");
    svg
}

fn bar(svg: &mut String, y: f64, fraction: f64, class: &str, label: &str, claim: Option<&str>) {
    let width = fraction * 100.0;
    let named = claim.map(|id| format!(r#" data-claim="{}""#, escape(id))).unwrap_or_default();
    let _ = write!(svg, r#"<g{named}><rect class="{class}" x="0" y="{y:.1}" width="{width:.2}%" height="{BAR}"/>"#);
    let text = y + 12.5;
    let _ = if fraction > BEHIND {
        write!(svg, r#"<text class="on-{class}" x="8" y="{text:.1}">{}</text></g>"#, escape(label))
    } else {
        write!(svg, r#"<text class="label" x="{width:.2}%" dx="8" y="{text:.1}">{}</text></g>"#, escape(label))
    };
}
