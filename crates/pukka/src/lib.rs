//! The program: command line, HTTP, and the embedded front end.
//!
//! [`serve::launch`] is the whole server as a function of its settings and a listener; [`http`] lists every route; [`draw`]
//! makes the charts; [`bundle`] reads and writes session files and zips of the shelf; [`instruments`] are links to SCPI instruments, [`live`] drives runs over them; [`sheet`] writes
//! the result sheet; [`demo`] is the Ferry Lane bench. A handler extracts, calls the core or the store, and maps.

// Lines on standard output are said with [`say!`], which a closed pipe does not end.
#![warn(clippy::print_stdout)]

pub mod assets;
pub mod bundle;
pub mod captures;
pub mod cards;
pub mod cli;
pub mod clock;
pub mod data;
pub mod demo;
pub mod draw;
pub mod http;
pub mod instruments;
pub mod live;
pub mod net;
pub mod panics;
pub mod photo;
pub mod publish;
pub mod say;
pub mod serve;
pub mod sessions;
pub mod sheet;
pub mod site;
pub mod stand_in;
pub mod trace;
pub mod upkeep;
pub mod worth;

/// A name in plain letters, for files: "Tolland & Pike Mono 1100" is `tolland-pike-mono-1100`.
#[must_use]
pub fn slug(name: &str) -> String {
    let plain: String = name.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' }).collect();
    let words: Vec<&str> = plain.split('-').filter(|word| !word.is_empty()).collect();
    if words.is_empty() { "amplifier".into() } else { words.join("-").chars().take(80).collect() }
}

#[cfg(test)]
mod tests {
    #[test]
    fn names_of_files_are_plain() {
        assert_eq!(super::slug("Tolland & Pike Mono 1100"), "tolland-pike-mono-1100");
        assert_eq!(super::slug("../../Ω"), "amplifier");
    }
}
