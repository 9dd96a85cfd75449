//! Readings as they were made, where the table gives one figure of several: every output, other meters, volts, level steps, counted
//! cycles, a hold; and what stood there before a correction.

use serde::{Deserialize, Serialize};

use crate::evidence::rungs::runs_along;
use crate::kernel::format::{amps, as_read, list, volts, watts, with_unit};
use crate::plan::run_line::line_of;
use crate::record::session::{Burst, Cycles, LevelStep, OutputReading, Run, Session};

/// Readings of one run, a line each.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct AsRead {
    /// "4 Ω, certified".
    pub place: String,
    /// The readings.
    pub lines: Vec<String>,
}

/// Every quantity that was read, the one that counts first.
fn quantities([power, rms, peak, peak_to_peak]: [Option<f64>; 4]) -> String {
    let all = [
        power.map(|value| with_unit(&watts(value), "W")),
        rms.map(|value| with_unit(&as_read(value), "V rms")),
        peak.map(|value| with_unit(&as_read(value), "V peak")),
        peak_to_peak.map(|value| with_unit(&as_read(value), "V peak to peak")),
    ];
    all.into_iter().flatten().collect::<Vec<_>>().join(" = ")
}

fn output(reading: &OutputReading) -> String {
    let also = reading.also.iter().map(|also| format!("; {} {}", other_meter(also.meter.as_deref()), quantities(also.in_order())));
    format!("{}{}", quantities(reading.in_order()), also.collect::<String>())
}

fn other_meter(name: Option<&str>) -> String {
    name.map_or_else(|| "another meter".to_owned(), |name| format!("meter {name}"))
}

/// Outputs by their names, or by their numbers.
fn outputs(readings: &[OutputReading]) -> Vec<String> {
    let name = |i: usize, reading: &OutputReading| reading.name.clone().unwrap_or_else(|| (i + 1).to_string());
    let said = |(i, reading)| format!("output {}: {}", name(i, reading), output(reading));
    match readings {
        [only] => vec![output(only)],
        all => all.iter().enumerate().map(said).collect(),
    }
}

fn supply(end_v: Option<f64>, current_a: Option<f64>) -> Vec<String> {
    let volts = end_v.map(|value| with_unit(&volts(value), "V"));
    volts.into_iter().chain(current_a.map(|value| with_unit(&amps(value), "A"))).collect()
}

fn step(step: &LevelStep) -> String {
    let level = as_read(step.level_db.get()).replace('-', "−");
    let distortion = step.thd_ratio.map(|thd| with_unit(&as_read(thd.get() * 100.0), "%"));
    let supply = supply(step.end_v.map(|v| v.get()), step.current_a.map(|a| a.get()));
    let parts: Vec<String> = outputs(&step.outputs).into_iter().chain(distortion).chain(supply).collect();
    format!("step at {level} dB: {}", parts.join(", "))
}

fn cycles(cycles: &Cycles) -> String {
    let last = cycles.last.as_ref().map(|last| format!(", last {}", output(last))).unwrap_or_default();
    format!("{}: first {}{last}", Burst::Counted(cycles.count).words(), output(&cycles.first))
}

/// Lines of a run whose readings the table does not show whole.
fn lines(session: &Session, run: &Run) -> Vec<String> {
    let is_plain = match run.outputs.as_slice() {
        [] => true,
        [only] => only.also.is_empty() && matches!(only.in_order(), [Some(_), None, None, None]),
        _ => false,
    };
    let mut lines = if is_plain { Vec::new() } else { outputs(&run.outputs) };
    lines.extend(run.total_power_w.map(|total| format!("only the total was read: {}", with_unit(&watts(total.get()), "W"))));
    lines.extend(run.climbed_from_w.map(|from| format!("climbed from {}; the higher is the reading", with_unit(&watts(from.get()), "W"))));
    if !run.approximate.is_empty() {
        let names: Vec<String> = run.approximate.iter().map(|name| name.words().to_owned()).collect();
        lines.push(format!("off a moving display, known to 5 %: {}", list(&names)));
    }
    lines.extend(run.cycles.as_ref().map(cycles));
    lines.extend(run.steps.iter().map(step));
    lines.extend(run.supply_also.iter().map(|also| {
        let read = supply(also.end_v.map(|v| v.get()), also.current_a.map(|a| a.get()));
        format!("supply by {}: {}", other_meter(also.meter.as_deref()), read.join(", "))
    }));
    lines.extend(run.hold.as_ref().map(|hold| {
        let read = outputs(&hold.outputs).into_iter().chain(supply(hold.end_v.map(|v| v.get()), hold.current_a.map(|a| a.get())));
        format!("after {}: {}", with_unit(&as_read(hold.seconds), "s"), read.collect::<Vec<_>>().join(", "))
    }));
    lines.extend(corrected(session, run));
    lines
}

/// Lines that a correction took the place of, the newest first.
fn corrected(session: &Session, run: &Run) -> Vec<String> {
    let (mut lines, mut at) = (Vec::new(), run);
    while let Some(old) = at.supersedes.as_deref().and_then(|id| session.run(id)).filter(|_| lines.len() < session.runs.len()) {
        let why = at.reason.as_deref().map(|why| format!(" ({why})")).unwrap_or_default();
        lines.push(format!("corrected; it was “{}”{why}", line_of(old)));
        at = old;
    }
    lines
}

/// Runs with more readings than the table shows, along the ladder.
pub(super) fn as_read_runs(session: &Session) -> Vec<AsRead> {
    let of = |run: &Run| {
        let lines = lines(session, run);
        (!lines.is_empty()).then(|| AsRead { place: run.place_words(), lines })
    };
    runs_along(session).into_iter().filter_map(of).collect()
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use super::*;
    use crate::record::session::examples::mono_1100;

    fn plain(text: &str) -> String {
        text.replace(['\u{202f}', '\u{a0}'], " ")
    }

    #[test]
    fn every_reading_is_there_and_what_the_table_shows_whole_is_not_said_twice() {
        let mut session = mono_1100();
        assert_eq!(as_read_runs(&session), [], "one watt figure a run is all in the table");
        let change = |run: &mut Run, with: serde_json::Value| {
            let mut value = serde_json::to_value(&*run).unwrap();
            value.as_object_mut().unwrap().extend(with.as_object().unwrap().clone());
            *run = serde_json::from_value(value).unwrap();
        };
        change(
            &mut session.runs[0],
            json!({
                "outputs": [{ "name": "left", "volts_rms": 41.8, "also": [{ "power_w": 441.0, "meter": "m2" }] }, { "power_w": 440.0 }],
                "supply_also": [{ "end_v": 14.31, "current_a": 41.0 }], "climbed_from_w": 430.0, "approximate": ["current_a"],
                "hold": { "seconds": 30.0, "outputs": [{ "power_w": 431.0 }], "end_v": 14.2 } }),
        );
        change(
            &mut session.runs[1],
            json!({
                "cycles": { "count": 8, "first": { "volts_peak": 42.0 }, "last": { "volts_peak": 41.2 } },
                "steps": [{ "level_db": -3.0, "outputs": [{ "power_w": 250.0 }], "thd_ratio": 0.002, "end_v": 14.4, "current_a": 30.0 }] }),
        );
        let all = as_read_runs(&session);
        let said: Vec<String> = all.iter().flat_map(|run| run.lines.iter().map(|line| plain(line))).collect();
        assert_eq!(
            said,
            [
                "output left: 41.8 V rms; meter m2 441 W",
                "output 2: 440 W",
                "climbed from 430 W; the higher is the reading",
                "off a moving display, known to 5 %: amps",
                "supply by another meter: 14.31 V, 41.0 A",
                "after 30 s: 431 W, 14.20 V",
                "8 cycles: first 42 V peak, last 41.2 V peak",
                "step at −3 dB: 250 W, 0.2 %, 14.40 V, 30.0 A",
            ]
        );
        assert_eq!(all.iter().map(|run| plain(&run.place)).collect::<Vec<_>>(), ["4 Ω, certified", "4 Ω, clipping"]);
    }

    #[test]
    fn a_correction_shows_the_line_it_took_the_place_of() {
        let mut session = mono_1100();
        let mut old = session.runs[0].clone();
        (old.id, old.valid) = ("r0".into(), true);
        (session.runs[0].supersedes, session.runs[0].reason) = (Some("r0".into()), Some("two digits changed places".into()));
        // A ring of corrections, as a hostile file may have it, ends all the same.
        old.supersedes = Some(session.runs[0].id.clone());
        session.runs.push(old);
        let lines = lines(&session, &session.runs[0]);
        assert!(lines[0].starts_with("corrected; it was “447w") && lines[0].ends_with("(two digits changed places)"), "{lines:?}");
        assert!(lines.len() <= session.runs.len(), "{lines:?}");
    }
}
