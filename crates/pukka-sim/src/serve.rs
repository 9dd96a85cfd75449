//! The instruments on TCP ports of this machine: a line in, a line out, the common open way.

use std::net::{Ipv4Addr, SocketAddr};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

use tokio::io::{AsyncBufReadExt, AsyncReadExt, AsyncWriteExt, BufReader};
use tokio::net::{TcpListener, TcpStream};

use crate::TICK_S;
use crate::bench::Bench;
use crate::recorder::block;
use crate::scpi::{Fault, Instrument, Role, capture_ms};

/// The longest line that is read.
const MOST_BYTES: u64 = 4_096;
/// Simulated time that is caught up with at once; a bench that nobody asked for longer has rested that long.
const MOST_CATCH_UP_S: f64 = 120.0;
/// Work for one answer at the most. On a machine that is too slow for the bench's speed its time lags behind; its instruments answer
/// all the same.
const MOST_WORK: Duration = Duration::from_millis(30);
const TICKS_AT_ONCE: f64 = 50.0;
/// Between two questions of somebody who goes on asking.
const ASKED_AGAIN: Duration = Duration::from_secs(1);
/// Simulated time that a bench is behind at the most while it is asked.
const MOST_BEHIND_S: f64 = 1.0;
/// Turns in which a recording catches up.
const MOST_TURNS: usize = 10;

struct Inner {
    bench: Bench,
    faults: Vec<(Role, Fault)>,
    instruments: Vec<(Role, Instrument)>,
    last: Instant,
    owed_s: f64,
}

/// A bench that runs by the clock of this machine, `speed` times as fast.
#[derive(Clone)]
pub struct Running {
    inner: Arc<Mutex<Inner>>,
    speed: f64,
}

impl Running {
    /// Starts it.
    #[must_use]
    pub fn new(bench: Bench, speed: f64) -> Self {
        let instruments = Role::ALL.map(|role| (role, Instrument::new(role))).to_vec();
        Self { inner: Arc::new(Mutex::new(Inner { bench, faults: Vec::new(), instruments, last: Instant::now(), owed_s: 0.0 })), speed }
    }

    fn lock(&self) -> MutexGuard<'_, Inner> {
        self.inner.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// A recording of the last milliseconds, as a WAV.
    #[must_use]
    pub fn recording(&self, ms: usize) -> Vec<u8> {
        // Made of a copy: the other instruments answer meanwhile.
        // It shows the bench as it is now: where that is behind its time, the others have their turns in between.
        for _ in 0..MOST_TURNS {
            let mut inner = self.lock();
            self.catch_up(&mut inner);
            if inner.owed_s < TICK_S {
                let bench = inner.bench.clone();
                drop(inner);
                return bench.recording(ms);
            }
            drop(inner);
            // A lock that is taken again at once lets nobody else in.
            std::thread::sleep(Duration::from_millis(2));
        }
        let bench = self.lock().bench.clone();
        bench.recording(ms)
    }

    /// Does a line on an instrument, at the moment it is asked.
    #[must_use]
    pub fn ask(&self, role: Role, line: &str) -> Option<String> {
        let mut inner = self.lock();
        self.catch_up(&mut inner);
        let Inner { bench, faults, instruments, .. } = &mut *inner;
        instruments.iter_mut().find(|(known, _)| *known == role).and_then(|(_, instrument)| instrument.line(bench, faults, line))
    }

    /// Lets the bench's time go on to now.
    fn catch_up(&self, inner: &mut Inner) {
        let now = Instant::now();
        let passed = now.duration_since(inner.last).as_secs_f64() * self.speed;
        // Asked one time after another, a bench that is too slow slips; one that nobody asked has rested, and makes up for it.
        let most = if now.duration_since(inner.last) < ASKED_AGAIN { inner.owed_s.max(MOST_BEHIND_S) } else { MOST_CATCH_UP_S };
        inner.owed_s = (inner.owed_s + passed).min(most);
        inner.last = now;
        while inner.owed_s >= TICK_S && now.elapsed() < MOST_WORK {
            let ticks = (inner.owed_s / TICK_S).floor().min(TICKS_AT_ONCE);
            inner.owed_s -= ticks * TICK_S;
            inner.bench.advance(ticks as u64);
        }
    }

    fn fault(&self, role: Role) -> Option<Fault> {
        self.lock().faults.iter().find(|(known, _)| *known == role).map(|(_, fault)| *fault)
    }
}

/// Ports of a bench that listens.
#[derive(Debug, Clone)]
pub struct Ports(Vec<(Role, SocketAddr)>);

impl Ports {
    /// Address of an instrument.
    #[must_use]
    pub fn of(&self, role: Role) -> SocketAddr {
        self.0.iter().find(|(known, _)| *known == role).map_or_else(|| SocketAddr::from(([127, 0, 0, 1], 0)), |(_, address)| *address)
    }
}

/// Listens on seven ports of the loopback address, from `first` on, or on any seven when it is 0. The tasks end with the runtime.
///
/// # Errors
/// When a port cannot be had.
pub async fn listen(running: Running, first: u16) -> std::io::Result<Ports> {
    let mut ports = Vec::new();
    for (offset, role) in (0u16..).zip(Role::ALL) {
        let port = if first == 0 { 0 } else { first + offset };
        let listener = TcpListener::bind((Ipv4Addr::LOCALHOST, port)).await?;
        ports.push((role, listener.local_addr()?));
        tokio::spawn(accept(listener, running.clone(), role));
    }
    Ok(Ports(ports))
}

async fn accept(listener: TcpListener, running: Running, role: Role) {
    loop {
        let Ok((stream, _)) = listener.accept().await else {
            tokio::time::sleep(Duration::from_millis(50)).await;
            continue;
        };
        if running.fault(role) == Some(Fault::Drop) {
            continue;
        }
        let running = running.clone();
        tokio::spawn(async move {
            if let Err(error) = talk(stream, running, role).await {
                tracing::debug!(%error, role = role.word(), "a connection ended");
            }
        });
    }
}

async fn talk(stream: TcpStream, running: Running, role: Role) -> std::io::Result<()> {
    stream.set_nodelay(true)?;
    let (read, mut write) = stream.into_split();
    let mut lines = BufReader::new(read);
    loop {
        let mut line = Vec::new();
        // A line without an end does not fill the memory.
        let count = (&mut lines).take(MOST_BYTES).read_until(b'\n', &mut line).await?;
        if count == 0 || running.fault(role) == Some(Fault::Drop) {
            return Ok(());
        }
        let text = String::from_utf8_lossy(&line).into_owned();
        let silent = matches!(running.fault(role), Some(Fault::Stall | Fault::Deaf));
        if let Some(Ok(ms)) = capture_ms(role, &text).filter(|_| !silent) {
            // Made beside the connections: a recording of seconds takes a while.
            let recorded = running.clone();
            let wav = tokio::task::spawn_blocking(move || recorded.recording(ms)).await.unwrap_or_default();
            write.write_all(&block(&wav)).await?;
            write.write_all(b"\n").await?;
            continue;
        }
        // Beside the connections as well: a bench that is behind its time, or reads a wave, takes some milliseconds.
        let asked = running.clone();
        let answer = tokio::task::spawn_blocking(move || asked.ask(role, &text)).await.unwrap_or_default();
        match (running.fault(role), answer) {
            (Some(Fault::Drop), _) => return Ok(()),
            (Some(Fault::Stall | Fault::Deaf), _) | (_, None) => {}
            (Some(Fault::Half), Some(answer)) => write.write_all(&answer.as_bytes()[..answer.len() / 2]).await?,
            (_, Some(answer)) => write.write_all(format!("{answer}\n").as_bytes()).await?,
        }
    }
}
