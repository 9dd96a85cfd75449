//! Bad input in every form: a sentence next to the field, and nothing typed so far is lost.

use pukka_e2e::{Browser, Keys, Server, journey};

/// Text that stands under the field with this label.
async fn complaint(b: &Browser, label: &str) -> anyhow::Result<String> {
    let field = b.field(label).await?;
    let id = field.attr("id").await?.unwrap_or_default();
    let says = b.client.execute("return document.getElementById(arguments[0] + '-error')?.textContent ?? ''", vec![id.into()]).await?;
    Ok(says.as_str().unwrap_or_default().to_owned())
}

async fn complains(b: &Browser, label: &str, about: &str) -> anyhow::Result<()> {
    b.until(&format!("“{label}” says “{about}”"), async || Ok(complaint(b, label).await?.contains(about))).await
}

async fn value(b: &Browser, label: &str) -> anyhow::Result<String> {
    Ok(b.field(label).await?.prop("value").await?.unwrap_or_default())
}

#[tokio::test(flavor = "multi_thread")]
async fn an_amplifier_that_cannot_be() {
    journey(|b| async move {
        let server = Server::serve()?;
        b.goto(&format!("{}/amplifiers/new", server.url)).await?;
        b.click("Put it on the shelf").await?;
        complains(&b, "Make", "This cannot be left empty.").await?;
        complains(&b, "Model", "This cannot be left empty.").await?;

        b.fill("Make", "<b>Quillmoor & \"Sons\"</b>").await?;
        b.fill("Model", "Mono 300").await?;
        for (label, text, about) in [
            ("Channels", "0", "1 to 16 channels"),
            ("Channels", "2.5", "1 to 16 channels"),
            ("Channels", "two", "“two” is not a number."),
            ("Fuses on board", "3 x", "is not"),
            ("Fuses on board", "0", "0 A is not a fuse"),
            ("Fuses on board", "3 x 1e12", "“1e12” is not a number."),
            ("Recommended fuse outside", "-5", "-5 A is too little for current"),
            ("Recommended fuse outside", "1000000000000", "is too much for current"),
            ("Maximum supply", "999", "is too much for supply voltage"),
            ("Maximum supply", "61", "between 6 and 60 V"),
            ("Maximum supply", "NaN", "“NaN” is not a number."),
            ("Price", "1,299", "1299 or 1.299?"),
            ("Price", "-1", "is too little for price"),
        ] {
            b.fill(label, text).await?;
            b.press(Keys::Enter).await?;
            complains(&b, label, about).await?;
            anyhow::ensure!(value(&b, label).await? == text, "“{text}” was lost");
            let mended = match label {
                "Channels" => "1",
                "Fuses on board" => "40",
                "Maximum supply" => "16",
                "Price" => "129.90",
                _ => "60",
            };
            b.fill(label, mended).await?;
        }
        b.click("Add a floor").await?;
        b.fill("Floor", "0").await?;
        b.press(Keys::Enter).await?;
        complains(&b, "Floor", "0 Ω is too little for load").await?;
        b.fill("Floor", "2").await?;

        let long = "x".repeat(4_000);
        let set = "const field = document.getElementById(arguments[0]); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, arguments[1]); field.dispatchEvent(new Event('input', { bubbles: true }));";
        let model = b.field("Model").await?.attr("id").await?.unwrap_or_default();
        b.client.execute(set, vec![model.into(), long.into()]).await?;
        b.click("Put it on the shelf").await?;
        complains(&b, "Model", "4000 characters are too many: 80 at most.").await?;
        b.fill("Model", "Mono 300").await?;
        b.click("Put it on the shelf").await?;
        b.see("<b>Quillmoor & \"Sons\"</b> Mono 300").await?;
        b.see("fused 40 A").await?;
        b.see("2 Ω, mono").await?;
        b.see("£129.90").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_claim_that_cannot_be() {
    journey(|b| async move {
        let server = Server::demo()?;
        b.goto(&server.url).await?;
        b.see("On the shelf").await?;
        b.press_letter('/').await?;
        b.type_text("nobody makes this").await?;
        b.see("No amplifier on the shelf matches “nobody makes this”.").await?;
        b.press(Keys::Escape).await?;
        b.type_text("four 90").await?;
        b.see_no("Quillmoor Four-Ninety").await?;
        b.press(Keys::Escape).await?;
        b.type_text("QUILL four").await?;
        b.press(Keys::Enter).await?;
        b.see("Paste a spec table").await?;
        b.see("4 × 140").await?;

        b.press_letter('n').await?;
        b.field("Load").await?;
        for (label, text, about) in [
            ("Load", "0", "above 0 Ω"),
            ("Load", "-4", "above 0 Ω"),
            ("Load", "100", "0.05 to 64 Ω"),
            ("Load", "4 apples", "“4 apples” is not in Ω."),
            ("Watts", "0", "above 0 W"),
            ("Watts", "1.400", "1400 or 1.400? Type 1400, or 1.4000."),
            ("Watts", "999999999999", "is too much for claimed power"),
            ("At", "3", "between 6 and 60 V"),
            ("Distortion limit", "0", "above 0 and at most 50 %"),
            ("Distortion limit", "60", "above 0 and at most 50 %"),
            ("Tone, if named", "5", "between 10 Hz and 22 kHz"),
            ("Where it is printed", " ", "This cannot be left empty."),
        ] {
            b.fill(label, text).await?;
            b.click("Save the claim").await?;
            complains(&b, label, about).await?;
            let mended = match label {
                "Load" => "8",
                "Watts" => "52,5",
                "At" => "14.4",
                "Distortion limit" => "1",
                "Where it is printed" => "site",
                _ => "1000",
            };
            b.fill(label, mended).await?;
        }
        b.fill("Wired as", "").await?;
        b.click("Save the claim").await?;
        complains(&b, "Wired as", "Only a max claim can leave its wiring open.").await?;
        b.fill("Wired as", "channels-4").await?;
        b.click("Save the claim").await?;
        b.see("4 × 52.5").await?;
        b.see("5 to prove").await?;
        b.see("Claim added.").await?;

        b.click("Remove the claim: site, 4 channels, 8 Ω").await?;
        b.see("4 to prove").await?;
        b.click("Undo").await?;
        b.see("Undone: removed a claim.").await?;
        b.see("5 to prove").await?;
        b.click("Change the claim: site, 4 channels, 8 Ω").await?;
        b.fill("Watts", "55").await?;
        b.press(Keys::Enter).await?;
        b.see("4 × 55").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_rung_that_cannot_be_and_one_that_can() {
    journey(|b| async move {
        let server = Server::demo()?;
        b.goto(&server.url).await?;
        b.see("6 of 9 runs logged").await?;
        b.press(Keys::Enter).await?;
        b.see("Paste a spec table").await?;
        b.press_letter('b').await?;
        b.wait("#entry-line").await?;
        b.press_letter('s').await?;
        for (label, text, about) in [
            ("Rest voltage", "0", "is too little for supply voltage"),
            ("Rest voltage", "5", "between 6 and 60 V"),
            ("Rest voltage", "14,600", "14600 or 14.600?"),
            ("Load, measured", "1.98", "that is a different load"),
            ("Load, measured", "soft", "“soft” is not a number."),
            ("Tone", "1", "between 10 Hz and 22 kHz"),
            ("Extra drive", "-1", "0 to 30 dB"),
        ] {
            b.fill(label, text).await?;
            b.click("Set").await?;
            complains(&b, label, about).await?;
            let mended = match label {
                "Rest voltage" => "16.2",
                "Load, measured" => "1.02",
                "Tone" => "40",
                _ => "9",
            };
            b.fill(label, mended).await?;
        }
        b.fill("Charger", "on").await?;
        b.click("Set").await?;
        // 16.2 V is above the 16 V its maker allows: the run is gated, and says so.
        b.see("The supply is too high.").await?;
        b.see("16.2 V at rest, and 16 V is the most that its maker allows.").await?;
        b.see("rest 16.20 V, load 1.02 Ω, charger on").await?;
        b.press(Keys::Ctrl('z')).await?;
        b.see("Undone: set the 1 Ω rung.").await?;
        b.see("rest 14.60 V, load 1.01 Ω").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_working_opens_by_keyboard_and_the_theme_stays() {
    journey(|b| async move {
        let server = Server::demo()?;
        b.goto(&server.url).await?;
        b.see("6 of 9 runs logged").await?;
        b.press(Keys::Enter).await?;
        b.see("Paste a spec table").await?;
        b.press_letter('v').await?;
        b.see("So far two of three claims hold.").await?;
        let focus = "document.querySelector(\"section[aria-label*='Holds'] small button\").focus()";
        b.client.execute(focus, vec![]).await?;
        b.press(Keys::Enter).await?;
        b.see("Percent of the claim, as read").await?;
        b.see("100 · P / C").await?;
        b.see("power claimed, in total").await?;
        b.press(Keys::Escape).await?;
        b.see_no("100 · P / C").await?;
        // It comes back in a turn of the page of its own, behind the one that took the working away.
        b.until("the focus is back on 99.3", async || Ok(b.value("document.activeElement.textContent").await?.as_str().is_some_and(|text| text.starts_with("99.3"))))
            .await?;

        let dark = async || {
            Ok::<_, anyhow::Error>(b.client.execute("return document.documentElement.classList.contains('dark')", vec![]).await? == true)
        };
        anyhow::ensure!(!dark().await?, "the demo starts in light");
        b.click("Change to dark").await?;
        anyhow::ensure!(dark().await?, "dark was chosen");
        b.client.refresh().await?;
        b.see("So far two of three claims hold.").await?;
        anyhow::ensure!(dark().await?, "and stays");

        b.press_letter('t').await?;
        b.see("Everything, as a zip").await?;
        b.press_letter('s').await?;
        b.see("The result sheet").await?;
        let csv = b.client.execute("return document.querySelector('a[href$=\"sheet.csv\"]').getAttribute('href')", vec![]).await?;
        let text = ureq::get(&format!("{}{}", server.url, csv.as_str().unwrap_or_default())).call()?.body_mut().read_to_string()?;
        anyhow::ensure!(text.lines().count() == 7 && text.contains("power total (W)"), "{text}");
        // Paper is white, whatever the screen.
        b.devtools("Emulation.setEmulatedMedia", serde_json::json!({ "media": "print" })).await?;
        let ink = "const h2 = document.querySelector('iframe').contentDocument.querySelector('h2'); return h2 ? getComputedStyle(h2).color : null";
        b.until("the sheet is there", async || Ok(b.client.execute(ink, vec![]).await?.is_string())).await?;
        let ink = b.client.execute(ink, vec![]).await?;
        anyhow::ensure!(ink == "rgb(21, 35, 31)", "ink on paper, not {ink}");
        let hidden = b.client.execute("return getComputedStyle(document.querySelector('header.no-print')).display", vec![]).await?;
        anyhow::ensure!(hidden == "none", "the top of the page is not printed");
        Ok(())
    })
    .await;
}
