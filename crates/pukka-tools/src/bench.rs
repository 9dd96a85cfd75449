//! Figures worth knowing: medians, since these machines are noisy.

use std::io::Write;
use std::process::{Command, Stdio};

use anyhow::Context;

use crate::measure::{Running, median, report, timed};
use crate::root;

const STARTS: usize = 10;

/// A part of the figures, with the name it is asked for by.
type Part = (&'static str, fn() -> anyhow::Result<()>);

const PARTS: [Part; 4] = [
    ("start", start),
    ("typing", crate::bench_typing::typing),
    ("session", crate::bench_session::long_session),
    ("shelf", crate::bench_shelf::shelf),
];

/// Prints the figures of the release program, which is built already; all of them, or one part.
pub fn bench(only: Option<&str>) -> anyhow::Result<()> {
    let mut wanted = PARTS.iter().filter(|(name, _)| only.is_none_or(|only| only == *name)).peekable();
    anyhow::ensure!(wanted.peek().is_some(), "the parts are {}", PARTS.map(|(name, _)| name).join(", "));
    wanted.try_for_each(|(_, part)| part())
}

/// The program by itself: its size, its start, its answers on the demo, the judge and the traces.
fn start() -> anyhow::Result<()> {
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
    example("pukka-core", "judge_times")?;
    example("pukka-capture", "trace_times")
}

fn example(package: &str, name: &str) -> anyhow::Result<()> {
    let cargo = std::env::var("CARGO").unwrap_or_else(|_| "cargo".into());
    let run = ["run", "--quiet", "--release", "-p", package, "--example", name];
    anyhow::ensure!(Command::new(cargo).args(run).current_dir(root()).status()?.success(), "{name} failed");
    Ok(())
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
        timed(200, |i| post("previews", serde_json::json!({ "rung": rung, "mode": "certified", "line": "447 14.38 41.2", "seq": i })))?;
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
