//! Marks on a photo: arrows, rings and labels, drawn over it at whatever size it has.

use maud::{Markup, html};
use pukka_core::record::amplifier::{MarkShape, PhotoMark};

/// Sizes as parts of the photo's longer side.
const LINE: f64 = 0.006;
const HEAD: f64 = 0.03;
const TYPE: f64 = 0.034;

/// Two decimals are finer than a pixel.
fn at(value: f64) -> String {
    format!("{value:.2}")
}

fn path(mark: &PhotoMark, (width, height): (f64, f64), long: f64) -> Option<String> {
    let (x, y) = (mark.x * width, mark.y * height);
    let (to_x, to_y) = (mark.to_x? * width, mark.to_y? * height);
    let (across, down) = (to_x - x, to_y - y);
    let length = across.hypot(down);
    match mark.shape {
        MarkShape::Ring => {
            let r = at(length.max(LINE * long));
            let (left, right) = (at(x - length.max(LINE * long)), at(x + length.max(LINE * long)));
            Some(format!("M{left} {y} A{r} {r} 0 1 1 {right} {y} A{r} {r} 0 1 1 {left} {y}", y = at(y)))
        }
        MarkShape::Arrow if length > 0.0 => {
            let (ux, uy) = (across / length, down / length);
            let wing = |side: f64| {
                let (back, out) = (HEAD * long, 0.5 * HEAD * long * side);
                format!("{} {}", at(to_x - back * ux - out * uy), at(to_y - back * uy + out * ux))
            };
            let (x, y, to_x, to_y) = (at(x), at(y), at(to_x), at(to_y));
            Some(format!("M{x} {y} L{to_x} {to_y} M{} L{to_x} {to_y} L{}", wing(1.0), wing(-1.0)))
        }
        MarkShape::Arrow | MarkShape::Label => None,
    }
}

/// Marks over a photo of so many pixels. Dark under light, so that they are seen on any photo.
#[must_use]
pub fn marks(marks: &[PhotoMark], width_px: u32, height_px: u32) -> Markup {
    let (width, height) = (f64::from(width_px), f64::from(height_px));
    let long = width.max(height);
    let (line, size) = (LINE * long, TYPE * long);
    html! {
        svg class="marks" viewBox={ "0 0 " (width_px) " " (height_px) } aria-hidden="true" fill="none"
            stroke-linecap="round" stroke-linejoin="round" {
            @for mark in marks {
                @if let Some(path) = path(mark, (width, height), long) {
                    path d=(path) stroke="#0d1917" stroke-width=(at(2.2 * line)) {}
                    path d=(path) stroke="#ffd9a8" stroke-width=(at(line)) {}
                }
                @if !mark.label.is_empty() {
                    text x=(at(mark.x * width)) y=(at(mark.y * height + if mark.shape == MarkShape::Label { 0.35 * size } else { -0.4 * size }))
                        text-anchor="middle" font-size=(at(size)) font-weight="700" fill="#ffd9a8" stroke="#0d1917"
                        stroke-width=(at(0.22 * size)) paint-order="stroke" font-family="Archivo, sans-serif" { (mark.label) }
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn mark(shape: MarkShape, to: Option<(f64, f64)>, label: &str) -> PhotoMark {
        PhotoMark { shape, x: 0.5, y: 0.25, to_x: to.map(|to| to.0), to_y: to.map(|to| to.1), label: label.into() }
    }

    #[test]
    fn a_ring_has_its_radius_and_an_arrow_its_point() {
        let ring = path(&mark(MarkShape::Ring, Some((0.6, 0.25)), ""), (400.0, 200.0), 400.0).unwrap();
        assert!(ring.starts_with("M160.00 50.00 A40.00 40.00"), "{ring}");
        let arrow = path(&mark(MarkShape::Arrow, Some((1.0, 0.25)), ""), (400.0, 200.0), 400.0).unwrap();
        // Its head goes 12 px back and 6 px out.
        assert_eq!(arrow, "M200.00 50.00 L400.00 50.00 M388.00 56.00 L400.00 50.00 L388.00 44.00");
        assert_eq!(path(&mark(MarkShape::Arrow, Some((0.5, 0.25)), ""), (400.0, 200.0), 400.0), None, "an arrow of no length");
    }

    #[test]
    fn a_label_is_text_and_nothing_else() {
        let drawn = marks(&[mark(MarkShape::Label, None, "<b>A")], 400, 200).into_string();
        assert!(drawn.contains("&lt;b&gt;A") && !drawn.contains("<path"), "{drawn}");
    }
}
