//! What once crashed the session reader, or what came after it, is kept in `crashers` and tried again. The fuzzer in `fuzz/` finds more.

use std::path::Path;

use pukka_core::record::session::SessionFile;

include!("../support/survives.rs");

fn files(folder: &str) -> Vec<(String, Vec<u8>)> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join(folder);
    let entries = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    entries.map(|path| (path.file_name().unwrap().to_string_lossy().into_owned(), std::fs::read(&path).unwrap())).collect()
}

#[test]
fn what_once_crashed_does_not() {
    let all = files("tests/crashers");
    assert!(!all.is_empty());
    for (name, bytes) in all {
        match SessionFile::read(&bytes) {
            Ok(read) => survives(&read.session),
            Err(problems) => assert!(!problems.is_empty(), "{name} is refused without a reason"),
        }
    }
}

#[test]
fn every_session_of_the_demo_survives() {
    let all = files("../pukka/demo");
    let sessions = all.iter().filter(|(name, _)| name != "ferry-lane-bench.json");
    assert_eq!(sessions.clone().count(), 12);
    for (name, bytes) in sessions {
        survives(&SessionFile::read(bytes).unwrap_or_else(|problems| panic!("{name}: {problems:?}")).session);
    }
    // The older ones stand in one file.
    let (_, shelf) = files("../pukka/demo-earlier").pop().unwrap();
    let earlier: Vec<serde_json::Value> = serde_json::from_slice(&shelf).unwrap();
    assert_eq!(earlier.len(), 27);
    for file in earlier {
        survives(&SessionFile::read(file.to_string().as_bytes()).unwrap().session);
    }
}
