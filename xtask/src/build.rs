//! Builds, and the commands they are made of.

use std::cell::Cell;
use std::path::{Path, PathBuf};
use std::process::Command;

use anyhow::Context;

/// The root of the project.
pub fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().map(Path::to_owned).unwrap_or_default()
}

/// Runs a command at `place` and fails when it does.
pub fn run(place: &Path, program: &str, args: &[&str]) -> anyhow::Result<()> {
    println!("> {program} {}", args.join(" "));
    let status = Command::new(program).args(args).current_dir(place).status().with_context(|| format!("{program} cannot be started"))?;
    anyhow::ensure!(status.success(), "{program} {} failed: {status}", args.join(" "));
    Ok(())
}

/// The cargo that runs this, else the one on the path.
pub fn own_cargo() -> String {
    std::env::var("CARGO").unwrap_or_else(|_| "cargo".into())
}

/// Runs cargo.
pub fn cargo(args: &[&str]) -> anyhow::Result<()> {
    run(&root(), &own_cargo(), args)
}

/// Installs the front end's packages when they are missing or another lock file's.
pub fn packages() -> anyhow::Result<()> {
    let web = root().join("web");
    let lock = std::fs::read(web.join("package-lock.json"))?;
    let stamp = web.join("node_modules/.pukka-lock");
    if std::fs::read(&stamp).is_ok_and(|have| have == lock) {
        return Ok(());
    }
    run(&web, "npm", &["ci", "--no-audit", "--no-fund"])?;
    Ok(std::fs::write(stamp, lock)?)
}

/// Builds the front end into web/dist.
pub fn front_end() -> anyhow::Result<()> {
    packages()?;
    run(&root().join("web"), "npm", &["run", "--silent", "build"])
}

/// Builds the front end and the fast program.
pub fn release() -> anyhow::Result<()> {
    front_end()?;
    cargo(&["build", "--release", "--package", "pukka"])
}

/// Builds everything and serves the demo: the program by a profile that is quick to compile.
pub fn demo(fresh: bool) -> anyhow::Result<()> {
    let steps = Steps::of(3);
    steps.next("the front end");
    front_end()?;
    steps.next("the program (minutes on a fresh machine, seconds after that)");
    cargo(&["build", "--profile", "demo", "--package", "pukka"])?;
    steps.next("the demo");
    let data = root().join("target/pukka-demo");
    let data = data.to_string_lossy();
    let mut args = vec!["demo", "--data", &data];
    if fresh {
        args.push("--fresh");
    }
    let program = root().join("target/demo/pukka");
    let status = Command::new(program).args(args).status()?;
    anyhow::ensure!(status.success() || status.code().is_none(), "pukka ended with {status}");
    Ok(())
}

/// Runs what makes pictures and measures, built beside the program.
pub fn tools(args: &[&str]) -> anyhow::Result<()> {
    let program = root().join("target/debug/pukka-tools");
    run(&root(), &program.to_string_lossy(), args)
}

/// Says which step of how many is under way.
pub struct Steps {
    of: usize,
    at: Cell<usize>,
}

impl Steps {
    /// A number of steps.
    pub const fn of(of: usize) -> Self {
        Self { of, at: Cell::new(0) }
    }

    /// The next one.
    pub fn next(&self, words: &str) {
        self.at.set(self.at.get() + 1);
        println!("Step {} of {}: {words}.", self.at.get(), self.of);
    }
}
