//! A small process beside a live run: it takes the level away when this one dies or hangs.
//!
//! It reads what to do from its standard input, then a beat every tenth of a second. When the pipe closes without a farewell, or no beat
//! comes for half a second, it opens a connection of its own to the generator and takes the level away; then it switches the supply off,
//! where there is one. It is in a process group of its own and does not mind an interrupt or a closed terminal.

use std::path::Path;
use std::process::Stdio;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::Duration;

use pukka_core::instruments::{Profile, Role};
use serde::{Deserialize, Serialize};
use tokio::io::{AsyncBufReadExt, AsyncWriteExt, BufReader};
use tokio::process::{Child, Command};
use tokio::sync::{mpsc, watch};
use tokio::time::{Instant, interval, sleep, timeout};

use crate::instruments::{Link, take_away};
use crate::say;

const BEAT: Duration = Duration::from_millis(100);
/// Without a beat for so long the program hangs.
const LATE: Duration = Duration::from_millis(500);
/// A program that did not get to beat for so long sets no level any more: the watchdog may have taken it away.
const STOOD_STILL: Duration = Duration::from_millis(350);
/// After a pause of this length the level may be gone for good, though the program beats again.
const MAY_BE_GONE: Duration = Duration::from_millis(450);
/// Time that a level that cannot be taken away is tried for.
const TRIES_FOR: Duration = Duration::from_secs(60);
const FAREWELL: u8 = b'q';

/// Level and supply to take away.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct Charge {
    /// Host and port, or a serial port.
    pub address: String,
    /// Profile that it is spoken to by.
    pub profile: Profile,
    /// Generator or supply.
    pub role: Role,
}

impl Charge {
    /// Of a link.
    #[must_use]
    pub fn of(link: &Link) -> Self {
        Self { address: link.address.to_string(), profile: Profile::clone(&link.profile), role: link.role }
    }
}

/// Time since the last beat.
fn silent_for(started: Instant, beaten_ms: &AtomicU64) -> Duration {
    started.elapsed().saturating_sub(Duration::from_millis(beaten_ms.load(Ordering::SeqCst)))
}

/// The watchdog of a run, from the run's side.
pub struct Watchdog {
    farewell: Option<mpsc::Sender<()>>,
    broken: watch::Receiver<bool>,
    started: Instant,
    beaten_ms: Arc<AtomicU64>,
    stood_still: Arc<AtomicBool>,
    child: Child,
    awake: Option<Child>,
}

impl Watchdog {
    /// Starts it.
    ///
    /// # Errors
    /// When the process cannot be started, or does not say that it is there.
    pub async fn start(program: &Path, charges: &[Charge]) -> std::io::Result<Self> {
        let mut command = Command::new(program);
        command.arg("watchdog").stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::null());
        #[cfg(unix)]
        command.process_group(0);
        let mut child = command.spawn()?;
        let gone = || std::io::Error::other("it ended at once");
        let (mut write, read) = (child.stdin.take().ok_or_else(gone)?, child.stdout.take().ok_or_else(gone)?);
        let mut orders = serde_json::to_vec(charges)?;
        orders.push(b'\n');
        write.write_all(&orders).await?;
        let mut ready = String::new();
        timeout(Duration::from_secs(5), BufReader::new(read).read_line(&mut ready)).await.map_err(|_| gone())??;
        if ready.is_empty() {
            return Err(gone());
        }
        let (farewell, mut asked) = mpsc::channel(1);
        let (breaks, broken) = watch::channel(false);
        let (started, beaten_ms) = (Instant::now(), Arc::new(AtomicU64::new(0)));
        let stood_still = Arc::new(AtomicBool::new(false));
        let (beaten, stood) = (Arc::clone(&beaten_ms), Arc::clone(&stood_still));
        tokio::spawn(async move {
            let mut beats = interval(BEAT);
            loop {
                tokio::select! {
                    farewell = asked.recv() => {
                        // Without one the run broke: the pipe closes, and the watchdog does its work.
                        if farewell.is_some() {
                            let _ = write.write_all(&[FAREWELL]).await;
                        }
                        return;
                    }
                    _ = beats.tick() => {}
                }
                // Noted before the beat that ends it: what timed out meanwhile is put down to it.
                if silent_for(started, &beaten) >= MAY_BE_GONE {
                    stood.store(true, Ordering::SeqCst);
                }
                if write.write_all(b".").await.is_err() {
                    breaks.send_replace(true);
                    return;
                }
                beaten.store(u64::try_from(started.elapsed().as_millis()).unwrap_or(u64::MAX), Ordering::SeqCst);
            }
        });
        Ok(Self { farewell: Some(farewell), broken, started, beaten_ms, stood_still, child, awake: keep_awake() })
    }

    /// Whether the program ran on all along: a level is set only then.
    #[must_use]
    pub fn runs_on(&self) -> bool {
        !*self.broken.borrow() && !self.stood_still.load(Ordering::SeqCst) && silent_for(self.started, &self.beaten_ms) < STOOD_STILL
    }

    /// Waits until it is gone.
    pub async fn gone(&self) {
        let mut broken = self.broken.clone();
        // The task that beats ends with the farewell, and with nothing else before that.
        if broken.wait_for(|broken| *broken).await.is_err() {
            std::future::pending::<()>().await;
        }
    }

    /// Lets it go: the level is down.
    pub async fn dismiss(mut self) {
        if let Some(farewell) = self.farewell.take() {
            // A task that is gone has closed the pipe already.
            let _ = farewell.try_send(());
        }
        if timeout(Duration::from_secs(2), self.child.wait()).await.is_err() {
            let _ = self.child.start_kill();
        }
        if let Some(awake) = &mut self.awake {
            let _ = awake.start_kill();
            let _ = awake.wait().await;
        }
    }
}

/// Keeps the machine from going to sleep, where it knows how; it ends with this program, as its input does.
fn keep_awake() -> Option<Child> {
    let mut command = Command::new("systemd-inhibit");
    command.args(["--what=idle:sleep:handle-lid-switch", "--who=Pukka", "--why=A live run", "--mode=block", "cat"]);
    command.stdin(Stdio::piped()).stdout(Stdio::null()).stderr(Stdio::null()).kill_on_drop(true).spawn().ok()
}

/// The watchdog itself: until it is dismissed, or has done what it is there for.
///
/// # Errors
/// When it cannot read what it is to watch.
pub async fn watch() -> anyhow::Result<()> {
    ignore_signals()?;
    let (hear, mut heard) = mpsc::channel::<u8>(64);
    let mut orders = String::new();
    std::io::stdin().read_line(&mut orders)?;
    let charges: Vec<Charge> = serde_json::from_str(&orders)?;
    say!("ready");
    // A thread of its own, which nobody waits for: it may stand in a read when everything is done.
    std::thread::spawn(move || {
        for byte in std::io::Read::bytes(std::io::stdin()) {
            if !byte.is_ok_and(|byte| hear.blocking_send(byte).is_ok()) {
                return;
            }
        }
    });
    loop {
        match timeout(LATE, heard.recv()).await {
            Ok(Some(FAREWELL)) => return Ok(()),
            Ok(Some(_)) => {}
            // The pipe closed, or nothing came through it.
            _ => break,
        }
    }
    let all = charges.into_iter().map(|charge| tokio::spawn(take(charge)));
    for one in all.collect::<Vec<_>>() {
        one.await?;
    }
    Ok(())
}

/// Takes one away, again and again until it is.
async fn take(charge: Charge) {
    let until = Instant::now() + TRIES_FOR;
    while Instant::now() < until {
        if take_away(&charge.address, &charge.profile, charge.role).await.is_ok() {
            return;
        }
        sleep(Duration::from_millis(50)).await;
    }
}

/// An interrupt and a hang-up reach the whole terminal; this one stays.
fn ignore_signals() -> std::io::Result<()> {
    #[cfg(unix)]
    {
        use tokio::signal::unix::{SignalKind, signal};
        for kind in [SignalKind::interrupt(), SignalKind::hangup(), SignalKind::terminate()] {
            let mut heard = signal(kind)?;
            tokio::spawn(async move { while heard.recv().await.is_some() {} });
        }
    }
    Ok(())
}
