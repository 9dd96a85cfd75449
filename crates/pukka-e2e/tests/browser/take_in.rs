//! Importing and looking after: two sources side by side, tones, a meter struck across a session, the instruments' own lines.

use anyhow::Context as _;
use pukka_e2e::{Browser, Keys, Server, journey};
use serde_json::json;

async fn open(b: &Browser, server: &Server, name: &str, place: &str) -> anyhow::Result<String> {
    let id = server.amplifier(name)?;
    b.goto(&format!("{}/amplifiers/{id}/{place}", server.url)).await?;
    Ok(id)
}

#[tokio::test(flavor = "multi_thread")]
async fn two_sources_that_disagree_and_the_one_the_verdict_uses() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = open(&b, &server, "Tolland & Pike Mono 1100", "claims").await?;
        b.see("Paste a spec table").await?;
        let box_says = json!({
            "source": "box", "wiring": { "kind": "mono" }, "load_ohm": 1, "power_w": 1300, "per": "output", "kind": "rms", "supply_v": 14.4,
            "thd_limit_ratio": 0.01, "used": false
        });
        ureq::post(&format!("{}/api/amplifiers/{id}/claims", server.url)).send_json(box_says)?;
        open(&b, &server, "Tolland & Pike Mono 1100", "claims").await?;
        b.see("box").await?;
        b.see("1 300").await?;
        b.see("manual").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_tone_of_a_run_is_named_changed_and_saved() {
    journey(|b| async move {
        let server = Server::demo()?;
        open(&b, &server, "Tolland & Pike Mono 1100", "runs?rung=mono%404%4040&mode=dynamic").await?;
        b.see("40 Hz, standard burst, −6 dBFS").await?;
        b.click("change or save").await?;
        b.see("Save as WAV").await?;
        b.fill("Level, dBFS", "-12").await?;
        b.see("40 Hz, standard burst, −12 dBFS").await?;
        let href = "return [...document.querySelectorAll('a')].find((a) => a.textContent.includes('Save as WAV')).href";
        let address = b.client.execute(href, vec![]).await?;
        let mut wav = ureq::get(address.as_str().context("no address")?).call()?;
        let bytes = wav.body_mut().with_config().limit(64_000_000).read_to_vec()?;
        anyhow::ensure!(bytes.starts_with(b"RIFF") && bytes.len() > 8_000_000, "a minute of 24 bit at 48 kHz, not {} bytes", bytes.len());
        open(&b, &server, "Tolland & Pike Mono 1100", "runs?rung=mono%404%4040&mode=certified").await?;
        b.see("40 Hz, sine, −6 dBFS").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_meter_that_was_wrong_is_struck_by_a_key_and_put_back_by_another() {
    journey(|b| async move {
        let server = Server::demo()?;
        open(&b, &server, "Copley Strand Duo 150", "runs?rung=channels-2%404%401000&mode=certified").await?;
        b.wait("#entry-line").await?;
        b.see("Two meters disagree.").await?;
        b.press_letter('m').await?;
        b.see("Strike a meter across the session").await?;
        b.fill("Why", "reads 7 % high against a third").await?;
        b.press(Keys::Enter).await?;
        b.see("watts struck in").await?;
        b.see_no("Two meters disagree.").await?;
        b.click("Undo").await?;
        b.see("Two meters disagree.").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn instruments_are_linked_tried_and_taken_away() {
    journey(|b| async move {
        let server = Server::serve()?;
        b.goto(&format!("{}/instruments", server.url)).await?;
        b.see("not linked").await?;
        b.click("Link").await?;
        b.fill("Host and port, or serial port", "nowhere").await?;
        b.press(Keys::Enter).await?;
        b.see("An address is a host and a port").await?;
        b.fill("Host and port, or serial port", "127.0.0.1:1").await?;
        b.press(Keys::Enter).await?;
        b.see("refused the connection. Trying again.").await?;
        b.click("Remove").await?;
        b.see_no("refused the connection").await?;
        b.goto(&format!("{}/incidents", server.url)).await?;
        b.see("No incident yet.").await
    })
    .await;
}
