//! A server on a free port with an empty data folder, and a client that reads refusals too.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]
#![allow(dead_code, reason = "each test file uses its own part")]

use std::sync::mpsc;
use std::time::Duration;

use pukka::clock::Clock;
use pukka::serve::{Settings, launch};
use serde_json::{Value, json};
use tempfile::TempDir;

pub struct Bench {
    pub url: String,
    agent: ureq::Agent,
    stop: Option<tokio::sync::oneshot::Sender<()>>,
    thread: Option<std::thread::JoinHandle<()>>,
    data: TempDir,
}

pub struct Answer {
    pub status: u16,
    pub kind: String,
    pub text: String,
    headers: ureq::http::HeaderMap,
}

impl Answer {
    pub fn json(&self) -> Value {
        serde_json::from_str(&self.text).unwrap_or_else(|why| panic!("{why}: {}", self.text))
    }

    pub fn header(&self, name: &str) -> Option<String> {
        self.headers.get(name).map(|value| value.to_str().unwrap().to_owned())
    }

    /// Code, and the paths of what is wrong.
    pub fn refusal(&self) -> (u16, String, Vec<String>) {
        assert_eq!(self.kind, "application/problem+json", "{} {}", self.status, self.text);
        let body = self.json();
        let detail = body["detail"].as_str().unwrap();
        assert!(detail.ends_with(['.', '?']) && detail.len() > 10, "a plain sentence, not {detail:?}");
        assert_eq!(body["type"], format!("urn:pukka:problem:{}", body["code"].as_str().unwrap()));
        assert_eq!(body["status"], self.status);
        assert!(body["title"].as_str().is_some_and(|title| !title.is_empty()));
        let paths = body["problems"].as_array().unwrap().iter().map(|p| p["path"].as_str().unwrap().to_owned()).collect();
        (self.status, body["code"].as_str().unwrap().to_owned(), paths)
    }
}

impl Bench {
    pub fn start() -> Self {
        Self::with(None, 1.0)
    }

    /// The demo, its stand-in bench so many times as fast as life.
    pub fn demo(speed: f64) -> Self {
        Self::with(Some(pukka::demo::Extent::Season), speed)
    }

    fn with(demo: Option<pukka::demo::Extent>, speed: f64) -> Self {
        let data = TempDir::new().unwrap();
        let settings = Settings {
            data: data.path().to_owned(),
            clock: Clock::System,
            demo,
            speed,
            reach: pukka::http::Reach::default(),
            watchdog: None,
        };
        let (stop, told) = tokio::sync::oneshot::channel::<()>();
        let (tell, told_where) = mpsc::channel();
        let thread = std::thread::spawn(move || {
            let runtime = tokio::runtime::Builder::new_multi_thread().worker_threads(2).enable_all().build().unwrap();
            runtime.block_on(async {
                let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
                tell.send(listener.local_addr().unwrap()).unwrap();
                launch(settings, listener, async {
                    // A dropped sender is a word to stop, too.
                    let _ = told.await;
                })
                .await
                .unwrap();
            });
        });
        let address = told_where.recv().unwrap();
        Self { url: format!("http://{address}"), agent: agent(), stop: Some(stop), thread: Some(thread), data }
    }

    /// Folder of its data.
    pub fn folder(&self) -> &std::path::Path {
        self.data.path()
    }

    pub fn get(&self, path: &str) -> Answer {
        answer(self.agent.get(&format!("{}{path}", self.url)).call())
    }

    /// What a download holds.
    pub fn bytes(&self, path: &str) -> Vec<u8> {
        let mut answer = self.agent.get(&format!("{}{path}", self.url)).call().unwrap();
        assert_eq!(answer.status(), 200, "{path}");
        answer.body_mut().read_to_vec().unwrap()
    }

    /// Sends a file: a picture, a zip.
    pub fn send_bytes(&self, method: &str, path: &str, bytes: &[u8], headers: &[(&str, &str)]) -> Answer {
        let mut request = ureq::http::Request::builder().method(method).uri(format!("{}{path}", self.url));
        for (name, value) in headers.iter().chain(&[("content-type", "application/octet-stream"), ("x-pukka-tab", "a")]) {
            request = request.header(*name, *value);
        }
        answer(self.agent.run(request.body(bytes.to_vec()).unwrap()))
    }

    pub fn send(&self, method: &str, path: &str, body: &str, headers: &[(&str, &str)]) -> Answer {
        let mut request = ureq::http::Request::builder().method(method).uri(format!("{}{path}", self.url));
        if !headers.iter().any(|(name, _)| *name == "content-type") {
            request = request.header("content-type", "application/json");
        }
        for (name, value) in headers {
            request = request.header(*name, *value);
        }
        answer(self.agent.run(request.body(body.to_owned()).unwrap()))
    }

    pub fn post(&self, path: &str, body: &Value) -> Answer {
        self.send("POST", path, &body.to_string(), &[("x-pukka-tab", "a")])
    }

    /// An amplifier with these claims; returns its id and its session's.
    pub fn amplifier(&self, change: impl FnOnce(&mut Value), claims: &[(f64, f64)]) -> (String, String) {
        let mut body = mono();
        change(&mut body);
        let made = self.post("/api/amplifiers", &body);
        assert_eq!(made.status, 201, "{}", made.text);
        let id = made.json()["id"].as_str().unwrap().to_owned();
        for (load, power) in claims {
            let added = self.post(&format!("/api/amplifiers/{id}/claims"), &claim(*load, *power));
            assert_eq!(added.status, 201, "{}", added.text);
        }
        (id, made.json()["session_id"].as_str().unwrap().to_owned())
    }
}

impl Drop for Bench {
    fn drop(&mut self) {
        drop(self.stop.take());
        if let Some(thread) = self.thread.take() {
            // A server that failed has said so in its own thread.
            let _ = thread.join();
        }
    }
}

pub fn agent() -> ureq::Agent {
    ureq::Agent::config_builder().http_status_as_error(false).timeout_global(Some(Duration::from_secs(20))).build().into()
}

fn answer(result: Result<ureq::http::Response<ureq::Body>, ureq::Error>) -> Answer {
    let (parts, mut body) = result.unwrap().into_parts();
    let kind = parts.headers.get("content-type").map(|value| value.to_str().unwrap().to_owned()).unwrap_or_default();
    Answer { status: parts.status.as_u16(), kind, text: body.read_to_string().unwrap(), headers: parts.headers }
}

pub fn mono() -> Value {
    json!({
        "make": "Tolland & Pike", "model": "Mono 1100", "class": "D", "purpose": "subwoofer", "supply_type": "unregulated", "channels": 1,
        "fuses_a": [35, 35, 35], "max_supply_v": 16, "floors": [{ "wiring": { "kind": "mono" }, "load_ohm": 1 }],
        "price": { "amount": 139, "currency": "GBP", "on": "2026-10-02" }, "provenance": "lent"
    })
}

pub fn claim(load: f64, power: f64) -> Value {
    json!({
        "source": "manual", "wiring": { "kind": "mono" }, "load_ohm": load, "power_w": power, "per": "output", "kind": "rms",
        "supply_v": 14.4, "thd_limit_ratio": 0.01
    })
}
