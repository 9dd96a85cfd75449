//! Checks on what was read: each has a code, a plain sentence and the numbers it used.

use serde::{Deserialize, Serialize};

use super::figures::{RunNumbers, numbers};
use crate::amplifier::Class;
use crate::format;
use crate::session::{Method, Mode, Run, Session};
use crate::units::more_than;
use crate::wiring::Wiring;

/// How grave a check is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Severity {
    /// Cannot be true.
    Stop,
    /// Look again.
    Doubt,
    /// Good to know.
    Note,
}

/// One check that fired.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Check {
    /// Its code.
    pub code: String,
    /// How grave.
    pub severity: Severity,
    /// The runs it names.
    pub runs: Vec<String>,
    /// Where they stand on the ladder: "2 Ω, clipping".
    pub place: String,
    /// Whether the reviewer settled it.
    pub settled: bool,
    /// Two or three words.
    pub title: String,
    /// A plain sentence with the numbers.
    pub says: String,
}

struct Found {
    severity: Severity,
    title: &'static str,
    says: String,
}

type Rule = fn(&Session, &Run, &RunNumbers) -> Option<Found>;

/// Every check on a single run, in the order they are shown.
const RULES: [(&str, Rule); 9] = [
    ("over-unity", over_unity),
    ("distortion-over-limit", distortion_over_limit),
    ("load-mismatch", load_mismatch),
    ("class-ceiling", class_ceiling),
    ("voltage-rose", voltage_rose),
    ("fuse", fuse),
    ("hot", hot),
    ("balance", balance),
    ("no-supply-volts", no_supply_volts),
];

/// Checks one run by itself.
#[must_use]
pub fn check_run(session: &Session, run: &Run) -> Vec<Check> {
    let numbers = numbers(session, run);
    RULES
        .iter()
        .filter_map(|(code, rule)| {
            let found = rule(session, run, &numbers)?;
            Some(Check {
                code: (*code).into(),
                severity: found.severity,
                runs: vec![run.id.clone()],
                place: place(run),
                settled: run.accepted.iter().any(|accepted| accepted.code == *code),
                title: found.title.into(),
                says: found.says,
            })
        })
        .collect()
}

/// "2 Ω, clipping", with the wiring when it is not mono.
fn place(run: &Run) -> String {
    let wiring = if run.wiring == Wiring::Mono { String::new() } else { format!(", {}", run.wiring.words()) };
    format!("{}{wiring}, {}", format::with_unit(&format::ohms(run.load_nominal_ohm.get()), "Ω"), run.mode.word())
}

/// Checks every run that stands.
#[must_use]
pub fn check_session(session: &Session) -> Vec<Check> {
    session.standing_runs().flat_map(|run| check_run(session, run)).collect()
}

fn found(severity: Severity, title: &'static str, says: String) -> Option<Found> {
    Some(Found { severity, title, says })
}

fn over_unity(_: &Session, _: &Run, numbers: &RunNumbers) -> Option<Found> {
    let ratio = numbers.efficiency.filter(|ratio| more_than(*ratio, 1.0))?;
    found(
        Severity::Stop,
        "More out than in.",
        format!(
            "An efficiency of {} % cannot be. Look at the clamp's zero and range, then at the watts and the load.",
            format::percent(ratio)
        ),
    )
}

/// Efficiency above which a class does not go: π/4 for a class B stage, and what no class D amplifier has shown.
fn ceiling(class: Class) -> Option<f64> {
    match class {
        Class::AB => Some(0.785),
        Class::D => Some(0.95),
        Class::GH | Class::Other => None,
    }
}

fn class_ceiling(session: &Session, _: &Run, numbers: &RunNumbers) -> Option<Found> {
    let ceiling = ceiling(session.amplifier.class)?;
    let ratio = numbers.efficiency.filter(|ratio| more_than(*ratio, ceiling) && !more_than(*ratio, 1.0))?;
    found(
        Severity::Doubt,
        "More efficient than its class.",
        format!(
            "{} % is above the {} % that {} can reach. The clamp may read low.",
            format::percent(ratio),
            format::as_read(ceiling * 100.0),
            session.amplifier.class.words()
        ),
    )
}

fn voltage_rose(_: &Session, run: &Run, numbers: &RunNumbers) -> Option<Found> {
    let sag = numbers.sag_v.filter(|sag| *sag < 0.0)?;
    let charger =
        if run.charger_on == Some(true) { "The charger is on: it lifts the voltage" } else { "A charger came on, or the two were swapped" };
    found(Severity::Doubt, "The supply rose under load.", format!("{} V more at the end than at rest. {charger}.", format::volts(-sag)))
}

fn no_supply_volts(_: &Session, run: &Run, _: &RunNumbers) -> Option<Found> {
    run.end_volts().is_none().then_some(())?;
    found(Severity::Note, "No supply volts.", "Nothing can be said about the claim's voltage.".into())
}

fn load_mismatch(_: &Session, run: &Run, _: &RunNumbers) -> Option<Found> {
    let load = run.load().get();
    let worst = run
        .outputs
        .iter()
        .filter_map(|output| {
            let (watts, volts) = (output.power_w?.get(), output.volts_rms?.get());
            (watts > 0.0 && volts > 0.0).then(|| volts * volts / watts)
        })
        .map(|seen| (seen, (seen / load).max(load / seen) - 1.0))
        .max_by(|a, b| a.1.total_cmp(&b.1))?;
    let severity = match worst.1 {
        off if more_than(off, 0.20) => Severity::Stop,
        off if more_than(off, 0.06) => Severity::Doubt,
        _ => return None,
    };
    found(
        severity,
        "Watts and volts disagree.",
        format!(
            "Together they make a load of {} Ω, and it is {} Ω. Look at the load switch and the leads.",
            format::ohms(worst.0),
            format::ohms(load)
        ),
    )
}

fn distortion_over_limit(session: &Session, run: &Run, _: &RunNumbers) -> Option<Found> {
    if run.mode != Mode::Certified || run.method == Some(Method::Steps) {
        return None;
    }
    let limit = run.limit_ratio.unwrap_or(session.policy.thd_limit_ratio).get();
    let thd = run.thd_ratio.filter(|thd| more_than(thd.get(), limit))?.get();
    found(
        Severity::Stop,
        "Past the distortion limit.",
        format!("{} % distortion is no certified run at a limit of {} %.", format::as_read(thd * 100.0), format::as_read(limit * 100.0)),
    )
}

fn balance(_: &Session, run: &Run, numbers: &RunNumbers) -> Option<Found> {
    let total = numbers.total.as_ref().ok()?;
    let db = total.balance_db().filter(|db| more_than(*db, 0.5))?;
    let weakest = total.outputs.iter().enumerate().min_by(|a, b| a.1.power_w.total_cmp(&b.1.power_w))?;
    let name = run.outputs.get(weakest.0).and_then(|output| output.name.clone()).unwrap_or_else(|| (weakest.0 + 1).to_string());
    found(
        Severity::Note,
        "Channels differ.",
        format!("{} dB between the strongest and the weakest; output {name} is the weakest.", format::fixed(db, 2)),
    )
}

fn fuse(session: &Session, run: &Run, _: &RunNumbers) -> Option<Found> {
    let (amps, fuses) = (run.amps()?.get(), session.amplifier.supply_fuse_a()?);
    if !more_than(amps, fuses) {
        return None;
    }
    found(
        Severity::Doubt,
        "Past the fuses.",
        format!(
            "{} A through {} A of fuse, {} %: {}{}",
            format::amps(amps),
            format::as_read(fuses),
            format::fixed(100.0 * amps / fuses, 0),
            blade_fuse(amps / fuses),
            if amps / fuses > BORNE { " Rest before you repeat the run." } else { "" }
        ),
    )
}

/// The multiple of its rating that a blade fuse bears for long.
const BORNE: f64 = 1.10;

/// What a typical blade fuse does at a multiple of its rating.
///
/// Ref: ISO 8820-3, operating time limits of blade fuses: 110 % not within 100 h; 135 % 0.75 s to 10 min;
/// 160 % 0.25 to 50 s; 200 % 0.15 to 5 s; 350 % 40 ms to 0.5 s.
#[must_use]
pub fn blade_fuse(multiple: f64) -> &'static str {
    match multiple {
        m if m <= BORNE => "a blade fuse bears that for long.",
        m if m < 1.35 => "it may open within minutes.",
        m if m < 1.60 => "a blade fuse opens in 0.75 s to 10 min.",
        m if m < 2.00 => "a blade fuse opens in 0.25 to 50 s.",
        m if m < 3.50 => "a blade fuse opens in 0.15 to 5 s.",
        _ => "a blade fuse opens in 40 ms to 0.5 s.",
    }
}

fn hot(session: &Session, run: &Run, _: &RunNumbers) -> Option<Found> {
    let limit = session.policy.heatsink_stop_c.get();
    let heatsink = run.temperature_c?.get();
    more_than(heatsink, limit).then_some(())?;
    found(
        Severity::Doubt,
        "Heatsink past the stop rule.",
        format!("{} °C, and runs stop at {} °C. Let it cool.", format::as_read(heatsink), format::as_read(limit)),
    )
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::session::examples;
    use crate::units::{Amps, Celsius, Ratio, Volts, VoltsRms, Watts};

    fn fired(change: impl FnOnce(&mut Session)) -> Vec<(String, Severity)> {
        let mut session = examples::mono_1100();
        session.runs.truncate(1);
        change(&mut session);
        check_session(&session).into_iter().map(|check| (check.code, check.severity)).collect()
    }

    fn only(code: &str, severity: Severity) -> Vec<(String, Severity)> {
        vec![(code.to_owned(), severity)]
    }

    #[test]
    fn an_ordinary_session_stays_quiet_but_for_its_fuses() {
        let session = examples::mono_1100();
        let fired: Vec<_> = check_session(&session).into_iter().map(|check| (check.code, check.runs)).collect();
        assert_eq!(
            fired,
            [("fuse".to_owned(), vec!["r7".to_owned()]), ("fuse".to_owned(), vec!["r8".to_owned()])],
            "124.6 and 134.2 A through 105 A"
        );
    }

    #[test]
    fn each_check_fires_on_what_it_is_for() {
        assert_eq!(fired(|s| s.runs[0].current_a = Some(Amps::new(30.0).unwrap())), only("over-unity", Severity::Stop));
        assert_eq!(fired(|s| s.runs[0].current_a = Some(Amps::new(32.0).unwrap())), only("class-ceiling", Severity::Doubt));
        assert_eq!(fired(|s| s.runs[0].end_v = Some(Volts::new(14.7).unwrap())), only("voltage-rose", Severity::Doubt));
        assert_eq!(fired(|s| s.runs[0].end_v = None), only("no-supply-volts", Severity::Note));
        assert_eq!(fired(|s| s.runs[0].thd_ratio = Some(Ratio::new(0.0101).unwrap())), only("distortion-over-limit", Severity::Stop));
        assert_eq!(fired(|s| s.runs[0].temperature_c = Some(Celsius::new(76.0).unwrap())), only("hot", Severity::Doubt));
        assert_eq!(fired(|s| s.runs[0].current_a = Some(Amps::new(106.0).unwrap())), only("fuse", Severity::Doubt));
        // 447 W into 3.91 Ω is 41.8 V; 45 V makes 4.53 Ω, 16 % off; 50 V makes 5.59 Ω, 43 % off
        assert_eq!(fired(|s| s.runs[0].outputs[0].volts_rms = Some(VoltsRms::new(45.0).unwrap())), only("load-mismatch", Severity::Doubt));
        assert_eq!(fired(|s| s.runs[0].outputs[0].volts_rms = Some(VoltsRms::new(50.0).unwrap())), only("load-mismatch", Severity::Stop));
    }

    #[test]
    fn the_weakest_channel_is_named() {
        let mut session = examples::mono_1100();
        let mut run = session.runs[0].clone();
        run.wiring = Wiring::Channels { driven: 2 };
        run.outputs.push(run.outputs[0].clone());
        run.outputs[1].name = Some("rear".into());
        run.outputs[1].power_w = Some(Watts::new(390.0).unwrap());
        run.current_a = Some(Amps::new(80.0).unwrap());
        session.runs = vec![run];
        let checks = check_session(&session);
        assert_eq!(checks[0].code, "balance");
        assert_eq!(checks[0].says, "0.59 dB between the strongest and the weakest; output rear is the weakest.");
    }

    #[test]
    fn accepting_settles_and_an_invalid_run_takes_no_part() {
        let mut session = examples::mono_1100();
        session.runs.truncate(1);
        session.runs[0].current_a = Some(Amps::new(30.0).unwrap());
        session.runs[0].accepted.push(crate::session::Accepted { code: "over-unity".into(), reason: "shunt, checked".into() });
        assert!(check_session(&session)[0].settled);
        session.runs[0].valid = false;
        assert!(check_session(&session).is_empty());
    }
}
