//! From an empty shelf to a verdict without the mouse, and all of it there after a power cut.

use pukka_e2e::{Keys, Server, journey};

const RUNS: [&str; 9] = [
    "447 14.38 41.2",
    "462 14.33 45.9",
    "489 14.52",
    "771w 14.19v 76.9a 0.97%",
    "806*14.11*84",
    "868 14.41",
    "1068 13,96 124,6 # fan on",
    "1124 13.88 134.2",
    "1279 14.22",
];

#[tokio::test(flavor = "multi_thread")]
async fn a_whole_session_with_the_keyboard_alone() {
    journey(|b| async move {
        let server = Server::serve()?;
        b.goto(&server.url).await?;
        b.see("Nothing on the shelf yet.").await?;

        b.press_letter('n').await?;
        b.see("Put it on the shelf").await?;
        for (text, tabs) in [("Tolland & Pike", 1), ("Mono 1100", 2), ("D", 1), ("sub", 1), ("unr", 1), ("3 x 60", 2), ("16", 0)] {
            b.type_text(text).await?;
            for _ in 0..tabs {
                b.press(Keys::Tab).await?;
            }
        }
        b.press(Keys::Enter).await?;
        b.see("No claim entered yet.").await?;
        b.see("class D · fused 3 × 60 A").await?;
        b.see("subwoofers, tested at 40 Hz").await?;

        for (load, watts, count) in [("4", "450", "1 to prove"), ("2", "780", "2 to prove"), ("1", "1100", "3 to prove")] {
            b.press_letter('n').await?;
            b.wait("[role=dialog] input").await?;
            b.type_text(load).await?;
            b.press(Keys::Tab).await?;
            b.type_text(watts).await?;
            b.press(Keys::Enter).await?;
            b.see(count).await?;
            b.see_no("Save the claim").await?;
        }

        b.press_letter('b').await?;
        b.see("Before the first run").await?;
        b.tick_the_cautions().await?;

        // Set up this load once: rest voltage, measured load, and the rest left as it is.
        b.press_letter('s').await?;
        b.field("Rest voltage").await?;
        b.type_text("14.6").await?;
        b.press(Keys::Enter).await?;
        b.type_text("3,91").await?;
        for _ in 0..6 {
            b.press(Keys::Enter).await?;
        }
        b.see("rest 14.60 V, load 3.91 Ω").await?;

        for (i, line) in RUNS.iter().enumerate() {
            b.until("the entry line has the focus and is empty", async || {
                let state = b.client.execute("return document.activeElement?.id + '|' + document.activeElement?.value", vec![]).await?;
                Ok(state == "entry-line|")
            })
            .await?;
            b.type_text(line).await?;
            b.press(Keys::Enter).await?;
            b.see(&format!("{} of 9 logged", i + 1)).await?;
        }

        // Arrows move around the ladder, R goes back to the last run.
        b.press(Keys::Up).await?;
        b.press(Keys::Left).await?;
        b.heading("2 Ω, clipping").await?;
        b.press_letter('r').await?;
        b.heading("1 Ω, dynamic").await?;

        b.press_letter('v').await?;
        b.see("All three claims hold on clean power once the bench’s sag is allowed for.").await?;
        b.see("3 of 3 claims tested").await?;
        b.see("1 136").await?;

        let again = server.kill_and_restart()?;
        b.goto(&again.url).await?;
        b.see("verdict: pukka").await?;
        b.press(Keys::Enter).await?;
        b.see("Paste a spec table").await?;
        b.press_letter('t').await?;
        b.see("Everything, as a zip").await?;
        b.press_letter('s').await?;
        b.see("Print the sheet").await?;
        let sheet = "return (document.querySelector('iframe').contentDocument?.body?.innerText ?? '').replace(/[\\u202f\\u00a0]/g, ' ')";
        let says = async || Ok::<_, anyhow::Error>(b.client.execute(sheet, vec![]).await?.as_str().unwrap_or_default().to_owned());
        b.until("the sheet is there", async || Ok(says().await?.contains("How it was measured"))).await?;
        let text = says().await?;
        for figure in ["447 W ± 10.3", "14.38 V", "fan on", "All three claims hold"] {
            anyhow::ensure!(text.contains(figure), "“{figure}” is not on the sheet: {text}");
        }
        Ok(())
    })
    .await;
}
