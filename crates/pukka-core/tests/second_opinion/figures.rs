//! What the readings of a run come to, by the second judge.

use std::collections::BTreeMap;

use super::read::{File, Output, Run};

#[derive(Clone, Default, Debug)]
pub struct Figures {
    pub total_w: f64,
    pub outputs_w: Vec<f64>,
    pub best_w: Option<f64>,
    pub lower: bool,
    /// Expanded uncertainty of the total, watts.
    pub u_w: f64,
    /// Read, or made from watts, amps and efficiency.
    pub end_v: Option<f64>,
    pub read_v: Option<f64>,
    /// Standard uncertainty of volts that were made, of them.
    pub made_u: Option<f64>,
    /// P/(η·I), where it can be made and no volts were read.
    pub implied_v: Option<f64>,
    pub input_w: Option<f64>,
    pub current_a: Option<f64>,
    pub efficiency: Option<f64>,
    pub sag_v: Option<f64>,
}

impl Figures {
    pub fn balance_db(&self) -> Option<f64> {
        let (low, high) = self.outputs_w.iter().fold((f64::INFINITY, 0.0f64), |(low, high), w| (low.min(*w), high.max(*w)));
        (self.outputs_w.len() > 1 && low > 0.0).then(|| 10.0 * (high / low).log10())
    }
}

/// Standard uncertainty of a reading, of it; and which meter read it.
pub fn relative(file: &File, quantity: &str, reading: f64, id: Option<&str>, usual: f64) -> (f64, Option<String>) {
    let meter = file.bench.meters.iter().find(|meter| id.map_or(meter.quantity == quantity, |id| meter.id == id));
    let half = meter.map_or(usual * reading, |meter| meter.reading_ratio * reading + meter.absolute);
    (half / 3f64.sqrt() / reading, meter.map(|meter| meter.id.clone()))
}

fn load_relative(file: &File, run: &Run) -> f64 {
    match run.load_measured_ohm {
        Some(ohm) => relative(file, "resistance", ohm, None, if ohm < 1.0 { 0.02 } else { 0.01 }).0,
        None => 0.05 / 3f64.sqrt(),
    }
}

/// A quantity, and the meter that read it.
type Meter = (&'static str, Option<String>);

/// Watts of an output, their standard uncertainty, and which meter they hang on.
fn watts(file: &File, run: &Run, output: &Output) -> Option<(f64, f64, Meter)> {
    if let Some(w) = run.read("power_w", output.power_w) {
        let (u, meter) = relative(file, "power", w, output.meter.as_deref(), 0.02);
        return Some((w, w * u, ("power", meter)));
    }
    let volts = [
        (run.read("volts_rms", output.volts_rms), 1.0, 0.01),
        (run.read("volts_peak", output.volts_peak), 2.0, 0.03),
        (run.read("volts_pp", output.volts_pp), 8.0, 0.03),
    ];
    let (v, part, usual) = volts.into_iter().find_map(|(v, part, usual)| Some((v?, part, usual)))?;
    let (u, meter) = relative(file, "voltage", v, output.meter.as_deref(), usual);
    let w = v * v / (part * run.ohm());
    Some((w, w * (2.0 * u).hypot(load_relative(file, run)), ("voltage", meter)))
}

/// Total, expanded uncertainty, and each output.
fn total(file: &File, run: &Run, outputs: &[&Output]) -> Option<(f64, f64, Vec<f64>)> {
    let mut by_meter: BTreeMap<Meter, f64> = BTreeMap::new();
    let mut each = Vec::new();
    for output in outputs {
        let (w, u, meter) = watts(file, run, output)?;
        each.push(w);
        *by_meter.entry(meter).or_default() += u;
    }
    let scale = run.wiring.outputs() / each.len() as f64;
    let u = by_meter.values().map(|u| u * u).sum::<f64>().sqrt();
    (!each.is_empty()).then(|| (each.iter().sum::<f64>() * scale, 2.0 * u * scale, each))
}

fn mix(a: f64, b: f64, part: f64) -> f64 {
    a + (b - a) * part
}

fn stepped(file: &File, run: &Run) -> Option<Figures> {
    let mut steps: Vec<_> = run.steps.iter().collect();
    steps.sort_by(|a, b| a.level_db.total_cmp(&b.level_db));
    let limit = file.policy.thd_limit_ratio;
    let outputs = |i: usize| total(file, run, &steps[i].outputs.iter().collect::<Vec<_>>());
    let own_v = |i: usize| run.read("end_v", steps[i].end_v);
    let own_a = |i: usize| run.read("current_a", steps[i].current_a);
    let (run_v, run_a) = (run.read("end_v", run.end_v), run.read("current_a", run.current_a));
    let pair = (1..steps.len()).find(|i| steps[i - 1].thd_ratio <= limit && steps[*i].thd_ratio > limit);
    if let Some(i) = pair {
        let (low, high) = (outputs(i - 1)?, outputs(i)?);
        let (a, b) = (steps[i - 1].thd_ratio.ln(), steps[i].thd_ratio.ln());
        let part = (limit.ln() - a) / (b - a);
        let maybe = |a: Option<f64>, b: Option<f64>, run: Option<f64>| match (a, b) {
            (Some(a), Some(b)) => Some(mix(a, b, part)),
            (one, other) => one.or(other).or(run),
        };
        return Some(Figures {
            total_w: mix(low.0, high.0, part),
            u_w: mix(low.1, high.1, part),
            outputs_w: low.2.iter().zip(&high.2).map(|(a, b)| mix(*a, *b, part)).collect(),
            read_v: maybe(own_v(i - 1), own_v(i), run_v),
            current_a: maybe(own_a(i - 1), own_a(i), run_a),
            ..Figures::default()
        });
    }
    let inside = (0..steps.len()).filter(|i| steps[*i].thd_ratio <= limit);
    let best = inside.max_by(|a, b| outputs(*a).map_or(0.0, |t| t.0).total_cmp(&outputs(*b).map_or(0.0, |t| t.0)))?;
    let (total_w, u_w, outputs_w) = outputs(best)?;
    Some(Figures {
        total_w,
        u_w,
        outputs_w,
        lower: true,
        read_v: own_v(best).or(run_v),
        current_a: own_a(best).or(run_a),
        ..Figures::default()
    })
}

/// The figures of a run, where a total can be made.
pub fn figures(file: &File, run: &Run) -> Option<Figures> {
    let (read_v, current_a) = (run.read("end_v", run.end_v), run.read("current_a", run.current_a));
    let mut found = if !run.steps.is_empty() {
        stepped(file, run)?
    } else if let Some(cycles) = &run.cycles {
        let first = total(file, run, &[&cycles.first])?;
        let last = match &cycles.last {
            Some(last) => total(file, run, &[last])?,
            None => first.clone(),
        };
        let best_w = Some(first.0.max(last.0));
        let (total_w, u_w, outputs_w) = if first.0 <= last.0 { first } else { last };
        Figures { total_w, u_w, outputs_w, best_w, read_v, current_a, ..Figures::default() }
    } else {
        let (total_w, u_w, outputs_w) = total(file, run, &run.outputs.iter().collect::<Vec<_>>())?;
        Figures { total_w, u_w, outputs_w, read_v, current_a, ..Figures::default() }
    };
    supply(file, run, &mut found);
    Some(found)
}

/// Rest before a run: its own, else the plan's.
pub fn rest(file: &File, run: &Run) -> Option<f64> {
    run.read("rest_v", run.rest_v).or(file.plan.rest_v)
}

/// Volts, draw and efficiency.
fn supply(file: &File, run: &Run, found: &mut Figures) {
    let steady = run.mode != "dynamic";
    let eta = run.efficiency_read_ratio.filter(|_| steady);
    found.end_v = found.read_v;
    if let (None, Some(a), Some(eta)) = (found.read_v, found.current_a, eta) {
        let v = found.total_w / (eta * a);
        found.implied_v = Some(v);
        if v >= 8.0 && v <= rest(file, run).map_or(18.0, |rest| rest + 0.5) {
            let (p, i) = (found.u_w / 2.0 / found.total_w, relative(file, "current", a, None, 0.02).0);
            (found.end_v, found.made_u) = (Some(v), Some((p * p + 0.02 * 0.02 / 3.0 + i * i).sqrt()));
        }
    }
    found.input_w = found.end_v.zip(found.current_a).map(|(v, a)| v * a).or(eta.map(|eta| found.total_w / eta));
    found.efficiency = found.input_w.filter(|_| steady).map(|drawn| found.total_w / drawn);
    found.sag_v = run.read("rest_v", run.rest_v).zip(found.read_v).map(|(rest, end)| rest - end);
}
