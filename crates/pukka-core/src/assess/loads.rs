//! Load by load: efficiency, heat, headroom, channel balance, fade and the price of a watt, of the runs that are used.

use serde::{Deserialize, Serialize};

use crate::evidence::RunFigures;
use crate::evidence::choose::{Target, Tone, Usable, choose};
use crate::evidence::figures::figures;
use crate::evidence::floor::is_run_below;
use crate::evidence::rungs::{RungId, rungs, words};
use crate::evidence::workings::headroom_figure;
use crate::kernel::format;
use crate::kernel::working::{Figure, Working, source};
use crate::record::session::{Mode, Run, Session};

/// A load, with all that is known of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LoadRow {
    /// "4 Ω".
    pub load: String,
    /// Wiring, in words.
    pub wiring: String,
    /// Wiring, setting and tone.
    pub words: String,
    /// Certified power, in total.
    pub clean: Figure,
    /// Efficiency, of certified power.
    pub efficiency: Option<Figure>,
    /// Heat, at certified power.
    pub heat: Option<Figure>,
    /// Burst against certified power.
    pub headroom: Option<Figure>,
    /// Strongest against weakest output.
    pub balance: Option<Figure>,
    /// The weakest output.
    pub weakest: Option<String>,
    /// After a hold against at once.
    pub fade: Option<Figure>,
    /// Price of a watt of certified power.
    pub per_watt: Option<Figure>,
}

/// A rung that was run clean, with the runs that are used there.
pub(crate) struct Load<'a> {
    pub id: RungId,
    pub clean: &'a Run,
    pub figures: RunFigures,
    pub burst: Option<(&'a Run, RunFigures)>,
    /// Beyond its rating: in no figure of merit.
    pub below_floor: bool,
    /// Clean power is only "at least so much": nothing can be set against it.
    at_least: bool,
    /// Other wirings were run too: a load alone does not say which.
    several_wirings: bool,
}

impl Load<'_> {
    /// Part of the headroom that is only the supply standing higher: 20·log10(Vdynamic/Vcertified).
    pub fn headroom_by_supply(&self) -> Option<f64> {
        let (run, _) = self.burst.as_ref()?;
        let db = 20.0 * (run.end_volts()?.get() / self.clean.end_volts()?.get()).log10();
        (db.abs() >= 0.05).then_some(db)
    }

    /// "4 Ω", with its wiring where there are several.
    pub fn words(&self) -> String {
        let load = self.ohms();
        if self.several_wirings { format!("{load} ({})", self.id.wiring.words()) } else { load }
    }

    fn ohms(&self) -> String {
        self.id.wiring.load_words(self.id.load_ohm)
    }

    pub fn clean_w(&self) -> f64 {
        self.figures.total.value
    }

    /// Clean power, where level steps found where it ends.
    pub fn settled_w(&self) -> Option<f64> {
        (!self.at_least).then(|| self.clean_w())
    }

    pub fn headroom(&self) -> Option<Figure> {
        self.settled_w()?;
        let (_, burst) = self.burst.as_ref()?;
        headroom_figure((&burst.total, burst.total.value), (&self.figures.total, self.clean_w()), &self.words())
    }

    /// The output with the least power.
    pub fn weakest(&self) -> Option<String> {
        let outputs = &self.figures.per_output;
        let (index, _) = outputs.iter().enumerate().min_by(|a, b| a.1.value.total_cmp(&b.1.value))?;
        let named = self.clean.outputs.get(index).and_then(|output| output.name.clone());
        Some(named.unwrap_or_else(|| (index + 1).to_string()))
    }
}

/// Every rung with a usable certified run, in the order of the ladder.
pub(crate) fn loads<'a>(session: &'a Session, usable: &[Usable<'a>]) -> Vec<Load<'a>> {
    let used = |id: &RungId, mode: Mode| {
        let run = mode_run(session, usable, id, mode)?;
        Some((run, figures(session, run).ok()?))
    };
    let mut loads: Vec<Load> = rungs(session)
        .into_iter()
        .filter_map(|rung| {
            let (clean, figures) = used(&rung.id, Mode::Certified).filter(|(run, _)| !run.cut_short())?;
            let burst = used(&rung.id, Mode::Dynamic);
            let at_least = usable.iter().any(|u| u.run.id == clean.id && u.total.at_least);
            let below_floor = is_run_below(session, clean);
            Some(Load { id: rung.id, clean, figures, burst, below_floor, at_least, several_wirings: false })
        })
        .collect();
    let several = loads.iter().any(|load| loads.first().is_some_and(|first| first.id.wiring != load.id.wiring));
    loads.iter_mut().for_each(|load| load.several_wirings = several);
    loads
}

/// The run of a rung that is used, in a mode.
pub(crate) fn mode_run<'a>(session: &'a Session, usable: &[Usable<'a>], id: &RungId, mode: Mode) -> Option<&'a Run> {
    let own: Vec<Usable<'a>> = usable.iter().filter(|u| RungId::of(u.run).is(id)).cloned().collect();
    let wanted = Target {
        place: (id.wiring, id.load_ohm),
        setting: id.setting.as_deref(),
        tone: Tone::Nearest(id.tone_hz.get()),
        reference_v: None,
    };
    choose(session, &own, &wanted, mode)?.runs.first().copied()
}

/// The rows for people.
pub(crate) fn rows(session: &Session, loads: &[Load]) -> Vec<LoadRow> {
    let row = |load: &Load| LoadRow {
        load: load.ohms(),
        wiring: load.id.wiring.words(),
        words: words(&load.id),
        clean: load.figures.total.clone(),
        efficiency: load.figures.efficiency.clone(),
        heat: load.figures.heat.clone(),
        headroom: load.headroom(),
        weakest: load.figures.balance.as_ref().and_then(|_| load.weakest()),
        balance: load.figures.balance.clone(),
        fade: load.figures.fade.clone(),
        per_watt: price_of_a_watt(session, load),
    };
    loads.iter().map(row).collect()
}

/// Price over certified watts.
pub(crate) fn price_of_a_watt(session: &Session, load: &Load) -> Option<Figure> {
    let price = session.amplifier.price.as_ref().filter(|price| price.amount.get() > 0.0 && load.clean_w() > 0.0)?;
    let each = price.amount.get() / load.settled_w()?;
    let working = Working::new("Price of a watt", "price / P", source::METHOD)
        .with_text("price", "price", format::money(price.amount.get(), &price.currency, 2))
        .with("P", format!("certified, in total, at {}", load.words()), load.clean_w(), "W")
        .made_from([load.figures.total.working.clone()]);
    let mut figure = Figure::watts(each, working);
    figure.text = format::money(each, &price.currency, 2);
    figure.unit = "a watt".into();
    Some(figure)
}
