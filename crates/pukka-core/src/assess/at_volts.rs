//! Power at the voltages that amplifiers are rated and used at, for every load that was run clean.

use serde::{Deserialize, Serialize};

use crate::evidence::band::band;
use crate::evidence::choose::{Target, Tone, Usable, choose};
use crate::evidence::rungs::{RungId, rungs, words};
use crate::evidence::workings::{band_figures, workings_of};
use crate::kernel::format;
use crate::kernel::working::Figure;
use crate::record::session::{Mode, Session};

/// A battery at rest, one under charge, and the voltage of the rating conditions.
///
/// Ref: CTA-2006 (14.4 V).
pub const SHOWN_V: [f64; 3] = [12.5, 13.8, 14.4];

/// Power at one voltage: one figure, or the two ends of a band.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct VoltageCell {
    /// "13.8 V".
    pub volts: String,
    /// Lower bound.
    pub low: Figure,
    /// Upper bound, when it is another.
    pub high: Option<Figure>,
}

/// A load.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct VoltageRow {
    /// "4 Ω".
    pub load: String,
    /// Tone and wiring.
    pub words: String,
    /// A cell a voltage.
    pub cells: Vec<VoltageCell>,
}

/// A row for every load with a usable certified run that has supply volts.
pub fn at_volts(session: &Session, usable: &[Usable]) -> Vec<VoltageRow> {
    rungs(session).iter().filter_map(|rung| row(session, usable, &rung.id)).collect()
}

fn row(session: &Session, usable: &[Usable], id: &RungId) -> Option<VoltageRow> {
    let own: Vec<Usable> = usable.iter().filter(|u| RungId::of(u.run).is(id)).cloned().collect();
    let wanted = Target {
        place: (id.wiring, id.load_ohm),
        setting: id.setting.as_deref(),
        tone: Tone::Nearest(id.tone_hz.get()),
        reference_v: None,
    };
    // "At least so much" is that at any voltage, and no band.
    let chosen = choose(session, &own, &wanted, Mode::Certified).filter(|chosen| !chosen.at_least)?;
    let sample = chosen.sample;
    let beneath = workings_of(session, &chosen.runs);
    let cell = |volts: f64| {
        let (low, high) = band_figures(sample, &band(session, sample, volts), volts, &beneath);
        VoltageCell { volts: format::with_unit(&format::as_read(volts), "V"), low, high }
    };
    Some(VoltageRow { load: id.wiring.load_words(id.load_ohm), words: words(id), cells: SHOWN_V.map(cell).into() })
}

#[cfg(test)]
mod tests {
    use crate::record::amplifier::SupplyType;
    use crate::record::session::examples::mono_1100;
    use crate::report::view::view as verdict_view;

    #[test]
    fn every_load_at_three_voltages_worked_by_hand() {
        let mut session = mono_1100();
        let rows = verdict_view(&session).at_volts;
        assert_eq!(rows.len(), 3);
        let four = &rows[0];
        // 447 W at 14.38 V, unregulated: · (13.8/14.38)² = 411.67; 12.5 V is 1.88 V away: from (12.5/14.38)², 337.76, to 447 W.
        assert!((four.cells[1].low.value - 411.668).abs() < 0.01 && four.cells[1].high.is_none(), "{}", four.cells[1].low.value);
        assert!((four.cells[0].low.value - 337.76).abs() < 0.01, "{}", four.cells[0].low.value);
        assert_eq!(four.cells[0].high.as_ref().unwrap().value, 447.0);
        session.amplifier.supply_type = SupplyType::Regulated;
        let regulated = verdict_view(&session).at_volts;
        assert_eq!((regulated[0].cells[1].low.value, regulated[0].cells[1].high.is_none()), (447.0, true));
        session.runs.iter_mut().for_each(|run| run.end_v = None);
        let unread = verdict_view(&session).at_volts;
        assert_eq!((unread[0].cells[1].low.value, unread[0].cells[1].high.is_none()), (447.0, true), "a regulated one holds at any volts");
        session.amplifier.supply_type = SupplyType::Unregulated;
        let cell = &verdict_view(&session).at_volts[0].cells[1];
        // It rested at 14.6 V, so it ended at 13.1 to 14.6 V: 447 · (13.8/14.6)² = 399.36, 447 · (13.8/13.1)² = 496.05.
        assert!((cell.low.value - 399.356).abs() < 0.01, "{}", cell.low.value);
        assert!((cell.high.as_ref().unwrap().value - 496.046).abs() < 0.01);
    }
}
