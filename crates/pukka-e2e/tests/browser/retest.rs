//! A retest: opened by button, logged into, set against the session before, and the first taken in hand again.

use pukka_e2e::{Server, journey};
use serde_json::json;

#[tokio::test(flavor = "multi_thread")]
async fn a_retest_is_opened_logged_into_and_set_against_the_session_before() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Tolland & Pike Mono 1100")?;
        b.goto(&format!("{}/amplifiers/{id}/verdict", server.url)).await?;
        b.click("one session").await?;
        b.see("Each time an amplifier comes to the bench").await?;
        b.click("Retest").await?;
        b.click("after a repair").await?;
        b.click("Open a retest").await?;
        b.see("A retest is open, and in hand.").await?;
        b.see("session 2 of 2").await?;
        b.see("No power of one can be set against one of the other.").await?;
        b.see("nothing run yet").await?;
        // Taken back and done again like any act.
        b.click("Undo").await?;
        b.see("one session").await?;
        b.click("Redo").await?;
        b.see("session 2 of 2").await?;
        let session = server.get(&format!("/api/amplifiers/{id}"))?["session_id"].as_str().unwrap_or_default().to_owned();
        let run = json!({ "rung": "mono@4@40", "mode": "certified", "line": "300 14.2 30", "happened": true });
        server.post(&format!("/api/sessions/{session}/runs"), &run)?;
        // Another tab's run shows by itself.
        b.see("1 of 1 changed beyond what both can be off").await?;
        b.see("less at 4").await?;
        // The first is taken in hand again, and everything shows it.
        b.click("Take in hand").await?;
        b.see("session 1 of 2").await?;
        b.goto(&format!("{}/amplifiers/{id}/runs", server.url)).await?;
        b.see("session 1 of 2").await?;
        b.see("868").await
    })
    .await;
}
