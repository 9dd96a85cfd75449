//! Compare: amplifiers ticked, brought to one voltage, shared by link; currencies brought together.

use pukka_e2e::{Browser, Keys, Server, journey};

async fn tick(b: &Browser, name: &str) -> anyhow::Result<()> {
    b.wait(&format!("[role='checkbox'][aria-label='{name} beside the others']")).await?.click().await?;
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn ticked_amplifiers_stand_side_by_side_and_a_link_shows_the_same() {
    journey(|b| async move {
        let server = Server::demo()?;
        b.goto(&server.url).await?;
        b.see("On the shelf").await?;
        b.click("Compare").await?;
        b.see("Tick up to 8 amplifiers").await?;
        tick(&b, "Tolland & Pike Mono 1100").await?;
        // The arrow keys walk the ticks, Space sets one.
        b.press(Keys::Down).await?;
        b.type_text(" ").await?;
        b.see("outside both ±").await?;
        b.see("At 2 Ω, certified, the Tolland & Pike Mono 1100 makes 27").await?;
        b.see("not tested").await?;
        b.fill("Supply", "13.8").await?;
        b.until("powers are brought to 13.8 V", async || {
            Ok(b.value("location.search").await?.as_str().is_some_and(|at| at.contains("volts=13.8")))
        })
        .await?;
        b.click("an output").await?;
        let address = b.value("location.href").await?.as_str().unwrap_or_default().to_owned();
        anyhow::ensure!(address.contains("ids=") && address.contains("per=output"), "{address}");
        let text = b.value("document.querySelector('aside').innerText").await?;
        b.goto(&address).await?;
        b.see("outside both ±").await?;
        anyhow::ensure!(b.value("document.querySelector('aside').innerText").await? == text, "the link shows the same");
        // A figure's working is one press away, down to the readings.
        b.click("Clear").await?;
        b.see("Tick up to 8 amplifiers").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn prices_in_another_currency_get_a_place_with_a_rate() {
    journey(|b| async move {
        let server = Server::demo()?;
        b.goto(&format!("{}/compare", server.url)).await?;
        b.see("No rate for EUR").await?;
        b.click("Add one").await?;
        b.fill("is worth, in GBP", "nothing").await?;
        b.click("Save").await?;
        b.see("“nothing” is not a number").await?;
        b.fill("is worth, in GBP", "0,86").await?;
        b.click("Save").await?;
        b.see("Rates saved.").await?;
        b.see_no("No rate for EUR").await?;
        b.fill("Name", "brackwater 60").await?;
        b.see_no("Hartsedge Two").await?;
        b.see("by watts for the money").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn rivals_claims_only_and_a_load_are_looked_for_and_saved_as_a_view() {
    journey(|b| async move {
        let server = Server::demo()?;
        b.goto(&format!("{}/compare", server.url)).await?;
        b.see("claims only").await?;
        b.click("More").await?;
        b.fill("Clean power at", "4").await?;
        b.press(Keys::Escape).await?;
        b.see("at 4 Ω, in total").await?;
        b.click("Rivals of the Tolland & Pike Mono 1100, which claim about as much").await?;
        b.see("More (2)").await?;
        b.see_no("Hartsedge Two").await?;
        tick(&b, "Tolland & Pike Mono 1100").await?;
        b.click("Views").await?;
        b.fill("Save what is shown now as", "Monos of a kilowatt").await?;
        b.click("Save").await?;
        b.see("Saved the view Monos of a kilowatt").await?;
        b.goto(&format!("{}/compare", server.url)).await?;
        b.see("Hartsedge Two").await?;
        b.click("Views").await?;
        b.click("Monos of a kilowatt").await?;
        b.see_no("Hartsedge Two").await?;
        b.see("at 4 Ω, in total").await?;
        b.click("Views").await?;
        b.click("Delete the view Monos of a kilowatt").await?;
        b.see("Deleted the view Monos of a kilowatt").await?;
        b.press(Keys::Escape).await?;
        b.click("Undo").await?;
        b.click("Views").await?;
        b.see("Monos of a kilowatt").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn several_amplifiers_are_chosen_put_away_tagged_and_brought_back() {
    journey(|b| async move {
        let server = Server::demo()?;
        b.goto(&server.url).await?;
        b.click("Choose").await?;
        b.see("Press the amplifiers that are meant").await?;
        b.click("Tolland & Pike Mono 1100").await?;
        b.click("Hartsedge Six-Fifty").await?;
        b.see("2 chosen").await?;
        b.click("Tag").await?;
        b.fill("Tag", "tour").await?;
        b.click("Give it").await?;
        b.see("Tagged: 2 amplifiers.").await?;
        b.click("Choose").await?;
        b.click("Tolland & Pike Mono 1100").await?;
        b.click("Put away").await?;
        b.see("Put away: 1 amplifier.").await?;
        b.see_no("Mono 1100").await?;
        b.click("Undo").await?;
        b.see("Mono 1100").await
    })
    .await;
}
