//! Typing at the bench, in the browser: from the key to the figures as they are drawn, and tasks that would be felt.

use std::time::Duration;

use anyhow::Context;
use pukka_e2e::{Browser, Keys};
use serde_json::Value;

use crate::measure::{Running, report};

const RUNS: usize = 60;
const KEYS: usize = 120;
/// Time between what is done to the page.
const QUIET: Duration = Duration::from_millis(60);

/// Notes the moment of each key, the moment when the text that it asks for is painted, and long tasks. Reading `innerText` would lay
/// the page out once more.
const WATCH: &str = "window.typed = { down: 0, want: '', shown: 0, long: [] };
    addEventListener('keydown', (event) => { typed.down = event.timeStamp; }, true);
    new PerformanceObserver((list) => { for (const entry of list.getEntries()) typed.long.push(entry.duration); }).observe({ entryTypes: ['longtask'] });
    new MutationObserver(() => requestAnimationFrame(() => setTimeout(() => {
        if (typed.want !== '' && typed.shown === 0 && document.getElementById('understood').textContent.replace(/\\s/g, ' ').includes(typed.want)) typed.shown = performance.now();
    }))).observe(document.body, { subtree: true, childList: true, characterData: true });";

/// Prints how long figures take after a key, with 60 runs in the session.
pub fn typing() -> anyhow::Result<()> {
    let folder = tempfile::tempdir()?;
    let (running, _) = Running::serve(folder.path())?;
    let file = serde_json::to_vec(&crate::bench_shelf::session(0, RUNS))?;
    ureq::post(&format!("{}/api/imports", running.url)).content_type("application/json").send(&file)?.body_mut().read_to_string()?;
    let shelf: Value = ureq::get(&format!("{}/api/amplifiers", running.url)).call()?.body_mut().read_json()?;
    let id = shelf["amplifiers"][0]["id"].as_str().context("nothing was imported")?.to_owned();
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build()?;
    runtime.block_on(async {
        let browser = Browser::open(1280, 800).await?;
        browser.goto(&format!("{}/amplifiers/{id}/runs?rung=mono@4@40&mode=certified", running.url)).await?;
        browser.wait("#entry-line").await?;
        browser.tick_the_cautions().await?;
        browser.client.execute(WATCH, vec![]).await?;
        browser.client.execute("document.getElementById('entry-line').focus()", vec![]).await?;
        browser.type_steadily("110 14.38 1", 40).await?;
        // A digit alone is known ahead of its key; of two at once the second is not.
        for (name, before) in [("key to figures", ""), ("two keys at once", "0")] {
            let mut times = figures(&browser, before).await?;
            report(name, &mut times);
            println!("                   {:>9.2} ms p95, {RUNS} runs in the session", times[times.len() * 95 / 100]);
        }
        let long = browser.value("typed.long").await?;
        let long: Vec<f64> = long.as_array().into_iter().flatten().filter_map(Value::as_f64).collect();
        println!("long tasks         {:>9}    longest {:.0} ms", long.len(), long.iter().copied().fold(0.0, f64::max));
        browser.close().await
    })
}

/// Times the last digit of a line, over and over, right behind the digits before it.
async fn figures(browser: &Browser, before: &str) -> anyhow::Result<Vec<f64>> {
    let mut times = Vec::new();
    for i in 0..KEYS {
        let digit = i % 9 + 1;
        browser.client.execute("typed.want = arguments[0]; typed.shown = 0", vec![format!("1{before}{digit} A").into()]).await?;
        browser.type_steadily(&format!("{before}{digit}"), 0).await?;
        // To ask the page is work for it, too.
        tokio::time::sleep(QUIET).await;
        browser.until("the figures follow the key", async || Ok(browser.value("typed.shown").await?.as_f64() > Some(0.0))).await?;
        times.push(browser.value("typed.shown - typed.down").await?.as_f64().context("no time")?);
        browser.client.execute("typed.want = ''", vec![]).await?;
        for _ in 0..=before.len() {
            browser.press(Keys::Backspace).await?;
        }
        browser.until("the digit is gone", async || Ok(browser.line().await? == "110 14.38 1")).await?;
        tokio::time::sleep(QUIET).await;
    }
    Ok(times)
}
