//! Meters that are due for a check against another.

use jiff::Unit;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};

use crate::record::bench::BenchProfile;

/// A meter that is due, or that nobody ever checked.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct DueRow {
    /// The bench.
    pub bench: String,
    /// The meter, by its name.
    pub meter: String,
    /// The day it was last checked.
    #[schema(value_type = Option<String>, format = Date)]
    pub last_checked_on: Option<Date>,
    /// "checked 14 months ago".
    pub says: String,
}

/// A check is good for so many months.
pub const MONTHS: i32 = 12;

/// Meters of these benches whose check is older than [`MONTHS`], the oldest first; those never checked before them.
#[must_use]
pub fn due(benches: &[BenchProfile], today: Date) -> Vec<DueRow> {
    let row = |bench: &BenchProfile, name: &str, last_checked_on: Option<Date>| {
        let months = last_checked_on.map(|on| on.until((Unit::Month, today)).map_or(0, |span| span.get_months()));
        let says = match months {
            None => "never checked against another".to_owned(),
            Some(months) if months >= MONTHS => format!("last checked {months} months ago"),
            Some(_) => return None,
        };
        Some(DueRow { bench: bench.name.clone(), meter: name.to_owned(), last_checked_on, says })
    };
    let mut rows: Vec<DueRow> = benches
        .iter()
        .flat_map(|bench| bench.meters.iter().map(move |meter| (bench, meter)))
        .filter_map(|(bench, meter)| row(bench, meter.name.as_deref().unwrap_or(&meter.id), meter.last_checked_on))
        .collect();
    rows.sort_by(|a, b| a.last_checked_on.cmp(&b.last_checked_on).then_with(|| a.meter.cmp(&b.meter)));
    rows
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_check_is_good_for_twelve_months_to_the_day() {
        let bench: BenchProfile = serde_json::from_value(serde_json::json!({
            "name": "Ferry Lane", "supply": { "kind": "battery" }, "loads": [], "leads": [],
            "meters": [{ "id": "new", "quantity": "power", "reading_ratio": 0.01, "absolute": 0.0, "last_checked_on": "2025-11-30" },
                       { "id": "old", "quantity": "power", "reading_ratio": 0.01, "absolute": 0.0, "last_checked_on": "2025-11-29" },
                       { "id": "clamp", "quantity": "current", "reading_ratio": 0.02, "absolute": 0.0, "name": "The clamp" }]
        }))
        .unwrap();
        let rows = due(&[bench], "2026-11-29".parse().unwrap());
        let says: Vec<(&str, &str)> = rows.iter().map(|row| (row.meter.as_str(), row.says.as_str())).collect();
        assert_eq!(says, [("The clamp", "never checked against another"), ("old", "last checked 12 months ago")]);
    }
}
