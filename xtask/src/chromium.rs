//! The browser of the tests: Debian's Chromium and its driver, and what reads the pages it prints.

use std::process::{Command, Stdio};

use crate::build::{root, run};

const PROGRAMS: [(&str, &str); 4] = [("chromium", "--version"), ("chromedriver", "--version"), ("pdftotext", "-v"), ("pdfinfo", "-v")];
const PACKAGES: [&str; 3] = ["chromium", "chromium-driver", "poppler-utils"];

fn have_all() -> bool {
    PROGRAMS.iter().all(|(program, ask)| have(program, ask))
}

fn have(program: &str, ask: &str) -> bool {
    Command::new(program).arg(ask).stdout(Stdio::null()).stderr(Stdio::null()).status().is_ok_and(|status| status.success())
}

/// Installs Chromium, ChromeDriver and Poppler's tools when they are missing, or says plainly why it cannot.
pub fn ensure() -> anyhow::Result<()> {
    if have_all() {
        return Ok(());
    }
    anyhow::ensure!(
        have("apt-get", "--version"),
        "The browser tests need Chromium, ChromeDriver, pdftotext and pdfinfo on the path, and this system has no apt-get to install them with. Install them, then run this again."
    );
    println!("A program of the browser tests is missing: installing Debian's packages.");
    let wanted: Vec<&str> = ["install", "-y", "--no-install-recommends"].into_iter().chain(PACKAGES).collect();
    let install = run(&root(), "apt-get", &["update"]).and_then(|()| run(&root(), "apt-get", &wanted));
    install.map_err(|why| anyhow::anyhow!("They could not be installed ({why}). Run as root: apt-get install {}", PACKAGES.join(" ")))?;
    anyhow::ensure!(have_all(), "Chromium or Poppler was installed but does not start.");
    Ok(())
}
