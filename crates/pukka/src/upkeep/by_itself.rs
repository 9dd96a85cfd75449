//! Upkeep while the program runs: a dated copy a day, a whole check a week.

use std::path::PathBuf;
use std::time::Duration;

use jiff::{SignedDuration, Timestamp};
use pukka_store::upkeep::check;

use super::{UpkeepSettings, copy_when_due};

/// First look after the start, when the bench is in use.
const FIRST: Duration = Duration::from_secs(60);
const THEN: Duration = Duration::from_secs(30 * 60);
const CHECK_EVERY: SignedDuration = SignedDuration::from_hours(24 * 7);

/// Looks after a folder until the program ends.
pub async fn look_after(folder: PathBuf) {
    tokio::time::sleep(FIRST).await;
    loop {
        let folder = folder.clone();
        let done = tokio::task::spawn_blocking(move || look(&folder, Timestamp::now())).await;
        if done.is_err() {
            tracing::error!("the upkeep of the records broke; it is tried again later");
        }
        tokio::time::sleep(THEN).await;
    }
}

fn look(folder: &std::path::Path, now: Timestamp) {
    match copy_when_due(folder, now) {
        Ok(true) => tracing::info!("a dated copy of the records was made"),
        Ok(false) => {}
        Err(error) => tracing::warn!(%error, "the dated copy could not be made"),
    }
    let last = UpkeepSettings::read(folder).checked_at.and_then(|at| at.parse::<Timestamp>().ok());
    if last.is_some_and(|last| last <= now && now.duration_since(last) < CHECK_EVERY) {
        return;
    }
    let complaints = match check(folder, false) {
        Ok(report) => report.findings.into_iter().map(|finding| format!("{} {}", finding.says, finding.advice)).collect(),
        Err(why) => vec![why.to_string()],
    };
    let kept = UpkeepSettings::change(folder, |settings| {
        settings.checked_at = Some(now.to_string());
        settings.complaints = complaints;
    });
    if let Err(error) = kept {
        tracing::warn!(%error, "the result of the weekly check could not be kept");
    }
}
