//! Whether the machine was awake while something was tested on it. A run that is driven in real time rightly stops when the machine
//! itself stands still, as one of many on a busy host does at times, for a second and more. A test that failed then has tested the
//! machine: it is made again.

#![allow(dead_code, reason = "each test file uses its own part")]

use std::collections::VecDeque;
use std::panic::{AssertUnwindSafe, catch_unwind, resume_unwind};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::{Duration, Instant};

/// Longest that a machine that is awake stands still: under what the program takes for standing still itself.
const AWAKE_MS: u64 = 150;
/// Tries of a test at the most.
const TRIES: usize = 6;

const EVERY: Duration = Duration::from_millis(20);
/// Samples in half a second.
const WINDOW: usize = 25;
const TICK_MS: u64 = 10;

/// Runs a test; once more when it failed and the machine stood still meanwhile.
pub fn tried(test: impl Fn()) {
    for _ in 1..TRIES {
        let watch = Watch::start();
        match catch_unwind(AssertUnwindSafe(&test)) {
            Ok(()) => return,
            Err(failed) if !watch.was_still() => resume_unwind(failed),
            Err(_) => {}
        }
    }
    test();
}

/// A thread that looks at the clock, and at the time that the host took from each processor.
pub struct Watch {
    /// The longest that it stood still so far, within half a second.
    still_ms: Arc<AtomicU64>,
    over: Arc<AtomicBool>,
}

impl Watch {
    pub fn start() -> Self {
        let (still_ms, over) = (Arc::new(AtomicU64::new(0)), Arc::new(AtomicBool::new(false)));
        let (note, end) = (Arc::clone(&still_ms), Arc::clone(&over));
        std::thread::spawn(move || {
            let mut window = VecDeque::from([stolen_ms()]);
            let mut last = Instant::now();
            while !end.load(Ordering::SeqCst) {
                std::thread::sleep(EVERY);
                let gap = last.elapsed().saturating_sub(EVERY).as_millis() as u64;
                last = Instant::now();
                let now = stolen_ms();
                let taken = now.iter().zip(&window[0]).map(|(now, before)| now.saturating_sub(*before)).max().unwrap_or(0);
                note.fetch_max(gap.max(taken), Ordering::SeqCst);
                window.push_back(now);
                if window.len() > WINDOW {
                    window.pop_front();
                }
            }
        });
        Self { still_ms, over }
    }

    /// Whether what failed meanwhile is worth another try; says so.
    pub fn was_still(&self) -> bool {
        let still_ms = self.still_ms.load(Ordering::SeqCst);
        if still_ms >= AWAKE_MS {
            eprintln!("the machine stood still for {still_ms} ms: what failed is tried again");
        }
        still_ms >= AWAKE_MS
    }
}

impl Drop for Watch {
    fn drop(&mut self) {
        self.over.store(true, Ordering::SeqCst);
    }
}

/// Milliseconds that were taken from each processor since the start; nothing where the system does not say.
fn stolen_ms() -> Vec<u64> {
    let stat = std::fs::read_to_string("/proc/stat").unwrap_or_default();
    let of = |line: &str| line.split_whitespace().nth(8)?.parse().ok().map(|ticks: u64| ticks * TICK_MS);
    stat.lines().filter(|line| line.starts_with("cpu") && !line.starts_with("cpu ")).filter_map(of).collect()
}
