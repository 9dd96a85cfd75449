//! How a run can end, in sentences.

use serde::{Deserialize, Serialize};

use crate::instruments::Role;
use crate::kernel::format;
use crate::kernel::units::Level;

/// End of a run.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "kebab-case")]
pub enum Ending {
    /// Got what it was after.
    Done,
    /// The generator was at its top, and the distortion still inside the limit.
    Top,
    /// No reading was inside the limit.
    NothingClean {
        /// Distortion of the last one.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        thd_ratio: Option<f64>,
        /// Its level.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        level_db: Option<Level>,
    },
    /// No distortion is read, and one decibel more would be the predicted clipping.
    NearClipping,
    /// Stopped.
    Stopped {
        /// Reason.
        why: Stop,
    },
}

/// Reason why it was stopped.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "kebab-case")]
pub enum Stop {
    /// By a key.
    Key,
    /// The supply fell below the stop rule.
    SupplyLow,
    /// The heatsink is too hot.
    Hot,
    /// The power fell away while the level stood: the amplifier protects itself.
    Protection,
    /// A load would be past what it takes for ten seconds.
    LoadBank,
    /// Took too long.
    TooLong,
    /// Watts do not follow the level.
    NotFollowing,
    /// The analyser shows the same to the last digit at levels that are apart.
    Frozen,
    /// Amps rise, and watts do not.
    AmpsWithoutWatts,
    /// The level is well up, and nothing is heard.
    Silent,
    /// Readings cannot be true together.
    Impossible {
        /// Names of them, in words.
        says: String,
    },
    /// Readings never stood still.
    Unsettled,
    /// A meter no longer answers.
    LinkLost {
        /// Task of the meter.
        role: Role,
    },
    /// A reading was no number.
    BadReading {
        /// Task of the instrument.
        role: Role,
        /// Answer.
        says: String,
    },
    /// The generator no longer answers: nobody knows the level.
    GeneratorLost,
    /// The generator refused a level, or reads back another one.
    GeneratorRefused {
        /// Answer.
        says: String,
    },
    /// The samples could not be kept.
    Disk,
    /// Something in the program broke.
    Broken,
    /// The program stood still for a while, and its watchdog may have taken the level away.
    StoodStill,
    /// The program ended.
    Exit,
}

impl Ending {
    /// In a sentence.
    #[must_use]
    pub fn says(&self) -> String {
        match self {
            Self::Done => "Done.".into(),
            Self::Top => "The generator is at its top and the distortion still inside the limit: give it more gain.".into(),
            Self::NothingClean { thd_ratio: Some(thd), level_db: Some(level) } => {
                let (percent, level) = (format::as_read(100.0 * thd), format::fixed(level.get(), 1));
                format!("No reading was inside the distortion limit: at {level} dB it is {percent} %.")
            }
            Self::NothingClean { .. } => "No reading was inside the distortion limit.".into(),
            Self::NearClipping => {
                "Ended a decibel below the predicted clipping: nothing reads the distortion, so nothing would say where to stop.".into()
            }
            Self::Stopped { why } => why.says(),
        }
    }
}

impl Stop {
    /// In a sentence.
    #[must_use]
    pub fn says(&self) -> String {
        match self {
            Self::Key => "Stopped by hand.".into(),
            Self::SupplyLow => "Stopped: the supply fell below the stop rule.".into(),
            Self::Hot => "Stopped: the heatsink is past 75 °C. Let it cool.".into(),
            Self::Protection => "Stopped: the power fell away. The amplifier protects itself, or a load opened.".into(),
            Self::LoadBank => "Stopped: past what the loads take for ten seconds.".into(),
            Self::TooLong => "Stopped: it took too long.".into(),
            Self::NotFollowing => {
                "Stopped: the watts do not follow the level, so the analyser is not telling the truth, or does not hear this amplifier."
                    .into()
            }
            Self::Frozen => {
                "Stopped: the analyser is frozen. It shows the same watts and distortion to the last digit at another level.".into()
            }
            Self::AmpsWithoutWatts => "Stopped: the amps rise and the watts do not. The analyser is not telling the truth.".into(),
            Self::Silent => {
                "Stopped: the level is 20 dB up and no watts are heard. Is the amplifier on, and the analyser across its load?".into()
            }
            Self::Impossible { says } => format!("Stopped: {says}"),
            Self::Unsettled => "Stopped: the readings never stood still at this level.".into(),
            Self::LinkLost { role } => format!("Stopped: the {} no longer answers.", role.words()),
            Self::BadReading { role, says } => format!("Stopped: the {} {says}.", role.words()),
            Self::GeneratorLost => "The generator's link is lost, and its level may still be up.".into(),
            Self::GeneratorRefused { says } => format!("Stopped: the signal generator did not take its level: {says}"),
            Self::Disk => "Stopped: the readings could not be kept. Is the disk full?".into(),
            Self::Broken => "Stopped: something in the program broke. The level was taken away.".into(),
            Self::StoodStill => "Stopped: the program stood still for a moment, and its watchdog took the level away.".into(),
            Self::Exit => "Stopped: the program was ended.".into(),
        }
    }
}
