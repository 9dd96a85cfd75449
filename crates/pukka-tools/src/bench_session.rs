//! A long session: 240 runs, as a season at one bench leaves them; each answer right after a log and again, and many writers at once.

use std::io::{Cursor, Write as _};
use std::net::TcpStream;
use std::sync::LazyLock;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Instant;

use anyhow::Context;
use serde_json::{Value, json};

use crate::bench_shelf::session;
use crate::measure::{Running, report, timed};

const RUNS: usize = 240;
const ROUNDS: usize = 40;
const READERS: usize = 4;
const WRITERS: usize = 200;
const LOGS_EACH: usize = 6;
const IDLE: usize = 300;

/// A connection stays open from one question to the next, as a browser's does.
static AGENT: LazyLock<ureq::Agent> = LazyLock::new(ureq::Agent::new_with_defaults);

/// Prints what a session of 240 runs costs.
pub fn long_session() -> anyhow::Result<()> {
    let folder = tempfile::tempdir()?;
    let (running, _) = Running::serve(folder.path())?;
    let ids = imported(&running.url, 1, RUNS)?;
    let at = format!("{}/api/sessions/{}", running.url, ids[0]);
    println!("a session of {RUNS} runs");
    let mut logs = Vec::new();
    let views = ["ladder", "verdict", "sheet", "suspicion"];
    let mut first: Vec<Vec<f64>> = vec![Vec::new(); views.len()];
    let mut again = first.clone();
    for i in 0..ROUNDS {
        logs.push(took(|| log(&at, i))?);
        for (nth, view) in views.iter().enumerate() {
            let address = format!("{at}/{view}");
            first[nth].push(took(|| read(&address))?);
            again[nth].push(took(|| read(&address))?);
        }
    }
    report("log a run", &mut logs);
    for (nth, view) in views.iter().enumerate() {
        report(&format!("{view}, after it"), &mut first[nth]);
        report("… again", &mut again[nth]);
    }
    under_readers(&running.url, &at)?;
    idle_connections(&running)?;
    writers(&running.url, &ids, "on one session")?;
    let many = imported(&running.url, WRITERS, 10)?;
    writers(&running.url, &many, "on as many sessions")
}

/// Imports amplifiers, and answers the ids of all the sessions that are there.
fn imported(url: &str, amplifiers: usize, runs: usize) -> anyhow::Result<Vec<String>> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for n in 0..amplifiers {
        zip.start_file(format!("a{n:04}/session.json"), zip::write::SimpleFileOptions::default())?;
        // Of one power, and none of them like one that is there.
        zip.write_all(&serde_json::to_vec(&session(37 * (n + runs), runs))?)?;
    }
    let zip = zip.finish()?.into_inner();
    AGENT.post(&format!("{url}/api/imports")).content_type("application/octet-stream").send(&zip)?.body_mut().read_to_string()?;
    let shelf: Value = AGENT.get(&format!("{url}/api/amplifiers?limit=1000")).call()?.body_mut().read_json()?;
    let rows = shelf["amplifiers"].as_array().context("no shelf")?;
    rows.iter()
        .filter_map(|row| row["id"].as_str())
        .map(|id| {
            let amplifier: Value = AGENT.get(&format!("{url}/api/amplifiers/{id}")).call()?.body_mut().read_json()?;
            Ok(amplifier["session_id"].as_str().context("no session")?.to_owned())
        })
        .collect()
}

fn took(work: impl FnOnce() -> anyhow::Result<()>) -> anyhow::Result<f64> {
    let start = Instant::now();
    work()?;
    Ok(start.elapsed().as_secs_f64() * 1e3)
}

fn read(address: &str) -> anyhow::Result<()> {
    AGENT.get(address).call()?.body_mut().with_config().limit(64_000_000).read_to_vec()?;
    Ok(())
}

fn log(at: &str, i: usize) -> anyhow::Result<()> {
    // Readings like those that are there: one that stands out costs a fit of its own.
    let watts = 110.0 + (i % 20) as f64 / 10.0;
    let body = json!({ "rung": "mono@4@40", "mode": "certified", "unless_doubted": true, "line": format!("{watts:.1} 14.47 {:.2}", watts / 10.4) });
    AGENT.post(&format!("{at}/runs")).send_json(body)?.body_mut().read_to_string()?;
    Ok(())
}

/// The bench is asked, and stopped, while others read the session over and over.
fn under_readers(url: &str, at: &str) -> anyhow::Result<()> {
    let over = AtomicBool::new(false);
    std::thread::scope(|scope| {
        for reader in 0..READERS {
            let over = &over;
            scope.spawn(move || {
                for i in reader.. {
                    if over.load(Ordering::Relaxed) {
                        break;
                    }
                    // One that fails shows in the figures of the others: a reader is load, not what is measured.
                    let _ = read(&format!("{at}/{}", ["ladder", "verdict", "sheet"][i % 3]));
                }
            });
        }
        let asked = timed(400, |_| read(&format!("{url}/api/live")));
        let stopped = timed(400, |_| {
            AGENT.post(&format!("{url}/api/live/stop")).send_empty()?;
            Ok(())
        });
        over.store(true, Ordering::Relaxed);
        report("live, 4 readers", &mut asked?);
        report("stop, 4 readers", &mut stopped?);
        Ok(())
    })
}

fn idle_connections(running: &Running) -> anyhow::Result<()> {
    let before = running.resident_mb()?;
    let address = running.url.trim_start_matches("http://");
    let mut open = Vec::new();
    for _ in 0..IDLE {
        let mut connection = TcpStream::connect(address)?;
        connection.write_all(format!("GET /api/about HTTP/1.1\r\nHost: {address}\r\n\r\n").as_bytes())?;
        std::io::Read::read(&mut connection, &mut [0; 4096])?;
        open.push(connection);
    }
    println!("{IDLE} idle          {:>+9.1} MB", running.resident_mb()? - before);
    Ok(())
}

/// Two hundred writers at once, each behind its own last answer.
fn writers(url: &str, sessions: &[String], what: &str) -> anyhow::Result<()> {
    let start = Instant::now();
    std::thread::scope(|scope| {
        let working: Vec<_> = (0..WRITERS)
            .map(|writer| {
                let at = format!("{url}/api/sessions/{}", sessions[writer % sessions.len()]);
                scope.spawn(move || (0..LOGS_EACH).try_for_each(|i| log(&at, writer + i)))
            })
            .collect();
        working.into_iter().try_for_each(|writer| writer.join().map_err(|_| anyhow::anyhow!("a writer broke"))?)
    })?;
    let rate = (WRITERS * LOGS_EACH) as f64 / start.elapsed().as_secs_f64();
    println!("{WRITERS} writers        {rate:>9.0} logs a second {what}");
    Ok(())
}
