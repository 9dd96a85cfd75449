//! Captured waves in the browser: a file is taken in, scaled, cut, logged; its verdict follows, and it reads the same elsewhere.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

use std::f64::consts::TAU;
use std::path::PathBuf;

use pukka_e2e::{Browser, Keys, Server, journey};

const RATE: f64 = 48_000.0;

/// A WAV of one output, floats of a full scale of 1: two cycles of 40 Hz in a quieter tone, as a recorder without a scale wrote it.
fn wav(name: &str) -> anyhow::Result<(tempfile::TempDir, PathBuf)> {
    let level = |t: f64| if (0.2..0.25).contains(&t) { 0.5 } else { 0.05 };
    let samples: Vec<u8> = (0..(0.6 * RATE) as usize)
        .map(|n| n as f64 / RATE)
        .flat_map(|t| ((level(t) * (TAU * 40.0 * (t - 0.2)).sin()) as f32).to_le_bytes())
        .collect();
    let chunk = |word: &[u8; 4], content: &[u8]| [&word[..], &(content.len() as u32).to_le_bytes(), content].concat();
    let format = [3u16.to_le_bytes(), 1u16.to_le_bytes()].concat();
    let format = [&format[..], &48_000u32.to_le_bytes(), &192_000u32.to_le_bytes(), &4u16.to_le_bytes(), &32u16.to_le_bytes()].concat();
    let content = [b"WAVE".to_vec(), chunk(b"fmt ", &format), chunk(b"data", &samples)].concat();
    let folder = tempfile::tempdir()?;
    let path = folder.path().join(name);
    std::fs::write(&path, [&b"RIFF"[..], &(content.len() as u32).to_le_bytes(), &content].concat())?;
    Ok((folder, path))
}

async fn add(b: &Browser, path: &std::path::Path) -> anyhow::Result<()> {
    let input = b.client.find(fantoccini::Locator::Css("input[type=file]")).await?;
    Ok(input.send_keys(&path.display().to_string()).await?)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_capture_is_scaled_by_a_meter_cut_logged_and_backs_the_verdict() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Tolland & Pike Mono 1100")?;
        b.goto(&format!("{}/amplifiers/{id}/traces", server.url)).await?;
        b.see("No recording yet.").await?;
        let (_folder, path) = wav("one ohm burst.wav")?;
        add(&b, &path).await?;
        b.see("2 cycles of 40.0 Hz").await?;
        // Without a scale its volts are the file's; a meter that read 30 V over the burst gives it one: 30² / 1.01 Ω at 1 Ω.
        b.press_letter('s').await?;
        b.see("Channels and scales").await?;
        b.fill("A meter read", "30").await?;
        b.click("Set").await?;
        b.see("off the meter").await?;
        b.click("Save").await?;
        b.see("Channels and scales saved.").await?;
        b.see("Sustained").await?;
        // An end is moved by the keyboard, and put back.
        let handle = b.wait("[role=slider][aria-label='End of the stretch']").await?;
        let before = handle.attr("aria-valuenow").await?;
        handle.click().await?;
        b.press(Keys::Right).await?;
        b.see("Cuts as found").await?;
        let moved = b.wait("[role=slider][aria-label='End of the stretch']").await?.attr("aria-valuenow").await?;
        anyhow::ensure!(moved != before, "the cut has moved");
        b.click("Cuts as found").await?;
        // What it would be is said before it is logged, and a tone is no burst.
        b.click("certified").await?;
        b.see("This is a burst: it is logged as dynamic power.").await?;
        b.click("dynamic").await?;
        b.see_no("This is a burst: it is logged as dynamic power.").await?;
        b.click("Log as").await?;
        b.see("Logged").await?;
        b.see("dynamic").await?;
        let shelf = b.value("fetch('/api/shelf.zip').then((r) => r.arrayBuffer()).then((b) => b.byteLength)").await?;
        anyhow::ensure!(shelf.as_u64().is_some_and(|bytes| bytes > 20_000), "the recording is in the zip: {shelf}");
        b.click("Remove").await?;
        b.see("A run stands on this trace: take the run back first.").await?;
        let file = server.get(&format!("/api/amplifiers/{id}/file"))?;
        let runs = file["runs"].as_array().map(Vec::as_slice).unwrap_or_default();
        let logged = runs.iter().find(|run| run["method"] == "trace").unwrap();
        // 30 V over the burst, as the meter read.
        let volts = logged["outputs"][0]["volts_rms"].as_f64().unwrap();
        anyhow::ensure!((volts - 30.0).abs() < 0.3 && logged["evidence"][0]["kind"] == "trace", "{logged}");
        Ok(())
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_no_recording_is_refused_in_the_view_with_the_place() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Tolland & Pike Mono 1100")?;
        b.goto(&format!("{}/amplifiers/{id}/traces", server.url)).await?;
        b.see("No recording yet.").await?;
        let folder = tempfile::tempdir()?;
        let path = folder.path().join("scope.csv");
        std::fs::write(&path, "time;V\n0;1\n1;2\n2;1\n3;2\n4;x\n5;3\n")?;
        add(&b, &path).await?;
        b.see("Line 6").await?;
        b.see("Nothing of it was kept.").await?;
        b.see("No recording yet.").await
    })
    .await;
}
