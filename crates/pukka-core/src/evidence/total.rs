//! The total power of a run, by whatever it was read with.

use crate::evidence::power::{NoTotal, Total, total_of};
use crate::evidence::steps;
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
    as_read(session, run).map(|total| Total { at_least: total.at_least || run.cut_short(), ..total })
}

fn as_read(session: &Session, run: &Run) -> Result<Total, NoTotal> {
    let (end_v, current_a) = (run.end_volts(), run.amps());
    if let Some(cycles) = run.cycles.as_ref().filter(|_| run.outputs.is_empty()) {
        let of = |end: &OutputReading| total_of(session, run, std::slice::from_ref(end));
        let (first, last) = (of(&cycles.first)?, of(&cycles.last)?);
        let best_w = Some(first.total_w.max(last.total_w));
        let lower = if last.total_w <= first.total_w { last } else { first };
        return Ok(Total { best_w, end_v, current_a, ..lower });
    }
    if run.method == Some(Method::Steps) && !run.steps.is_empty() {
        return steps::total(session, run);
    }
    Ok(Total { end_v, current_a, ..total_of(session, run, &run.outputs)? })
}
