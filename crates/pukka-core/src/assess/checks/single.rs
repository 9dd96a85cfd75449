//! Checks on one run by itself.

use crate::assess::checks::seen::Seen;
use crate::assess::checks::{Check, Finding, Severity};
use crate::evidence::uncertainty::{self, half_width};
use crate::kernel::format;
use crate::kernel::units::more_than;
use crate::record::amplifier::Class;
use crate::record::bench::{Meter, Quantity};
use crate::record::session::{Method, Mode, OutputReading, Run, SecondReading, Session};

type Rule = fn(&Session, &Seen) -> Option<Finding>;

/// In the order they are shown.
const RULES: [Rule; 10] =
    [over_unity, distortion_over_limit, load_mismatch, class_ceiling, voltage_rose, meters_disagree, fuse, hot, balance, no_supply_volts];

/// Checks one run by itself.
pub(super) fn check(session: &Session, seen: &Seen) -> Vec<Check> {
    RULES.iter().filter_map(|rule| rule(session, seen)).map(|found| found.on(&[seen.run])).collect()
}

fn over_unity(_: &Session, seen: &Seen) -> Option<Finding> {
    let ratio = seen.numbers.efficiency.filter(|ratio| more_than(*ratio, 1.0))?;
    let says = match (&seen.numbers.total, seen.numbers.input_w) {
        (Ok(total), Some(input)) => format!(
            "{} W out of {} W in is an efficiency of {} %, which cannot be.",
            format::watts(total.total_w),
            format::watts(input),
            format::percent(ratio)
        ),
        _ => format!("An efficiency of {} % cannot be.", format::percent(ratio)),
    };
    Some(Finding::new(
        "over-unity",
        Severity::Stop,
        "More out than in.",
        says,
        "Look at the clamp's zero, range and direction, then at the watts and the load. Strike the amps and the watts stand, without an efficiency.",
    ))
}

/// Efficiency above which a class does not go: π/4 for a class B stage, and what no class D amplifier has shown.
fn ceiling(class: Class) -> Option<f64> {
    match class {
        Class::AB => Some(0.785),
        Class::D => Some(0.95),
        Class::GH | Class::Other => None,
    }
}

fn class_ceiling(session: &Session, seen: &Seen) -> Option<Finding> {
    let ceiling = ceiling(session.amplifier.class)?;
    let ratio = seen.numbers.efficiency.filter(|ratio| more_than(*ratio, ceiling) && !more_than(*ratio, 1.0))?;
    Some(Finding::new(
        "class-ceiling",
        Severity::Doubt,
        "More efficient than its class.",
        format!(
            "{} % is above the {} % that {} can reach.",
            format::percent(ratio),
            format::as_read(ceiling * 100.0),
            session.amplifier.class.words()
        ),
        "The clamp may read low: zero it and turn it round, then repeat the run.",
    ))
}

fn voltage_rose(_: &Session, seen: &Seen) -> Option<Finding> {
    let sag = seen.numbers.sag_v.filter(|sag| *sag < 0.0)?;
    let remedy = if seen.run.charger_on == Some(true) {
        "The charger is on, and lifts the voltage: turn it off, let the bank rest, repeat the run."
    } else {
        "A charger came on, or rest and end were swapped."
    };
    Some(Finding::new(
        "voltage-rose",
        Severity::Doubt,
        "The supply rose under load.",
        format!("{} V more at the end than at rest.", format::volts(-sag)),
        remedy,
    ))
}

fn no_supply_volts(_: &Session, seen: &Seen) -> Option<Finding> {
    seen.numbers.end_v.is_none().then(|| {
        Finding::new(
            "no-supply-volts",
            Severity::Note,
            "No supply volts.",
            "Nothing can be said about the claim's voltage.",
            "Read the supply at the amplifier's terminals, under load.",
        )
    })
}

fn load_mismatch(_: &Session, seen: &Seen) -> Option<Finding> {
    let run = seen.run;
    let load = run.load().get();
    if run.is_struck("power_w") || run.is_struck("volts_rms") {
        return None;
    }
    let worst = run
        .outputs
        .iter()
        .filter_map(|output| {
            let (watts, volts) = (output.power_w?.get(), output.volts_rms?.get());
            (watts > 0.0 && volts > 0.0).then(|| volts * volts / watts)
        })
        .map(|seen| (seen, (seen / load).max(load / seen) - 1.0))
        .max_by(|a, b| a.1.total_cmp(&b.1))?;
    let severity = match worst.1 {
        off if more_than(off, 0.20) => Severity::Stop,
        off if more_than(off, 0.06) => Severity::Doubt,
        _ => return None,
    };
    Some(Finding::new(
        "load-mismatch",
        severity,
        "Watts and volts disagree.",
        format!(
            "Together they make a load of {} Ω, and it is {} Ω: {} % apart.",
            format::ohms(worst.0),
            format::ohms(load),
            format::fixed(100.0 * worst.1, 0)
        ),
        "Look at the load switch and the leads, then strike the reading that is wrong.",
    ))
}

fn distortion_over_limit(session: &Session, seen: &Seen) -> Option<Finding> {
    let run = seen.run;
    if run.mode != Mode::Certified || run.method == Some(Method::Steps) || run.is_struck("thd_ratio") {
        return None;
    }
    let limit = run.limit_ratio.unwrap_or(session.policy.thd_limit_ratio).get();
    let thd = run.thd_ratio.filter(|thd| more_than(thd.get(), limit))?.get();
    Some(Finding::new(
        "distortion-over-limit",
        Severity::Stop,
        "Past the distortion limit.",
        format!("{} % distortion is no certified run at a limit of {} %.", format::as_read(thd * 100.0), format::as_read(limit * 100.0)),
        "Back the level off and read again; this one may be a clipping run.",
    ))
}

fn balance(_: &Session, seen: &Seen) -> Option<Finding> {
    let total = seen.numbers.total.as_ref().ok()?;
    let db = total.balance_db().filter(|db| more_than(*db, 0.5))?;
    let weakest = total.outputs.iter().enumerate().min_by(|a, b| a.1.power_w.total_cmp(&b.1.power_w))?;
    let name = seen.run.outputs.get(weakest.0).and_then(|output| output.name.clone()).unwrap_or_else(|| (weakest.0 + 1).to_string());
    Some(Finding::new(
        "balance",
        Severity::Note,
        "Channels differ.",
        format!("{} dB between the strongest and the weakest; output {name} is the weakest.", format::fixed(db, 2)),
        "Look at the gain of each channel, and at the load on the weakest.",
    ))
}

fn fuse(session: &Session, seen: &Seen) -> Option<Finding> {
    let amps = seen.numbers.current_a?;
    let fuses = session.amplifier.supply_fuse_a()?;
    if !more_than(amps, fuses) {
        return None;
    }
    Some(Finding::new(
        "fuse",
        Severity::Doubt,
        "Past the fuses.",
        format!(
            "{} A through {} A of fuse, {} %: {}",
            format::amps(amps),
            format::as_read(fuses),
            format::fixed(100.0 * amps / fuses, 0),
            blade_fuse(amps / fuses),
        ),
        if amps / fuses > BORNE { "Rest before you repeat the run. Never a larger fuse." } else { "Never a larger fuse." },
    ))
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

fn hot(session: &Session, seen: &Seen) -> Option<Finding> {
    let limit = session.policy.heatsink_stop_c.get();
    let heatsink = seen.run.temperature_c.filter(|_| !seen.run.is_struck("temperature_c"))?.get();
    more_than(heatsink, limit).then(|| {
        Finding::new(
            "hot",
            Severity::Doubt,
            "Heatsink past the stop rule.",
            format!("{} °C, and runs stop at {} °C.", format::as_read(heatsink), format::as_read(limit)),
            "Let it cool. A hot amplifier gives less: repeat the run cool before you judge by it.",
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

fn meters_disagree(session: &Session, seen: &Seen) -> Option<Finding> {
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
    let worst = outputs.chain(supply).filter(|both| more_than(off(both), 1.0)).max_by(|a, b| off(a).total_cmp(&off(b)))?;
    Some(Finding::new(
        "meters-disagree",
        Severity::Doubt,
        "Two meters disagree.",
        format!(
            "{} and {} {} of {}: {} apart, and their limits explain {} at the most.",
            format::as_read(worst.values[0]),
            format::as_read(worst.values[1]),
            worst.unit,
            worst.what,
            format::with_unit(&format::significant((worst.values[0] - worst.values[1]).abs(), 3), worst.unit),
            format::with_unit(&format::significant(worst.allowed(), 3), worst.unit),
        ),
        "Check both against a third. A meter that is wrong is struck across the session in one act.",
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
    let unstruck = |name: &str| !run.is_struck(name);
    if let Some((a, b)) = own.power_w.zip(second.power_w).filter(|_| unstruck("power_w")) {
        return Some(both("output", "W", Quantity::Power, uncertainty::WATTS, [a.get(), b.get()]));
    }
    if let Some((a, b)) = own.volts_rms.zip(second.volts_rms).filter(|_| unstruck("volts_rms")) {
        return Some(both("output, rms", "V", Quantity::Voltage, uncertainty::VOLTS_RMS, [a.get(), b.get()]));
    }
    if let Some((a, b)) = own.volts_peak.zip(second.volts_peak).filter(|_| unstruck("volts_peak")) {
        return Some(both("output, peak", "V", Quantity::Voltage, uncertainty::VOLTS_PEAK, [a.get(), b.get()]));
    }
    let (a, b) = own.volts_pp.zip(second.volts_pp).filter(|_| unstruck("volts_pp"))?;
    Some(both("output, peak to peak", "V", Quantity::Voltage, uncertainty::VOLTS_PEAK, [a.get(), b.get()]))
}
