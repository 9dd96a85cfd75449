//! What a session is to those who watch it: when and where it was filmed, what they guessed, how it sounded.

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::kernel::absent::or_default;
use crate::kernel::format;
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

/// Guesses of the clean watts at the headline claim, sealed before the first run: until they are opened only their salted hash is
/// shared.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Guesses {
    /// SHA-256 over the salt and the list, in hexadecimal.
    pub sha256: String,
    /// Time when they were sealed.
    #[schema(value_type = String, format = DateTime)]
    pub sealed_at: Timestamp,
    /// The salt; in a shared file once they were opened.
    #[serde(default)]
    pub salt: Option<String>,
    /// The list; in a shared file once they were opened.
    #[serde(default, deserialize_with = "or_default", skip_serializing_if = "Vec::is_empty")]
    pub list: Vec<Guess>,
    /// Not opened yet: salt and list are for the owner's own files only.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub sealed: bool,
}

/// Reads a pasted list of guesses, one a line: a name, the watts, and `yes` where the guesser agreed to be named.
///
/// # Errors
/// Each line that cannot be read, with its number and why.
pub fn read_guesses(text: &str) -> Result<Vec<Guess>, Vec<Problem>> {
    let lines = text.lines().enumerate().filter(|(_, line)| !line.trim().is_empty());
    let (mut list, mut problems) = (Vec::new(), Vec::new());
    for (n, line) in lines {
        match read_guess(line) {
            Ok(guess) => list.push(guess),
            Err(why) => problems.push(Problem::new("guesses", format!("Line {}: {why}", n + 1))),
        }
    }
    if list.is_empty() && problems.is_empty() {
        problems.push(Problem::new("guesses", "There is no guess in it. One a line: a name, then watts."));
    }
    if problems.is_empty() { Ok(list) } else { Err(problems) }
}

fn read_guess(line: &str) -> Result<Guess, String> {
    let is_gap = |c: char| c.is_whitespace() || matches!(c, ',' | ';' | ':' | '\t');
    let mut rest = line.trim_matches(is_gap);
    let may_be_named = rest.len() > 3 && rest.is_char_boundary(rest.len() - 3) && rest[rest.len() - 3..].eq_ignore_ascii_case("yes");
    if may_be_named {
        rest = rest[..rest.len() - 3].trim_end_matches(is_gap);
    }
    rest = rest.strip_suffix(['W', 'w']).unwrap_or(rest).trim_end();
    let at =
        rest.rfind(|c: char| !(c.is_ascii_digit() || c == '.')).map_or(0, |at| at + rest[at..].chars().next().map_or(1, char::len_utf8));
    let (by, watts) = (rest[..at].trim_end_matches(is_gap), &rest[at..]);
    let watts: f64 = watts.parse().map_err(|_| "no watts at its end. A name, then watts: “Wren 950”.".to_owned())?;
    let power_w = Watts::new(watts).map_err(|why| why.to_string())?;
    if by.is_empty() {
        return Err("no name before the watts.".into());
    }
    Ok(Guess { by: by.to_owned(), power_w, may_be_named })
}

/// A channel of a captured wave.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TraceChannel {
    /// Subject: "output", "supply-volts", "supply-amps", "generator", "unused".
    pub kind: String,
    /// Units per unit of the file: volts at full scale of an audio file, 1 of a file in volts.
    #[serde(default)]
    pub scale: Option<f64>,
    /// ± of that as a ratio: that of an oscilloscope when it is not given.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub scale_u_ratio: Option<f64>,
    /// The meter of the bench that gave the scale: its limits are those of what is logged.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub meter: Option<String>,
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

/// So many fit on a page that anybody reads.
const MOST_GUESSES: usize = 2_000;

impl Guesses {
    /// Text that is hashed: the salt, then a line a guess: name, a tab, watts.
    #[must_use]
    pub fn sealed_text(salt: &str, list: &[Guess]) -> String {
        list.iter()
            .fold(format!("{salt}\n"), |text, guess| text + &format!("{}\t{}\n", guess.by, format::without_dust(guess.power_w.get())))
    }

    /// Whether they can be shown.
    #[must_use]
    pub fn is_open(&self) -> bool {
        !self.sealed && !self.list.is_empty()
    }

    /// Problems with them.
    #[must_use]
    pub fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        if self.list.len() > MOST_GUESSES {
            problems.push(Problem::new("list", format!("More than {MOST_GUESSES} guesses.")));
        }
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
            if channel.scale_u_ratio.is_some_and(|u| !(0.0..1.0).contains(&u)) {
                problems.push(Problem::new(format!("channels[{i}].scale_u_ratio"), "The ± of a scale is less than all of it."));
            }
            check_text(&mut problems, &format!("channels[{i}].output"), channel.output.as_deref().unwrap_or(""), false, 60);
        }
        problems
    }
}

/// Whether a text is a SHA-256, in hexadecimal. Files are named by one: no path is made of anything else.
#[must_use]
pub fn is_hash(text: &str) -> bool {
    text.len() == 64 && text.bytes().all(|byte| byte.is_ascii_hexdigit())
}

/// A SHA-256, in hexadecimal.
pub fn check_hash(problems: &mut Vec<Problem>, path: &str, hash: &str) {
    if !is_hash(hash) {
        problems.push(Problem::new(path, "A hash is 64 hexadecimal digits."));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn guesses_are_read_as_people_write_them() {
        let list = read_guesses("Wren 950\nP. Tarrow: 1020.5 W, yes\n\n Team 2;\t880w \n").unwrap();
        let read: Vec<(&str, f64, bool)> = list.iter().map(|guess| (guess.by.as_str(), guess.power_w.get(), guess.may_be_named)).collect();
        assert_eq!(read, [("Wren", 950.0, false), ("P. Tarrow", 1_020.5, true), ("Team 2", 880.0, false)]);
        let refused = read_guesses("Wren 950\n950\nsome day\nÖ ½").unwrap_err();
        assert_eq!(refused.len(), 3, "{refused:?}");
        assert!(refused[0].says.starts_with("Line 2: no name") && refused[1].says.starts_with("Line 3: no watts"), "{refused:?}");
        assert!(read_guesses(" \n").is_err());
    }

    #[test]
    fn the_text_that_is_hashed() {
        let list = read_guesses("Wren 950\nTarrow 1020.5 yes").unwrap();
        assert_eq!(Guesses::sealed_text("grit", &list), "grit\nWren\t950\nTarrow\t1020.5\n");
    }
}
