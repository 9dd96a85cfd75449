//! The verdict: every claim against what was made; and each claim by itself in its modes.

use pukka_core::assess::Outcome;
use pukka_core::report::ClaimRow;

use super::canvas::{Canvas, Held, LEAST, MARGIN};
use super::face::{self, Font};
use super::look::Shape;
use super::{Card, Style, Subject, card};

/// Rows of one card: more are split over several, before their type gets too small.
const fn most_rows(shape: Shape) -> usize {
    match shape {
        Shape::Wide | Shape::Square => 3,
        Shape::Tall => 6,
    }
}

pub fn cards(subject: Subject, style: Style) -> Vec<Card> {
    let rows: Vec<&ClaimRow> = subject.sheet.view.rows.iter().collect();
    let most = most_rows(style.shape);
    let parts: Vec<&[&ClaimRow]> = if rows.is_empty() { vec![&[]] } else { rows.chunks(most).collect() };
    let several = parts.len() > 1;
    let mut all: Vec<Card> = parts
        .iter()
        .enumerate()
        .map(|(n, part)| {
            let (name, title) = if several {
                (format!("verdict-{}", n + 1), format!("Verdict, {} of {}", n + 1, parts.len()))
            } else {
                ("verdict".into(), "Verdict".into())
            };
            all_claims(subject, style, part, name, title)
        })
        .collect();
    for row in rows.iter().filter(|row| !row.bars.is_empty()) {
        all.push(one_claim(subject, style, row, &all));
    }
    all
}

fn colour(canvas: &Canvas, outcome: Option<Outcome>) -> &'static str {
    let paint = canvas.paint();
    match outcome {
        Some(Outcome::Beats | Outcome::Holds | Outcome::HoldsWithin | Outcome::MaxMet) => paint.proved,
        Some(Outcome::Short | Outcome::FarShort | Outcome::OnlyClipping | Outcome::OnlyDynamic) => paint.false_,
        _ => paint.doubt,
    }
}

fn all_claims(subject: Subject, style: Style, rows: &[&ClaimRow], name: String, title: String) -> Card {
    let mut canvas = Canvas::new(style);
    let view = &subject.sheet.view;
    let fill = canvas.paint().ink;
    let top = canvas.heading(subject, Some((&view.overall_word, fill)));
    let bottom = canvas.foot(subject, &legend(rows));
    let each = (bottom - top) / rows.len().max(1) as f64;
    for (n, row) in rows.iter().enumerate() {
        let from = top + each * n as f64;
        match style.shape {
            Shape::Wide => wide_row(&mut canvas, row, from, each),
            Shape::Square | Shape::Tall => stacked_row(&mut canvas, row, from, each),
        }
    }
    if rows.is_empty() {
        let (quiet, room) = (canvas.paint().quiet, canvas.width() - 2.0 * MARGIN);
        canvas.text((MARGIN, top + 90.0), Held::Left, (Font::Regular, 44.0), quiet, room, "Nothing was claimed, and nothing was run yet.");
    }
    let said: Vec<String> = rows.iter().map(|row| words(row)).collect();
    card(name, title, format!("{}: {}. {}", subject.sheet.name, view.overall_word, said.join(" ")), canvas)
}

fn legend(rows: &[&ClaimRow]) -> String {
    let any = |track: u32| rows.iter().any(|row| row.bars.iter().any(|bar| bar.track == track));
    let named = [(0, "solid: certified"), (1, "hatched: clipping"), (2, "dotted: bursts")];
    named.iter().filter(|(track, _)| any(*track)).map(|(_, words)| *words).chain(["mark: claim"]).collect::<Vec<_>>().join("  ·  ")
}

/// "4 Ω: 447 W certified of 450 W claimed, holds."
fn words(row: &ClaimRow) -> String {
    let made: Vec<String> =
        row.bars.iter().map(|bar| format!("{} W {}", bar.total.text, bar.burst.as_deref().unwrap_or_else(|| bar.mode.word()))).collect();
    let claim = row.claim.as_ref().map(|watts| format!(" of {watts} W claimed")).unwrap_or_default();
    let made = if made.is_empty() { "nothing run".to_owned() } else { made.join(", ") };
    format!("{}: {made}{claim}; {}.", row.load, row.outcome_words.to_lowercase())
}

fn wide_row(canvas: &mut Canvas, row: &ClaimRow, top: f64, tall: f64) {
    let middle = top + tall / 2.0;
    let (ink, quiet, hair) = (canvas.paint().ink, canvas.paint().quiet, canvas.paint().hair);
    canvas.text((MARGIN, middle), Held::Left, (Font::Bold, 68.0), ink, 300.0, &row.load);
    let claim = row.claim.as_ref().map_or_else(|| "no watts claimed".to_owned(), |watts| format!("claim {watts} W"));
    canvas.text((MARGIN, middle + 48.0), Held::Left, (Font::Regular, 34.0), quiet, 300.0, &claim);
    let x = MARGIN + 340.0;
    let right = canvas.width() - MARGIN;
    let outcome_at = right - 470.0;
    let high = (tall * 0.2).min(60.0);
    bars(canvas, row, (x, middle - 1.6 * high), outcome_at - x - 50.0, high);
    let fill = colour(canvas, row.outcome);
    let under = canvas.lines((outcome_at, middle - 4.0), (Font::Bold, 44.0), fill, 470.0, 2, &row.outcome_words);
    canvas.text((outcome_at, under - 4.0), Held::Left, (Font::Mono, 34.0), quiet, 470.0, &percent(row));
    canvas.line(top + tall, 2.0, hair);
}

fn stacked_row(canvas: &mut Canvas, row: &ClaimRow, top: f64, tall: f64) {
    let (ink, quiet, hair) = (canvas.paint().ink, canvas.paint().quiet, canvas.paint().hair);
    let room = canvas.width() - 2.0 * MARGIN;
    let wide = canvas.text((MARGIN, top + 70.0), Held::Left, (Font::Bold, 54.0), ink, room * 0.45, &row.load);
    let claim = row.claim.as_ref().map_or_else(String::new, |watts| format!("claim {watts} W"));
    canvas.text((MARGIN + wide + 24.0, top + 68.0), Held::Left, (Font::Regular, 32.0), quiet, room * 0.4, &claim);
    let fill = colour(canvas, row.outcome);
    canvas.text((MARGIN + room, top + 68.0), Held::Right, (Font::Bold, 38.0), fill, room * 0.46, &row.outcome_words);
    let high = ((tall - 118.0) / 3.4).clamp(18.0, 96.0);
    bars(canvas, row, (MARGIN, top + 92.0), room, high);
    canvas.line(top + tall, 2.0, hair);
}

/// Tracks with their bars, their figures, and the mark of the claim.
fn bars(canvas: &mut Canvas, row: &ClaimRow, (x, y): (f64, f64), room: f64, high: f64) {
    let (ink, hair) = (canvas.paint().ink, canvas.paint().hair);
    let step = high * 1.12;
    let tracks = row.bars.iter().map(|bar| bar.track + 1).fold(3, u32::max).min(5);
    let figure = high.clamp(LEAST, 40.0);
    // Room for the figures behind the longest bar.
    let scale = room - 1.2 * face::width(Font::Mono, "88 888", figure);
    for track in 0..tracks {
        let at = y + step * f64::from(track);
        canvas.rect(x, at, room, high, hair);
        let Some(bar) = row.bars.iter().find(|bar| bar.track == track) else { continue };
        let wide = (scale * bar.fraction).max(3.0);
        canvas.bar((x, at), (wide, high), track);
        canvas.text(
            (x + room - 10.0, at + high / 2.0 + figure * 0.35),
            Held::Right,
            (Font::Mono, figure),
            ink,
            room * 0.4,
            &bar.total.text,
        );
    }
    if let Some(claim) = row.claim_fraction {
        canvas.rect(x + scale * claim - 3.0, y - 8.0, 6.0, step * f64::from(tracks) + 12.0, ink);
    }
}

fn percent(row: &ClaimRow) -> String {
    row.as_read.as_ref().map(|share| format!("{} % clean", share.text)).unwrap_or_default()
}

/// A claim by itself: large bars, and what came of it.
fn one_claim(subject: Subject, style: Style, row: &ClaimRow, before: &[Card]) -> Card {
    let mut canvas = Canvas::new(style);
    let top = canvas.heading(subject, None);
    let bottom = canvas.foot(subject, &legend(&[row]));
    let (ink, quiet) = (canvas.paint().ink, canvas.paint().quiet);
    let room = canvas.width() - 2.0 * MARGIN;
    canvas.text((MARGIN, top + 120.0), Held::Left, (Font::Bold, 96.0), ink, room * 0.5, &row.load);
    let claim = row.claim.as_ref().map_or_else(|| "no watts claimed".to_owned(), |watts| format!("claim {watts} W"));
    canvas.text((MARGIN, top + 178.0), Held::Left, (Font::Regular, 40.0), quiet, room * 0.5, &claim);
    let fill = colour(&canvas, row.outcome);
    canvas.text((MARGIN + room, top + 116.0), Held::Right, (Font::Bold, 56.0), fill, room * 0.5, &row.outcome_words);
    canvas.text((MARGIN + room, top + 178.0), Held::Right, (Font::Mono, 40.0), quiet, room * 0.5, &percent(row));
    let high = ((bottom - top - 240.0) / 3.7).clamp(24.0, 120.0);
    bars(&mut canvas, row, (MARGIN, top + 220.0), room, high);
    let plain = format!("load-{}", crate::slug(&row.load));
    let same = before.iter().filter(|other| other.name == plain || other.name.starts_with(&format!("{plain}--"))).count();
    let name = if same == 0 { plain } else { format!("{plain}--{}", same + 1) };
    let alike = subject.sheet.view.rows.iter().filter(|other| other.load == row.load).count() > 1;
    let wiring = row.under.get(1).filter(|_| alike);
    let title = wiring.map_or_else(|| format!("{}, its modes", row.load), |wiring| format!("{}, {wiring}", row.load));
    card(name, title, format!("{}, {}", subject.sheet.name, words(row)), canvas)
}
