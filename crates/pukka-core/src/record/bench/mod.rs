//! The bench as it was: its supply, its loads, its leads, its meters; and what can be made of them.

pub mod inventory;
pub mod leads;
mod network;

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::absent::or_default;
use crate::kernel::problem::{Problem, check_text};
use crate::kernel::units::{Amps, Metres, Ohms, Ratio, SquareMillimetres, Watts};
use crate::record::amplifier::check_load;

/// Supply of the amplifier.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum SupplyKind {
    /// A battery bank.
    Battery,
    /// A mains-powered supply.
    Supply,
    /// Both together.
    Both,
}

/// The supply of a bench.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Supply {
    /// Format.
    pub kind: SupplyKind,
    /// The most it gives.
    #[serde(default)]
    pub current_limit_a: Option<Amps>,
    /// The fuse in its lead.
    #[serde(default)]
    pub lead_fuse_a: Option<Amps>,
    /// Source resistance.
    #[serde(default)]
    pub source_ohm: Option<Ohms>,
    /// Supercapacitors stand in it: they stay live when it is disconnected.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub supercapacitors: bool,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

/// Resistors of one kind.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LoadResistor {
    /// As printed.
    pub nominal_ohm: Ohms,
    /// As measured.
    #[serde(default)]
    pub measured_ohm: Option<Ohms>,
    /// Own tolerance, as a fraction.
    #[serde(default)]
    pub tolerance_ratio: Option<Ratio>,
    /// Power that it takes continuously.
    #[serde(default)]
    pub continuous_w: Option<Watts>,
    /// Power that it takes for ten seconds.
    #[serde(default)]
    pub ten_second_w: Option<Watts>,
    /// Number.
    pub count: u32,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

impl LoadResistor {
    /// Ohms computed with: measured when known, else nominal.
    #[must_use]
    pub fn ohm(&self) -> f64 {
        self.measured_ohm.unwrap_or(self.nominal_ohm).get()
    }
}

/// A lead that carries the supply current, or a load's.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Lead {
    /// Ends that it joins: "bank to amplifier".
    pub name: String,
    /// Length each way.
    pub length_m: Metres,
    /// Section of its copper.
    pub section_mm2: SquareMillimetres,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

/// Quantity that a meter reads.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Quantity {
    /// Output watts.
    Power,
    /// Output volts.
    Voltage,
    /// Supply amps.
    Current,
    /// Ohms of a load.
    Resistance,
    /// Supply volts.
    SupplyVoltage,
}

/// A meter and its limits: ± (`reading_ratio` · reading + `absolute`).
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Meter {
    /// Id inside the session.
    pub id: String,
    /// Quantity that it reads.
    pub quantity: Quantity,
    /// Part of its limits that grows with the reading.
    pub reading_ratio: Ratio,
    /// Part of its limits that does not, in the unit it reads.
    #[serde(default, deserialize_with = "or_default")]
    pub absolute: f64,
    /// Name at the bench.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// The day it was last checked against another.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub last_checked_on: Option<jiff::civil::Date>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

impl Meter {
    /// Half-width of its limits at a reading, in the unit it reads.
    #[must_use]
    pub fn half_width(&self, reading: f64) -> f64 {
        self.reading_ratio.get() * reading.abs() + self.absolute
    }
}

/// The bench as it was for one session.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Bench {
    /// Supply.
    pub supply: Supply,
    /// The resistors it had.
    #[serde(default, deserialize_with = "or_default")]
    pub loads: Vec<LoadResistor>,
    /// Steps of a load box, for each output: fixed, and never combined.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub step_box_ohm: Vec<Ohms>,
    /// The meters it had.
    #[serde(default, deserialize_with = "or_default")]
    pub meters: Vec<Meter>,
    /// The leads that carry the supply current.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub leads: Vec<Lead>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

impl Default for Bench {
    fn default() -> Self {
        Self {
            supply: Supply {
                kind: SupplyKind::Battery,
                current_limit_a: None,
                lead_fuse_a: None,
                source_ohm: None,
                supercapacitors: false,
                extra: Map::new(),
            },
            loads: Vec::new(),
            step_box_ohm: Vec::new(),
            meters: Vec::new(),
            leads: Vec::new(),
            extra: Map::new(),
        }
    }
}

impl Bench {
    /// The meter a reading names, else the first of its quantity.
    #[must_use]
    pub fn meter(&self, named: Option<&str>, quantity: Quantity) -> Option<&Meter> {
        named
            .and_then(|id| self.meters.iter().find(|meter| meter.id == id && meter.quantity == quantity))
            .or_else(|| self.meters.iter().find(|meter| meter.quantity == quantity))
    }

    /// Problems with it, beyond what its types refuse.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        for (list, len) in [("loads", self.loads.len()), ("meters", self.meters.len()), ("leads", self.leads.len())] {
            if len > MOST_OF_A_LIST {
                problems.push(Problem::new(list, format!("A bench has at most {MOST_OF_A_LIST} {list}.")));
            }
        }
        if self.step_box_ohm.len() > MOST_OF_A_LIST {
            problems.push(Problem::new("step_box_ohm", format!("A load box has at most {MOST_OF_A_LIST} steps.")));
        }
        for (i, step) in self.step_box_ohm.iter().enumerate() {
            check_load(&mut problems, &format!("step_box_ohm[{i}]"), *step);
        }
        for (i, load) in self.loads.iter().enumerate() {
            check_resistor(&mut problems, &format!("loads[{i}]"), load);
        }
        for (i, meter) in self.meters.iter().enumerate() {
            check_text(&mut problems, &format!("meters[{i}].id"), &meter.id, true, 40);
            if self.meters[..i].iter().any(|other| other.id == meter.id) {
                problems.push(Problem::new(format!("meters[{i}].id"), format!("There is another “{}” in this list.", meter.id)));
            }
            check_text(&mut problems, &format!("meters[{i}].name"), meter.name.as_deref().unwrap_or(""), false, 80);
            if !(meter.absolute.is_finite() && meter.absolute >= 0.0) {
                problems.push(Problem::new(format!("meters[{i}].absolute"), "The limits of a meter are 0 or more."));
            }
            if meter.reading_ratio.get() > 0.5 {
                problems.push(Problem::new(format!("meters[{i}].reading_ratio"), "A meter that is 50 % off measures nothing."));
            }
        }
        for (i, lead) in self.leads.iter().enumerate() {
            check_text(&mut problems, &format!("leads[{i}].name"), &lead.name, true, 80);
        }
        if let Some(source) = self.supply.source_ohm
            && source.get() > 1.0
        {
            problems
                .push(Problem::new("supply.source_ohm", "A supply of more than 1 Ω feeds no amplifier: give it in ohms, 0.005 for 5 mΩ."));
        }
        problems
    }
}

/// A bench that sessions are made on, by its name.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct BenchProfile {
    /// Name.
    pub name: String,
    /// Supply.
    pub supply: Supply,
    /// The resistors it has.
    #[serde(default, deserialize_with = "or_default")]
    pub loads: Vec<LoadResistor>,
    /// Steps of a load box, for each output: fixed, and never combined.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub step_box_ohm: Vec<Ohms>,
    /// The meters it has.
    #[serde(default, deserialize_with = "or_default")]
    pub meters: Vec<Meter>,
    /// The leads that carry the supply current.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub leads: Vec<Lead>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

impl BenchProfile {
    /// The bench as it stands now: what a session keeps a copy of.
    #[must_use]
    pub fn bench(&self) -> Bench {
        let Self { supply, loads, step_box_ohm, meters, leads, extra, .. } = self.clone();
        Bench { supply, loads, step_box_ohm, meters, leads, extra }
    }

    /// Problems with it.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        check_text(&mut problems, "name", &self.name, true, 80);
        problems.extend(self.bench().check());
        problems
    }
}

/// The most of one sort of thing on a bench.
const MOST_OF_A_LIST: usize = 40;

fn check_resistor(problems: &mut Vec<Problem>, path: &str, load: &LoadResistor) {
    check_load(problems, &format!("{path}.nominal_ohm"), load.nominal_ohm);
    if let Some(measured) = load.measured_ohm {
        check_load(problems, &format!("{path}.measured_ohm"), measured);
        if (measured.get() / load.nominal_ohm.get() - 1.0).abs() > 0.25 {
            problems.push(Problem::new(format!("{path}.measured_ohm"), "That is more than 25 % from its nominal ohms: another resistor."));
        }
    }
    if !(1..=200).contains(&load.count) {
        problems.push(Problem::new(format!("{path}.count"), "There are 1 to 200 resistors of a kind."));
    }
    if let (Some(continuous), Some(short)) = (load.continuous_w, load.ten_second_w)
        && short.get() < continuous.get()
    {
        problems.push(Problem::new(format!("{path}.ten_second_w"), "Its ten-second rating cannot be below its continuous rating."));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::examples::mono_1100;

    #[test]
    fn what_cannot_stand_on_a_bench_is_named() {
        let mut bench = mono_1100().bench;
        assert_eq!(bench.check(), []);
        let ohms = |value| Ohms::new(value).unwrap();
        bench.loads[0].measured_ohm = Some(ohms(8.0));
        bench.loads[0].count = 0;
        bench.loads[0].ten_second_w = Some(Watts::new(1.0).unwrap());
        bench.meters.push(bench.meters[0].clone());
        bench.meters[0].absolute = -1.0;
        bench.supply.source_ohm = Some(ohms(5.0));
        let paths: Vec<_> = bench.check().into_iter().map(|problem| problem.path).collect();
        let again = format!("meters[{}].id", bench.meters.len() - 1);
        assert_eq!(
            paths,
            ["loads[0].measured_ohm", "loads[0].count", "loads[0].ten_second_w", "meters[0].absolute", again.as_str(), "supply.source_ohm"]
        );
    }

    #[test]
    fn keys_nobody_knows_are_kept_in_every_part() {
        let text = r#"{"supply":{"kind":"battery","current_limit_a":null,"lead_fuse_a":null,"source_ohm":null,"ah":95},
            "loads":[{"nominal_ohm":4.0,"measured_ohm":null,"tolerance_ratio":null,"continuous_w":null,"ten_second_w":null,"count":2,"shelf":"left"}],
            "meters":[{"id":"m1","quantity":"power","reading_ratio":0.01,"absolute":0.0,"colour":"grey"}],
            "leads":[{"name":"bank","length_m":1.5,"section_mm2":50.0,"lug":"M8"}]}"#;
        let bench: Bench = serde_json::from_str(text).unwrap();
        assert_eq!(serde_json::to_value(&bench).unwrap(), serde_json::from_str::<Value>(text).unwrap());
    }
}
