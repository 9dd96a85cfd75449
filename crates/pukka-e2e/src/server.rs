//! The real program, as a process.

use std::io::{BufRead, BufReader};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::Arc;

use anyhow::Context;
use serde_json::Value;
use tempfile::TempDir;

/// A running `pukka`.
#[derive(Debug)]
pub struct Server {
    child: Child,
    /// Place: `http://127.0.0.1:…`.
    pub url: String,
    data: Data,
}

#[derive(Debug, Clone)]
enum Data {
    Own(Arc<TempDir>),
    Given(PathBuf),
}

impl Data {
    fn path(&self) -> &Path {
        match self {
            Self::Own(folder) => folder.path(),
            Self::Given(path) => path,
        }
    }
}

/// The program that was built beside this one.
fn program() -> anyhow::Result<PathBuf> {
    if let Some(named) = std::env::var_os("PUKKA_PROGRAM") {
        return Ok(named.into());
    }
    let own = std::env::current_exe()?;
    let folder = own.ancestors().find(|folder| folder.join("pukka").is_file());
    folder.map(|folder| folder.join("pukka")).context("pukka was not built: run cargo build --workspace first")
}

/// A clock that stands still.
const STOPPED: [&str; 2] = ["--now", "2026-11-22T10:30:00Z"];

impl Server {
    /// Starts `pukka serve` on an empty data folder.
    ///
    /// # Errors
    /// When the program cannot be started.
    pub fn serve() -> anyhow::Result<Self> {
        Self::start("serve", Data::Own(Arc::new(TempDir::new()?)), &[])
    }

    /// Starts the demo with its clock stopped.
    ///
    /// # Errors
    /// When the program cannot be started.
    pub fn demo() -> anyhow::Result<Self> {
        Self::demo_with(&STOPPED)
    }

    /// Starts the demo, its stand-in bench so many times as fast as life.
    ///
    /// # Errors
    /// When the program cannot be started.
    pub fn demo_at_speed(times: u32) -> anyhow::Result<Self> {
        Self::demo_with(&["--speed", &times.to_string()])
    }

    /// Starts the demo with more arguments.
    ///
    /// # Errors
    /// When the program cannot be started.
    pub fn demo_with(more: &[&str]) -> anyhow::Result<Self> {
        Self::start("demo", Data::Own(Arc::new(TempDir::new()?)), &[&["--this-season"], more].concat())
    }

    /// Starts the demo with all of its shelf, its clock stopped.
    ///
    /// # Errors
    /// When the program cannot be started.
    pub fn whole_demo() -> anyhow::Result<Self> {
        Self::start("demo", Data::Own(Arc::new(TempDir::new()?)), &STOPPED)
    }

    /// Starts `pukka serve` on a folder.
    ///
    /// # Errors
    /// When the program cannot be started.
    pub fn serve_at(folder: &Path) -> anyhow::Result<Self> {
        Self::start("serve", Data::Given(folder.to_owned()), &[])
    }

    fn start(what: &str, data: Data, more: &[&str]) -> anyhow::Result<Self> {
        let mut child = Command::new(program()?)
            .args([what, "--data"])
            .arg(data.path())
            .args(if more.contains(&"--listen") { &[][..] } else { &["--listen", "127.0.0.1:0"] })
            .args(more)
            .stdout(Stdio::piped())
            .spawn()?;
        let output = child.stdout.take().context("no output")?;
        let mut line = String::new();
        BufReader::new(output).read_line(&mut line)?;
        let url = line.trim().strip_prefix("Pukka is at ").map(str::to_owned);
        let Some(url) = url else {
            // It said nothing: it has ended, or must.
            let _ = child.kill();
            let _ = child.wait();
            anyhow::bail!("pukka did not start: {line:?}");
        };
        Ok(Self { child, url, data })
    }

    /// Ends it as a power cut would, and starts it again on the same data.
    ///
    /// # Errors
    /// When the program cannot be started.
    pub fn kill_and_restart(mut self) -> anyhow::Result<Self> {
        let data = self.data.clone();
        self.child.kill()?;
        self.child.wait()?;
        Self::start("serve", data, &[])
    }

    /// Ends it as a power cut would.
    ///
    /// # Errors
    /// When it cannot be ended.
    pub fn kill(&mut self) -> anyhow::Result<()> {
        self.child.kill()?;
        self.child.wait()?;
        Ok(())
    }

    /// Starts it again after [`Server::kill`], at the same address and on the same data.
    ///
    /// # Errors
    /// When the program cannot be started.
    pub fn start_again(&mut self) -> anyhow::Result<()> {
        let address = self.url.strip_prefix("http://").context("no address")?.to_owned();
        *self = Self::start("serve", self.data.clone(), &["--listen", &address])?;
        Ok(())
    }

    /// An answer of its HTTP interface.
    ///
    /// # Errors
    /// When it refuses.
    pub fn get(&self, path: &str) -> anyhow::Result<Value> {
        Ok(ureq::get(&format!("{}{path}", self.url)).call()?.body_mut().read_json()?)
    }

    /// The answer to something sent to its HTTP interface.
    ///
    /// # Errors
    /// When it refuses.
    pub fn post(&self, path: &str, body: &Value) -> anyhow::Result<Value> {
        let mut answer = ureq::post(&format!("{}{path}", self.url)).config().http_status_as_error(false).build().send_json(body)?;
        let text = answer.body_mut().read_to_string()?;
        anyhow::ensure!(answer.status().is_success(), "{path} answers {}: {text}", answer.status());
        Ok(serde_json::from_str(&text)?)
    }

    /// Puts an amplifier with its claims on the shelf: its id, and that of its session.
    ///
    /// # Errors
    /// When it refuses.
    pub fn put_on_the_shelf(&self, amplifier: &Value, claims: &[Value]) -> anyhow::Result<(String, String)> {
        let added = self.post("/api/amplifiers", amplifier)?;
        let id = |name: &str| added[name].as_str().map(str::to_owned).context("no id");
        let (amplifier, session) = (id("id")?, id("session_id")?);
        for claim in claims {
            self.post(&format!("/api/amplifiers/{amplifier}/claims"), claim)?;
        }
        Ok((amplifier, session))
    }

    /// Changes the stand-in bench of the demo: a fault, a load.
    ///
    /// # Errors
    /// When it refuses.
    pub fn stand_in(&self, change: &Value) -> anyhow::Result<()> {
        ureq::put(&format!("{}/api/stand-in", self.url)).send_json(change)?;
        Ok(())
    }

    /// Id of the amplifier on its shelf that has this name.
    ///
    /// # Errors
    /// When there is none.
    pub fn amplifier(&self, name: &str) -> anyhow::Result<String> {
        let shelf = self.get("/api/amplifiers")?;
        let mut all = shelf["amplifiers"].as_array().into_iter().flatten();
        let found = all.find(|item| item["summary"]["name"] == name).and_then(|item| item["id"].as_str());
        found.map(str::to_owned).with_context(|| format!("there is no {name} on the shelf"))
    }

    /// Data folder.
    #[must_use]
    pub fn data(&self) -> &Path {
        self.data.path()
    }

    /// Process id.
    #[must_use]
    pub fn pid(&self) -> u32 {
        self.child.id()
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        // Already ended is ended too.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
