//! The Ferry Lane bench, which tests amplifiers for camper-van builders. Every maker and model is invented.

use std::io::Write as _;
use std::path::Path;

use anyhow::Context;
use pukka_core::record::bench::BenchProfile;
use pukka_core::record::session::{Session, Trace, TraceChannel};
use pukka_core::traces::ChannelKind;
use pukka_sim::captures::captures;
use pukka_sim::character::ALL;
use pukka_sim::recorder;
use pukka_store::transfer::Outgoing;
use pukka_store::whole::{self, Part};
use pukka_store::{Author, Store, amplifiers, benches, traces, transfer};

use crate::clock::Clock;

/// The sessions of the demo, the one last worked on last.
const FILES: [(&str, &str); 12] = [
    ("copley-strand-duo-150", include_str!("../demo/copley-strand-duo-150.json")),
    ("fennway-slim-75-2", include_str!("../demo/fennway-slim-75-2.json")),
    ("brackwater-loft-110", include_str!("../demo/brackwater-loft-110.json")),
    ("brackwater-60-6", include_str!("../demo/brackwater-60-6.json")),
    ("copley-strand-s500", include_str!("../demo/copley-strand-s500.json")),
    ("fennway-slim-40-4", include_str!("../demo/fennway-slim-40-4.json")),
    ("quillmoor-mono-300", include_str!("../demo/quillmoor-mono-300.json")),
    ("tolland-pike-duo-200", include_str!("../demo/tolland-pike-duo-200.json")),
    ("hartsedge-six-fifty", include_str!("../demo/hartsedge-six-fifty.json")),
    ("hartsedge-two", include_str!("../demo/hartsedge-two.json")),
    ("quillmoor-four-ninety", include_str!("../demo/quillmoor-four-ninety.json")),
    ("tolland-pike-mono-1100", include_str!("../demo/tolland-pike-mono-1100.json")),
];

/// The older part of the shelf, measured on the stand-in bench by `pukka-tools demo-shelf`.
const EARLIER: &str = include_str!("../demo-earlier/shelf.json");

/// Reads the older part of the demo's shelf. A session of an amplifier that has another one comes behind that.
///
/// # Errors
/// When its file is wrong.
pub fn earlier_sessions() -> anyhow::Result<Vec<Session>> {
    let files: Vec<serde_json::Value> = serde_json::from_str(EARLIER).context("demo-earlier/shelf.json")?;
    let read = |file: serde_json::Value| {
        Session::read(file.to_string().as_bytes()).map_err(|problems| anyhow::anyhow!("demo-earlier/shelf.json: {problems:?}"))
    };
    files.into_iter().map(read).collect()
}

/// Reads the demo's sessions of this season.
///
/// # Errors
/// When a file of the demo is wrong.
pub fn sessions_of_the_demo() -> anyhow::Result<Vec<Session>> {
    FILES
        .iter()
        .map(|(name, text)| Session::read(text.as_bytes()).map_err(|problems| anyhow::anyhow!("demo/{name}.json: {problems:?}")))
        .collect()
}

/// Reads the demo's bench.
///
/// # Errors
/// When its file is wrong.
pub fn bench_of_the_demo() -> anyhow::Result<BenchProfile> {
    let bench: BenchProfile = serde_json::from_str(include_str!("../demo/ferry-lane-bench.json")).context("demo/ferry-lane-bench.json")?;
    let problems = bench.check();
    anyhow::ensure!(problems.is_empty(), "demo/ferry-lane-bench.json: {problems:?}");
    Ok(bench)
}

/// How much of the demo's shelf there is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Extent {
    /// This season's twelve.
    Season,
    /// Those before, too.
    Whole,
}

/// Fills an empty store.
///
/// # Errors
/// When the store cannot be written to.
pub fn fill(store: &Store, clock: Clock, extent: Extent) -> anyhow::Result<()> {
    if !store.read(amplifiers::whole_shelf)?.is_empty() {
        return Ok(());
    }
    let mut files = sessions_of_the_demo()?;
    let bench = bench_of_the_demo()?;
    for file in files.iter_mut().filter(|file| file.runs.is_empty()) {
        file.bench = bench.bench();
    }
    let earlier = if extent == Extent::Whole { earlier_sessions()? } else { Vec::new() };
    let start = clock.now() - jiff::SignedDuration::from_mins(10);
    store.write(move |tx| {
        let author = |at| Author { who: "Ferry Lane".into(), tab: "demo".into(), at, key: None, batch: None };
        let bench_id = benches::create(tx, &author(start), &bench)?.id;
        for file in &earlier {
            let began = file.runs.first().map_or(start, |run| run.at);
            if file.same_amplifier_as.is_some() {
                let incoming = Outgoing { file: file.clone(), ramps: Vec::new(), settled: None };
                transfer::take_in(tx, &author(began), &incoming)?;
            } else {
                transfer::insert(tx, &author(began), file, Some(&bench_id), true)?;
            }
        }
        for (i, file) in (0i64..).zip(&files) {
            let at = start + jiff::SignedDuration::from_secs(i * 30);
            transfer::insert(tx, &author(at), file, Some(&bench_id), !file.runs.is_empty())?;
        }
        Ok(())
    })?;
    if extent == Extent::Whole { add_captures(store, start) } else { Ok(()) }
}

/// The amplifier whose captures the demo has, as the stand-in bench knows it; the load and the tone of them.
const CAPTURED: (&str, f64, f64) = ("Quillmoor Mono 300", 2.0, 40.0);
/// Seed of the bench that made them.
const CAPTURED_SEED: u64 = 19;

/// Adds the four captures that the stand-in bench made of one amplifier, with the scales of its recorder.
fn add_captures(store: &Store, at: jiff::Timestamp) -> anyhow::Result<()> {
    let (name, load_ohm, hz) = CAPTURED;
    let character = ALL.iter().find(|character| character.name == name).context("no such amplifier on the stand-in bench")?;
    let shelf = store.read(amplifiers::whole_shelf)?;
    let row = shelf.iter().find(|row| row.summary.name == name).context("no such amplifier in the demo")?;
    let session_id = store.read(|tx| amplifiers::get(tx, &row.id))?.session_id;
    let channel = |kind: ChannelKind, scale: f64| TraceChannel { kind: kind.word().into(), scale: Some(scale), ..TraceChannel::default() };
    let channels = vec![
        channel(ChannelKind::Output, recorder::OUTPUT_V),
        channel(ChannelKind::SupplyVolts, recorder::SUPPLY_V),
        channel(ChannelKind::SupplyAmps, recorder::SUPPLY_A),
    ];
    for (name, bytes) in captures(CAPTURED_SEED, character, load_ohm, hz) {
        let part = Part::beside(&store.folder().join("capture"));
        let written = whole::new_file(part.path()).and_then(|mut file| file.write_all(&bytes));
        written.with_context(|| format!("{} cannot be written", part.path().display()))?;
        let trace = Trace { sha256: store.files().keep_trace(part)?, name: name.into(), channels: channels.clone() };
        let (session_id, bytes) = (session_id.clone(), bytes.len() as u64);
        store.write(move |tx| {
            let author = Author { who: "Ferry Lane".into(), tab: "demo".into(), at, key: None, batch: None };
            traces::add(tx, &author, &session_id, &trace, bytes)
        })?;
    }
    Ok(())
}

/// Throws away the database of a demo folder.
///
/// # Errors
/// When the folder is another program's, or a file cannot be removed.
pub fn start_over(folder: &Path) -> anyhow::Result<()> {
    for name in ["pukka.sqlite", "pukka.sqlite-wal", "pukka.sqlite-shm"] {
        let path = folder.join(name);
        if path.exists() {
            // The lock is taken and let go: a demo that runs keeps its data.
            Store::open(folder).map(drop).or_else(|error| match error {
                pukka_store::StoreError::Locked { .. } => Err(error),
                _ => Ok(()),
            })?;
            std::fs::remove_file(&path)
                .or_else(|why| if why.kind() == std::io::ErrorKind::NotFound { Ok(()) } else { Err(why) })
                .with_context(|| format!("{} cannot be removed", path.display()))?;
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeSet;

    use pukka_core::assess::check_session;
    use pukka_core::record::session::{CheckCode, Incident, Method, Order};
    use pukka_core::report::summary::summary;

    #[test]
    fn the_demo_shows_amplifiers_in_many_states() {
        let sessions = super::sessions_of_the_demo().unwrap();
        let states: BTreeSet<String> = sessions.iter().map(|session| summary(session).state).collect();
        assert!(states.len() >= 8, "{states:?}");
        let words: BTreeSet<_> = sessions.iter().filter_map(|session| summary(session).overall_word).collect();
        for word in ["Modest", "Pukka", "Near enough", "Optimistic", "Tall tale", "Open"] {
            assert!(words.contains(word), "no amplifier of the demo is {word}: {words:?}");
        }
    }

    #[test]
    fn the_demo_shows_every_check_every_method_a_death_and_one_not_tested() {
        let sessions = super::sessions_of_the_demo().unwrap();
        let fired: BTreeSet<CheckCode> = sessions.iter().flat_map(check_session).map(|check| check.code).collect();
        let missing: Vec<&CheckCode> = CheckCode::ALL.iter().filter(|code| !fired.contains(code)).collect();
        assert!(missing.is_empty(), "no run of the demo shows {missing:?}");
        let runs = || sessions.iter().flat_map(|session| &session.runs);
        for method in [Method::Ramp, Method::Steps, Method::Eye] {
            assert!(runs().any(|run| run.method == Some(method)), "{method:?}");
        }
        assert!(runs().any(|run| run.incident == Some(Incident::Died)), "nothing died");
        assert!(runs().any(|run| run.cycles.is_some()) && runs().any(|run| run.hold.is_some()));
        assert!(sessions.iter().any(|session| session.runs.is_empty()));
        let orders: BTreeSet<bool> = sessions.iter().map(|session| session.plan.order == Order::Mode).collect();
        assert_eq!(orders.len(), 2, "both orders");
    }
}
