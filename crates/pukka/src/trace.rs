//! What a captured wave says, without a server.

use std::ops::ControlFlow;
use std::path::Path;

use pukka_core::kernel::format;
use pukka_core::traces::measure::{LOAD_U_RATIO, SCOPE_U_RATIO};
use pukka_core::traces::report::{ChannelReport, Response, Stretch};
use pukka_core::traces::scale::by_meter;
use pukka_core::traces::{ChannelKind, ChannelSetting, TraceReport, TraceSettings, read};

use crate::say;

/// Source of a channel's scale.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Scale {
    /// Units per unit of the file.
    PerUnit(f64),
    /// A meter that read so much over a stretch of it, seconds from and to.
    ByMeter(f64, (f64, f64)),
}

/// Content of one `--channel`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ChannelArgument {
    /// The channel, from 1.
    pub channel: usize,
    /// Quantity of the channel.
    pub kind: ChannelKind,
    /// Scale.
    pub scale: Scale,
    /// ± of that, as a ratio.
    pub scale_u_ratio: f64,
}

/// A load, and how far it may be off.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LoadArgument {
    /// Ohms.
    pub ohm: f64,
    /// ± of them, as a ratio.
    pub u_ratio: f64,
}

/// Reads `N=KIND[:SCALE]`. SCALE: units per unit of the file, or `READING@FROM-TO`; behind either `±P%`.
///
/// # Errors
/// In words, what of it cannot be.
pub fn channel(text: &str) -> Result<ChannelArgument, String> {
    let (number, rest) = text.split_once('=').ok_or("it is N=KIND or N=KIND:SCALE, as in 1=output:80")?;
    let channel =
        number.parse::<usize>().ok().filter(|n| (1..=8).contains(n)).ok_or_else(|| format!("“{number}” is no channel: 1 to 8"))?;
    let (word, scale) = rest.split_once(':').map_or((rest, None), |(word, scale)| (word, Some(scale)));
    let kind = ChannelKind::ALL.into_iter().find(|kind| kind.word() == word).ok_or_else(|| {
        let words: Vec<&str> = ChannelKind::ALL.iter().map(|kind| kind.word()).collect();
        format!("“{word}” is no kind of channel: {}", words.join(", "))
    })?;
    let (figure, u_ratio) = scale.map(with_u).transpose()?.map_or(("1", None), |found| found);
    let scale = match figure.split_once('@') {
        Some((reading, span)) => Scale::ByMeter(positive(reading)?, self::span(span)?),
        None => Scale::PerUnit(positive(figure)?),
    };
    // A scale that a meter gave is as good as the meter; 1 % unless it is said.
    let usual = if matches!(scale, Scale::ByMeter(..)) { METER_U_RATIO } else { SCOPE_U_RATIO };
    Ok(ChannelArgument { channel, kind, scale, scale_u_ratio: u_ratio.unwrap_or(usual) })
}

/// Uncertainty of a multimeter's true rms, unless it is known better.
const METER_U_RATIO: f64 = 0.01;

/// Reads `OHM` or `OHM±P%`.
///
/// # Errors
/// In words, what of it cannot be.
pub fn load(text: &str) -> Result<LoadArgument, String> {
    let (figure, u_ratio) = with_u(text)?;
    Ok(LoadArgument { ohm: positive(figure)?, u_ratio: u_ratio.unwrap_or(LOAD_U_RATIO) })
}

/// A figure, and the ± behind it as a ratio: `80±2%`, or `80+-2%` where the keyboard has no ±.
fn with_u(text: &str) -> Result<(&str, Option<f64>), String> {
    let Some((figure, u)) = text.split_once('±').or_else(|| text.split_once("+-")) else { return Ok((text, None)) };
    let percent = u.strip_suffix('%').ok_or_else(|| format!("“±{u}” has no %: ±2%"))?;
    let ratio = positive(percent)? / 100.0;
    if ratio >= 1.0 {
        return Err(format!("±{percent} % leaves nothing of it"));
    }
    Ok((figure, Some(ratio)))
}

/// `FROM-TO`, seconds.
fn span(text: &str) -> Result<(f64, f64), String> {
    let ends = text.split_once('-').and_then(|(from, to)| Some((from.parse::<f64>().ok()?, to.parse::<f64>().ok()?)));
    ends.filter(|(from, to)| *from >= 0.0 && from < to)
        .ok_or_else(|| format!("“{text}” is no stretch of time: FROM-TO in seconds, as in 0.5-2.5"))
}

/// A number above zero.
///
/// # Errors
/// In words.
pub fn positive(text: &str) -> Result<f64, String> {
    let value = text.parse::<f64>().ok().filter(|value| value.is_finite() && *value > 0.0);
    value.ok_or_else(|| format!("“{text}” is no number above 0"))
}

/// Reads a recording and prints what it says. Answers false when it cannot be read: what and where is on standard error.
///
/// # Errors
/// When the answer cannot be written as JSON.
pub fn trace(file: &Path, json: bool, channels: &[ChannelArgument], load: Option<LoadArgument>, limit_ratio: f64) -> anyhow::Result<bool> {
    let report = match report(file, channels, load, limit_ratio) {
        Ok(report) => report,
        Err(why) => {
            eprintln!("{}: {why}", file.display());
            return Ok(false);
        }
    };
    if json {
        say!("{}", serde_json::to_string_pretty(&report)?);
        return Ok(true);
    }
    say!("{} samples a second, {} s", format::as_read(report.sample_rate_hz), format::fixed(report.seconds, 3));
    for channel in &report.channels {
        print_channel(channel);
    }
    for both in &report.together {
        let channels: Vec<String> = both.channels.iter().map(ToString::to_string).collect();
        let watts = both.power_w.map(|watts| format!("{} W, ", format::watts(watts))).unwrap_or_default();
        let (from, to) = (format::fixed(both.from_s, 3), format::fixed(both.to_s, 3));
        say!("channels {} together, {from} to {to} s: {watts}balance {} dB", channels.join(" and "), format::fixed(both.balance_db, 2));
    }
    for doubt in &report.doubts {
        say!("channel {}, {} to {} s: {}", doubt.channel, format::fixed(doubt.from_s, 3), format::fixed(doubt.to_s, 3), doubt.says);
    }
    Ok(true)
}

fn report(file: &Path, channels: &[ChannelArgument], load: Option<LoadArgument>, limit_ratio: f64) -> Result<TraceReport, String> {
    let mut source = pukka_capture::open(file).map_err(|why| why.to_string())?;
    let there = source.recording().channels;
    if let Some(missing) = channels.iter().find(|argument| argument.channel > there) {
        return Err(format!("There is no channel {}: it has {there}.", missing.channel));
    }
    let mut settings = vec![ChannelSetting::default(); there];
    for asked in channels {
        let scale = match asked.scale {
            Scale::PerUnit(scale) => scale,
            Scale::ByMeter(reading, span_s) => {
                by_meter(source.as_mut(), asked.channel - 1, asked.kind, reading, span_s).map_err(|why| why.to_string())?
            }
        };
        settings[asked.channel - 1] = ChannelSetting { kind: asked.kind, scale, scale_u_ratio: asked.scale_u_ratio };
    }
    let load_u_ratio = load.map_or(LOAD_U_RATIO, |load| load.u_ratio);
    let asked = TraceSettings { channels: settings, load_ohm: load.map(|load| load.ohm), load_u_ratio, limit_ratio };
    read(source.as_mut(), &asked, &mut |_| ControlFlow::Continue(())).map_err(|why| why.to_string())
}

fn print_channel(channel: &ChannelReport) {
    say!("channel {}: {}, rms {}, peak {}", channel.channel, channel.kind.word(), shown(channel.rms), shown(channel.peak));
    for stretch in &channel.stretches {
        say!("  {}", words(stretch));
    }
    for found in &channel.repeats {
        let watts = found.power_w.map(|watts| format!(", {} W", format::watts(watts))).unwrap_or_default();
        let cycles = if found.cycles == 1 { "1 cycle".to_owned() } else { format!("{} cycles", found.cycles) };
        say!("  {} bursts of {cycles}, mean rms {}{watts}, within {} dB", found.count, shown(found.rms), format::fixed(found.spread_db, 2));
    }
    if let Some(response) = &channel.response {
        say!("  {}", response_words(response));
    }
}

fn shown(value: f64) -> String {
    format::significant(value, 4)
}

fn words(stretch: &Stretch) -> String {
    let percent = |ratio: f64| format!("{} %", format::significant(100.0 * ratio, 3));
    let parts = [
        Some(format!("{:>9} to {:>9} s  {:?}", format::fixed(stretch.from_s, 4), format::fixed(stretch.to_s, 4), stretch.kind)),
        stretch.frequency_hz.map(format::tone),
        Some(format!("rms {}", shown(stretch.rms))),
        Some(format!("peak {}", shown(stretch.peak))),
        stretch.cycles.map(|cycles| if cycles == 1 { "1 cycle".to_owned() } else { format!("{cycles} cycles") }),
        stretch.droop_db.map(|db| format!("droop {} dB", format::fixed(db, 2))),
        stretch.thd_ratio.map(|thd| format!("THD {}", percent(thd))),
        stretch.thd_n_ratio.map(|thd| format!("THD+N {}", percent(thd))),
        stretch.power_w.map(|watts| {
            let u = stretch.power_u_w.map(|u| format!(" ± {}", format::watts(u))).unwrap_or_default();
            format!("{}{u} W", format::watts(watts))
        }),
        stretch.clipped.filter(|clipped| *clipped).map(|_| "clipped".to_owned()),
        stretch.certified.map(|found| {
            let watts = found.power_w.map(|watts| format!(", {} W", format::watts(watts))).unwrap_or_default();
            format!("limit crossed at {} s, rms {}{watts}", format::fixed(found.at_s, 3), shown(found.rms))
        }),
        stretch
            .above_band
            .filter(|above| above.rms > NAMED_ABOVE * stretch.rms)
            .map(|above| format!("{} above 20 kHz, most at {}", shown(above.rms), format::tone(above.hz))),
        stretch.response.as_ref().map(response_words),
    ];
    parts.into_iter().flatten().collect::<Vec<_>>().join("  ")
}

/// Part of the rms from which content above the band is named.
const NAMED_ABOVE: f64 = 0.001;

fn response_words(response: &Response) -> String {
    let corner = |hz: Option<f64>| hz.map_or_else(|| "none".to_owned(), |hz| format!("{} Hz", shown(hz)));
    let boost = response.boost.map(|boost| format!(", {} dB of boost at {} Hz", format::fixed(boost.db, 1), shown(boost.hz)));
    format!("corners {} and {}{}", corner(response.low_corner_hz), corner(response.high_corner_hz), boost.unwrap_or_default())
}
