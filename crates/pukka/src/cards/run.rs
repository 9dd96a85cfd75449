//! A caption a run, as it was logged: for the foot of a picture.

use pukka_core::evidence::figures::figures;
use pukka_core::kernel::format;
use pukka_core::record::session::Run;
use pukka_core::report::publish::caption;

use super::canvas::{Canvas, Held, MARGIN};
use super::face::Font;
use super::{Card, Style, Subject, card};

const TALL: f64 = 340.0;

pub fn cards(subject: Subject, style: Style) -> Vec<Card> {
    let mut runs: Vec<&Run> = subject.session.standing_runs().collect();
    runs.sort_by_key(|run| run.at);
    runs.into_iter().enumerate().filter_map(|(n, run)| one(subject, style, n + 1, run)).collect()
}

fn one(subject: Subject, style: Style, n: usize, run: &Run) -> Option<Card> {
    let made = figures(subject.session, run).ok()?;
    let said = caption(subject.session, run)?;
    let mut canvas = Canvas::lower_third(style, TALL);
    let (ink, quiet, doubt) = (canvas.paint().ink, canvas.paint().quiet, canvas.paint().doubt);
    let (left, room) = (MARGIN, canvas.width() - 2.0 * MARGIN);
    let top = canvas.height() - TALL - MARGIN + 36.0;
    canvas.text((left, top + 72.0), Held::Left, (Font::Bold, 46.0), quiet, room, &run.place_words());
    let watts = format!("{} W", made.total.text);
    canvas.text((left, top + 200.0), Held::Left, (Font::Bold, 132.0), ink, room * 0.56, &watts);
    let volts = run.end_volts().map(|volts| format!("{} V", format::volts(volts.get())));
    let share = made.against.map(|share| format!("{} % of its claim", share.text));
    let right = left + room;
    canvas.text((right, top + 140.0), Held::Right, (Font::Mono, 52.0), ink, room * 0.42, &volts.unwrap_or_default());
    canvas.text((right, top + 206.0), Held::Right, (Font::Mono, 44.0), ink, room * 0.42, &share.unwrap_or_default());
    let standing = subject.standing();
    let foot = [Some(subject.sheet.name.clone()), standing.clone()].into_iter().flatten().collect::<Vec<_>>().join("  ·  ");
    let room = canvas.signature(subject.by, top + 276.0, 32.0);
    canvas.text((left, top + 276.0), Held::Left, (Font::Regular, 32.0), if standing.is_some() { doubt } else { quiet }, room, &foot);
    let plain = crate::slug(&run.place_words().replace('Ω', "ohm"));
    Some(card(format!("run-{n:02}-{plain}"), said.short.clone(), format!("{}, {}.", subject.sheet.name, said.long), canvas))
}
