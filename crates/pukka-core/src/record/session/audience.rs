//! What a session is to those who watch it: when and where it was filmed, what they guessed, how it sounded.

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::absent::or_default;
use crate::kernel::problem::{Problem, check_text};
use crate::kernel::units::{Ohms, Watts};
use crate::record::amplifier::check_load;

/// A clap before the camera: a time of the session in the footage.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Clap {
    /// Time of it.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// In which clip.
    #[serde(default)]
    pub clip: Option<String>,
}

/// Sound of the amplifier: kept apart from what was measured.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Listening {
    /// The extra drive was taken off again.
    #[serde(default)]
    pub extra_drive_off: bool,
    /// The outputs were checked for direct current.
    #[serde(default)]
    pub direct_current_checked: bool,
    /// The speaker was connected last.
    #[serde(default)]
    pub speaker_last: bool,
    /// Through which speakers.
    #[serde(default)]
    pub speakers: Option<String>,
    /// Wired how.
    #[serde(default)]
    pub wiring: Option<String>,
    /// The load that the amplifier saw.
    #[serde(default)]
    pub load_ohm: Option<Ohms>,
    /// Music played.
    #[serde(default)]
    pub track: Option<String>,
    /// Loudness.
    #[serde(default)]
    pub level: Option<String>,
    /// Impression, in words.
    #[serde(default)]
    pub words: Option<String>,
    /// Keys this version does not know, kept as they came.
    #[serde(flatten)]
    #[schema(ignore)]
    pub extra: Map<String, Value>,
}

/// A guess.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Guess {
    /// Name of the guesser.
    pub by: String,
    /// Amount.
    pub power_w: Watts,
    /// They agreed to be named.
    #[serde(default)]
    pub may_be_named: bool,
}

/// Guesses, sealed before the first run: until they are opened only a salted hash of them is here.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Guesses {
    /// SHA-256 over the salt and the list, in hexadecimal.
    pub sha256: String,
    /// Time when they were sealed.
    #[schema(value_type = String, format = DateTime)]
    pub sealed_at: Timestamp,
    /// The salt, once they were opened.
    #[serde(default)]
    pub salt: Option<String>,
    /// The list, once they were opened.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub list: Vec<Guess>,
}

/// A channel of a captured wave.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TraceChannel {
    /// Subject: "output-volts", "supply-volts", "supply-amps".
    pub kind: String,
    /// Units a full scale of the file is.
    #[serde(default)]
    pub scale: Option<f64>,
    /// Of which output.
    #[serde(default)]
    pub output: Option<String>,
}

/// A captured wave that is kept with the session.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Trace {
    /// Of its file, in hexadecimal.
    pub sha256: String,
    /// Name of its file.
    pub name: String,
    /// Meaning of its channels.
    #[serde(default, deserialize_with = "or_default")]
    pub channels: Vec<TraceChannel>,
}

impl Listening {
    /// Problems with it.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        let texts = [
            ("speakers", &self.speakers),
            ("wiring", &self.wiring),
            ("track", &self.track),
            ("level", &self.level),
            ("words", &self.words),
        ];
        for (name, text) in texts {
            check_text(&mut problems, name, text.as_deref().unwrap_or(""), false, 4_000);
        }
        if let Some(load) = self.load_ohm {
            check_load(&mut problems, "load_ohm", load);
        }
        problems
    }
}

impl Guesses {
    /// Problems with them.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        check_hash(&mut problems, "sha256", &self.sha256);
        for (i, guess) in self.list.iter().enumerate() {
            check_text(&mut problems, &format!("list[{i}].by"), &guess.by, true, 120);
        }
        if self.salt.is_none() && !self.list.is_empty() {
            problems.push(Problem::new("salt", "Guesses that were opened come with their salt."));
        }
        problems
    }
}

impl Trace {
    /// Problems with it.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        check_hash(&mut problems, "sha256", &self.sha256);
        check_text(&mut problems, "name", &self.name, true, 255);
        for (i, channel) in self.channels.iter().enumerate() {
            check_text(&mut problems, &format!("channels[{i}].kind"), &channel.kind, true, 40);
            if channel.scale.is_some_and(|scale| !scale.is_finite() || scale == 0.0) {
                problems.push(Problem::new(format!("channels[{i}].scale"), "A scale is a number other than 0."));
            }
        }
        problems
    }
}

/// A SHA-256, in hexadecimal.
pub fn check_hash(problems: &mut Vec<Problem>, path: &str, hash: &str) {
    if !(hash.len() == 64 && hash.bytes().all(|b| b.is_ascii_hexdigit())) {
        problems.push(Problem::new(path, "A hash is 64 hexadecimal digits."));
    }
}
