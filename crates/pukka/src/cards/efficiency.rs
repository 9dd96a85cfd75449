//! Efficiency, load by load.

use super::canvas::{Canvas, Held, MARGIN};
use super::face::Font;
use super::{Card, Style, Subject};

fn rows_of(subject: Subject) -> Vec<(String, f64, String)> {
    let loads = subject.sheet.view.loads.iter();
    loads.filter_map(|row| row.efficiency.as_ref().map(|share| (row.load.clone(), share.value, share.text.clone()))).collect()
}

pub fn card(subject: Subject, style: Style) -> Option<Card> {
    let rows = rows_of(subject);
    if rows.is_empty() {
        return None;
    }
    let mut canvas = Canvas::new(style);
    let top = canvas.heading(subject, None);
    let bottom = canvas.foot(subject, "clean output, as a part of what it draws");
    let (ink, hair) = (canvas.paint().ink, canvas.paint().hair);
    canvas.text((MARGIN, top + 90.0), Held::Left, (Font::Bold, 60.0), ink, canvas.width() - 2.0 * MARGIN, "Efficiency");
    let each = ((bottom - top - 120.0) / rows.len() as f64).min(190.0);
    let (left, figure) = (MARGIN + 220.0, 250.0);
    let room = canvas.width() - MARGIN - figure - left;
    for (n, (load, value, text)) in rows.iter().enumerate() {
        let (y, high) = (top + 120.0 + each * n as f64, each * 0.55);
        let base = y + high / 2.0;
        canvas.text((MARGIN, base + 17.0), Held::Left, (Font::Bold, 50.0), ink, 200.0, load);
        canvas.rect(left, y, room, high, hair);
        canvas.bar((left, y), (room * (value / 100.0).clamp(0.0, 1.0), high), 0);
        canvas.text((canvas.width() - MARGIN, base + 17.0), Held::Right, (Font::Mono, 48.0), ink, figure - 20.0, &format!("{text} %"));
    }
    let said: Vec<String> = rows.iter().map(|(load, _, text)| format!("{load} {text} %")).collect();
    let alt = format!("{}, efficiency at its clean power: {}.", subject.sheet.name, said.join(", "));
    Some(super::card("efficiency".into(), "Efficiency".into(), alt, canvas))
}
