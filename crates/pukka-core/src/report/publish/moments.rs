//! Moments of the footage: where each run stands in its clip.

use jiff::{SignedDuration, Timestamp};

use super::caption;
use crate::record::session::{Clap, Run, Session};

/// Two chapters are no closer than this, seconds.
const APART_S: i64 = 10;
/// Without a clap the footage is taken to start so long before the first run.
const BEFORE_S: i64 = 5;

/// A chapter.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Chapter {
    /// Seconds from the start of its clip.
    pub at_s: i64,
    /// Title.
    pub title: String,
}

/// A clip: its chapters, the first at 0:00, and the runs in it.
#[derive(Debug, Clone, PartialEq)]
pub struct Clip<'a> {
    /// Name, when one was given.
    pub name: Option<String>,
    /// Start.
    pub start: Timestamp,
    /// Chapters.
    pub chapters: Vec<Chapter>,
    /// Runs that fall into it.
    pub runs: Vec<&'a Run>,
}

/// The clips of a session, by its claps: each begins at one, and ends at the next.
#[must_use]
pub fn clips(session: &Session) -> Vec<Clip<'_>> {
    let mut runs: Vec<&Run> = session.standing_runs().collect();
    runs.sort_by_key(|run| run.at);
    let Some(first) = runs.first() else { return Vec::new() };
    let mut claps: Vec<Clap> = session.claps.clone();
    claps.sort_by_key(|clap| clap.at);
    let start = |at: Timestamp| at - SignedDuration::from_secs(BEFORE_S);
    if claps.first().is_none_or(|clap| clap.at > first.at) {
        claps.insert(0, Clap { at: start(first.at), clip: None });
    }
    let ends = claps.iter().skip(1).map(|clap| Some(clap.at)).chain([None]);
    claps
        .iter()
        .zip(ends)
        .enumerate()
        .map(|(n, (clap, end))| {
            let runs: Vec<&Run> = runs.iter().copied().filter(|run| run.at >= clap.at && end.is_none_or(|end| run.at < end)).collect();
            let opening = if n == 0 { "What it claims" } else { clap.clip.as_deref().unwrap_or("Back at the bench") };
            Clip { name: clap.clip.clone(), start: clap.at, chapters: chapters(session, clap.at, opening, &runs), runs }
        })
        .collect()
}

/// The first at 0:00, none closer than ten seconds: one that is joins the one before it.
fn chapters(session: &Session, start: Timestamp, opening: &str, runs: &[&Run]) -> Vec<Chapter> {
    let mut chapters = vec![Chapter { at_s: 0, title: opening.to_owned() }];
    for run in runs {
        let Some(title) = caption(session, run).map(|said| said.short) else { continue };
        let at_s = run.at.duration_since(start).as_secs();
        match chapters.last_mut() {
            Some(last) if at_s - last.at_s < APART_S => last.title = format!("{}; {title}", last.title),
            _ => chapters.push(Chapter { at_s, title }),
        }
    }
    chapters
}

/// "4:05", and "1:02:03" from an hour on.
#[must_use]
pub fn clock(at_s: i64) -> String {
    let (hours, minutes, seconds) = (at_s / 3_600, at_s / 60 % 60, at_s % 60);
    if hours > 0 { format!("{hours}:{minutes:02}:{seconds:02}") } else { format!("{minutes}:{seconds:02}") }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::examples::mono_1100;

    fn at(text: &str) -> Timestamp {
        text.parse().unwrap()
    }

    #[test]
    fn without_a_clap_it_starts_five_seconds_before_the_first_run() {
        let mut session = mono_1100();
        let first = at("2026-11-20T10:00:00Z");
        for (n, run) in session.runs.iter_mut().enumerate() {
            run.at = first + SignedDuration::from_secs(90 * n as i64);
        }
        let clips = clips(&session);
        assert_eq!(clips.len(), 1);
        let times: Vec<String> = clips[0].chapters.iter().map(|chapter| clock(chapter.at_s)).collect();
        assert_eq!(times[..3], ["0:00", "1:35", "3:05"], "the first run is within ten seconds of the start, and joins it");
        assert!(clips[0].chapters[0].title.starts_with("What it claims; 4"), "{}", clips[0].chapters[0].title);
    }

    #[test]
    fn a_clap_for_each_clip_and_none_closer_than_ten_seconds() {
        let mut session = mono_1100();
        let first = at("2026-11-20T10:00:00Z");
        for (n, run) in session.runs.iter_mut().enumerate() {
            run.at = first + SignedDuration::from_secs(4 * n as i64);
        }
        session.runs[4].at = at("2026-11-20T11:00:30Z");
        session.claps = vec![
            Clap { at: at("2026-11-20T11:00:00Z"), clip: Some("One ohm".into()) },
            Clap { at: at("2026-11-20T09:59:00Z"), clip: None },
        ];
        let clips = clips(&session);
        assert_eq!(clips.iter().map(|clip| clip.name.as_deref()).collect::<Vec<_>>(), [None, Some("One ohm")]);
        assert!(clips[0].chapters.windows(2).all(|pair| pair[1].at_s - pair[0].at_s >= APART_S), "{:?}", clips[0].chapters);
        assert_eq!((clips[0].chapters[0].title.as_str(), clips[0].chapters[1].at_s), ("What it claims", 60));
        assert_eq!((clips[1].chapters[0].title.as_str(), clips[1].chapters[1].at_s), ("One ohm", 30));
    }

    #[test]
    fn an_hour_has_three_parts() {
        assert_eq!([clock(0), clock(245), clock(3_723)], ["0:00", "4:05", "1:02:03"]);
    }
}
