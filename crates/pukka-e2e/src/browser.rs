//! Headless Chromium through ChromeDriver.

use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};
use std::sync::Mutex;
use std::time::{Duration, Instant};

use anyhow::Context;
use fantoccini::actions::{InputSource, KeyAction, KeyActions};
use fantoccini::elements::Element;
use fantoccini::key::Key;
use fantoccini::{Client, ClientBuilder, Locator};
use serde_json::{Value, json};
use tempfile::TempDir;

use crate::PATIENCE;

/// Keys that are not letters.
#[derive(Debug, Clone, Copy)]
pub enum Keys {
    /// Enter.
    Enter,
    /// Esc.
    Escape,
    /// Tab.
    Tab,
    /// Arrow up.
    Up,
    /// Arrow down.
    Down,
    /// Arrow left.
    Left,
    /// Arrow right.
    Right,
    /// Backspace.
    Backspace,
    /// A key with Ctrl held.
    Ctrl(char),
}

impl Keys {
    fn code(self) -> char {
        match self {
            Self::Enter => Key::Enter.into(),
            Self::Escape => Key::Escape.into(),
            Self::Tab => Key::Tab.into(),
            Self::Up => Key::Up.into(),
            Self::Down => Key::Down.into(),
            Self::Left => Key::Left.into(),
            Self::Right => Key::Right.into(),
            Self::Backspace => Key::Backspace.into(),
            Self::Ctrl(c) => c,
        }
    }
}

/// Time after a digit in which the page takes no letter for a command, and a little more.
const BEHIND_A_DIGIT: Duration = Duration::from_millis(1_100);

/// Two presses this far apart are two, and a little more.
const BETWEEN_TWO_PRESSES: Duration = Duration::from_millis(450);

/// A browser with one window.
#[derive(Debug)]
pub struct Browser {
    /// The WebDriver client, for what is not wrapped here.
    pub client: Client,
    driver: Mutex<Option<Child>>,
    last_digit: Mutex<Option<Instant>>,
    port: u16,
    session: String,
    _profile: TempDir,
}

const FLAGS: [&str; 10] = [
    "--hide-scrollbars",
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--force-color-profile=srgb",
];

impl Browser {
    /// Opens a window whose page is `width` by `height`.
    ///
    /// # Errors
    /// When Chromium or its driver is missing or does not start.
    pub async fn open(width: u32, height: u32) -> anyhow::Result<Self> {
        Self::open_with(width, height, &[]).await
    }

    /// Likewise, with more flags for Chromium.
    ///
    /// # Errors
    /// When Chromium or its driver is missing or does not start.
    pub async fn open_with(width: u32, height: u32, flags: &[&str]) -> anyhow::Result<Self> {
        // Several that start at once may be after one port: the next try gets another.
        let (driver, port) = (0..3).find_map(|_| start_driver().ok()).map_or_else(start_driver, Ok)?;
        let profile = TempDir::new()?;
        let mut args: Vec<String> = FLAGS.iter().chain(flags).map(|flag| (*flag).to_owned()).collect();
        args.push(format!("--user-data-dir={}", profile.path().display()));
        let capabilities = json!({
            "goog:chromeOptions": { "args": args },
            "goog:loggingPrefs": { "browser": "ALL", "performance": "ALL" },
        });
        let connector = hyper_util::client::legacy::connect::HttpConnector::new();
        let client = ClientBuilder::new(connector)
            .capabilities(capabilities.as_object().cloned().context("capabilities")?)
            .connect(&format!("http://127.0.0.1:{port}"))
            .await?;
        let session = client.session_id().await?.context("the driver gave no session")?;
        let browser = Self { client, driver: Mutex::new(Some(driver)), last_digit: Mutex::new(None), port, session, _profile: profile };
        browser.resize(width, height).await?;
        Ok(browser)
    }

    /// Sets the size of the page, not of the window around it.
    ///
    /// # Errors
    /// When the driver refuses.
    pub async fn resize(&self, width: u32, height: u32) -> anyhow::Result<()> {
        let metrics = json!({ "width": width, "height": height, "deviceScaleFactor": 1, "mobile": false });
        self.devtools("Emulation.setDeviceMetricsOverride", metrics).await?;
        Ok(())
    }

    /// Makes every answer of the network come so many milliseconds later.
    ///
    /// # Errors
    /// When the driver refuses.
    pub async fn latency(&self, ms: u32) -> anyhow::Result<()> {
        self.devtools("Network.enable", json!({})).await?;
        let slow = json!({ "offline": false, "latency": ms, "downloadThroughput": -1, "uploadThroughput": -1 });
        self.devtools("Network.emulateNetworkConditions", slow).await?;
        Ok(())
    }

    /// Evaluates an expression in the page.
    ///
    /// # Errors
    /// When the page throws.
    pub async fn value(&self, expression: &str) -> anyhow::Result<Value> {
        Ok(self.client.execute(&format!("return {expression}"), vec![]).await?)
    }

    /// Text that stands in the entry line.
    ///
    /// # Errors
    /// When there is none.
    pub async fn line(&self) -> anyhow::Result<String> {
        Ok(self.value("document.getElementById('entry-line').value").await?.as_str().context("no entry line")?.to_owned())
    }

    /// Whether the middle of the first element with this selector is on the screen, and nothing lies over it.
    ///
    /// # Errors
    /// When the page throws.
    pub async fn in_sight(&self, css: &str) -> anyhow::Result<bool> {
        let look = "const at = document.querySelector(arguments[0]);
            if (!at) return false;
            const box = at.getBoundingClientRect();
            const seen = document.elementFromPoint(box.x + box.width / 2, box.y + box.height / 2);
            return seen !== null && (at.contains(seen) || seen.contains(at) && seen.tagName !== 'HTML' && seen.tagName !== 'BODY');";
        Ok(self.client.execute(look, vec![json!(css)]).await? == true)
    }

    /// Calls the browser's own debugging interface.
    ///
    /// # Errors
    /// When the driver refuses.
    pub async fn devtools(&self, command: &str, params: Value) -> anyhow::Result<Value> {
        self.raw("goog/cdp/execute", json!({ "cmd": command, "params": params })).await
    }

    async fn raw(&self, path: &str, body: Value) -> anyhow::Result<Value> {
        let url = format!("http://127.0.0.1:{}/session/{}/{path}", self.port, self.session);
        tokio::task::spawn_blocking(move || -> anyhow::Result<Value> { Ok(ureq::post(&url).send_json(body)?.body_mut().read_json()?) })
            .await?
    }

    /// Log entries of the console that are errors, and requests made since the last call, by address.
    ///
    /// # Errors
    /// When the driver refuses.
    pub async fn logs(&self) -> anyhow::Result<(Vec<String>, Vec<String>)> {
        let console = self.raw("se/log", json!({ "type": "browser" })).await?;
        let entries = console["value"].as_array().cloned().unwrap_or_default();
        let errors = entries.iter().filter(|entry| entry["level"] == "SEVERE").map(|entry| entry["message"].to_string()).collect();
        let network = self.raw("se/log", json!({ "type": "performance" })).await?;
        let events = network["value"].as_array().cloned().unwrap_or_default();
        let requests = events
            .iter()
            .filter_map(|event| serde_json::from_str::<Value>(event["message"].as_str()?).ok())
            .filter(|event| event["message"]["method"] == "Network.requestWillBeSent")
            .filter_map(|event| event["message"]["params"]["request"]["url"].as_str().map(str::to_owned))
            .collect();
        Ok((errors, requests))
    }

    /// Opens an address.
    ///
    /// # Errors
    /// When the page does not load.
    pub async fn goto(&self, url: &str) -> anyhow::Result<()> {
        Ok(self.client.goto(url).await?)
    }

    /// Waits for an element.
    ///
    /// # Errors
    /// When it does not come.
    pub async fn wait(&self, css: &str) -> anyhow::Result<Element> {
        self.client.wait().at_most(PATIENCE).for_element(Locator::Css(css)).await.with_context(|| format!("no {css}"))
    }

    /// Waits until the page shows a text.
    ///
    /// # Errors
    /// When it does not come; says what the page shows instead.
    pub async fn see(&self, text: &str) -> anyhow::Result<()> {
        self.until(&format!("the page shows “{text}”"), async || Ok(self.text().await?.contains(text))).await
    }

    /// Waits until the page's own heading is this one.
    ///
    /// # Errors
    /// When it is not; says what the page shows instead.
    pub async fn heading(&self, text: &str) -> anyhow::Result<()> {
        let read = "return document.querySelector('main h2, main h1')?.innerText ?? ''";
        self.until(&format!("the heading is “{text}”"), async || {
            let heading = self.client.execute(read, vec![]).await?;
            Ok(heading.as_str().is_some_and(|heading| heading.replace('\u{202f}', " ") == text))
        })
        .await
    }

    /// Waits until the page no longer shows a text.
    ///
    /// # Errors
    /// When it stays.
    pub async fn see_no(&self, text: &str) -> anyhow::Result<()> {
        self.until(&format!("“{text}” is gone"), async || Ok(!self.text().await?.contains(text))).await
    }

    /// Waits for a condition.
    ///
    /// # Errors
    /// When it does not come about; says what the page shows instead.
    pub async fn until(&self, what: &str, condition: impl AsyncFn() -> anyhow::Result<bool>) -> anyhow::Result<()> {
        let start = Instant::now();
        while !condition().await? {
            if start.elapsed() > PATIENCE {
                anyhow::bail!("waited in vain until {what}; the page shows:\n{}", self.text().await?);
            }
            tokio::time::sleep(Duration::from_millis(25)).await;
        }
        Ok(())
    }

    /// Text of the page, narrow spaces as plain ones.
    ///
    /// # Errors
    /// When the driver refuses.
    pub async fn text(&self) -> anyhow::Result<String> {
        let text = self.client.execute("return document.body?.innerText ?? ''", vec![]).await?;
        Ok(text.as_str().unwrap_or_default().replace(['\u{202f}', '\u{a0}'], " "))
    }

    /// Types into whatever has the focus.
    ///
    /// # Errors
    /// When nothing has it.
    pub async fn type_text(&self, text: &str) -> anyhow::Result<()> {
        self.client.active_element().await?.send_keys(text).await?;
        self.note_digits(text);
        Ok(())
    }

    /// Types at the page, whatever has the focus, one key every so many milliseconds; `⏎` is Enter.
    ///
    /// # Errors
    /// When the driver refuses.
    pub async fn type_steadily(&self, text: &str, every_ms: u64) -> anyhow::Result<()> {
        let mut actions = KeyActions::new("keyboard".into());
        for letter in text.chars() {
            let value = if letter == '⏎' { Key::Enter.into() } else { letter };
            actions = actions.then(KeyAction::Down { value }).then(KeyAction::Up { value });
            actions = actions.then(KeyAction::Pause { duration: Duration::from_millis(every_ms) });
        }
        self.client.perform_actions(actions).await?;
        self.note_digits(text);
        Ok(())
    }

    fn note_digits(&self, text: &str) {
        if text.bytes().any(|byte| byte.is_ascii_digit()) {
            *self.last_digit.lock().unwrap_or_else(std::sync::PoisonError::into_inner) = Some(Instant::now());
        }
    }

    /// Waits as a person does between a figure and a command: right behind a digit no letter is one.
    async fn hands_off(&self) {
        let last = *self.last_digit.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        if let Some(left) = last.and_then(|last| BEHIND_A_DIGIT.checked_sub(last.elapsed())) {
            tokio::time::sleep(left).await;
        }
    }

    /// Presses a key, as a person would: at the page, not at an element.
    ///
    /// # Errors
    /// When the driver refuses.
    pub async fn press(&self, key: Keys) -> anyhow::Result<()> {
        let value = key.code();
        let mut actions = KeyActions::new("keyboard".into());
        if matches!(key, Keys::Ctrl(_)) {
            actions = actions.then(KeyAction::Down { value: Key::Control.into() });
        }
        actions = actions.then(KeyAction::Down { value }).then(KeyAction::Up { value });
        if matches!(key, Keys::Ctrl(_)) {
            actions = actions.then(KeyAction::Up { value: Key::Control.into() });
        }
        Ok(self.client.perform_actions(actions).await?)
    }

    /// Presses a letter key at the page.
    ///
    /// # Errors
    /// When the driver refuses.
    pub async fn press_letter(&self, letter: char) -> anyhow::Result<()> {
        self.hands_off().await;
        let actions = KeyActions::new("keyboard".into()).then(KeyAction::Down { value: letter }).then(KeyAction::Up { value: letter });
        Ok(self.client.perform_actions(actions).await?)
    }

    /// Presses a key as a second, separate press: not the other half of a double one.
    ///
    /// # Errors
    /// When the driver refuses.
    pub async fn press_again(&self, key: Keys) -> anyhow::Result<()> {
        tokio::time::sleep(BETWEEN_TWO_PRESSES).await;
        self.press(key).await
    }

    /// Ticks the cautions before a first run, one by one with Space.
    ///
    /// # Errors
    /// When one cannot be ticked.
    pub async fn tick_the_cautions(&self) -> anyhow::Result<()> {
        let left =
            "return document.querySelectorAll('section[aria-label=\"Before the first run\"] [role=checkbox][aria-checked=false]').length";
        let count = async || Ok::<_, anyhow::Error>(self.client.execute(left, vec![]).await?.as_u64().unwrap_or(0));
        while let before @ 1.. = count().await? {
            self.press_letter(' ').await?;
            self.until("a caution is ticked", async || Ok(count().await? < before)).await?;
        }
        Ok(())
    }

    /// Chooses the radio button with this label.
    ///
    /// # Errors
    /// When there is none.
    pub async fn choose(&self, label: &str) -> anyhow::Result<()> {
        let path = format!("//label[normalize-space(.)={label:?}]");
        let found = self.client.wait().at_most(PATIENCE).for_element(Locator::XPath(&path)).await;
        Ok(found.with_context(|| format!("no label “{label}”"))?.click().await?)
    }

    /// Value of the field with this label.
    ///
    /// # Errors
    /// When there is no such field.
    pub async fn field(&self, label: &str) -> anyhow::Result<Element> {
        // One that can be seen, before one in a part that is closed.
        let find = "const named = [...document.querySelectorAll('label')].filter((l) => l.textContent.trim().startsWith(arguments[0]));
            return (named.find((l) => l.checkVisibility()) ?? named[0])?.htmlFor";
        let mut id = Value::Null;
        self.until(&format!("there is a field “{label}”"), async || {
            Ok(self.client.execute(find, vec![json!(label)]).await?.is_string())
        })
        .await?;
        if let Value::String(found) = self.client.execute(find, vec![json!(label)]).await? {
            id = Value::String(found);
        }
        let id = id.as_str().context("the label names no field")?;
        Ok(self.client.find(Locator::Id(id)).await?)
    }

    /// Fills the field with this label.
    ///
    /// # Errors
    /// When there is no such field.
    pub async fn fill(&self, label: &str, text: &str) -> anyhow::Result<()> {
        let field = self.field(label).await?;
        if field.attr("role").await?.as_deref() == Some("combobox") {
            field.click().await?;
            let option = format!("[role=option][data-value={text:?}]");
            self.client.wait().at_most(PATIENCE).for_element(Locator::Css(&option)).await?.click().await?;
            let closed = async || Ok(self.client.find_all(Locator::Css("[role=listbox]")).await?.is_empty());
            return self.until("the list is closed", closed).await;
        }
        field.send_keys(&format!("{}a", char::from(Key::Control))).await?;
        field.send_keys(&format!("{}{}", char::from(Key::Null), char::from(Key::Backspace))).await?;
        field.send_keys(text).await?;
        self.note_digits(text);
        Ok(())
    }

    /// Clicks the button or link with these words.
    ///
    /// # Errors
    /// When there is none.
    pub async fn click(&self, words: &str) -> anyhow::Result<()> {
        // Narrow spaces of figures count as plain ones; a key shown on it is no part of its words.
        let path = format!(
            "//*[self::button or self::a][translate(normalize-space(.), '\u{202f}', ' ')={words:?} or translate(@aria-label, '\u{202f}', ' ')={words:?} or .//kbd and starts-with(normalize-space(.), {:?})]",
            format!("{words} ")
        );
        let start = Instant::now();
        loop {
            let found = self.client.wait().at_most(PATIENCE).for_element(Locator::XPath(&path)).await;
            let button = found.with_context(|| format!("no button “{words}”"))?;
            match self.press_on(button).await {
                // The page drew it anew between the look and the click: a person clicks what is there.
                Err(why) if why.to_string().contains("stale element") && start.elapsed() < PATIENCE => {}
                done => return done,
            }
        }
    }

    async fn press_on(&self, button: Element) -> anyhow::Result<()> {
        // As a person would: out from under the bars that stand at the edges.
        self.client.execute("arguments[0].scrollIntoView({ block: 'center' })", vec![serde_json::to_value(&button)?]).await?;
        Ok(button.click().await?)
    }

    /// A picture of the page.
    ///
    /// # Errors
    /// When the driver refuses.
    pub async fn picture(&self) -> anyhow::Result<Vec<u8>> {
        Ok(self.client.screenshot().await?)
    }

    /// Closes the window and ends the driver.
    ///
    /// # Errors
    /// When the driver does not answer.
    pub async fn close(&self) -> anyhow::Result<()> {
        let closed = self.client.clone().close().await;
        self.end_driver();
        Ok(closed?)
    }

    fn end_driver(&self) {
        let driver = self.driver.lock().unwrap_or_else(std::sync::PoisonError::into_inner).take();
        if let Some(mut driver) = driver {
            // Already ended is ended too.
            let _ = driver.kill();
            let _ = driver.wait();
        }
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        self.end_driver();
    }
}

/// Starts ChromeDriver on a free port and keeps reading what it prints, so that it never blocks.
fn start_driver() -> anyhow::Result<(Child, u16)> {
    let mut child = Command::new("chromedriver")
        .arg("--port=0")
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .context("ChromeDriver is missing: cargo xtask test installs it, or apt-get install chromium chromium-driver")?;
    let mut lines = BufReader::new(child.stdout.take().context("no output")?).lines();
    let port = lines
        .by_ref()
        .map_while(Result::ok)
        .find_map(|line| line.split_once("started successfully on port ").map(|(_, port)| port.trim_end_matches('.').to_owned()))
        .context("ChromeDriver named no port")?
        .parse()?;
    std::thread::spawn(move || lines.for_each(drop));
    Ok((child, port))
}
