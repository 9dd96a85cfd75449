//! Out and in again: session files, the whole shelf, the sheet on paper; a verdict settled and opened again; a figure's working.

use std::path::{Path, PathBuf};
use std::process::Command;

use anyhow::Context as _;
use base64::Engine as _;
use pukka_e2e::{Browser, Keys, Server, journey};
use serde_json::{Value, json};

fn json_at(server: &Server, path: &str) -> anyhow::Result<Value> {
    Ok(ureq::get(&format!("{}{path}", server.url)).call()?.body_mut().read_json()?)
}

fn bytes_at(address: &str) -> anyhow::Result<Vec<u8>> {
    Ok(ureq::get(address).call()?.body_mut().with_config().limit(256_000_000).read_to_vec()?)
}

/// The verdict of an amplifier, without what is made again without endy data folder: ids.
fn verdict_of(server: &Server, name: &str) -> anyhow::Result<Value> {
    let id = server.amplifier(name)?;
    let session = json_at(server, &format!("/api/amplifiers/{id}"))?["session_id"].as_str().context("no session")?.to_owned();
    let mut view = json_at(server, &format!("/api/sessions/{session}/verdict"))?["view"].take();
    for row in view["rows"].as_array_mut().into_iter().flatten() {
        row["claim_id"].take();
    }
    for check in view["checks"].as_array_mut().into_iter().flatten() {
        check["runs"].take();
    }
    Ok(view)
}

/// The address of a link on the page, by its words.
async fn address(b: &Browser, words: &str) -> anyhow::Result<String> {
    let find = "return [...document.querySelectorAll('a')].find((a) => a.textContent.trim() === arguments[0])?.href ?? null";
    let found = b.client.execute(find, vec![words.into()]).await?;
    found.as_str().map(str::to_owned).with_context(|| format!("there is no link “{words}”"))
}

fn kept(folder: &Path, name: &str, bytes: &[u8]) -> anyhow::Result<PathBuf> {
    let path = folder.join(name);
    std::fs::write(&path, bytes)?;
    Ok(path)
}

async fn choose(b: &Browser, path: &Path) -> anyhow::Result<()> {
    b.wait("input[aria-label='File to import']").await?.send_keys(&path.display().to_string()).await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn exported_wiped_and_imported_the_verdict_is_the_same() {
    journey(|b| async move {
        let (full, files) = (Server::demo()?, tempfile::tempdir()?);
        let name = "Tolland & Pike Duo 200";
        b.goto(&format!("{}/amplifiers/{}/sheet", full.url, full.amplifier(name)?)).await?;
        b.see("Print the sheet").await?;
        let session = bytes_at(&address(&b, "Session file for sharing").await?)?;
        b.goto(&full.url).await?;
        b.see("On the shelf").await?;
        let shelf = bytes_at(&address(&b, "Export all").await?)?;

        let empty = Server::serve()?;
        b.goto(&empty.url).await?;
        b.see("Nothing on the shelf yet.").await?;
        b.press_letter('i').await?;
        b.see("Nothing is done before you have seen what it would do.").await?;
        choose(&b, &kept(files.path(), "one.json", &session)?).await?;
        b.see("\nNew\n").await?;
        b.see("2 claims").await?;
        anyhow::ensure!(empty.amplifier(name).is_err(), "nothing is done yet");
        b.click("Import").await?;
        b.see("gets there only by clipping").await?;
        anyhow::ensure!(verdict_of(&empty, name)? == verdict_of(&full, name)?, "the same readings, the same verdict");
        let again = bytes_at(&format!("{}/api/amplifiers/{}/file", empty.url, empty.amplifier(name)?))?;
        anyhow::ensure!(again == session, "exported again it is the same file to the last digit");

        // The whole shelf: the one that is here stays as it is.
        b.goto(&format!("{}/import", empty.url)).await?;
        b.see("Drop a session file here").await?;
        choose(&b, &kept(files.path(), "shelf.zip", &shelf)?).await?;
        b.see("11 new, 1 already here").await?;
        b.click("Import 11").await?;
        b.see("11 amplifiers were imported.").await?;
        for row in json_at(&full, "/api/amplifiers")?["amplifiers"].as_array().context("no shelf")? {
            let name = row["summary"]["name"].as_str().context("no name")?;
            anyhow::ensure!(verdict_of(&empty, name)? == verdict_of(&full, name)?, "{name}");
        }
        // The page goes on before everything is asked again.
        b.press(Keys::Ctrl('z')).await?;
        b.until("one undo takes all ten back", async || {
            Ok(json_at(&empty, "/api/amplifiers")?["amplifiers"].as_array().is_some_and(|list| list.len() == 1))
        })
        .await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_cannot_be_taken_is_named_with_its_place_and_nothing_is_done() {
    journey(|b| async move {
        let (server, files) = (Server::serve()?, tempfile::tempdir()?);
        b.goto(&format!("{}/import", server.url)).await?;
        b.see("Drop a session file here").await?;
        let demo = Server::demo()?;
        let mut session = json_at(&demo, &format!("/api/amplifiers/{}/file", demo.amplifier("Hartsedge Two")?))?;
        session["claims"][1]["load_ohm"] = json!(0);
        choose(&b, &kept(files.path(), "bad.json", session.to_string().as_bytes())?).await?;
        b.see("claims[1].load_ohm").await?;
        b.see("0 Ω is too little for load").await?;
        b.see("Nothing to import").await?;
        choose(&b, &kept(files.path(), "notes.txt", b"447 14.38 41.2")?).await?;
        b.see("This is neither a session file nor a zip of a shelf.").await?;
        session["claims"][1]["load_ohm"] = json!(2);
        session["runs"][0]["note"] = json!("=1+1");
        session["amplifier"]["colour"] = json!("grey");
        choose(&b, &kept(files.path(), "odd.json", session.to_string().as_bytes())?).await?;
        b.see("Keys unknown to this version").await?;
        b.see("Text a spreadsheet would run").await?;
        anyhow::ensure!(json_at(&server, "/api/amplifiers")?["amplifiers"] == json!([]), "nothing was done by looking");
        b.click("Import").await?;
        b.see("All three claims hold").await?;
        // A record with a key of its own can still be changed.
        let id = server.amplifier("Hartsedge Two")?;
        b.goto(&format!("{}/amplifiers/{id}/edit", server.url)).await?;
        b.fill("Model", "Two b").await?;
        b.click("Save the changes").await?;
        b.see("Hartsedge Two b").await?;
        let kept = json_at(&server, &format!("/api/amplifiers/{id}/file"))?;
        anyhow::ensure!(kept["amplifier"]["colour"] == "grey", "and keeps it");
        Ok(())
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_verdict_is_settled_and_a_later_run_opens_it_again() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Hartsedge Six-Fifty")?;
        let verdict = format!("{}/amplifiers/{id}/verdict", server.url);
        b.goto(&verdict).await?;
        b.see("Lock the verdict").await?;
        b.press_letter('s').await?;
        b.see("Locked on 2026-11-22.").await?;
        b.see("By rules version 5.").await?;
        b.goto(&format!("{}/amplifiers/{id}/runs?rung=mono%402%4040&mode=certified", server.url)).await?;
        b.wait("#entry-line").await?;
        b.type_text("655 14.40 62").await?;
        b.press(Keys::Enter).await?;
        b.see("Not logged yet").await?;
        b.press_again(Keys::Enter).await?;
        b.see("locked, changed since").await?;
        b.goto(&verdict).await?;
        b.see("Locked on 2026-11-22 as near enough, and open again.").await?;
        b.see("650 W into 2 Ω: from short to holds.").await?;
        b.see("One run was logged since.").await?;
        b.press_letter('s').await?;
        b.see("By rules version 5.").await?;
        b.see_no("open again").await?;
        // Undo takes the settling back: the one before counts again, and it is open.
        b.press(Keys::Ctrl('z')).await?;
        b.see("Locked on 2026-11-22 as near enough, and open again.").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_figures_working_is_opened_by_keyboard_down_to_the_readings() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Hartsedge Six-Fifty")?;
        b.goto(&format!("{}/amplifiers/{id}/verdict", server.url)).await?;
        b.see("627 W").await?;
        let figure = "return [...document.querySelectorAll('main button')].find((b) => b.textContent.startsWith('627'))";
        b.client.execute(&format!("({}).focus()", figure.replacen("return ", "", 1)), vec![]).await?;
        b.press(Keys::Enter).await?;
        b.see("P(Vref) = P · (Vref / V)^e").await?;
        b.see("Unregulated supply: its rails follow the battery, e = 2.").await?;
        let opened = "const s = document.activeElement?.closest('[role=dialog]')?.querySelector('button[aria-expanded]'); return !!s && document.activeElement === s";
        b.until("Tab reaches what it was made of", async || {
            b.press(Keys::Tab).await?;
            Ok(b.client.execute(opened, vec![]).await? == true)
        })
        .await?;
        b.press(Keys::Enter).await?;
        b.see("power as read").await?;
        b.see("Uncertainty of the total").await?;
        b.press(Keys::Escape).await?;
        b.see_no("P(Vref) = P · (Vref / V)^e").await?;
        let back = "return document.activeElement?.textContent?.startsWith('627') ?? false";
        b.until("Esc goes back to the figure", async || Ok(b.client.execute(back, vec![]).await? == true)).await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn cards_and_words_go_out_and_a_locked_verdict_no_longer_says_that_it_can_change() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Tolland & Pike Duo 200")?;
        b.goto(&format!("{}/amplifiers/{id}/publish", server.url)).await?;
        b.see("Not locked: this verdict can still change.").await?;
        let drawn = "const image = document.querySelector('section[aria-label=Card] img'); return image?.complete ? [image.naturalWidth, image.naturalHeight] : null";
        let is = async |wide: u64, high: u64| Ok(b.client.execute(drawn, vec![]).await? == serde_json::json!([wide, high]));
        b.until("the card is there", async || is(1920, 1080).await).await?;
        b.click("9 : 16").await?;
        b.until("the card is tall", async || is(1080, 1920).await).await?;
        b.press(Keys::Down).await?;
        b.see("4 Ω, its modes").await?;
        let shown = "return document.querySelector('section[aria-label=Card] img').alt";
        b.until("the next card is shown", async || {
            Ok(b.client.execute(shown, vec![]).await?.as_str().is_some_and(|alt| alt.starts_with("Tolland & Pike Duo 200, 4")))
        })
        .await?;
        b.click("Chapters").await?;
        b.see("0:00 What it claims").await?;
        let everything = bytes_at(&address(&b, "Everything, as a zip").await?)?;
        anyhow::ensure!(everything.starts_with(b"PK") && everything.len() > 100_000, "{} bytes", everything.len());
        let session = server.get(&format!("/api/amplifiers/{id}"))?["session_id"].as_str().context("no session")?.to_owned();
        ureq::post(&format!("{}/api/sessions/{session}/settled", server.url)).send_json(serde_json::json!({}))?;
        b.goto(&format!("{}/amplifiers/{id}/publish", server.url)).await?;
        b.see("Everything, as a zip").await?;
        b.see_no("Not locked").await
    })
    .await;
}

/// The sheet as Chromium prints it: its text, and how many pages.
async fn printed(b: &Browser, address: &str) -> anyhow::Result<(String, usize)> {
    b.goto(address).await?;
    b.see("How it was measured").await?;
    let pdf = b.devtools("Page.printToPDF", json!({ "preferCSSPageSize": true, "printBackground": true })).await?;
    let data = pdf["data"].as_str().or_else(|| pdf["value"]["data"].as_str()).context("no PDF came")?;
    let folder = tempfile::tempdir()?;
    let path = kept(folder.path(), "sheet.pdf", &base64::engine::general_purpose::STANDARD.decode(data)?)?;
    let run = |program: &str, args: &[&str]| -> anyhow::Result<String> {
        let out = Command::new(program).args(args).output().with_context(|| format!("{program} is missing: run cargo xtask test"))?;
        anyhow::ensure!(out.status.success(), "{program} failed");
        Ok(String::from_utf8_lossy(&out.stdout).into_owned())
    };
    let file = path.display().to_string();
    let pages =
        run("pdfinfo", &[&file])?.lines().find_map(|line| line.strip_prefix("Pages:")?.trim().parse().ok()).context("no count of pages")?;
    Ok((run("pdftotext", &["-layout", &file, "-"])?.replace(['\u{202f}', '\u{a0}'], " "), pages))
}

#[tokio::test(flavor = "multi_thread")]
async fn the_sheet_of_a_mono_amplifier_is_two_pages_at_most_none_of_it_under_nine_points() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Tolland & Pike Mono 1100")?;
        let session = json_at(&server, &format!("/api/amplifiers/{id}"))?["session_id"].as_str().context("no session")?.to_owned();
        // A full ladder: nine runs, a gate with the owner's consent.
        for (mode, line) in [("certified", "1068 13.96 124.6"), ("clipping", "1124 13.88 134.2"), ("dynamic", "1279 14.34")] {
            let run = json!({ "rung": "mono@1@40", "mode": mode, "line": line, "happened": true });
            ureq::post(&format!("{}/api/sessions/{session}/runs", server.url)).send_json(run)?;
        }
        let sheet = format!("{}/api/sessions/{session}/sheet.html", server.url);
        let (text, pages) = printed(&b, &sheet).await?;
        anyhow::ensure!(pages <= 2, "{pages} pages");
        let small = "[...document.querySelectorAll('main *')].filter((at) => [...at.childNodes].some((n) => n.nodeType === 3 && n.data.trim() !== '') && parseFloat(getComputedStyle(at).fontSize) < 11.99).map((at) => at.outerHTML.slice(0, 80))";
        let small = b.value(small).await?;
        anyhow::ensure!(small == json!([]), "under nine points: {small}");
        for said in [
            "Tolland & Pike Mono 1100",
            "All three claims hold on clean power",
            "1 136 W ± 29.3",
            "447 W ± 10.3",
            "THD+N at 1 % or less",
            "40 Hz",
            "4 Ω is 3.91 Ω",
            "k = 2",
            "all modes of a load, then the next load",
            "P(Vref) = P · (Vref / V)^e",
            "Provenance",
            "Holds, within ±",
        ] {
            anyhow::ensure!(text.contains(said), "“{said}” is not on paper:\n{text}");
        }
        // It opens from a file, with the network gone, and looks for nothing.
        let folder = tempfile::tempdir()?;
        let path = kept(folder.path(), "sheet.html", &bytes_at(&sheet)?)?;
        drop(server);
        b.logs().await?;
        b.goto(&format!("file://{}", path.display())).await?;
        b.see("How each figure was made").await?;
        let (errors, requests) = b.logs().await?;
        anyhow::ensure!(errors.is_empty(), "{errors:?}");
        let fetched: Vec<_> = requests.iter().filter(|url| !url.starts_with("file://") && !url.starts_with("data:")).collect();
        anyhow::ensure!(fetched.is_empty(), "{fetched:?}");
        Ok(())
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn of_a_long_shelf_what_is_in_sight_is_drawn_and_a_search_survives_back() {
    journey(|b| async move {
        let (demo, server) = (Server::demo()?, Server::serve()?);
        let mut session = json_at(&demo, &format!("/api/amplifiers/{}/file", demo.amplifier("Quillmoor Mono 300")?))?;
        session.as_object_mut().context("no session")?.remove("id");
        session["runs"] = json!([]);
        for n in 0..103 {
            session["amplifier"]["model"] = json!(format!("Mono {n:03}"));
            ureq::post(&format!("{}/api/imports", server.url)).send(session.to_string().as_bytes())?;
        }
        b.goto(&server.url).await?;
        b.see("Mono 102").await?;
        let drawn = b.value("document.querySelectorAll('main li').length").await?.as_u64().context("no rows")?;
        anyhow::ensure!(drawn < 40, "{drawn} rows are drawn for {} in sight", 800 / 59);
        b.see_no("Mono 001").await?;
        // The second page is fetched as the end comes near.
        b.client.execute("scrollTo(0, document.body.scrollHeight)", vec![]).await?;
        b.see("Mono 000").await?;
        // What is not drawn is found all the same, and again after Back.
        b.client.execute("scrollTo(0, 0)", vec![]).await?;
        b.press_letter('/').await?;
        b.type_text("mono 002").await?;
        b.see_no("Mono 050").await?;
        b.see("1 found").await?;
        b.press(Keys::Enter).await?;
        b.see("Paste a spec table").await?;
        b.client.back().await?;
        b.see("1 found").await?;
        b.see("Mono 002").await?;
        b.see_no("Mono 050").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_shelf_is_sorted_and_filtered_by_what_its_lines_say() {
    journey(|b| async move {
        let server = Server::demo()?;
        b.goto(&server.url).await?;
        b.see("Quillmoor Four-Ninety").await?;
        b.click("Verdict").await?;
        b.choose("pukka").await?;
        b.see_no("Quillmoor Four-Ninety").await?;
        b.see("Hartsedge Two").await?;
        b.press(Keys::Escape).await?;
        b.see("Verdict: pukka").await?;
        b.click("Clear").await?;
        b.see("Quillmoor Four-Ninety").await?;
        b.fill("Sort by", "name").await?;
        let first = async || Ok(b.value("document.querySelector('main li b').innerText").await? == "Brackwater 60.6");
        b.until("the first of the alphabet is first", first).await?;
        b.click("Smallest or earliest first: turn round").await?;
        let last = async || Ok(b.value("document.querySelector('main li b').innerText").await? == "Tolland & Pike Mono 1100");
        b.until("the last of the alphabet is first", last).await
    })
    .await;
}
