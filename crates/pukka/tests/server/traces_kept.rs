//! Recordings in the long run: in backups and copies, found by a check where they are damaged, drawn on the sheet and the site.

use std::fs;
use std::path::Path;
use std::process::{Command, Output};

use crate::common::{agent, claim, mono};
use crate::program::Program;
use crate::wave::{clean, wav};
use serde_json::{Value, json};

fn pukka(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_pukka")).args(args).output().unwrap()
}

fn path(path: &Path) -> &str {
    path.to_str().unwrap()
}

fn findings(data: &Path) -> Vec<String> {
    let output = pukka(&["check", "--json", "--data", path(data)]);
    let report: Value = serde_json::from_slice(&output.stdout).unwrap();
    assert_eq!(report["traces"], 1, "{report}");
    report["findings"].as_array().unwrap().iter().map(|finding| finding["code"].as_str().unwrap().to_owned()).collect()
}

/// A program with one run that was logged off a recording; its session, and the recording's hash.
fn with_a_traced_run(data: &Path) -> (Program, String, String) {
    let program = Program::start(data);
    let made = program.post("/api/amplifiers", &mono());
    let (id, session) = (made["id"].as_str().unwrap().to_owned(), made["session_id"].as_str().unwrap().to_owned());
    program.post(&format!("/api/amplifiers/{id}/claims"), &claim(4.0, 400.0));
    let url = format!("{}/api/sessions/{session}/traces", program.url);
    let sent = agent().post(format!("{url}?name=tone.wav")).content_type("application/octet-stream").send(wav(clean).as_slice());
    let added: Value = sent.unwrap().body_mut().read_json().unwrap();
    let sha256 = added["sha256"].as_str().unwrap().to_owned();
    let channels = json!([{ "kind": "output", "scale": 100.0 }, { "kind": "supply-volts", "scale": 20.0 }]);
    let said = agent().put(format!("{url}/{sha256}")).send_json(json!({ "name": "tone.wav", "channels": channels })).unwrap();
    assert_eq!(said.status(), 204);
    let cut = json!({ "channel": 0, "kind": "tone", "from_s": 0.0, "to_s": 1.0 });
    program
        .post(&format!("/api/sessions/{session}/traces/{sha256}/runs"), &json!({ "cut": cut, "rung": "mono@4@40", "mode": "certified" }));
    (program, session, sha256)
}

#[test]
fn a_backup_has_the_recording_and_a_restore_brings_it_back() {
    let (data, files, to) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (program, session, sha256) = with_a_traced_run(data.path());
    let backup = files.path().join("backup.zip");
    let made = pukka(&["backup", "--data", path(data.path()), "--to", path(&backup)]);
    assert!(made.status.success() && String::from_utf8_lossy(&made.stdout).contains("1 traces"), "{made:?}");
    let copied = agent().post(format!("{}/api/upkeep/copies", program.url)).send_json(json!({})).unwrap();
    assert!(copied.status().is_success());
    assert!(data.path().join("backups/traces").join(&sha256).is_file(), "dated copies have it too");
    drop(program);
    assert!(pukka(&["restore", path(&backup), "--data", path(to.path())]).status.success());
    assert_eq!(findings(to.path()), Vec::<String>::new());
    let restored = Program::start(to.path());
    let traces = restored.get(&format!("/api/sessions/{session}/traces"));
    assert_eq!((&traces["traces"][0]["is_there"], traces["traces"][0]["runs"].as_array().unwrap().len()), (&json!(true), 1));
}

#[test]
fn a_check_finds_a_recording_that_is_damaged_gone_or_nobodys() {
    let data = tempfile::tempdir().unwrap();
    let (program, _, sha256) = with_a_traced_run(data.path());
    drop(program);
    let file = data.path().join("traces").join(&sha256);
    let whole = fs::read(&file).unwrap();
    assert_eq!(findings(data.path()), Vec::<String>::new());
    let mut other = whole.clone();
    other[5_000] ^= 1;
    fs::write(&file, &other).unwrap();
    assert_eq!(findings(data.path()), ["file-changed"]);
    fs::remove_file(&file).unwrap();
    fs::write(data.path().join("traces/left behind"), b"x").unwrap();
    let mut found = findings(data.path());
    found.sort();
    assert_eq!(found, ["file-missing", "orphan"]);
    // Without its file a trace is still named, and its run stands: what was read was read.
    let program = Program::start(data.path());
    let shelf = program.get("/api/amplifiers");
    assert_eq!(shelf["amplifiers"][0]["summary"]["logged"], 1);
}

#[test]
fn the_sheet_and_the_site_draw_it_and_neither_says_what_its_recorder_wrote() {
    let (data, out) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (program, session, _) = with_a_traced_run(data.path());
    let url = format!("{}/api/sessions/{session}/sheet.html", program.url);
    let page = agent().get(&url).call().unwrap().body_mut().with_config().limit(16_000_000).read_to_string().unwrap();
    assert!(page.contains("class=\"chart wave\"") && page.contains("4\u{202f}Ω, certified: tone.wav"), "the wave is on the sheet");
    assert!(page.contains("from a captured wave") && !page.contains("SECRET"));
    let made = pukka(&["site", "--data", path(data.path()), "--out", path(out.path())]);
    assert!(made.status.success(), "{made:?}");
    let mut folders = vec![out.path().to_owned()];
    let mut waves = 0;
    while let Some(folder) = folders.pop() {
        for entry in fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                folders.push(path);
                continue;
            }
            let bytes = fs::read(&path).unwrap();
            assert!(!bytes.windows(6).any(|six| six == b"SECRET"), "{}", path.display());
            waves += usize::from(bytes.windows(18).any(|part| part == b"class=\"chart wave\""));
        }
    }
    assert_eq!(waves, 1, "the sheet of the one amplifier");
}
