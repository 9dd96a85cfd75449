//! Nothing typed is lost, and nothing starts by mistake: fast keys, a slow line, a page that is late, keys pressed by a slip.

use fantoccini::Locator;
use pukka_e2e::{Browser, Fault, Keys, Proxy, Server, journey};
use serde_json::Value;

const MONO: &str = "Tolland & Pike Mono 1100";

fn ladder(server: &Server, name: &str) -> anyhow::Result<Value> {
    let id = server.amplifier(name)?;
    let session = server.get(&format!("/api/amplifiers/{id}"))?["session_id"].as_str().unwrap().to_owned();
    server.get(&format!("/api/sessions/{session}/ladder"))
}

/// Lines logged at a rung, by mode.
fn lines(server: &Server, name: &str, rung: &str) -> anyhow::Result<Vec<Vec<String>>> {
    let ladder = ladder(server, name)?;
    let rung = ladder["ladder"]["rungs"].as_array().unwrap().iter().find(|candidate| candidate["key"] == rung).unwrap().clone();
    let of = |cell: &Value| cell["runs"].as_array().unwrap().iter().map(|run| run["line"].as_str().unwrap().to_owned()).collect();
    Ok(rung["cells"].as_array().unwrap().iter().map(of).collect())
}

async fn at_the_bench(b: &Browser, url: &str, server: &Server, place: &str) -> anyhow::Result<()> {
    let id = server.amplifier(MONO)?;
    b.goto(&format!("{url}/amplifiers/{id}/runs{place}")).await?;
    b.wait("#entry-line").await?;
    b.see("6 of 9 logged").await
}

async fn line_is(b: &Browser, wanted: &str) -> anyhow::Result<()> {
    b.until(&format!("the line holds “{wanted}”"), async || Ok(b.line().await? == wanted)).await
}

#[tokio::test(flavor = "multi_thread")]
async fn readings_typed_one_behind_the_other_are_each_logged_at_their_own_run() {
    journey(|b| async move {
        for latency in [0, 150, 400] {
            let server = Server::demo()?;
            at_the_bench(&b, &server.url, &server, "").await?;
            b.latency(latency).await?;
            b.type_steadily("1068 13.96 124.6⏎1124 13.88 134.2⏎1279 14.22⏎rear was hot", 20).await?;
            b.see("9 of 9 logged").await?;
            b.latency(0).await?;
            let cells = lines(&server, MONO, "mono@1@40")?;
            let wanted = [["1068w 13.96v 124.6a"], ["1124w 13.88v 134.2a"], ["1279w 14.22v"]];
            anyhow::ensure!(cells == wanted, "{latency} ms: {cells:?}");
            // What was typed behind them acted as no command, and is there.
            line_is(&b, "rear was hot").await?;
            anyhow::ensure!(b.value("location.pathname").await?.as_str().unwrap().ends_with("/runs"));
        }
        Ok(())
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_typed_before_the_page_is_there_goes_into_the_line() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier(MONO)?;
        b.latency(500).await?;
        b.goto(&format!("{}/amplifiers/{id}/runs", server.url)).await?;
        anyhow::ensure!(b.value("document.getElementById('entry-line') === null").await? == true, "the page was not late");
        b.type_steadily("vcu 1068 13.96 124.6⏎1124", 5).await?;
        b.wait("#entry-line").await?;
        line_is(&b, "vcu 1068 13.96 124.6").await?;
        b.see("Typed before the page was ready").await?;
        b.see("1124").await?;
        b.latency(0).await?;
        b.see("6 of 9 logged").await?;
        // Kept over a reload, and over leaving the page.
        b.goto(&format!("{}/amplifiers/{id}/claims", server.url)).await?;
        b.see("Paste a spec table").await?;
        b.goto(&format!("{}/amplifiers/{id}/runs", server.url)).await?;
        b.wait("#entry-line").await?;
        line_is(&b, "vcu 1068 13.96 124.6").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn figures_typed_beside_the_line_go_into_it_and_are_no_commands() {
    journey(|b| async move {
        let server = Server::demo()?;
        at_the_bench(&b, &server.url, &server, "").await?;
        b.client.execute("document.activeElement.blur()", vec![]).await?;
        b.type_steadily("47r", 20).await?;
        line_is(&b, "47r").await?;
        b.heading("1 Ω, certified").await?;
        for _ in 0..3 {
            b.press(Keys::Backspace).await?;
        }
        line_is(&b, "").await?;
        // A level begins with a minus; undo is U alone, in capitals too.
        b.type_steadily("-5db 210", 20).await?;
        line_is(&b, "-5db 210").await?;
        b.see("6 of 9 logged").await?;
        b.press(Keys::Ctrl('a')).await?;
        b.press(Keys::Backspace).await?;

        // A dialog that closes gives the focus back, whatever it was opened by.
        b.click("Add a load").await?;
        b.wait("[role=dialog]").await?;
        b.press(Keys::Escape).await?;
        b.type_steadily("1068", 20).await?;
        line_is(&b, "1068").await?;
        b.heading("1 Ω, certified").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn at_a_gate_figures_are_kept_and_logged_nowhere() {
    journey(|b| async move {
        let server = Server::demo()?;
        at_the_bench(&b, &server.url, &server, "").await?;
        b.press_letter('l').await?;
        b.fill("Load", "0.67").await?;
        b.press(Keys::Enter).await?;
        b.see("0.67 Ω is below the maker’s minimum load.").await?;
        b.type_steadily("1380 12.9 170⏎", 20).await?;
        line_is(&b, "1380 12.9 170").await?;
        b.see("Gated: typing is kept").await?;
        b.see("6 of 12 logged").await?;
        b.heading("0.67 Ω, certified").await?;
        b.click("Already run: log it without a reason").await?;
        b.see("Ungated.").await?;
        line_is(&b, "1380 12.9 170").await
    })
    .await;
}

/// Waits until the bench's Undo is called so: by what it would take back.
async fn undo_is(b: &Browser, says: &str) -> anyhow::Result<()> {
    let called = "document.querySelector('[data-undo]')?.dataset.undo";
    b.until(&format!("the bench says “{says}”"), async || {
        Ok(b.value(called).await?.as_str().is_some_and(|label| label.replace('\u{202f}', " ") == says))
    })
    .await
}

#[tokio::test(flavor = "multi_thread")]
async fn undo_says_what_it_takes_back_leaves_claims_alone_and_can_be_done_again() {
    journey(|b| async move {
        let server = Server::demo()?;
        at_the_bench(&b, &server.url, &server, "").await?;
        b.type_steadily("1068 13.96 124.6⏎", 20).await?;
        b.see("40 Hz · mono, 1 Ω, certified logged.").await?;
        undo_is(&b, "logged 1 Ω, certified").await?;
        let id = server.amplifier(MONO)?;
        b.goto(&format!("{}/amplifiers/{id}/claims", server.url)).await?;
        b.see("Paste a spec table").await?;
        b.press_letter('N').await?;
        b.fill("Load", "8").await?;
        b.fill("Watts", "230").await?;
        b.press(Keys::Enter).await?;
        b.see_no("Save the claim").await?;
        b.press_letter('B').await?;
        b.see("7 of 12 logged").await?;
        undo_is(&b, "logged 1 Ω, certified").await?;
        b.press_letter('U').await?;
        b.see("Undone: logged 1 Ω, certified.").await?;
        undo_is(&b, "").await?;
        b.press_letter('u').await?;
        b.see("There is nothing to undo in this tab.").await?;
        b.see("6 of 12 logged").await?;
        b.press(Keys::Ctrl('y')).await?;
        b.see("Redone: logged 1 Ω, certified.").await?;
        b.see("7 of 12 logged").await?;
        // The list says what comes next, and takes it back.
        b.press_letter('z').await?;
        b.see("Undo next").await?;
        b.wait("[role=dialog] li button").await?.click().await?;
        b.see("6 of 12 logged").await?;
        b.see("Redo next").await?;
        let claims = server.get(&format!("/api/amplifiers/{id}"))?["claims"].as_array().unwrap().len();
        anyhow::ensure!(claims == 4, "{claims} claims");
        Ok(())
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_digit_logs_no_incident_and_a_double_enter_skips_no_run() {
    journey(|b| async move {
        let server = Server::demo()?;
        at_the_bench(&b, &server.url, &server, "").await?;
        b.press_letter('x').await?;
        b.see("Level to zero and the supply off first.").await?;
        b.type_steadily("1234", 20).await?;
        b.press(Keys::Enter).await?;
        b.see("Choose what happened").await?;
        b.press(Keys::Escape).await?;
        b.see_no("Level to zero").await?;
        anyhow::ensure!(
            server.get("/api/incidents")?.as_array().is_none_or(|list| list.iter().all(|one| one["place"] != "1 Ω, certified"))
        );

        b.type_steadily("1068 13.96 124.6⏎⏎", 20).await?;
        b.see("7 of 9 logged").await?;
        b.heading("1 Ω, clipping").await?;
        b.press_again(Keys::Enter).await?;
        b.see("nothing typed").await?;
        b.heading("1 Ω, clipping").await?;
        b.press_letter('+').await?;
        b.heading("1 Ω, dynamic").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_doubted_reading_wants_a_second_enter_and_is_not_hidden() {
    journey(|b| async move {
        let server = Server::demo()?;
        at_the_bench(&b, &server.url, &server, "").await?;
        // Twice at once is one press; so is a key that is held.
        b.type_steadily("1068 13.96 50⏎⏎", 20).await?;
        b.see("Not logged yet: 40 Hz · mono, 1 Ω, certified.").await?;
        b.see("More out than in.").await?;
        b.see("6 of 9 logged").await?;
        line_is(&b, "1068 13.96 50").await?;
        let held = "document.getElementById('entry-line').dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', repeat: true, bubbles: true, cancelable: true }))";
        tokio::time::sleep(std::time::Duration::from_millis(450)).await;
        b.client.execute(held, vec![]).await?;
        for height in [800, 720] {
            b.resize(1280, height).await?;
            b.until("the doubt is in sight", async || b.in_sight("#understood [role=alert]").await).await?;
        }
        b.resize(1280, 800).await?;
        b.see("6 of 9 logged").await?;
        // Another figure is another reading: it is asked again.
        b.press(Keys::Backspace).await?;
        b.press(Keys::Enter).await?;
        line_is(&b, "1068 13.96 5").await?;
        b.see("Not logged yet").await?;
        b.press_again(Keys::Enter).await?;
        b.see("7 of 9 logged").await?;
        b.press(Keys::Left).await?;
        b.until("the stop of what was logged is in sight", async || b.in_sight("[data-check]").await).await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn enter_on_a_link_or_a_button_does_what_that_says() {
    journey(|b| async move {
        let server = Server::demo()?;
        b.goto(&server.url).await?;
        b.see("On the shelf").await?;
        let focus =
            |words: &str| format!("[...document.querySelectorAll('a, button')].find((at) => at.textContent.trim() === '{words}').focus()");
        b.client.execute(&focus("Import"), vec![]).await?;
        b.press(Keys::Enter).await?;
        b.see("Drop a session file here").await?;
        let id = server.amplifier(MONO)?;
        b.goto(&format!("{}/amplifiers/{id}/plan", server.url)).await?;
        b.see("What each load will ask").await?;
        b.client.execute("document.querySelector('nav[aria-label=Stations] a[href$=claims]').focus()", vec![]).await?;
        b.press(Keys::Enter).await?;
        b.see("Paste a spec table").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_became_of_a_reading_is_found_out_when_its_answer_is_lost() {
    journey(|b| async move {
        let server = Server::demo()?;
        let proxy = Proxy::before(&server.url)?;
        at_the_bench(&b, &proxy.url, &server, "").await?;
        // Done, and the answer lost.
        proxy.goes_wrong("POST /api/sessions/", Fault::LostAnswer);
        b.type_steadily("1068 13.96 124.6⏎", 20).await?;
        b.see("7 of 9 logged").await?;
        b.heading("1 Ω, clipping").await?;
        line_is(&b, "").await?;
        // Never done: it is there again, and says so.
        proxy.goes_right();
        proxy.goes_wrong("/runs HTTP", Fault::LostRequest);
        b.type_steadily("1124 13.88 134.2⏎", 20).await?;
        b.see("The connection broke before it was logged; nothing was saved.").await?;
        line_is(&b, "1124 13.88 134.2").await?;
        // Nobody knows yet: it says that, survives a reload, and finds out.
        proxy.goes_right();
        proxy.goes_wrong("/runs HTTP", Fault::LostAnswer);
        proxy.goes_wrong("/api/writes/", Fault::LostRequest);
        b.press(Keys::Enter).await?;
        b.see("is not known yet").await?;
        b.type_steadily("1279", 20).await?;
        proxy.goes_right();
        proxy.goes_wrong("/api/writes/", Fault::LostRequest);
        b.client.refresh().await?;
        b.see("is not known yet").await?;
        proxy.goes_right();
        b.see("8 of 9 logged").await?;
        b.heading("1 Ω, dynamic").await?;
        line_is(&b, "1279").await?;
        let cells = lines(&server, MONO, "mono@1@40")?;
        anyhow::ensure!(cells[..2] == [["1068w 13.96v 124.6a"], ["1124w 13.88v 134.2a"]], "{cells:?}");
        Ok(())
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_refused_line_does_not_push_out_what_is_typed_by_then() {
    journey(|b| async move {
        let server = Server::demo()?;
        at_the_bench(&b, &server.url, &server, "").await?;
        b.latency(400).await?;
        b.type_steadily("1068 13.96 12x⏎1124 13.88 134.2⏎12", 20).await?;
        b.see("Not logged at 40 Hz · mono, 1 Ω, certified:").await?;
        b.see("is not a unit here").await?;
        line_is(&b, "12").await?;
        b.see("6 of 9 logged").await?;
        b.latency(0).await?;
        b.click("Back into the line").await?;
        line_is(&b, "1068 13.96 12x").await?;
        b.press(Keys::Backspace).await?;
        b.type_steadily("4.6⏎", 20).await?;
        b.see("7 of 9 logged").await?;
        line_is(&b, "12").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_page_that_breaks_is_one_of_ours_with_its_places() {
    journey(|b| async move {
        let server = Server::demo()?;
        let proxy = Proxy::before(&server.url)?;
        proxy.goes_wrong("/ladder HTTP", Fault::Nonsense);
        let id = server.amplifier(MONO)?;
        b.goto(&format!("{}/amplifiers/{id}/runs", proxy.url)).await?;
        b.see("This page broke.").await?;
        b.client.find(Locator::Css("nav[aria-label=Places] a[href='/']")).await?.click().await?;
        b.see("On the shelf").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_bench_stays_while_the_program_is_away_and_what_was_typed_with_it() {
    journey(|b| async move {
        let server = Server::demo()?;
        let proxy = Proxy::before(&server.url)?;
        at_the_bench(&b, &proxy.url, &server, "").await?;
        proxy.goes_wrong("/runs HTTP", Fault::LostAnswer);
        proxy.goes_wrong("/api/", Fault::LostRequest);
        b.type_steadily("1068 13.96 124.6⏎", 20).await?;
        b.see("is not known yet").await?;
        // What is shown is asked for again, in vain, and stays.
        b.client.execute("dispatchEvent(new Event('visibilitychange')); dispatchEvent(new Event('focus'))", vec![]).await?;
        b.type_steadily("1124 13.88", 300).await?;
        line_is(&b, "1124 13.88").await?;
        anyhow::ensure!(!b.text().await?.contains("This could not be shown"), "the bench is gone");
        proxy.goes_right();
        b.see("7 of 9 logged").await?;
        b.heading("1 Ω, clipping").await?;
        line_is(&b, "1124 13.88").await
    })
    .await;
}
