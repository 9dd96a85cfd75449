//! A meter found wrong: what has to be struck so that none of its readings counts, in one act.

use crate::record::bench::Quantity;
use crate::record::session::{OutputReading, ReadingName, Run, SecondReading, Session, SupplyReading};

/// A thing to do so that a meter no longer counts.
#[derive(Debug, Clone, PartialEq)]
pub enum Striking {
    /// Strike a reading of a run.
    Strike {
        /// The run.
        run: String,
        /// The reading.
        what: ReadingName,
    },
    /// Log the run again with the other meter's reading in its place.
    Swap(Box<Run>),
}

/// Readings to strike. A run whose reading another meter made as well goes on with that one; else the reading is struck.
#[must_use]
pub fn strike(session: &Session, meter: &str) -> Vec<Striking> {
    session.standing_runs().flat_map(|run| strike_run(session, run, meter)).collect()
}

fn strike_run(session: &Session, run: &Run, meter: &str) -> Vec<Striking> {
    let mut swapped = run.clone();
    let mut strikes: Vec<ReadingName> = Vec::new();
    let mut changed = false;
    for output in &mut swapped.outputs {
        match strike_output(session, run, output, meter) {
            Some(None) => changed = true,
            Some(Some(what)) => strikes.push(what),
            None => {}
        }
    }
    for (what, quantity) in [(ReadingName::EndVolts, Quantity::SupplyVoltage), (ReadingName::Current, Quantity::Current)] {
        let there = if what == ReadingName::EndVolts { run.end_volts().is_some() } else { run.amps().is_some() };
        if there && is_by(session, None, quantity, meter) {
            if swap_supply(&mut swapped, what, meter) { changed = true } else { strikes.push(what) }
        }
    }
    let also = swapped.supply_also.len();
    swapped.supply_also.retain(|second| second.meter.as_deref() != Some(meter));
    changed |= also != swapped.supply_also.len();
    strikes.sort_unstable();
    strikes.dedup();
    if changed {
        swapped.struck.extend(strikes);
        return vec![Striking::Swap(Box::new(swapped))];
    }
    strikes.into_iter().map(|what| Striking::Strike { run: run.id.clone(), what }).collect()
}

/// Whether a reading was made by a meter: it is named, or it is the first of its quantity.
fn is_by(session: &Session, named: Option<&str>, quantity: Quantity, meter: &str) -> bool {
    session.bench.meter(named, quantity).is_some_and(|used| used.id == meter)
}

/// Nothing to do, another meter's reading put in its place (`Some(None)`), or the name of what to strike.
fn strike_output(session: &Session, run: &Run, output: &mut OutputReading, meter: &str) -> Option<Option<ReadingName>> {
    let (what, quantity) = if output.power_w.is_some() {
        (ReadingName::Power, Quantity::Power)
    } else if output.volts_rms.is_some() {
        (ReadingName::VoltsRms, Quantity::Voltage)
    } else if output.volts_peak.is_some() {
        (ReadingName::VoltsPeak, Quantity::Voltage)
    } else {
        (ReadingName::VoltsPeakToPeak, Quantity::Voltage)
    };
    if run.is_struck(what) {
        return None;
    }
    if !is_by(session, output.meter.as_deref(), quantity, meter) {
        let before = output.also.len();
        output.also.retain(|second| second.meter.as_deref() != Some(meter));
        return (before != output.also.len()).then_some(None);
    }
    let Some(at) = output.also.iter().position(|second| second.meter.as_deref() != Some(meter)) else {
        return Some(Some(what));
    };
    let SecondReading { power_w, volts_rms, volts_peak, volts_pp, meter: other } = output.also.remove(at);
    *output = OutputReading {
        name: output.name.take(),
        group: output.group,
        power_w,
        volts_rms,
        volts_peak,
        volts_pp,
        meter: other,
        also: std::mem::take(&mut output.also),
    };
    Some(None)
}

fn swap_supply(run: &mut Run, what: ReadingName, meter: &str) -> bool {
    let holds = |second: &SupplyReading| if what == ReadingName::EndVolts { second.end_v.is_some() } else { second.current_a.is_some() };
    let Some(at) = run.supply_also.iter().position(|second| holds(second) && second.meter.as_deref() != Some(meter)) else { return false };
    let second = run.supply_also.remove(at);
    if what == ReadingName::EndVolts {
        run.end_v = second.end_v
    } else {
        run.current_a = second.current_a
    }
    true
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use super::*;
    use crate::evidence::total;
    use crate::record::session::examples;

    #[test]
    fn a_reading_that_another_meter_made_too_goes_on_with_that_one() {
        let mut session = examples::mono_1100();
        let other = json!({ "id": "m2", "quantity": "power", "reading_ratio": 0.01, "absolute": 0.0 });
        session.bench.meters.push(serde_json::from_value(other).unwrap());
        session.runs.truncate(2);
        session.runs[0].outputs[0].also = serde_json::from_value(json!([{ "power_w": 441.0, "meter": "m2" }])).unwrap();
        let done = strike(&session, "m1");
        assert_eq!(done.len(), 2);
        let Striking::Swap(run) = &done[0] else { panic!("{done:?}") };
        assert_eq!(total(&session, run).unwrap().total_w, 441.0);
        assert_eq!(done[1], Striking::Strike { run: session.runs[1].id.clone(), what: ReadingName::Power });
        session.runs[1].struck.push(ReadingName::Power);
        assert!(total(&session, &session.runs[1]).is_err(), "struck watts leave no total");
        assert_eq!(strike(&session, "m1").len(), 1, "and are not struck twice");
    }

    #[test]
    fn a_clamp_is_struck_and_its_watts_stand() {
        let mut session = examples::mono_1100();
        session
            .bench
            .meters
            .push(serde_json::from_value(json!({ "id": "clamp", "quantity": "current", "reading_ratio": 0.02, "absolute": 0.0 })).unwrap());
        let with_amps = session.standing_runs().filter(|run| run.amps().is_some()).count();
        let done = strike(&session, "clamp");
        assert_eq!(done.len(), with_amps);
        assert!(done.iter().all(|one| matches!(one, Striking::Strike { what: ReadingName::Current, .. })));
    }
}
