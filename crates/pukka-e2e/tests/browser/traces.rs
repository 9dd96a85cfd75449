//! Captured waves in the browser: a file is taken in, scaled, cut, logged; its verdict follows, and it reads the same elsewhere.

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

/// Drops a recording on the page that is shown, as a hand would: a second of 40 Hz, 16 bits.
const DROP: &str = "const rate = 48000, name = arguments[0]; const bytes = new DataView(new ArrayBuffer(44 + 2 * rate));
    const word = (at, text) => [...text].forEach((c, n) => bytes.setUint8(at + n, c.charCodeAt(0)));
    word(0, 'RIFF'); bytes.setUint32(4, 36 + 2 * rate, true); word(8, 'WAVEfmt '); bytes.setUint32(16, 16, true);
    bytes.setUint16(20, 1, true); bytes.setUint16(22, 1, true); bytes.setUint32(24, rate, true); bytes.setUint32(28, 2 * rate, true);
    bytes.setUint16(32, 2, true); bytes.setUint16(34, 16, true); word(36, 'data'); bytes.setUint32(40, 2 * rate, true);
    for (let n = 0; n < rate; n++) bytes.setInt16(44 + 2 * n, 16000 * Math.sin(2 * Math.PI * 40 * n / rate), true);
    const carried = new DataTransfer(); carried.items.add(new File([bytes.buffer], name));
    const at = document.querySelector('main');
    for (const kind of ['dragover', 'drop']) at.dispatchEvent(new DragEvent(kind, { dataTransfer: carried, bubbles: true, cancelable: true }));";

#[tokio::test(flavor = "multi_thread")]
async fn a_capture_that_is_dropped_on_the_runs_is_taken_in_and_its_ends_are_dragged() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Tolland & Pike Mono 1100")?;
        b.goto(&format!("{}/amplifiers/{id}/runs", server.url)).await?;
        b.wait("main").await?;
        b.see("Mono 1100").await?;
        b.client.execute(DROP, vec!["dropped.wav".into()]).await?;
        b.see("A tone of 40.0 Hz").await?;
        b.see("dropped.wav").await?;
        // What was dropped once is not taken in again by a page that is opened anew.
        b.goto(&format!("{}/amplifiers/{id}/traces", server.url)).await?;
        b.see("A tone of 40.0 Hz").await?;
        let session = server.get(&format!("/api/amplifiers/{id}"))?["session_id"].as_str().unwrap_or_default().to_owned();
        let traces = server.get(&format!("/api/sessions/{session}/traces"))?;
        anyhow::ensure!(traces["traces"].as_array().is_some_and(|all| all.len() == 1), "{traces}");
        b.wait("[role=slider][aria-label='End of the stretch']").await?;
        // An end is dragged a good way to the left: the figures are of what is left.
        let end = "document.querySelector(\"[role=slider][aria-label='End of the stretch']\")";
        let at = b.value(&format!("(() => {{ const box = {end}.getBoundingClientRect(); return [box.x + box.width / 2, box.y + 40]; }})()")).await?;
        let (x, y) = (at[0].as_f64().unwrap_or_default() as i64, at[1].as_f64().unwrap_or_default() as i64);
        drag(&b, (x, y), x - 300).await?;
        b.see("Cuts as found").await?;
        let end_s: f64 = b.value(&format!("Number({end}.getAttribute('aria-valuenow'))")).await?.as_f64().unwrap_or_default();
        anyhow::ensure!((0.3..0.9).contains(&end_s), "the end is at {end_s} s");
        b.see("Log as").await?;
        // The wheel zooms about where the pointer is.
        b.value("document.querySelector('canvas').parentElement.dispatchEvent(new WheelEvent('wheel', { deltaY: -600, clientX: 400, clientY: 300, bubbles: true, cancelable: true }))").await?;
        b.until("the end of the stretch is out of sight, or further out", async || {
            let now = b.value(&format!("{end}.getBoundingClientRect().x")).await?.as_f64().unwrap_or_default();
            Ok((now - (x - 300) as f64).abs() > 50.0)
        })
        .await
    })
    .await;
}

async fn drag(b: &Browser, from: (i64, i64), to_x: i64) -> anyhow::Result<()> {
    use fantoccini::actions::{InputSource, MOUSE_BUTTON_LEFT, MouseActions, PointerAction};
    let moved = |x, y| PointerAction::MoveTo { duration: None, x: x as f64, y: y as f64 };
    let actions = MouseActions::new("mouse".to_owned())
        .then(moved(from.0, from.1))
        .then(PointerAction::Down { button: MOUSE_BUTTON_LEFT })
        .then(moved((from.0 + to_x) / 2, from.1))
        .then(moved(to_x, from.1))
        .then(PointerAction::Up { button: MOUSE_BUTTON_LEFT });
    Ok(b.client.perform_actions(actions).await?)
}
