//! Every picture of docs/screenshots, from the demo data with its clock stopped.

use pukka_e2e::{Browser, Keys, Server};

use crate::build::root;

/// A picture: its file, the amplifier it shows, the place, and how.
struct Shot {
    file: &'static str,
    amplifier: &'static str,
    place: &'static str,
    dark: bool,
    width: u32,
    act: Act,
}

/// What is done before the picture is taken.
enum Act {
    Nothing,
    Type(&'static str),
    OpenFigure,
    /// A ramp on the stand-in bench, near its top.
    Live,
    /// A stop, accepted with a reason.
    Settled,
    /// The amplifier protected itself.
    Incident,
    Click(&'static [&'static str]),
    Paste,
}

const SPEC_TABLE: &str = "RMS power (14.4 V, 1 % THD+N)
4 Ω: 4 x 90 W
2 Ω: 4 x 140 W
Bridged 4 Ω: 2 x 280 W RMS
MAX POWER 1400 WATTS
Frequency response: 20 Hz - 20 kHz";

const fn shot(file: &'static str, amplifier: &'static str, place: &'static str) -> Shot {
    Shot { file, amplifier, place, dark: false, width: 1280, act: Act::Nothing }
}

const SHOTS: [Shot; 19] = [
    shot("shelf", "", ""),
    shot("claims", "Quillmoor Four-Ninety", "claims"),
    Shot { act: Act::Paste, ..shot("paste", "Quillmoor Four-Ninety", "claims") },
    shot("plan", "Quillmoor Four-Ninety", "plan"),
    Shot { act: Act::Click(&["2 Ω: more of it"]), ..shot("plan-rung", "Tolland & Pike Mono 1100", "plan") },
    Shot { act: Act::Click(&["2 Ω: more of it", "Make the load"]), ..shot("loads", "Tolland & Pike Mono 1100", "plan") },
    shot("bench", "", "benches"),
    Shot { act: Act::Type("1068 13.96 124.6"), ..shot("runs", "Tolland & Pike Mono 1100", "runs") },
    Shot { act: Act::Type("1068 13.96 124.6"), dark: true, ..shot("runs-dark", "Tolland & Pike Mono 1100", "runs") },
    Shot { act: Act::Type("1068 13.96 124.6"), width: 400, ..shot("runs-narrow", "Tolland & Pike Mono 1100", "runs") },
    shot("cautions", "Quillmoor Four-Ninety", "runs"),
    shot("gate", "Copley Strand S500", "runs?rung=mono@1.33@40&mode=certified"),
    shot("verdict", "Hartsedge Two", "verdict"),
    Shot { act: Act::OpenFigure, ..shot("working", "Tolland & Pike Mono 1100", "verdict") },
    shot("sheet", "Hartsedge Two", "sheet"),
    shot("instruments", "", "instruments"),
    Shot { act: Act::Live, ..shot("live", "Tolland & Pike Mono 1100", "runs?rung=mono@2@40&mode=certified") },
    Shot { act: Act::Settled, ..shot("settled", "Tolland & Pike Mono 1100", "runs?rung=mono@4@40&mode=clipping") },
    Shot { act: Act::Incident, ..shot("incident", "Quillmoor Mono 300", "runs") },
];

/// Makes the pictures.
pub fn shots(only: Option<&str>) -> anyhow::Result<()> {
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build()?;
    runtime.block_on(async {
        let server = Server::demo()?;
        let browser = Browser::open(1280, 800).await?;
        let mut made = Ok(());
        for shot in SHOTS.iter().filter(|shot| only.is_none_or(|only| shot.file.contains(only))) {
            made = take(&server, &browser, shot).await;
            if made.is_err() {
                break;
            }
        }
        browser.close().await?;
        made
    })
}

async fn take(server: &Server, browser: &Browser, shot: &Shot) -> anyhow::Result<()> {
    browser.resize(shot.width, if shot.width < 600 { 860 } else { 800 }).await?;
    browser.goto(&server.url).await?;
    let theme = if shot.dark { "dark" } else { "light" };
    browser.client.execute("localStorage.setItem('pukka-theme', arguments[0])", vec![theme.into()]).await?;
    browser.goto(&address(server, shot)?).await?;
    browser.wait("main h1, main h2").await?;
    match shot.act {
        Act::Nothing => {}
        Act::Type(line) => {
            browser.wait("#entry-line").await?;
            browser.type_text(line).await?;
            browser.see("V supply").await?;
        }
        Act::Click(all) => {
            for words in all {
                browser.click(words).await?;
            }
        }
        Act::Paste => {
            browser.click("Paste a spec table").await?;
            browser.wait("[role=dialog] textarea").await?;
            browser.type_text(SPEC_TABLE).await?;
            browser.see("Add 4 claims").await?;
        }
        Act::Live => {
            browser.see("Let Pukka run it").await?;
            browser.press_letter('d').await?;
            let url = format!("{}/api/live", server.url);
            let near_top = async || -> anyhow::Result<bool> {
                let live: serde_json::Value = ureq::get(&url).call()?.body_mut().read_json()?;
                Ok(live["live"]["level_db"].as_f64().is_some_and(|db| db > -2.0))
            };
            browser.until("the ramp is near its top", near_top).await?;
        }
        Act::Settled => {
            browser.wait("#entry-line").await?;
            browser.type_text("470 14.33 31").await?;
            browser.see("More out than in.").await?;
            browser.press(Keys::Enter).await?;
            browser.see("clipping logged.").await?;
            browser.goto(&address(server, shot)?).await?;
            browser.click("Accept it").await?;
            browser.fill("Why", "amps by a shunt on another bench, checked").await?;
            browser.press(Keys::Enter).await?;
            browser.see("Accepted: amps by a shunt").await?;
            browser.client.execute("scrollTo(0, 0)", vec![]).await?;
        }
        Act::Incident => {
            browser.wait("#entry-line").await?;
            browser.press_letter('x').await?;
            browser.fill("What was seen, heard, smelt", "clicked off after 8 s at full level").await?;
            browser.click("Protection 1").await?;
            browser.see("The plan has stopped.").await?;
        }
        Act::OpenFigure => {
            browser.wait("section[aria-label*='Holds'] small button").await?.click().await?;
            browser.wait("[role=dialog]").await?;
        }
    }
    // Fonts, and a frame to paint in.
    browser
        .client
        .execute_async(
            "const done = arguments[0]; document.fonts.ready.then(() => requestAnimationFrame(() => requestAnimationFrame(() => done())))",
            vec![],
        )
        .await?;
    let path = root().join("docs/screenshots").join(format!("{}.png", shot.file));
    std::fs::write(&path, browser.picture().await?)?;
    println!("docs/screenshots/{}.png", shot.file);
    browser.press(Keys::Escape).await
}

fn address(server: &Server, shot: &Shot) -> anyhow::Result<String> {
    if shot.amplifier.is_empty() {
        return Ok(format!("{}/{}", server.url, shot.place));
    }
    let id = server.amplifier(shot.amplifier)?;
    Ok(format!("{}/amplifiers/{id}/{}", server.url, shot.place))
}
