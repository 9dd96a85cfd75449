//! Four instruments played by a script: what each is told is written down, what each answers is up to the test.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]
#![allow(dead_code, reason = "each test file uses its own part")]

use std::io::{BufRead, BufReader, Write};
use std::net::{SocketAddr, TcpListener, TcpStream};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use serde_json::json;

use super::common::Bench;

pub const ROLES: [&str; 4] = ["generator", "analyser", "voltmeter", "ammeter"];

/// Task of an instrument.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Does {
    Stalls,
    Garbage,
    Thousandfold,
    Overload,
    HalfALine,
    HangsUp,
    /// Shows without end what it showed first.
    Freezes,
    /// Does everything but take its level away.
    IgnoresZero,
    /// Answers, and does nothing that it is told.
    Ignores,
    /// Answers, and does nothing that it is told; and says that it did.
    Lies,
    /// −222 to every level.
    Refuses,
    /// Hears nothing.
    Deaf,
    /// Answers each question with the answer to the one before.
    Late,
    Comma,
    /// Watts that barely move.
    Sticks,
    /// Once, a zero.
    ZeroOnce,
}

struct Inner {
    level_db: f64,
    on: bool,
    told: Vec<(&'static str, String)>,
    wrong: Option<(&'static str, Does, f64)>,
    /// Level that the generator really plays: of one that lies, not what it says.
    plays_db: f64,
    error: Option<String>,
    held: Vec<(String, String)>,
    owed: Option<String>,
    zeroed_once: bool,
    top_db: f64,
    /// Time that every reading takes.
    slow: Duration,
}

/// The instruments of a test; they end with it.
#[derive(Clone)]
pub struct Peers {
    inner: Arc<Mutex<Inner>>,
    gone: Arc<AtomicBool>,
    pub addresses: Vec<(&'static str, SocketAddr)>,
}

impl Peers {
    pub fn start() -> Self {
        let inner = Arc::new(Mutex::new(Inner {
            level_db: -120.0,
            on: false,
            told: Vec::new(),
            wrong: None,
            plays_db: -120.0,
            error: None,
            held: Vec::new(),
            owed: None,
            zeroed_once: false,
            top_db: -120.0,
            slow: Duration::ZERO,
        }));
        let gone = Arc::new(AtomicBool::new(false));
        let mut addresses = Vec::new();
        for role in ROLES {
            let listener = TcpListener::bind("127.0.0.1:0").unwrap();
            addresses.push((role, listener.local_addr().unwrap()));
            let (inner, gone) = (Arc::clone(&inner), Arc::clone(&gone));
            std::thread::spawn(move || {
                for stream in listener.incoming() {
                    if gone.load(Ordering::SeqCst) {
                        return;
                    }
                    let inner = Arc::clone(&inner);
                    // A connection ends when the other side hangs up.
                    std::thread::spawn(move || drop(talk(stream.unwrap(), role, &inner)));
                }
            });
        }
        Self { inner, gone, addresses }
    }

    /// From this level on an instrument does this.
    pub fn goes_wrong(&self, role: &'static str, does: Does, from_db: f64) {
        self.inner.lock().unwrap().wrong = Some((role, does, from_db));
    }

    pub fn goes_right(&self) {
        let mut inner = self.inner.lock().unwrap();
        inner.wrong = None;
        inner.held.clear();
    }

    /// From now on every reading takes this long.
    pub fn slows_down(&self, by: Duration) {
        self.inner.lock().unwrap().slow = by;
    }

    /// Level that it really plays.
    pub fn plays_db(&self) -> f64 {
        let inner = self.inner.lock().unwrap();
        if inner.on { inner.plays_db } else { -120.0 }
    }

    /// The highest level it was ever told.
    pub fn top_db(&self) -> f64 {
        self.inner.lock().unwrap().top_db
    }

    /// Everything the generator was told so far.
    pub fn generator(&self) -> Vec<String> {
        let inner = self.inner.lock().unwrap();
        inner.told.iter().filter(|(role, _)| *role == "generator").map(|(_, line)| line.clone()).collect()
    }

    /// Waits until it plays louder than that; a run that ended before never will.
    pub fn raised(&self, db: f64, live: impl Fn() -> serde_json::Value) {
        until("the level is up", || self.plays_db() > db || !live()["ended"].is_null());
        assert!(self.plays_db() > db, "it ended: {}", live());
    }

    pub fn level_db(&self) -> f64 {
        self.inner.lock().unwrap().level_db
    }

    /// Links a bench to them, with a profile that is quick.
    pub fn link(&self, bench: &Bench, but: &[&str]) {
        self.link_to(&bench.url, but);
    }

    pub fn link_to(&self, url: &str, but: &[&str]) {
        self.link_with(url, but, &profile());
    }

    pub fn link_with(&self, url: &str, but: &[&str], profile: &str) {
        let agent = super::common::agent();
        let linked: Vec<_> = self.addresses.iter().filter(|(role, _)| !but.contains(role)).collect();
        for (role, address) in &linked {
            let body = json!({ "address": address.to_string(), "profile": profile, "meter": null });
            let set = agent.put(&format!("{url}/api/instruments/{role}")).send_json(&body).unwrap();
            assert_eq!(set.status(), 204);
        }
        until("the links are up", || {
            let view: serde_json::Value = agent.get(&format!("{url}/api/instruments")).call().unwrap().body_mut().read_json().unwrap();
            // Those, and not just as many: the test may have links of its own.
            let is_up =
                |role: &str| view["links"].as_array().unwrap().iter().any(|link| link["role"] == role && link["state"]["kind"] == "ready");
            linked.iter().all(|(role, _)| is_up(role))
        });
    }
}

impl Drop for Peers {
    fn drop(&mut self) {
        if Arc::strong_count(&self.gone) > ROLES.len() + 1 {
            return;
        }
        self.gone.store(true, Ordering::SeqCst);
        for (_, address) in &self.addresses {
            // Wakes the listener up, so that it sees.
            let _ = TcpStream::connect(address);
        }
    }
}

/// The shipped profile, quick to settle, and without a wave.
pub fn profile() -> String {
    let generic = pukka_core::instruments::GENERIC;
    let (from, to) = (generic.find("[capture]").unwrap(), generic.find("[read.power]").unwrap());
    let bare = format!("{}{}", &generic[..from], &generic[to..]);
    bare.replace("settle_ms = 150", "settle_ms = 5")
}

/// A shipped profile for tests that do not ask how late a reading may be: a busy machine holds one up for seconds.
pub fn patient(profile: &str) -> String {
    profile.replace("timeout_ms = 1000", "timeout_ms = 20000")
}

/// Waits for every link that is set up; `get` reads a path of the program.
pub fn links_are_up(get: impl Fn(&str) -> serde_json::Value) {
    until("the links are up", || {
        let view = get("/api/instruments");
        view["links"].as_array().unwrap().iter().all(|link| link["address"].is_null() || link["state"]["kind"] == "ready")
    });
}

/// Waits on a condition. The limit is there to end a test that would wait without end, not to time anything.
pub fn until(what: &str, mut done: impl FnMut() -> bool) {
    let start = Instant::now();
    while !done() {
        assert!(start.elapsed() < Duration::from_secs(240), "it never came about that {what}");
        std::thread::sleep(Duration::from_millis(5));
    }
}

/// 500 W at 0 dB, clipping from −5.05 dB on, on a supply that sags by 0.5 V at 500 W.
pub fn watts(level_db: f64) -> f64 {
    500.0 * 10f64.powf(level_db.min(-5.05) / 10.0)
}

fn talk(stream: TcpStream, role: &'static str, inner: &Mutex<Inner>) -> std::io::Result<()> {
    stream.set_nodelay(true)?;
    let mut write = stream.try_clone()?;
    for line in BufReader::new(stream).lines() {
        let line = line?;
        if line.starts_with("MEAS") {
            let slow = inner.lock().unwrap().slow;
            std::thread::sleep(slow);
        }
        let (answer, wrong) = {
            let mut inner = inner.lock().unwrap();
            inner.told.push((role, line.clone()));
            let wrong = inner.wrong.filter(|(which, _, from)| *which == role && inner.level_db >= *from).map(|(_, does, _)| does);
            if role == "generator" {
                obey(&mut inner, &line, wrong);
            }
            let answer = if wrong == Some(Does::Deaf) { None } else { answer(&line, &mut inner) };
            (answer.and_then(|answer| spoiled(&mut inner, &line, answer, wrong)), wrong)
        };
        if wrong == Some(Does::HangsUp) {
            return Ok(());
        }
        let Some(answer) = answer else { continue };
        if wrong == Some(Does::HalfALine) && line.starts_with("MEAS") {
            write.write_all(&answer.as_bytes()[..answer.len() / 2])?;
        } else {
            writeln!(write, "{answer}")?;
        }
    }
    Ok(())
}

fn obey(inner: &mut Inner, line: &str, wrong: Option<Does>) {
    if let Some(level) = line.strip_prefix("LEV ") {
        let level: f64 = level.parse().unwrap();
        inner.top_db = inner.top_db.max(level);
        match wrong {
            Some(Does::Refuses) => inner.error = Some("-222,\"Data out of range\"".into()),
            Some(Does::Ignores | Does::Deaf) => {}
            Some(Does::IgnoresZero) if level < -60.0 => {}
            // It says so, and goes on playing.
            Some(Does::Lies) => inner.level_db = level,
            _ => (inner.level_db, inner.plays_db) = (level, level),
        }
    }
    if let Some(state) = line.strip_prefix("OUTP ") {
        let ignored =
            matches!(wrong, Some(Does::Ignores | Does::Deaf | Does::Lies)) || (wrong == Some(Does::IgnoresZero) && state == "OFF");
        if !ignored {
            inner.on = state == "ON";
        }
    }
}

/// An answer as its instrument leaves it; nothing when it says none.
fn spoiled(inner: &mut Inner, line: &str, answer: String, wrong: Option<Does>) -> Option<String> {
    if wrong == Some(Does::Late) {
        return inner.owed.replace(answer);
    }
    if !(line.starts_with("MEAS")
        || (line == "*IDN?" && wrong == Some(Does::Stalls))
        || (line.ends_with('?') && wrong == Some(Does::Stalls)))
    {
        return Some(answer);
    }
    let number = || answer.parse::<f64>().unwrap();
    Some(match wrong {
        Some(Does::Stalls) => return None,
        Some(Does::Garbage) => "#?!".into(),
        Some(Does::Thousandfold) => format!("{}", number() * 10_000.0),
        Some(Does::Overload) => "9.9E37".into(),
        Some(Does::Comma) => format!("{:.4}", number()).replace('.', ","),
        Some(Does::Freezes) => {
            if let Some((_, held)) = inner.held.iter().find(|(asked, _)| asked == line) {
                return Some(held.clone());
            }
            inner.held.push((line.to_owned(), answer.clone()));
            answer
        }
        Some(Does::Sticks) if line.starts_with("MEAS:POW") => {
            let held = inner.held.first().map_or_else(number, |(_, held)| held.parse().unwrap());
            inner.held.insert(0, (line.to_owned(), format!("{}", held * 1.000_01)));
            format!("{held}")
        }
        Some(Does::ZeroOnce) if !std::mem::replace(&mut inner.zeroed_once, true) => "0.0".into(),
        _ => answer,
    })
}

fn answer(line: &str, inner: &mut Inner) -> Option<String> {
    let level_db = inner.plays_db;
    let power = if inner.on { watts(level_db) } else { 0.0 };
    Some(match line.split_whitespace().next().unwrap_or_default() {
        "*IDN?" => "Ferry Lane,Scripted,1,0".into(),
        "SYST:ERR?" => inner.error.take().unwrap_or_else(|| "0,\"No error\"".into()),
        "MEAS:POW?" | "MEAS:POW:BURS?" => format!("{power}"),
        "LEV?" => format!("{}", inner.level_db),
        "OUTP?" => u8::from(inner.on && inner.level_db > -100.0).to_string(),
        "MEAS:DIST?" => format!("{}", 0.1 + 5.0 * (level_db + 5.05).max(0.0)),
        "MEAS:VOLT:DC?" => format!("{}", 14.4 - power / 1_000.0),
        "MEAS:CURR:DC?" => format!("{}", 1.0 + power / 11.0),
        _ => return None,
    })
}
