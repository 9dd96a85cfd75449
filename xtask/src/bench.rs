//! Figures worth knowing: medians, since these machines are noisy.

use std::io::{BufRead, BufReader, Write};
use std::process::{Child, Command, Stdio};
use std::time::Instant;

use anyhow::Context;

use crate::build::{release, root};

const STARTS: usize = 10;

/// Builds the release program and prints its figures.
pub fn bench() -> anyhow::Result<()> {
    release()?;
    let program = root().join("target/release/pukka");
    println!("program            {:>9.1} MB", std::fs::metadata(&program)?.len() as f64 / 1e6);
    for (kind, ending) in [("script, gzip", "js"), ("style, gzip", "css")] {
        println!("{kind:<18} {:>9.1} kB", gzipped(ending)? as f64 / 1e3);
    }
    let folder = tempfile::tempdir()?;
    // The first start makes and fills the database; the ones measured find it there.
    drop(Running::start(folder.path())?.0);
    let mut starts = Vec::new();
    for _ in 0..STARTS {
        starts.push(Running::start(folder.path())?.1);
    }
    println!("cold start, page   {:>9.1} ms  (median of {STARTS}, to the first page's last byte)", median(&mut starts));
    load(folder.path())?;
    crate::build::cargo(&["run", "--quiet", "--release", "-p", "pukka-core", "--example", "judge_times"])?;
    crate::bench_shelf::shelf()
}

/// Answers under a load of one client, and memory after it.
fn load(folder: &std::path::Path) -> anyhow::Result<()> {
    let (running, _) = Running::start(folder)?;
    let get =
        |path: &str| -> anyhow::Result<String> { Ok(ureq::get(&format!("{}{path}", running.url)).call()?.body_mut().read_to_string()?) };
    let shelf: serde_json::Value = serde_json::from_str(&get("/api/amplifiers")?)?;
    let id = shelf["amplifiers"][0]["id"].as_str().context("the demo has no amplifier")?.to_owned();
    let amplifier: serde_json::Value = serde_json::from_str(&get(&format!("/api/amplifiers/{id}"))?)?;
    let session = amplifier["session_id"].as_str().context("no session")?.to_owned();
    let ladder: serde_json::Value = serde_json::from_str(&get(&format!("/api/sessions/{session}/ladder"))?)?;
    let rung = ladder["ladder"]["rungs"][0]["key"].as_str().context("no rung")?.to_owned();
    let reads = [
        ("shelf", "/api/amplifiers".to_owned()),
        ("ladder", format!("/api/sessions/{session}/ladder")),
        ("verdict", format!("/api/sessions/{session}/verdict")),
    ];
    for (name, path) in reads {
        let mut times = timed(200, |_| get(&path).map(drop))?;
        report(name, &mut times);
    }
    let post = |path: &str, body: serde_json::Value| -> anyhow::Result<()> {
        let url = format!("{}/api/sessions/{session}/{path}", running.url);
        ureq::post(&url).send_json(body)?.body_mut().read_to_string()?;
        Ok(())
    };
    let mut times =
        timed(200, |i| post("preview", serde_json::json!({ "rung": rung, "mode": "certified", "line": "447 14.38 41.2", "seq": i })))?;
    report("entry line preview", &mut times);
    let mut times = timed(100, |_| post("runs", serde_json::json!({ "rung": rung, "mode": "certified", "line": "440 14.38 41.2" })))?;
    report("log a run, durable", &mut times);
    let kinds = [(8.0, 7.93), (6.0, 5.96), (4.0, 3.91), (3.0, 2.98), (2.0, 1.98), (1.0, 1.01)];
    let inventory: Vec<serde_json::Value> = kinds
        .iter()
        .map(|(nominal, measured)| serde_json::json!({ "nominal_ohm": nominal, "measured_ohm": measured, "count": 4 }))
        .collect();
    let mut looked_at = 0;
    let mut times = timed(40, |i| {
        let wanted = serde_json::json!({ "wiring": { "kind": "mono" }, "load_ohm": 2.67 + 0.01 * i as f64, "loads": inventory });
        let found: serde_json::Value = ureq::post(&format!("{}/api/loads", running.url)).send_json(wanted)?.body_mut().read_json()?;
        looked_at = found["found"]["looked_at"].as_u64().context("nothing was looked at")?;
        Ok(())
    })?;
    report("a load out of 24", &mut times);
    println!("                   {looked_at} networks each, of 24 resistors of 6 kinds");
    crate::bench_live::live(&running.url, &session, &rung)?;
    println!("memory after load  {:>9.1} MB resident", running.resident_mb()?);
    Ok(())
}

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

fn median(times: &mut [f64]) -> f64 {
    times.sort_by(f64::total_cmp);
    times[times.len() / 2]
}

/// A release program that is ended when dropped.
pub struct Running {
    child: Child,
    /// Where it is.
    pub url: String,
}

impl Running {
    /// Starts the demo and fetches its first page; says how long that took, in milliseconds.
    fn start(folder: &std::path::Path) -> anyhow::Result<(Self, f64)> {
        Self::of("demo", folder)
    }

    /// The same, on a folder of one's own.
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

fn gzipped(ending: &str) -> anyhow::Result<usize> {
    let mut total = 0;
    for entry in std::fs::read_dir(root().join("web/dist/assets"))? {
        let path = entry?.path();
        if path.extension().is_some_and(|own| own == ending) {
            let mut gzip = Command::new("gzip").args(["-9", "-c"]).stdin(Stdio::piped()).stdout(Stdio::piped()).spawn()?;
            let text = std::fs::read(&path)?;
            let mut input = gzip.stdin.take().context("no input")?;
            let writer = std::thread::spawn(move || input.write_all(&text));
            total += gzip.wait_with_output()?.stdout.len();
            writer.join().map_err(|_| anyhow::anyhow!("gzip was not fed"))??;
        }
    }
    Ok(total)
}
