//! What is doubtful about a recording.

use crate::cut::StretchKind;
use crate::harmonics::count;
use crate::levels::{Level, Levels};
use crate::report::{ChannelKind, ChannelReport, Doubt, DoubtCode, Stretch};
use crate::sine::fit_at;
use crate::source::{Recording, Source, SourceError};
use crate::spectrum::Transforms;
use pukka_kernel::format;

/// Part of the noise that has to be hum for it to be named.
const HUM_PART: f64 = 0.5;
/// Samples that hum is looked for in: its lines have to be told apart.
const HUM_S: f64 = 0.5;
/// A bend that stands out from the next ones by so much is a jump.
const JUMP: f64 = 3.0;
/// Bends that may be as large as the largest: dropouts are few.
const FEW: usize = 6;
/// A residue within this of the file's own floor is the file's.
const NEAR_FLOOR: f64 = 2.0;

/// Every doubt there is.
///
/// # Errors
/// [`SourceError`].
pub fn doubts(source: &mut dyn Source, levels: &Levels, channels: &[ChannelReport]) -> Result<Vec<Doubt>, SourceError> {
    let recording = source.recording();
    let mut found = Vec::new();
    for (report, level) in channels.iter().zip(&levels.channels) {
        for span in &report.over_range {
            let says = "The recording touches its own full scale: level and distortion of that stretch are not the amplifier's.";
            found.push(doubt(DoubtCode::OverRange, report, (span.from_s, span.to_s), says));
        }
        for stretch in &report.stretches {
            found.extend(of_stretch(&recording, report, stretch));
            if stretch.kind == StretchKind::Tone {
                found.extend(jump(&recording, levels.hop, level, report, stretch));
            }
        }
        let tones = report.stretches.iter().filter(|stretch| stretch.kind == StretchKind::Tone);
        // What hums, hums all along: the longest tone says it best.
        if let Some(longest) = tones.max_by(|a, b| (a.to_s - a.from_s).total_cmp(&(b.to_s - b.from_s))) {
            found.extend(hum(source, report, longest)?);
        }
    }
    found.extend(polarity(source, channels)?);
    Ok(found)
}

fn doubt(code: DoubtCode, report: &ChannelReport, (from_s, to_s): (f64, f64), says: impl Into<String>) -> Doubt {
    Doubt { code, channel: report.channel, from_s, to_s, says: says.into() }
}

fn of_stretch(recording: &Recording, report: &ChannelReport, stretch: &Stretch) -> Vec<Doubt> {
    let mut found = Vec::new();
    let at = (stretch.from_s, stretch.to_s);
    let tone = matches!(stretch.kind, StretchKind::Tone | StretchKind::Burst);
    if tone && stretch.frequency_hz.is_some() && stretch.thd_n_ratio.is_none() && stretch.cycles.is_none_or(|cycles| cycles > 1) {
        found.push(doubt(DoubtCode::TooShort, report, at, "Fewer than eight periods: too short for THD+N."));
    }
    if let Some(hz) = stretch.frequency_hz.filter(|_| tone)
        && count(hz, recording.rate_hz) < 3
    {
        let says = format!("Of {} at this sampling rate few harmonics fit: distortion reads low.", format::tone(hz));
        found.push(doubt(DoubtCode::Aliased, report, at, says));
    }
    // Rounding to whole steps leaves a twelfth of a step squared, spread evenly up to half the rate.
    let floor = recording.least_step().map(|step| (step * report.scale).abs() / 12f64.sqrt());
    let residue = stretch.thd_n_ratio.map(|ratio| ratio * stretch.rms);
    if let (Some(floor), Some(residue)) = (floor, residue)
        && tone
        && residue < NEAR_FLOOR * floor
    {
        let bits = recording.bits.unwrap_or_default();
        let says = format!("What is left after the tone is the floor of a {bits}-bit file, not the amplifier's noise.");
        found.push(doubt(DoubtCode::Floor, report, at, says));
    }
    found
}

/// A jump that the wave's own band cannot hold: samples are missing, or there twice.
fn jump(recording: &Recording, hop: usize, level: &Level, report: &ChannelReport, stretch: &Stretch) -> Option<Doubt> {
    let index = |s: f64| (s * recording.rate_hz / hop as f64) as usize;
    // Clear of its ends, where the tone itself begins and stops.
    let margin = (3.0 / stretch.frequency_hz? * recording.rate_hz / hop as f64).ceil() as usize + 1;
    let (from, to) = (index(stretch.from_s) + margin, index(stretch.to_s).saturating_sub(margin).min(level.hops.len()));
    if to <= from + 8 * FEW {
        return None;
    }
    let bends: Vec<f32> = level.hops[from..to].iter().map(|hop| hop.bend).collect();
    let mut sorted = bends.clone();
    sorted.sort_by(|a, b| b.total_cmp(a));
    let usual = f64::from(sorted[FEW]).max(recording.least_step().unwrap_or(0.0) * 4.0);
    let at = bends.iter().position(|bend| f64::from(*bend) > JUMP * usual && *bend == sorted[0])?;
    let seconds = |k: usize| (k * hop) as f64 / recording.rate_hz;
    let span = (seconds(from + at), seconds(from + at + 1));
    Some(doubt(DoubtCode::Dropout, report, span, "The wave jumps: samples are missing or repeated there."))
}

fn hum(source: &mut dyn Source, report: &ChannelReport, stretch: &Stretch) -> Result<Option<Doubt>, SourceError> {
    let rate_hz = source.recording().rate_hz;
    let frames = (HUM_S * rate_hz) as usize;
    let (from, to) = ((stretch.from_s * rate_hz) as u64, (stretch.to_s * rate_hz) as u64);
    let (Some(hz), true) = (stretch.frequency_hz, (to - from) as usize >= frames + (rate_hz / 50.0) as usize) else { return Ok(None) };
    let mut samples = source.window(report.channel - 1, from + (to - from - frames as u64) / 2, frames)?;
    let Some(tone) = fit_at(&samples, rate_hz, hz) else { return Ok(None) };
    tone.take_from(&mut samples, rate_hz);
    let parts = Transforms::default().hum(samples, rate_hz);
    // Low tones have their own harmonics on the lines of the mains.
    let own = |mains: f64| hz < 10.5 * mains && (hz / mains - (hz / mains).round()).abs() < 0.02;
    let found = [50.0, 60.0].into_iter().zip(parts).filter(|(mains, part)| *part >= HUM_PART && !own(*mains));
    let most = found.max_by(|a, b| a.1.total_cmp(&b.1));
    Ok(most.map(|(mains, part)| {
        let says = format!(
            "{} % of what is left after the tone is hum at {} and its harmonics.",
            format::fixed(100.0 * part, 0),
            format::tone(mains)
        );
        doubt(DoubtCode::Hum, report, (stretch.from_s, stretch.to_s), says)
    }))
}

/// Outputs that swing against one another.
fn polarity(source: &mut dyn Source, channels: &[ChannelReport]) -> Result<Vec<Doubt>, SourceError> {
    let rate_hz = source.recording().rate_hz;
    let outputs: Vec<&ChannelReport> = channels.iter().filter(|channel| channel.kind == ChannelKind::Output).collect();
    let Some((first, others)) = outputs.split_first() else { return Ok(Vec::new()) };
    let Some(stretch) = first.stretches.iter().find(|stretch| stretch.kind != StretchKind::Quiet && stretch.frequency_hz.is_some()) else {
        return Ok(Vec::new());
    };
    let from = (stretch.from_s * rate_hz) as u64;
    let frames = (((stretch.to_s - stretch.from_s) * rate_hz) as usize).min(16_384);
    let own = source.window(first.channel - 1, from, frames)?;
    let mut found = Vec::new();
    for other in others {
        let samples = source.window(other.channel - 1, from, frames)?;
        let sums = own.iter().zip(&samples).fold((0.0, 0.0, 0.0), |(xy, xx, yy), (x, y)| (xy + x * y, xx + x * x, yy + y * y));
        if sums.0 < -0.9 * (sums.1 * sums.2).sqrt() && sums.2 > 0.0 {
            let says = format!("It swings against channel {}: one of the two is wired in reverse.", first.channel);
            found.push(doubt(DoubtCode::Polarity, other, (stretch.from_s, stretch.to_s), says));
        }
    }
    Ok(found)
}
