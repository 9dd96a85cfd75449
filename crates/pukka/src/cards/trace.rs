//! A captured wave: its lows and highs over time, and what it reads.

use std::fmt::Write as _;

use pukka_core::kernel::format;

use super::canvas::{Canvas, Held, LEAST, MARGIN};
use super::face::Font;
use super::{Card, Shape, Signature, Style, card};

/// A stretch to draw.
#[derive(Debug, Clone, PartialEq)]
pub struct Pictured {
    /// Over it.
    pub title: String,
    /// Under the title.
    pub subtitle: String,
    /// Lowest and highest volts of each column, evenly in time.
    pub columns: Vec<(f64, f64)>,
    /// Seconds of the recording that are drawn.
    pub span_s: (f64, f64),
    /// Seconds of it that the figures are of.
    pub marked_s: (f64, f64),
    /// Name and words of each figure.
    pub figures: Vec<(String, String)>,
}

/// Height of a row of figures, and of the scale under the wave.
const ROW: f64 = 54.0;
const SCALE: f64 = 44.0;

/// Lows and highs as one closed line, so that dense waves are filled and sparse ones drawn.
fn outline(columns: &[(f64, f64)], x: impl Fn(usize) -> f64, y: impl Fn(f64) -> f64) -> String {
    let mut path = String::new();
    for (n, (_, high)) in columns.iter().enumerate() {
        let _ = write!(path, "{}{:.1} {:.1}", if n == 0 { "M" } else { "L" }, x(n), y(*high));
    }
    for (n, (low, _)) in columns.iter().enumerate().rev() {
        let _ = write!(path, "L{:.1} {:.1}", x(n), y(*low));
    }
    path + "Z"
}

/// The card of a stretch.
pub fn trace_card(pictured: &Pictured, by: &Signature, style: Style) -> Card {
    let mut canvas = Canvas::new(style);
    let top = canvas.title(&pictured.title, &pictured.subtitle, None) + 28.0;
    let bottom = canvas.foot_of(by, &[("± at k = 2, of the scale and of the load.".to_owned(), false)]);
    let is_narrow = style.shape != Shape::Wide;
    let wide = canvas.width() - 2.0 * MARGIN;
    let shown = pictured.figures.len().min(if is_narrow { 9 } else { 8 });
    let columns = if is_narrow { 1 } else { 2 };
    let rows = shown.div_ceil(columns);
    let figures_tall = ROW * rows as f64 + 20.0;
    let tall = (bottom - top - figures_tall - SCALE).max(160.0);
    let most = pictured.columns.iter().fold(1e-12f64, |most, (low, high)| most.max(low.abs()).max(high.abs())) * 1.06;
    let (quiet, hair, ink) = (canvas.paint().quiet, canvas.paint().hair, canvas.paint().ink);
    let proved = canvas.paint().proved;
    let y = |volts: f64| top + tall * (0.5 - 0.5 * volts / most);
    let at = |s: f64| MARGIN + wide * (s - pictured.span_s.0) / (pictured.span_s.1 - pictured.span_s.0).max(1e-12);
    canvas.rect(at(pictured.marked_s.0), top, at(pictured.marked_s.1) - at(pictured.marked_s.0), tall, hair);
    canvas.rect(MARGIN, y(0.0) - 1.0, wide, 2.0, quiet);
    let last = pictured.columns.len().max(2) as f64 - 1.0;
    canvas.path(&outline(&pictured.columns, |n| MARGIN + wide * n as f64 / last, y), proved, 2.5);
    let seconds = |s: f64| format::with_unit(&format::significant(1e3 * s, 4), "ms");
    canvas.text((MARGIN, top + tall + 34.0), Held::Left, (Font::Mono, LEAST), quiet, wide * 0.3, &seconds(pictured.span_s.0));
    canvas.text((MARGIN + wide, top + tall + 34.0), Held::Right, (Font::Mono, LEAST), quiet, wide * 0.3, &seconds(pictured.span_s.1));
    let room = wide / columns as f64 - if columns > 1 { 30.0 } else { 0.0 };
    for (n, (name, words)) in pictured.figures.iter().take(shown).enumerate() {
        let (column, row) = (n / rows, n % rows);
        let left = MARGIN + column as f64 * (room + 60.0);
        let line = top + tall + SCALE + 20.0 + ROW * (row as f64 + 0.7);
        canvas.text((left, line), Held::Left, (Font::Regular, 32.0), quiet, room * 0.56, name);
        canvas.text((left + room, line), Held::Right, (Font::Mono, 34.0), ink, room * 0.42, words);
    }
    let said: Vec<String> = pictured.figures.iter().map(|(name, words)| format!("{name}: {words}")).collect();
    card("trace".into(), pictured.title.clone(), format!("{}. {}.", pictured.title, said.join("; ")), canvas)
}
