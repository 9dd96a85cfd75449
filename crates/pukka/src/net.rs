//! The server's connections: how many, how patient it is with each, and their end.

use std::future::Future;
use std::sync::Arc;
use std::time::Duration;

use axum::Router;
use hyper::server::conn::http1;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::server::graceful::GracefulShutdown;
use hyper_util::service::TowerToHyperService;
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::{OwnedSemaphorePermit, Semaphore};
use tokio::time::{sleep, timeout};

/// Connections at once. Many tabs have a few each; beyond this something is wrong.
const MOST_CONNECTIONS: usize = 8_000;
/// Files that are kept for the records and instruments.
const FILES_KEPT: u64 = 200;
/// A request's header has come by then, or the connection ends.
const HEADER_WITHIN: Duration = Duration::from_secs(10);
/// Connections that are open at the end have this long to finish.
const END_WITHIN: Duration = Duration::from_millis(700);

/// Serves until `stop` is done, and a moment longer for what is under way.
pub async fn serve(listener: TcpListener, app: Router, stop: impl Future<Output = ()>) {
    let most = most_connections();
    let permits = Arc::new(Semaphore::new(most));
    let graceful = GracefulShutdown::new();
    let mut server = http1::Builder::new();
    server.timer(TokioTimer::new()).header_read_timeout(HEADER_WITHIN);
    let mut stop = std::pin::pin!(stop);
    loop {
        let stream = tokio::select! {
            () = &mut stop => break,
            accepted = listener.accept() => accepted,
        };
        match stream {
            // Beyond the most: closed at once, before anything is read.
            Ok((stream, _)) => {
                if let Ok(permit) = Arc::clone(&permits).try_acquire_owned() {
                    converse(&server, &graceful, stream, app.clone(), permit);
                }
            }
            Err(error) => {
                tracing::warn!(%error, "a connection could not be accepted");
                sleep(Duration::from_millis(50)).await;
            }
        }
    }
    drop(listener);
    if timeout(END_WITHIN, graceful.shutdown()).await.is_err() {
        tracing::info!("connections that were still open were closed");
    }
}

fn converse(server: &http1::Builder, graceful: &GracefulShutdown, stream: TcpStream, app: Router, permit: OwnedSemaphorePermit) {
    // Small answers go out at once.
    let _ = stream.set_nodelay(true);
    let connection = graceful.watch(server.serve_connection(TokioIo::new(stream), TowerToHyperService::new(app)));
    tokio::spawn(async move {
        // A peer that goes away, or dawdles, ends its own connection and nothing else.
        let _ = connection.await;
        drop(permit);
    });
}

/// As many connections as the system lets the program have files for.
fn most_connections() -> usize {
    #[cfg(unix)]
    {
        use rustix::process::{Resource, getrlimit, setrlimit};
        let mut limit = getrlimit(Resource::Nofile);
        let wanted = MOST_CONNECTIONS as u64 + FILES_KEPT;
        if limit.current.is_some_and(|current| current < wanted) {
            limit.current = Some(limit.maximum.map_or(wanted, |most| most.min(wanted)));
            // Where it cannot be raised the limit stays, and so do the connections.
            let _ = setrlimit(Resource::Nofile, limit);
        }
        let files = getrlimit(Resource::Nofile).current.unwrap_or(wanted);
        usize::try_from(files.saturating_sub(FILES_KEPT)).unwrap_or(MOST_CONNECTIONS).clamp(16, MOST_CONNECTIONS)
    }
    #[cfg(not(unix))]
    MOST_CONNECTIONS
}
