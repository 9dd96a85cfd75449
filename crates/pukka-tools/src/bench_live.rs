//! What a live run costs: from a sample leaving its instrument to its being kept and shown, and from a bad reading to zero.

use std::collections::HashMap;
use std::io::{BufRead, BufReader, Write};
use std::net::{TcpListener, TcpStream};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use anyhow::Context;
use serde_json::{Value, json};

use crate::measure::report;

const ROLES: [&str; 4] = ["generator", "analyser", "voltmeter", "ammeter"];
/// Each reading of the supply is another by this many volts: it tells which one an event shows.
const STEP_V: f64 = 1e-5;

#[derive(Default)]
struct Peer {
    readings: u64,
    left: HashMap<u64, Instant>,
    bad_from: Option<u64>,
    bad_at: Option<Instant>,
    zero_at: Option<Instant>,
    level_db: f64,
    on: bool,
}

type Shared = Arc<Mutex<Peer>>;

fn locked(peer: &Shared) -> std::sync::MutexGuard<'_, Peer> {
    peer.lock().unwrap_or_else(std::sync::PoisonError::into_inner)
}

/// Prints the figures of live runs on the server at `url`, in a session.
pub fn live(url: &str, session: &str, rung: &str) -> anyhow::Result<()> {
    let peer = Shared::default();
    locked(&peer).level_db = -120.0;
    for role in ROLES {
        let listener = TcpListener::bind("127.0.0.1:0")?;
        let address = listener.local_addr()?.to_string();
        let shared = Arc::clone(&peer);
        std::thread::spawn(move || {
            for stream in listener.incoming().flatten() {
                let shared = Arc::clone(&shared);
                // A connection ends when the other side hangs up.
                std::thread::spawn(move || drop(talk(stream, &shared)));
            }
        });
        let profile = profile();
        ureq::put(&format!("{url}/api/instruments/{role}")).send_json(json!({ "address": address, "profile": profile, "meter": null }))?;
    }
    let shown = events(url)?;
    for rate in [20u32, 200] {
        rounds(url, session, rung, rate, &peer, &shown)?;
    }
    zeros(url, session, rung, &peer)
}

/// A level that takes long to settle: the run goes on until it is stopped.
fn profile() -> String {
    pukka_core::instruments::GENERIC.replace("settle_ms = 150", "settle_ms = 60000")
}

fn talk(stream: TcpStream, peer: &Shared) -> std::io::Result<()> {
    stream.set_nodelay(true)?;
    let mut write = stream.try_clone()?;
    for line in BufReader::new(stream).lines() {
        let line = line?;
        let answer = match line.split_whitespace().next().unwrap_or_default() {
            "*IDN?" => "Ferry Lane,Bench,1,0".to_owned(),
            "SYST:ERR?" => "0,\"No error\"".to_owned(),
            "LEV?" => format!("{}", locked(peer).level_db),
            "OUTP?" => u8::from(locked(peer).on).to_string(),
            "OUTP" => {
                locked(peer).on = line.ends_with("ON") || line.ends_with('1');
                continue;
            }
            "MEAS:POW?" => if locked(peer).level_db > -100.0 { "10.0" } else { "0.0" }.to_owned(),
            "MEAS:DIST?" => "0.1".to_owned(),
            "MEAS:CURR:DC?" => "5.0".to_owned(),
            "MEAS:VOLT:DC?" => {
                let mut peer = locked(peer);
                peer.readings += 1;
                let n = peer.readings;
                if peer.bad_from.is_some_and(|from| n >= from) {
                    peer.bad_at.get_or_insert_with(Instant::now);
                    "NAN".to_owned()
                } else {
                    peer.left.insert(n, Instant::now());
                    format!("{:.6}", 13.0 + STEP_V * n as f64)
                }
            }
            "LEV" => {
                let mut peer = locked(peer);
                peer.level_db = line[4..].trim().parse().unwrap_or(-120.0);
                if line != "LEV -120" {
                    continue;
                }
                if peer.bad_at.is_some() {
                    peer.zero_at.get_or_insert_with(Instant::now);
                }
                continue;
            }
            _ => continue,
        };
        writeln!(write, "{answer}")?;
    }
    Ok(())
}

struct Shown {
    /// Reading of the supply, when its event came, and how long the round took to be kept, milliseconds.
    rounds: Mutex<Vec<(u64, Instant, f64)>>,
}

fn events(url: &str) -> anyhow::Result<Arc<Shown>> {
    let host = url.trim_start_matches("http://").to_owned();
    let mut stream = TcpStream::connect(&host)?;
    write!(stream, "GET /api/live/events HTTP/1.1\r\nHost: {host}\r\nAccept: text/event-stream\r\n\r\n")?;
    let shown = Arc::new(Shown { rounds: Mutex::new(Vec::new()) });
    let heard = Arc::clone(&shown);
    std::thread::spawn(move || {
        for line in BufReader::new(stream).lines() {
            let Ok(line) = line else { return };
            let now = Instant::now();
            let Some(data) = line.strip_prefix("data: {\"seq\":") else { continue };
            let Ok(kept) = serde_json::from_str::<Value>(&format!("{{\"seq\":{data}")) else { continue };
            let (Some(volts), Some(took)) = (kept["round"]["supply_v"].as_f64(), kept["kept_after_ms"].as_f64()) else { continue };
            let n = ((volts - 13.0) / STEP_V).round() as u64;
            heard.rounds.lock().unwrap_or_else(std::sync::PoisonError::into_inner).push((n, now, took));
        }
    });
    Ok(shown)
}

fn start(url: &str, session: &str, rung: &str, rate: u32) -> anyhow::Result<()> {
    let body = json!({ "place": { "rung": rung, "mode": "certified" }, "method": { "kind": "ramp" }, "rounds_per_s": rate });
    let agent: ureq::Agent = ureq::Agent::config_builder().http_status_as_error(false).build().into();
    let mut answer = agent.post(format!("{url}/api/sessions/{session}/live")).send_json(body)?;
    anyhow::ensure!(answer.status() == 201, "the run did not start: {}", answer.body_mut().read_to_string()?);
    Ok(())
}

fn until(what: &str, mut done: impl FnMut() -> anyhow::Result<bool>) -> anyhow::Result<()> {
    let start = Instant::now();
    while !done()? {
        anyhow::ensure!(start.elapsed() < Duration::from_secs(60), "it never came about that {what}");
        std::thread::sleep(Duration::from_millis(2));
    }
    Ok(())
}

fn ended(url: &str) -> anyhow::Result<bool> {
    let live: Value = ureq::get(&format!("{url}/api/live")).call()?.body_mut().read_json()?;
    Ok(!live["live"]["ended"].is_null())
}

fn rounds(url: &str, session: &str, rung: &str, rate: u32, peer: &Shared, shown: &Shown) -> anyhow::Result<()> {
    let rounds = || shown.rounds.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
    rounds().clear();
    until("the links are up", || {
        let view: Value = ureq::get(&format!("{url}/api/instruments")).call()?.body_mut().read_json()?;
        Ok(view["links"].as_array().context("no links")?.iter().all(|link| link["address"].is_null() || link["state"]["kind"] == "ready"))
    })?;
    start(url, session, rung, rate)?;
    let wanted = if rate > 20 { 1_000 } else { 200 };
    until("enough rounds were shown", || Ok(rounds().len() >= wanted))?;
    ureq::post(&format!("{url}/api/live/stop")).send_json(json!({}))?;
    until("it ended", || ended(url))?;
    let (mut kept, mut seen) = (Vec::new(), Vec::new());
    for (n, at, took) in rounds().iter() {
        kept.push(*took);
        let left = locked(peer).left.get(n).copied();
        seen.extend(left.map(|left| at.duration_since(left).as_secs_f64() * 1e3));
    }
    report(&format!("4 × {rate}/s, kept"), &mut kept);
    report(&format!("4 × {rate}/s, shown"), &mut seen);
    Ok(())
}

fn zeros(url: &str, session: &str, rung: &str, peer: &Shared) -> anyhow::Result<()> {
    let mut times = Vec::new();
    for _ in 0..200 {
        {
            let mut peer = locked(peer);
            (peer.bad_at, peer.zero_at) = (None, None);
            peer.bad_from = None;
        }
        start(url, session, rung, 20)?;
        {
            let mut peer = locked(peer);
            peer.bad_from = Some(peer.readings + 4);
        }
        until("it was zeroed", || Ok(locked(peer).zero_at.is_some()))?;
        let peer = locked(peer);
        let (bad, zero) = (peer.bad_at.context("no bad reading")?, peer.zero_at.context("no zero")?);
        times.push(zero.duration_since(bad).as_secs_f64() * 1e3);
        drop(peer);
        until("it ended", || ended(url))?;
    }
    report("bad reading, zero", &mut times);
    Ok(())
}
