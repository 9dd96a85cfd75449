//! Captured waves that runs stand on, as small pictures on the sheet. What their recorder wrote beside the samples is not in them.

use std::fmt::Write as _;

use maud::{Markup, PreEscaped, html};
use pukka_capture::open;
use pukka_core::kernel::format;
use pukka_core::record::session::{Evidence, EvidenceKind, Run, Session};
use pukka_core::traces::Source;
use pukka_store::{Files, Kept};

/// A wave on a sheet.
#[derive(Debug, Clone)]
pub struct SheetTrace {
    svg: String,
    caption: String,
}

const WIDTH: f64 = 346.0;
const HEIGHT: f64 = 96.0;
/// Columns of a wave, and the part of its stretch that is shown on either side.
const COLUMNS: u64 = 300;
const AROUND: f64 = 0.15;

/// The waves of a session that its standing runs are read from, in their order. A file that is gone or damaged is left out.
#[must_use]
pub fn captured(files: &Files, session: &Session) -> Vec<SheetTrace> {
    let all = session.standing_runs().flat_map(|run| run.evidence.iter().map(move |own| (run, own)));
    all.filter(|(_, own)| own.kind == EvidenceKind::Trace).filter_map(|(run, own)| one(files, session, run, own)).collect()
}

fn one(files: &Files, session: &Session, run: &Run, evidence: &Evidence) -> Option<SheetTrace> {
    let (sha256, from_s, to_s) = (evidence.sha256.as_deref()?, evidence.from_s?, evidence.to_s?);
    let trace = session.traces.iter().find(|trace| trace.sha256 == sha256)?;
    let channel = usize::from(*evidence.channels.first()?);
    let scale = trace.channels.get(channel)?.scale.unwrap_or(1.0);
    let mut source = open(&files.path(Kept::Trace, sha256).ok()?).ok()?;
    let (rate_hz, frames) = (source.recording().rate_hz, source.recording().frames);
    let room = AROUND * (to_s - from_s);
    let first = ((from_s - room).max(0.0) * rate_hz) as u64;
    let last = (((to_s + room) * rate_hz) as u64).min(frames);
    let columns = columns(source.as_mut(), channel, (first, last), scale)?;
    let caption = format!("{}: {}, {} to {}", run.place_words(), trace.name, seconds(from_s), seconds(to_s));
    Some(SheetTrace { svg: drawn(&columns, &caption), caption })
}

fn seconds(s: f64) -> String {
    format::with_unit(&format::fixed(s, 3), "s")
}

/// Lowest and highest volts of each column, read piece by piece: a long ramp is not held as a whole.
fn columns(source: &mut dyn Source, channel: usize, (first, last): (u64, u64), scale: f64) -> Option<Vec<(f64, f64)>> {
    let step = (last.checked_sub(first)?).div_ceil(COLUMNS).max(1);
    let mut all = Vec::new();
    let mut at = first;
    while at < last {
        let samples = source.window(channel, at, usize::try_from(step.min(last - at)).ok()?).ok()?;
        let (low, high) = samples.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), x| (low.min(*x), high.max(*x)));
        if low <= high {
            all.push((scale * low, scale * high));
        }
        at += step;
    }
    (all.len() > 1).then_some(all)
}

fn drawn(columns: &[(f64, f64)], caption: &str) -> String {
    let most = columns.iter().fold(1e-12f64, |most, (low, high)| most.max(low.abs()).max(high.abs())) * 1.05;
    let x = |n: usize| WIDTH * n as f64 / (columns.len() - 1) as f64;
    let y = |volts: f64| HEIGHT * (0.5 - 0.5 * volts / most);
    let mut path = String::new();
    for (n, (low, high)) in columns.iter().enumerate() {
        let _ = write!(path, "{}{:.1} {:.1}L{:.1} {:.1}", if n == 0 { "M" } else { "L" }, x(n), y(*high), x(n), y(*low));
    }
    html! {
        svg class="chart wave" viewBox={ "0 0 " (WIDTH) " " (HEIGHT) } width="100%" role="img" "aria-label"=(caption) {
            line class="grid" x1="0" x2=(WIDTH) y1=(HEIGHT / 2.0) y2=(HEIGHT / 2.0) {}
            path d=(path) fill="none" stroke="currentColor" "stroke-width"="1.1" {}
        }
    }
    .into_string()
}

/// The waves, two beside one another.
pub(super) fn waves(traces: &[SheetTrace]) -> Markup {
    html! {
        @if !traces.is_empty() {
            section class="photos" {
                @for trace in traces { figure { div { (PreEscaped(&trace.svg)) } figcaption { (trace.caption) } } }
            }
        }
    }
}
