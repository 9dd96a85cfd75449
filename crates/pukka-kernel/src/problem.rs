//! What is wrong with what was given: where, a word for the program, a sentence for the person.

use serde::{Deserialize, Serialize};

use crate::reader_words::plain;
use crate::strict::Strict;

/// A thing that is wrong, and where it stands.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Problem {
    /// Path of the field, `claims[2].load_ohm`.
    pub path: String,
    /// A plain sentence.
    pub says: String,
}

impl Problem {
    /// A problem at `path`.
    pub fn new(path: impl Into<String>, says: impl Into<String>) -> Self {
        Self { path: path.into(), says: says.into() }
    }
}

/// Refuses a text that is empty where it may not be, or longer than its field allows.
pub fn check_text(problems: &mut Vec<Problem>, path: &str, text: &str, required: bool, most: usize) {
    let length = text.chars().count();
    if required && text.trim().is_empty() {
        problems.push(Problem::new(path, "This cannot be left empty."));
    } else if !text.is_empty() && text.chars().all(|c| c.is_whitespace() || is_invisible(c)) && text.chars().any(is_invisible) {
        problems.push(Problem::new(path, "There are only invisible characters in this text."));
    }
    if text.chars().any(turns_text_round) {
        problems.push(Problem::new(path, "There is a character in this text that turns the direction of what follows."));
    }
    if length > most {
        problems.push(Problem::new(path, format!("{length} characters are too many: {most} at most.")));
    }
    if text.chars().any(|c| c.is_control() && c != '\n' && c != '\t') {
        problems.push(Problem::new(path, "There is a control character in this text."));
    }
}

/// Refuses a list that is longer than any bench makes one; says whether it did.
pub fn check_count(problems: &mut Vec<Problem>, path: &str, count: usize, most: usize) -> bool {
    if count > most {
        problems.push(Problem::new(path, format!("{count} entries are too many: {most} at most.")));
    }
    count > most
}

/// Characters that take no room: a name of them alone cannot be told from none.
///
/// Ref: Unicode 16.0, DerivedCoreProperties, Default_Ignorable_Code_Point.
fn is_invisible(c: char) -> bool {
    matches!(c, '\u{ad}' | '\u{34f}' | '\u{61c}' | '\u{115f}'..='\u{1160}' | '\u{17b4}'..='\u{17b5}' | '\u{180b}'..='\u{180f}'
        | '\u{200b}'..='\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{3164}' | '\u{fe00}'..='\u{fe0f}'
        | '\u{feff}' | '\u{ffa0}' | '\u{1bca0}'..='\u{1bca3}' | '\u{1d173}'..='\u{1d17a}' | '\u{e0000}'..='\u{e0fff}')
}

/// Embeddings, overrides and isolates of direction: a name with one makes the words behind it read backwards.
fn turns_text_round(c: char) -> bool {
    matches!(c, '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
}

/// Puts `prefix` before the paths, for a record inside another.
#[must_use]
pub fn under(prefix: &str, problems: Vec<Problem>) -> Vec<Problem> {
    problems.into_iter().map(|p| Problem { path: format!("{prefix}.{}", p.path), ..p }).collect()
}

/// Reads JSON, and names the path in the document of what could not be read.
///
/// # Errors
/// A [`Problem`] with the path and why.
pub fn read_json<T: serde::de::DeserializeOwned>(text: &[u8]) -> Result<T, Problem> {
    let mut reader = serde_json::Deserializer::from_slice(text);
    let value = serde_path_to_error::deserialize(Strict(&mut reader)).map_err(|error| {
        let path = error.path().to_string();
        // A document that breaks off has no field to name.
        let path = if path == "?" { ".".to_owned() } else { path };
        Problem::new(path, plain(&error.into_inner().to_string()))
    })?;
    reader.end().map_err(|error| Problem::new(".", plain(&error.to_string())))?;
    Ok(value)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_that_cannot_be_seen_and_texts_that_turn_round_are_refused() {
        let found = |text: &str| {
            let mut problems = Vec::new();
            check_text(&mut problems, "make", text, true, 80);
            problems.into_iter().map(|problem| problem.says).collect::<Vec<_>>()
        };
        for unseen in ["\u{200b}", " \u{feff} ", "\u{3164}\u{ad}"] {
            assert_eq!(found(unseen), ["There are only invisible characters in this text."], "{unseen:?}");
        }
        assert_eq!(found("\u{202e}Fennway").len(), 1);
        // Joiners belong to words of some scripts, and to emoji.
        for seen in ["Fennway", "می\u{200c}خواهم", "👩\u{200d}🔧\u{fe0f}", "שלום"] {
            assert_eq!(found(seen), Vec::<String>::new(), "{seen}");
        }
    }
    use crate::units::Ohms;

    #[derive(Debug, Deserialize)]
    struct Two {
        #[allow(dead_code)]
        loads: Vec<Ohms>,
    }

    #[test]
    fn path_and_reason_of_a_bad_value() {
        let problem = read_json::<Two>(br#"{"loads":[4,0]}"#).unwrap_err();
        assert_eq!(problem.path, "loads[1]");
        assert!(problem.says.starts_with("0 Ω is too little for load"), "{}", problem.says);
        assert_eq!(read_json::<Two>(b"{}").unwrap_err().says, "loads is missing.");
        assert_eq!(read_json::<Two>(br#"{"loads":["x"]}"#).unwrap_err().says, "This is a text; a number belongs here.");
        assert!(read_json::<Two>(br#"{"loads":[]} x"#).is_err(), "what follows the document is not dropped");
        assert!(read_json::<Two>(br#"{"loads":[1e999]}"#).is_err());
    }

    #[test]
    fn texts_are_bounded() {
        let mut problems = Vec::new();
        check_text(&mut problems, "make", &"x".repeat(4_000), true, 80);
        check_text(&mut problems, "model", "  ", true, 80);
        check_text(&mut problems, "note", "a\u{0}b", false, 80);
        let says: Vec<_> = problems.iter().map(|p| p.says.as_str()).collect();
        assert_eq!(
            says,
            ["4000 characters are too many: 80 at most.", "This cannot be left empty.", "There is a control character in this text."]
        );
    }
}
