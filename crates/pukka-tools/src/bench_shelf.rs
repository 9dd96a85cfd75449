//! A long shelf: 5,000 amplifiers of 30 runs each, imported as a zip; then list, search, compare, open, judge.

use std::io::{Cursor, Write as _};
use std::time::Instant;

use anyhow::Context;
use serde_json::{Value, json};

use crate::measure::{Running, report, timed};

const AMPLIFIERS: usize = 5_000;
const RUNS: usize = 30;

/// Prints what a long shelf costs.
pub fn shelf() -> anyhow::Result<()> {
    let folder = tempfile::tempdir()?;
    let (running, _) = Running::serve(folder.path())?;
    let zip = zipped()?;
    let start = Instant::now();
    let sent = ureq::post(&format!("{}/api/imports/previews", running.url)).content_type("application/octet-stream").send(&zip)?;
    anyhow::ensure!(sent.status() == 200, "the preview failed");
    println!(
        "import, preview    {:>9.2} s   ({AMPLIFIERS} amplifiers × 30 runs, {:.1} MB of zip)",
        start.elapsed().as_secs_f64(),
        zip.len() as f64 / 1e6
    );
    let start = Instant::now();
    ureq::post(&format!("{}/api/imports", running.url))
        .content_type("application/octet-stream")
        .send(&zip)?
        .body_mut()
        .with_config()
        .limit(128_000_000)
        .read_to_string()?;
    println!("import             {:>9.2} s", start.elapsed().as_secs_f64());
    let get = |path: &str| -> anyhow::Result<String> {
        Ok(ureq::get(&format!("{}{path}", running.url)).call()?.body_mut().with_config().limit(64_000_000).read_to_string()?)
    };
    let mut ids: Vec<String> = Vec::new();
    let mut at_page = "/api/amplifiers?limit=1000".to_owned();
    loop {
        let page: Value = serde_json::from_str(&get(&at_page)?)?;
        ids.extend(page["amplifiers"].as_array().context("no shelf")?.iter().filter_map(|row| row["id"].as_str().map(str::to_owned)));
        match page["next"].as_str() {
            Some(next) => at_page = format!("/api/amplifiers?limit=1000&after={next}"),
            None => break,
        }
    }
    anyhow::ensure!(ids.len() == AMPLIFIERS, "{} amplifiers are on the shelf", ids.len());
    // The lines of the shelf are made when the records are at rest: a search before that finds less.
    let start = Instant::now();
    while serde_json::from_str::<Value>(&get("/api/amplifiers?limit=1&find=model")?)?["found"] != AMPLIFIERS {
        std::thread::sleep(std::time::Duration::from_millis(100));
    }
    println!("all lines made     {:>9.2} s", start.elapsed().as_secs_f64());
    for (name, asked) in [
        ("long shelf, page", "limit=60"),
        ("… by clean watts", "limit=60&sort=clean"),
        ("… filtered", "limit=60&sort=price&class=D&verdict=pukka,modest&clean_least=300"),
        ("… searched", "limit=60&find=model%20199"),
    ] {
        report(name, &mut timed(200, |_| get(&format!("/api/amplifiers?{asked}")).map(drop))?);
    }
    for (name, asked) in [("worth, all", ""), ("worth, at 2 Ω", "?load=2"), ("worth, rivals", "?claim_near=400&class=D")] {
        report(name, &mut timed(100, |_| get(&format!("/api/worth{asked}")).map(drop))?);
    }
    let eight = |i: usize| (0..8).map(|n| ids[(i * 61 + n * 17) % ids.len()].clone()).collect::<Vec<_>>().join(",");
    report("compare of 8", &mut timed(200, |i| get(&format!("/api/comparison?ids={}", eight(i))).map(drop))?);
    report("what was taught", &mut timed(40, |_| get("/api/lessons").map(drop))?);
    search(&running.url)?;
    let at = |i: usize| ids[i * 17 % ids.len()].clone();
    report("long shelf, open", &mut timed(200, |i| get(&format!("/api/amplifiers/{}", at(i))).map(drop))?);
    let sessions: Vec<String> = (0..200)
        .map(|i| {
            let amplifier: Value = serde_json::from_str(&get(&format!("/api/amplifiers/{}", at(i)))?)?;
            Ok(amplifier["session_id"].as_str().context("no session")?.to_owned())
        })
        .collect::<anyhow::Result<_>>()?;
    report("long shelf, judge", &mut timed(200, |i| get(&format!("/api/sessions/{}/verdict", sessions[i])).map(drop))?);
    let start = Instant::now();
    let out = ureq::get(&format!("{}/api/shelf.zip", running.url)).call()?.body_mut().with_config().limit(512_000_000).read_to_vec()?;
    println!("export             {:>9.2} s   ({:.1} MB)", start.elapsed().as_secs_f64(), out.len() as f64 / 1e6);
    println!("memory after it    {:>9.1} MB resident", running.resident_mb()?);
    Ok(())
}

/// Typing into the search field, in the browser: from the key to the list as it is drawn.
const TYPE: &str = "const [words, done] = arguments; const field = document.querySelector('input[type=search]');
    const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set; const start = performance.now();
    set.call(field, words); field.dispatchEvent(new Event('input', { bubbles: true }));
    requestAnimationFrame(() => setTimeout(() => done([performance.now() - start, document.querySelectorAll('main li').length])))";

fn search(url: &str) -> anyhow::Result<()> {
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build()?;
    runtime.block_on(async {
        let browser = pukka_e2e::Browser::open(1280, 800).await?;
        let start = Instant::now();
        browser.goto(url).await?;
        browser.see(&format!("Model {}", AMPLIFIERS - 1)).await?;
        println!("long shelf, shown  {:>9.2} s", start.elapsed().as_secs_f64());
        let mut times = Vec::new();
        for i in 0..60 {
            // A letter more, and then all of them again: the worst there is.
            let words = if i % 3 == 2 { String::new() } else { format!("model {}", i * 31) };
            let took = browser.client.execute_async(TYPE, vec![words.into()]).await?;
            times.push(took[0].as_f64().context("no time")?);
        }
        report("long shelf, search", &mut times);
        browser.close().await
    })
}

fn zipped() -> anyhow::Result<Vec<u8>> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for n in 0..AMPLIFIERS {
        zip.start_file(format!("a{n:04}/session.json"), zip::write::SimpleFileOptions::default())?;
        zip.write_all(&serde_json::to_vec(&session(n, RUNS))?)?;
    }
    Ok(zip.finish()?.into_inner())
}

/// An invented amplifier of its own: 3 claims, 3 loads by 3 modes, over and over.
pub fn session(n: usize, runs: usize) -> Value {
    let scale = 1.0 + (n % 37) as f64 / 10.0;
    let run = |i: usize| {
        let load = [4.0, 2.0, 1.0][i / 3 % 3];
        let watts = scale * 110.0 * (4.0 / load) * (1.0 + 0.03 * (i % 3) as f64) * (1.0 + 0.001 * (i / 9) as f64);
        json!({ "id": format!("r{i}"), "at": format!("2026-11-20T{:02}:{:02}:00Z", 8 + i / 30, 2 * (i % 30)), "wiring": { "kind": "mono" },
            "load_nominal_ohm": load, "load_measured_ohm": load * 0.98, "mode": (["certified", "clipping", "dynamic"][i % 3]), "method": "ramp",
            "tone_hz": 40.0, "outputs": [{ "power_w": watts }], "rest_v": 14.6, "end_v": 14.5 - 0.1 / load, "current_a": watts / 10.4 })
    };
    let claim = |i: usize| {
        let load = [4.0, 2.0, 1.0][i];
        json!({ "id": format!("c{i}"), "source": "manual", "wiring": { "kind": "mono" }, "load_ohm": load, "power_w": scale * 108.0 * (4.0 / load),
            "per": "output", "kind": "rms", "supply_v": 14.4 })
    };
    json!({ "format": "pukka-session", "version": 1,
        "amplifier": { "make": format!("Maker {}", n % 90), "model": format!("Model {n}"), "class": "D", "purpose": "subwoofer",
            "supply_type": "unregulated", "channels": 1, "fuses_a": [40, 40], "provenance": "bought" },
        "claims": (0..3).map(claim).collect::<Vec<_>>(), "runs": (0..runs).map(run).collect::<Vec<_>>() })
}
