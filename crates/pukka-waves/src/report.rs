//! What a trace says, as other programs read it.

use serde::{Deserialize, Serialize};

use crate::cut::StretchKind;

/// Subject of a channel.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ChannelKind {
    /// Volts of an output.
    #[default]
    Output,
    /// Volts of the supply.
    SupplyVolts,
    /// Amps of the supply.
    SupplyAmps,
    /// Signal of the generator.
    Generator,
    /// Nothing.
    Unused,
}

impl ChannelKind {
    /// Every one.
    pub const ALL: [Self; 5] = [Self::Output, Self::SupplyVolts, Self::SupplyAmps, Self::Generator, Self::Unused];

    /// Word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Output => "output",
            Self::SupplyVolts => "supply-volts",
            Self::SupplyAmps => "supply-amps",
            Self::Generator => "generator",
            Self::Unused => "unused",
        }
    }

    /// Whether a tone is looked for in it.
    #[must_use]
    pub const fn has_tone(self) -> bool {
        matches!(self, Self::Output | Self::Generator)
    }
}

/// A cycle of a burst.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Cycle {
    /// Largest value either way.
    pub peak: f64,
    /// Rms.
    pub rms: f64,
}

/// A window of a ramp, or one step of a staircase.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LevelPoint {
    /// Middle, seconds from the start.
    pub at_s: f64,
    /// Rms.
    pub rms: f64,
    /// Watts, when the load is known.
    pub power_w: Option<f64>,
    /// Distortion and noise.
    pub thd_n_ratio: Option<f64>,
}

/// Point where a ramp first crosses the limit and stays past it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Certified {
    /// Rms there.
    pub rms: f64,
    /// Watts, when the load is known.
    pub power_w: Option<f64>,
    /// Seconds from the start.
    pub at_s: f64,
}

/// A frequency of a response.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ResponsePoint {
    /// Frequency.
    pub hz: f64,
    /// Decibels of 1 kHz, or of the generator.
    pub db: f64,
    /// Share of the output's power that follows the generator, 0 to 1; nothing without a generator.
    pub coherence: Option<f64>,
}

/// A boost: where a response stands highest above its passband.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Boost {
    /// Centre.
    pub hz: f64,
    /// Height above the passband.
    pub db: f64,
}

/// Magnitude against frequency.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Response {
    /// In order of frequency.
    pub points: Vec<ResponsePoint>,
    /// Frequency where it is 3 dB down at the low end.
    pub low_corner_hz: Option<f64>,
    /// Frequency where it is 3 dB down at the high end.
    pub high_corner_hz: Option<f64>,
    /// Slope below that.
    pub low_slope_db_octave: Option<f64>,
    /// Slope above that.
    pub high_slope_db_octave: Option<f64>,
    /// Boost, if any.
    pub boost: Option<Boost>,
}

/// Bursts of one kind that were played again and again: their means.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RepeatedBursts {
    /// Whole cycles of each.
    pub cycles: u32,
    /// Number.
    pub count: usize,
    /// Mean frequency.
    pub frequency_hz: f64,
    /// Root of the mean square.
    pub rms: f64,
    /// Mean of their peaks.
    pub peak: f64,
    /// Mean watts, when the load is known.
    pub power_w: Option<f64>,
    /// Mean of their first cycles.
    pub first: Cycle,
    /// Mean of their last cycles.
    pub last: Cycle,
    /// Last against first, by those means.
    pub droop_db: Option<f64>,
    /// Largest against smallest rms of them.
    pub spread_db: f64,
}

/// Outputs that are driven at the same time.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Together {
    /// Seconds from the start.
    pub from_s: f64,
    /// Behind its end.
    pub to_s: f64,
    /// The one meant, from 1.
    pub channels: Vec<usize>,
    /// Watts of all of them, when the load is known.
    pub power_w: Option<f64>,
    /// Loudest against quietest.
    pub balance_db: f64,
}

/// Content above the audio band.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct AboveBand {
    /// Strongest frequency.
    pub hz: f64,
    /// Rms.
    pub rms: f64,
}

/// The supply at a moment.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SupplyPoint {
    /// Seconds from the start.
    pub at_s: f64,
    /// Volts.
    pub v: f64,
}

/// The supply during a stretch of an output.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SupplyFigures {
    /// Lowest volts.
    pub lowest_v: Option<f64>,
    /// Mean volts.
    pub mean_v: Option<f64>,
    /// Mean amps.
    pub mean_a: Option<f64>,
    /// Mean of volts times amps, when both are there.
    pub input_w: Option<f64>,
    /// Output over input.
    pub efficiency_ratio: Option<f64>,
    /// Sag of its volts, at most 64 places.
    pub sag: Option<Vec<SupplyPoint>>,
}

/// A stretch of a channel, and its figures. What cannot be given is left out or null.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Stretch {
    /// Format.
    pub kind: StretchKind,
    /// Seconds from the start.
    pub from_s: f64,
    /// Behind its end.
    pub to_s: f64,
    /// Frequency of its tone.
    pub frequency_hz: Option<f64>,
    /// Mean.
    pub dc: f64,
    /// Rms about the mean, over whole periods.
    pub rms: f64,
    /// Largest value either way, about the mean.
    pub peak: f64,
    /// Peak over rms.
    pub crest_db: Option<f64>,
    /// Rms of the fundamental.
    pub fundamental_rms: Option<f64>,
    /// Harmonics over the fundamental.
    pub thd_ratio: Option<f64>,
    /// Distortion and noise over all, in the band.
    pub thd_n_ratio: Option<f64>,
    /// Share of a cycle in which the wave is flat.
    pub flat_ratio: Option<f64>,
    /// Tops are cut, or its distortion is past the limit.
    pub clipped: Option<bool>,
    /// Decibels past the onset of clipping.
    pub past_onset_db: Option<f64>,
    /// Watts, when the load is known.
    pub power_w: Option<f64>,
    /// Their ±, from scale and load.
    pub power_u_w: Option<f64>,
    /// Content above 20 kHz: the carrier of a class D amplifier that is left.
    pub above_band: Option<AboveBand>,
    /// Whole cycles of a burst.
    pub cycles: Option<u32>,
    /// Each of them.
    pub each: Option<Vec<Cycle>>,
    /// First cycle.
    pub first: Option<Cycle>,
    /// Last.
    pub last: Option<Cycle>,
    /// The lower of the two.
    pub sustained: Option<Cycle>,
    /// The higher of the two.
    pub best: Option<Cycle>,
    /// Last against first, by their peaks.
    pub droop_db: Option<f64>,
    /// Burst against the level before it; nothing of silence.
    pub over_between_db: Option<f64>,
    /// Windows of a ramp, steps of a staircase.
    pub points: Option<Vec<LevelPoint>>,
    /// Point where a ramp crosses the limit.
    pub certified: Option<Certified>,
    /// Magnitude against frequency of a sweep.
    pub response: Option<Response>,
    /// The supply meanwhile.
    pub supply: Option<SupplyFigures>,
}

/// A stretch of time that touches full scale.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct OverRange {
    /// Seconds from the start.
    pub from_s: f64,
    /// Behind its end.
    pub to_s: f64,
}

/// A channel.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ChannelReport {
    /// From 1.
    pub channel: usize,
    /// Quantity of the channel.
    pub kind: ChannelKind,
    /// Units per unit of the file.
    pub scale: f64,
    /// ±, as a ratio.
    pub scale_u_ratio: f64,
    /// Mean of all of it.
    pub dc: f64,
    /// Rms about that.
    pub rms: f64,
    /// Largest sample either way.
    pub peak: f64,
    /// Place where it touches the file's full scale.
    pub over_range: Vec<OverRange>,
    /// Stretches, in order.
    pub stretches: Vec<Stretch>,
    /// Bursts of one kind, averaged.
    pub repeats: Vec<RepeatedBursts>,
    /// Magnitude against frequency, of tones of several frequencies one behind another.
    pub response: Option<Response>,
}

/// Subject of a doubt.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum DoubtCode {
    /// Touches its own full scale.
    OverRange,
    /// Samples are missing or repeated.
    Dropout,
    /// Half of the noise is mains hum.
    Hum,
    /// Too short for a figure.
    TooShort,
    /// The file's own floor is what was measured.
    Floor,
    /// Two outputs are of opposite polarity.
    Polarity,
    /// Harmonics lie past half the sampling rate.
    Aliased,
}

/// A doubt about a stretch of time.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Doubt {
    /// Kind of doubt.
    pub code: DoubtCode,
    /// The channel, from 1.
    pub channel: usize,
    /// Seconds from the start.
    pub from_s: f64,
    /// Behind its end.
    pub to_s: f64,
    /// In a sentence.
    pub says: String,
}

/// Report on a trace.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TraceReport {
    /// `pukka-trace`.
    pub format: String,
    /// 1.
    pub version: u32,
    /// Samples a second.
    pub sample_rate_hz: f64,
    /// Length.
    pub seconds: f64,
    /// Channels.
    pub channels: Vec<ChannelReport>,
    /// Outputs that are driven at the same time.
    pub together: Vec<Together>,
    /// Doubts about it.
    pub doubts: Vec<Doubt>,
}
