//! A run against what all the others say: digits that slipped, a supply that sagged too little.

use std::cell::OnceCell;

use crate::assess::checks::thresholds;
use crate::assess::checks::{Check, Finding};
use crate::evidence::choose::Usable;
use crate::evidence::rungs::{Rung, RungId, rungs};
use crate::evidence::source_ohm::{self, SagSums};
use crate::evidence::standing::RunEvidence;
use crate::kernel::format;
use crate::kernel::units::{at_least, more_than};
use crate::predict::known::Prior;
use crate::predict::prediction::{Prediction, predict};
use crate::record::session::{CheckCode, Mode, ReadingName, Run, Session};

/// Checks runs against what the usable ones say: those that are `wanted`.
pub(super) fn check<'a>(session: &'a Session, seen: &[RunEvidence], usable: &[Usable<'a>], wanted: impl Fn(&Run) -> bool) -> Vec<Check> {
    let sags = SagSums::of(seen.iter().filter_map(|one| source_ohm::sag_of(one.run)));
    let slips = Slips::of(session, usable);
    seen.iter()
        .filter(|one| wanted(one.run))
        .flat_map(|one| {
            let found = [sag_too_small(one, sags), slips.find(one.run)];
            found.into_iter().flatten().map(|found| found.on(&[one.run]))
        })
        .collect()
}

fn sag_too_small(seen: &RunEvidence, sags: SagSums) -> Option<Finding> {
    let (sag_v, amps) = (seen.numbers.sag_v?, seen.numbers.current_a?.get());
    let others = source_ohm::sag_of(seen.run).map_or(sags, |own| sags.without(own));
    let ohm = others.ohm()?;
    if (others.runs as f64) < thresholds::SAG_RUNS.get() || sag_v < 0.0 {
        return None;
    }
    let expected = ohm * amps;
    more_than(expected * thresholds::SAG.get(), sag_v).then(|| {
        Finding::past(
            CheckCode::SagTooSmall,
            thresholds::SAG,
            format!(
                "{} V of sag at {} A, where {} mΩ of supply, from {} other runs, give {} V.",
                format::volts(sag_v),
                format::amps(amps),
                format::fixed(1e3 * ohm, 1),
                others.runs,
                format::volts(expected)
            ),
        )
    })
}

/// Nearer than this to what all runs together predict, a reading is none that slipped.
const PLAIN: f64 = 0.3;
/// So few certified runs are each too large a part of what is predicted from them.
const FEW: usize = 3;

struct Slips<'a> {
    known: Prior<'a>,
    rungs: Vec<Rung>,
    /// Powers that all runs together predict, a rung each: made where a run there is looked at.
    together: Vec<OnceCell<Option<Prediction>>>,
    few: bool,
}

impl<'a> Slips<'a> {
    fn of(session: &'a Session, usable: &[Usable<'a>]) -> Self {
        let (known, rungs) = (Prior::of_usable(session, usable), rungs(session));
        let together = rungs.iter().map(|_| OnceCell::new()).collect();
        let few = session.standing_runs().filter(|run| run.mode == Mode::Certified).count() <= FEW;
        Self { known, rungs, together, few }
    }

    /// A reading is held against what the other runs predict. That costs a fit each, so it is done only where the run itself
    /// may be what the prediction stands on, or where it stands out.
    fn find(&self, run: &Run) -> Option<Finding> {
        if run.cut_short() {
            return None;
        }
        let id = RungId::of(run);
        let at = self.rungs.iter().position(|rung| rung.id.is(&id))?;
        let rung = self.rungs.get(at)?;
        let together = self.together.get(at)?.get_or_init(|| predict(&self.known, rung)).as_ref()?;
        let itself = run.mode == Mode::Certified && (self.few || together.from.contains(&run.id));
        let stands_out = || read(run, together).any(|reading| (reading.value / reading.expected - 1.0).abs() > PLAIN);
        if !itself && !stands_out() {
            return None;
        }
        let p = predict(&self.known.without(&run.id), rung)?;
        read(run, &p).find_map(|reading| slip(reading.unit, reading.value, reading.expected))
    }
}

/// A reading beside what was expected.
struct Expected {
    unit: &'static str,
    value: f64,
    expected: f64,
}

/// Every reading of a run that can be predicted and was not struck.
fn read(run: &Run, p: &Prediction) -> impl Iterator<Item = Expected> {
    let output_w = p.expected.power_w / p.outputs;
    let rms = (output_w * p.load_ohm).sqrt();
    let outputs = run.outputs.iter().flat_map(move |output| {
        [
            output.power_w.map(|w| (ReadingName::Power, "W", w.get(), output_w)),
            output.volts_rms.map(|v| (ReadingName::VoltsRms, "V rms", v.get(), rms)),
            output.volts_peak.map(|v| (ReadingName::VoltsPeak, "V peak", v.get(), rms * 2f64.sqrt())),
            output.volts_pp.map(|v| (ReadingName::VoltsPeakToPeak, "V peak to peak", v.get(), rms * 8f64.sqrt())),
        ]
    });
    // A burst's mean draw is no part of the prediction.
    let amps = run.amps().filter(|_| run.mode != Mode::Dynamic).map(|a| (ReadingName::Current, "A", a.get(), p.expected.current_a));
    let volts = run.end_volts().map(|v| (ReadingName::EndVolts, "V supply", v.get(), p.expected.end_v));
    let unstruck = outputs.chain([amps, volts]).flatten().filter(|(name, ..)| !run.is_struck(*name));
    unstruck.map(|(_, unit, value, expected)| Expected { unit, value, expected })
}

fn slip(unit: &str, read: f64, expected: f64) -> Option<Finding> {
    if !more_than((read - expected).abs(), thresholds::SLIP_OFF.get() * expected) {
        return None;
    }
    let meant = [10.0, 100.0, 0.1, 0.01]
        .into_iter()
        .map(|by| read * by)
        .find(|meant| at_least(thresholds::SLIP_NEAR.get() * expected, (meant - expected).abs()))?;
    let shown = |value: f64| format::with_unit(&format::significant(value, 4), unit);
    Some(
        Finding::past(
            CheckCode::DigitSlip,
            thresholds::SLIP_OFF,
            format!("{} was read; about {} was expected.", shown(read), shown(expected)),
        )
        .remedy(format!("Did the meter show {}? Then correct the line.", shown(meant))),
    )
}
