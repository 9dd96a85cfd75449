//! How a program is measured: started, asked, timed.

use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};
use std::time::Instant;

use anyhow::Context;

use crate::root;

pub fn timed(n: usize, mut work: impl FnMut(usize) -> anyhow::Result<()>) -> anyhow::Result<Vec<f64>> {
    (0..n)
        .map(|i| {
            let start = Instant::now();
            work(i)?;
            Ok(start.elapsed().as_secs_f64() * 1e3)
        })
        .collect()
}

pub fn report(name: &str, times: &mut [f64]) {
    let p50 = median(times);
    let p99 = times[(times.len() * 99 / 100).min(times.len() - 1)];
    println!("{name:<18} {p50:>9.2} ms p50 {p99:>8.2} ms p99  (n = {})", times.len());
}

pub fn median(times: &mut [f64]) -> f64 {
    times.sort_by(f64::total_cmp);
    times[times.len() / 2]
}

/// A release program that is ended when dropped.
pub struct Running {
    child: Child,
    /// Place.
    pub url: String,
}

impl Running {
    /// Starts the demo and fetches its first page; says how long that took, in milliseconds.
    pub fn start(folder: &std::path::Path) -> anyhow::Result<(Self, f64)> {
        Self::of("demo", folder)
    }

    /// Likewise, on a folder of one's own.
    pub fn serve(folder: &std::path::Path) -> anyhow::Result<(Self, f64)> {
        Self::of("serve", folder)
    }

    fn of(what: &str, folder: &std::path::Path) -> anyhow::Result<(Self, f64)> {
        let start = Instant::now();
        let mut child = Command::new(root().join("target/release/pukka"))
            .args([what, "--listen", "127.0.0.1:0", "--data"])
            .arg(folder)
            .stdout(Stdio::piped())
            .spawn()?;
        let mut line = String::new();
        BufReader::new(child.stdout.take().context("no output")?).read_line(&mut line)?;
        let url = line.trim().trim_start_matches("Pukka is at ").to_owned();
        let running = Self { child, url };
        ureq::get(&running.url).call()?.body_mut().read_to_string()?;
        Ok((running, start.elapsed().as_secs_f64() * 1e3))
    }

    pub fn resident_mb(&self) -> anyhow::Result<f64> {
        let status = std::fs::read_to_string(format!("/proc/{}/status", self.child.id()))?;
        let line = status.lines().find(|line| line.starts_with("VmRSS:")).context("no VmRSS")?;
        let kb: f64 = line.split_whitespace().nth(1).context("no figure")?.parse()?;
        Ok(kb / 1e3)
    }
}

impl Drop for Running {
    fn drop(&mut self) {
        // Already ended is ended too.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
