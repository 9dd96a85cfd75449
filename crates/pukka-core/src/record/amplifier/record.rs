//! What else is written down when an amplifier arrives: how it is connected, controlled, built, and in what state it came.

use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::format;
use crate::kernel::problem::{Problem, check_count, check_text, under};
use crate::kernel::units::{Hertz, Millimetres, SquareMillimetres};
use crate::record::amplifier::Amplifier;
use crate::record::amplifier::market::check_market;
use crate::record::bench::leads::nearest_awg;

/// Task of a control.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ControlKind {
    /// Passes what is below it.
    LowPass,
    /// Passes what is above it; a subsonic filter is one.
    HighPass,
    /// Lifts a band.
    Boost,
    /// Turns or shifts the phase.
    Phase,
    /// Sets the gain.
    Gain,
}

impl ControlKind {
    /// Word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::LowPass => "low-pass",
            Self::HighPass => "high-pass",
            Self::Boost => "boost",
            Self::Phase => "phase",
            Self::Gain => "gain",
        }
    }
}

/// A control on the amplifier.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Control {
    /// Kind.
    pub kind: ControlKind,
    /// Lower end of its range.
    #[serde(default)]
    pub from_hz: Option<Hertz>,
    /// Upper end of its range.
    #[serde(default)]
    pub to_hz: Option<Hertz>,
    /// A switch takes it out altogether.
    #[serde(default)]
    pub can_be_out: bool,
    /// Range in the maker's words, where it is not a frequency: "0 to 12 dB", "0/180°".
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub range: Option<String>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

impl Control {
    /// "high-pass (30 Hz to 120 Hz)".
    #[must_use]
    pub fn words(&self) -> String {
        let ends = match (self.from_hz, self.to_hz) {
            (Some(from), Some(to)) if from == to => format::tone(from.get()),
            (Some(from), Some(to)) => format!("{} to {}", format::tone(from.get()), format::tone(to.get())),
            (Some(one), None) | (None, Some(one)) => format::tone(one.get()),
            (None, None) => self.range.clone().unwrap_or_default(),
        };
        if ends.is_empty() { self.kind.word().to_owned() } else { format!("{} ({ends})", self.kind.word()) }
    }
}

/// The largest conductors its terminals take.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Terminals {
    /// Of the supply.
    #[serde(default)]
    pub power_mm2: Option<SquareMillimetres>,
    /// Of the speakers.
    #[serde(default)]
    pub speaker_mm2: Option<SquareMillimetres>,
}

impl Terminals {
    /// "power 53.5 mm² (1/0 AWG), speakers 8.4 mm² (8 AWG)".
    #[must_use]
    pub fn words(&self) -> String {
        let words = |name: &str, section: Option<SquareMillimetres>| {
            section.map(|section| {
                let mm2 = format::with_unit(&format::fixed(section.get(), 1), "mm²");
                format!("{name} {mm2} ({})", nearest_awg(section))
            })
        };
        [words("power", self.power_mm2), words("speakers", self.speaker_mm2)].into_iter().flatten().collect::<Vec<_>>().join(", ")
    }
}

/// Outer size.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Size {
    /// Length.
    pub length_mm: Millimetres,
    /// Width.
    pub width_mm: Millimetres,
    /// Height.
    pub height_mm: Millimetres,
}

/// In what state it came.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum State {
    /// New.
    New,
    /// Used.
    Used,
    /// Repaired.
    Repaired,
}

/// Condition and history.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Condition {
    /// In what state it came.
    pub state: State,
    /// Work done to it, or what shows.
    #[serde(default)]
    pub history: Option<String>,
    /// Powered up first through a current limit, and its idle draw watched.
    #[serde(default)]
    pub limited_first_power_up: bool,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

/// Lender, and the date when it goes back.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Loan {
    /// Lender.
    #[serde(default)]
    pub lent_by: Option<String>,
    /// By when it goes back.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = Date)]
    pub back_by: Option<jiff::civil::Date>,
    /// End of the loan.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ended: Option<LoanEnd>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

/// Way in which a loan ended.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LoanEnd {
    /// Outcome of it.
    pub how: LoanOutcome,
    /// On which day.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = Date)]
    pub on: Option<jiff::civil::Date>,
    /// Cost, and who bore it, in words.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cost: Option<String>,
}

/// Outcome of a borrowed amplifier.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum LoanOutcome {
    /// Went back.
    Returned,
    /// Died here.
    Died,
    /// Another was given for it.
    Replaced,
}

/// Years after which an amplifier counts as old: its capacitors may have dried out.
const OLD_YEARS: u16 = 15;
/// The first year an amplifier for a car can be from.
const FIRST_YEAR: u16 = 1950;
const MOST_LINES: usize = 24;
/// Tags of an amplifier.
pub const MOST_TAGS: usize = 20;

impl Amplifier {
    /// Whether it asks for a current-limited first power-up: repaired, or old. `this_year` comes from outside.
    #[must_use]
    pub fn is_fragile(&self, this_year: Option<u16>) -> bool {
        let repaired = self.condition.as_ref().is_some_and(|condition| condition.state == State::Repaired);
        let used = self.condition.as_ref().is_none_or(|condition| condition.state != State::New);
        let old = self.year.zip(this_year).is_some_and(|(made, now)| now.saturating_sub(made) >= OLD_YEARS);
        repaired || (old && used)
    }

    pub(super) fn check_record(&self, problems: &mut Vec<Problem>) {
        check_text(problems, "serial", self.serial.as_deref().unwrap_or(""), false, 80);
        if self.year.is_some_and(|year| !(FIRST_YEAR..=2_100).contains(&year)) {
            problems.push(Problem::new("year", format!("It was made between {FIRST_YEAR} and 2100.")));
        }
        for (path, list) in [("inputs", &self.inputs), ("accessories", &self.accessories)] {
            check_lines(problems, path, list);
        }
        if self.controls.len() > MOST_LINES {
            problems.push(Problem::new("controls", format!("More than {MOST_LINES} controls.")));
        }
        for (i, control) in self.controls.iter().enumerate() {
            check_text(problems, &format!("controls[{i}].range"), control.range.as_deref().unwrap_or(""), false, 80);
            if control.from_hz.zip(control.to_hz).is_some_and(|(from, to)| from > to) {
                problems.push(Problem::new(format!("controls[{i}].to_hz"), "Its range ends below where it begins."));
            }
        }
        let history = self.condition.as_ref().and_then(|condition| condition.history.as_deref());
        check_text(problems, "condition.history", history.unwrap_or(""), false, 1_000);
        if self.condition.as_ref().is_some_and(|condition| condition.state == State::Repaired)
            && history.is_none_or(|text| text.trim().is_empty())
        {
            problems.push(Problem::new("condition.history", "Say what was repaired: it is owed to whoever reads the result."));
        }
        let lender = self.loan.as_ref().and_then(|loan| loan.lent_by.as_deref());
        check_text(problems, "loan.lent_by", lender.unwrap_or(""), false, 120);
        if let Some(inside) = &self.inside {
            problems.extend(under("inside", inside.check()));
        }
        if let Some(tour) = &self.tour {
            problems.extend(under("tour", tour.check()));
        }
        for (path, list) in [("likes", &self.likes), ("consider", &self.consider), ("accessories_missing", &self.accessories_missing)] {
            check_lines(problems, path, list);
        }
        check_market(problems, &self.prices, &self.relations);
        check_count(problems, "tags", self.tags.len(), MOST_TAGS);
        for (i, tag) in self.tags.iter().enumerate().take(MOST_TAGS) {
            check_tag(problems, &format!("tags[{i}]"), tag);
        }
        check_text(problems, "notes", self.notes.as_deref().unwrap_or(""), false, 4_000);
    }
}

/// Checks one tag. A comma stands between tags where they are typed.
pub fn check_tag(problems: &mut Vec<Problem>, path: &str, tag: &str) {
    check_text(problems, path, tag, true, 40);
    if tag.contains(',') {
        problems.push(Problem::new(path, "A tag has no comma in it."));
    }
}

fn check_lines(problems: &mut Vec<Problem>, path: &str, list: &[String]) {
    if list.len() > MOST_LINES {
        problems.push(Problem::new(path, format!("More than {MOST_LINES} lines.")));
    }
    for (i, text) in list.iter().enumerate() {
        check_text(problems, &format!("{path}[{i}]"), text, true, 300);
    }
}

/// Effects of the controls on a tone: a 40 Hz run with a high-pass in measures the filter.
#[must_use]
pub fn controls_against(amplifier: &Amplifier, tone_hz: f64) -> Vec<String> {
    controls_left(amplifier, tone_hz, false, false)
}

/// Likewise, without those that were taken out already when the gain was set.
#[must_use]
pub fn controls_left(amplifier: &Amplifier, tone_hz: f64, filters_out: bool, boost_off: bool) -> Vec<String> {
    let seen_to = |control: &&Control| match control.kind {
        ControlKind::Boost => !boost_off,
        _ => !(filters_out && control.can_be_out),
    };
    amplifier.controls.iter().filter(seen_to).filter_map(|control| against(control, tone_hz)).collect()
}

fn against(control: &Control, tone_hz: f64) -> Option<String> {
    let (words, tone) = (control.words(), format::tone(tone_hz));
    let (in_the_way, turn) = match control.kind {
        // Within an octave of its corner a filter already takes something away.
        ControlKind::HighPass => (control.to_hz.or(control.from_hz).is_none_or(|hz| hz.get() * 2.0 > tone_hz), control.from_hz),
        ControlKind::LowPass => (control.from_hz.or(control.to_hz).is_none_or(|hz| hz.get() < tone_hz * 2.0), control.to_hz),
        ControlKind::Boost => return Some(format!("Turn the {words} off: with it in, the run measures the boost.")),
        ControlKind::Phase | ControlKind::Gain => return None,
    };
    if !in_the_way {
        return None;
    }
    Some(if control.can_be_out {
        format!("Take the {words} out: at {tone} the run would measure the filter.")
    } else {
        match turn {
            Some(end) => {
                let to = format::tone(end.get());
                let clear = if control.kind == ControlKind::HighPass { end.get() * 2.0 <= tone_hz } else { end.get() >= tone_hz * 2.0 };
                if clear {
                    format!("Turn the {words} to {to}, out of the way of {tone}.")
                } else {
                    format!("The {words} cannot be taken out: turn it to {to}, and say so, as at {tone} it still counts.")
                }
            }
            None => format!("The {words} cannot be taken out: at {tone} the run measures it too."),
        }
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::examples::mono_1100;

    fn control(kind: ControlKind, from: Option<f64>, to: Option<f64>, can_be_out: bool) -> Control {
        let hz = |value: Option<f64>| value.map(|value| Hertz::new(value).unwrap());
        Control { kind, from_hz: hz(from), to_hz: hz(to), can_be_out, range: None, extra: Map::new() }
    }

    #[test]
    fn controls_in_the_way_of_a_tone() {
        let mut amplifier = mono_1100().amplifier;
        amplifier.controls = vec![
            control(ControlKind::HighPass, Some(15.0), Some(50.0), true),
            control(ControlKind::LowPass, Some(50.0), Some(200.0), false),
            control(ControlKind::Gain, None, None, false),
        ];
        let at_40 = controls_against(&amplifier, 40.0);
        assert_eq!(at_40.len(), 2, "{at_40:?}");
        assert_eq!(at_40[0], "Take the high-pass (15 Hz to 50 Hz) out: at 40 Hz the run would measure the filter.");
        assert_eq!(at_40[1], "Turn the low-pass (50 Hz to 200 Hz) to 200 Hz, out of the way of 40 Hz.");
        amplifier.controls[1] = control(ControlKind::LowPass, Some(250.0), Some(3_000.0), false);
        amplifier.controls[0] = control(ControlKind::HighPass, Some(10.0), Some(15.0), true);
        assert!(controls_against(&amplifier, 40.0).is_empty(), "an octave away on either side it does nothing");
        assert_eq!(controls_against(&amplifier, 1_000.0).len(), 1, "1 kHz through the low-pass of a subwoofer amplifier");
        amplifier.controls[1] = control(ControlKind::LowPass, Some(50.0), Some(200.0), false);
        assert!(controls_against(&amplifier, 1_000.0)[0].contains("it still counts"));
    }

    #[test]
    fn old_and_repaired_amplifiers_ask_for_a_limited_first_power_up() {
        let mut amplifier = mono_1100().amplifier;
        assert!(!amplifier.is_fragile(Some(2026)));
        amplifier.year = Some(2004);
        assert!(amplifier.is_fragile(Some(2026)) && !amplifier.is_fragile(Some(2010)) && !amplifier.is_fragile(None));
        let condition = |state| Condition { state, history: None, limited_first_power_up: false, extra: Map::new() };
        amplifier.condition = Some(condition(State::New));
        assert!(!amplifier.is_fragile(Some(2026)), "new old stock");
        amplifier.condition = Some(condition(State::Repaired));
        amplifier.year = None;
        assert!(amplifier.is_fragile(None));
        assert_eq!(amplifier.check()[0].path, "condition.history", "and what was repaired has to be said");
    }

    #[test]
    fn the_record_is_checked_where_it_stands() {
        let mut amplifier = mono_1100().amplifier;
        amplifier.year = Some(1066);
        amplifier.inputs = vec![String::new()];
        amplifier.controls = vec![control(ControlKind::LowPass, Some(200.0), Some(50.0), false)];
        let paths: Vec<_> = amplifier.check().into_iter().map(|problem| problem.path).collect();
        assert_eq!(paths, ["year", "inputs[0]", "controls[0].to_hz"]);
    }
}
