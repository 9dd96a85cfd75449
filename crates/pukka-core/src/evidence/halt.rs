//! What stops a plan: protection, a fuse, smoke, a death. It goes on only when the reviewer has seen to it and says so.

use serde::{Deserialize, Serialize};

use crate::kernel::format;
use crate::record::session::{Incident, Run, Session};

/// Word by which an incident is accepted, as a check is.
pub const CODE: &str = "incident";

/// Event that stopped the plan.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Halt {
    /// The run it happened in.
    pub run: String,
    /// Account of the event.
    pub incident: Incident,
    /// "It went into protection at 1 Ω, clipping, 13.41 V."
    pub says: String,
    /// Action to take, in order.
    pub steps: Vec<String>,
    /// Nothing can go on from here.
    pub last: bool,
}

/// The newest incident that nobody has seen to; a death stays.
#[must_use]
pub fn halt(session: &Session) -> Option<Halt> {
    let ended = session.ended_by().map(|run| run.id.as_str());
    let open = |run: &&Run| match run.incident {
        Some(Incident::Died) => ended == Some(run.id.as_str()),
        _ => !run.accepted.iter().any(|accepted| accepted.code == CODE),
    };
    let run = session.standing_runs().filter(|run| run.incident.is_some()).filter(open).max_by_key(|run| run.at)?;
    let incident = run.incident?;
    Some(Halt { run: run.id.clone(), incident, says: says(run, incident), steps: steps(incident), last: incident == Incident::Died })
}

/// Account of a run's mishap, in a sentence.
#[must_use]
pub fn says(run: &Run, incident: Incident) -> String {
    let volts =
        run.end_volts().or(run.rest_v).map(|v| format!(", {}", format::with_unit(&format::volts(v.get()), "V"))).unwrap_or_default();
    let load = run.wiring.load_words(run.load_nominal_ohm);
    format!("{} at {load}, {}{volts}.", incident.words(), run.mode.word())
}

impl Incident {
    /// In the past tense, with a capital.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Protection => "It went into protection",
            Self::Fuse => "A fuse opened",
            Self::Smoke => "It smoked",
            Self::Died => "It died",
        }
    }
}

fn steps(incident: Incident) -> Vec<String> {
    let steps: &[&str] = match incident {
        Incident::Protection => &[
            "Level to zero, then the supply off.",
            "Feel for heat at the heatsink's edge, look at the loads and the leads for a short.",
            "Let it rest, then power it up without a tone and read the idle draw: no tone before it is as it was.",
            "Go on one step higher in ohms, or lower in volts.",
        ],
        Incident::Fuse => &[
            "Level to zero, the supply off, and the lead disconnected before a fuse is touched.",
            "Find out why it opened before it is replaced.",
            "The same rating again: never bridged, never larger.",
        ],
        Incident::Smoke => &[
            "Cut the supply with one hand, from a distance. Do not breathe it; air the room.",
            "Do not power it up again. Capacitors hold charge: discharge through a resistor and measure before touching a board.",
            "Note where it came from, with a photo, when it is cold.",
        ],
        Incident::Died => &[
            "Cut the supply. Check the loads and the leads for a short before anything else is connected to them.",
            "Capacitors hold charge: discharge through a resistor and measure before touching a board.",
            "Tell its owner what happened, at which load and voltage: it is all in the incident log.",
            "The session goes on when a repair or a replacement is noted, with its date.",
        ],
    };
    steps.iter().map(|step| (*step).to_owned()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::{Acceptance, Repair, examples};

    #[test]
    fn a_plan_stops_until_it_is_seen_to() {
        let mut session = examples::mono_1100();
        assert_eq!(halt(&session), None);
        session.runs[7].incident = Some(Incident::Protection);
        let stopped = halt(&session).unwrap();
        assert!(stopped.says.starts_with("It went into protection at 1\u{202f}Ω, clipping, "), "{}", stopped.says);
        assert!(!stopped.last && stopped.steps.len() > 2);
        session.runs[7].accepted.push(Acceptance { code: CODE.into(), reason: "thermal, cooled down".into() });
        assert_eq!(halt(&session), None);
        session.runs[7].incident = Some(Incident::Died);
        assert!(halt(&session).unwrap().last, "nobody accepts a death away");
        let death = jiff::tz::TimeZone::UTC.to_datetime(session.runs[7].at).date();
        session.repairs.push(Repair { on: death.yesterday().unwrap(), what: "output stage, before".into() });
        assert!(halt(&session).is_some(), "a repair before it mends nothing");
        session.repairs.push(Repair { on: death, what: "output stage".into() });
        assert_eq!(halt(&session), None, "mended, it goes on");
        session.repairs.clear();
        session.runs[7].valid = false;
        assert_eq!(halt(&session), None, "it was logged by mistake");
    }
}
