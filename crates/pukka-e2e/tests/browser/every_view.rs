//! Every view, light and dark, wide and narrow: nothing inaccessible, nothing from elsewhere, no error in the console,
//! nothing that runs off the side.

use std::path::Path;

use anyhow::Context;
use pukka_e2e::{Browser, Keys, Server, journey};
use serde_json::Value;

/// Part that is opened on a view before it is looked at.
enum Open {
    Nothing,
    Key(char),
    Click(&'static str),
    Line(&'static str),
}

/// Amplifier, place under it, what is opened, and what says that it is there.
const VIEWS: [(&str, &str, Open, &str); 44] = [
    ("", "/", Open::Nothing, "On the shelf"),
    ("", "/", Open::Key('?'), "undo the last act of this tab"),
    ("", "/", Open::Key('z'), "Undo next"),
    ("", "/amplifiers/new", Open::Nothing, "Put it on the shelf"),
    ("", "/nowhere/at/all", Open::Nothing, "There is nothing at this address."),
    ("Quillmoor Four-Ninety", "claims", Open::Nothing, "Paste a spec table"),
    ("Quillmoor Four-Ninety", "claims", Open::Key('n'), "Save the claim"),
    ("Quillmoor Four-Ninety", "claims", Open::Key('i'), "Text from the manual, the box or the page"),
    ("Fennway Slim 75.2", "claims", Open::Nothing, "No claim entered yet."),
    ("Fennway Slim 75.2", "runs", Open::Nothing, "No load yet."),
    ("Tolland & Pike Mono 1100", "edit", Open::Nothing, "Condition"),
    ("Quillmoor Four-Ninety", "plan", Open::Nothing, "of the fuses"),
    ("Fennway Slim 75.2", "plan", Open::Nothing, "Nothing to plan yet."),
    ("Tolland & Pike Mono 1100", "plan", Open::Click("2 Ω: more of it"), "Volts to set for the claim"),
    ("Tolland & Pike Mono 1100", "plan", Open::Key('s'), "Gain, in three steps"),
    ("", "/set-up/benches", Open::Nothing, "Which loads they make"),
    ("", "/set-up/instruments", Open::Nothing, "The stand-in bench"),
    ("", "/set-up/backups", Open::Nothing, "Download a backup"),
    ("Hartsedge Two", "publish", Open::Nothing, "Everything, as a zip"),
    ("Tolland & Pike Mono 1100", "record", Open::Click("Add capacitors"), "looks fake"),
    ("Tolland & Pike Mono 1100", "record?part=tour", Open::Nothing, "Its own data port"),
    ("Quillmoor Four-Ninety", "record?part=guesses", Open::Nothing, "Seal them"),
    ("", "/compare", Open::Nothing, "one price a watt"),
    ("", "/compare/lessons", Open::Nothing, "The same under other names"),
    ("Tolland & Pike Mono 700", "sessions", Open::Nothing, "What changed, at"),
    ("Tolland & Pike Mono 700", "sessions", Open::Click("Retest"), "Why it is tested again"),
    ("Tolland & Pike Mono 1100", "record?part=tags", Open::Nothing, "Put away"),
    ("", "/compare", Open::Click("Currencies"), "Prices are brought to"),
    ("Copley Strand S500", "record?part=died", Open::Click("Add a part"), "Fault"),
    ("Quillmoor Mono 300", "traces", Open::Nothing, "Distortion against watts"),
    ("Quillmoor Mono 300", "traces", Open::Key('s'), "Channels and scales"),
    ("Hartsedge Two", "traces", Open::Nothing, "No recording yet."),
    ("", "/incidents", Open::Nothing, "It died at 1.33"),
    ("Tolland & Pike Mono 1100", "runs", Open::Key('x'), "Level to zero and the supply off first."),
    ("Tolland & Pike Mono 1100", "runs?rung=mono%404%4040&mode=certified", Open::Key('h'), "History of a run"),
    ("Quillmoor Four-Ninety", "runs", Open::Nothing, "Before the first run"),
    ("Tolland & Pike Mono 1100", "runs", Open::Line("1068 13.96 x 124.6"), "is not a figure"),
    ("Tolland & Pike Mono 1100", "runs", Open::Line("1068 13.96 50\u{e007}"), "Not logged yet"),
    ("Tolland & Pike Mono 1100", "runs", Open::Key('s'), "Rest voltage"),
    ("Tolland & Pike Duo 200", "verdict", Open::Nothing, "Only when clipping"),
    ("Fennway Slim 40.4", "verdict", Open::Nothing, "Bench-limited"),
    ("Copley Strand Duo 150", "verdict", Open::Nothing, "readings were left out in turn"),
    ("", "/import", Open::Nothing, "Nothing is done before you have seen what it would do."),
    ("Brackwater 60.6", "sheet", Open::Nothing, "The sheet is one file that opens anywhere"),
];

async fn open(b: &Browser, server: &Server, shelf: &Value, view: &(&str, &str, Open, &str)) -> anyhow::Result<()> {
    let (amplifier, place, open, there) = view;
    let found = shelf["amplifiers"].as_array().and_then(|all| all.iter().find(|item| item["summary"]["name"] == **amplifier));
    let address = match found.and_then(|item| item["id"].as_str()) {
        Some(id) => format!("{}/amplifiers/{id}/{place}", server.url),
        None => format!("{}{place}", server.url),
    };
    b.goto(&address).await?;
    b.wait("main").await?;
    match open {
        Open::Nothing => {}
        Open::Key(letter) => {
            b.until("the page listens", async || Ok(!b.text().await?.contains("Reading the records"))).await?;
            b.press_letter(*letter).await?;
        }
        Open::Click(words) => {
            b.client.execute("window.print = () => {}", vec![]).await?;
            b.click(words).await?;
        }
        Open::Line(line) => {
            b.wait("#entry-line").await?;
            b.type_text(line).await?;
        }
    }
    b.see(there).await.with_context(|| format!("{amplifier} {place}"))
}

/// Problems with the page as it stands.
async fn look(b: &Browser, axe: &str, what: &str) -> anyhow::Result<Vec<String>> {
    b.client.execute(axe, vec![]).await?;
    let run = "const done = arguments[0]; axe.run(document).then((r) => done(r.violations.map((v) => v.id + ': ' + v.nodes.map((n) => n.html + ' ' + (n.any[0]?.message ?? '')).slice(0, 3).join(' | '))))";
    let found = b.client.execute_async(run, vec![]).await?;
    let listed = found.as_array().context("axe gave no list")?;
    let mut wrong: Vec<String> = listed.iter().map(|violation| format!("{what}: {violation}")).collect();
    let beyond = b.client.execute("return document.documentElement.scrollWidth - document.documentElement.clientWidth", vec![]).await?;
    if beyond != 0 {
        wrong.push(format!("{what}: {beyond} pixels run off the side"));
    }
    Ok(wrong)
}

/// A run that Pukka drives: as it goes on, stopped by hand, and with its generator lost.
async fn live_views(b: &Browser, server: &Server, axe: &str, what: &str) -> anyhow::Result<Vec<String>> {
    let id = server.amplifier("Tolland & Pike Mono 1100")?;
    let mut wrong = Vec::new();
    b.client.execute("sessionStorage.clear()", vec![]).await?;
    for (fault, there) in [(None, "Stopped by hand."), (Some("generator,DROP"), "Cut the amplifier's supply by hand, now.")] {
        b.goto(&format!("{}/amplifiers/{id}/runs?rung=mono%404%4040&mode=certified", server.url)).await?;
        b.see("Run it").await?;
        b.press_letter('d').await?;
        // What the page shows may still be the run before.
        b.until("a run is under way", async || {
            let live = &server.get("/api/live")?["live"];
            Ok(live.is_object() && live["ended"].is_null())
        })
        .await?;
        b.see("Distortion, %, against watts").await?;
        wrong.extend(look(b, axe, &format!("live {what}")).await?);
        match fault {
            None => b.press(Keys::Escape).await?,
            Some(fault) => {
                server.stand_in(&serde_json::json!({ "fault": fault }))?;
            }
        }
        b.see(there).await?;
        wrong.extend(look(b, axe, &format!("live, {there} {what}")).await?);
    }
    Ok(wrong)
}

fn axe_script() -> anyhow::Result<String> {
    let axe = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web/node_modules/axe-core/axe.min.js");
    std::fs::read_to_string(axe).context("axe-core is not installed: run cargo xtask test")
}

async fn every_view(b: &Browser, theme: &str, width: u32) -> anyhow::Result<()> {
    let axe = axe_script()?;
    let server = Server::whole_demo()?;
    let shelf: Value = ureq::get(&format!("{}/api/amplifiers", server.url)).call()?.body_mut().read_json()?;
    b.resize(width, 800).await?;
    b.goto(&server.url).await?;
    b.client.execute("localStorage.setItem('pukka-theme', arguments[0])", vec![theme.into()]).await?;
    b.logs().await?;
    let mut wrong = Vec::new();
    for view in &VIEWS {
        // What was half typed in the view before is kept, and would be in the way.
        b.client.execute("sessionStorage.clear()", vec![]).await?;
        open(b, &server, &shelf, view).await?;
        wrong.extend(look(b, &axe, &format!("{} {} in {theme} at {width}", view.0, view.1)).await?);
        b.press(Keys::Escape).await?;
    }
    wrong.extend(live_views(b, &server, &axe, &format!("in {theme} at {width}")).await?);
    anyhow::ensure!(wrong.is_empty(), "{wrong:#?}");
    let (mut errors, requests) = b.logs().await?;
    // The browser calls it an error when the program asks back.
    errors.retain(|error| !error.contains("/runs - Failed to load resource: the server responded with a status of 409"));
    anyhow::ensure!(errors.is_empty(), "the console has errors: {errors:#?}");
    anyhow::ensure!(requests.len() > VIEWS.len(), "the log of requests holds only {}", requests.len());
    let elsewhere: Vec<_> = requests.iter().filter(|url| !url.starts_with(&server.url) && !url.starts_with("data:")).collect();
    anyhow::ensure!(elsewhere.is_empty(), "requests to another host: {elsewhere:#?}");
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn in_light_at_1280() {
    journey(|b| async move { every_view(&b, "light", 1280).await }).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn in_dark_at_1920() {
    journey(|b| async move { every_view(&b, "dark", 1920).await }).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn in_light_at_400() {
    journey(|b| async move { every_view(&b, "light", 400).await }).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_planted_fault_is_found() {
    journey(|b| async move {
        let server = Server::demo()?;
        b.goto(&server.url).await?;
        b.see("On the shelf").await?;
        let axe = axe_script()?;
        anyhow::ensure!(look(&b, &axe, "as it is").await?.is_empty());
        let plant = "document.querySelector('main').insertAdjacentHTML('beforeend', '<img src=\"/none.png\"><p style=\"color: #ccc; background: #fff\">pale</p><div style=\"width: 3000px\">wide</div>')";
        b.client.execute(plant, vec![]).await?;
        let wrong = look(&b, &axe, "planted").await?.join("\n");
        for fault in ["image-alt", "color-contrast", "run off the side"] {
            anyhow::ensure!(wrong.contains(fault), "{fault} was not found: {wrong}");
        }
        Ok(())
    })
    .await;
}
