//! Every picture of docs/screenshots, from the demo data with its clock stopped.

use pukka_e2e::{Browser, Keys, Server};

use crate::root;

/// A picture: its file, the amplifier it shows, the place, and how.
struct Shot {
    file: &'static str,
    amplifier: &'static str,
    place: &'static str,
    dark: bool,
    width: u32,
    act: Act,
}

/// Action before the picture is taken.
enum Act {
    Nothing,
    /// Waits for words of a part that comes later.
    See(&'static str),
    Type(&'static str),
    /// A ramp on the stand-in bench, near its top.
    Live,
    /// Amplifiers put side by side.
    Tick(&'static [&'static str]),
    /// A file of four amplifiers: new, changed, already here, refused.
    Import,
}

const fn shot(file: &'static str, amplifier: &'static str, place: &'static str) -> Shot {
    Shot { file, amplifier, place, dark: false, width: 1280, act: Act::Nothing }
}

const SHOTS: [Shot; 19] = [
    Shot { act: Act::See("Price up to"), ..shot("shelf", "", "") },
    shot("claims", "Quillmoor Four-Ninety", "claims"),
    shot("plan", "Quillmoor Four-Ninety", "plan"),
    shot("bench", "", "set-up/benches"),
    Shot { act: Act::Type("1068 13.96 124.6"), ..shot("runs", "Tolland & Pike Mono 1100", "runs") },
    Shot { act: Act::Type("1068 13.96 124.6"), width: 400, ..shot("runs-narrow", "Tolland & Pike Mono 1100", "runs") },
    Shot { act: Act::See("Before the first run"), ..shot("cautions", "Quillmoor Four-Ninety", "runs") },
    shot("gate", "Copley Strand S500", "runs?rung=mono@1.33@40&mode=certified"),
    shot("verdict", "Hartsedge Two", "verdict"),
    Shot { act: Act::Tick(&["Tolland & Pike Mono 1100", "Hartsedge Six-Fifty", "Hartsedge Two"]), ..shot("compare", "", "compare") },
    Shot { dark: true, ..shot("sessions", "Tolland & Pike Mono 700", "sessions") },
    shot("lessons", "", "compare/lessons"),
    shot("sheet", "Hartsedge Two", "sheet"),
    Shot { act: Act::Import, ..shot("import", "", "import") },
    // The last thing to come: what the stretch would be logged as.
    Shot { act: Act::See("a run of its own"), ..shot("trace", "Quillmoor Mono 300", "traces") },
    Shot { act: Act::Live, ..shot("live", "Tolland & Pike Mono 1100", "runs?rung=mono@2@40&mode=certified") },
    shot("publish", "Hartsedge Two", "publish"),
    shot("backups", "", "set-up/backups"),
    shot("record", "Hartsedge Two", "record"),
];

/// Makes the pictures.
pub fn shots(only: Option<&str>) -> anyhow::Result<()> {
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build()?;
    runtime.block_on(async {
        let server = Server::whole_demo()?;
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
    browser.client.execute("localStorage.setItem('pukka-theme', arguments[0]); sessionStorage.clear()", vec![theme.into()]).await?;
    browser.goto(&address(server, shot)?).await?;
    browser.wait("main h1, main h2").await?;
    match shot.act {
        Act::Nothing => {}
        Act::See(words) => browser.see(words).await?,
        Act::Type(line) => {
            browser.wait("#entry-line").await?;
            browser.type_text(line).await?;
            browser.see("V supply").await?;
        }
        Act::Tick(names) => {
            for name in names {
                browser.wait(&format!("[role='checkbox'][aria-label='{name} beside the others']")).await?.click().await?;
            }
            browser.see("outside both ±").await?;
            browser.client.execute("document.querySelectorAll('*').forEach((part) => part.scrollTo(0, 0))", vec![]).await?;
        }
        Act::Import => {
            let path = tempfile::Builder::new().prefix("ferry-lane").suffix(".zip").tempfile()?;
            std::fs::write(path.path(), four(server)?)?;
            browser.wait("input[type=file]").await?.send_keys(&path.path().display().to_string()).await?;
            browser.see("Already here").await?;
        }
        Act::Live => {
            browser.see("Run it").await?;
            browser.press_letter('d').await?;
            let url = format!("{}/api/live", server.url);
            let near_top = async || -> anyhow::Result<bool> {
                let live: serde_json::Value = ureq::get(&url).call()?.body_mut().read_json()?;
                Ok(live["live"]["level_db"].as_f64().is_some_and(|db| db > -2.0))
            };
            browser.until("the ramp is near its top", near_top).await?;
        }
    }
    browser
        .until("pictures are there", async || Ok(browser.value("[...document.images].every((image) => image.complete)").await? == true))
        .await?;
    // Fonts, also those of the sheet in its frame, and a frame to paint in.
    browser.until("frames are there", async || Ok(browser.value("[...document.querySelectorAll('iframe')].every((f) => f.contentDocument?.readyState === 'complete' && f.contentDocument.body.innerText.length > 100)").await? == true)).await?;
    browser
        .client
        .execute_async(
            "const done = arguments[0]; Promise.all([document, ...[...document.querySelectorAll('iframe')].map((f) => f.contentDocument)].map((d) => d.fonts.ready)).then(() => requestAnimationFrame(() => requestAnimationFrame(() => done())))",
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

/// A zip of four amplifiers of the demo, three of them changed.
fn four(server: &Server) -> anyhow::Result<Vec<u8>> {
    let file = |name: &str| -> anyhow::Result<serde_json::Value> {
        Ok(ureq::get(&format!("{}/api/amplifiers/{}/file", server.url, server.amplifier(name)?)).call()?.body_mut().read_json()?)
    };
    let mut changed = file("Quillmoor Mono 300")?;
    let mut run = changed["runs"][0].clone();
    run["id"] = "on-another-bench".into();
    changed["runs"].as_array_mut().into_iter().for_each(|runs| runs.push(run.clone()));
    changed["claims"][0]["power_w"] = 160.0.into();
    let mut new = file("Fennway Slim 75.2")?;
    (new["id"], new["amplifier"]["model"]) = (serde_json::Value::Null, "Slim 75.2 b".into());
    new["amplifier"]["colour"] = "grey".into();
    let mut refused = file("Hartsedge Two")?;
    refused["runs"][2]["load_nominal_ohm"] = 0.into();
    let all = [("a", new), ("b", changed), ("c", file("Brackwater 60.6")?), ("hartsedge-two", refused)];
    let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    for (folder, session) in all {
        zip.start_file(format!("{folder}/session.json"), zip::write::SimpleFileOptions::default())?;
        std::io::Write::write_all(&mut zip, session.to_string().as_bytes())?;
    }
    Ok(zip.finish()?.into_inner())
}
