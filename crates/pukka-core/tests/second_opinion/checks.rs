//! Which checks fire, by the second judge: those of one run, of neighbours, of modes and of equivalents. What a claim's use of a
//! run adds to them comes with the verdict.

use super::figures::{Figures, figures, relative, rest};
use super::read::{File, Output, Run, Wired};

/// Comparisons allow a relative 10⁻⁹.
const SLACK: f64 = 1e-9;

pub fn more(a: f64, b: f64) -> bool {
    a > b + SLACK * a.abs().max(b.abs())
}

pub fn at_least(a: f64, b: f64) -> bool {
    !more(b, a)
}

pub fn same_ohm(ohm: f64, asked: f64) -> bool {
    (ohm - asked).abs() <= (0.02 + SLACK) * asked
}

#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct Fired {
    pub code: &'static str,
    pub severity: &'static str,
    pub runs: Vec<String>,
    pub settled: bool,
}

impl Fired {
    pub fn new(code: &'static str, severity: &'static str, runs: &[&Run]) -> Self {
        let mut ids: Vec<String> = runs.iter().map(|run| run.id.clone()).collect();
        ids.sort();
        Self { code, severity, runs: ids, settled: runs.iter().any(|run| run.accepts(code)) }
    }
}

/// Runs that stand: not invalid, not replaced by one that stands.
pub fn standing(file: &File) -> Vec<&Run> {
    let replaced = |run: &Run| file.runs.iter().any(|other| other.valid && other.supersedes.as_ref() == Some(&run.id));
    file.runs.iter().filter(|run| run.valid && !replaced(run)).collect()
}

/// Several runs as one: by the policy.
#[derive(Clone)]
pub struct Chosen<'a> {
    pub runs: Vec<&'a Run>,
    pub w: f64,
    /// Expanded, of the power.
    pub u: f64,
    pub v: Option<f64>,
    /// Least and most it may be at a claim's voltage, when it was not read.
    pub rests: Vec<Option<f64>>,
    /// A span that lies between two loads.
    pub between: Option<(f64, f64)>,
    /// Standard uncertainty of volts that were made.
    pub made_u: Option<f64>,
    pub lower: bool,
    pub efficiency: Option<f64>,
}

pub fn by_policy<'a>(file: &File, mut runs: Vec<(&'a Run, Figures)>) -> Option<Chosen<'a>> {
    let one = |(run, f): &(&'a Run, Figures)| Chosen {
        runs: vec![*run],
        w: f.total_w,
        u: f.u_w / f.total_w,
        v: f.end_v,
        rests: vec![rest(file, run)],
        between: None,
        made_u: f.made_u,
        lower: f.lower,
        efficiency: f.efficiency,
    };
    runs.sort_by(|a, b| a.0.at.cmp(&b.0.at));
    match file.policy.repeats.as_str() {
        "first" => return runs.first().map(one),
        "best" => return runs.iter().rev().max_by(|a, b| a.1.total_w.total_cmp(&b.1.total_w)).map(one),
        _ if runs.len() < 2 => return runs.first().map(one),
        _ => {}
    }
    let n = runs.len() as f64;
    let mean = |each: Vec<f64>| (!each.is_empty()).then(|| each.iter().sum::<f64>() / each.len() as f64);
    let w = runs.iter().map(|(_, f)| f.total_w).sum::<f64>() / n;
    let largest = runs.iter().map(|(_, f)| f.u_w / f.total_w).fold(0.0, f64::max);
    let s = (runs.iter().map(|(_, f)| (f.total_w - w).powi(2)).sum::<f64>() / (n - 1.0)).sqrt();
    Some(Chosen {
        w,
        u: if runs.len() >= 3 { largest.hypot(2.0 * s / n.sqrt() / w) } else { largest },
        v: mean(runs.iter().filter_map(|(_, f)| f.end_v).collect()),
        rests: runs.iter().map(|(run, _)| rest(file, run)).collect(),
        between: None,
        made_u: runs.iter().filter_map(|(_, f)| f.made_u).reduce(f64::max),
        lower: runs.iter().any(|(_, f)| f.lower),
        efficiency: mean(runs.iter().filter_map(|(_, f)| f.efficiency).collect()),
        runs: runs.into_iter().map(|(run, _)| run).collect(),
    })
}

fn alone(file: &File, run: &Run) -> Vec<Fired> {
    let mut fired = Vec::new();
    let mut fire = |when: bool, code, severity| {
        if when {
            fired.push(Fired::new(code, severity, &[run]));
        }
    };
    let found = figures(file, run);
    let efficiency = found.as_ref().and_then(|f| f.efficiency).unwrap_or(0.0);
    let ceiling = match file.amplifier.class.as_str() {
        "AB" => 0.785,
        "D" => 0.95,
        _ => f64::INFINITY,
    };
    fire(more(efficiency, 1.0), "over-unity", "stop");
    fire(more(efficiency, ceiling) && !more(efficiency, 1.0), "class-ceiling", "doubt");
    let rms = |o: &Output| {
        let round = |v: Option<f64>| v.filter(|_| run.mode != "clipping");
        let peak = || round(run.read("volts_peak", o.volts_peak)).map(|v| v / 2f64.sqrt());
        run.read("volts_rms", o.volts_rms).or_else(peak).or_else(|| round(run.read("volts_pp", o.volts_pp)).map(|v| v / 8f64.sqrt()))
    };
    let both = run.outputs.iter().filter_map(|o| Some((run.read("power_w", o.power_w)?, rms(o)?)));
    let off = both.map(|(w, v)| v * v / w / run.ohm()).map(|off| off.max(1.0 / off)).fold(1.0, f64::max);
    fire(more(off, 1.2), "load-mismatch", "stop");
    fire(more(off, 1.06) && !more(off, 1.2), "load-mismatch", "doubt");
    let past = run.read("thd_ratio", run.thd_ratio).is_some_and(|thd| more(thd, file.policy.thd_limit_ratio));
    fire(past && run.mode == "certified" && run.steps.is_empty(), "distortion-over-limit", "stop");
    let by_itself = (run.read("end_v", run.end_v), run.read("end_v", run.end_v), run.read("current_a", run.current_a));
    let (end_v, read_v, amps) = found.as_ref().map_or(by_itself, |f| (f.end_v, f.read_v, f.current_a));
    fire(end_v.is_none() && run.mode == "certified", "no-supply-volts", "note");
    fire(run.read("rest_v", run.rest_v).zip(read_v).is_some_and(|(rest, end)| end > rest), "voltage-rose", "doubt");
    let rested = rest(file, run);
    let strange = read_v.is_some_and(|v| rested.map_or(!(9.0..=17.0).contains(&v), |rest| more(rest - v, 3.0)));
    fire(strange, "supply-range", "doubt");
    fire(run.charger_on == Some(true), "charger-on", "note");
    let implied = found.as_ref().and_then(|f| f.implied_v);
    fire(implied.is_some_and(|v| v < 8.0 || more(v, rested.map_or(18.0, |rest| rest + 0.5))), "implied-volts", "stop");
    let watts = found.as_ref().map_or(0.0, |f| f.total_w);
    let known = found.as_ref().is_some_and(|f| f.efficiency.is_some());
    fire(known && more(0.25, efficiency) && more(watts, 20.0), "low-efficiency", "doubt");
    let apart = run.efficiency_read_ratio.filter(|_| read_v.is_some() && amps.is_some() && known && run.mode != "dynamic");
    fire(apart.is_some_and(|eta| more((eta - efficiency).abs(), 0.05)), "efficiency-disagrees", "doubt");
    fire(more(amps.unwrap_or(0.0), file.amplifier.fuses_a.iter().sum()), "fuse", "doubt");
    fire(more(found.and_then(|f| f.balance_db()).unwrap_or(0.0), 0.5), "balance", "note");
    fired
}

struct Place<'a> {
    wiring: Wired,
    mode: &'a str,
    tone_hz: f64,
    kind: Option<u32>,
    ohm: f64,
    chosen: Chosen<'a>,
}

impl Place<'_> {
    fn like(&self, other: &Self) -> bool {
        self.mode == other.mode && self.kind == other.kind && self.tone_hz == other.tone_hz
    }
}

/// Every place with its run by the policy.
fn places<'a>(file: &'a File, runs: &[&'a Run]) -> Vec<Place<'a>> {
    let mut places: Vec<Place> = Vec::new();
    let key = |run: &'a Run| (run.wiring, run.mode.as_str(), run.tone_hz, run.kind(), run.load_nominal_ohm);
    for run in runs {
        if places.iter().any(|p| (p.wiring, p.mode, p.tone_hz, p.kind, p.ohm) == key(run)) {
            continue;
        }
        let here = runs.iter().filter(|other| key(other) == key(run)).filter_map(|run| Some((*run, figures(file, run)?))).collect();
        if let Some(chosen) = by_policy(file, here) {
            let kind = run.kind();
            places.push(Place { wiring: run.wiring, mode: &run.mode, tone_hz: run.tone_hz, kind, ohm: run.load_nominal_ohm, chosen });
        }
    }
    places.sort_by(|a, b| b.ohm.total_cmp(&a.ohm));
    places
}

fn pair(code: &'static str, severity: &'static str, a: &Place, b: &Place) -> Fired {
    Fired::new(code, severity, &[a.chosen.runs.as_slice(), b.chosen.runs.as_slice()].concat())
}

fn neighbours(file: &File, high: &Place, low: &Place) -> Vec<Fired> {
    let mut fired = Vec::new();
    let (a, b) = (&high.chosen, &low.chosen);
    if a.efficiency.zip(b.efficiency).is_some_and(|(a, b)| more(b - a, 0.05)) {
        fired.push(pair("efficiency-rises", "doubt", high, low));
    }
    let squared = a.v.zip(b.v).map(|(a, b)| (b / a).powi(2));
    let s = match file.amplifier.supply_type.as_str() {
        "unregulated" => squared.unwrap_or(1.0),
        _ => squared.unwrap_or(1.0).max(1.0),
    };
    let most = a.runs[0].ohm() / b.runs[0].ohm() * s * 1.05;
    if high.mode != "dynamic" && more(0.9, b.w / a.w) {
        fired.push(pair("power-falls", "doubt", high, low));
    }
    if more(b.w / a.w, most) {
        fired.push(pair("power-step", if more(b.w / a.w, 1.25 * most) { "stop" } else { "doubt" }, high, low));
    }
    fired
}

/// Second meters: of each reading beside another, the meter and quantity, its error, its limits, and what both explain.
fn beside(file: &File, run: &Run) -> Vec<(Option<String>, &'static str, f64, f64, f64)> {
    let mut all = Vec::new();
    let mut add = |quantity, what, usual: f64, (a, by_a): (f64, Option<&str>), (b, by_b): (f64, Option<&str>)| {
        let half = |v: f64, by| relative(file, quantity, v, by, usual).0 * v * 3f64.sqrt();
        let (one, two) = (half(a, by_a), half(b, by_b));
        all.push((by_b.map(str::to_owned), what, b - a, two, 2.0 * (one * one / 3.0 + two * two / 3.0).sqrt()));
    };
    for o in run.outputs.iter().chain(run.steps.iter().flat_map(|step| &step.outputs)) {
        for also in &o.also {
            let by = (o.meter.as_deref(), also.meter.as_deref());
            if let Some((a, b)) = run.read("power_w", o.power_w).zip(also.power_w) {
                add("power", "watts", 0.02, (a, by.0), (b, by.1));
            } else if let Some((a, b)) = run.read("volts_rms", o.volts_rms).zip(also.volts_rms) {
                add("voltage", "rms", 0.01, (a, by.0), (b, by.1));
            }
        }
    }
    for also in &run.supply_also {
        if let Some((a, b)) = run.read("current_a", run.current_a).zip(also.current_a) {
            add("current", "amps", 0.02, (a, None), (b, also.meter.as_deref()));
        }
    }
    all
}

fn meters(file: &File, runs: &[&Run]) -> Vec<Fired> {
    let all: Vec<_> = runs.iter().map(|run| (*run, beside(file, run))).collect();
    let mut of: Vec<(String, &'static str)> =
        all.iter().flat_map(|(_, read)| read).filter_map(|(by, what, ..)| Some((by.clone()?, *what))).collect();
    of.sort();
    of.dedup();
    let mut fired = Vec::new();
    let mut biased: Vec<(String, &'static str, Vec<String>)> = Vec::new();
    for (by, what) in of {
        let worst = |read: &[(Option<String>, &'static str, f64, f64, f64)]| {
            let own = read.iter().filter(|one| one.0.as_ref() == Some(&by) && one.1 == what).cloned();
            own.max_by(|a, b| (a.2.abs() / a.4).total_cmp(&(b.2.abs() / b.4)))
        };
        let off: Vec<_> =
            all.iter().filter_map(|(run, read)| Some((*run, worst(read)?))).filter(|(_, one)| more(one.2.abs(), one.3)).collect();
        let high = off.iter().filter(|(_, one)| one.2 > 0.0).count();
        if off.len() >= 3 && (high == 0 || high == off.len()) {
            let named: Vec<&Run> = off.iter().map(|(run, _)| *run).collect();
            biased.push((by.clone(), what, named.iter().map(|run| run.id.clone()).collect()));
            fired.push(Fired::new("meter-biased", "doubt", &named));
        }
    }
    for (run, read) in &all {
        let told = |one: &(Option<String>, &'static str, f64, f64, f64)| {
            biased.iter().any(|(by, what, runs)| one.0.as_ref() == Some(by) && one.1 == *what && runs.contains(&run.id))
        };
        if read.iter().any(|one| !told(one) && more(one.2.abs(), one.4)) {
            fired.push(Fired::new("meters-disagree", "doubt", &[run]));
        }
    }
    fired
}

/// Every check that needs no claim.
pub fn checks(file: &File) -> Vec<Fired> {
    let runs = standing(file);
    let mut fired: Vec<Fired> = runs.iter().flat_map(|run| alone(file, run)).collect();
    fired.extend(meters(file, &runs));
    let places = places(file, &runs);
    for (i, a) in places.iter().enumerate() {
        if let Some(next) = places[i + 1..].iter().find(|b| b.wiring == a.wiring && b.like(a)) {
            fired.extend(neighbours(file, a, next));
        }
        for b in &places {
            if a.mode == "certified" && b.mode != "certified" && (b.wiring, b.tone_hz, b.ohm) == (a.wiring, a.tone_hz, a.ohm) {
                let (x, y) = (&a.chosen, &b.chosen);
                if more(x.w - y.w, (x.w * x.u).hypot(y.w * y.u)) {
                    fired.push(pair("mode-order", "doubt", a, b));
                }
            }
            let twins = matches!(a.wiring, Wired::Channels { .. })
                && a.wiring.twin(a.ohm).is_some_and(|(w, ohm)| w == b.wiring && same_ohm(b.ohm, ohm));
            if twins && a.like(b) {
                let (x, y) = (&a.chosen, &b.chosen);
                let apart = x.efficiency.zip(y.efficiency).is_some_and(|(x, y)| more((x - y).abs(), 0.05));
                if more((x.w / y.w).max(y.w / x.w), 1.1) || apart {
                    fired.push(pair("equivalents-disagree", "doubt", a, b));
                }
            }
        }
    }
    for (i, a) in runs.iter().enumerate() {
        for b in &runs[i + 1..] {
            let amps = |run: &Run| run.read("current_a", run.current_a);
            let watts = |run| figures(file, run).map(|f| f.total_w);
            let second = |run: &Run| -> Vec<(Option<String>, u8, f64)> {
                let outputs = run.outputs.iter().flat_map(|o| &o.also).flat_map(|also| {
                    let read = [also.power_w, also.volts_rms, also.volts_peak, also.volts_pp];
                    read.into_iter().zip(0..).filter_map(|(read, n)| Some((also.meter.clone(), n, read?)))
                });
                let clamps = run.supply_also.iter().filter_map(|also| Some((also.meter.clone(), 9, also.current_a?)));
                outputs.chain(clamps).collect()
            };
            let same = amps(a).is_some() && amps(a) == amps(b) || second(a).iter().any(|one| second(b).contains(one));
            if same && watts(a).zip(watts(b)).is_some_and(|(a, b)| more((a / b).max(b / a), 1.03)) {
                fired.push(Fired::new("repeated-reading", "doubt", &[a, b]));
            }
        }
    }
    fired
}
