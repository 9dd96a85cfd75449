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

/// What an instrument does with a query.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Does {
    Stalls,
    Garbage,
    Thousandfold,
    Overload,
    HalfALine,
    HangsUp,
}

struct Inner {
    level_db: f64,
    told: Vec<(&'static str, String)>,
    wrong: Option<(&'static str, Does, f64)>,
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
        let inner = Arc::new(Mutex::new(Inner { level_db: -120.0, told: Vec::new(), wrong: None }));
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
        self.inner.lock().unwrap().wrong = None;
    }

    /// Everything the generator was told so far.
    pub fn generator(&self) -> Vec<String> {
        let inner = self.inner.lock().unwrap();
        inner.told.iter().filter(|(role, _)| *role == "generator").map(|(_, line)| line.clone()).collect()
    }

    pub fn level_db(&self) -> f64 {
        self.inner.lock().unwrap().level_db
    }

    /// Links a bench to them, with a profile that is quick.
    pub fn link(&self, bench: &Bench, but: &[&str]) {
        self.link_to(&bench.url, but);
    }

    pub fn link_to(&self, url: &str, but: &[&str]) {
        let agent = super::common::agent();
        for (role, address) in self.addresses.iter().filter(|(role, _)| !but.contains(role)) {
            let body = json!({ "address": address.to_string(), "profile": profile(), "meter": null });
            let set = agent.put(&format!("{url}/api/instruments/{role}")).send_json(&body).unwrap();
            assert_eq!(set.status(), 204);
        }
        until("the links are up", || {
            let view: serde_json::Value = agent.get(&format!("{url}/api/instruments")).call().unwrap().body_mut().read_json().unwrap();
            view["links"].as_array().unwrap().iter().filter(|link| link["state"]["kind"] == "ready").count() == ROLES.len() - but.len()
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

/// The shipped profile, quick to settle and to give up.
pub fn profile() -> String {
    pukka_core::instruments::GENERIC.replace("timeout_ms = 1000", "timeout_ms = 300").replace("settle_ms = 250", "settle_ms = 5")
}

/// Waits on a condition. The limit is there to end a test that would wait for ever, not to time anything.
pub fn until(what: &str, mut done: impl FnMut() -> bool) {
    let start = Instant::now();
    while !done() {
        assert!(start.elapsed() < Duration::from_secs(120), "it never came about that {what}");
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
        let (answer, wrong) = {
            let mut inner = inner.lock().unwrap();
            inner.told.push((role, line.clone()));
            if let Some(level) = line.strip_prefix("LEV ") {
                inner.level_db = level.parse().unwrap();
            }
            if line == "OUTP OFF" {
                inner.level_db = -120.0;
            }
            let wrong = inner.wrong.filter(|(which, _, from)| *which == role && inner.level_db >= *from).map(|(_, does, _)| does);
            (answer(&line, inner.level_db), wrong)
        };
        if wrong == Some(Does::HangsUp) {
            return Ok(());
        }
        let Some(answer) = answer else { continue };
        let text = answer.to_string();
        match wrong.filter(|_| line.starts_with("MEAS") || line == "*IDN?") {
            Some(Does::Stalls) => {}
            Some(Does::Garbage) => writeln!(write, "#?!")?,
            Some(Does::Thousandfold) => writeln!(write, "{}", text.parse::<f64>().unwrap() * 10_000.0)?,
            Some(Does::Overload) => writeln!(write, "9.9E37")?,
            Some(Does::HalfALine) => write.write_all(&text.as_bytes()[..text.len() / 2])?,
            _ => writeln!(write, "{text}")?,
        }
    }
    Ok(())
}

fn answer(line: &str, level_db: f64) -> Option<String> {
    let power = watts(level_db);
    Some(match line.split_whitespace().next().unwrap_or_default() {
        "*IDN?" => "Ferry Lane,Scripted,1,0".into(),
        "SYST:ERR?" => "0,\"No error\"".into(),
        "MEAS:POW?" | "MEAS:POW:BURS?" => format!("{power}"),
        "MEAS:DIST?" => format!("{}", 0.2 + 5.0 * (level_db + 5.05).max(0.0)),
        "MEAS:VOLT:DC?" => format!("{}", 14.4 - power / 1_000.0),
        "MEAS:CURR:DC?" => format!("{}", 1.0 + power / 11.0),
        _ => return None,
    })
}
