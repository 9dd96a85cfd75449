#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]
#![allow(dead_code, reason = "each test file uses its own part")]

use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};

use serde_json::Value;

/// The real program, in a process of its own.
pub struct Program {
    pub child: Child,
    pub url: String,
}

impl Program {
    pub fn start(data: &Path) -> Self {
        let mut command = Command::new(env!("CARGO_BIN_EXE_pukka"));
        command.args(["serve", "--listen", "127.0.0.1:0", "--data"]).arg(data);
        Self::run(&mut command)
    }

    pub fn run(command: &mut Command) -> Self {
        let mut child = command.stdout(Stdio::piped()).spawn().unwrap();
        let mut line = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
        Self { url: line.trim().trim_start_matches("Pukka is at ").to_owned(), child }
    }

    pub fn post(&self, path: &str, body: &Value) -> Value {
        super::common::agent().post(&format!("{}{path}", self.url)).send_json(body).unwrap().body_mut().read_json().unwrap()
    }
}

impl Program {
    pub fn get(&self, path: &str) -> Value {
        super::common::agent().get(&format!("{}{path}", self.url)).call().unwrap().body_mut().read_json().unwrap()
    }
}

impl Drop for Program {
    fn drop(&mut self) {
        // Already killed is killed too.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
