//! The server as a function of its settings, a listener and a way to be told to stop.

use std::future::Future;
use std::net::{Ipv4Addr, SocketAddr};
use std::path::PathBuf;
use std::sync::Arc;

use anyhow::Context;
use axum::Router;
use pukka_store::Store;
use tokio::net::TcpListener;

use crate::clock::Clock;
use crate::http::Reach;
use crate::live::Driving;
use crate::{demo, http, stand_in, upkeep};

/// Settings that a server starts with.
#[derive(Debug, Clone)]
pub struct Settings {
    /// Folder of the data.
    pub data: PathBuf,
    /// The clock.
    pub clock: Clock,
    /// Fill an empty folder with the Ferry Lane bench.
    pub demo: Option<demo::Extent>,
    /// Speed of the demo's stand-in bench, as a multiple of life.
    pub speed: f64,
    /// Extent of access.
    pub reach: Reach,
    /// The program that watches over a live run: this one. Nothing where none is to.
    pub watchdog: Option<PathBuf>,
}

/// The port of the bench, when it is free.
pub const PORT: u16 = 7411;

/// Binds to the address given, or to the first free loopback port from [`PORT`] on.
///
/// # Errors
/// When the address cannot be had, or lies beyond this machine and the network is not trusted.
pub async fn bind(address: Option<SocketAddr>, trust_network: bool) -> anyhow::Result<TcpListener> {
    if let Some(address) = address {
        anyhow::ensure!(
            trust_network || address.ip().is_loopback(),
            "{address} is reached from other machines, and devices cannot be paired yet: anyone on the network could read and change \
             the records and drive the bench. Listen on 127.0.0.1, or say --trust-network."
        );
        return TcpListener::bind(address).await.with_context(|| format!("{address} cannot be listened on"));
    }
    for port in PORT..PORT + 50 {
        if let Ok(listener) = TcpListener::bind((Ipv4Addr::LOCALHOST, port)).await {
            return Ok(listener);
        }
    }
    anyhow::bail!("No free port from {PORT} to {}: name one with --listen.", PORT + 49)
}

/// A server that has its data folder, and is not reached yet: whoever says where it is, says so from here on.
pub struct Ready {
    app: Router,
    driving: Driving,
}

/// Takes the data folder, opens the records and the links.
///
/// # Errors
/// When the data folder cannot be used, or another program has it.
pub async fn prepare(settings: Settings) -> anyhow::Result<Ready> {
    let Settings { data, clock, demo, speed, reach, watchdog } = settings;
    crate::panics::listen();
    let store = tokio::task::spawn_blocking(move || -> anyhow::Result<Store> {
        let store = Store::open(&data)?;
        if let Some(extent) = demo.filter(|_| store.damage().is_none()) {
            demo::fill(&store, clock, extent)?;
        }
        Ok(store)
    })
    .await??;
    let store = Arc::new(store);
    if let Some(said) = store.damage() {
        eprintln!("Warning: the records are damaged ({}). They are only read; restore a backup.", said.join("; "));
    } else if demo.is_none() {
        tokio::spawn(upkeep::look_after(store.folder().to_owned()));
    }
    let stand_in = if demo.is_some() && store.damage().is_none() { Some(stand_in::link(&store, clock, speed).await?) } else { None };
    let driving = Driving::start(&store, clock, watchdog);
    let app = http::app(http::State {
        changes: http::Changes::of(&store),
        store,
        clock,
        driving: driving.clone(),
        stand_in,
        importing: http::Importing::default(),
        captures: crate::captures::Captures::default(),
        reach,
        sessions: crate::sessions::Sessions::default(),
        computing: http::Computing::default(),
    });
    Ok(Ready { app, driving })
}

impl Ready {
    /// Serves until `stop` is done.
    ///
    /// # Errors
    /// None today.
    pub async fn serve(self, listener: TcpListener, stop: impl Future<Output = ()> + Send + 'static) -> anyhow::Result<()> {
        let Self { app, driving } = self;
        let told = async move {
            stop.await;
            // The level first; then open streams, which the server would wait for.
            driving.end().await;
        };
        crate::net::serve(listener, app, told).await;
        Ok(())
    }
}

/// Prepares a server and serves until `stop` is done.
///
/// # Errors
/// When the data folder or the listener cannot be used.
pub async fn launch(settings: Settings, listener: TcpListener, stop: impl Future<Output = ()> + Send + 'static) -> anyhow::Result<()> {
    prepare(settings).await?.serve(listener, stop).await
}

/// Waits for an interrupt, a request to end, or a terminal that is closed.
pub async fn until_told() {
    let interrupt = tokio::signal::ctrl_c();
    #[cfg(unix)]
    {
        use tokio::signal::unix::{SignalKind, signal};
        // A terminal that is closed ends it as a request to end does.
        if let (Ok(mut end), Ok(mut hangup)) = (signal(SignalKind::terminate()), signal(SignalKind::hangup())) {
            tokio::select! { _ = interrupt => {}, _ = end.recv() => {}, _ = hangup.recv() => {} }
            return;
        }
    }
    // Without a signal handler there is nothing to wait for but the end of the process.
    let _ = interrupt.await;
}
