//! What to know and to tell: value, headroom, fuses, balance, fade, bass, each sentence with its figure.

use serde::{Deserialize, Serialize};

use crate::assess::checks::table::{Disputes, rule};
use crate::assess::loads::{Load, price_of_a_watt};
use crate::evidence::check::Check;
use crate::kernel::format;
use crate::kernel::units::{PowerDecibels, more_than};
use crate::kernel::wiring::{Relation, relation};
use crate::kernel::working::{Figure, Working, source};
use crate::record::session::{Run, Session};

/// A thing to tell.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Tell {
    /// In words; the figure stands in them.
    pub says: String,
    /// The figure, with its working.
    pub figure: Figure,
    /// Belongs into the paragraph, too.
    pub matters: bool,
}

impl Tell {
    fn new(figure: Figure, matters: bool, says: String) -> Self {
        Self { says, figure, matters }
    }
}

/// Under this nobody hears a difference between channels.
const HEARD_DB: f64 = 0.5;
/// A burst that reaches so much further is room to speak of in the paragraph.
const ROOM_DB: f64 = 1.0;
/// Under this there is none.
const NO_ROOM_DB: f64 = 0.3;
/// A fade or a loss of bass from here on is worth a sentence.
const LOST_DB: f64 = 0.3;

/// Everything there is to tell: efficiency, heat, headroom, fuses and the price of a watt of the headline claim's load, or where
/// that was not run, of the one with the most clean power. Nothing of it is from below the floor.
pub(super) fn tell(session: &Session, loads: &[Load], checks: &[Check]) -> Vec<Tell> {
    let rated: Vec<&Load> = loads.iter().filter(|load| !load.below_floor).collect();
    let most = rated.iter().copied().filter(|load| load.settled_w().is_some()).max_by(|a, b| a.clean_w().total_cmp(&b.clean_w()));
    let at = headline_load(session, &rated).or(most);
    let clean = at.or_else(|| rated.iter().copied().max_by(|a, b| a.clean_w().total_cmp(&b.clean_w())));
    let mut told = Vec::new();
    told.extend(at.and_then(|load| value(session, load)));
    told.extend(clean.filter(|load| !is_disputed(checks, load.clean, Disputes::Efficiency)).and_then(efficiency));
    told.extend(at.and_then(headroom));
    told.extend(clean.and_then(|load| fuses(session, load)));
    told.extend(balance(&rated));
    told.extend(fade(&rated));
    told.extend(bass(&rated));
    told
}

/// The load of the headline claim, as it was run: its own wiring, else an equivalent.
fn headline_load<'l, 'a>(session: &Session, rated: &[&'l Load<'a>]) -> Option<&'l Load<'a>> {
    let head = session.headline()?;
    let place = head.place()?;
    [Relation::Same, Relation::Equivalent].into_iter().find_map(|wanted| {
        let there = |load: &&&Load| load.id.setting == head.setting && relation(place, (load.id.wiring, load.id.load_ohm)) == Some(wanted);
        rated.iter().find(there).copied()
    })
}

/// Whether an open check keeps something of a run from being quoted.
fn is_disputed(checks: &[Check], run: &Run, what: Disputes) -> bool {
    checks.iter().any(|check| !check.settled && check.runs.contains(&run.id) && rule(check.code).disputes == what)
}

fn value(session: &Session, load: &Load) -> Option<Tell> {
    let figure = price_of_a_watt(session, load)?;
    let price = session.amplifier.price.as_ref()?;
    let watts = format::significant(load.clean_w() / price.amount.get(), 3);
    let one = format::money(1.0, &price.currency, 0);
    let says = format!("{} a watt of clean power at {}: {watts}{}W for {one}.", figure.text, load.words(), format::THIN);
    Some(Tell::new(figure, false, says))
}

fn efficiency(load: &Load) -> Option<Tell> {
    let figure = load.figures.efficiency.clone()?;
    let heat = load.figures.heat.as_ref().map(|heat| format!(" and {} as heat", heat.words())).unwrap_or_default();
    let says = format!("At {} it turns {} of its draw into output{heat}.", load.words(), figure.words());
    Some(Tell::new(figure, true, says))
}

fn headroom(load: &Load) -> Option<Tell> {
    let figure = load.headroom()?;
    let room = figure.value >= ROOM_DB;
    let so = if figure.value < NO_ROOM_DB { "its clean power is all there is" } else { "peaks have room that a long tone does not" };
    let part = load.headroom_by_supply().map(|db| {
        let shown = format::with_unit(&format::decibels(db), "dB");
        let way = if db > 0.0 { "higher" } else { "lower" };
        format!(", {shown} of it because the supply was {way}")
    });
    let says = format!("{} of burst headroom at {}{}: {so}.", figure.words(), load.words(), part.unwrap_or_default());
    Some(Tell::new(figure, room, says))
}

fn fuses(session: &Session, load: &Load) -> Option<Tell> {
    let fuses = session.amplifier.supply_fuse_a()?;
    let amps = load.clean.amps()?.get();
    let at = load.words();
    let working = Working::new("Draw against the fuses", "100 · I / fuses", source::METHOD)
        .with("I", format!("supply current at {at}"), amps, "A")
        .with("fuses", "supply fuses, together", fuses, "A");
    let figure = Figure::percent(amps / fuses, working);
    let past = more_than(amps, fuses);
    let says = if past {
        format!("At {at} it drew {} of what its fuses are rated for: it cannot hold that power for long.", figure.words())
    } else {
        format!("Its fuses had {} of their rating to carry at {at}.", figure.words())
    };
    Some(Tell::new(figure, past, says))
}

fn balance(loads: &[&Load]) -> Option<Tell> {
    let measured = loads.iter().filter_map(|load| Some((load, load.figures.balance.clone()?)));
    let (load, figure) = measured.max_by(|a, b| a.1.value.total_cmp(&b.1.value))?;
    let heard = figure.value > HEARD_DB;
    let says = if heard {
        format!(
            "Its channels differ by {} at {}: output {} is the weakest.",
            figure.words(),
            load.words(),
            load.weakest().unwrap_or_default()
        )
    } else {
        format!("Its channels are within {} at {}: inaudible.", figure.words(), load.words())
    };
    Some(Tell::new(figure, heard, says))
}

fn fade(loads: &[&Load]) -> Option<Tell> {
    let held = loads.iter().filter_map(|load| Some((load, load.figures.fade.clone()?)));
    let (load, figure) = held.min_by(|a, b| a.1.value.total_cmp(&b.1.value))?;
    let seconds = load.clean.hold.as_ref().map(|hold| format::as_read(hold.seconds)).unwrap_or_default();
    let matters = figure.value <= -LOST_DB;
    let says = format!("Held for {seconds}{}s at {}, its power moved by {}.", format::THIN, load.words(), figure.words());
    Some(Tell::new(figure, matters, says))
}

fn bass(loads: &[&Load]) -> Option<Tell> {
    let (figure, low) = bass_loss(loads)?;
    let tone = format::tone(low.id.tone_hz.get());
    let says = format!("At {tone} it makes {} against 1{}kHz, into {}.", figure.words(), format::THIN, low.words());
    let matters = figure.value <= -LOST_DB;
    Some(Tell::new(figure, matters, says))
}

/// Certified in the bass against 1 kHz, at the load where it loses most; and that load.
pub(crate) fn bass_loss<'l, 'a>(loads: &[&'l Load<'a>]) -> Option<(Figure, &'l Load<'a>)> {
    let at = |load: &&&Load, low: f64, high: f64| (low..=high).contains(&load.id.tone_hz.get());
    let pairs = loads.iter().filter(|load| at(load, 40.0, 50.0)).filter_map(|low| {
        let same = |mid: &&&Load| {
            mid.id.wiring == low.id.wiring
                && mid.id.setting == low.id.setting
                && crate::kernel::wiring::same_load(mid.id.load_ohm.get(), low.id.load_ohm.get())
        };
        let mid = loads.iter().filter(|mid| at(mid, 999.0, 1_001.0)).find(same)?;
        Some((low, mid, PowerDecibels::of(low.settled_w()? / mid.settled_w()?)?.get()))
    });
    let (low, mid, db) = pairs.min_by(|a, b| a.2.total_cmp(&b.2))?;
    let tone = format::tone(low.id.tone_hz.get());
    let working = Working::new("Bass loss", "10 · log10(Pbass / P1kHz)", source::METHOD)
        .with("Pbass", format!("certified at {tone}"), low.clean_w(), "W")
        .with("P1kHz", "certified at 1 kHz", mid.clean_w(), "W")
        .made_from([low.figures.total.working.clone(), mid.figures.total.working.clone()]);
    Some((Figure::decibels(db, working), *low))
}
