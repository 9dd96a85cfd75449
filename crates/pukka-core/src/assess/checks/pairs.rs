//! Checks on runs that concern one another.

use std::collections::{BTreeSet, HashMap};

use crate::assess::checks::places::{PlaceResult, results};
use crate::assess::checks::thresholds;
use crate::assess::checks::{Check, Finding};
use crate::evidence::standing::RunEvidence;
use crate::kernel::format;
use crate::kernel::units::{SLACK, more_than};
use crate::kernel::wiring::{Relation, relation, same_load};
use crate::record::amplifier::SupplyType;
use crate::record::session::{CheckCode, Mode, Run, Session};

/// Checks every pair of places there is, and those pairs of runs of which one is `wanted`.
pub(super) fn check(session: &Session, runs: &[RunEvidence], wanted: impl Fn(&Run) -> bool) -> Vec<Check> {
    let places = results(session, runs);
    let mut checks = Vec::new();
    for (high, low) in neighbours(&places) {
        let runs: Vec<&Run> = high.runs.iter().chain(&low.runs).copied().collect();
        let found = [power_step(session, high, low), power_falls(high, low), efficiency_rises(high, low)];
        checks.extend(found.into_iter().flatten().map(|found| found.on(&runs)));
    }
    for (i, a) in places.iter().enumerate() {
        for b in places.iter().skip(i + 1) {
            let runs: Vec<&Run> = a.runs.iter().chain(&b.runs).copied().collect();
            let found = [equivalents_disagree(a, b), mode_order(a, b)];
            checks.extend(found.into_iter().flatten().map(|found| found.on(&runs)));
        }
    }
    checks.extend(repeated_readings(runs, wanted));
    checks
}

/// Adjacent tested loads of one wiring, setting, mode and tone: the higher first.
fn neighbours<'s, 'a>(spoken: &'s [PlaceResult<'a>]) -> Vec<(&'s PlaceResult<'a>, &'s PlaceResult<'a>)> {
    let mut pairs = Vec::new();
    for high in spoken {
        let below = spoken.iter().filter(|low| low.is_beside(high) && low.nominal_ohm.get() < high.nominal_ohm.get());
        let next = below.filter(|low| !same_load(low.nominal_ohm.get(), high.nominal_ohm.get()));
        pairs.extend(next.max_by(|a, b| a.nominal_ohm.get().total_cmp(&b.nominal_ohm.get())).map(|low| (high, low)));
    }
    pairs
}

fn ohms(spoken: &PlaceResult) -> String {
    format::with_unit(&format::ohms(spoken.nominal_ohm.get()), "Ω")
}

fn power_step(session: &Session, high: &PlaceResult, low: &PlaceResult) -> Option<Finding> {
    let supply = match (high.end_v, low.end_v) {
        (Some(v1), Some(v2)) => {
            let squared = (v2 / v1).powi(2);
            if session.amplifier.supply_type == SupplyType::Unregulated { squared } else { squared.max(1.0) }
        }
        _ => 1.0,
    };
    let loads = high.load_ohm / low.load_ohm;
    let (step, most) = (low.power_w / high.power_w, loads * supply);
    let past = [thresholds::STEP_STOP, thresholds::STEP].into_iter().find(|threshold| more_than(step, most * threshold.get()))?;
    let by_supply =
        if (supply - 1.0).abs() > SLACK { format!(", times {} for the supply", format::fixed(supply, 3)) } else { String::new() };
    Some(
        Finding::past(
            CheckCode::PowerStep,
            past,
            format!(
                "From {} to {} the power grew {} ×, from {} to {} W; the loads allow {} ×{by_supply}.",
                ohms(high),
                ohms(low),
                format::fixed(step, 2),
                format::watts(high.power_w),
                format::watts(low.power_w),
                format::fixed(loads, 2),
            ),
        )
        .remedy(format!("Measure the {} load again, and check whether the {} run was cut short.", ohms(low), ohms(high))),
    )
}

fn power_falls(high: &PlaceResult, low: &PlaceResult) -> Option<Finding> {
    let steady = high.mode != Mode::Dynamic;
    (steady && more_than(thresholds::FALL.get(), low.power_w / high.power_w)).then(|| {
        Finding::past(
            CheckCode::PowerFalls,
            thresholds::FALL,
            format!(
                "{} W into {}, and {} W into {}: a lower load takes more, unless something limits the amplifier.",
                format::watts(high.power_w),
                ohms(high),
                format::watts(low.power_w),
                ohms(low)
            ),
        )
    })
}

fn efficiency_rises(high: &PlaceResult, low: &PlaceResult) -> Option<Finding> {
    let (first, second) = (high.efficiency?, low.efficiency?);
    more_than(second - first, thresholds::EFFICIENCY_RISE.get()).then(|| {
        Finding::past(
            CheckCode::EfficiencyRises,
            thresholds::EFFICIENCY_RISE,
            format!(
                "{} % at {}, and {} % at {}: a harder load costs efficiency.",
                format::percent(first),
                ohms(high),
                format::percent(second),
                ohms(low)
            ),
        )
    })
}

fn equivalents_disagree(a: &PlaceResult, b: &PlaceResult) -> Option<Finding> {
    if !a.is_like(b) || !a.is_at_tone_of(b) {
        return None;
    }
    (relation((a.wiring, a.nominal_ohm), (b.wiring, b.nominal_ohm)) == Some(Relation::Equivalent)).then_some(())?;
    let watts = (a.power_w / b.power_w).max(b.power_w / a.power_w);
    let points = a.efficiency.zip(b.efficiency).map(|(a, b)| (a - b).abs());
    let by_watts = more_than(watts, thresholds::EQUIVALENT_WATTS.get());
    if !by_watts && !points.is_some_and(|points| more_than(points, thresholds::EQUIVALENT_EFFICIENCY.get())) {
        return None;
    }
    let apart = match points {
        Some(points) if !by_watts => format!("their efficiencies are {} points apart", format::fixed(100.0 * points, 1)),
        _ => format!(
            "they gave {} and {} W, {} % apart",
            format::watts(a.power_w),
            format::watts(b.power_w),
            format::fixed(100.0 * (watts - 1.0), 0)
        ),
    };
    Some(Finding::past(
        CheckCode::EquivalentsDisagree,
        thresholds::EQUIVALENT_WATTS,
        format!(
            "{} into {} and {} into {} put the same load on every channel, yet {apart}.",
            a.wiring.words(),
            ohms(a),
            b.wiring.words(),
            ohms(b)
        ),
    ))
}

fn mode_order(a: &PlaceResult, b: &PlaceResult) -> Option<Finding> {
    if a.wiring != b.wiring || !a.is_at_tone_of(b) || !same_load(a.nominal_ohm.get(), b.nominal_ohm.get()) {
        return None;
    }
    let (certified, other) = match (a.mode, b.mode) {
        (Mode::Certified, Mode::Clipping | Mode::Dynamic) => (a, b),
        (Mode::Clipping | Mode::Dynamic, Mode::Certified) => (b, a),
        _ => return None,
    };
    let allowed = certified.expanded_w.hypot(other.expanded_w);
    more_than(certified.power_w - other.power_w, allowed * thresholds::ORDER.get()).then(|| {
        Finding::past(
            CheckCode::ModeOrder,
            thresholds::ORDER,
            format!(
                "{} W {} against {} W certified at {}: {} W less; the meters explain {} W.",
                format::watts(other.power_w),
                other.mode.word(),
                format::watts(certified.power_w),
                ohms(certified),
                format::watts(certified.power_w - other.power_w),
                format::watts(allowed),
            ),
        )
    })
}

/// A reading that may be met again in another run: the amps, or what a second meter said of an output or of the amps.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
struct Repeatable<'a> {
    second: bool,
    meter: Option<&'a str>,
    unit: &'static str,
    value: Digits,
}

/// A figure that is the same only to the last digit.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
struct Digits(u64);

impl Digits {
    fn of(value: f64) -> Self {
        // There are two zeros, and they are one figure.
        Self((value + 0.0).to_bits())
    }

    const fn get(self) -> f64 {
        f64::from_bits(self.0)
    }
}

fn repeatable(run: &Run) -> impl Iterator<Item = Repeatable<'_>> {
    let amps = run.amps().map(|amps| Repeatable { second: false, meter: None, unit: "A", value: Digits::of(amps.get()) });
    let outputs = run.outputs.iter().flat_map(|output| &output.also).flat_map(|also| {
        let read = [
            also.power_w.map(|w| ("W", w.get())),
            also.volts_rms.map(|v| ("V rms", v.get())),
            also.volts_peak.map(|v| ("V peak", v.get())),
            also.volts_pp.map(|v| ("V peak to peak", v.get())),
        ];
        read.into_iter().flatten().map(|(unit, value)| Repeatable {
            second: true,
            meter: also.meter.as_deref(),
            unit,
            value: Digits::of(value),
        })
    });
    let clamps = run.supply_also.iter().filter_map(|also| {
        Some(Repeatable { second: true, meter: also.meter.as_deref(), unit: "A", value: Digits::of(also.current_a?.get()) })
    });
    amps.into_iter().chain(outputs).chain(clamps)
}

/// Runs that share a reading and differ in their watts. Only such runs are looked at as pairs: of hundreds of runs there are tens of
/// thousands of pairs.
fn repeated_readings(runs: &[RunEvidence], wanted: impl Fn(&Run) -> bool) -> Vec<Check> {
    let with_watts = runs.iter().filter_map(|one| Some((one.run, one.numbers.total.as_ref().ok()?.total_w)));
    let all: Vec<(&Run, f64)> = with_watts.collect();
    let mut by_reading: HashMap<Repeatable, Vec<usize>> = HashMap::new();
    for (run, _) in all.iter().filter(|(run, _)| wanted(run)) {
        by_reading.extend(repeatable(run).map(|reading| (reading, Vec::new())));
    }
    for (i, (run, _)) in all.iter().enumerate() {
        for reading in repeatable(run) {
            if let Some(sharing) = by_reading.get_mut(&reading) {
                sharing.push(i);
            }
        }
    }
    let later = |i: usize, run| {
        let shared = repeatable(run).filter_map(|reading| by_reading.get(&reading)).flatten().copied();
        shared.filter(move |j| *j > i).collect::<BTreeSet<usize>>()
    };
    let mut checks = Vec::new();
    for (i, a) in all.iter().enumerate() {
        let others = later(i, a.0).into_iter().filter_map(|j| all.get(j)).filter(|b| wanted(a.0) || wanted(b.0));
        checks.extend(others.filter_map(|b| Some(repeated_reading(*a, *b)?.on(&[a.0, b.0]))));
    }
    checks
}

/// A reading of two runs that is the same, though their watts are not.
fn repeated_reading((a, a_w): (&Run, f64), (b, b_w): (&Run, f64)) -> Option<Finding> {
    if !more_than((a_w / b_w).max(b_w / a_w), thresholds::SAME_AMPS_WATTS.get()) {
        return None;
    }
    let same = repeatable(a).find(|reading| repeatable(b).any(|other| other == *reading))?;
    let second = if same.second { " on the second meter" } else { "" };
    Some(Finding::past(
        CheckCode::RepeatedReading,
        thresholds::SAME_AMPS_WATTS,
        format!(
            "{} {}{second} at {} and at {}, to the last digit, for {} and {} W.",
            format::as_read(same.value.get()),
            same.unit,
            a.place_words(),
            b.place_words(),
            format::watts(a_w),
            format::watts(b_w)
        ),
    ))
}
