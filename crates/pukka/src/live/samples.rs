//! Samples on their way: kept first, shown afterwards. Many at once share one commit.

use std::sync::Arc;

use pukka_core::live::{Round, Stop};
use pukka_store::{Store, lives};
use tokio::sync::{broadcast, mpsc, oneshot};
use tokio::time::Instant;

use super::KeptRound;

/// Rounds that wait for the disk at the most: some seconds of them.
const WAITING: usize = 4_096;
/// Rounds of one commit at the most.
const AT_ONCE: usize = 512;

/// Keeper of rounds; dropping it ends the task once all are kept.
pub struct Samples {
    put: mpsc::Sender<(Instant, Round)>,
    failed: oneshot::Receiver<String>,
    done: tokio::task::JoinHandle<()>,
}

impl Samples {
    pub fn start(store: Arc<Store>, seq: i64, kept: broadcast::Sender<KeptRound>) -> Self {
        let (put, got) = mpsc::channel(WAITING);
        let (fail, failed) = oneshot::channel();
        let done = tokio::spawn(keep(store, seq, got, kept, fail));
        Self { put, failed, done }
    }

    /// Puts a round on its way; false when the disk is too far behind.
    pub fn put(&self, round: Round) -> bool {
        self.put.try_send((Instant::now(), round)).is_ok()
    }

    /// Waits until keeping fails. While rounds can be put the task ends for nothing else.
    pub async fn failed(&mut self) -> Stop {
        match (&mut self.failed).await {
            Ok(_) => Stop::Disk,
            Err(_) => Stop::Broken,
        }
    }

    /// Waits until all are kept.
    pub async fn end(self) {
        drop(self.put);
        // A task that panicked has said so.
        let _ = self.done.await;
    }
}

async fn keep(
    store: Arc<Store>,
    seq: i64,
    mut got: mpsc::Receiver<(Instant, Round)>,
    kept: broadcast::Sender<KeptRound>,
    fail: oneshot::Sender<String>,
) {
    let mut next = 0u64;
    let mut batch = Vec::with_capacity(AT_ONCE);
    while got.recv_many(&mut batch, AT_ONCE).await > 0 {
        let (read_at, rounds): (Vec<Instant>, Vec<Round>) = batch.drain(..).unzip();
        let rounds: Vec<(u64, Round)> = (next..).zip(rounds).collect();
        next += rounds.len() as u64;
        let (writing, on_disk) = (Arc::clone(&store), rounds.clone());
        let written = tokio::task::spawn_blocking(move || writing.write(move |tx| lives::keep(tx, seq, &on_disk))).await;
        let why = match written {
            Ok(Ok(())) => None,
            Ok(Err(error)) => Some(error.to_string()),
            Err(error) => Some(error.to_string()),
        };
        if let Some(why) = why {
            tracing::error!(why, "samples could not be kept");
            // Whoever drives may be over already.
            let _ = fail.send(why);
            return;
        }
        for (at, (n, round)) in read_at.into_iter().zip(rounds) {
            // Nobody may be looking on.
            let _ = kept.send(KeptRound { seq, n, round, kept_after_ms: at.elapsed().as_secs_f64() * 1e3 });
        }
    }
}
