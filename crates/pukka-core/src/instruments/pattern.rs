//! A regular expression of a profile, made ready once: answers come hundreds of times a second.

use std::sync::OnceLock;

use regex::Regex;
use serde::{Deserialize, Serialize};

/// A regular expression, as it is written; whether it can be read is asked when the profile is checked.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(from = "String", into = "String")]
pub struct Pattern {
    text: String,
    regex: OnceLock<Option<Regex>>,
}

impl Pattern {
    /// Ready to be used; nothing where it cannot be read.
    #[must_use]
    pub fn regex(&self) -> Option<&Regex> {
        self.regex.get_or_init(|| Regex::new(&self.text).ok()).as_ref()
    }
}

impl From<String> for Pattern {
    fn from(text: String) -> Self {
        Self { text, regex: OnceLock::new() }
    }
}

impl From<Pattern> for String {
    fn from(pattern: Pattern) -> Self {
        pattern.text
    }
}

impl PartialEq for Pattern {
    fn eq(&self, other: &Self) -> bool {
        self.text == other.text
    }
}
