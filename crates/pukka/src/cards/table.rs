//! Every reading in a table; a long one is split before its type gets too small.

use pukka_core::report::sheet::SheetRow;

use super::canvas::{Canvas, Held, MARGIN};
use super::face::Font;
use super::look::Shape;
use super::{Card, Style, Subject, card};

/// Heading, share of the width, and whether it is on a narrow card.
const COLUMNS: [(&str, f64, bool); 8] = [
    ("Load", 0.12, true),
    ("Mode", 0.17, true),
    ("Claim", 0.13, false),
    ("Watts", 0.13, true),
    ("Of claim", 0.12, true),
    ("Supply", 0.12, false),
    ("Draw", 0.11, false),
    ("η", 0.10, false),
];

/// Least height of a row; few rows are higher.
const ROW: f64 = 56.0;
const HIGHEST: f64 = 92.0;

pub fn cards(subject: Subject, style: Style) -> Vec<Card> {
    let rows: Vec<&SheetRow> = subject.sheet.rows.iter().filter(|row| row.power.is_some()).collect();
    if rows.is_empty() {
        return Vec::new();
    }
    let height = style.shape.size().1;
    // Under the heading, over the foot, and one line for the columns' names.
    let most = (((height - 2.0 * MARGIN - 152.0 - 120.0) / ROW) as usize).saturating_sub(1).max(3);
    let parts: Vec<&[&SheetRow]> = rows.chunks(most).collect();
    let several = parts.len() > 1;
    let named = |n: usize| {
        if several {
            (format!("table-{}", n + 1), format!("Readings, {} of {}", n + 1, parts.len()))
        } else {
            ("table".to_owned(), "Readings".to_owned())
        }
    };
    parts
        .iter()
        .enumerate()
        .map(|(n, part)| {
            let (name, title) = named(n);
            one(subject, style, part, name, title)
        })
        .collect()
}

fn one(subject: Subject, style: Style, rows: &[&SheetRow], name: String, title: String) -> Card {
    let mut canvas = Canvas::new(style);
    let top = canvas.heading(subject, None);
    let bottom = canvas.foot(subject, "");
    let tall = ((bottom - top) / (rows.len() + 1) as f64 - 2.0).clamp(ROW, HIGHEST);
    let (ink, quiet, hair) = (canvas.paint().ink, canvas.paint().quiet, canvas.paint().hair);
    let columns: Vec<(usize, &str, f64)> = COLUMNS
        .iter()
        .enumerate()
        .filter(|(_, (.., on_narrow))| *on_narrow || style.shape == Shape::Wide)
        .map(|(n, (name, share, _))| (n, *name, *share))
        .collect();
    let shares: f64 = columns.iter().map(|(.., share)| share).sum();
    let room = canvas.width() - 2.0 * MARGIN;
    let mut line = |y: f64, cells: &[String; 8], (first, font, size, fill): (Font, Font, f64, &str)| {
        let mut x = MARGIN;
        for (n, _, share) in &columns {
            let wide = room * share / shares;
            let (held, at) = if *n < 2 { (Held::Left, x) } else { (Held::Right, x + wide) };
            let font = if *n < 2 { first } else { font };
            canvas.text((at, y), held, (font, size), fill, wide - 26.0, &cells[*n]);
            x += wide;
        }
    };
    let names = COLUMNS.map(|(name, ..)| name.to_owned());
    line(top + 48.0, &names, (Font::Regular, Font::Regular, 30.0, quiet));
    let mut said = Vec::new();
    for (n, row) in rows.iter().enumerate() {
        let cell = |cited: &Option<pukka_core::report::sheet::CitedFigure>| {
            cited.as_ref().map(|cited| cited.figure.text.clone()).unwrap_or_default()
        };
        let percent = |text: String| if text.is_empty() { text } else { format!("{text} %") };
        let cells = [
            row.load.split(" (").next().unwrap_or_default().to_owned(),
            row.mode_words.clone(),
            row.claim.clone(),
            format!("{} W", cell(&row.power)),
            percent(cell(&row.of_claim)),
            row.end_v.clone(),
            row.current.clone(),
            percent(cell(&row.efficiency)),
        ];
        line(top + 66.0 + tall * (n as f64 + 0.5) + 0.21 * tall, &cells, (Font::Bold, Font::Mono, 0.6 * tall, ink));
        said.push(format!("{} {} {}", cells[0], cells[1], cells[3]));
    }
    for n in 0..=rows.len() {
        canvas.line(top + 66.0 + tall * n as f64, 1.5, hair);
    }
    card(name, title, format!("{}, readings: {}.", subject.sheet.name, said.join("; ")), canvas)
}
