//! What a captured wave says, without a server.

use std::ops::ControlFlow;
use std::path::Path;

use pukka_core::kernel::format;
use pukka_core::traces::report::{ChannelReport, Stretch};
use pukka_core::traces::{ChannelKind, ChannelSetting, TraceReport, TraceSettings, read};

/// What one `--channel` says.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ChannelArgument {
    /// Which channel, from 1.
    pub channel: usize,
    /// What it is.
    pub setting: ChannelSetting,
}

/// Reads `N=KIND[:SCALE]`.
///
/// # Errors
/// In words, what of it cannot be.
pub fn channel(text: &str) -> Result<ChannelArgument, String> {
    let (number, rest) = text.split_once('=').ok_or("it is N=KIND or N=KIND:SCALE, as in 1=output:80")?;
    let channel =
        number.parse::<usize>().ok().filter(|n| (1..=8).contains(n)).ok_or_else(|| format!("“{number}” is no channel: 1 to 8"))?;
    let (word, scale) = rest.split_once(':').map_or((rest, Ok(1.0)), |(word, scale)| (word, positive(scale)));
    let kind = ChannelKind::ALL.into_iter().find(|kind| kind.word() == word).ok_or_else(|| {
        let words: Vec<&str> = ChannelKind::ALL.iter().map(|kind| kind.word()).collect();
        format!("“{word}” is no kind of channel: {}", words.join(", "))
    })?;
    Ok(ChannelArgument { channel, setting: ChannelSetting { kind, scale: scale? } })
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
pub fn trace(file: &Path, json: bool, channels: &[ChannelArgument], load_ohm: Option<f64>, limit_ratio: f64) -> anyhow::Result<bool> {
    let report = match report(file, channels, load_ohm, limit_ratio) {
        Ok(report) => report,
        Err(why) => {
            eprintln!("{}: {why}", file.display());
            return Ok(false);
        }
    };
    if json {
        println!("{}", serde_json::to_string_pretty(&report)?);
        return Ok(true);
    }
    println!("{} samples a second, {} s", format::as_read(report.sample_rate_hz), format::fixed(report.seconds, 3));
    for channel in &report.channels {
        print_channel(channel);
    }
    for doubt in &report.doubts {
        println!("channel {}, {} to {} s: {}", doubt.channel, format::fixed(doubt.from_s, 3), format::fixed(doubt.to_s, 3), doubt.says);
    }
    Ok(true)
}

fn report(file: &Path, channels: &[ChannelArgument], load_ohm: Option<f64>, limit_ratio: f64) -> Result<TraceReport, String> {
    let mut source = pukka_capture::open(file).map_err(|why| why.to_string())?;
    let there = source.recording().channels;
    if let Some(missing) = channels.iter().find(|argument| argument.channel > there) {
        return Err(format!("There is no channel {}: it has {there}.", missing.channel));
    }
    let setting =
        |n: usize| channels.iter().rev().find(|argument| argument.channel == n).map_or_else(ChannelSetting::default, |found| found.setting);
    let asked = TraceSettings { channels: (1..=there).map(setting).collect(), load_ohm, limit_ratio };
    read(source.as_mut(), &asked, &mut |_| ControlFlow::Continue(())).map_err(|why| why.to_string())
}

fn print_channel(channel: &ChannelReport) {
    println!("channel {}: {}, rms {}, peak {}", channel.channel, channel.kind.word(), shown(channel.rms), shown(channel.peak));
    for stretch in &channel.stretches {
        println!("  {}", words(stretch));
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
        stretch.power_w.map(|watts| format!("{} W", format::watts(watts))),
        stretch.clipped.filter(|clipped| *clipped).map(|_| "clipped".to_owned()),
        stretch.certified.map(|found| {
            let watts = found.power_w.map(|watts| format!(", {} W", format::watts(watts))).unwrap_or_default();
            format!("limit crossed at {} s, rms {}{watts}", format::fixed(found.at_s, 3), shown(found.rms))
        }),
        stretch.response.as_ref().map(|response| {
            let corner = |hz: Option<f64>| hz.map_or_else(|| "none".to_owned(), |hz| format!("{} Hz", shown(hz)));
            format!("corners {} and {}", corner(response.low_corner_hz), corner(response.high_corner_hz))
        }),
    ];
    parts.into_iter().flatten().collect::<Vec<_>>().join("  ")
}
