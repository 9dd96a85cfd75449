//! The record beside claims and readings, and the screens beside the bench, as a person uses them.

use pukka_e2e::{Keys, Server, journey};

#[tokio::test(flavor = "multi_thread")]
async fn parts_inside_are_typed_saved_and_undone() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Tolland & Pike Mono 1100")?;
        b.goto(&format!("{}/amplifiers/{id}/claims", server.url)).await?;
        b.see("Paste a spec table").await?;
        b.press_letter('f').await?;
        b.see("With the lid off.").await?;
        b.click("Add capacitors").await?;
        b.fill("Count", "4").await?;
        b.fill("Each", "3300 V").await?;
        b.fill("Place", "rails").await?;
        b.click("Save").await?;
        b.see("is not in µF").await?;
        b.fill("Each", "3,3 mF").await?;
        b.fill("Rated", "63").await?;
        b.click("Save").await?;
        b.see("Inside saved.").await?;
        b.see("in the rail capacitors").await?;
        b.client.refresh().await?;
        b.see("in the rail capacitors").await?;
        let kept = &server.get(&format!("/api/amplifiers/{id}"))?["amplifier"]["inside"]["capacitors"][0];
        anyhow::ensure!(kept["uf"] == 3300.0 && kept["count"] == 4, "{kept}");
        b.press(Keys::Ctrl('z')).await?;
        b.see_no("in the rail capacitors").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_camera_starts_by_a_key_at_the_bench_and_is_shown_where_it_counts() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Tolland & Pike Mono 1100")?;
        b.goto(&format!("{}/amplifiers/{id}/runs", server.url)).await?;
        b.wait("#entry-line").await?;
        b.press_letter('k').await?;
        b.see("Camera starts: chapters count from here.").await?;
        b.goto(&format!("{}/amplifiers/{id}/publish", server.url)).await?;
        b.see("Camera started at").await?;
        b.goto(&format!("{}/amplifiers/{id}/record?part=footage", server.url)).await?;
        b.see("Claps: a camera starts").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn guesses_are_sealed_and_opened_by_hand() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Quillmoor Four-Ninety")?;
        b.goto(&format!("{}/amplifiers/{id}/record?part=guesses", server.url)).await?;
        b.see("Seal them").await?;
        b.fill("The list, one a line", "Wren 80 yes\nTarrow").await?;
        b.click("Seal them").await?;
        b.see("Line 2: no").await?;
        b.fill("The list, one a line", "Wren 80 yes").await?;
        b.click("Seal them").await?;
        b.see("1 guess sealed.").await?;
        b.click("Open them").await?;
        b.see("SHA-256 of the salt").await?;
        b.see("Wren").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn screens_beside_the_bench_show_the_last_run_and_follow_a_new_one() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Tolland & Pike Mono 1100")?;
        b.goto(&format!("{}/screens/{id}/wall", server.url)).await?;
        b.see("6 of 9 logged").await?;
        b.see("868").await?;
        let session = server.get(&format!("/api/amplifiers/{id}"))?["session_id"].as_str().unwrap_or_default().to_owned();
        let run = serde_json::json!({ "rung": "mono@1@40", "mode": "certified", "line": "1068 13.96 124.6" });
        ureq::post(&format!("{}/api/sessions/{session}/runs", server.url)).send_json(run)?;
        b.see("7 of 9 logged").await?;
        b.see("1 068").await?;
        b.goto(&format!("{}/screens/{id}/overlay?size=2&side=right", server.url)).await?;
        b.see("1 068").await?;
        let behind = b.value("getComputedStyle(document.body).backgroundColor").await?;
        anyhow::ensure!(behind == "rgba(0, 0, 0, 0)", "nothing is painted behind the panel, not {behind}");
        Ok(())
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_mark_is_drawn_on_a_photo_of_a_run_and_stands_on_the_sheet() {
    journey(|b| async move {
        let server = Server::demo()?;
        let id = server.amplifier("Tolland & Pike Mono 1100")?;
        let picture = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/screenshots/shelf.png");
        b.goto(&format!("{}/amplifiers/{id}/runs?rung=mono@2@40&mode=dynamic", server.url)).await?;
        b.see("Logged here").await?;
        b.click("Note").await?;
        b.see("Note on the run of 868").await?;
        b.fill("What happened, what it sounded or smelt like", "rang a little").await?;
        b.wait("input[aria-label='Photos to add']").await?.send_keys(&picture.canonicalize()?.display().to_string()).await?;
        b.wait("button[aria-label^='Open the photo']").await?.click().await?;
        // Without a pointer: a ring in the middle, moved by the arrow keys, its words typed.
        b.click("Add in the middle").await?;
        b.wait("button[aria-label^='Move the ring']").await?.send_keys("\u{e014}\u{e014}").await?;
        b.wait("input[aria-label='Words of the ring']").await?.send_keys("C1").await?;
        b.fill("What it shows", "Rails").await?;
        b.wait("form [role='checkbox']").await?.click().await?;
        b.click("Save").await?;
        b.see("1 mark · on the sheet").await?;
        b.click("Save the note").await?;
        b.see("# rang a little").await?;
        let photos = server.get(&format!("/api/amplifiers/{id}/photos"))?;
        let mark = &photos["photos"][0]["marks"][0];
        anyhow::ensure!(mark["x"] == 0.52 && mark["to_x"] == 0.62 && mark["label"] == "C1", "{mark}");
        let session = server.get(&format!("/api/amplifiers/{id}"))?["session_id"].as_str().unwrap_or_default().to_owned();
        b.goto(&format!("{}/api/sessions/{session}/sheet.html", server.url)).await?;
        b.see("Rails · 2 Ω, dynamic").await?;
        let drawn = b.value("document.querySelector('svg.marks text').textContent").await?;
        anyhow::ensure!(drawn == "C1", "{drawn}");
        Ok(())
    })
    .await;
}
