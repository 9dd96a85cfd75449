//! Readings of runs: a row each.

use pukka_core::kernel::units::{Amps, Celsius, QuantityError, Ratio, Volts, VoltsPeak, VoltsPeakToPeak, VoltsRms, Watts};
use pukka_core::record::session::{OutputReading, Run, SecondReading};
use rusqlite::{Connection, Row, Transaction, params};
use serde::de::Error as _;

use crate::StoreError;

/// Fields of a run that are readings: a row each.
pub(super) const SUPPLY: [&str; 4] = ["end_v", "current_a", "thd_ratio", "temperature_c"];

const OUTPUT: [&str; 4] = ["power_w", "volts_rms", "volts_peak", "volts_pp"];

struct ReadingRow<'a> {
    output: Option<u32>,
    name: Option<&'a str>,
    group: Option<u8>,
    second: u32,
    quantity: &'static str,
    value: f64,
    meter: Option<&'a str>,
}

pub(super) fn insert(tx: &Transaction, run: &Run) -> Result<(), StoreError> {
    let mut rows = Vec::new();
    for (i, output) in (0u32..).zip(&run.outputs) {
        rows.extend(output_rows(i, output));
    }
    let supply =
        [run.end_v.map(|v| v.get()), run.current_a.map(|a| a.get()), run.thd_ratio.map(|t| t.get()), run.temperature_c.map(|c| c.get())];
    for (quantity, value) in SUPPLY.into_iter().zip(supply) {
        rows.extend(value.map(|value| ReadingRow { output: None, name: None, group: None, second: 0, quantity, value, meter: None }));
    }
    let mut statement = tx.prepare_cached(
        "INSERT INTO reading (run_id, position, output, output_name, output_group, second, quantity, value, meter)
         VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
    )?;
    for (position, row) in (0u32..).zip(&rows) {
        statement.execute(params![run.id, position, row.output, row.name, row.group, row.second, row.quantity, row.value, row.meter])?;
    }
    Ok(())
}

fn output_rows(index: u32, output: &OutputReading) -> Vec<ReadingRow<'_>> {
    let (name, group) = (output.name.as_deref(), output.group);
    let values = |power: Option<f64>, rms: Option<f64>, peak: Option<f64>, pp: Option<f64>| OUTPUT.into_iter().zip([power, rms, peak, pp]);
    let own = values(
        output.power_w.map(|w| w.get()),
        output.volts_rms.map(|v| v.get()),
        output.volts_peak.map(|v| v.get()),
        output.volts_pp.map(|v| v.get()),
    );
    let mut rows: Vec<ReadingRow<'_>> = own
        .filter_map(|(quantity, value)| {
            Some(ReadingRow { output: Some(index), name, group, second: 0, quantity, value: value?, meter: output.meter.as_deref() })
        })
        .collect();
    for (i, also) in (1u32..).zip(&output.also) {
        let SecondReading { power_w, volts_rms, volts_peak, volts_pp, meter } = also;
        let more = values(power_w.map(|w| w.get()), volts_rms.map(|v| v.get()), volts_peak.map(|v| v.get()), volts_pp.map(|v| v.get()));
        rows.extend(more.filter_map(|(quantity, value)| {
            Some(ReadingRow { output: Some(index), name, group, second: i, quantity, value: value?, meter: meter.as_deref() })
        }));
    }
    rows
}

/// Puts the readings of a session into its runs, which stand in the order logged.
pub(super) fn read(tx: &Connection, session_id: &str, list: &mut [Run]) -> Result<(), StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT r.run_id, r.output, r.output_name, r.second, r.quantity, r.value, r.meter, r.output_group
         FROM run JOIN reading r ON r.run_id = run.id WHERE run.session_id = ? ORDER BY run.seq, r.position",
    )?;
    let mut rows = statement.query([session_id])?;
    let mut runs = list.iter_mut();
    let mut at: Option<&mut Run> = None;
    while let Some(row) = rows.next()? {
        let run_id: &str = row.get_ref(0)?.as_str().map_err(rusqlite::Error::from)?;
        while at.as_ref().is_none_or(|run| run.id != run_id) {
            at = Some(runs.next().ok_or(StoreError::Broken)?);
        }
        let Some(run) = at.as_deref_mut() else { return Err(StoreError::Broken) };
        let quantity = row.get_ref(4)?.as_str().map_err(rusqlite::Error::from)?;
        put_reading(run, row, quantity, row.get(5)?)?;
    }
    Ok(())
}

fn put_reading(run: &mut Run, row: &Row, quantity: &str, value: f64) -> Result<(), StoreError> {
    let Some(output) = row.get::<_, Option<u32>>(1)? else {
        match quantity {
            "end_v" => run.end_v = sound(Volts::new(value))?,
            "current_a" => run.current_a = sound(Amps::new(value))?,
            "thd_ratio" => run.thd_ratio = sound(Ratio::new(value))?,
            "temperature_c" => run.temperature_c = sound(Celsius::new(value))?,
            _ => return Err(StoreError::Broken),
        }
        return Ok(());
    };
    let (output, second) = (output as usize, row.get::<_, u32>(3)? as usize);
    if run.outputs.len() <= output {
        run.outputs.resize_with(output + 1, OutputReading::default);
    }
    let Some(own) = run.outputs.get_mut(output) else { return Err(StoreError::Broken) };
    own.name = row.get(2)?;
    own.group = row.get(7)?;
    let Some(second) = second.checked_sub(1) else {
        own.meter = row.get(6)?;
        return put_output(quantity, value, &mut own.power_w, &mut own.volts_rms, &mut own.volts_peak, &mut own.volts_pp);
    };
    if own.also.len() <= second {
        own.also.resize_with(second + 1, SecondReading::default);
    }
    let Some(also) = own.also.get_mut(second) else { return Err(StoreError::Broken) };
    also.meter = row.get(6)?;
    put_output(quantity, value, &mut also.power_w, &mut also.volts_rms, &mut also.volts_peak, &mut also.volts_pp)
}

fn put_output(
    quantity: &str,
    value: f64,
    power_w: &mut Option<Watts>,
    volts_rms: &mut Option<VoltsRms>,
    volts_peak: &mut Option<VoltsPeak>,
    volts_pp: &mut Option<VoltsPeakToPeak>,
) -> Result<(), StoreError> {
    match quantity {
        "power_w" => *power_w = sound(Watts::new(value))?,
        "volts_rms" => *volts_rms = sound(VoltsRms::new(value))?,
        "volts_peak" => *volts_peak = sound(VoltsPeak::new(value))?,
        "volts_pp" => *volts_pp = sound(VoltsPeakToPeak::new(value))?,
        _ => return Err(StoreError::Broken),
    }
    Ok(())
}

/// A reading as it was kept; one out of bounds was not written by this program.
fn sound<T>(made: Result<T, QuantityError>) -> Result<Option<T>, StoreError> {
    made.map(Some).map_err(|why| StoreError::Unreadable { what: "reading", why: serde_json::Error::custom(why) })
}
