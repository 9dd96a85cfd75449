//! What the channels of a kept trace are, as the kernel wants to know it.

use crate::record::session::{Trace, TraceChannel};
use crate::traces::measure::SCOPE_U_RATIO;
use crate::traces::{ChannelKind, ChannelSetting, TraceSettings};

/// Subject of a channel by its word in a file; "output-volts" is an output too. A word of a later version is nothing that is known here.
#[must_use]
pub fn kind_of(channel: &TraceChannel) -> ChannelKind {
    let word = if channel.kind == "output-volts" { ChannelKind::Output.word() } else { &channel.kind };
    ChannelKind::ALL.into_iter().find(|kind| kind.word() == word).unwrap_or(ChannelKind::Unused)
}

/// Settings to read a trace of so many channels with, into a load, to a limit.
#[must_use]
pub fn trace_settings(trace: &Trace, channels: usize, load_ohm: Option<f64>, limit_ratio: f64) -> TraceSettings {
    let setting = |channel: &TraceChannel| ChannelSetting {
        kind: kind_of(channel),
        scale: channel.scale.unwrap_or(1.0),
        scale_u_ratio: channel.scale_u_ratio.unwrap_or(SCOPE_U_RATIO),
    };
    let unused = ChannelSetting { kind: ChannelKind::Unused, ..ChannelSetting::default() };
    let all = (0..channels).map(|n| trace.channels.get(n).map_or(unused, setting)).collect();
    TraceSettings { channels: all, load_ohm, limit_ratio, ..TraceSettings::default() }
}
