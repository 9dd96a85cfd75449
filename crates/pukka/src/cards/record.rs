//! Beside the watts: the parts inside, and the guesses that were opened.

use pukka_core::evidence::inside::inside_figures;
use pukka_core::kernel::working::Figure;
use pukka_core::report::guesses::scores;

use super::canvas::{Canvas, Held, MARGIN};
use super::face::Font;
use super::{Card, Style, Subject, card};

/// The guess that came nearest, and those behind it.
pub fn guesses(subject: Subject, style: Style) -> Option<Card> {
    let found = scores(subject.session, &subject.sheet.view);
    let (measured, nearest) = (found.measured?, found.guesses.first()?);
    let mut canvas = Canvas::new(style);
    let top = canvas.heading(subject, None);
    let bottom = canvas.foot(subject, &format!("{} guesses, sealed before the first run", found.guesses.len()));
    let (ink, quiet, proved) = (canvas.paint().ink, canvas.paint().quiet, canvas.paint().proved);
    let room = canvas.width() - 2.0 * MARGIN;
    canvas.text((MARGIN, top + 80.0), Held::Left, (Font::Regular, 40.0), quiet, room, &format!("Nearest guess, of {measured}"));
    canvas.text((MARGIN, top + 190.0), Held::Left, (Font::Bold, 96.0), proved, room * 0.6, &nearest.by);
    canvas.text((MARGIN + room, top + 190.0), Held::Right, (Font::Mono, 72.0), ink, room * 0.38, &nearest.watts);
    let off = nearest.off.clone().unwrap_or_default();
    canvas.text((MARGIN + room, top + 250.0), Held::Right, (Font::Mono, 40.0), quiet, room * 0.38, &off);
    let mut y = top + 340.0;
    for guess in found.guesses.iter().skip(1) {
        if y > bottom - 20.0 {
            break;
        }
        canvas.text((MARGIN, y), Held::Left, (Font::Regular, 40.0), ink, room * 0.5, &guess.by);
        let figures = format!("{}   {}", guess.watts, guess.off.as_deref().unwrap_or_default());
        canvas.text((MARGIN + room, y), Held::Right, (Font::Mono, 40.0), ink, room * 0.48, &figures);
        y += 62.0;
    }
    let alt = format!("{}: nearest guess {} with {}, {off} off {measured}.", subject.sheet.name, nearest.by, nearest.watts);
    Some(card("guesses".into(), "Nearest guess".into(), alt, canvas))
}

/// The parts inside with what they say beside the watts.
pub fn inside(subject: Subject, style: Style) -> Option<Card> {
    let parts = subject.sheet.record.iter().filter(|fact| fact.inside);
    let rows: Vec<(&str, &str)> = parts.map(|fact| (fact.what.as_str(), fact.says.as_str())).collect();
    let figures = inside_figures(subject.session);
    let said: [(&str, &Option<Figure>); 4] = [
        ("in the rail capacitors", &figures.stored),
        ("the energy of a burst", &figures.bursts_stored),
        ("rail capacitance", &figures.uf_a_watt),
        ("output devices", &figures.device_a_a_watt),
    ];
    let said: Vec<(&str, String)> = said.into_iter().filter_map(|(name, figure)| Some((name, figure.as_ref()?.words()))).collect();
    if rows.is_empty() {
        return None;
    }
    let mut canvas = Canvas::new(style);
    let top = canvas.heading(subject, None);
    let bottom = canvas.foot(subject, "energy at the peak of its clean output; a burst is 20 ms, two cycles at least");
    let (ink, quiet) = (canvas.paint().ink, canvas.paint().quiet);
    let room = canvas.width() - 2.0 * MARGIN;
    canvas.text((MARGIN, top + 80.0), Held::Left, (Font::Bold, 60.0), ink, room, "Inside");
    let mut y = top + 150.0;
    for (name, text) in &said {
        canvas.text((MARGIN, y), Held::Left, (Font::Regular, 38.0), quiet, room * 0.6, name);
        canvas.text((MARGIN + room, y), Held::Right, (Font::Mono, 46.0), ink, room * 0.38, text);
        y += 62.0;
    }
    y += 24.0;
    for (name, text) in &rows {
        if y > bottom - 60.0 {
            break;
        }
        canvas.text((MARGIN, y), Held::Left, (Font::Bold, 34.0), ink, room, name);
        y = canvas.lines((MARGIN, y + 44.0), (Font::Regular, 34.0), quiet, room, 2, text) + 16.0;
    }
    let words = rows.iter().map(|(name, text)| format!("{name}: {text}")).chain(said.iter().map(|(name, text)| format!("{text} {name}")));
    let alt = format!("{}, inside. {}.", subject.sheet.name, words.collect::<Vec<_>>().join("; "));
    Some(card("inside".into(), "Inside".into(), alt, canvas))
}
