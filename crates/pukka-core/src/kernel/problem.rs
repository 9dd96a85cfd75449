//! What is wrong with what was given: where, a word for the program, a sentence for the person.

use serde::{Deserialize, Serialize};

use crate::kernel::reader_words::plain;
use crate::kernel::strict::Strict;

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
    }
    if length > most {
        problems.push(Problem::new(path, format!("{length} characters are too many: {most} at most.")));
    }
    if text.chars().any(|c| c.is_control() && c != '\n' && c != '\t') {
        problems.push(Problem::new(path, "There is a control character in this text."));
    }
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
    use crate::kernel::units::Ohms;

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
