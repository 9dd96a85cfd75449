//! Runs that are driven, in real time: few at once, as an instrument that is read too late is a fault of its own.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

#[path = "../common/awake.rs"]
mod awake;
#[path = "../common/mod.rs"]
mod common;
mod hard;
mod lies;
#[path = "../common/peer.rs"]
mod peer;
#[path = "../common/program.rs"]
mod program;
mod runs;
mod serial;
mod set;
mod stream;

/// Panics of tests are not the program's: no run that another test drives ends by them.
fn panics_of_tests_are_their_own() {
    static ONCE: std::sync::Once = std::sync::Once::new();
    ONCE.call_once(|| {
        pukka::panics::listen();
        let heard = std::panic::take_hook();
        let plain = std::panic::take_hook();
        std::panic::set_hook(Box::new(move |panic| {
            // The program's tasks are in a runtime, a test is not.
            let hook = if tokio::runtime::Handle::try_current().is_ok() { &heard } else { &plain };
            hook(panic);
        }));
    });
}

/// Runs a test, and again when the machine stood still.
fn awake(test: impl Fn()) {
    panics_of_tests_are_their_own();
    awake::tried(test);
}

/// Tries cases, two of them at a time: the runs of this machine's tests are four at the most.
fn two_at_a_time<T: Copy + Send>(cases: &[T], case: impl Fn(T) + Copy + Send) {
    for pair in cases.chunks(2) {
        std::thread::scope(|scope| {
            for one in pair.iter().copied() {
                scope.spawn(move || awake(|| case(one)));
            }
        });
    }
}
