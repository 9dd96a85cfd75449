//! Stop and alarm: always on the screen, until the level is proved down; and a page that is reached over the network.

use pukka_e2e::{Browser, Keys, Server, journey, journey_with};
use serde_json::json;

const STOP: &str = "section[aria-label='A run is under way'] button";
const FOUR_CERTIFIED: &str = "rung=mono%404%4040&mode=certified";

/// A ramp under way on the stand-in bench.
async fn under_way(b: &Browser, server: &Server) -> anyhow::Result<()> {
    let id = server.amplifier("Tolland & Pike Mono 1100")?;
    b.goto(&format!("{}/amplifiers/{id}/runs?{FOUR_CERTIFIED}", server.url)).await?;
    b.see("Run it").await?;
    b.press_letter('D').await?;
    b.see("Live: 4 Ω, certified").await
}

async fn scrolled(b: &Browser) -> anyhow::Result<i64> {
    Ok(b.value("Math.round(scrollY)").await?.as_i64().unwrap_or(-1))
}

#[tokio::test(flavor = "multi_thread")]
async fn stop_is_in_sight_in_every_view_and_scroll_place_and_nothing_jumps() {
    journey(|b| async move {
        let server = Server::demo_at_speed(1)?;
        let id = server.amplifier("Tolland & Pike Mono 1100")?;
        b.resize(1280, 500).await?;
        b.goto(&format!("{}/amplifiers/{id}/runs?{FOUR_CERTIFIED}", server.url)).await?;
        b.see("Run it").await?;
        b.client.execute("scrollTo(0, 150)", vec![]).await?;
        b.until("it is scrolled", async || Ok(scrolled(&b).await? == 150)).await?;
        b.press_letter('d').await?;
        b.see("Live: 4 Ω, certified").await?;
        b.see("on to 1 % distortion.").await?;
        anyhow::ensure!(scrolled(&b).await? == 150, "the start jumped to {}", scrolled(&b).await?);
        for place in ["scrollTo(0, 0)", "scrollTo(0, document.body.scrollHeight)"] {
            b.client.execute(place, vec![]).await?;
            anyhow::ensure!(b.in_sight(STOP).await?, "no stop after {place}");
        }
        b.press_letter('?').await?;
        b.wait("[role=dialog]").await?;
        anyhow::ensure!(b.in_sight(STOP).await?, "a dialog hides the stop");
        b.client.execute("scrollTo(0, 150)", vec![]).await?;
        b.client.find(fantoccini::Locator::Css(STOP)).await?.click().await?;
        b.see_no("Live: 4 Ω, certified").await?;
        anyhow::ensure!(server.get("/api/live")?["live"]["ended"]["why"]["kind"] == "key");
        anyhow::ensure!(scrolled(&b).await? == 150, "the end jumped to {}", scrolled(&b).await?);
        b.press(Keys::Escape).await?;

        // On a phone, and on pages that have nothing to do with the run.
        under_way(&b, &server).await?;
        b.resize(400, 800).await?;
        anyhow::ensure!(b.in_sight(STOP).await?, "no stop on a phone");
        for (path, says) in
            [("/", "On the shelf"), ("/instruments", "The stand-in bench"), ("/nowhere", "There is nothing at this address.")]
        {
            b.goto(&format!("{}{path}", server.url)).await?;
            b.see(says).await?;
            b.until("the stop is in sight", async || b.in_sight(STOP).await).await?;
        }
        b.press(Keys::Escape).await?;
        b.see_no("Live: 4 Ω, certified").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_run_past_a_gate_or_its_fuses_asks_once_and_the_cautions_are_ticked_one_by_one() {
    journey(|b| async move {
        let server = Server::demo_at_speed(1)?;
        let id = server.amplifier("Tolland & Pike Mono 1100")?;
        b.goto(&format!("{}/amplifiers/{id}/runs?rung=mono%401%4040&mode=certified", server.url)).await?;
        b.see("Run it").await?;
        b.press_letter('d').await?;
        b.see("Start 40 Hz · mono, 1 Ω, certified?").await?;
        b.see("% of its fuses").await?;
        // The safe answer has the focus.
        b.press(Keys::Enter).await?;
        b.see_no("Start 40 Hz").await?;
        anyhow::ensure!(server.get("/api/live")?["live"].is_null());
        b.press_letter('d').await?;
        b.click("Start anyway").await?;
        b.see("Live: 1 Ω, certified").await?;
        b.press(Keys::Escape).await?;
        b.see_no("Live: 1 Ω, certified").await?;

        let id = server.amplifier("Quillmoor Four-Ninety")?;
        b.goto(&format!("{}/amplifiers/{id}/runs", server.url)).await?;
        b.see("Before the first run").await?;
        b.until("a tick box has the focus", async || Ok(b.value("document.activeElement.role").await? == "checkbox")).await?;
        b.press(Keys::Enter).await?;
        b.type_steadily("110⏎", 20).await?;
        b.see("Tick the cautions first").await?;
        anyhow::ensure!(b.line().await? == "110");
        b.client.execute("document.querySelector('[role=checkbox]').focus()", vec![]).await?;
        b.tick_the_cautions().await?;
        b.see_no("Tick the cautions first").await?;
        anyhow::ensure!(b.line().await? == "110", "what was typed is gone");
        Ok(())
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_alarm_stays_until_the_level_is_proved_down_and_then_says_so() {
    journey(|b| async move {
        let server = Server::demo_at_speed(1)?;
        under_way(&b, &server).await?;
        server.stand_in(&json!({ "fault": "generator,DROP" }))?;
        b.see("Cut the amplifier's supply by hand, now.").await?;
        b.goto(&server.url).await?;
        b.see("Cut the amplifier's supply by hand, now.").await?;
        server.stand_in(&json!({ "fault": "generator,NONE" }))?;
        b.see_no("Cut the amplifier's supply by hand, now.").await?;
        b.see("The level is confirmed down.").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_stop_that_cannot_reach_the_program_says_cut_the_supply() {
    journey(|b| async move {
        let mut server = Server::demo_at_speed(1)?;
        under_way(&b, &server).await?;
        server.kill()?;
        b.see("Stop cannot reach the bench: cut the supply.").await?;
        b.press(Keys::Escape).await?;
        b.see("The stop is sent again until it gets through.").await?;
        anyhow::ensure!(b.in_sight("[role=alert]").await?);
        Ok(())
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn over_the_network_by_a_name_and_plain_http_the_page_lives() {
    journey_with(&["--host-resolver-rules=MAP bench.test 127.0.0.1"], |b| async move {
        let server = Server::demo_with(&["--now", "2026-11-22T10:30:00Z", "--trust-network"])?;
        let url = server.url.replace("127.0.0.1", "bench.test");
        let id = server.amplifier("Tolland & Pike Mono 1100")?;
        b.goto(&format!("{url}/amplifiers/{id}/runs")).await?;
        anyhow::ensure!(b.value("isSecureContext").await? == false, "this tests nothing");
        b.wait("#entry-line").await?;
        b.type_steadily("1068 13.96 124.6⏎", 20).await?;
        b.see("7 of 9 logged").await?;
        b.press_letter('u').await?;
        b.see("Undone: logged 1 Ω, certified.").await?;
        // Two tabs: one reads the stream, the other hears it from the first.
        let second = b.client.new_window(true).await?.handle;
        b.client.switch_to_window(second).await?;
        b.goto(&url).await?;
        b.see("On the shelf").await?;
        let (errors, _) = b.logs().await?;
        anyhow::ensure!(errors.is_empty(), "{errors:?}");
        Ok(())
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn beyond_this_machine_it_listens_only_when_told_and_warns_on_every_page() {
    let refused = Server::demo_with(&["--listen", "0.0.0.0:0"]);
    assert!(refused.is_err(), "it listens to the whole network unasked");
    journey(|b| async move {
        let server = Server::demo_with(&["--listen", "0.0.0.0:0", "--trust-network"])?;
        let url = server.url.replace("0.0.0.0", "127.0.0.1");
        for path in ["", "/instruments", "/benches"] {
            b.goto(&format!("{url}{path}")).await?;
            b.see("Open to the network:").await?;
        }
        Ok(())
    })
    .await;
}
