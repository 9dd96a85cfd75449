//! What the rules say on screen: fuses caution, floors carry over, a claim's own run is waited for, volts nobody read, outputs read
//! several at once, groups driven at once.

use fantoccini::key::Key;
use pukka_e2e::{Browser, Keys, Server, journey};
use serde_json::{Value, json};

fn claim(wiring: &Value, load: f64, power: f64) -> Value {
    json!({ "source": "manual", "wiring": wiring, "load_ohm": load, "power_w": power, "per": "output", "kind": "rms", "supply_v": 14.4,
        "thd_limit_ratio": 0.01 })
}

fn mono(fuses: &[f64]) -> Value {
    json!({ "make": "Tolland & Pike", "model": "Mono 900", "class": "D", "purpose": "subwoofer", "supply_type": "unregulated", "channels": 1,
        "fuses_a": fuses, "max_supply_v": 16, "provenance": "bought" })
}

fn stereo() -> Value {
    json!({ "make": "Quillmoor", "model": "Two-Sixty", "class": "AB", "purpose": "full-range", "supply_type": "unregulated", "channels": 2,
        "fuses_a": [30], "max_supply_v": 16, "floors": [{ "wiring": { "kind": "channels", "driven": 2 }, "load_ohm": 2 }], "provenance": "bought" })
}

fn log(server: &Server, session: &str, rung: &str, mode: &str, line: &str) -> anyhow::Result<Value> {
    server.post(&format!("/api/sessions/{session}/runs"), &json!({ "rung": rung, "mode": mode, "line": line }))
}

async fn at_the_bench(b: &Browser, server: &Server, amplifier: &str) -> anyhow::Result<()> {
    b.goto(&format!("{}/amplifiers/{amplifier}/runs", server.url)).await?;
    b.see("Before the first run").await?;
    b.tick_the_cautions().await?;
    b.wait("#entry-line").await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn past_its_fuses_is_a_caution_and_no_form_to_fill() {
    journey(|b| async move {
        let server = Server::serve()?;
        let (id, session) = server.put_on_the_shelf(&mono(&[40.0]), &[claim(&json!({ "kind": "mono" }), 2.0, 780.0)])?;
        at_the_bench(&b, &server, &id).await?;
        b.see("Keep spares").await?;
        b.see_no("Why run it anyway").await?;
        b.type_text("771 14.19 76.9").await?;
        b.press(Keys::Enter).await?;
        // More amps than the fuses is a doubt about the reading: Enter asks once, and nothing else has to be said.
        b.see("Past the fuses.").await?;
        b.press_again(Keys::Enter).await?;
        b.see("1 of 3 logged").await?;
        let run = &server.get(&format!("/api/sessions/{session}/ladder"))?["ladder"]["rungs"][0]["cells"][0]["runs"][0];
        anyhow::ensure!(run["ungated"] == false, "it was no gate: {run}");
        Ok(())
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_floor_of_two_channels_is_the_floor_of_their_bridge() {
    journey(|b| async move {
        let server = Server::serve()?;
        let two = json!({ "kind": "channels", "driven": 2 });
        let (id, _) = server.put_on_the_shelf(&stereo(), &[claim(&two, 4.0, 75.0), claim(&two, 2.0, 110.0)])?;
        b.goto(&format!("{}/amplifiers/{id}/plan", server.url)).await?;
        b.see("What each load will ask of the bench").await?;
        b.press_letter('l').await?;
        b.fill("Load", "4").await?;
        b.fill("Wired as", "bridged-1").await?;
        b.press(Keys::Enter).await?;
        b.see_no("Add to the ladder").await?;
        b.see("1 bridged pair").await?;
        b.see_no("is below the maker’s minimum load.").await?;
        b.press_letter('l').await?;
        b.fill("Load", "2 ohms").await?;
        b.fill("Wired as", "bridged-1").await?;
        b.click("Add to the ladder").await?;
        b.see("2 Ω is below the maker’s minimum load.").await?;
        b.see("The floor is 4 Ω for 1 bridged pair: what its maker states for 2 channels, by the ohms of a channel.").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_claims_own_run_is_waited_for_and_never_said_to_be_missing() {
    journey(|b| async move {
        let server = Server::serve()?;
        let one = json!({ "kind": "mono" });
        let claims = [claim(&one, 4.0, 450.0), claim(&one, 2.0, 780.0), claim(&one, 1.0, 1100.0)];
        let (id, session) = server.put_on_the_shelf(&mono(&[35.0, 35.0, 35.0]), &claims)?;
        log(&server, &session, "mono@4@40", "certified", "452 14.4 41.2")?;
        // 780 W of 14.2 V × 50 A would be 110 %: it stops.
        log(&server, &session, "mono@2@40", "certified", "780 14.2 50")?;
        log(&server, &session, "mono@1@40", "certified", "1110 14.4 124")?;
        b.goto(&format!("{}/amplifiers/{id}/verdict", server.url)).await?;
        b.see("Its run waits").await?;
        b.see("settle the stop").await?;
        b.see_no("has not been tested").await?;
        b.see_no("not run itself: between").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn volts_that_nobody_read_leave_it_open_and_a_slider_shows_what_would_follow() {
    journey(|b| async move {
        let server = Server::serve()?;
        let (id, session) = server.put_on_the_shelf(&mono(&[35.0, 35.0, 35.0]), &[claim(&json!({ "kind": "mono" }), 2.0, 780.0)])?;
        log(&server, &session, "mono@2@40", "certified", "700 # no volts")?;
        b.goto(&format!("{}/amplifiers/{id}/verdict", server.url)).await?;
        b.see("Cannot tell").await?;
        b.see("read the supply under load next time").await?;
        let slider = b.field("If the supply was").await?;
        let says = async || Ok::<_, anyhow::Error>(slider.attr("aria-valuetext").await?.unwrap_or_default().replace('\u{202f}', " "));
        slider.send_keys(&(Key::End + "")).await?;
        b.until("at the top it falls short", async || Ok(says().await?.contains("14.4 V: 700 W, short"))).await?;
        slider.send_keys(&(Key::Home + "")).await?;
        b.until("at the bottom the bench held it back", async || Ok(says().await? == "12.0 V: 700 to 1 008 W, bench-limited")).await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn each_of_four_is_typed_once_and_a_star_is_asked_about() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Quillmoor Four-Ninety")?;
        at_the_bench(&b, &server, &id).await?;
        b.type_text("57*4").await?;
        b.see("57 W at each of 4 outputs, or a supply of 4 V?").await?;
        b.click("57 W at each of 4").await?;
        b.see("57 + 57 + 57 + 57 W").await?;
        b.client.active_element().await?;
        b.press(Keys::Ctrl('a')).await?;
        b.press(Keys::Backspace).await?;
        // A name that begins with a key of the page, on the empty line.
        b.type_text("rear:57x4 14.2 30").await?;
        b.see("rear1 57 + rear2 57 + rear3 57 + rear4 57 W").await?;
        b.press(Keys::Ctrl('a')).await?;
        b.press(Keys::Backspace).await?;
        b.type_text("57x4 14.2 30").await?;
        b.see("57 + 57 + 57 + 57 W · 14.2 V supply · 30 A").await?;
        b.see("228").await?;
        b.press(Keys::Enter).await?;
        b.see("1 of 9 logged").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn two_channels_and_a_pair_at_once_from_the_claim_to_the_verdict() {
    journey(|b| async move {
        let server = Server::serve()?;
        let mut four = stereo();
        (four["model"], four["channels"], four["fuses_a"]) = (json!("Four-Sixty"), json!(4), json!([30, 30]));
        four["floors"] = json!([{ "wiring": { "kind": "channels", "driven": 4 }, "load_ohm": 2 }]);
        let (id, _) = server.put_on_the_shelf(&four, &[])?;
        b.goto(&format!("{}/amplifiers/{id}/claims", server.url)).await?;
        b.see("No claim entered yet.").await?;
        b.press_letter('n').await?;
        b.fill("Wired as", "mixed~channels-2~bridged-1").await?;
        b.fill("Load", "4 + 4 + 4").await?;
        b.fill("Watts", "75 + 300").await?;
        b.click("Save the claim").await?;
        b.see("One for each of the 2 groups, with a + between").await?;
        b.fill("Load", "4").await?;
        b.fill("Tone, if named", "1000 + 40").await?;
        b.fill("At", "14.4").await?;
        b.click("Save the claim").await?;
        b.see("2 × 75 + 300").await?;
        b.see("2 channels + 1 bridged pair").await?;
        b.see("4 + 4 Ω").await?;

        at_the_bench(&b, &server, &id).await?;
        b.see("2 channels into 4 Ω + 1 bridged pair into 4 Ω at 40 Hz").await?;
        b.type_text("79x2+275 14.4 52").await?;
        b.see("79 + 79 + 275 W · 14.4 V supply · 52 A").await?;
        b.press(Keys::Enter).await?;
        b.see("1 of 3 logged").await?;
        b.goto(&format!("{}/amplifiers/{id}/verdict", server.url)).await?;
        b.see("1 bridged pair into 4 Ω at 40 Hz: 275 W of 300 W, 8.3 % short").await
    })
    .await;
}
