//! The entry line: good, bad and half-typed input, a double Enter, undo, and two tabs on one amplifier.

use fantoccini::Locator;
use pukka_e2e::{Browser, Keys, Server, journey};

async fn at_the_bench(b: &Browser, server: &Server) -> anyhow::Result<()> {
    let id = server.amplifier("Tolland & Pike Mono 1100")?;
    b.goto(&format!("{}/amplifiers/{id}/runs", server.url)).await?;
    b.wait("#entry-line").await?;
    b.see("6 of 9 logged").await
}

async fn clear(b: &Browser) -> anyhow::Result<()> {
    b.client.find(Locator::Css("#entry-line")).await?.click().await?;
    b.press(Keys::Ctrl('a')).await?;
    b.press(Keys::Backspace).await
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_typed_is_understood_or_asked_about_before_it_is_logged() {
    journey(|b| async move {
        let server = Server::demo()?;
        at_the_bench(&b, &server).await?;

        b.type_text("1068 13,96 124.6").await?;
        b.see("1 068 W · 13.96 V supply · 124.6 A").await?;
        for figure in ["97.1", "1 136", "61.4", "0.64", "heat in amplifier"] {
            b.see(figure).await?;
        }
        b.see("Past the fuses.").await?;

        clear(&b).await?;
        b.type_text("1,068 13.96").await?;
        b.see("1 068 W or 1.068 W?").await?;
        b.press(Keys::Enter).await?;
        b.see("6 of 9 logged").await?;
        b.click("1 068 W").await?;
        b.see("1 068 W · 13.96 V supply").await?;
        b.see_no("1.068 W?").await?;

        for (line, why) in [
            ("447x", "“x” is not a unit here"),
            ("447 -5", "A reading cannot be negative."),
            ("0 14", "0 W is not a reading of watts."),
            ("447 99", "99 V is too much for supply volts"),
            ("1 2 3 4", "give this figure a letter"),
            ("84+81", "2 readings for one output."),
        ] {
            clear(&b).await?;
            b.type_text(line).await?;
            b.see(why).await?;
            b.press(Keys::Enter).await?;
            b.until("the bad line is still there", async || {
                Ok(b.client.execute("return document.getElementById('entry-line').value", vec![]).await? == line)
            })
            .await?;
        }

        clear(&b).await?;
        b.type_text("1068 13.").await?;
        b.see("1 068 W").await?;
        b.press(Keys::Enter).await?;
        b.see("Not logged: “13.” is half a figure.").await?;
        b.type_text("96 124.6").await?;
        b.see_no("half a figure").await?;
        b.see("6 of 9 logged").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn figures_of_a_line_follow_what_is_set_meanwhile() {
    journey(|b| async move {
        let server = Server::demo()?;
        at_the_bench(&b, &server).await?;
        b.press_letter('s').await?;
        b.wait("#entry-line").await?.click().await?;
        b.type_text("1068 13.96 124.6").await?;
        b.see("0.64").await?;
        b.fill("Rest voltage", "14.8").await?;
        b.click("Set").await?;
        // Sag from rest: 14.80 − 13.96 V.
        b.see("0.84").await?;
        anyhow::ensure!(b.line().await? == "1068 13.96 124.6");
        // What was known ahead of the line with a digit more is forgotten.
        b.client.execute("document.getElementById('entry-line').focus()", vec![]).await?;
        b.type_text("5").await?;
        b.see("13.96 V supply · 124.65 A").await?;
        b.see("0.84").await?;
        b.see_no("0.64").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_double_enter_logs_once_and_undo_takes_it_back() {
    journey(|b| async move {
        let server = Server::demo()?;
        at_the_bench(&b, &server).await?;
        b.type_text("1068 13.96 124.6").await?;
        // Both presses reach the page before any answer does.
        let twice = "const line = document.getElementById('entry-line');
            for (let i = 0; i < 2; i++) line.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true, cancelable: true }));";
        b.client.execute(twice, vec![]).await?;
        b.see("7 of 9 logged").await?;
        b.heading("1 Ω, clipping").await?;
        b.press(Keys::Up).await?;
        b.press(Keys::Down).await?;
        b.press(Keys::Left).await?;
        b.see("Logged here").await?;
        let rows = b.client.find_all(Locator::Css("section[aria-label='Logged here'] li")).await?;
        anyhow::ensure!(rows.len() == 1, "{} rows for one reading", rows.len());

        b.press_letter('u').await?;
        b.see("Undone: logged 1 Ω, certified.").await?;
        b.see("6 of 9 logged").await?;

        // A repeat is kept beside the first, and can be taken back by itself.
        b.type_text("1060 13.9 124").await?;
        b.press(Keys::Enter).await?;
        b.see("7 of 9 logged").await?;
        b.press(Keys::Left).await?;
        b.type_text("1071 13.9 124").await?;
        b.press(Keys::Enter).await?;
        b.heading("1 Ω, clipping").await?;
        b.press(Keys::Left).await?;
        b.see("best of 2 is used").await?;
        b.click("Withdraw").await?;
        b.see("1 060 W withdrawn").await?;
        b.see_no("best of 2 is used").await?;
        b.press(Keys::Ctrl('z')).await?;
        b.see("best of 2 is used").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_second_tab_meets_a_conflict_and_keeps_what_was_typed() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Quillmoor Four-Ninety")?;
        let edit = format!("{}/amplifiers/{id}/edit", server.url);
        b.goto(&edit).await?;
        b.field("Model").await?;
        let first = b.client.window().await?;
        let second = b.client.new_window(true).await?.handle;
        b.client.switch_to_window(second).await?;
        b.goto(&edit).await?;
        b.fill("Model", "Four-Ninety B").await?;
        b.click("Save the changes").await?;
        b.see("Paste a spec table").await?;
        b.see("Quillmoor Four-Ninety B").await?;

        b.client.switch_to_window(first).await?;
        b.fill("Maximum supply", "15").await?;
        b.click("Save the changes").await?;
        b.see("was changed elsewhere since you opened it").await?;
        b.see("Nothing was saved.").await?;
        let kept = b.field("Maximum supply").await?.prop("value").await?;
        anyhow::ensure!(kept.as_deref() == Some("15"), "what was typed is gone: {kept:?}");
        Ok(())
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_gate_asks_for_a_reason_and_a_deletion_can_be_undone() {
    journey(|b| async move {
        let server = Server::demo()?;
        at_the_bench(&b, &server).await?;
        b.press_letter('l').await?;
        b.fill("Load", "0").await?;
        b.press(Keys::Enter).await?;
        b.see("0 Ω is too little for load").await?;
        b.fill("Load", "0,67").await?;
        b.press(Keys::Enter).await?;
        b.see("0.67 Ω is below the maker’s minimum load.").await?;
        b.click("Open the gate").await?;
        b.see("This cannot be left empty.").await?;
        b.fill("Why run it anyway", "Owner agreed, burst only").await?;
        b.fill("Your name", "M. Tarrow").await?;
        b.fill("Who consented", "R. Oakshott").await?;
        b.fill("Who pays if it dies", "the owner").await?;
        b.press(Keys::Enter).await?;
        b.see("Withdraw the reason").await?;
        b.press_letter('v').await?;
        b.see("Owner agreed, burst only").await?;

        b.press_letter('c').await?;
        b.click("Delete").await?;
        b.see("Undo brings all of it back.").await?;
        b.click("Delete it").await?;
        b.see("On the shelf").await?;
        b.see("Tolland & Pike Mono 1100 deleted.").await?;
        b.press(Keys::Ctrl('z')).await?;
        b.see("Paste a spec table").await?;
        b.see("6 of 12 logged").await
    })
    .await;
}
