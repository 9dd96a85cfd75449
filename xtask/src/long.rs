//! What takes too long for every change: kill loops, runs driven in real time, fuzzing, mutants. Always in this order, each
//! whatever became of the one before, and a summary at the end.

use std::process::Command;
use std::time::Instant;

use anyhow::Context as _;

use crate::build::{Steps, own_cargo, root};

/// A piece of the long tests.
struct Piece {
    what: &'static str,
    /// Cargo's command and its arguments.
    args: &'static [&'static str],
    /// More arguments, where several pieces share the first ones.
    more: &'static [&'static str],
    /// Set in its surroundings.
    with: Option<(&'static str, &'static str)>,
    /// A command of cargo that has to be installed for it.
    needs: Option<&'static str>,
}

const TEN_MINUTES: &str = "-max_total_time=600";

/// A fuzz target with its arguments. Without a sanitizer, stable Rust builds it.
const fn fuzz(what: &'static str, more: &'static [&'static str]) -> Piece {
    Piece { what, args: &["fuzz", "run", "--sanitizer", "none"], more, with: Some(("RUSTC_BOOTSTRAP", "1")), needs: Some("fuzz") }
}

const PIECES: [Piece; 13] = [
    Piece {
        what: "two hundred hard kills in live runs: the level is down within a second each time",
        args: &["test", "--workspace", "--test", "live", "--", "--include-ignored", "kills_in_live_runs"],
        more: &[],
        with: None,
        needs: None,
    },
    Piece {
        what: "a hundred hard kills in mid-stream",
        args: &["test", "--workspace", "--test", "server", "--", "--include-ignored", "power_cut::"],
        more: &[],
        with: None,
        needs: None,
    },
    Piece {
        what: "two hundred kills during runs, photos, imports and copies",
        args: &["test", "--workspace", "--test", "server", "--", "--include-ignored", "hard_times::"],
        more: &[],
        with: None,
        needs: None,
    },
    Piece {
        what: "runs driven in real time",
        args: &["test", "--workspace", "--test", "live", "stream::"],
        more: &[],
        with: Some(("PUKKA_PACE", "1")),
        needs: None,
    },
    fuzz(
        "the session reader, fuzzed for ten minutes",
        &["session_file", "--", TEN_MINUTES, "-max_len=16384", "-dict=fuzz/session_file.dict"],
    ),
    fuzz("audio files, fuzzed", &["wav", "--", TEN_MINUTES, "-max_len=65536"]),
    fuzz("the CSV of oscilloscopes, fuzzed", &["scope_csv", "--", TEN_MINUTES, "-max_len=16384"]),
    fuzz("entry lines, fuzzed", &["entry_line", "--", TEN_MINUTES, "-max_len=400"]),
    fuzz("spec tables, fuzzed", &["spec_text", "--", TEN_MINUTES, "-max_len=16384"]),
    fuzz("answers of instruments, fuzzed", &["scpi_reply", "--", TEN_MINUTES, "-max_len=400"]),
    fuzz("instrument profiles, fuzzed", &["profile", "--", TEN_MINUTES, "-max_len=16384"]),
    fuzz("zips of a shelf, fuzzed", &["--features", "pukka", "shelf_zip", "--", TEN_MINUTES, "-max_len=65536"]),
    Piece {
        what: "sixty mutants of checks, rest, cautions and suspicion",
        args: &[
            "mutants",
            "--package",
            "pukka-core",
            "--shard",
            "0/8",
            "--sharding",
            "round-robin",
            "--output",
            "target/mutants",
            "--file",
            "crates/pukka-core/src/assess/checks/*.rs",
            "--file",
            "crates/pukka-core/src/assess/wrong.rs",
            "--file",
            "crates/pukka-core/src/evidence/rest.rs",
            "--file",
            "crates/pukka-core/src/plan/cautions.rs",
        ],
        more: &[],
        with: None,
        needs: Some("mutants"),
    },
];

/// Outcome of a piece.
enum Fate {
    Passed,
    Failed,
    /// Tool that it needs is not installed.
    NotThere(&'static str),
}

/// Runs every piece and sums up.
///
/// # Errors
/// When one of them failed.
pub fn run() -> anyhow::Result<()> {
    let cargo = own_cargo();
    let steps = Steps::of(PIECES.len());
    let mut fates = Vec::new();
    for piece in &PIECES {
        steps.next(piece.what);
        let start = Instant::now();
        let fate = match piece.needs.filter(|needed| !installed(&cargo, needed)) {
            Some(needed) => Fate::NotThere(needed),
            None => {
                let mut command = Command::new(&cargo);
                command.args(piece.args).args(piece.more).envs(piece.with).current_dir(root());
                let status = command.status().with_context(|| format!("{cargo} cannot be started"))?;
                if status.success() { Fate::Passed } else { Fate::Failed }
            }
        };
        fates.push((piece.what, fate, start.elapsed().as_secs()));
    }
    println!("\nIn all:");
    for (what, fate, seconds) in &fates {
        let word = match fate {
            Fate::Passed => "passed".to_owned(),
            Fate::Failed => "FAILED".to_owned(),
            Fate::NotThere(needed) => format!("left out: cargo install cargo-{needed}"),
        };
        println!("  {what}: {word} ({} min {} s)", seconds / 60, seconds % 60);
    }
    anyhow::ensure!(!fates.iter().any(|(_, fate, _)| matches!(fate, Fate::Failed)), "not all of it passed");
    Ok(())
}

fn installed(cargo: &str, command: &str) -> bool {
    Command::new(cargo).args([command, "--version"]).output().is_ok_and(|output| output.status.success())
}
