//! What the program does on files, as another program would use it.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

use std::io::Write as _;
use std::process::{Command, Output, Stdio};

use serde_json::{Value, json};

fn pukka(args: &[&str], input: &str) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_pukka"))
        .args(args)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    child.stdin.take().unwrap().write_all(input.as_bytes()).unwrap();
    child.wait_with_output().unwrap()
}

#[test]
fn claims_of_a_text_file_as_json() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("spec.txt");
    std::fs::write(&file, "\u{feff}RMS Power @ 4 Ohms: 2 x 75 Watts (14.4V, 1% THD)\r\n1200 W max\r\nColour: black\r\n").unwrap();
    let output = pukka(&["claims", file.to_str().unwrap(), "--json"], "");
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let answer: Value = serde_json::from_slice(&output.stdout).unwrap();
    let first = &answer["claims"][0];
    assert_eq!(first["wiring"], json!({ "kind": "channels", "driven": 2 }));
    assert_eq!(
        (&first["load_ohm"], &first["power_w"], &first["per"], &first["kind"]),
        (&json!(4.0), &json!(75.0), &json!("output"), &json!("rms"))
    );
    assert_eq!((&first["supply_v"], &first["thd_limit_ratio"]), (&json!(14.4), &json!(0.01)));
    assert_eq!(first["text"], "RMS Power @ 4 Ohms: 2 x 75 Watts (14.4V, 1% THD)");
    assert_eq!((&answer["claims"][1]["kind"], &answer["claims"][1]["wiring"]), (&json!("max"), &Value::Null));
    assert_eq!(answer["not_understood"], json!(["Colour: black"]));
}

#[test]
fn claims_for_people_and_from_a_pipe() {
    let output = pukka(&["claims", "-"], "4 Ω: 4 x 90 W RMS\nWeight 2 kg\n");
    let text = String::from_utf8_lossy(&output.stdout).replace('\u{202f}', " ");
    assert!(text.contains("4 channels, 90 W, 4 Ω, rms") && text.contains("not understood: Weight 2 kg"), "{text}");
}

#[test]
fn a_file_that_is_not_there_is_said_so() {
    let output = pukka(&["claims", "/nowhere/spec.txt"], "");
    assert!(!output.status.success());
    assert!(String::from_utf8_lossy(&output.stderr).contains("/nowhere/spec.txt cannot be read"));
}
