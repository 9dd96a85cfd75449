//! Before the bench: a load out of the inventory, a plan in both orders, a gate that stops a run and is opened, the record.

use pukka_e2e::{Browser, Keys, Server, journey};

/// The plan of an amplifier of the demo.
async fn plan_of(b: &Browser, server: &Server, name: &str) -> anyhow::Result<()> {
    let id = server.amplifier(name)?;
    b.goto(&format!("{}/amplifiers/{id}/plan", server.url)).await?;
    b.see("What each load will ask of the bench").await
}

#[tokio::test(flavor = "multi_thread")]
async fn two_and_two_thirds_ohms_are_built_of_fours_and_eights() {
    journey(|b| async move {
        let server = Server::demo()?;
        b.goto(&server.url).await?;
        b.click("Set-up").await?;
        b.see("Which loads they make").await?;
        b.fill("Load wanted", "2,67").await?;
        b.press(Keys::Enter).await?;
        b.see("The simplest").await?;
        b.see("8 Ω with 4 Ω in parallel").await?;
        b.see("4 Ω takes 66.9 %").await?;
        b.fill("Load wanted", "2.9").await?;
        b.press(Keys::Enter).await?;
        b.see("ways to join up to 6 resistors").await?;
        // Four outputs at once leave one resistor of each kind for each.
        b.fill("Load wanted", "3").await?;
        b.fill("At", "channels-4").await?;
        b.click("Find it").await?;
        b.see("3 Ω cannot be made at each of 4 outputs at once.").await?;
        b.see("The two that bracket it").await?;

        // A bench of one's own: a slip is said in its field, and nothing typed is lost.
        b.click("Add a bench").await?;
        b.see("A new bench").await?;
        b.fill("Name of the bench", "Shed").await?;
        b.fill("Source resistance", "7.5").await?;
        b.click("Add a resistor").await?;
        b.fill("Nominal", "four").await?;
        b.click("Add the bench").await?;
        b.see("“four” is not a number.").await?;
        b.fill("Nominal", "4").await?;
        b.click("Add a lead").await?;
        b.fill("From where to where", "bank to bench").await?;
        b.fill("Length", "2").await?;
        b.fill("Section", "1/0 AWG").await?;
        b.see("53.5 mm²: at 100 A it drops").await?;
        b.click("Add the bench").await?;
        b.see("Shed saved.").await?;
        b.click("Undo").await?;
        b.see("Undone: added the bench Shed.").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn both_orders_are_planned_and_a_rung_is_made_of_what_there_is() {
    journey(|b| async move {
        let server = Server::demo()?;
        plan_of(&b, &server, "Quillmoor Four-Ninety").await?;
        b.see("9 runs, about 20 min").await?;
        b.click("Mode by mode").await?;
        // The load is changed before each run but where one mode's last load is the next one's first.
        b.see("9 runs, about 29 min").await?;
        b.click("dynamic at 2 Ω").await?;
        b.see("8 runs").await?;
        b.press(Keys::Ctrl('z')).await?;
        b.see("9 runs, about 29 min").await?;
        b.click("Rung by rung").await?;
        b.see("about 20 min").await?;

        b.click("2 Ω: more of it").await?;
        b.click("Make the load").await?;
        b.see("at each of 4 outputs at once").await?;
        b.click("Use this").await?;
        b.see("is made of").await?;
        b.see("1.98 real").await?;

        // Prepared once: rest voltage, idle draw, gain; the decibels give the voltage.
        b.press_letter('s').await?;
        b.see("Gain, in three steps").await?;
        b.fill("At rest", "14.2").await?;
        b.fill("Idle draw", "1.1").await?;
        b.fill("2. Amplifier: gain up to clip onset; output then", "2").await?;
        b.fill("3. Extra drive", "6").await?;
        b.see("Raise it to 3.991 V").await?;
        b.click("Save").await?;
        b.see("Supply at the end, from 14.2 V").await?;
        b.see("Amplifier at clip onset, 2 V, then 6 dB of extra drive.").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_gate_stops_a_run_and_consent_opens_it() {
    journey(|b| async move {
        let server = Server::demo()?;
        plan_of(&b, &server, "Tolland & Pike Mono 1100").await?;
        b.press_letter('l').await?;
        b.fill("Load", "0.67").await?;
        b.press(Keys::Enter).await?;
        b.see("0.67 Ω is below the maker’s minimum load.").await?;
        b.see("This amplifier belongs to somebody else.").await?;
        b.click("Record consent").await?;
        b.click("Open the gate").await?;
        b.see("This cannot be left empty.").await?;
        b.fill("Why run it anyway", "One rung below, to know").await?;
        b.fill("Your name", "M. Tarrow").await?;
        b.fill("Who consented", "R. Oakshott").await?;
        b.fill("Who pays if it dies", "the owner").await?;
        b.click("Open the gate").await?;
        b.see_no("Open 0.67 Ω, certified").await?;

        // Armed: what it was judged on is written out, and cannot be changed under it.
        b.press_letter('b').await?;
        b.see("6 of 12 logged").await?;
        // The spine says so on every page: the keys are for the run at hand.
        b.heading("1 Ω, certified").await?;
        for _ in 0..3 {
            b.press(Keys::Down).await?;
        }
        b.heading("0.67 Ω, certified").await?;
        b.see("Withdraw the reason").await?;
        b.press_letter('a').await?;
        b.see("Armed.").await?;
        b.see("lowest load its maker allows").await?;
        b.press_letter('s').await?;
        b.fill("Rest voltage", "15").await?;
        b.click("Set").await?;
        b.see("what its gates were judged on is frozen").await?;
        b.click("Cancel").await?;
        b.click("Withdraw the reason").await?;
        b.fill("Why", "the owner rang").await?;
        b.click("Withdraw it").await?;
        b.see("Gate closed again.").await?;
        b.see("Why run it anyway").await?;
        b.click("Already run: log it without a reason").await?;
        b.wait("#entry-line").await?;
        b.type_text("1200 13.6 160").await?;
        b.press(Keys::Enter).await?;
        b.see("logged, out of the verdict until there is a reason").await?;
        b.press_letter('v').await?;
        b.see("Ungated.").await
    })
    .await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_whole_record_is_taken_in_with_a_photo_and_rails_that_cannot_swing_so_far() {
    journey(|b| async move {
        let server = Server::demo()?;
        plan_of(&b, &server, "Tolland & Pike Mono 1100").await?;
        b.press_letter('c').await?;
        b.see("MP11-20417").await?;
        b.press_letter('e').await?;
        b.see("Condition").await?;
        b.fill("Condition", "repaired").await?;
        b.fill("What was repaired", "").await?;
        b.fill("Power terminals take", "1/0 AWG").await?;
        b.fill("Rail capacitors rated", "50").await?;
        b.click("Save the changes").await?;
        b.see("Say what was repaired").await?;
        b.fill("What was repaired", "new output transistors").await?;
        b.click("Save the changes").await?;
        b.see("repaired: new output transistors").await?;
        b.see("power 53.5 mm² (1/0 AWG)").await?;
        b.see("450 W needs more volts than its rails can give.").await?;

        let folder = tempfile::tempdir()?;
        let photo = folder.path().join("terminals.png");
        std::fs::write(&photo, b.picture().await?)?;
        b.wait("input[type=file]").await?.send_keys(&photo.display().to_string()).await?;
        b.see("Photo added.").await?;
        b.until("the photo is shown", async || {
            Ok(b.client.execute("return document.querySelector('section[aria-label=Photos] img')?.naturalWidth > 0", vec![]).await? == true)
        })
        .await?;
        std::fs::write(&photo, b"<svg/>")?;
        b.wait("input[type=file]").await?.send_keys(&photo.display().to_string()).await?;
        b.see("That is not a photo that can be kept").await?;

        b.press_letter('p').await?;
        b.see("First power-up was through a current limit.").await
    })
    .await;
}
