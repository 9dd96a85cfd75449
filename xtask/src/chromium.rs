//! The browser of the tests: Debian's Chromium and its driver.

use std::process::{Command, Stdio};

use crate::build::{root, run};

fn have(program: &str) -> bool {
    Command::new(program).arg("--version").stdout(Stdio::null()).stderr(Stdio::null()).status().is_ok_and(|status| status.success())
}

/// Installs Chromium and ChromeDriver when they are missing, or says plainly why it cannot.
pub fn ensure() -> anyhow::Result<()> {
    if have("chromium") && have("chromedriver") {
        return Ok(());
    }
    anyhow::ensure!(
        have("apt-get"),
        "The browser tests need Chromium and ChromeDriver on the path, and this system has no apt-get to install them with. Install both, then run this again."
    );
    println!("Chromium or ChromeDriver is missing: installing Debian's packages.");
    let install = run(&root(), "apt-get", &["update"])
        .and_then(|()| run(&root(), "apt-get", &["install", "-y", "--no-install-recommends", "chromium", "chromium-driver"]));
    install
        .map_err(|why| anyhow::anyhow!("Chromium could not be installed ({why}). Run as root: apt-get install chromium chromium-driver"))?;
    anyhow::ensure!(have("chromium") && have("chromedriver"), "Chromium was installed but does not start.");
    Ok(())
}
