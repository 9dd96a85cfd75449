//! Power by level steps: between the two neighbours that straddle the distortion limit.
//!
//! Watts, volts and amps alike are linear in the figure against the logarithm of the distortion. Nothing is extrapolated:
//! with every step inside the limit the highest power is "at least so much", with none inside there is no clean reading.
//! The lowest pair, by level, that goes from inside to outside counts: below it noise may lift the distortion again.

use crate::evidence::power::{NoTotal, OutputPower, Total, total_of};
use crate::kernel::units::{Amps, Volts, at_least};
use crate::record::session::{LevelStep, Mode, ReadingName, Run, Session};

/// Power below which a distortion above the limit is noise, at the lowest levels.
const NOISE_W: f64 = 1.0;

struct Row {
    thd: f64,
    total: Total,
}

/// The total of a run by level steps.
pub(super) fn total(session: &Session, run: &Run) -> Result<Total, NoTotal> {
    let mut sorted: Vec<&LevelStep> = run.steps.iter().collect();
    sorted.sort_by(|a, b| a.level_db.get().total_cmp(&b.level_db.get()));
    let clean = run.mode == Mode::Certified;
    let mut rows = Vec::with_capacity(sorted.len());
    for step in sorted {
        let Some(thd) = step.thd_ratio.map(|thd| thd.get()).or_else(|| (!clean).then_some(0.0)) else { continue };
        let total = total_of(session, run, &step.outputs)?;
        let end_v = step.end_v.filter(|_| !run.is_struck(ReadingName::EndVolts));
        let current_a = step.current_a.filter(|_| !run.is_struck(ReadingName::Current));
        rows.push(Row { thd, total: total.at_supply(end_v, current_a) });
    }
    // Below 1 W it is noise that lifts the distortion, not clipping.
    let limit = run.limit_ratio.unwrap_or(session.policy.thd_limit_ratio).get();
    let inside = |row: &Row| at_least(limit, row.thd);
    if rows.is_empty() {
        return Err(NoTotal::NothingRead);
    }
    if clean {
        let noise = rows.iter().take_while(|row| !inside(row) && !at_least(row.total.total_w, NOISE_W)).count();
        rows.drain(..noise);
    }
    // What a step lacks is the run's.
    let filled = |total: Total| {
        let (read_v, current_a) = (total.read_v.or_else(|| run.end_volts()), total.current_a.or_else(|| run.amps()));
        total.at_supply(read_v, current_a)
    };
    let highest = |rows: Vec<Row>| {
        let most = rows.into_iter().map(|row| row.total).max_by(|a, b| a.total_w.total_cmp(&b.total_w));
        most.map(filled).ok_or(NoTotal::NothingRead)
    };
    if !clean {
        return highest(rows);
    }
    if !rows.iter().any(inside) {
        return Err(NoTotal::NoCleanStep);
    }
    match rows.windows(2).find(|pair| inside(&pair[0]) && !inside(&pair[1])) {
        Some([below, above]) => Ok(filled(between(below, above, limit))),
        _ => {
            rows.retain(inside);
            Ok(Total { at_least: true, ..highest(rows)? })
        }
    }
}

fn between(below: &Row, above: &Row, limit: f64) -> Total {
    // A distortion of nothing is as far below the limit as can be: its logarithm has no end, and the limit is at the upper step.
    let part = if below.thd > 0.0 { ((limit / below.thd).ln() / (above.thd / below.thd).ln()).clamp(0.0, 1.0) } else { 1.0 };
    let mix = |a: f64, b: f64| a + part * (b - a);
    let (a, b) = (&below.total, &above.total);
    let outputs = a.outputs.iter().zip(&b.outputs).map(|(x, y)| OutputPower {
        power_w: mix(x.power_w, y.power_w),
        reading: mix(x.reading, y.reading),
        u_w: mix(x.u_w, y.u_w),
        of: x.of,
    });
    // What was not read at one of the two steps is taken from the other.
    let either = |a: Option<f64>, b: Option<f64>| a.zip(b).map(|(a, b)| mix(a, b)).or(a).or(b);
    let volts = either(a.read_v.map(Volts::get), b.read_v.map(Volts::get)).and_then(|v| Volts::new(v).ok());
    let amps = either(a.current_a.map(Amps::get), b.current_a.map(Amps::get)).and_then(|i| Amps::new(i).ok());
    let total = Total {
        total_w: mix(a.total_w, b.total_w),
        outputs: outputs.collect(),
        group_w: a.group_w.iter().zip(&b.group_w).map(|(x, y)| mix(*x, *y)).collect(),
        assumed_outputs: a.assumed_outputs,
        u_w: mix(a.u_w, b.u_w),
        at_least: false,
        ..a.clone()
    };
    total.at_supply(volts, amps)
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use crate::evidence::{NoTotal, total};
    use crate::record::session::{Run, Session, examples};

    fn stepped(steps: &serde_json::Value) -> (Session, Run) {
        let session = examples::mono_1100();
        let mut run = session.runs[0].clone();
        run.outputs.clear();
        run.method = Some(crate::record::session::Method::Steps);
        run.thd_ratio = None;
        run.steps = serde_json::from_value(steps.clone()).unwrap();
        (session, run)
    }

    #[test]
    fn between_the_two_that_straddle_the_limit() {
        let (session, run) = stepped(&json!([
            { "level_db": -1.0, "outputs": [{ "power_w": 460.0 }], "thd_ratio": 0.04, "end_v": 14.30, "current_a": 44.0 },
            { "level_db": -3.0, "outputs": [{ "power_w": 400.0 }], "thd_ratio": 0.0025, "end_v": 14.40, "current_a": 38.0 },
            { "level_db": -9.0, "outputs": [{ "power_w": 100.0 }], "thd_ratio": 0.02 }
        ]));
        // Noise at −9 dB is no limit. ln(0.01/0.0025) / ln(0.04/0.0025) = ln 4 / ln 16 = 1/2: halfway between −3 and −1 dB.
        let found = total(&session, &run).unwrap();
        assert!((found.total_w - 430.0).abs() < 1e-9 && !found.at_least, "{found:?}");
        assert!((found.end_v.unwrap().get() - 14.35).abs() < 1e-9 && (found.current_a.unwrap().get() - 41.0).abs() < 1e-9);
        assert!((found.outputs[0].power_w - 430.0).abs() < 1e-9);
    }

    #[test]
    fn all_inside_is_a_lower_bound_and_none_inside_is_nothing() {
        let row = |level: f64, power: f64, thd: f64| json!({ "level_db": level, "outputs": [{ "power_w": power }], "thd_ratio": thd });
        let (session, run) = stepped(&json!([row(-5.0, 200.0, 0.001), row(-3.0, 300.0, 0.002)]));
        let found = total(&session, &run).unwrap();
        assert_eq!((found.total_w, found.at_least), (300.0, true));
        assert_eq!(found.end_v.map(|v| v.get()), Some(14.38), "missing volts of a step are the run's");
        let (session, run) = stepped(&json!([row(-5.0, 200.0, 0.011), row(-3.0, 300.0, 0.02)]));
        assert_eq!(total(&session, &run), Err(NoTotal::NoCleanStep));
        let (session, run) = stepped(&json!([row(-5.0, 200.0, 0.01), row(-3.0, 300.0, 0.02)]));
        assert_eq!(total(&session, &run).unwrap().total_w, 200.0, "exactly at the limit is inside");
    }

    #[test]
    fn counted_cycles_are_as_strong_as_their_weaker_end() {
        let session = examples::mono_1100();
        let mut run = session.runs[2].clone();
        run.outputs.clear();
        run.cycles =
            serde_json::from_value(json!({ "count": 20, "first": { "volts_peak": 42.0 }, "last": { "volts_peak": 40.0 } })).unwrap();
        let found = total(&session, &run).unwrap();
        // 40² / (2 × R) and 42² / (2 × R), R as measured
        let load = run.load().get();
        assert!((found.total_w - 800.0 / load).abs() < 1e-9 && (found.best_w.unwrap() - 882.0 / load).abs() < 1e-9);
    }
}
