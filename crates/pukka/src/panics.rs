//! Panics of the program's tasks, for whoever has to know: a live run ends by one as it does by a stop.

use std::sync::{Once, OnceLock};

use tokio::sync::watch;

fn count() -> &'static watch::Sender<u64> {
    static COUNT: OnceLock<watch::Sender<u64>> = OnceLock::new();
    COUNT.get_or_init(|| watch::Sender::new(0))
}

/// Counts panics from now on; what was done about them before is done as ever.
pub fn listen() {
    static LISTENING: Once = Once::new();
    LISTENING.call_once(|| {
        let before = std::panic::take_hook();
        std::panic::set_hook(Box::new(move |panic| {
            count().send_modify(|count| *count += 1);
            before(panic);
        }));
    });
}

/// Number of them, and when there is one more.
#[must_use]
pub fn seen() -> watch::Receiver<u64> {
    count().subscribe()
}
