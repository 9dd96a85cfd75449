//! What a stretch of a captured wave reads, and the run that is logged of it.

use jiff::Timestamp;
use thiserror::Error;

use super::settings::kind_of;
use crate::evidence::entry::Readings;
use crate::evidence::rungs::Rung;
use crate::kernel::format::{self, six_digits};
use crate::kernel::units::{Amps, Ratio, Volts, VoltsPeak, VoltsPeakToPeak, VoltsRms, Watts};
use crate::plan::run_line::run_at;
use crate::record::session::{
    Cycles, Evidence, EvidenceKind, Method, Mode, OutputReading, ReadingName, Run, SecondReading, Session, SupplyReading, Trace,
    TraceChannel,
};
use crate::traces::ChannelKind;
use crate::traces::cut::StretchKind;
use crate::traces::report::{Cycle, LevelPoint, Stretch, SupplyFigures};

/// So far from a run's tone the tone of a wave may be.
const TONE: f64 = 0.05;
/// The standard burst: as long as this, and below this frequency so many cycles.
const BURST_S: f64 = 0.020;
const LOW_BURST_HZ: f64 = 100.0;
const LOW_BURST_CYCLES: u32 = 2;

/// A moment of a recording: stretches of outputs at the same time, and the supply just there.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Moment {
    /// Channels, from 0, with their stretches.
    pub outputs: Vec<(usize, Stretch)>,
    /// The supply at the moment that counts, where that is not the whole stretch.
    pub supply: Option<SupplyFigures>,
    /// Supply before anything was driven.
    pub rest_v: Option<f64>,
}

/// Reason why a stretch is no reading of a run.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum Unfit {
    /// Nothing is driven in it.
    #[error("Nothing is driven in this stretch.")]
    Quiet,
    /// A sweep has no power of its own.
    #[error("A sweep shows a response; power is read of a tone, a ramp or a burst.")]
    Sweep,
    /// A burst, where a steady tone is asked for.
    #[error("This is a burst: it is logged as dynamic power.")]
    IsBurst,
    /// A steady tone, where a burst is asked for.
    #[error("Dynamic power is read of a burst, and this is none.")]
    NoBurst,
    /// Past the limit.
    #[error("Its distortion, {thd}, is past the limit of {limit}: this is no clean power. It is logged as clipping.")]
    PastLimit {
        /// As read.
        thd: String,
        /// Of the policy.
        limit: String,
    },
    /// Inside the limit.
    #[error("Its distortion, {thd}, is inside the limit of {limit}: nothing clips. It is logged as certified.")]
    InsideLimit {
        /// As read.
        thd: String,
        /// Of the policy.
        limit: String,
    },
    /// Too short to have a distortion.
    #[error("It is too short for its distortion to be read: whether it clips is not known.")]
    NoDistortion,
    /// A ramp that is clean to its end proves at least so much; one that is never clean proves nothing.
    #[error("No part of this ramp is inside the limit.")]
    NeverClean,
    /// Another tone.
    #[error("Its tone is {heard}, and this place is run at {wanted}.")]
    OtherTone {
        /// As read.
        heard: String,
        /// Of the place.
        wanted: String,
    },
    /// More outputs than are driven.
    #[error("{found} outputs are driven in it, and this place has {wanted}: set the other channels to “unused”.")]
    MoreOutputs {
        /// In the wave.
        found: usize,
        /// Of the place.
        wanted: u8,
    },
    /// A cycle or a level is missing.
    #[error("Its level cannot be read.")]
    NoLevel,
}

/// What was read, and where in the recording.
#[derive(Debug, Clone, PartialEq)]
pub struct CapturedReading {
    /// Readings.
    pub readings: Readings,
    /// The channels they are of, from 0.
    pub channels: Vec<u16>,
    /// Seconds from the start.
    pub from_s: f64,
    /// Behind its end.
    pub to_s: f64,
    /// Seconds of the moment that counts, of a ramp.
    pub at_s: Option<f64>,
    /// Only "at least so much": the ramp ended before the limit.
    pub at_least: bool,
    /// Largest value of each output, for a meter that read peaks.
    peaks_v: Vec<f64>,
}

/// What a moment of a trace reads as a run of a place.
///
/// # Errors
/// [`Unfit`] where it is no reading of that mode, or of that place.
pub fn reading(session: &Session, rung: &Rung, mode: Mode, trace: &Trace, moment: &Moment) -> Result<CapturedReading, Unfit> {
    let [(_, first), ..] = moment.outputs.as_slice() else { return Err(Unfit::Quiet) };
    let wanted = rung.id.wiring.outputs();
    if moment.outputs.len() > usize::from(wanted) {
        return Err(Unfit::MoreOutputs { found: moment.outputs.len(), wanted });
    }
    if let Some(heard) = first.frequency_hz.filter(|heard| (heard / rung.id.tone_hz.get()).ln().abs() > TONE) {
        return Err(Unfit::OtherTone { heard: format::tone(heard), wanted: format::tone(rung.id.tone_hz.get()) });
    }
    let limit = session.policy.thd_limit_ratio.get();
    let stretches: Vec<&Stretch> = moment.outputs.iter().map(|(_, stretch)| stretch).collect();
    let level = match first.kind {
        StretchKind::Quiet => return Err(Unfit::Quiet),
        StretchKind::Sweep => return Err(Unfit::Sweep),
        StretchKind::Burst => of_burst(mode, &stretches)?,
        StretchKind::Tone => of_tone(mode, &stretches, limit)?,
        StretchKind::Ramp | StretchKind::Steps => of_ramp(mode, &stretches, limit)?,
    };
    let named = |n: usize| trace.channels.get(n).cloned().unwrap_or_default();
    let channels: Vec<TraceChannel> = moment.outputs.iter().map(|(n, _)| named(*n)).collect();
    let supply = moment.supply.as_ref().or(first.supply.as_ref());
    Ok(CapturedReading {
        readings: readings(trace, &channels, &level, supply, moment.rest_v),
        channels: moment.outputs.iter().filter_map(|(n, _)| u16::try_from(*n).ok()).collect(),
        from_s: first.from_s,
        to_s: first.to_s,
        at_s: level.at_s,
        at_least: level.at_least,
        peaks_v: stretches.iter().map(|stretch| stretch.peak).collect(),
    })
}

/// Levels that a stretch comes to.
struct LevelRead {
    /// Of each output.
    rms: Vec<f64>,
    /// Of the first and the last of counted cycles, and how many they are.
    cycles: Option<(u32, Cycle, Cycle)>,
    thd_ratio: Option<f64>,
    at_s: Option<f64>,
    at_least: bool,
}

fn percent(ratio: f64) -> String {
    format::with_unit(&format::significant(100.0 * ratio, 2), "%")
}

/// The worst distortion of several outputs.
fn worst(stretches: &[&Stretch]) -> Option<f64> {
    stretches.iter().filter_map(|stretch| stretch.thd_n_ratio.or(stretch.thd_ratio)).reduce(f64::max)
}

fn of_tone(mode: Mode, stretches: &[&Stretch], limit: f64) -> Result<LevelRead, Unfit> {
    let thd = worst(stretches).ok_or(Unfit::NoDistortion)?;
    match mode {
        Mode::Dynamic => return Err(Unfit::NoBurst),
        Mode::Certified if thd > limit => return Err(Unfit::PastLimit { thd: percent(thd), limit: percent(limit) }),
        Mode::Clipping if thd <= limit => return Err(Unfit::InsideLimit { thd: percent(thd), limit: percent(limit) }),
        Mode::Certified | Mode::Clipping => {}
    }
    let rms = stretches.iter().map(|stretch| stretch.rms).collect();
    Ok(LevelRead { rms, cycles: None, thd_ratio: Some(thd), at_s: None, at_least: false })
}

fn of_burst(mode: Mode, stretches: &[&Stretch]) -> Result<LevelRead, Unfit> {
    if mode != Mode::Dynamic {
        return Err(Unfit::IsBurst);
    }
    let [first, ..] = stretches else { return Err(Unfit::Quiet) };
    let (cycles, hz) = first.cycles.zip(first.frequency_hz).ok_or(Unfit::NoLevel)?;
    let standard = if hz < LOW_BURST_HZ { LOW_BURST_CYCLES } else { (BURST_S * hz).round() as u32 };
    let counted = match (cycles == standard, first.first.zip(first.last)) {
        (true, _) => None,
        (false, Some((a, b))) => Some((cycles, a, b)),
        (false, None) => return Err(Unfit::NoLevel),
    };
    let rms = stretches.iter().map(|stretch| stretch.rms).collect();
    Ok(LevelRead { rms, cycles: counted, thd_ratio: worst(stretches), at_s: None, at_least: false })
}

/// Between the points of a ramp, where all its outputs are still clean; its loudest where it is to clip.
fn of_ramp(mode: Mode, stretches: &[&Stretch], limit: f64) -> Result<LevelRead, Unfit> {
    let points = |stretch: &Stretch| stretch.points.clone().unwrap_or_default();
    let loudest = |stretch: &Stretch| points(stretch).into_iter().max_by(|a, b| a.rms.total_cmp(&b.rms)).ok_or(Unfit::NoLevel);
    let tops = || stretches.iter().map(|stretch| loudest(stretch)).collect::<Result<Vec<_>, _>>();
    let thd_of = |tops: &[LevelPoint]| tops.iter().filter_map(|top| top.thd_n_ratio).reduce(f64::max);
    match mode {
        Mode::Dynamic => Err(Unfit::NoBurst),
        Mode::Clipping => {
            let tops = tops()?;
            let thd = thd_of(&tops).ok_or(Unfit::NoDistortion)?;
            if thd <= limit {
                return Err(Unfit::InsideLimit { thd: percent(thd), limit: percent(limit) });
            }
            let at_s = tops.first().map(|top| top.at_s);
            Ok(LevelRead { rms: tops.iter().map(|top| top.rms).collect(), cycles: None, thd_ratio: Some(thd), at_s, at_least: false })
        }
        Mode::Certified => {
            // The first output to cross the limit ends the clean part of all.
            let Some(at_s) = stretches.iter().filter_map(|stretch| stretch.certified.map(|found| found.at_s)).reduce(f64::min) else {
                let tops = tops()?;
                let thd = thd_of(&tops).ok_or(Unfit::NoDistortion)?;
                if thd > limit {
                    return Err(Unfit::NeverClean);
                }
                let at_s = tops.first().map(|top| top.at_s);
                let rms = tops.iter().map(|top| top.rms).collect();
                return Ok(LevelRead { rms, cycles: None, thd_ratio: Some(thd), at_s, at_least: true });
            };
            let rms = stretches.iter().map(|stretch| match stretch.certified {
                Some(own) if own.at_s <= at_s => Ok(own.rms),
                _ => between(&points(stretch), at_s).ok_or(Unfit::NoLevel),
            });
            Ok(LevelRead { rms: rms.collect::<Result<_, _>>()?, cycles: None, thd_ratio: Some(limit), at_s: Some(at_s), at_least: false })
        }
    }
}

/// The level at a moment, in a straight line of watts between two points.
fn between(points: &[LevelPoint], at_s: f64) -> Option<f64> {
    let behind = points.iter().position(|point| point.at_s >= at_s)?;
    let (after, before) = (points[behind], points[behind.saturating_sub(1)]);
    let span = after.at_s - before.at_s;
    let part = if span > 0.0 { (at_s - before.at_s) / span } else { 1.0 };
    Some((before.rms.powi(2) + part * (after.rms.powi(2) - before.rms.powi(2))).sqrt())
}

fn volts(rms: f64) -> Option<VoltsRms> {
    VoltsRms::new(six_digits(rms)).ok()
}

fn readings(trace: &Trace, channels: &[TraceChannel], level: &LevelRead, supply: Option<&SupplyFigures>, rest_v: Option<f64>) -> Readings {
    let output = |channel: &TraceChannel, rms: f64| OutputReading {
        name: channel.output.clone().filter(|name| !name.is_empty()),
        volts_rms: volts(rms),
        meter: channel.meter.clone(),
        ..OutputReading::default()
    };
    let mut read = Readings {
        thd_ratio: level.thd_ratio.and_then(|thd| Ratio::new(six_digits(thd)).ok()),
        end_v: supply.and_then(|supply| supply.mean_v).and_then(|v| Volts::new(six_digits(v)).ok()),
        current_a: supply.and_then(|supply| supply.mean_a).and_then(|a| Amps::new(six_digits(a)).ok()),
        rest_v: rest_v.and_then(|v| Volts::new(six_digits(v)).ok()),
        ..Readings::default()
    };
    if let Some((count, first, last)) = level.cycles {
        // A file says counted cycles of one output: of several the first speaks.
        let end = |cycle: Cycle| channels.first().map_or_else(OutputReading::default, |channel| output(channel, cycle.rms));
        read.cycles = Some(Cycles { count, first: end(first), last: (count > 1).then(|| end(last)) });
    } else {
        read.outputs = channels.iter().zip(&level.rms).map(|(channel, rms)| output(channel, *rms)).collect();
    }
    // A supply that no meter gave its scale is known no better than a moving display.
    for (kind, name, is_read) in [
        (ChannelKind::SupplyVolts, ReadingName::EndVolts, read.end_v.is_some()),
        (ChannelKind::SupplyAmps, ReadingName::Current, read.current_a.is_some()),
    ] {
        let by_meter = trace.channels.iter().any(|channel| kind_of(channel) == kind && channel.meter.is_some());
        if is_read && !by_meter {
            read.approximate.push(name);
        }
    }
    read
}

/// Evidence of a reading.
fn evidence(trace: &Trace, found: &CapturedReading) -> Evidence {
    Evidence {
        kind: EvidenceKind::Trace,
        sha256: Some(trace.sha256.clone()),
        channels: found.channels.clone(),
        from_s: Some(found.from_s),
        to_s: Some(found.to_s),
    }
}

/// The run of a place that a reading of a trace is.
#[must_use]
pub fn captured_run(
    session: &Session,
    rung: &Rung,
    mode: Mode,
    (trace, found): (&Trace, &CapturedReading),
    (id, at, who): (String, Timestamp, Option<String>),
) -> Run {
    let run = run_at(session, rung, mode, found.readings.clone(), id, at, who);
    let note = found.at_least.then(|| "The ramp ended before its distortion reached the limit: at least so much.".to_owned());
    Run { method: Some(Method::Trace), evidence: vec![evidence(trace, found)], incomplete: found.at_least, note, ..run }
}

/// A run that was logged by hand, with what a trace read as a second meter beside each of its readings: it takes the old one's place.
#[must_use]
pub fn with_second_meter(run: &Run, trace: &Trace, found: &CapturedReading, id: String) -> Run {
    let load = run.load();
    let mut made = Run { id, supersedes: Some(run.id.clone()), reason: Some(format!("A second meter: {}.", trace.name)), ..run.clone() };
    for (i, own) in made.outputs.iter_mut().enumerate() {
        let by_name = |read: &&OutputReading| read.name.is_some() && read.name == own.name;
        let read = found.readings.outputs.iter().find(by_name).or_else(|| found.readings.outputs.get(i));
        let Some((read, rms)) = read.and_then(|read| Some((read, read.volts_rms?))) else { continue };
        let peak = found.peaks_v.get(i).copied().map(six_digits);
        // Beside what the first meter read, in its own quantity.
        own.also.push(SecondReading {
            power_w: own.power_w.and_then(|_| Watts::new(six_digits(rms.power_w(load))).ok()),
            volts_rms: own.volts_rms.map(|_| rms),
            volts_peak: own.volts_peak.and(peak).and_then(|peak| VoltsPeak::new(peak).ok()),
            volts_pp: own.volts_pp.and(peak).and_then(|peak| VoltsPeakToPeak::new(2.0 * peak).ok()),
            meter: read.meter.clone(),
        });
    }
    if found.readings.end_v.is_some() || found.readings.current_a.is_some() {
        let supply = SupplyReading { end_v: found.readings.end_v, current_a: found.readings.current_a, meter: None };
        made.supply_also.push(supply);
    }
    made.evidence.push(evidence(trace, found));
    made
}
