//! What a session sets out to run, and what was set for each rung.

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::absent::or_default;
use crate::kernel::problem::{Problem, check_text};
use crate::kernel::units::{Drive, Hertz, Ohms, Volts};
use crate::kernel::wiring::Wiring;
use crate::record::amplifier::check_load;
use crate::record::session::grouped;
use crate::record::session::{Burst, BurstWord, Mode};

/// The order of the runs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Order {
    /// All modes of a load, then the next load.
    #[default]
    Rung,
    /// All loads of a mode, then the next mode.
    Mode,
}

/// Order of a second tone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ToneOrder {
    /// Behind all loads of the first.
    #[default]
    Tone,
    /// At each load, behind the first.
    Load,
}

/// A load of the plan, and what was set for it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PlannedRung {
    /// Channels driven, and how.
    pub wiring: Wiring,
    /// The amplifier's switch.
    #[serde(default)]
    pub setting: Option<String>,
    /// Nominal load of each output.
    pub load_ohm: Ohms,
    /// Test frequency.
    #[serde(default)]
    pub tone_hz: Option<Hertz>,
    /// Load as measured at the amplifier's terminals.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub load_measured_ohm: Option<Ohms>,
    /// Loads as measured of the groups of a mixed wiring, in their order.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub group_loads_measured_ohm: Vec<Ohms>,
    /// Supply at rest.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rest_v: Option<Volts>,
    /// Whether a charger is on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub charger_on: Option<bool>,
    /// Bank that feeds it, when the bench has several.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bank: Option<String>,
    /// Drive above clip onset.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub extra_drive_db: Option<Drive>,
    /// Modes to run; none when the rung is left out.
    #[serde(default = "every_mode")]
    pub modes: Vec<Mode>,
    /// Kinds of burst to run; none said: the standard one.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<BurstWord>)]
    pub bursts: Vec<Burst>,
    /// Build of its load from the bench's resistors, in words.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub made_of: Option<String>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

fn is_usual(order: &ToneOrder) -> bool {
    *order == ToneOrder::default()
}

fn every_mode() -> Vec<Mode> {
    Mode::ALL.to_vec()
}

impl PlannedRung {
    /// Problems with it, for an amplifier of so many channels.
    #[must_use]
    pub fn check(&self, channels: u8) -> Vec<Problem> {
        let mut problems = Vec::new();
        self.wiring.check(channels, "wiring", &mut problems);
        check_load(&mut problems, "load_ohm", self.load_ohm);
        if let Some(setting) = &self.setting {
            check_text(&mut problems, "setting", setting, true, 40);
        }
        check_text(&mut problems, "bank", self.bank.as_deref().unwrap_or(""), false, 40);
        check_text(&mut problems, "made_of", self.made_of.as_deref().unwrap_or(""), false, 200);
        problems.extend(self.wiring.check_load("load_ohm", self.load_ohm));
        problems.extend(grouped::check_measured(self.wiring, self.load_measured_ohm, &self.group_loads_measured_ohm));
        let one = self.load_measured_ohm.map(|measured| ("load_measured_ohm".to_owned(), measured, self.load_ohm));
        let of_groups = self.wiring.groups().into_iter().flat_map(|groups| {
            let measured = self.group_loads_measured_ohm.iter().zip(groups.iter()).enumerate();
            measured.map(|(i, (load, group))| (format!("group_loads_measured_ohm[{i}]"), *load, group.load_ohm)).collect::<Vec<_>>()
        });
        for (at, measured, nominal) in one.into_iter().chain(of_groups) {
            check_load(&mut problems, &at, measured);
            let off = (measured.get() / nominal.get() - 1.0).abs();
            if off > 0.25 {
                let says = format!(
                    "{} Ω is {:.0} % from the nominal {} Ω: that is a different load, not this one measured.",
                    measured.get(),
                    off * 100.0,
                    nominal.get()
                );
                problems.push(Problem::new(at, says));
            }
        }
        for (i, burst) in self.bursts.iter().enumerate() {
            if matches!(burst, Burst::Counted(count) if !(1..=10_000).contains(count)) {
                problems.push(Problem::new(format!("bursts[{i}]"), "Between 1 and 10 000 cycles."));
            }
        }
        if let Some(rest) = self.rest_v
            && !(6.0..=60.0).contains(&rest.get())
        {
            problems.push(Problem::new("rest_v", "A rest voltage is between 6 and 60 V."));
        }
        if let Some(tone) = self.tone_hz
            && !(10.0..=22_000.0).contains(&tone.get())
        {
            problems.push(Problem::new("tone_hz", "A test tone is between 10 Hz and 22 kHz."));
        }
        if let Some(drive) = self.extra_drive_db
            && !(0.0..=30.0).contains(&drive.get())
        {
            problems.push(Problem::new("extra_drive_db", "Extra drive is 0 to 30 dB above the drive that just clips."));
        }
        problems
    }
}

/// Runs that a session sets out to make.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Plan {
    /// The order of the runs.
    #[serde(default, deserialize_with = "or_default")]
    pub order: Order,
    /// Order of a second tone.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "is_usual")]
    pub tone_order: ToneOrder,
    /// Supply at rest, before the first run.
    #[serde(default)]
    pub rest_v: Option<Volts>,
    /// Loads.
    #[serde(default, deserialize_with = "or_default")]
    pub rungs: Vec<PlannedRung>,
}
