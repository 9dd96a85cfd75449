//! Readings as subtitles, at their moments, counted from the clap of their clip.
//!
//! Ref: W3C WebVTT; SubRip text as players read it: a number, a span with commas, the words, an empty line.

use super::{Clip, caption};
use crate::kernel::format::escaped;
use crate::record::session::Session;

/// A reading stays this long, unless the next one comes.
const STAYS_S: i64 = 6;

/// A line of subtitles.
struct Cue {
    from_s: i64,
    to_s: i64,
    words: String,
}

fn cues(session: &Session, clip: &Clip) -> Vec<Cue> {
    let mut cues: Vec<Cue> = Vec::new();
    for run in &clip.runs {
        let Some(said) = caption(session, run) else { continue };
        let from_s = run.at.duration_since(clip.start).as_secs();
        if let Some(last) = cues.last_mut().filter(|last| last.to_s > from_s) {
            // Two in the same second: the one logged last is shown.
            last.to_s = from_s.max(last.from_s);
        }
        cues.push(Cue { from_s, to_s: from_s + STAYS_S, words: said.long });
    }
    cues.retain(|cue| cue.to_s > cue.from_s);
    cues
}

/// A clip's readings as `.srt`.
#[must_use]
pub fn srt(session: &Session, clip: &Clip) -> String {
    let lines = cues(session, clip).into_iter().enumerate();
    lines.map(|(n, cue)| format!("{}\r\n{} --> {}\r\n{}\r\n\r\n", n + 1, time(cue.from_s, ','), time(cue.to_s, ','), cue.words)).collect()
}

/// A clip's readings as `.vtt`.
#[must_use]
pub fn vtt(session: &Session, clip: &Clip) -> String {
    let lines = cues(session, clip).into_iter();
    let lines: String =
        lines.map(|cue| format!("{} --> {}\n{}\n\n", time(cue.from_s, '.'), time(cue.to_s, '.'), escaped(&cue.words))).collect();
    format!("WEBVTT\n\n{lines}")
}

fn time(at_s: i64, sign: char) -> String {
    format!("{:02}:{:02}:{:02}{sign}000", at_s / 3_600, at_s / 60 % 60, at_s % 60)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::examples::mono_1100;
    use crate::report::publish::clips;
    use jiff::SignedDuration;

    #[test]
    fn readings_stand_at_their_moments_and_never_two_at_once() {
        let mut session = mono_1100();
        let first = session.runs[0].at;
        for (n, run) in session.runs.iter_mut().enumerate() {
            run.at = first + SignedDuration::from_secs(4 * n as i64);
        }
        let clip = &clips(&session)[0];
        let text = srt(&session, clip).replace('\u{202f}', " ");
        assert!(
            text.starts_with("1\r\n00:00:05,000 --> 00:00:09,000\r\n4 Ω, certified: 447 W at 14.38 V, 99.3 % of its claim\r\n\r\n2\r\n"),
            "{text}"
        );
        let web = vtt(&session, clip);
        assert!(web.starts_with("WEBVTT\n\n00:00:05.000 --> 00:00:09.000\n"), "{web}");
        assert_eq!(web.matches("-->").count(), text.matches("-->").count());
    }
}
