//! The real program and a real browser, for tests and for pictures.
//!
//! [`Server`] starts the built `pukka` on a free loopback port with a data folder of its own; [`Browser`] drives headless
//! Chromium through ChromeDriver. Both end what they started when they are dropped. Nothing here sleeps for luck: it
//! waits on conditions, up to [`PATIENCE`].

#[path = "../../pukka/tests/common/awake.rs"]
mod awake;
mod browser;
mod proxy;
mod server;

pub use browser::{Browser, Keys};
pub use proxy::{Fault, Proxy};
pub use server::Server;

use std::rc::Rc;
use std::time::Duration;

/// Time that a condition may take on a slow machine before it counts as never.
pub const PATIENCE: Duration = Duration::from_secs(180);

/// Tries of a journey at the most: each may wait for its patience.
const TRIES: usize = 3;

/// Runs a journey in a browser that is closed even when the journey panics; once more when it failed and the machine stood still
/// meanwhile.
///
/// # Panics
/// When the journey does, or the browser cannot be had.
pub async fn journey<F, Fut>(walk: F)
where
    F: Fn(Rc<Browser>) -> Fut,
    Fut: Future<Output = anyhow::Result<()>> + 'static,
{
    journey_with(&[], walk).await;
}

/// Likewise, with more flags for Chromium.
///
/// # Panics
/// When the journey does, or the browser cannot be had.
pub async fn journey_with<F, Fut>(flags: &[&str], walk: F)
where
    F: Fn(Rc<Browser>) -> Fut,
    Fut: Future<Output = anyhow::Result<()>> + 'static,
{
    for left in (0..TRIES).rev() {
        let watch = awake::Watch::start();
        let browser = Rc::new(Browser::open_with(1280, 800, flags).await.unwrap_or_else(|why| panic!("no browser: {why:?}")));
        let walking = walk(Rc::clone(&browser));
        let walked = tokio::task::LocalSet::new().run_until(async { tokio::task::spawn_local(walking).await }).await;
        let closed = browser.close().await;
        match walked {
            Ok(Ok(())) => return closed.unwrap_or_else(|why| panic!("the browser did not close: {why:?}")),
            Ok(Err(why)) if left == 0 || !watch.was_still() => panic!("{why:?}"),
            Err(panicked) if left == 0 || !watch.was_still() => std::panic::resume_unwind(panicked.into_panic()),
            Ok(Err(why)) => eprintln!("{why:?}"),
            Err(_) => {}
        }
    }
}
