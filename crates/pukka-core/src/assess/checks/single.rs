//! Checks on one run by itself.

use std::borrow::Cow;

use crate::assess::checks::thresholds::{self, Threshold};
use crate::assess::checks::{Check, Finding};
use crate::evidence::standing::RunEvidence;
use crate::evidence::supply;
use crate::kernel::format;
use crate::kernel::units::{PowerDecibels, more_than};
use crate::record::amplifier::Class;
use crate::record::session::{CheckCode, Method, Mode, OutputReading, ReadingName, Run, Session};

type Rule = fn(&Session, &RunEvidence) -> Option<Finding>;

/// In the order they are shown.
const RULES: [Rule; 14] = [
    over_unity,
    distortion_over_limit,
    implied_volts,
    load_mismatch,
    class_ceiling,
    low_efficiency,
    efficiency_disagrees,
    voltage_rose,
    supply_range,
    fuse,
    hot,
    balance,
    no_supply_volts,
    charger_on,
];

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
        "The charger is on and raises the voltage: turn it off, let the bank rest, repeat the run."
    } else {
        "A charger came on, or rest and end were swapped."
    };
    Some(
        Finding::past(CheckCode::VoltageRose, thresholds::RISE, format!("{} V more at the end than at rest.", format::volts(-sag)))
            .remedy(remedy),
    )
}

fn no_supply_volts(_: &Session, seen: &RunEvidence) -> Option<Finding> {
    let missing = seen.run.is_certified() && seen.numbers.end_v.is_none();
    missing.then(|| {
        Finding::past(
            CheckCode::NoSupplyVolts,
            thresholds::MISSING,
            "Its power stands for whatever the supply may have been: from 1.5 V under rest, or 12.0 V, up to rest.",
        )
    })
}

fn implied_volts(session: &Session, seen: &RunEvidence) -> Option<Finding> {
    let volts = supply::implied_volts(seen.run, seen.numbers.total.as_ref().ok()?)?;
    let most = supply::most_implied_v(session, seen.run);
    let high = if session.rest_before(seen.run).is_some() { thresholds::IMPLIED_OVER_REST } else { thresholds::IMPLIED_HIGH };
    let past = if more_than(thresholds::IMPLIED_LOW.get(), volts) {
        thresholds::IMPLIED_LOW
    } else {
        Some(high).filter(|_| more_than(volts, most))?
    };
    let rest = session.rest_before(seen.run).map(|rest| format!(", and the supply rested at {} V", format::volts(rest.get())));
    Some(Finding::past(
        CheckCode::ImpliedVolts,
        past,
        format!("Watts, amps and efficiency together make a supply of {} V{}.", format::volts(volts), rest.unwrap_or_default()),
    ))
}

fn efficiency_disagrees(_: &Session, seen: &RunEvidence) -> Option<Finding> {
    let read = seen.run.efficiency_read().filter(|_| seen.run.mode != Mode::Dynamic)?.get();
    seen.numbers.read_v?;
    seen.numbers.current_a?;
    let made = seen.numbers.efficiency?;
    more_than((read - made).abs(), thresholds::EFFICIENCIES.get()).then(|| {
        Finding::past(
            CheckCode::EfficiencyDisagrees,
            thresholds::EFFICIENCIES,
            format!("{} % was read, and watts over volts times amps make {} %.", format::percent(read), format::percent(made)),
        )
    })
}

fn low_efficiency(_: &Session, seen: &RunEvidence) -> Option<Finding> {
    let total = seen.numbers.total.as_ref().ok()?;
    let ratio = seen.numbers.efficiency.filter(|ratio| more_than(thresholds::LEAST_EFFICIENCY.get(), *ratio))?;
    more_than(total.total_w, thresholds::LOW_FROM_W.get()).then(|| {
        Finding::past(
            CheckCode::LowEfficiency,
            thresholds::LEAST_EFFICIENCY,
            format!("{} % is less than any amplifier manages at {} W.", format::percent(ratio), format::watts(total.total_w)),
        )
    })
}

fn supply_range(session: &Session, seen: &RunEvidence) -> Option<Finding> {
    let read = seen.numbers.read_v?.get();
    let shown = || format::volts(read);
    if let Some(rest) = session.rest_before(seen.run).map(|rest| rest.get()) {
        let under = more_than(rest - read, thresholds::UNDER_REST.get());
        return under.then(|| {
            let says = format!("{} V under load is {} V under the {} V at rest.", shown(), format::volts(rest - read), format::volts(rest));
            Finding::past(CheckCode::SupplyRange, thresholds::UNDER_REST, says)
        });
    }
    let low = more_than(thresholds::SUPPLY_LOW.get(), read).then_some(thresholds::SUPPLY_LOW);
    let past = low.or_else(|| more_than(read, thresholds::SUPPLY_HIGH.get()).then_some(thresholds::SUPPLY_HIGH))?;
    let says = format!("{} V is outside the 9 to 17 V that car amplifiers are tested at.", shown());
    Some(Finding::past(CheckCode::SupplyRange, past, says))
}

fn charger_on(_: &Session, seen: &RunEvidence) -> Option<Finding> {
    (seen.run.charger_on == Some(true)).then(|| {
        let says = "It raises the supply and with it the power, which flatters the claim.";
        Finding::past(CheckCode::ChargerOn, thresholds::CHARGER, says)
    })
}

/// Output volts as rms: peak and peak to peak only of a wave that is still round.
fn rms(run: &Run, output: &OutputReading) -> Option<f64> {
    let unstruck = |name: ReadingName| !run.is_struck(name);
    let round = run.mode != Mode::Clipping;
    let peak = || output.volts_peak.filter(|_| round && unstruck(ReadingName::VoltsPeak)).map(|v| v.get() / 2f64.sqrt());
    let to_peak = || output.volts_pp.filter(|_| round && unstruck(ReadingName::VoltsPeakToPeak)).map(|v| v.get() / 8f64.sqrt());
    output.volts_rms.filter(|_| unstruck(ReadingName::VoltsRms)).map(|v| v.get()).or_else(peak).or_else(to_peak)
}

fn load_mismatch(_: &Session, seen: &RunEvidence) -> Option<Finding> {
    let run = seen.run;
    if run.is_struck(ReadingName::Power) {
        return None;
    }
    let apart = |part: &Run, output: &OutputReading| {
        let (watts, volts, load) = (output.power_w?.get(), rms(run, output)?, part.load().get());
        let seen = (watts > 0.0 && volts > 0.0).then(|| volts * volts / watts)?;
        Some((seen, (seen / load).max(load / seen), load))
    };
    let further = |a: &(f64, f64, f64), b: &(f64, f64, f64)| a.1.total_cmp(&b.1);
    let of_part = |part: Cow<Run>| part.outputs.iter().filter_map(|output| apart(&part, output)).max_by(further);
    let worst = run.parts().filter_map(of_part).max_by(further)?;
    let load = worst.2;
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
        format!("{} % distortion is not a certified run at a limit of {} %.", format::as_read(thd * 100.0), format::as_read(limit * 100.0)),
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

/// The multiple of its rating that a blade fuse carries for long.
const BORNE: f64 = 1.10;

/// Behaviour of a typical blade fuse at a multiple of its rating.
///
/// Ref: ISO 8820-3, operating time limits of blade fuses: 110 % not within 100 h; 135 % 0.75 s to 10 min;
/// 160 % 0.25 to 50 s; 200 % 0.15 to 5 s; 350 % 40 ms to 0.5 s.
#[must_use]
pub fn blade_fuse(multiple: f64) -> &'static str {
    match multiple {
        m if m <= BORNE => "a blade fuse carries that for a long time.",
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
            format!("{} °C; runs stop at {} °C.", format::as_read(heatsink), format::as_read(limit)),
        )
    })
}
