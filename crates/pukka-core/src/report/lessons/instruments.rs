//! What the bench itself did over the months: meters against one another, its supply, its loads.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::Entry;
use crate::kernel::format;
use crate::kernel::wiring::same_load;

/// A second meter against the first.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct MeterRow {
    /// The first.
    pub first: String,
    /// The other.
    pub second: String,
    /// Watts or volts.
    pub what: String,
    /// Readings of both.
    pub count: u32,
    /// Mean of second over first less one, percent.
    pub bias_percent: f64,
    /// Standard deviation of it, percent; needs two readings.
    pub scatter_percent: Option<f64>,
    /// In a sentence.
    pub says: String,
}

/// Source resistance of a bench in a session.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SourceRow {
    /// The bench; nothing where it has no profile.
    pub bench: Option<String>,
    /// The day.
    #[schema(value_type = String, format = Date)]
    pub on: jiff::civil::Date,
    /// Milliohms that its runs show.
    pub milliohm: f64,
    /// Twice the standard deviation of the runs, milliohms.
    pub plus_minus: Option<f64>,
    /// Id of the amplifier.
    pub id: String,
    /// Its name.
    pub name: String,
}

/// A load of a bench over the months.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LoadDrift {
    /// The bench; nothing where it has no profile.
    pub bench: Option<String>,
    /// "2 Ω".
    pub load: String,
    /// How often it was measured.
    pub count: usize,
    /// The first time.
    #[schema(value_type = String, format = Date)]
    pub first_on: jiff::civil::Date,
    /// Ohms then, as shown.
    pub first: String,
    /// The last time.
    #[schema(value_type = String, format = Date)]
    pub last_on: jiff::civil::Date,
    /// Ohms then, as shown.
    pub last: String,
    /// From the first to the last, percent.
    pub change_percent: f64,
}

pub(super) fn meters(entries: &[&Entry]) -> Vec<MeterRow> {
    let mut sums: BTreeMap<(&str, &str, &str), (u32, f64, f64)> = BTreeMap::new();
    for pair in entries.iter().flat_map(|entry| &entry.lesson.meters) {
        let known = sums.entry((&pair.first, &pair.second, &pair.what)).or_default();
        *known = (known.0 + pair.count, known.1 + pair.sum, known.2 + pair.squares);
    }
    let row = |((first, second, what), (count, sum, squares)): ((&str, &str, &str), (u32, f64, f64))| {
        let n = f64::from(count);
        let mean = sum / n;
        let scatter = (count > 1).then(|| ((squares - n * mean * mean).max(0.0) / (n - 1.0)).sqrt());
        let size = format::with_unit(&format::signed(100.0 * mean, 2), "%");
        MeterRow {
            first: first.to_owned(),
            second: second.to_owned(),
            what: what.to_owned(),
            count,
            bias_percent: 100.0 * mean,
            scatter_percent: scatter.map(|scatter| 100.0 * scatter),
            says: format!("{second} against {first}, {what}: {size}"),
        }
    };
    sums.into_iter().map(row).collect()
}

pub(super) fn sources(entries: &[&Entry]) -> Vec<SourceRow> {
    let row = |entry: &&Entry| {
        let (ohm, scatter) = entry.lesson.source_ohm?;
        Some(SourceRow {
            bench: entry.bench.clone(),
            on: entry.lesson.on?,
            milliohm: 1e3 * ohm,
            plus_minus: scatter.map(|scatter| 2e3 * scatter),
            id: entry.id.clone(),
            name: entry.name(),
        })
    };
    let mut rows: Vec<SourceRow> = entries.iter().filter_map(row).collect();
    rows.sort_by(|a, b| a.bench.cmp(&b.bench).then_with(|| a.on.cmp(&b.on)));
    rows
}

pub(super) fn loads(entries: &[&Entry]) -> Vec<LoadDrift> {
    let mut all: Vec<(&Option<String>, f64, jiff::civil::Date, f64)> = Vec::new();
    for entry in entries {
        let Some(on) = entry.lesson.on else { continue };
        all.extend(entry.lesson.loads.iter().map(|load| (&entry.bench, load.nominal_ohm, on, load.measured_ohm)));
    }
    all.sort_by(|a, b| a.0.cmp(b.0).then_with(|| b.1.total_cmp(&a.1)).then_with(|| a.2.cmp(&b.2)));
    let same = |a: &(&Option<String>, f64, _, _), b: &(&Option<String>, f64, _, _)| a.0 == b.0 && same_load(a.1, b.1);
    let row = |own: &[(&Option<String>, f64, jiff::civil::Date, f64)]| {
        let ((bench, nominal, first_on, first), (_, _, last_on, last)) = (own.first()?, own.last()?);
        Some(LoadDrift {
            bench: (*bench).clone(),
            load: format::with_unit(&format::ohms(*nominal), "Ω"),
            count: own.len(),
            first_on: *first_on,
            first: format::with_unit(&format::ohms(*first), "Ω"),
            last_on: *last_on,
            last: format::with_unit(&format::ohms(*last), "Ω"),
            change_percent: 100.0 * (last / first - 1.0),
        })
    };
    all.chunk_by(same).filter(|own| own.len() > 1).filter_map(row).collect()
}
