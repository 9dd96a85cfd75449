//! The bench's places: line, result and the gravest doubt on the first screen in every state, and none of them moves.

use anyhow::Context;
use pukka_e2e::{Browser, Keys, Server, journey};
use serde_json::Value;

const MONO: &str = "Tolland & Pike Mono 1100";
const SIZES: [(u32, u32); 5] = [(1280, 720), (1366, 768), (1920, 1080), (853, 533), (400, 800)];

/// A state of the bench: how it is reached, and where its gravest doubt stands.
#[derive(Debug, Clone, Copy)]
enum State {
    Typed,
    Doubted,
    Gate,
    Stop,
    Steps,
    Live,
    Alarm,
}

impl State {
    const ALL: [Self; 7] = [Self::Typed, Self::Doubted, Self::Gate, Self::Steps, Self::Live, Self::Alarm, Self::Stop];

    async fn reach(self, b: &Browser, server: &Server) -> anyhow::Result<()> {
        let (amplifier, place) = match self {
            Self::Gate => ("Copley Strand S500", "rung=mono%401.33%4040&mode=clipping"),
            Self::Typed | Self::Doubted => (MONO, "rung=mono%401%4040&mode=certified"),
            Self::Live | Self::Alarm => (MONO, "rung=mono%404%4040&mode=certified"),
            Self::Steps => (MONO, "rung=mono%402%4040&mode=certified"),
            Self::Stop => (MONO, "rung=mono%404%4040&mode=dynamic"),
        };
        let id = server.amplifier(amplifier)?;
        b.client.execute("sessionStorage.clear()", vec![]).await?;
        b.goto(&format!("{}/amplifiers/{id}/runs?{place}", server.url)).await?;
        b.see("Before the tone").await?;
        match self {
            Self::Typed => {
                b.type_text("1068 13.96 124.6").await?;
                b.see("Past the fuses.").await
            }
            Self::Doubted => {
                b.type_text("1068 13.96 50").await?;
                b.see("More out than in.").await?;
                b.press(Keys::Enter).await?;
                b.see("Not logged yet").await
            }
            Self::Gate => b.see("Gated: typing is kept").await,
            Self::Steps => {
                b.type_text("-5db 210 14.3 20 0.02%").await?;
                b.see("210 W").await?;
                b.press(Keys::Enter).await?;
                b.see("Level steps so far").await
            }
            Self::Live => {
                b.see("Run it").await?;
                b.press_letter('d').await?;
                if b.text().await?.contains("Start anyway") {
                    b.click("Start anyway").await?;
                }
                b.see("A run is under way: typing is kept").await
            }
            Self::Alarm => {
                b.see("Run it").await?;
                b.press_letter('d').await?;
                b.see("A run is under way: typing is kept").await?;
                server.stand_in(&serde_json::json!({ "fault": "generator,DROP" }))?;
                b.see("Cut the amplifier's supply by hand, now.").await
            }
            Self::Stop => {
                b.press_letter('x').await?;
                b.see("Level to zero and the supply off first.").await?;
                b.choose("Protection").await?;
                b.press(Keys::Enter).await?;
                b.see("The plan has stopped.").await
            }
        }
    }

    async fn leave(self, b: &Browser, server: &Server) -> anyhow::Result<()> {
        match self {
            Self::Live => {
                b.press(Keys::Escape).await?;
                b.see_no("A run is under way: typing is kept").await
            }
            Self::Alarm => {
                server.stand_in(&serde_json::json!({ "clear": true }))?;
                b.see_no("Cut the amplifier's supply by hand, now.").await
            }
            Self::Steps | Self::Stop => {
                b.press_letter('u').await?;
                b.see("Undone:").await
            }
            Self::Typed | Self::Doubted | Self::Gate => Ok(()),
        }
    }
}

/// Parts that are not whole on the first screen, between the top bar and whatever is fixed at the foot.
async fn out_of_sight(b: &Browser) -> anyhow::Result<Vec<String>> {
    let look = "scrollTo(0, 0);
        const top = document.querySelector('header').getBoundingClientRect().bottom;
        const strip = document.querySelector('[aria-live=assertive].fixed');
        const foot = strip ? strip.getBoundingClientRect().top : innerHeight;
        const result = document.querySelector('[aria-label=\"Live run\"]') ?? document.querySelector('[aria-label=Result] > div');
        const asked = document.querySelector('#understood [role=alert]');
        const parts = { line: document.querySelector('[data-line]'), result, doubt: document.querySelector('[data-worst]'), asked };
        return Object.entries(parts).flatMap(([name, at]) => {
            if (!at) return name === 'asked' ? [] : [`${name} is not there`];
            const box = at.getBoundingClientRect();
            return box.top >= top && box.bottom <= foot ? [] : [`${name} is at ${Math.round(box.top)} to ${Math.round(box.bottom)}, between ${Math.round(top)} and ${Math.round(foot)}`];
        });";
    let found = b.client.execute(look, vec![]).await?;
    let found = found.as_array().context("nothing was looked at")?;
    Ok(found.iter().map(|one| one.as_str().unwrap_or_default().to_owned()).collect())
}

#[tokio::test(flavor = "multi_thread")]
async fn line_result_and_the_gravest_doubt_are_on_the_first_screen_in_every_state() {
    journey(|b| async move {
        let server = Server::demo_at_speed(1)?;
        b.goto(&server.url).await?;
        let mut wrong = Vec::new();
        for state in State::ALL {
            b.resize(1280, 720).await?;
            state.reach(&b, &server).await?;
            for (width, height) in SIZES {
                b.resize(width, height).await?;
                let lost = out_of_sight(&b).await?;
                wrong.extend(lost.iter().map(|what| format!("{state:?} at {width} × {height}: {what}")));
            }
            state.leave(&b, &server).await?;
        }
        anyhow::ensure!(wrong.is_empty(), "{wrong:#?}");
        Ok(())
    })
    .await;
}

/// Place where the line stands on the page.
async fn line_at(b: &Browser) -> anyhow::Result<Value> {
    b.value("(({ x, y, width, height }) => [x, y + scrollY, width, height])(document.querySelector('[data-line]').getBoundingClientRect())")
        .await
}

#[tokio::test(flavor = "multi_thread")]
async fn the_line_stays_where_it_is_from_run_to_run_and_nothing_shifts_as_it_is_typed() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier(MONO)?;
        b.goto(&format!("{}/amplifiers/{id}/runs?rung=mono%404%4040&mode=certified", server.url)).await?;
        b.see("Before the tone").await?;
        let first = line_at(&b).await?;
        for (key, there) in [
            (Keys::Right, "4 Ω, clipping"),
            (Keys::Right, "4 Ω, dynamic"),
            (Keys::Down, "2 Ω, dynamic"),
            (Keys::Down, "1 Ω, dynamic"),
            (Keys::Left, "1 Ω, clipping"),
            (Keys::Left, "1 Ω, certified"),
        ] {
            b.press(key).await?;
            b.see(there).await?;
            anyhow::ensure!(line_at(&b).await? == first, "at {there} the line is at {}, and was at {first}", line_at(&b).await?);
        }
        // Shifts by the page itself and in answer to a key count alike.
        let watch = "window.shift = 0; new PerformanceObserver((list) => { for (const e of list.getEntries()) window.shift += e.value; }).observe({ type: 'layout-shift' })";
        b.client.execute(watch, vec![]).await?;
        b.type_steadily("1068 13.96 124.6", 30).await?;
        b.see("Past the fuses.").await?;
        let shifted = b.value("window.shift").await?.as_f64().context("shifts were not watched")?;
        anyhow::ensure!(shifted <= 0.02, "the page shifted by {shifted} while a line was typed");
        anyhow::ensure!(line_at(&b).await? == first, "typing moved the line");
        Ok(())
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn big_figures_stay_on_until_they_are_switched_off() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier(MONO)?;
        let runs = format!("{}/amplifiers/{id}/runs", server.url);
        b.goto(&runs).await?;
        b.see("Before the tone").await?;
        b.press_letter('b').await?;
        b.see_no("Before the tone").await?;
        b.type_text("1068 13.96 124.6").await?;
        b.see("Past the fuses.").await?;
        // Three metres: 45 px of type is 11 mm on a 14-inch screen.
        let sizes = "['main h2', '[role=timer]', '#entry-line', '[aria-label=Result] b', '[data-worst] b']
            .map((at) => parseFloat(getComputedStyle(document.querySelector(at)).fontSize))";
        let sizes = b.value(sizes).await?;
        let large = sizes.as_array().context("no sizes")?.iter().filter_map(Value::as_f64);
        anyhow::ensure!(large.clone().count() == 5 && large.clone().take(4).all(|px| px >= 45.0), "{sizes}");
        b.goto(&runs).await?;
        b.see("usual size").await?;
        b.client.execute("sessionStorage.clear()", vec![]).await?;
        b.goto(&runs).await?;
        b.see("usual size").await?;
        b.press_letter('b').await?;
        b.see("Before the tone").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_run_is_logged_by_touch_alone_and_a_second_tab_shows_it_within_a_second() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier(MONO)?;
        let runs = format!("{}/amplifiers/{id}/runs", server.url);
        let first = b.client.window().await?;
        b.goto(&runs).await?;
        b.see("Before the tone").await?;
        let second = b.client.new_window(true).await?.handle;
        b.client.switch_to_window(second.clone()).await?;
        b.goto(&runs).await?;
        b.see("6 of 9 logged").await?;
        b.client.switch_to_window(first.clone()).await?;
        b.resize(400, 800).await?;
        let low = "[...document.querySelectorAll('[aria-label=\"This run\"] > *')].filter((at) => at.offsetParent).every((at) => at.getBoundingClientRect().height >= 44)";
        anyhow::ensure!(b.value(low).await? == true, "a target is lower than a finger");
        b.client.find(fantoccini::Locator::Css("#entry-line")).await?.send_keys("1068 13.96 124.6").await?;
        b.click("Log it").await?;
        b.see("1 Ω, clipping").await?;
        b.client.switch_to_window(second).await?;
        b.see("7 of 9 logged").await?;
        b.client.switch_to_window(first).await?;
        b.wait("[data-undo^=logged]").await?.click().await?;
        b.see("Undone: logged 1 Ω, certified.").await?;
        b.click("Next").await?;
        b.see("1 Ω, certified").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn while_the_program_is_away_what_is_shown_is_called_old_and_all_logged_leads_to_the_verdict() {
    journey(|b| async move {
        let mut server = Server::demo()?;
        let done = server.amplifier("Hartsedge Two")?;
        b.goto(&format!("{}/amplifiers/{done}/runs", server.url)).await?;
        b.see("See the verdict").await?;
        b.press_letter('v').await?;
        b.see("It does what the box says.").await?;
        let title = b.value("document.title").await?;
        anyhow::ensure!(title == "Hartsedge Two – Verdict · Pukka", "{title}");
        let id = server.amplifier(MONO)?;
        b.goto(&format!("{}/amplifiers/{id}/runs", server.url)).await?;
        b.see("Before the tone").await?;
        b.type_text("1068 13.96 124.6").await?;
        b.see("Past the fuses.").await?;
        b.wait("[data-link=on]").await?;
        server.kill()?;
        b.wait("[data-link=off]").await?;
        b.see("not up to date").await?;
        anyhow::ensure!(b.line().await? == "1068 13.96 124.6");
        server.start_again()?;
        b.wait("[data-link=on]").await?;
        b.see_no("not up to date").await
    })
    .await;
}
