//! At the bench: a whole live session on the stand-in, a stop by key in mid-ramp, a link lost and back; a stop settled, level
//! steps, an incident.

use pukka_e2e::{Browser, Keys, Server, journey};
use serde_json::{Value, json};

/// The runs of an amplifier of the demo, at a place of its ladder.
async fn runs_of(b: &Browser, server: &Server, name: &str, place: &str) -> anyhow::Result<()> {
    let id = server.amplifier(name)?;
    b.goto(&format!("{}/amplifiers/{id}/runs?{place}", server.url)).await?;
    b.wait("#entry-line").await?;
    Ok(())
}

/// Lets Pukka drive the run at hand; where that asks once (it has not rested), says yes.
async fn drive(b: &Browser) -> anyhow::Result<()> {
    b.press_letter('d').await?;
    b.until("the run starts, or asks", async || {
        let text = b.text().await?;
        Ok(text.contains("Start anyway") || text.contains("\nLive: "))
    })
    .await?;
    if b.text().await?.contains("Start anyway") { b.click("Start anyway").await } else { Ok(()) }
}

const FOUR_CERTIFIED: &str = "rung=mono%404%4040&mode=certified";

#[tokio::test(flavor = "multi_thread")]
async fn a_whole_live_session_on_the_stand_in() {
    journey(|b| async move {
        let server = Server::demo_at_speed(20)?;
        b.goto(&format!("{}/instruments", server.url)).await?;
        b.see("The stand-in bench").await?;
        b.until("all are connected", async || Ok(b.text().await?.matches("\nconnected").count() == 5)).await?;
        b.see("Stand-in analyser").await?;
        runs_of(&b, &server, "Tolland & Pike Mono 1100", FOUR_CERTIFIED).await?;
        b.see("Run it").await?;
        drive(&b).await?;
        b.see("Live: 4 Ω, certified").await?;
        b.see("on to 1 % distortion.").await?;
        b.see("Distortion, %, against watts").await?;
        b.see_no("Live: 4 Ω, certified").await?;
        b.see("Done.").await?;
        b.see("Ramp").await?;
        b.click("Ramp").await?;
        b.see("rounds of readings, as they were kept.").await?;
        b.press(Keys::Escape).await?;
        // Clipping, then a burst: each its own way.
        b.press(Keys::Right).await?;
        b.see("4 Ω, clipping").await?;
        drive(&b).await?;
        b.see("on to 3 % distortion.").await?;
        b.see_no("Live: 4 Ω, clipping").await?;
        b.press(Keys::Right).await?;
        b.see("bursts up to their distortion limit").await?;
        drive(&b).await?;
        b.see("Live: 4 Ω, dynamic").await?;
        b.see_no("Live: 4 Ω, dynamic").await?;
        b.see("Done.").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_key_stops_a_ramp_also_from_inside_a_dialog() {
    journey(|b| async move {
        let server = Server::demo_at_speed(1)?;
        runs_of(&b, &server, "Tolland & Pike Mono 1100", FOUR_CERTIFIED).await?;
        b.see("Run it").await?;
        drive(&b).await?;
        b.see("Live: 4 Ω, certified").await?;
        b.press_letter('?').await?;
        b.see("undo the last act of this tab").await?;
        b.press(Keys::Escape).await?;
        b.see_no("Live: 4 Ω, certified").await?;
        let live = server.get("/api/live")?["live"].clone();
        anyhow::ensure!(live["ended"]["why"]["kind"] == "key", "{live}");
        let level: Value = ureq::post(&format!("{}/api/instruments/generator/trials", server.url))
            .send_json(json!({ "line": "OUTP?" }))?
            .body_mut()
            .read_json()?;
        anyhow::ensure!(level["reply"] == "0", "{level}");
        b.see("Stopped by hand.").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_link_is_lost_in_mid_ramp_and_comes_back() {
    journey(|b| async move {
        let server = Server::demo_at_speed(1)?;
        runs_of(&b, &server, "Tolland & Pike Mono 1100", FOUR_CERTIFIED).await?;
        b.see("Run it").await?;
        drive(&b).await?;
        b.see("Live: 4 Ω, certified").await?;
        server.stand_in(&json!({ "fault": "generator,DROP" }))?;
        b.see("Cut the amplifier's supply by hand, now.").await?;
        b.goto(&format!("{}/instruments", server.url)).await?;
        b.see("Trying again.").await?;
        server.stand_in(&json!({ "fault": "generator,NONE" }))?;
        b.until("all are connected again", async || Ok(b.text().await?.matches("\nconnected").count() == 5)).await?;
        // A meter that answers rubbish stops the next run, and says so.
        runs_of(&b, &server, "Tolland & Pike Mono 1100", FOUR_CERTIFIED).await?;
        b.see("Run it").await?;
        drive(&b).await?;
        b.see("Live: 4 Ω, certified").await?;
        server.stand_in(&json!({ "fault": "analyser,GARBAGE" }))?;
        b.see("answered “#?!”, which is no number").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_stop_is_settled_and_its_history_kept() {
    journey(|b| async move {
        let server = Server::demo()?;
        runs_of(&b, &server, "Tolland & Pike Mono 1100", FOUR_CERTIFIED).await?;
        b.type_text("450 14.38 30").await?;
        b.see("More out than in.").await?;
        b.press(Keys::Enter).await?;
        b.see("Not logged yet: 40 Hz · mono, 4 Ω, certified.").await?;
        b.press_again(Keys::Enter).await?;
        b.see("40 Hz · mono, 4 Ω, certified logged.").await?;
        b.press_letter('r').await?;
        b.see("which cannot be").await?;
        b.click("Strike the amps").await?;
        b.see("Strike a reading").await?;
        b.press(Keys::Enter).await?;
        b.see("This cannot be left empty.").await?;
        b.fill("Why", "clamp on the wrong lead").await?;
        b.press(Keys::Enter).await?;
        b.see("The amps are struck.").await?;
        b.see_no("More out than in.").await?;
        b.click("Undo").await?;
        b.see("More out than in.").await?;
        b.press_letter('e').await?;
        b.see("Correct a line").await?;
        b.fill("Corrected line", "450 14.38 41.4").await?;
        b.fill("Why", "30 was the range").await?;
        b.press(Keys::Enter).await?;
        b.see("Corrected. The old line stays in the history.").await?;
        b.press_letter('h').await?;
        b.see("History of a run").await?;
        b.see("no longer struck: the amps").await?;
        b.see("30 was the range").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn level_steps_rest_and_something_that_went_wrong() {
    journey(|b| async move {
        let server = Server::demo()?;
        runs_of(&b, &server, "Tolland & Pike Mono 1100", FOUR_CERTIFIED).await?;
        // Steps that cannot be so are asked about before they become a run.
        for line in ["-3db 400 14.5 12 0.25%", "-2db 430 14.4 12 4%"] {
            b.type_text(line).await?;
            b.see("dB, level of the generator").await?;
            b.press(Keys::Enter).await?;
            b.see("Step saved.").await?;
        }
        b.press_again(Keys::Enter).await?;
        b.see("Not logged yet: 40 Hz · mono, 4 Ω, certified.").await?;
        b.see("More out than in.").await?;
        for line in ["-3db 300 14.5 27 0.25%", "-2db 400 14.4 38 0.25%", "-1db 460 14.3 44 4%"] {
            b.type_text(line).await?;
            b.see("dB, level of the generator").await?;
            b.press(Keys::Enter).await?;
            b.see("Step saved.").await?;
        }
        b.see("Level steps so far, not yet a run").await?;
        b.press_again(Keys::Enter).await?;
        b.see("the steps are now one run.").await?;
        b.type_text("14.52r").await?;
        b.press(Keys::Enter).await?;
        b.see("Rest voltage saved.").await?;

        b.press_letter('x').await?;
        b.see("Level to zero and the supply off first.").await?;
        b.fill("What you saw, heard or smelt", "clicked off").await?;
        b.press(Keys::Enter).await?;
        b.see("Choose what happened").await?;
        b.choose("Protection").await?;
        b.press(Keys::Enter).await?;
        b.see("The plan has stopped.").await?;
        b.see("It went into protection at").await?;
        b.click("Continue").await?;
        b.see("This cannot be left empty.").await?;
        b.fill("What you found and did about it", "thermal, cooled down").await?;
        b.press(Keys::Enter).await?;
        b.see("The plan continues.").await?;
        b.goto(&format!("{}/incidents", server.url)).await?;
        b.see("Continued: thermal, cooled down").await
    })
    .await;
}
