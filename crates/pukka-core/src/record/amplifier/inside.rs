//! What was seen with the lid off.

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::absent::or_default;
use crate::kernel::problem::{Problem, check_text, under};
use crate::kernel::units::{Amps, Celsius, Microfarads, RatedVolts};

/// Capacitors of one kind.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Capacitors {
    /// Of each.
    #[serde(default)]
    pub uf: Option<Microfarads>,
    /// Voltage rating of each.
    #[serde(default)]
    pub rated_v: Option<RatedVolts>,
    /// Up to which temperature.
    #[serde(default)]
    pub rated_c: Option<Celsius>,
    /// Number of them.
    pub count: u32,
    /// Place: "rails", "supply".
    #[serde(default)]
    pub place: Option<String>,
    /// Label of the mark on a photo that shows them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub label: Option<String>,
    /// They look fake: too small or too light for what is printed on them.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub fake: bool,
}

/// Devices of one kind.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Devices {
    /// Marking on them.
    pub part: String,
    /// Number of them.
    pub count: u32,
    /// Place: "outputs, left", "converter".
    #[serde(default)]
    pub place: Option<String>,
    /// Label of the mark on a photo that shows them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub label: Option<String>,
    /// Current rating of each.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rated_a: Option<Amps>,
}

/// Findings with the lid off.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Inside {
    /// Voltage rating of its rail capacitors.
    #[serde(default)]
    pub rail_capacitor_v: Option<RatedVolts>,
    /// Capacitors.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub capacitors: Vec<Capacitors>,
    /// Output devices, and others.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub devices: Vec<Devices>,
    /// Marking on its board.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub board: Option<String>,
    /// Cooling.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cooling: Option<String>,
    /// Notes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<String>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

const MOST_ROWS: usize = 100;

impl Inside {
    fn rails(&self) -> impl Iterator<Item = &Capacitors> {
        self.capacitors.iter().filter(|row| row.place.as_deref().is_some_and(|place| place.to_lowercase().contains("rail")))
    }

    /// Voltage rating of the rail capacitors: as noted, else the least of the rows that stand in the rails.
    #[must_use]
    pub fn rail_v(&self) -> Option<f64> {
        let rows = self.rails().filter_map(|row| row.rated_v).map(RatedVolts::get).min_by(f64::total_cmp);
        self.rail_capacitor_v.map(RatedVolts::get).or(rows)
    }

    /// Capacitance of the rails, all together, µF.
    #[must_use]
    pub fn rail_uf(&self) -> Option<f64> {
        let rows = self.rails().filter_map(|row| Some(row.uf?.get() * f64::from(row.count)));
        let (rows, uf) = rows.fold((0, 0.0), |(rows, sum), uf| (rows + 1, sum + uf));
        (rows > 0).then_some(uf)
    }

    /// Problems with it.
    pub(super) fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        for (name, rows) in [("capacitors", self.capacitors.len()), ("devices", self.devices.len())] {
            if rows > MOST_ROWS {
                problems.push(Problem::new(name, format!("More than {MOST_ROWS} rows.")));
            }
        }
        for (i, row) in self.capacitors.iter().enumerate() {
            let own = check_row(row.count, row.place.as_deref(), row.label.as_deref());
            problems.extend(under(&format!("capacitors[{i}]"), own));
        }
        for (i, row) in self.devices.iter().enumerate() {
            let mut own = check_row(row.count, row.place.as_deref(), row.label.as_deref());
            check_text(&mut own, "part", &row.part, true, 80);
            problems.extend(under(&format!("devices[{i}]"), own));
        }
        for (name, text) in [("board", &self.board), ("cooling", &self.cooling), ("note", &self.note)] {
            check_text(&mut problems, name, text.as_deref().unwrap_or(""), false, 2_000);
        }
        problems
    }
}

fn check_row(count: u32, place: Option<&str>, label: Option<&str>) -> Vec<Problem> {
    let mut problems = Vec::new();
    if !(1..=1_000).contains(&count) {
        problems.push(Problem::new("count", "Between 1 and 1000."));
    }
    check_text(&mut problems, "place", place.unwrap_or(""), false, 80);
    check_text(&mut problems, "label", label.unwrap_or(""), false, 60);
    problems
}
