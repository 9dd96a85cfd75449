//! `pukka backup`, `pukka restore`, `pukka check`.

use std::path::Path;

use jiff::Timestamp;
use pukka_store::upkeep::{CheckReport, check as check_folder};

use super::{UpkeepError, backup as back_up, restore as put_back};

use crate::say;

/// `pukka backup`: says what the file holds.
///
/// # Errors
/// When it cannot be made.
pub fn backup(data: &Path, to: &Path) -> anyhow::Result<()> {
    let made = back_up(data, to, &Timestamp::now().to_string())?;
    let (manifest, missing) = (&made.manifest, made.manifest.missing.len());
    let mb = made.bytes as f64 / 1e6;
    let (photos, traces) = (manifest.photos.len(), manifest.traces.len());
    say!("{}: {} amplifiers, {photos} photos, {traces} traces, {mb:.1} MB", to.display(), manifest.amplifiers);
    if missing > 0 {
        eprintln!("Warning: {missing} files could not be read and are not in it; pukka check names them.");
    }
    Ok(())
}

/// `pukka restore`: says what was put back, and where the rest is.
///
/// # Errors
/// When the backup is not whole, or the folder cannot be used.
pub fn restore(file: &Path, data: &Path) -> anyhow::Result<()> {
    let done = put_back(file, data, Timestamp::now())?;
    say!("Restored to {}: {} amplifiers, as of {}.", data.display(), done.manifest.amplifiers, done.manifest.made_at);
    if let Some(before) = done.before {
        say!("What was there is kept in {}. Delete it once all is well.", before.display());
    }
    Ok(())
}

/// `pukka check`: the exit code, 0 sound, 1 something found, 2 cannot be read.
///
/// # Errors
/// When the answer cannot be written as JSON.
pub fn check(data: &Path, json: bool, repair: bool) -> anyhow::Result<i32> {
    let report = match check_folder(data, repair) {
        Ok(report) => report,
        Err(why) => {
            eprintln!("{}", UpkeepError::from(why));
            return Ok(2);
        }
    };
    if json {
        say!("{}", serde_json::to_string_pretty(&report)?);
    } else {
        say!("{}", words(&report));
    }
    Ok(i32::from(!report.is_sound()))
}

fn words(report: &CheckReport) -> String {
    let mut lines = vec![format!("{} sessions, {} photos and {} traces were read.", report.sessions, report.photos, report.traces)];
    for finding in &report.findings {
        let end = if finding.mended { "Mended." } else { finding.advice.as_str() };
        lines.push(format!("- {} {end}", finding.says));
    }
    lines.push(if report.is_sound() { "Sound." } else { "Something was found." }.into());
    lines.join("\n")
}
