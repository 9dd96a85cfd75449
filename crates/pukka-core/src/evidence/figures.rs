//! Draw, heat, efficiency, sag: what the readings of one run come to, each figure with its working.

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::evidence::band::{MeasuredExponent, Sample, band};
use crate::evidence::choose::Exponents;
use crate::evidence::power::{NoTotal, Total};
use crate::evidence::total;
use crate::evidence::workings::{
    balance_figure, band_figures, best_figure, draw_working, efficiency_figure, fade_figure, heat_figure, per_output, percent_of_claim,
    sag_figure, total_figure,
};
use crate::kernel::format;
use crate::kernel::units::{Amps, Ratio, Volts, Watts, at_least};
use crate::kernel::working::{Figure, Working};
use crate::record::claims::Claim;
use crate::record::session::{Mode, Run, Session};

/// The bare numbers of a run, where they can be given.
#[derive(Debug, Clone, PartialEq)]
pub struct RunNumbers {
    /// Total power, or why there is none.
    pub total: Result<Arc<Total>, NoTotal>,
    /// Supply volts the total was read at; between two level steps, those of the total.
    pub end_v: Option<Volts>,
    /// Likewise, as read.
    pub read_v: Option<Volts>,
    /// Supply amps, likewise.
    pub current_a: Option<Amps>,
    /// Vend × I, watts.
    pub input_w: Option<Watts>,
    /// Pout / Pin; never for a burst.
    pub efficiency: Option<f64>,
    /// Pin − Pout, watts; never for a burst.
    pub heat_w: Option<f64>,
    /// Rest − end, volts.
    pub sag_v: Option<f64>,
}

impl RunNumbers {
    /// Supply volts and amps as they are shown: struck, they are no part of the numbers, and are shown all the same.
    #[must_use]
    pub fn supply_shown(&self, run: &Run) -> (Option<Volts>, Option<Amps>) {
        (self.end_v.or(run.end_v), self.current_a.or(run.current_a))
    }
}

/// Computes the numbers of a run.
#[must_use]
pub fn numbers(session: &Session, run: &Run) -> RunNumbers {
    let total = total(session, run).map(Arc::new);
    let read = total.as_ref().ok();
    let end_v = read.map_or_else(|| run.end_volts(), |total| total.end_v);
    let read_v = read.map_or_else(|| run.end_volts(), |total| total.read_v);
    let current_a = read.map_or_else(|| run.amps(), |total| total.current_a);
    let input_w = end_v.zip(current_a).map(|(volts, amps)| volts * amps);
    let steady = run.mode != Mode::Dynamic;
    let power = total.as_ref().ok().filter(|_| steady).map(|total| total.total_w);
    let read_ratio = run.efficiency_read().filter(|_| steady).map(Ratio::get);
    // Draw by an efficiency off a meter, where volts and amps do not make it.
    let by_efficiency = || Watts::new(power? / read_ratio.filter(|ratio| *ratio > 0.0)?).ok();
    let input_w = input_w.or_else(by_efficiency);
    let drawn = input_w.map(Watts::get).filter(|input| *input > 0.0);
    RunNumbers {
        efficiency: power.zip(drawn).map(|(p, input)| p / input).or(read_ratio),
        heat_w: power.zip(input_w).map(|(p, input)| input.get() - p),
        sag_v: run.rest_volts().zip(read_v).map(|(rest, end)| rest.get() - end.get()),
        end_v,
        read_v,
        current_a,
        input_w,
        total,
    }
}

/// A run's power at the claim's voltage: one figure, or a band where the truth lies between.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct AtReference {
    /// At which voltage, as shown.
    pub reference: String,
    /// Lower bound.
    pub low: Figure,
    /// Upper bound, when it is another.
    pub high: Option<Figure>,
}

/// Result of the readings of one run.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RunFigures {
    /// Total power.
    pub total: Figure,
    /// Power of each metered output, when there are several.
    pub per_output: Vec<Figure>,
    /// Percent of the claim, as read.
    pub against: Option<Figure>,
    /// Watts of that claim, as shown.
    pub claim: Option<String>,
    /// Id of that claim.
    pub claim_id: Option<String>,
    /// Whether it is met as read.
    pub claim_met: bool,
    /// Brought to the claim's voltage.
    pub at_reference: Option<AtReference>,
    /// Draw, watts.
    pub input: Option<Figure>,
    /// Efficiency.
    pub efficiency: Option<Figure>,
    /// Heat, watts.
    pub heat: Option<Figure>,
    /// Sag, volts.
    pub sag: Option<Figure>,
    /// Channel balance, decibels.
    pub balance: Option<Figure>,
    /// After a hold against at once, decibels.
    pub fade: Option<Figure>,
    /// Of counted cycles, the better end.
    pub best: Option<Figure>,
}

/// The figures of a run, for people.
///
/// # Errors
/// [`NoTotal`] when the readings give no power.
pub fn figures(session: &Session, run: &Run) -> Result<RunFigures, NoTotal> {
    figures_among(session, run, &Exponents::at(session, run))
}

/// Likewise, for whoever asks of many runs: what their places measured is known.
///
/// # Errors
/// [`NoTotal`] when the readings give no power.
pub fn figures_among(session: &Session, run: &Run, exponents: &Exponents) -> Result<RunFigures, NoTotal> {
    let numbers = numbers(session, run);
    let total = numbers.total.clone()?;
    let claim = claim_of(session, run);
    let claim_w = claim.and_then(Claim::total_w);
    // What most of the others are made from.
    let shown = total_figure(session, run, &total);
    let made = &shown.working;
    Ok(RunFigures {
        per_output: per_output(run, &total),
        against: claim_w.map(|claim_w| percent_of_claim(total.total_w, claim_w, [made.clone()])),
        claim: claim_w.map(|w| format::with_unit(&format::watts(w), "W")),
        claim_id: claim.map(|claim| claim.id.clone()),
        claim_met: claim_w.is_some_and(|claim_w| at_least(total.total_w, claim_w)),
        at_reference: claim.and_then(|claim| at_reference(session, run, &total, claim, exponents.of(run), made)),
        input: numbers.input_w.map(|input| Figure::watts(input.get(), draw_working(&total, "Draw", "Pin = V · I"))),
        efficiency: numbers.efficiency.map(|ratio| efficiency_figure(session, run, &total, ratio, made)),
        heat: numbers.heat_w.map(|heat| heat_figure(&total, heat, made)),
        sag: numbers.sag_v.map(|sag| sag_figure(run, &total, sag)),
        balance: total.balance().map(|db| balance_figure(run, &total, db)),
        fade: fade_figure(session, run, &total, made),
        best: total.best_w.map(|best| best_figure(session, run, &total, best)),
        total: shown,
    })
}

/// Sag of the supply in a run, and nothing else of it.
#[must_use]
pub fn sag(session: &Session, run: &Run) -> Option<Figure> {
    let numbers = numbers(session, run);
    let total = numbers.total.ok()?;
    numbers.sag_v.map(|sag_v| sag_figure(run, &total, sag_v))
}

/// The rating in use that a run concerns: its own wiring and load, else an equivalent; of several the one with most watts.
#[must_use]
pub fn claim_of<'a>(session: &'a Session, run: &Run) -> Option<&'a Claim> {
    use crate::kernel::wiring::{Relation, relation};
    let bearing = |wanted: Relation| {
        session
            .claims
            .iter()
            .filter(|claim| claim.used && claim.is_rating() && claim.setting == run.setting)
            .filter(|claim| {
                claim.place().and_then(|place| relation(place, (run.wiring, run.load_nominal_ohm))).is_some_and(|found| found == wanted)
            })
            .filter(|claim| claim.total_w().is_some())
            .max_by(|a, b| a.total_w().partial_cmp(&b.total_w()).unwrap_or(std::cmp::Ordering::Equal))
    };
    bearing(Relation::Same).or_else(|| bearing(Relation::Equivalent))
}

fn at_reference(
    session: &Session,
    run: &Run,
    total: &Total,
    claim: &Claim,
    measured: Option<MeasuredExponent>,
    made: &Working,
) -> Option<AtReference> {
    let reference_v = claim.reference_v();
    // A run that is still typed is not among those that stand, and is measured by them all the same.
    let sample = Sample { measured, ..Sample::of(session, run, total) };
    let band = band(session, sample, reference_v);
    let (low, high) = band_figures(sample, &band, reference_v, std::slice::from_ref(made));
    Some(AtReference { reference: format::with_unit(&format::as_read(reference_v), "V"), low, high })
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::record::session::examples;

    fn at(power_w: f64, end_v: f64, current_a: f64) -> (Session, Run) {
        let session = examples::mono_1100();
        let mut run = session.runs[0].clone();
        run.outputs[0].power_w = Some(Watts::new(power_w).unwrap());
        run.end_v = Some(Volts::new(end_v).unwrap());
        run.current_a = Some(Amps::new(current_a).unwrap());
        (session, run)
    }

    #[test]
    fn the_one_ohm_run_worked_by_hand() {
        let session = examples::mono_1100();
        let run = session.run("r7").unwrap();
        let shown = figures(&session, run).unwrap();
        // 1068 W; 13.96 V × 124.6 A = 1739.4 W; 1068/1739.4 = 61.4 %; heat 671.4 W; sag 14.60 − 13.96 = 0.64 V
        assert_eq!(shown.total.words(), "1\u{202f}068\u{202f}W");
        assert_eq!(shown.input.unwrap().text, "1\u{202f}739");
        assert_eq!(shown.efficiency.as_ref().unwrap().text, "61.4");
        assert_eq!(shown.heat.unwrap().text, "671");
        assert_eq!(shown.sag.unwrap().text, "0.64");
        // 100 × 1068/1100 = 97.1 %; 1068 × (14.4/13.96)² = 1136.4 W
        assert_eq!(shown.against.unwrap().text, "97.1");
        assert!(!shown.claim_met);
        let brought = shown.at_reference.unwrap();
        assert_eq!((brought.low.text.as_str(), brought.high), ("1\u{202f}136", None));
        assert_eq!(shown.efficiency.unwrap().working.formula, "η = 100 · P / (V · I)");
    }

    #[test]
    fn a_burst_has_no_efficiency_and_no_heat() {
        let (session, mut run) = at(489.0, 14.52, 60.0);
        run.mode = Mode::Dynamic;
        let numbers = numbers(&session, &run);
        assert_eq!((numbers.efficiency, numbers.heat_w), (None, None));
        assert!(numbers.input_w.is_some());
    }

    #[test]
    fn what_a_hold_cost_and_what_the_first_cycle_had() {
        let (session, mut run) = at(447.0, 14.38, 41.2);
        run.hold = serde_json::from_value(serde_json::json!({ "seconds": 30.0, "outputs": [{ "power_w": 430.0 }] })).unwrap();
        // 10·log10(430/447) = −0.168 dB
        assert!((figures(&session, &run).unwrap().fade.unwrap().value + 0.1684).abs() < 1e-3);
        run.outputs.clear();
        run.mode = Mode::Dynamic;
        run.cycles =
            serde_json::from_value(serde_json::json!({ "count": 20, "first": { "power_w": 480.0 }, "last": { "power_w": 460.0 } }))
                .unwrap();
        let shown = figures(&session, &run).unwrap();
        assert_eq!((shown.total.value, shown.best.unwrap().value), (460.0, 480.0));
    }

    #[test]
    fn struck_amps_leave_the_watts_standing() {
        let (session, mut run) = at(447.0, 14.38, 41.2);
        run.struck.push(crate::record::session::ReadingName::Current);
        let shown = figures(&session, &run).unwrap();
        assert_eq!(shown.total.text, "447");
        assert!(shown.efficiency.is_none() && shown.input.is_none());
    }

    proptest! {
        #[test]
        fn what_goes_in_comes_out_as_power_or_heat(power in 1.0f64..2000.0, volts in 9.0f64..16.0, amps in 1.0f64..300.0) {
            let (session, run) = at(power, volts, amps);
            let n = numbers(&session, &run);
            let total = n.total.unwrap().total_w;
            prop_assert!((total + n.heat_w.unwrap() - n.input_w.unwrap().get()).abs() < 1e-9);
            prop_assert!((n.efficiency.unwrap() * n.input_w.unwrap().get() - total).abs() < 1e-9);
        }
    }
}
