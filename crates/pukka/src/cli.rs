//! What the program does on files, without a server.

use std::io::Read as _;
use std::path::Path;

use anyhow::Context;
use pukka_core::assess::{ClaimVerdict, Overall};
use pukka_core::instruments::{Profile, Role};
use pukka_core::kernel::format;
use pukka_core::plan::view::{PlannedRow, report};
use pukka_core::record::claims::Claim;
use pukka_core::record::claims::paste::{PastedClaim, paste};
use pukka_core::record::session::{Session, SessionFile};

use crate::say;

fn bytes_of(file: &Path) -> anyhow::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    if file == Path::new("-") {
        std::io::stdin().read_to_end(&mut bytes).context("standard input cannot be read")?;
    } else {
        bytes = std::fs::read(file).with_context(|| format!("{} cannot be read", file.display()))?;
    }
    Ok(bytes)
}

fn text_of(file: &Path) -> anyhow::Result<String> {
    Ok(String::from_utf8_lossy(&bytes_of(file)?).trim_start_matches('\u{feff}').to_owned())
}

/// Reads a spec table into claim lines and prints them.
///
/// # Errors
/// When the file cannot be read.
pub fn claims(file: &Path, json: bool) -> anyhow::Result<()> {
    let pasted = paste(&text_of(file)?, None);
    if json {
        say!("{}", serde_json::to_string_pretty(&pasted)?);
        return Ok(());
    }
    for line in &pasted.claims {
        say!("{}", words(line));
        if let Some(ask) = &line.ask {
            say!("    asked: {ask}");
        }
    }
    for fact in &pasted.facts {
        say!("{:<60} <- {}", fact.words, fact.text);
    }
    for line in &pasted.not_understood {
        say!("not understood: {line}");
    }
    Ok(())
}

/// The session in a file; nothing when it could not be read, with every path and why on standard error.
pub(crate) fn session_of(file: &Path) -> Option<Session> {
    let bytes = bytes_of(file).inspect_err(|error| eprintln!("{error:#}")).ok()?;
    match SessionFile::read(&bytes) {
        Ok(read) => {
            for key in read.unknown {
                eprintln!("{key}: not known to this version; kept, and not computed with.");
            }
            Some(read.session)
        }
        Err(problems) => {
            for problem in problems {
                eprintln!("{}: {}", if problem.path.is_empty() { "the file" } else { &problem.path }, problem.says);
            }
            None
        }
    }
}

/// Judges a session file. Answers false when the file could not be read.
///
/// # Errors
/// When the answer cannot be written as JSON.
pub fn judge(file: &Path, json: bool) -> anyhow::Result<bool> {
    let Some(session) = session_of(file) else { return Ok(false) };
    let judgement = pukka_core::assess::judge(&session);
    if json {
        say!("{}", serde_json::to_string_pretty(&judgement)?);
        return Ok(true);
    }
    let provisional = if judgement.provisional { ", provisional" } else { "" };
    say!("{}: {}{provisional}", session.amplifier.name(), Overall::word_of(judgement.overall));
    say!("{} of {} claims tested. {}", judgement.tested, judgement.claims_in_use, judgement.sentence);
    for (claim, verdict) in session.claims.iter().zip(&judgement.claims) {
        say!("{}", claim_words(claim, verdict));
    }
    for check in &judgement.checks {
        let settled = if check.settled { " (settled)" } else { "" };
        say!("{:?}: {}, {}: {} {}{settled}", check.severity, check.code, check.place, check.says, check.remedy);
    }
    Ok(true)
}

/// Checks an instrument profile, for `pukka profile check`; false when something is wrong with it.
///
/// # Errors
/// When the file cannot be read.
pub fn check_profile(file: &Path) -> anyhow::Result<bool> {
    match Profile::parse(&text_of(file)?) {
        Ok(profile) => {
            let serves = profile.serves().into_iter().map(Role::words).collect::<Vec<_>>();
            let serves = if serves.is_empty() { "nothing yet: it reads nothing and plays nothing".into() } else { serves.join(", ") };
            say!("{}: sound. It serves as {serves}.", profile.name);
            Ok(!profile.serves().is_empty())
        }
        Err(problems) => {
            for problem in problems {
                eprintln!("{}: {}: {}", file.display(), problem.path, problem.says);
            }
            Ok(false)
        }
    }
}

/// The load of a claim, or the loads of its groups.
fn load_of(claim: &Claim) -> Option<String> {
    let bare = || claim.load_ohm.map(|load| format::with_unit(&format::ohms(load.get()), "Ω"));
    claim.place().map(|(wiring, load)| wiring.load_words(load)).or_else(bare)
}

fn claim_words(claim: &Claim, verdict: &ClaimVerdict) -> String {
    let shown =
        |value: Option<f64>, unit: &str| value.map_or_else(|| format!("? {unit}"), |value| format::with_unit(&format::watts(value), unit));
    format!(
        "{:>8} at {:<8} {:<16} as read {}  from {}",
        shown(verdict.claim_total_w, "W"),
        load_of(claim).unwrap_or_else(|| "no load".into()),
        verdict.outcome.words(),
        verdict.as_read_ratio.map_or_else(|| "?".to_owned(), |ratio| format::with_unit(&format::percent(ratio), "%")),
        if verdict.runs.is_empty() { "no run".to_owned() } else { verdict.runs.join(", ") },
    )
}

/// Reports the plan of a session file. Answers false when the file could not be read.
///
/// # Errors
/// When the answer cannot be written as JSON.
pub fn plan(file: &Path, json: bool) -> anyhow::Result<bool> {
    let Some(session) = session_of(file) else { return Ok(false) };
    let report = report(&session);
    if json {
        say!("{}", serde_json::to_string_pretty(&report)?);
        return Ok(true);
    }
    say!("{}, about {} min", session.amplifier.name(), format::fixed(report.minutes, 0));
    for row in &report.rungs {
        say!("{}", row_words(row));
    }
    Ok(true)
}

fn row_words(row: &PlannedRow) -> String {
    let unknown = || "?".to_owned();
    let band = |band: Option<[f64; 2]>, shown: fn(f64) -> String| {
        band.map_or_else(unknown, |[low, high]| format!("{} to {}", shown(low), shown(high)))
    };
    let gates: Vec<String> = row.gates.iter().map(|gate| gate.word().to_owned()).collect();
    format!(
        "{:>8}  {:<16} {:>7} W ({})  {} A  ends at {} V  fuses {}  peak {} A  {}",
        row.wiring.load_words(row.load_ohm),
        row.wiring.words(),
        row.predicted_w.map_or_else(unknown, format::watts),
        band(row.predicted_w_band, format::watts),
        band(row.predicted_a_band, format::amps),
        row.predicted_end_v.map_or_else(unknown, format::volts),
        row.fuse_ratio.map_or_else(unknown, |ratio| format!("{} %", format::fixed(100.0 * ratio, 0))),
        row.peak_output_a.map_or_else(unknown, format::amps),
        [named("gated", &gates), named("mind", &row.cautions)].into_iter().flatten().collect::<Vec<_>>().join("; "),
    )
}

/// "mind: fuses", or nothing.
fn named(what: &str, codes: &[String]) -> Option<String> {
    (!codes.is_empty()).then(|| format!("{what}: {}", codes.join(", ")))
}

fn words(line: &PastedClaim) -> String {
    let claim = &line.claim;
    let parts = [
        claim.wiring.map(pukka_core::kernel::wiring::Wiring::words),
        claim.power_w.map(|w| format::with_unit(&format::as_read(w.get()), "W")),
        (claim.per == pukka_core::record::claims::Per::Total).then(|| "in total".to_owned()),
        claim.load_ohm.map(|load| format::with_unit(&format::ohms(load.get()), "Ω")),
        Some(match claim.kind {
            pukka_core::record::claims::ClaimKind::Rms => "rms".to_owned(),
            pukka_core::record::claims::ClaimKind::Max => "max".to_owned(),
            pukka_core::record::claims::ClaimKind::Unstated => "kind not stated".to_owned(),
        }),
        claim.supply_v.map(|v| format::with_unit(&format::as_read(v.get()), "V")),
        claim.thd_limit_ratio.map(|t| format::with_unit(&format::as_read(t.get() * 100.0), "% THD")),
        claim.tone_hz.map(|t| format::tone(t.get())),
    ];
    format!("{:<60} <- {}", parts.into_iter().flatten().collect::<Vec<_>>().join(", "), line.text)
}
