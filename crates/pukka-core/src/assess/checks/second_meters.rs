//! Two meters on one quantity: readings that differ by more than both explain, and a meter that is off to one side.

use crate::assess::checks::thresholds;
use crate::assess::checks::{Check, Finding};
use crate::evidence::standing::RunEvidence;
use crate::evidence::uncertainty::{self, half_width};
use crate::kernel::format;
use crate::kernel::units::more_than;
use crate::record::bench::Quantity;
use crate::record::session::{CheckCode, OutputReading, ReadingName, Run, SecondReading, Session};

/// Two readings of one quantity, what they are in, and the half-width of each one's limits.
#[derive(Clone)]
struct MeterPair<'a> {
    /// The second meter, where it is named.
    second: Option<&'a str>,
    what: &'static str,
    unit: &'static str,
    values: [f64; 2],
    limits: [f64; 2],
}

impl MeterPair<'_> {
    /// 2·√(ua² + ub²), limits rectangular.
    fn allowed(&self) -> f64 {
        2.0 * uncertainty::quadrature(self.limits.map(|a| a / 3f64.sqrt()))
    }

    /// Distance of the second from the first.
    fn error(&self) -> f64 {
        self.values[1] - self.values[0]
    }

    /// Distance between them, over what both explain.
    fn apart(&self) -> f64 {
        self.error().abs() / self.allowed()
    }

    /// Whether the second is off by more than its own limits.
    fn is_off(&self) -> bool {
        more_than(self.error().abs() / self.limits[1], thresholds::BIAS.get())
    }

    fn is_of(&self, bias: &Bias) -> bool {
        self.second == Some(bias.meter) && self.what == bias.what
    }
}

/// A meter that is off to one side, in these runs.
struct Bias<'a> {
    meter: &'a str,
    what: &'static str,
    runs: Vec<&'a Run>,
    /// Mean error, of the first meter's reading.
    mean: f64,
}

/// Checks second meters: one finding for a meter that is off to one side, in place of one on each of its runs.
pub(super) fn check(session: &Session, seen: &[RunEvidence]) -> Vec<Check> {
    let of_runs: Vec<(&Run, Vec<MeterPair>)> = seen.iter().map(|one| (one.run, pairs(session, one.run))).collect();
    let biased = biased(&of_runs);
    let mut checks: Vec<Check> = biased.iter().map(|bias| finding_of(bias).on(&bias.runs)).collect();
    for (run, pairs) in &of_runs {
        let told = |pair: &&MeterPair| biased.iter().any(|bias| pair.is_of(bias) && bias.runs.iter().any(|other| other.id == run.id));
        let left = pairs.iter().filter(|pair| !told(pair));
        checks.extend(left.max_by(|a, b| a.apart().total_cmp(&b.apart())).and_then(disagree).map(|found| found.on(&[run])));
    }
    checks
}

fn disagree(worst: &MeterPair) -> Option<Finding> {
    more_than(worst.apart(), thresholds::METERS.get()).then(|| {
        Finding::past(
            CheckCode::MetersDisagree,
            thresholds::METERS,
            format!(
                "{} and {} {} of {}: {} apart, their limits explain {} at the most.",
                format::as_read(worst.values[0]),
                format::as_read(worst.values[1]),
                worst.unit,
                worst.what,
                format::with_unit(&format::significant(worst.error().abs(), 3), worst.unit),
                format::with_unit(&format::significant(worst.allowed(), 3), worst.unit),
            ),
        )
    })
}

fn biased<'a>(of_runs: &[(&'a Run, Vec<MeterPair<'a>>)]) -> Vec<Bias<'a>> {
    let mut known: Vec<(&str, &'static str)> = Vec::new();
    for pair in of_runs.iter().flat_map(|(_, pairs)| pairs) {
        if let Some(meter) = pair.second.filter(|meter| !known.contains(&(*meter, pair.what))) {
            known.push((meter, pair.what));
        }
    }
    known.into_iter().filter_map(|(meter, what)| bias(of_runs, meter, what)).collect()
}

fn bias<'a>(of_runs: &[(&'a Run, Vec<MeterPair<'a>>)], meter: &'a str, what: &'static str) -> Option<Bias<'a>> {
    let own = |pairs: &[MeterPair<'a>]| -> Option<MeterPair<'a>> {
        let pairs = pairs.iter().filter(|pair| pair.second == Some(meter) && pair.what == what);
        pairs.max_by(|a, b| a.apart().total_cmp(&b.apart())).cloned()
    };
    let off: Vec<(&Run, MeterPair)> =
        of_runs.iter().filter_map(|(run, pairs)| Some((*run, own(pairs)?))).filter(|(_, pair)| pair.is_off()).collect();
    let first = off.first()?.1.error().is_sign_positive();
    let one_side = off.iter().all(|(_, pair)| pair.error().is_sign_positive() == first);
    let enough = off.len() as f64 >= thresholds::BIASED_RUNS.get();
    let mean = off.iter().map(|(_, pair)| pair.error() / pair.values[0]).sum::<f64>() / off.len() as f64;
    (one_side && enough).then(|| Bias { meter, what, runs: off.into_iter().map(|(run, _)| run).collect(), mean })
}

fn finding_of(bias: &Bias) -> Finding {
    let side = if bias.mean > 0.0 { "high" } else { "low" };
    let says = format!(
        "“{}” reads {side} ({}) by more than its limits in {} runs, {} % on average.",
        bias.meter,
        bias.what,
        bias.runs.len(),
        format::fixed(100.0 * bias.mean.abs(), 1)
    );
    Finding::past(CheckCode::MeterBiased, thresholds::BIAS, says)
}

/// Whether all meters on a quantity of a run agree within what both explain; nothing where there is only one.
pub fn agree(session: &Session, run: &Run, quantity: &str) -> Option<bool> {
    let found = pairs(session, run);
    let mut of_it = found.iter().filter(|pair| pair.what.starts_with(quantity)).peekable();
    of_it.peek()?;
    Some(of_it.all(|pair| !more_than(pair.apart(), thresholds::METERS.get())))
}

/// Every quantity of a run that two meters read: at its outputs, at its level steps, at the supply.
fn pairs<'a>(session: &Session, run: &'a Run) -> Vec<MeterPair<'a>> {
    let stepped = run.steps.iter().flat_map(|step| &step.outputs);
    let outputs = run.outputs.iter().chain(stepped);
    let outputs = outputs.flat_map(|output| output.also.iter().filter_map(|second| of_output(session, run, output, second)));
    let supply = run.supply_also.iter().filter_map(|second| {
        let named = second.meter.as_deref();
        let pair = |what, unit, quantity, default: f64, values: [f64; 2]| {
            let limits = [limits(session, None, quantity, values[0], default), limits(session, named, quantity, values[1], default)];
            MeterPair { second: named, what, unit, values, limits }
        };
        match (run.end_volts().zip(second.end_v), run.amps().zip(second.current_a)) {
            (Some((a, b)), _) => Some(pair("supply volts", "V", Quantity::SupplyVoltage, uncertainty::SUPPLY_VOLTS, [a.get(), b.get()])),
            (_, Some((a, b))) => Some(pair("supply amps", "A", Quantity::Current, uncertainty::AMPS, [a.get(), b.get()])),
            _ => None,
        }
    });
    outputs.chain(supply).collect()
}

fn limits(session: &Session, named: Option<&str>, quantity: Quantity, reading: f64, default: f64) -> f64 {
    half_width(session.bench.meter(named, quantity), reading, default)
}

fn of_output<'a>(session: &Session, run: &Run, own: &OutputReading, second: &'a SecondReading) -> Option<MeterPair<'a>> {
    let named = [own.meter.as_deref(), second.meter.as_deref()];
    let both = |what, unit, quantity, default: f64, values: [f64; 2]| {
        let limits = [limits(session, named[0], quantity, values[0], default), limits(session, named[1], quantity, values[1], default)];
        MeterPair { second: second.meter.as_deref(), what, unit, values, limits }
    };
    let unstruck = |name: ReadingName| !run.is_struck(name);
    if let Some((a, b)) = own.power_w.zip(second.power_w).filter(|_| unstruck(ReadingName::Power)) {
        return Some(both("output", "W", Quantity::Power, uncertainty::WATTS, [a.get(), b.get()]));
    }
    if let Some((a, b)) = own.volts_rms.zip(second.volts_rms).filter(|_| unstruck(ReadingName::VoltsRms)) {
        return Some(both("output, rms", "V", Quantity::Voltage, uncertainty::VOLTS_RMS, [a.get(), b.get()]));
    }
    if let Some((a, b)) = own.volts_peak.zip(second.volts_peak).filter(|_| unstruck(ReadingName::VoltsPeak)) {
        return Some(both("output, peak", "V", Quantity::Voltage, uncertainty::SCOPE, [a.get(), b.get()]));
    }
    let (a, b) = own.volts_pp.zip(second.volts_pp).filter(|_| unstruck(ReadingName::VoltsPeakToPeak))?;
    Some(both("output, peak to peak", "V", Quantity::Voltage, uncertainty::SCOPE, [a.get(), b.get()]))
}
