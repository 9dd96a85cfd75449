//! Everything beside power that amplifiers are compared by, a line a thing: at the load where each makes most clean power.

use serde::{Deserialize, Serialize};

use super::Contender;
use crate::assess::loads::{Load, loads, price_of_a_watt};
use crate::assess::tell::bass_loss;
use crate::evidence::choose::Usable;
use crate::kernel::format;
use crate::kernel::working::Figure;

/// A thing that is known of amplifiers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CompareFact {
    /// Name of it.
    pub what: String,
    /// What there is to say of each, in their order; nothing where it is not known.
    pub says: Vec<Option<String>>,
    /// Their figures, where it is one: each has a working.
    pub figures: Vec<Option<Figure>>,
}

struct Known<'a, 'b> {
    one: &'b Contender<'a>,
    best: Option<Load<'a>>,
    bass: Option<Figure>,
}

fn text(what: &str, known: &[Known], says: impl Fn(&Known) -> Option<String>) -> CompareFact {
    CompareFact { what: what.into(), says: known.iter().map(says).collect(), figures: known.iter().map(|_| None).collect() }
}

fn figure(what: &str, known: &[Known], of: impl Fn(&Known) -> Option<Figure>) -> CompareFact {
    let figures: Vec<Option<Figure>> = known.iter().map(of).collect();
    CompareFact { what: what.into(), says: figures.iter().map(|figure| figure.as_ref().map(Figure::words)).collect(), figures }
}

pub(super) fn facts(contenders: &[Contender], usable: &[Vec<Usable>]) -> Vec<CompareFact> {
    let known: Vec<Known> = contenders
        .iter()
        .zip(usable)
        .map(|(one, usable)| {
            let mut rated: Vec<Load> = loads(one.session, usable).into_iter().filter(|load| !load.below_floor).collect();
            let bass = bass_loss(&rated.iter().collect::<Vec<_>>()).map(|(figure, ..)| figure);
            rated.retain(|load| load.settled_w().is_some());
            Known { one, best: rated.into_iter().max_by(|a, b| a.clean_w().total_cmp(&b.clean_w())), bass }
        })
        .collect();
    let best = |of: fn(&Load) -> Option<Figure>| move |known: &Known| known.best.as_ref().and_then(of);
    let mut all = vec![
        text("Verdict", &known, |known| known.one.overall.map(|overall| overall.word().to_owned())),
        text("Class", &known, |known| Some(known.one.session.amplifier.class.words().to_owned())),
        text("Price", &known, |known| {
            let price = known.one.session.amplifier.price.as_ref()?;
            Some(format::price(price.amount.get(), &price.currency))
        }),
        text("Most clean power at", &known, |known| Some(known.best.as_ref()?.words())),
        figure("Price of a watt", &known, |known| price_of_a_watt(known.one.session, known.best.as_ref()?)),
        figure("Efficiency", &known, best(|load| load.figures.efficiency.clone())),
        figure("Heat", &known, best(|load| load.figures.heat.clone())),
        figure("Headroom", &known, best(|load| load.headroom())),
        figure("Balance", &known, best(|load| load.figures.balance.clone())),
        figure("Fade", &known, best(|load| load.figures.fade.clone())),
        figure("Bass loss", &known, |known| known.bass.clone()),
        text("Fuses", &known, |known| known.one.session.amplifier.fuse_words()),
        text("Size", &known, |known| {
            let size = known.one.session.amplifier.size.as_ref()?;
            let [length, width, height] = [size.length_mm, size.width_mm, size.height_mm].map(|mm| format::as_read(mm.get()));
            Some(format::with_unit(&format!("{length} × {width} × {height}"), "mm"))
        }),
        text("Weight", &known, |known| Some(format::with_unit(&format::as_read(known.one.session.amplifier.weight_kg?.get()), "kg"))),
    ];
    all.retain(|fact| fact.says.iter().any(Option::is_some));
    all
}
