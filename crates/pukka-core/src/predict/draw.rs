//! How the draw of a rung is predicted, by what is known.

use crate::kernel::units::{SLACK, at_least};
use crate::predict::known::{DrawPoint, Prior, Where};
use crate::predict::model::{Draw, LossPoint, Losses};
use crate::record::session::Mode;

/// Loads from which the losses are fitted.
const LOADS_FOR_LOSSES: usize = 3;

/// Draw of a place over its output.
#[must_use]
pub fn draw(known: &Prior, at: Where, mode: Mode) -> Draw {
    let class = known.session().amplifier.class;
    let points = known.drawn(at);
    let Some(nearest) = points.iter().map(|point| point.away(at)).min_by(f64::total_cmp) else {
        return Draw::of_class(class);
    };
    let mut loads: Vec<f64> = points.iter().map(|point| point.nominal_ohm).collect();
    loads.sort_by(f64::total_cmp);
    loads.dedup_by(|a, b| crate::kernel::wiring::same_load(*a, *b));
    // Past the loads that were run, idle + k · I² runs away from class AB and D alike: their losses grow more like the current.
    let here = at.load_ohm.get();
    let inside = loads.iter().any(|load| at_least(here, *load)) && loads.iter().any(|load| at_least(*load, here));
    if loads.len() >= LOADS_FOR_LOSSES && inside {
        let lost: Vec<LossPoint> = points.iter().map(|point| point.losses).collect();
        if let Some(losses) = Losses::fit(&lost, known.idle_w()) {
            return Draw::Losses(losses);
        }
    }
    let here: Vec<&DrawPoint> = points.iter().filter(|point| point.away(at) <= nearest + SLACK).collect();
    // Of several runs there, those of the mode asked about say more.
    let own: Vec<&DrawPoint> = here.iter().copied().filter(|point| point.mode == mode).collect();
    let speaking = if own.is_empty() { here } else { own };
    let n = speaking.len() as f64;
    let load_ohm = speaking.first().map_or(at.load_ohm.get(), |point| point.nominal_ohm);
    Draw::Efficiency {
        ratio: speaking.iter().map(|point| point.efficiency).sum::<f64>() / n,
        load_ohm,
        halvings: (load_ohm / at.load_ohm.get()).log2(),
        ceiling: class.ceiling().unwrap_or(1.0),
    }
}

impl DrawPoint {
    /// Halvings between its load and this one, either way.
    fn away(&self, at: Where) -> f64 {
        (self.nominal_ohm / at.load_ohm.get()).log2().abs()
    }
}
