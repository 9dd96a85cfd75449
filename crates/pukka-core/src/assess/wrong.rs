//! Which reading is wrong? When checks fire, each reading of the runs they name is left out in turn, and the rest is asked
//! whether it agrees: no check about readings is left, and load line, losses and supply, fitted to all the other runs, predict
//! each certified run. The one whose absence makes the rest agree is named; or several, or none.

use serde::{Deserialize, Serialize};

use crate::assess::checks::table::{Scope, rule};
use crate::assess::checks::{Check, Severity, check_readings, second_meters};
use crate::evidence::rungs::rungs;
use crate::evidence::source_ohm;
use crate::evidence::total;
use crate::kernel::format;
use crate::predict::known::Prior;
use crate::predict::model::Draw;
use crate::predict::prediction::{Basis, Prediction, predict, predict_mode};
use crate::record::session::{Mode, ReadingName, Run, Session};

/// Most that a certified run's power may be from the load line through the others, of it; and its draw from the losses.
const POWER_OFF: f64 = 0.12;
const DRAW_OFF: f64 = 0.12;
/// Most that its sag may be from what the supply's resistance gives: of it, and volts on top.
const SAG_OFF: f64 = 0.30;
const SAG_OFF_V: f64 = 0.05;

/// A reading that may be wrong.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SuspectReading {
    /// Run.
    pub run_id: String,
    /// Reading that is struck to leave it out.
    pub reading: ReadingName,
    /// "124.6 A at 1 Ω, certified".
    pub words: String,
    /// Value that the others would expect in its place.
    pub expected: Option<String>,
}

/// Result of leaving out one reading after another.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Suspicion {
    /// In a sentence.
    pub says: String,
    /// The readings without which the rest agrees: one, or several that the session cannot tell apart, or none.
    pub readings: Vec<SuspectReading>,
    /// Number of readings left out in turn.
    pub tried: usize,
}

fn speaks_of_readings(check: &&Check) -> bool {
    !check.settled && check.severity != Severity::Note && rule(check.code).of_readings
}

/// The reading that is wrong; nothing where no check asks.
#[must_use]
pub fn suspicion(session: &Session, checks: &[Check]) -> Option<Suspicion> {
    let fired: Vec<&Check> = checks.iter().filter(speaks_of_readings).collect();
    let named = |run: &&Run| fired.iter().any(|check| check.runs.contains(&run.id));
    let candidates: Vec<(&Run, ReadingName)> =
        session.standing_runs().filter(named).flat_map(|run| readings(run).into_iter().map(move |reading| (run, reading))).collect();
    if candidates.is_empty() {
        return None;
    }
    let tried = candidates.len();
    let agreeing: Vec<SuspectReading> = candidates
        .into_iter()
        .filter(|(run, _)| could_explain(run, &fired))
        .filter_map(|(run, reading)| {
            let without = left_out(session, &run.id, reading);
            agrees(&without).then(|| suspect(&without, run, reading))
        })
        .collect();
    let agreeing = told_apart(session, agreeing);
    Some(Suspicion { says: sentence(&agreeing, fired.len()), readings: agreeing, tried })
}

/// Of several readings that could each be the wrong one: those that lie outside of what is expected of them, when others lie
/// inside. 540 W inside its band beside 26 A outside of 47 to 95 A is the amps.
fn told_apart(session: &Session, readings: Vec<SuspectReading>) -> Vec<SuspectReading> {
    if readings.len() < 2 {
        return readings;
    }
    let known = Prior::of(session, &[]);
    let ladder = rungs(session);
    let stands: Vec<Option<Standing>> = readings
        .iter()
        .map(|one| {
            let run = session.run(&one.run_id)?;
            let rung = ladder.iter().find(|rung| rung.id.is_of(run));
            let predicted = rung.and_then(|rung| predict_mode(&known.without(&run.id), rung, run.mode));
            standing(session, run, one.reading, predicted.as_ref())
        })
        .collect();
    let told = stands.contains(&Some(Standing::Outside)) && stands.contains(&Some(Standing::Inside));
    if !told {
        return readings;
    }
    readings.into_iter().zip(stands).filter(|(_, stands)| *stands == Some(Standing::Outside)).map(|(one, _)| one).collect()
}

/// Place where a reading lies by what else is known of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Standing {
    Inside,
    Outside,
}

/// By a second meter on the same, else by the band that the claims or the other runs predict, amps also by an efficiency read.
fn standing(session: &Session, run: &Run, reading: ReadingName, predicted: Option<&Prediction>) -> Option<Standing> {
    let within = |inside: bool| if inside { Standing::Inside } else { Standing::Outside };
    let of_power = matches!(reading, ReadingName::Power | ReadingName::Outputs | ReadingName::VoltsRms);
    let quantity = match reading {
        ReadingName::Current => "supply amps",
        ReadingName::EndVolts => "supply volts",
        _ if of_power => "output",
        _ => return None,
    };
    if let Some(agree) = second_meters::agree(session, run, quantity) {
        return Some(within(agree));
    }
    let read_w = total(session, run).ok().map(|total| total.total_w);
    match reading {
        ReadingName::Current => {
            let amps = run.amps()?.get();
            let by_efficiency = run.efficiency_read().zip(read_w).zip(run.end_volts());
            if let Some(((efficiency, watts), volts)) = by_efficiency {
                return Some(within((amps * volts.get() * efficiency.get() / watts - 1.0).abs() <= DRAW_OFF));
            }
            predicted.map(|p| within((p.low_a..=p.high_a).contains(&amps)))
        }
        ReadingName::EndVolts => {
            let volts = run.end_volts()?.get();
            let end = predicted?.end_v()?;
            Some(within((volts - end).abs() <= SAG_OFF * (session.rest_before(run)?.get() - end).abs() + SAG_OFF_V))
        }
        _ => predicted.zip(read_w).map(|(p, watts)| within((p.low_w()..=p.high_w()).contains(&watts))),
    }
}

/// Whether leaving out a reading of a run can end every check that fired. Any reading may end a check that holds a run against
/// all the others; one that looks only at the runs it names stays as it is
/// when none of them is touched. So a session with many doubts is not judged again for each of its readings.
fn could_explain(run: &Run, fired: &[&Check]) -> bool {
    fired.iter().all(|check| rule(check.code).scope == Scope::Others || check.runs.contains(&run.id))
}

fn sentence(agreeing: &[SuspectReading], fired: usize) -> String {
    let meant = |one: &SuspectReading| one.expected.as_ref().map(|value| format!(" The others expect about {value}.")).unwrap_or_default();
    match agreeing {
        [] if fired == 1 => "No single reading explains it: whichever is left out, the rest still disagree.".into(),
        [] => "No single reading explains them all: whichever is left out, the rest still disagree.".into(),
        [only] => format!("Without {} everything else agrees.{}", only.words, meant(only)),
        several => {
            let words: Vec<&str> = several.iter().map(|one| one.words.as_str()).collect();
            format!("The rest agree without {}: the session cannot tell which.", words.join(", or without "))
        }
    }
}

/// Readings of a run that can be left out.
fn readings(run: &Run) -> Vec<ReadingName> {
    let read = |name: ReadingName, there: bool| there && !run.is_struck(name);
    let watts = run.outputs.iter().any(|output| output.power_w.is_some());
    let volts = run.outputs.iter().any(|output| output.volts_rms.is_some());
    let mut list = Vec::new();
    if watts && volts {
        list.extend([ReadingName::Power, ReadingName::VoltsRms].into_iter().filter(|name| read(*name, true)));
    } else if read(ReadingName::Outputs, run.was_read()) {
        list.push(ReadingName::Outputs);
    }
    list.extend(
        [
            (ReadingName::Current, run.current_a.is_some()),
            (ReadingName::EndVolts, run.end_v.is_some()),
            (ReadingName::RestVolts, run.rest_v.is_some()),
        ]
        .into_iter()
        .filter(|(name, there)| read(*name, *there))
        .map(|(name, _)| name),
    );
    list
}

fn left_out(session: &Session, run_id: &str, reading: ReadingName) -> Session {
    let mut without = session.clone();
    if let Some(run) = without.runs.iter_mut().find(|run| run.id == run_id) {
        run.struck.push(reading);
    }
    without
}

fn agrees(session: &Session) -> bool {
    !check_readings(session).iter().any(|check| speaks_of_readings(&check)) && worst_miss(session) <= 1.0
}

/// The largest miss of load line, losses and supply over the certified runs, each against all the others; 1 is as much as may be.
fn worst_miss(session: &Session) -> f64 {
    let known = Prior::of(session, &[]);
    let ladder = rungs(session);
    let misses = session.standing_runs().filter(|run| run.mode == Mode::Certified && !run.cut_short()).flat_map(|run| {
        let rung = ladder.iter().find(|rung| rung.id.is_of(run));
        let predicted = rung.and_then(|rung| predict(&known.without(&run.id), rung));
        predicted.filter(|p| matches!(p.basis, Basis::Fit | Basis::BeyondFit)).map(|p| misses(session, run, &p)).unwrap_or_default()
    });
    misses.fold(0.0, f64::max)
}

fn misses(session: &Session, run: &Run, p: &Prediction) -> Vec<f64> {
    let read_w = total(session, run).ok().map(|total| total.total_w);
    let (end_v, amps) = (run.end_volts().map(|v| v.get()), run.amps().map(|a| a.get()));
    let line_w = line_w(p, end_v);
    let mut list = Vec::new();
    // Past the runs it was fitted to a line may be twice as far off.
    let reach = if p.basis == Basis::Fit { 1.0 } else { 2.0 };
    if let Some(read_w) = read_w {
        list.push((read_w / line_w - 1.0).abs() / (POWER_OFF * reach));
    }
    // Without its own volts a run has those that its amps leave of the supply.
    let left_v = || Some(run.rest_v.filter(|_| !run.is_struck(ReadingName::RestVolts))?.get() - p.source_ohm? * amps?);
    if let (Some(volts), Some(amps), true) = (end_v.or_else(left_v), amps, told_by_runs(p)) {
        let made_w = read_w.unwrap_or(line_w);
        let input_w = p.draw.input_w(made_w, made_w / p.load_ohm);
        list.push((volts * amps / input_w - 1.0).abs() / (DRAW_OFF * reach));
    }
    if let (Some(sag), Some(ohm)) = (source_ohm::sag_of(run), p.source_ohm) {
        let expected = ohm * sag.current_a;
        list.push((sag.sag_v - expected).abs() / (SAG_OFF * expected + SAG_OFF_V));
    }
    list
}

/// Whether a run has told the draw: the class alone says too little.
fn told_by_runs(p: &Prediction) -> bool {
    !matches!(p.draw, Draw::Class { .. })
}

/// Power of all outputs on the line, at a supply voltage.
fn line_w(p: &Prediction, end_v: Option<f64>) -> f64 {
    let volts = end_v.unwrap_or(p.expected.end_v);
    p.line.output_w(p.load_ohm) * p.outputs * (volts / p.reference_v).powf(p.exponent)
}

fn suspect(without: &Session, run: &Run, reading: ReadingName) -> SuspectReading {
    let unit = |value: f64, unit: &str| format::with_unit(&format::significant(value, 4), unit);
    let read = match reading {
        ReadingName::Current => run.current_a.map(|a| unit(a.get(), "A")),
        ReadingName::EndVolts => run.end_v.map(|v| unit(v.get(), "V")),
        ReadingName::RestVolts => run.rest_v.map(|v| format!("{} at rest", unit(v.get(), "V"))),
        ReadingName::VoltsRms => run.outputs.iter().find_map(|output| output.volts_rms).map(|v| unit(v.get(), "V rms")),
        _ => total(without, &Run { struck: Vec::new(), ..run.clone() }).ok().map(|total| unit(total.total_w, "W")),
    };
    let at = format!("{}, {}", run.wiring.load_words(run.load_nominal_ohm), run.mode_words());
    SuspectReading {
        run_id: run.id.clone(),
        reading,
        words: format!("{} at {at}", read.unwrap_or_else(|| "the output".into())),
        expected: expected(without, run, reading),
    }
}

/// Value that the fit through all the others puts in its place, where it can.
fn expected(without: &Session, run: &Run, reading: ReadingName) -> Option<String> {
    if run.mode != Mode::Certified {
        return None;
    }
    let ladder = rungs(without);
    let rung = ladder.iter().find(|rung| rung.id.is_of(run))?;
    let p = predict(&Prior::of(without, &[]).without(&run.id), rung)?;
    let struck = without.run(&run.id)?;
    let made_w = total(without, struck).map_or_else(|_| line_w(&p, struck.end_volts().map(|v| v.get())), |total| total.total_w);
    let volts = struck.end_volts().map_or(p.expected.end_v, |v| v.get());
    let (value, unit) = match reading {
        ReadingName::Current if told_by_runs(&p) => (p.draw.input_w(made_w, made_w / p.load_ohm) / volts, "A"),
        ReadingName::EndVolts => (run.rest_v?.get() - p.source_ohm? * run.amps()?.get(), "V"),
        ReadingName::Outputs | ReadingName::Power => (made_w, "W"),
        _ => return None,
    };
    Some(format::with_unit(&format::significant(value, 2), unit))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::assess::judge;
    use crate::kernel::units::{Amps, Volts, Watts};
    use crate::record::session::examples::mono_1100;

    /// A reading as it should not have been.
    type Slip = fn(&mut Run);

    /// The obvious way: every reading is left out in turn, and everything is judged again each time.
    fn exhaustive(session: &Session, checks: &[Check]) -> Vec<(String, ReadingName)> {
        let fired: Vec<&Check> = checks.iter().filter(speaks_of_readings).collect();
        let named = session.standing_runs().filter(|run| fired.iter().any(|check| check.runs.contains(&run.id)));
        let candidates = named.flat_map(|run| readings(run).into_iter().map(move |reading| (run.id.clone(), reading)));
        candidates.filter(|(run, reading)| agrees(&left_out(session, run, *reading))).collect()
    }

    #[test]
    fn a_reading_lies_inside_or_outside_of_what_else_is_known() {
        let stands = |slip: Slip, reading| {
            let mut session = mono_1100();
            slip(&mut session.runs[3]);
            let (run, ladder) = (&session.runs[3], rungs(&session));
            let rung = ladder.iter().find(|rung| rung.id.is_of(run)).unwrap();
            let predicted = predict_mode(&Prior::of(&session, &[]).without(&run.id), rung, run.mode);
            standing(&session, run, reading, predicted.as_ref())
        };
        // 771 W of 14.19 V and 76.9 A: 70.7 %.
        let by_efficiency: Slip = |run| run.efficiency_read_ratio = crate::kernel::units::Ratio::new(0.707).ok();
        assert_eq!(stands(by_efficiency, ReadingName::Current), Some(Standing::Inside));
        let half: Slip = |run| {
            run.efficiency_read_ratio = crate::kernel::units::Ratio::new(0.707).ok();
            run.current_a = Amps::new(38.4).ok();
        };
        assert_eq!(stands(half, ReadingName::Current), Some(Standing::Outside));
        // Between 4 Ω and 1 Ω the supply sags to 14.2 V here.
        assert_eq!(stands(|_| {}, ReadingName::EndVolts), Some(Standing::Inside));
        assert_eq!(stands(|run| run.end_v = Volts::new(12.9).ok(), ReadingName::EndVolts), Some(Standing::Outside));
        assert_eq!(stands(|_| {}, ReadingName::Power), Some(Standing::Inside));
        assert_eq!(stands(|run| run.outputs[0].power_w = Watts::new(250.0).ok(), ReadingName::Power), Some(Standing::Outside));
        assert_eq!(stands(|_| {}, ReadingName::Distortion), None, "nothing else says what distortion should be");
    }

    #[test]
    fn a_sag_may_miss_what_the_supply_makes_of_the_amps_by_a_part_and_a_little() {
        let mut session = mono_1100();
        let run = &mut session.runs[3];
        (run.rest_v, run.current_a) = (Volts::new(14.4).ok(), Amps::new(100.0).ok());
        let sags_by = |sag_v: f64, source_ohm: f64| {
            let mut session = session.clone();
            session.runs[3].end_v = Volts::new(14.4 - sag_v).ok();
            let (run, ladder) = (&session.runs[3], rungs(&session));
            let rung = ladder.iter().find(|rung| rung.id.is_of(run)).unwrap();
            let predicted = predict(&Prior::of(&session, &[]).without(&run.id), rung).unwrap();
            misses(&session, run, &Prediction { source_ohm: Some(source_ohm), ..predicted }).pop().unwrap()
        };
        // 100 A through 10 mΩ are 1 V: 30 % and 0.05 V of that are 0.35 V; of 2 V they are 0.65 V.
        for (sag_v, source_ohm, of_allowed) in
            [(1.35, 0.01, 1.0), (0.65, 0.01, 1.0), (1.0, 0.01, 0.0), (1.07, 0.01, 0.2), (2.65, 0.02, 1.0)]
        {
            let miss = sags_by(sag_v, source_ohm);
            assert!((miss - of_allowed).abs() < 1e-9, "{sag_v} V of {source_ohm} Ω: {miss}");
        }
    }

    #[test]
    fn what_is_not_tried_could_not_have_agreed() {
        let slips: [(usize, Slip); 6] = [
            (0, |run| run.current_a = Amps::new(20.0).ok()),
            (1, |run| run.outputs[0].power_w = Watts::new(1_462.0).ok()),
            (3, |run| run.current_a = Amps::new(7.69).ok()),
            (4, |run| run.outputs[0].power_w = Watts::new(700.0).ok()),
            (6, |run| run.end_v = Volts::new(14.9).ok()),
            (6, |run| run.current_a = Amps::new(41.2).ok()),
        ];
        let mut asked = 0;
        for (i, (first, slip)) in slips.iter().enumerate() {
            for (second, other) in slips.iter().skip(i) {
                let mut session = mono_1100();
                slip(&mut session.runs[*first]);
                other(&mut session.runs[*second]);
                let checks = judge(&session).checks;
                let found = suspicion(&session, &checks);
                asked += usize::from(found.is_some());
                let quick: Vec<(String, ReadingName)> =
                    found.map(|found| found.readings).unwrap_or_default().into_iter().map(|one| (one.run_id, one.reading)).collect();
                let slow: Vec<(String, ReadingName)> = exhaustive(&session, &checks).into_iter().collect();
                assert_eq!(quick, slow, "{first} and {second}");
            }
        }
        assert!(asked > 15, "only {asked} of the sessions were doubted");
    }
}
