//! Amplifiers side by side: a bar each, load by load, with what can be told of the difference.

use pukka_core::record::session::Mode;
use pukka_core::report::compare::{CompareCell, CompareRow, Comparison, Per};

use super::canvas::{Canvas, Held, LEAST, MARGIN};
use super::face::Font;
use super::{Card, Shape, Signature, Style, card};

/// Heights of what a place has: its name, a bar, a line of a sentence, the room under it.
const NAME: f64 = 58.0;
const BAR: f64 = 46.0;
const SENTENCE: f64 = 40.0;
const ROOM: f64 = 26.0;
/// On a narrow card a name stands above its bar.
const NAME_ABOVE: f64 = 44.0;

/// The card of a comparison; nothing where no place was tested.
pub fn compare_card(comparison: &Comparison, by: &Signature, style: Style) -> Option<Card> {
    let rows = shown(comparison);
    if rows.is_empty() {
        return None;
    }
    let mut canvas = Canvas::new(style);
    let title = format!("Side by side at {}", comparison.volts_words);
    let per = if comparison.per == Per::Output { "Power of one output" } else { "Power of all outputs" };
    let mut y = canvas.title(&title, &format!("{per}, at up to 1 % distortion for certified."), None) + 22.0;
    let is_narrow = style.shape != Shape::Wide;
    let (tall_bar, sentence_lines) = if is_narrow { (BAR + NAME_ABOVE, 2) } else { (BAR, 1) };
    let is_unjoined = rows.iter().flat_map(|row| row.cells.iter().flatten()).any(|cell| cell.unjoined.is_some());
    let foot = if is_unjoined { "± at k = 2. Grey: as read, not joined." } else { "± at k = 2." };
    let bottom = canvas.foot_of(by, &[(foot.to_owned(), false)]);
    let (ink, quiet) = (canvas.paint().ink, canvas.paint().quiet);
    let wide = canvas.width() - 2.0 * MARGIN;
    let mut said = Vec::new();
    for row in rows {
        let cells: Vec<(&str, &CompareCell)> =
            comparison.heads.iter().zip(&row.cells).filter_map(|(head, cell)| Some((head.name.as_str(), cell.as_ref()?))).collect();
        let lines = if row.says.is_empty() { 0 } else { sentence_lines };
        let tall = NAME + tall_bar * cells.len() as f64 + SENTENCE * lines as f64;
        if y + tall > bottom && !said.is_empty() {
            break;
        }
        let load = canvas.text((MARGIN, y + 40.0), Held::Left, (Font::Bold, 40.0), ink, wide * 0.4, &row.load);
        let words = format!("{}, {}", row.words, row.mode_words);
        canvas.text((MARGIN + load + 18.0, y + 40.0), Held::Left, (Font::Regular, 30.0), quiet, wide - load - 18.0, &words);
        y += NAME;
        for (name, cell) in cells {
            bar(&mut canvas, y, name, cell, (row.mode, is_narrow));
            said.push(format!("{} {}: {name} {}", row.load, row.mode_words, words_of(cell)));
            y += tall_bar;
        }
        if let Some(sentence) = row.says.first() {
            y = canvas.lines((MARGIN, y + 30.0), (Font::Regular, 30.0), quiet, wide, sentence_lines, sentence) - 30.0;
        }
        y += ROOM;
    }
    Some(card("compare".into(), title.clone(), format!("{title}. {}.", said.join("; ")), canvas))
}

/// Certified places that most were tested at; where there are none, all there are.
fn shown(comparison: &Comparison) -> Vec<&CompareRow> {
    let certified: Vec<&CompareRow> = comparison.rows.iter().filter(|row| row.mode == Mode::Certified).collect();
    if certified.is_empty() { comparison.rows.iter().collect() } else { certified }
}

fn words_of(cell: &CompareCell) -> String {
    match &cell.high {
        Some(high) => format!("{} to {}", cell.power.text, high.words_with_u()),
        None => cell.power.words_with_u(),
    }
}

fn bar(canvas: &mut Canvas, mut y: f64, name: &str, cell: &CompareCell, (mode, is_narrow): (Mode, bool)) {
    let (ink, quiet, hair) = (canvas.paint().ink, canvas.paint().quiet, canvas.paint().hair);
    let wide = canvas.width() - 2.0 * MARGIN;
    let (names, figures) = if is_narrow { (0.0, wide * 0.34) } else { (wide * 0.32, wide * 0.26) };
    let (left, room) = (MARGIN + names, wide - names - figures);
    canvas.text((MARGIN, y + 32.0), Held::Left, (Font::Regular, 32.0), ink, if is_narrow { wide } else { names - 20.0 }, name);
    if is_narrow {
        y += NAME_ABOVE;
    }
    canvas.rect(left, y + 8.0, room, 28.0, hair);
    let track = Mode::ALL.iter().position(|known| *known == mode).and_then(|at| u32::try_from(at).ok()).unwrap_or(0);
    if cell.unjoined.is_none() {
        canvas.bar((left, y + 8.0), (room * cell.fraction, 28.0), track);
    } else {
        canvas.rect(left, y + 8.0, room * cell.fraction, 28.0, quiet);
    }
    let text = words_of(cell);
    canvas.text((canvas.width() - MARGIN, y + 33.0), Held::Right, (Font::Mono, LEAST + 4.0), ink, figures - 20.0, &text);
}
