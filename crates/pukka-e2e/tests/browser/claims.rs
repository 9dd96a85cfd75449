//! What the maker says: a pasted spec table, and the sense-check as a line is typed.

use pukka_e2e::{Keys, Server, journey};

const TABLE: &str = "Continuous power (14.4 V, 1 % THD+N)
4 Ω: 2 x 75 W
2 Ω: 2 x 110 W
Bridged 4 Ω: 1 x 220 W RMS
Max power 1.200 W
Frequency response 20 Hz - 20 kHz";

#[tokio::test(flavor = "multi_thread")]
async fn a_spec_table_becomes_claims_once_it_is_approved() {
    journey(|b| async move {
        let server = Server::demo()?;
        b.goto(&server.url).await?;
        b.see("no claims yet").await?;
        b.press_letter('/').await?;
        b.type_text("75.2").await?;
        b.press(Keys::Enter).await?;
        b.see("No claim entered yet.").await?;
        b.press_letter('i').await?;
        b.wait("[role=dialog] textarea").await?;
        b.type_text(TABLE).await?;
        b.see("Add 4 claims").await?;
        b.see("2 channels · 4 Ω · RMS, 1 % · 14.4 V").await?;
        b.see("1 bridged pair · 4 Ω").await?;
        b.see("Frequency response 20 Hz - 20 kHz").await?;
        b.see("none yet").await?;
        b.client.execute("document.querySelector('[aria-label=\"Add: Max power 1.200 W\"]').click()", vec![]).await?;
        b.click("Add 3 claims").await?;
        b.see("3 claims added.").await?;
        b.see("3 to prove").await?;
        b.see("2 × 110").await?;
        b.click("Undo").await?;
        b.see("Undone: added a claim (3 at once).").await?;
        b.see("No claim entered yet.").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_line_is_doubted_while_it_is_typed() {
    journey(|b| async move {
        let server = Server::demo()?;
        b.goto(&server.url).await?;
        b.see("Quillmoor Four-Ninety").await?;
        b.press_letter('/').await?;
        b.type_text("four-ninety").await?;
        b.press(Keys::Enter).await?;
        b.see("Can 50 A of fuse carry this?").await?;
        for word in ["strains the fuses", "not with 2 Ω", "not from 50 A", "“Max” is not a power rating."] {
            b.see(word).await?;
        }
        b.press_letter('n').await?;
        b.fill("Load", "1").await?;
        b.fill("Watts", "400").await?;
        b.fill("Wired as", "channels-4").await?;
        b.see("400 W into 1 Ω is a misprint, or 140 W is.").await?;
        b.fill("Watts", "150").await?;
        b.see_no("is a misprint").await?;
        b.see("600 W strains 50 A of fuse.").await?;
        b.press(Keys::Escape).await?;
        b.see_no("Save the claim").await?;
        b.see("4 to prove").await
    })
    .await;
}
