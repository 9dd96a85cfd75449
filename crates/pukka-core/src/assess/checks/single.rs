//! Checks on one run by itself.

use crate::assess::checks::places::RunEvidence;
use crate::assess::checks::thresholds::{self, Threshold};
use crate::assess::checks::{Check, Finding};
use crate::evidence::uncertainty::{self, half_width};
use crate::kernel::format;
use crate::kernel::units::{PowerDecibels, more_than};
use crate::record::amplifier::Class;
use crate::record::bench::{Meter, Quantity};
use crate::record::session::{CheckCode, Method, Mode, OutputReading, ReadingName, Run, SecondReading, Session};

type Rule = fn(&Session, &RunEvidence) -> Option<Finding>;

/// In the order they are shown.
const RULES: [Rule; 10] =
    [over_unity, distortion_over_limit, load_mismatch, class_ceiling, voltage_rose, meters_disagree, fuse, hot, balance, no_supply_volts];

/// Checks one run by itself.
pub(super) fn check(session: &Session, seen: &RunEvidence) -> Vec<Check> {
    RULES.iter().filter_map(|rule| rule(session, seen)).map(|found| found.on(&[seen.run])).collect()
}

fn over_unity(_: &Session, seen: &RunEvidence) -> Option<Finding> {
    let ratio = seen.numbers.efficiency.filter(|ratio| more_than(*ratio, thresholds::MOST_EFFICIENCY.get()))?;
    let says = match (&seen.numbers.total, seen.numbers.input_w) {
        (Ok(total), Some(input)) => format!(
            "{} W out of {} W in is an efficiency of {} %, which cannot be.",
            format::watts(total.total_w),
            format::watts(input.get()),
            format::percent(ratio)
        ),
        _ => format!("An efficiency of {} % cannot be.", format::percent(ratio)),
    };
    Some(Finding::past(CheckCode::OverUnity, thresholds::MOST_EFFICIENCY, says))
}

/// Efficiency above which a class does not go.
fn ceiling(class: Class) -> Option<Threshold> {
    match class {
        Class::AB => Some(thresholds::CEILING_AB),
        Class::D => Some(thresholds::CEILING_D),
        Class::GH | Class::Other => None,
    }
}

fn class_ceiling(session: &Session, seen: &RunEvidence) -> Option<Finding> {
    let ceiling = ceiling(session.amplifier.class)?;
    let possible = |ratio: &f64| !more_than(*ratio, thresholds::MOST_EFFICIENCY.get());
    let ratio = seen.numbers.efficiency.filter(|ratio| more_than(*ratio, ceiling.get())).filter(possible)?;
    Some(Finding::past(
        CheckCode::ClassCeiling,
        ceiling,
        format!(
            "{} % is above the {} % that {} can reach.",
            format::percent(ratio),
            format::as_read(ceiling.get() * 100.0),
            session.amplifier.class.words()
        ),
    ))
}

fn voltage_rose(_: &Session, seen: &RunEvidence) -> Option<Finding> {
    let sag = seen.numbers.sag_v.filter(|sag| -*sag > thresholds::RISE.get())?;
    let remedy = if seen.run.charger_on == Some(true) {
        "The charger is on, and lifts the voltage: turn it off, let the bank rest, repeat the run."
    } else {
        "A charger came on, or rest and end were swapped."
    };
    Some(
        Finding::past(CheckCode::VoltageRose, thresholds::RISE, format!("{} V more at the end than at rest.", format::volts(-sag)))
            .remedy(remedy),
    )
}

fn no_supply_volts(_: &Session, seen: &RunEvidence) -> Option<Finding> {
    seen.numbers
        .end_v
        .is_none()
        .then(|| Finding::past(CheckCode::NoSupplyVolts, thresholds::MISSING, "Nothing can be said about the claim's voltage."))
}

fn load_mismatch(_: &Session, seen: &RunEvidence) -> Option<Finding> {
    let run = seen.run;
    let load = run.load().get();
    if run.is_struck(ReadingName::Power) || run.is_struck(ReadingName::VoltsRms) {
        return None;
    }
    let worst = run
        .outputs
        .iter()
        .filter_map(|output| {
            let (watts, volts) = (output.power_w?.get(), output.volts_rms?.get());
            (watts > 0.0 && volts > 0.0).then(|| volts * volts / watts)
        })
        .map(|seen| (seen, (seen / load).max(load / seen)))
        .max_by(|a, b| a.1.total_cmp(&b.1))?;
    let past = [thresholds::LOAD_STOP, thresholds::LOAD_DOUBT].into_iter().find(|threshold| more_than(worst.1, threshold.get()))?;
    Some(Finding::past(
        CheckCode::LoadMismatch,
        past,
        format!(
            "Together they make a load of {} Ω, and it is {} Ω: {} % apart.",
            format::ohms(worst.0),
            format::ohms(load),
            format::fixed(100.0 * (worst.1 - 1.0), 0)
        ),
    ))
}

fn distortion_over_limit(session: &Session, seen: &RunEvidence) -> Option<Finding> {
    let run = seen.run;
    if run.mode != Mode::Certified || run.method == Some(Method::Steps) || run.is_struck(ReadingName::Distortion) {
        return None;
    }
    let limit = run.limit_ratio.unwrap_or(session.policy.thd_limit_ratio).get();
    let thd = run.thd_ratio.filter(|thd| more_than(thd.get(), limit))?.get();
    Some(Finding::past(
        CheckCode::DistortionOverLimit,
        thresholds::DISTORTION,
        format!("{} % distortion is no certified run at a limit of {} %.", format::as_read(thd * 100.0), format::as_read(limit * 100.0)),
    ))
}

fn balance(_: &Session, seen: &RunEvidence) -> Option<Finding> {
    let total = seen.numbers.total.as_ref().ok()?;
    let db = total.balance().map(PowerDecibels::get).filter(|db| more_than(*db, thresholds::BALANCE.get()))?;
    let weakest = total.outputs.iter().enumerate().min_by(|a, b| a.1.power_w.total_cmp(&b.1.power_w))?;
    let name = seen.run.outputs.get(weakest.0).and_then(|output| output.name.clone()).unwrap_or_else(|| (weakest.0 + 1).to_string());
    Some(Finding::past(
        CheckCode::Balance,
        thresholds::BALANCE,
        format!("{} dB between the strongest and the weakest; output {name} is the weakest.", format::fixed(db, 2)),
    ))
}

fn fuse(session: &Session, seen: &RunEvidence) -> Option<Finding> {
    let amps = seen.numbers.current_a?.get();
    let fuses = session.amplifier.supply_fuse_a()?;
    if !more_than(amps / fuses, thresholds::FUSES.get()) {
        return None;
    }
    Some(
        Finding::past(
            CheckCode::Fuse,
            thresholds::FUSES,
            format!(
                "{} A through {} A of fuse, {} %: {}",
                format::amps(amps),
                format::as_read(fuses),
                format::fixed(100.0 * amps / fuses, 0),
                blade_fuse(amps / fuses),
            ),
        )
        .remedy(if amps / fuses > BORNE { "Rest before you repeat the run. Never a larger fuse." } else { "Never a larger fuse." }),
    )
}

/// The multiple of its rating that a blade fuse bears for long.
const BORNE: f64 = 1.10;

/// What a typical blade fuse does at a multiple of its rating.
///
/// Ref: ISO 8820-3, operating time limits of blade fuses: 110 % not within 100 h; 135 % 0.75 s to 10 min;
/// 160 % 0.25 to 50 s; 200 % 0.15 to 5 s; 350 % 40 ms to 0.5 s.
#[must_use]
pub fn blade_fuse(multiple: f64) -> &'static str {
    match multiple {
        m if m <= BORNE => "a blade fuse bears that for long.",
        m if m < 1.35 => "it may open within minutes.",
        m if m < 1.60 => "a blade fuse opens in 0.75 s to 10 min.",
        m if m < 2.00 => "a blade fuse opens in 0.25 to 50 s.",
        m if m < 3.50 => "a blade fuse opens in 0.15 to 5 s.",
        _ => "a blade fuse opens in 40 ms to 0.5 s.",
    }
}

fn hot(session: &Session, seen: &RunEvidence) -> Option<Finding> {
    let limit = session.policy.heatsink_stop_c.get();
    let heatsink = seen.run.temperature_c.filter(|_| !seen.run.is_struck(ReadingName::Temperature))?.get();
    more_than(heatsink, limit).then(|| {
        Finding::past(
            CheckCode::Hot,
            thresholds::HEATSINK,
            format!("{} °C, and runs stop at {} °C.", format::as_read(heatsink), format::as_read(limit)),
        )
    })
}

/// Two readings of one quantity, what they are in, and the half-width of each one's limits.
struct Both {
    what: &'static str,
    unit: &'static str,
    values: [f64; 2],
    limits: [f64; 2],
}

impl Both {
    /// 2·√(ua² + ub²), limits rectangular.
    fn allowed(&self) -> f64 {
        2.0 * uncertainty::quadrature(self.limits.map(|a| a / 3f64.sqrt()))
    }
}

fn meters_disagree(session: &Session, seen: &RunEvidence) -> Option<Finding> {
    let run = seen.run;
    let outputs = run.outputs.iter().flat_map(|output| output.also.iter().filter_map(|second| of_output(session, run, output, second)));
    let supply = run.supply_also.iter().filter_map(|second| {
        let named = second.meter.as_deref();
        let pair = |what, unit, quantity, default: f64, values: [f64; 2]| {
            let limits = [limits(session, None, quantity, values[0], default), limits(session, named, quantity, values[1], default)];
            Both { what, unit, values, limits }
        };
        match (run.end_volts().zip(second.end_v), run.amps().zip(second.current_a)) {
            (Some((a, b)), _) => Some(pair("supply volts", "V", Quantity::SupplyVoltage, uncertainty::SUPPLY_VOLTS, [a.get(), b.get()])),
            (_, Some((a, b))) => Some(pair("supply amps", "A", Quantity::Current, uncertainty::AMPS, [a.get(), b.get()])),
            _ => None,
        }
    });
    let off = |both: &Both| (both.values[0] - both.values[1]).abs() / both.allowed();
    let worst =
        outputs.chain(supply).filter(|both| more_than(off(both), thresholds::METERS.get())).max_by(|a, b| off(a).total_cmp(&off(b)))?;
    Some(Finding::past(
        CheckCode::MetersDisagree,
        thresholds::METERS,
        format!(
            "{} and {} {} of {}: {} apart, and their limits explain {} at the most.",
            format::as_read(worst.values[0]),
            format::as_read(worst.values[1]),
            worst.unit,
            worst.what,
            format::with_unit(&format::significant((worst.values[0] - worst.values[1]).abs(), 3), worst.unit),
            format::with_unit(&format::significant(worst.allowed(), 3), worst.unit),
        ),
    ))
}

fn limits(session: &Session, named: Option<&str>, quantity: Quantity, reading: f64, default: f64) -> f64 {
    let meter: Option<&Meter> = session.bench.meter(named, quantity);
    half_width(meter, reading, default)
}

fn of_output(session: &Session, run: &Run, own: &OutputReading, second: &SecondReading) -> Option<Both> {
    let named = [own.meter.as_deref(), second.meter.as_deref()];
    let both = |what, unit, quantity, default: f64, values: [f64; 2]| {
        let limits = [limits(session, named[0], quantity, values[0], default), limits(session, named[1], quantity, values[1], default)];
        Both { what, unit, values, limits }
    };
    let unstruck = |name: ReadingName| !run.is_struck(name);
    if let Some((a, b)) = own.power_w.zip(second.power_w).filter(|_| unstruck(ReadingName::Power)) {
        return Some(both("output", "W", Quantity::Power, uncertainty::WATTS, [a.get(), b.get()]));
    }
    if let Some((a, b)) = own.volts_rms.zip(second.volts_rms).filter(|_| unstruck(ReadingName::VoltsRms)) {
        return Some(both("output, rms", "V", Quantity::Voltage, uncertainty::VOLTS_RMS, [a.get(), b.get()]));
    }
    if let Some((a, b)) = own.volts_peak.zip(second.volts_peak).filter(|_| unstruck(ReadingName::VoltsPeak)) {
        return Some(both("output, peak", "V", Quantity::Voltage, uncertainty::VOLTS_PEAK, [a.get(), b.get()]));
    }
    let (a, b) = own.volts_pp.zip(second.volts_pp).filter(|_| unstruck(ReadingName::VoltsPeakToPeak))?;
    Some(both("output, peak to peak", "V", Quantity::Voltage, uncertainty::VOLTS_PEAK, [a.get(), b.get()]))
}
