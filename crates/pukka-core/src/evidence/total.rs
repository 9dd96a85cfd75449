//! The total power of a run, by whatever it was read with.

use crate::evidence::power::{NoTotal, Total, total_alone, total_of};
use crate::evidence::{steps, supply, uncertainty};
use crate::kernel::units::Volts;
use crate::record::session::{Method, OutputReading, ReadingName, Run, Session};

/// Total power of a run: the mean of the metered outputs times the outputs driven; between the two level steps that straddle
/// the limit; or the lower end of its counted cycles.
///
/// # Errors
/// [`NoTotal`] when nothing usable was read, or a peak was read off a clipping run.
pub fn total(session: &Session, run: &Run) -> Result<Total, NoTotal> {
    if run.is_struck(ReadingName::Outputs) {
        return Err(NoTotal::NothingRead);
    }
    let total = as_read(session, run)?;
    let moving = |volts: Volts| {
        let by_meter = uncertainty::supply_volts(session, volts.get());
        run.is_approximate(ReadingName::EndVolts).then(|| uncertainty::widened(by_meter, true))
    };
    let (end_v, end_relative_u) = match (total.read_v, supply::derived(session, run, &total)) {
        (Some(read), _) => (Some(read), moving(read)),
        (None, Some((derived, relative_u))) => (Some(derived), Some(relative_u)),
        (None, None) => (None, None),
    };
    Ok(Total { at_least: total.at_least || run.cut_short(), end_v, end_relative_u, ..total })
}

fn as_read(session: &Session, run: &Run) -> Result<Total, NoTotal> {
    let (end_v, current_a) = (run.end_volts(), run.amps());
    if let Some(cycles) = run.cycles.as_ref().filter(|_| run.outputs.is_empty()) {
        let of = |end: &OutputReading| total_of(session, run, std::slice::from_ref(end));
        let ends = cycles.ends().map(of).collect::<Result<Vec<_>, _>>()?;
        let best_w = ends.iter().map(|end| end.total_w).max_by(f64::total_cmp);
        let lower = ends.into_iter().min_by(|a, b| a.total_w.total_cmp(&b.total_w)).ok_or(NoTotal::NothingRead)?;
        return Ok(Total { best_w, ..lower.at_supply(end_v, current_a) });
    }
    if let Some(total_w) = run.total_power_w.filter(|_| run.outputs.is_empty() && !run.is_struck(ReadingName::Power)) {
        return Ok(total_alone(session, run, total_w).at_supply(end_v, current_a));
    }
    if run.method == Some(Method::Steps) && !run.steps.is_empty() {
        return steps::total(session, run);
    }
    Ok(total_of(session, run, &run.outputs)?.at_supply(end_v, current_a))
}
