//! Every check there is, in one table: how grave it is, where it fires, which readings it may strike, what to look at, and where
//! its threshold is from. The rules in the other files take their thresholds from here; docs/checks.md is written from it.

use crate::assess::checks::thresholds::*;
use crate::record::session::CheckCode;
use crate::record::session::ReadingName as Reading;

/// The runs that a check holds against which.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Scope {
    /// A run by itself.
    Run,
    /// Two runs, or two places.
    Pair,
    /// A run against all the others.
    Others,
    /// A run against a claim it is used for.
    Claim,
}

/// Parts of a run that an open check keeps from being quoted.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Disputes {
    /// Nothing.
    Nothing,
    /// Power.
    Power,
    /// Efficiency.
    Efficiency,
}

/// A check.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Rule {
    /// Code.
    pub code: CheckCode,
    /// Runs that it looks at.
    pub scope: Scope,
    /// Whether a reading that is wrong would explain it.
    pub of_readings: bool,
    /// Figures that it keeps from being quoted as a merit.
    pub disputes: Disputes,
    /// Place where it fires.
    pub thresholds: &'static [Threshold],
    /// Readings that it stands on, and that can be kept out of it one by one.
    pub strikes: &'static [Reading],
    /// Two or three words.
    pub title: &'static str,
    /// Things to look at, or to do, where nothing better is known.
    pub remedy: &'static str,
    /// Source of the threshold.
    pub source: &'static str,
}

const ENERGY: &str = "conservation of energy";
const TRIED: &str = "rule of this bench, tried on more than a hundred bench readings";
const OHM: &str = "P = V²/R";
const POLICY: &str = "the session's policy";
const GUM: &str = "JCGM 100 (GUM), expanded uncertainty, k = 2";

/// Every check, in the order of the rules.
pub const RULES: &[Rule] = &[
    Rule {
        code: CheckCode::OverUnity,
        scope: Scope::Run,
        of_readings: true,
        disputes: Disputes::Nothing,
        thresholds: &[MOST_EFFICIENCY],
        strikes: &[Reading::Current],
        title: "More out than in.",
        remedy: "Check the clamp's zero, range and direction, then the watts and the load. Strike the amps and the watts stand, without an efficiency.",
        source: ENERGY,
    },
    Rule {
        code: CheckCode::ClassCeiling,
        scope: Scope::Run,
        of_readings: true,
        disputes: Disputes::Efficiency,
        thresholds: &[CEILING_AB, CEILING_D],
        strikes: &[Reading::Current],
        title: "More efficient than its class.",
        remedy: "The clamp may read low: zero it, turn it round and repeat the run.",
        source: "π/4, the limit of a class B stage; class D: rule of this bench",
    },
    Rule {
        code: CheckCode::EfficiencyRises,
        scope: Scope::Pair,
        of_readings: true,
        disputes: Disputes::Efficiency,
        thresholds: &[EFFICIENCY_RISE],
        strikes: &[Reading::Current],
        title: "Efficiency rose at the lower load.",
        remedy: "The clamp may have moved, or read low in one of them: check the amps of both.",
        source: TRIED,
    },
    Rule {
        code: CheckCode::PowerStep,
        scope: Scope::Pair,
        of_readings: true,
        disputes: Disputes::Power,
        thresholds: &[STEP, STEP_STOP],
        strikes: &[],
        title: "More than the load allows.",
        remedy: "Measure the lower load again, and check whether the run at the higher one was cut short.",
        source: OHM,
    },
    Rule {
        code: CheckCode::EquivalentsDisagree,
        scope: Scope::Pair,
        of_readings: true,
        disputes: Disputes::Power,
        thresholds: &[EQUIVALENT_WATTS, EQUIVALENT_EFFICIENCY],
        strikes: &[],
        title: "Equivalents disagree.",
        remedy: "Check the loads and the wiring of both: one of them was not as labelled.",
        source: "two halves of a bridge each see half of the load",
    },
    Rule {
        code: CheckCode::ModeOrder,
        scope: Scope::Pair,
        of_readings: true,
        disputes: Disputes::Power,
        thresholds: &[ORDER],
        strikes: &[],
        title: "Less than the clean run.",
        remedy: "Was the drive really raised? The supply may have been lower, or the amplifier hot: check the volts of both.",
        source: GUM,
    },
    Rule {
        code: CheckCode::LoadMismatch,
        scope: Scope::Run,
        of_readings: true,
        disputes: Disputes::Power,
        thresholds: &[LOAD_DOUBT, LOAD_STOP],
        strikes: &[Reading::Power, Reading::VoltsRms],
        title: "Watts and volts disagree.",
        remedy: "Check the load switch and the leads, then strike the wrong reading.",
        source: OHM,
    },
    Rule {
        code: CheckCode::DigitSlip,
        scope: Scope::Others,
        of_readings: true,
        disputes: Disputes::Nothing,
        thresholds: &[SLIP_OFF, SLIP_NEAR],
        strikes: &[],
        title: "A digit may have slipped.",
        remedy: "Check the meter again, then correct the line.",
        source: TRIED,
    },
    Rule {
        code: CheckCode::RepeatedReading,
        scope: Scope::Pair,
        of_readings: true,
        disputes: Disputes::Efficiency,
        thresholds: &[SAME_AMPS_WATTS],
        strikes: &[Reading::Current],
        title: "The same reading twice.",
        remedy: "The meter may have held its reading, or a line was copied: read one of them again.",
        source: TRIED,
    },
    Rule {
        code: CheckCode::SagTooSmall,
        scope: Scope::Others,
        of_readings: true,
        disputes: Disputes::Nothing,
        thresholds: &[SAG, SAG_RUNS],
        strikes: &[Reading::RestVolts, Reading::EndVolts, Reading::Current],
        title: "Almost no sag.",
        remedy: "A charger may be on, or the voltmeter sits on the bank: move it to the amplifier's terminals.",
        source: "V = Rsource · I, fitted to the other runs",
    },
    Rule {
        code: CheckCode::VoltageRose,
        scope: Scope::Run,
        of_readings: true,
        disputes: Disputes::Efficiency,
        thresholds: &[RISE],
        strikes: &[Reading::RestVolts, Reading::EndVolts],
        title: "The supply rose under load.",
        remedy: "A charger came on, or rest and end were swapped.",
        source: "V = Rsource · I",
    },
    Rule {
        code: CheckCode::NoSupplyVolts,
        scope: Scope::Run,
        of_readings: false,
        disputes: Disputes::Nothing,
        thresholds: &[MISSING],
        strikes: &[],
        title: "No supply volts.",
        remedy: "Read the supply at the amplifier's terminals, under load.",
        source: "power follows the supply",
    },
    Rule {
        code: CheckCode::OutOfWindow,
        scope: Scope::Claim,
        of_readings: false,
        disputes: Disputes::Nothing,
        thresholds: &[WINDOW],
        strikes: &[],
        title: "Away from the claim's voltage.",
        remedy: "Start so that it ends at the claim's.",
        source: TRIED,
    },
    Rule {
        code: CheckCode::BenchLimited,
        scope: Scope::Claim,
        of_readings: false,
        disputes: Disputes::Nothing,
        thresholds: &[UNDER, SUPPLY_LIMIT],
        strikes: &[],
        title: "The bench limited it.",
        remedy: "This proves nothing against the amplifier: use a stronger supply, or shorter and thicker leads.",
        source: TRIED,
    },
    Rule {
        code: CheckCode::MetersDisagree,
        scope: Scope::Run,
        of_readings: true,
        disputes: Disputes::Nothing,
        thresholds: &[METERS],
        strikes: &[],
        title: "Two meters disagree.",
        remedy: "Check both against a third. A wrong meter can be struck across the session at once.",
        source: GUM,
    },
    Rule {
        code: CheckCode::DistortionOverLimit,
        scope: Scope::Run,
        of_readings: false,
        disputes: Disputes::Nothing,
        thresholds: &[DISTORTION],
        strikes: &[Reading::Distortion],
        title: "Past the distortion limit.",
        remedy: "Back the level off and read again; this one may be a clipping run.",
        source: POLICY,
    },
    Rule {
        code: CheckCode::Balance,
        scope: Scope::Run,
        of_readings: false,
        disputes: Disputes::Nothing,
        thresholds: &[BALANCE],
        strikes: &[],
        title: "Channels differ.",
        remedy: "Check the gain of each channel, and the load on the weakest.",
        source: TRIED,
    },
    Rule {
        code: CheckCode::Fuse,
        scope: Scope::Run,
        of_readings: false,
        disputes: Disputes::Nothing,
        thresholds: &[FUSES],
        strikes: &[],
        title: "Past the fuses.",
        remedy: "Never a larger fuse.",
        source: "ISO 8820-3, operating time limits of blade fuses",
    },
    Rule {
        code: CheckCode::Hot,
        scope: Scope::Run,
        of_readings: false,
        disputes: Disputes::Nothing,
        thresholds: &[HEATSINK],
        strikes: &[Reading::Temperature],
        title: "Heatsink past the stop rule.",
        remedy: "Let it cool. A hot amplifier gives less: repeat the run cool before judging by it.",
        source: POLICY,
    },
    Rule {
        code: CheckCode::ImpliedVolts,
        scope: Scope::Run,
        of_readings: true,
        disputes: Disputes::Nothing,
        thresholds: &[IMPLIED_LOW, IMPLIED_OVER_REST, IMPLIED_HIGH],
        strikes: &[Reading::Power, Reading::Current, Reading::Efficiency],
        title: "Volts that cannot be.",
        remedy: "Watts, amps and efficiency do not fit together: read all three again, with the supply volts.",
        source: ENERGY,
    },
    Rule {
        code: CheckCode::EfficiencyDisagrees,
        scope: Scope::Run,
        of_readings: true,
        disputes: Disputes::Efficiency,
        thresholds: &[EFFICIENCIES],
        strikes: &[Reading::Efficiency, Reading::Current, Reading::EndVolts],
        title: "Two efficiencies.",
        remedy: "One of watts, volts, amps and the efficiency read is wrong: read them again at the same moment.",
        source: TRIED,
    },
    Rule {
        code: CheckCode::LowEfficiency,
        scope: Scope::Run,
        of_readings: true,
        disputes: Disputes::Efficiency,
        thresholds: &[LEAST_EFFICIENCY, LOW_FROM_W],
        strikes: &[Reading::Current, Reading::Efficiency],
        title: "Almost no output.",
        remedy: "Check the decimal point of the amps, and the clamp's range and zero.",
        source: TRIED,
    },
    Rule {
        code: CheckCode::PowerFalls,
        scope: Scope::Pair,
        of_readings: true,
        disputes: Disputes::Power,
        thresholds: &[FALL],
        strikes: &[],
        title: "Less into the lower load.",
        remedy: "Protection may have limited it, or one of the loads is not as labelled: check both.",
        source: TRIED,
    },
    Rule {
        code: CheckCode::SupplyRange,
        scope: Scope::Run,
        of_readings: true,
        disputes: Disputes::Efficiency,
        thresholds: &[UNDER_REST, SUPPLY_LOW, SUPPLY_HIGH],
        strikes: &[Reading::EndVolts, Reading::RestVolts],
        title: "Supply volts out of range.",
        remedy: "Check the voltmeter: a digit may be missing, or its leads are not at the amplifier.",
        source: TRIED,
    },
    Rule {
        code: CheckCode::ChargerOn,
        scope: Scope::Run,
        of_readings: false,
        disputes: Disputes::Nothing,
        thresholds: &[CHARGER],
        strikes: &[],
        title: "A charger was on.",
        remedy: "Turn it off, let the bank rest, and run it again for a figure without it.",
        source: "V = Rsource · I",
    },
    Rule {
        code: CheckCode::MeterBiased,
        scope: Scope::Pair,
        of_readings: true,
        disputes: Disputes::Nothing,
        thresholds: &[BIAS, BIASED_RUNS],
        strikes: &[],
        title: "A meter reads consistently high or low.",
        remedy: "Check it against a third. A wrong meter can be struck across the session at once.",
        source: GUM,
    },
];

/// The row of a check.
#[must_use]
pub fn rule(code: CheckCode) -> &'static Rule {
    // A code without a row would be a fault of this table; a test asks for each. The first row is a stand-in that never shows.
    RULES.iter().find(|rule| rule.code == code).unwrap_or(&RULES[0])
}

/// The table as Markdown, for docs/checks.md.
#[must_use]
pub fn markdown() -> String {
    let mut text = String::from("| check | fires | looks at | may strike | source |\n|---|---|---|---|---|\n");
    for rule in RULES {
        let fires: Vec<String> = rule.thresholds.iter().map(Threshold::words).collect();
        let strikes: Vec<&str> = rule.strikes.iter().map(|name| name.words()).collect();
        let looks_at = match rule.scope {
            Scope::Run => "a run",
            Scope::Pair => "two runs",
            Scope::Others => "a run against all others",
            Scope::Claim => "a run against its claim",
        };
        text += &format!("| `{}` | {} | {looks_at} | {} | {} |\n", rule.code, fires.join("; "), strikes.join(", "), rule.source);
    }
    text
}
