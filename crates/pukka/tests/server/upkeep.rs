//! Ten years of work: backups that are whole, restores that lose nothing, checks that find what is wrong, records that are damaged
//! and never written to.

use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use crate::common::{claim, mono};
use crate::program::Program;
use serde_json::{Value, json};

fn pukka(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_pukka")).args(args).output().unwrap()
}

fn path(path: &Path) -> &str {
    path.to_str().unwrap()
}

fn said(output: &Output) -> String {
    format!("{}{}", String::from_utf8_lossy(&output.stdout), String::from_utf8_lossy(&output.stderr))
}

/// An amplifier with a claim; its id and its session's.
fn amplifier(program: &Program) -> (String, String) {
    let made = program.post("/api/amplifiers", &mono());
    let id = made["id"].as_str().unwrap().to_owned();
    program.post(&format!("/api/amplifiers/{id}/claims"), &claim(4.0, 450.0));
    (id, made["session_id"].as_str().unwrap().to_owned())
}

fn log(program: &Program, session: &str, watts: f64) {
    let line = format!("{watts}w 14.38v 41.2a");
    program.post(&format!("/api/sessions/{session}/runs"), &json!({ "rung": "mono@4@40", "mode": "certified", "line": line }));
}

fn photo(program: &Program, amplifier: &str, shade: u8) {
    let mut png = std::io::Cursor::new(Vec::new());
    image::RgbImage::from_pixel(8, 8, image::Rgb([shade, 90, 20])).write_to(&mut png, image::ImageFormat::Png).unwrap();
    let url = format!("{}/api/amplifiers/{amplifier}/photos", program.url);
    let sent = crate::common::agent().post(&url).content_type("application/octet-stream").send(png.get_ref().as_slice()).unwrap();
    assert_eq!(sent.status(), 201);
}

fn runs(program: &Program, session: &str) -> usize {
    let ladder = program.get(&format!("/api/sessions/{session}/ladder"));
    ladder["ladder"]["rungs"][0]["cells"][0]["runs"].as_array().unwrap().len()
}

/// Ends a program as a request to end does.
fn end(mut program: Program) {
    assert!(Command::new("kill").arg(program.child.id().to_string()).status().unwrap().success());
    assert!(program.child.wait().unwrap().success());
}

fn checked(data: &Path, more: &[&str]) -> (Option<i32>, Value) {
    let output = pukka(&[&["check", "--json", "--data", path(data)], more].concat());
    (output.status.code(), serde_json::from_slice(&output.stdout).unwrap_or(Value::Null))
}

fn codes(report: &Value) -> Vec<&str> {
    report["findings"].as_array().unwrap().iter().map(|finding| finding["code"].as_str().unwrap()).collect()
}

#[test]
fn a_backup_made_while_readings_are_logged_is_whole_and_comes_back() {
    let (data, files) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let program = Program::start(data.path());
    let (id, session) = amplifier(&program);
    photo(&program, &id, 200);
    let go_on = Arc::new(AtomicBool::new(true));
    let writer = std::thread::spawn({
        let (url, go_on) = (format!("{}/api/sessions/{session}/runs", program.url), Arc::clone(&go_on));
        move || {
            let agent = crate::common::agent();
            let mut logged = 0;
            while go_on.load(Ordering::SeqCst) {
                let body = json!({ "rung": "mono@4@40", "mode": "certified", "line": format!("{}w 14.38v 41.2a", 400 + logged) });
                assert_eq!(agent.post(&url).send_json(&body).unwrap().status(), 201);
                logged += 1;
            }
            logged
        }
    });
    let backups: Vec<PathBuf> = (0..4).map(|n| files.path().join(format!("backup-{n}.zip"))).collect();
    for to in &backups {
        let made = pukka(&["backup", "--data", path(data.path()), "--to", path(to)]);
        assert!(made.status.success(), "{}", said(&made));
    }
    let again = pukka(&["backup", "--data", path(data.path()), "--to", path(&backups[0])]);
    assert!(!again.status.success() && said(&again).contains("is there already"), "{}", said(&again));
    // The button's own, too.
    let mut sent = crate::common::agent().get(format!("{}/api/backup.zip", program.url)).call().unwrap();
    let by_button = files.path().join("button.zip");
    fs::write(&by_button, sent.body_mut().read_to_vec().unwrap()).unwrap();
    go_on.store(false, Ordering::SeqCst);
    let logged = writer.join().unwrap();
    end(program);
    let mut before = 0;
    for from in backups.iter().chain([&by_button]) {
        let to = tempfile::tempdir().unwrap();
        let done = pukka(&["restore", path(from), "--data", path(to.path())]);
        assert!(done.status.success(), "{}", said(&done));
        assert_eq!(checked(to.path(), &[]).0, Some(0));
        let restored = Program::start(to.path());
        let have = runs(&restored, &session);
        assert!(have >= before && have <= logged, "{have} of {logged}");
        assert_eq!(restored.get(&format!("/api/amplifiers/{id}/photos"))["photos"].as_array().unwrap().len(), 1);
        before = have;
    }
    assert!(before > 0);
}

#[test]
fn a_restore_keeps_what_was_there_and_a_damaged_backup_changes_nothing() {
    let (data, files) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let program = Program::start(data.path());
    let (id, session) = amplifier(&program);
    photo(&program, &id, 10);
    log(&program, &session, 440.0);
    let backup = files.path().join("one.zip");
    assert!(pukka(&["backup", "--data", path(data.path()), "--to", path(&backup)]).status.success());
    log(&program, &session, 441.0);
    let running = pukka(&["restore", path(&backup), "--data", path(data.path())]);
    assert!(!running.status.success() && said(&running).contains("already uses the data folder"), "{}", said(&running));
    end(program);
    // One byte of the backup is another: nothing is replaced.
    let whole = fs::read(&backup).unwrap();
    let flipped = |at: usize| {
        let mut bytes = whole.clone();
        bytes[at] ^= 0x40;
        bytes
    };
    for (at, bytes) in [flipped(whole.len() / 3), flipped(whole.len() / 2), whole[..whole.len() / 2].to_vec()].into_iter().enumerate() {
        let damaged = files.path().join("damaged.zip");
        fs::write(&damaged, bytes).unwrap();
        let refused = pukka(&["restore", path(&damaged), "--data", path(data.path())]);
        assert!(!refused.status.success(), "{at}: {}", said(&refused));
    }
    let odd = pukka(&["restore", env!("CARGO_MANIFEST_DIR").to_owned().as_str(), "--data", path(data.path())]);
    assert!(!odd.status.success());
    assert_eq!(checked(data.path(), &[]).0, Some(0), "and nothing is left lying about");
    let program = Program::start(data.path());
    assert_eq!(runs(&program, &session), 2);
    end(program);
    let done = pukka(&["restore", path(&backup), "--data", path(data.path())]);
    assert!(done.status.success(), "{}", said(&done));
    let kept =
        fs::read_dir(data.path()).unwrap().flatten().find(|entry| entry.file_name().to_string_lossy().starts_with("before-restore-"));
    let kept = kept.unwrap().path();
    assert!(kept.join("pukka.sqlite").is_file() && kept.join("photos").is_dir());
    let program = Program::start(data.path());
    assert_eq!(runs(&program, &session), 1);
}

#[test]
fn dated_copies_are_made_thinned_found_in_a_second_folder_and_restored() {
    let (data, second, other) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let program = Program::start(data.path());
    let (id, session) = amplifier(&program);
    photo(&program, &id, 77);
    let agent = crate::common::agent();
    let put = |folder: &str| {
        let mut answer = agent.put(format!("{}/api/upkeep", program.url)).send_json(json!({ "second_folder": folder })).unwrap();
        (answer.status().as_u16(), answer.body_mut().read_json::<Value>().unwrap())
    };
    assert_eq!(put("copies").0, 422, "not from the root");
    assert_eq!(put(path(&data.path().join("copies"))).1["problems"][0]["path"], "second_folder", "{:?}", put(path(&data.path().join("x"))));
    assert_eq!(put(path(Path::new("/proc/nowhere"))).0, 422);
    let (status, view) = put(path(second.path()));
    assert_eq!((status, view["copies"].as_array().unwrap().len()), (200, 1), "{view}");
    assert_eq!(view["second_at"], view["copies"][0]["at"]);
    let now = || program.post("/api/upkeep/copies", &json!({}));
    assert_eq!(now()["copies"].as_array().unwrap().len(), 1, "nothing has changed");
    log(&program, &session, 440.0);
    let view = now();
    assert!(!view["copies"].as_array().unwrap().is_empty());
    let newest = PathBuf::from(view["copies"][0]["file"].as_str().unwrap());
    log(&program, &session, 441.0);
    end(program);
    assert_eq!(checked(data.path(), &[]).0, Some(0));
    let its_own = fs::read_dir(second.path()).unwrap().next().unwrap().unwrap().path();
    // Copies of one second are numbered, in each folder by what is there.
    let copies =
        fs::read_dir(its_own).unwrap().map(|entry| entry.unwrap().path()).filter(|path| path.extension().is_some_and(|end| end == "json"));
    let elsewhere = copies.max_by_key(|path| fs::metadata(path).unwrap().modified().unwrap()).unwrap();
    for copy in [newest.clone(), elsewhere] {
        let to = other.path().join(copy.parent().unwrap().file_name().unwrap());
        let done = pukka(&["restore", path(&copy), "--data", path(&to)]);
        assert!(done.status.success(), "{}", said(&done));
        let restored = Program::start(&to);
        assert_eq!(runs(&restored, &session), 1);
        assert_eq!(restored.get(&format!("/api/amplifiers/{id}/photos"))["photos"].as_array().unwrap().len(), 1);
    }
}

#[test]
fn two_benches_with_one_second_folder_leave_each_others_copies_alone() {
    let (one, other, second) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let programs = [Program::start(one.path()), Program::start(other.path())];
    for program in &programs {
        amplifier(program);
        let sent =
            crate::common::agent().put(format!("{}/api/upkeep", program.url)).send_json(json!({ "second_folder": path(second.path()) }));
        assert_eq!(sent.unwrap().status().as_u16(), 200);
    }
    let folders: Vec<PathBuf> = fs::read_dir(second.path()).unwrap().map(|entry| entry.unwrap().path()).collect();
    assert_eq!(folders.len(), 2, "{folders:?}");
    for folder in folders {
        let copies =
            fs::read_dir(&folder).unwrap().filter(|entry| entry.as_ref().unwrap().path().extension().is_some_and(|end| end == "json"));
        assert_eq!(copies.count(), 1, "{}", folder.display());
    }
}

#[test]
fn a_check_finds_what_is_wrong_and_mends_what_loses_nothing() {
    let data = tempfile::tempdir().unwrap();
    let program = Program::start(data.path());
    let (id, session) = amplifier(&program);
    (0..3).for_each(|shade| photo(&program, &id, 50 * shade));
    log(&program, &session, 440.0);
    assert_eq!(checked(data.path(), &[]).0, Some(0), "while the program runs");
    // The line on the shelf is made once the records are at rest.
    let database = data.path().join("pukka.sqlite");
    let is_made = || {
        let connection = pukka_store::rusqlite::Connection::open(&database).unwrap();
        connection.query_row("SELECT count(*) FROM summary WHERE fresh", [], |row| row.get::<_, i64>(0)).unwrap() == 1
    };
    while !is_made() {
        std::thread::sleep(std::time::Duration::from_millis(20));
    }
    end(program);
    let photos = data.path().join("photos");
    let mut files: Vec<PathBuf> = fs::read_dir(&photos).unwrap().map(|entry| entry.unwrap().path()).collect();
    files.sort();
    fs::remove_file(&files[0]).unwrap();
    fs::write(&files[1], b"something else").unwrap();
    fs::write(photos.join("x.part"), b"half").unwrap();
    fs::write(photos.join(format!("{}.jpg", "0".repeat(64))), b"nobody's").unwrap();
    let connection = pukka_store::rusqlite::Connection::open(&database).unwrap();
    connection.execute("UPDATE summary SET body = json_set(body, '$.logged', 7), fresh = 1", []).unwrap();
    drop(connection);
    let (code, report) = checked(data.path(), &[]);
    assert_eq!(code, Some(1), "{report}");
    let mut found = codes(&report);
    found.sort_unstable();
    assert_eq!(found, ["file-changed", "file-missing", "half-written", "orphan", "summary"], "{report}");
    assert!(report["findings"].as_array().unwrap().iter().all(|finding| finding["advice"].as_str().unwrap().len() > 20));
    let (code, report) = checked(data.path(), &["--repair"]);
    let mended: Vec<&str> = report["findings"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|finding| finding["mended"] == true)
        .map(|finding| finding["code"].as_str().unwrap())
        .collect();
    assert_eq!((code, mended), (Some(1), vec!["half-written", "summary"]), "{report}");
    assert_eq!(codes(&checked(data.path(), &[]).1).len(), 3, "what would lose something is left");
    let nowhere = pukka(&["check", "--data", path(&data.path().join("nothing"))]);
    assert_eq!(nowhere.status.code(), Some(2), "{}", said(&nowhere));
    // Exports go on past what is missing, and name it.
    let program = Program::start(data.path());
    let mut zip = crate::common::agent().get(format!("{}/api/shelf.zip", program.url)).call().unwrap();
    assert_eq!(zip.headers()["x-pukka-left-out"], "2");
    let bytes = zip.body_mut().read_to_vec().unwrap();
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(bytes)).unwrap();
    let text = std::io::read_to_string(zip.by_name("left-out.txt").unwrap()).unwrap();
    assert_eq!(text.matches("photos/").count(), 2, "{text}");
}

/// Overwrites pages in the middle of the database.
fn damage(database: &Path) {
    let mut bytes = fs::read(database).unwrap();
    let page = 4_096;
    // The first page is left: it says what the file is.
    for at in (page..bytes.len()).step_by(page).skip(3) {
        bytes[at..at + 64].fill(0xA5);
    }
    fs::write(database, bytes).unwrap();
}

#[test]
fn damaged_records_are_never_written_to() {
    let data = tempfile::tempdir().unwrap();
    let program = Program::start(data.path());
    let (_, session) = amplifier(&program);
    log(&program, &session, 440.0);
    end(program);
    let database = data.path().join("pukka.sqlite");
    // An index that lost an entry: the records themselves can be read.
    let connection = pukka_store::rusqlite::Connection::open(&database).unwrap();
    connection
        .execute_batch(
            "PRAGMA writable_schema = on;
             UPDATE sqlite_schema SET rootpage = (SELECT rootpage FROM sqlite_schema WHERE name = 'photo_by_amplifier')
             WHERE name = 'run_by_session';
             PRAGMA writable_schema = off;",
        )
        .unwrap();
    drop(connection);
    let before = fs::read(&database).unwrap();
    let program = Program::start(data.path());
    assert_eq!(program.get("/api/about")["is_read_only"], true);
    let url = format!("{}/api/amplifiers", program.url);
    let mut refused = crate::common::agent().post(&url).send_json(mono()).unwrap();
    let body: Value = refused.body_mut().read_json().unwrap();
    assert_eq!((refused.status().as_u16(), &body["code"]), (503, &json!("read-only")), "{body}");
    assert!(!program.get("/api/upkeep")["damage"].as_array().unwrap().is_empty());
    end(program);
    assert_eq!(fs::read(&database).unwrap(), before, "not a byte was written");
    // Pages that are gone.
    damage(&database);
    let before = fs::read(&database).unwrap();
    let refused = pukka(&["serve", "--listen", "127.0.0.1:0", "--data", path(data.path())]);
    assert!(!refused.status.success() && said(&refused).contains("Restore a backup"), "{}", said(&refused));
    assert_eq!(fs::read(&database).unwrap(), before);
    assert_eq!(pukka(&["check", "--data", path(data.path())]).status.code(), Some(2));
}

#[test]
fn an_emptied_database_is_no_new_shelf_and_a_newer_one_asks_for_an_update() {
    let data = tempfile::tempdir().unwrap();
    let program = Program::start(data.path());
    let (id, _) = amplifier(&program);
    photo(&program, &id, 99);
    end(program);
    let database = data.path().join("pukka.sqlite");
    assert!(!data.path().join("pukka.sqlite-wal").exists(), "after a clean stop the one file is whole");
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt as _;
        let mode = |at: &Path| fs::metadata(at).unwrap().permissions().mode() & 0o777;
        assert_eq!((mode(data.path()), mode(&database), mode(&data.path().join("photos"))), (0o700, 0o600, 0o700));
    }
    let serve = || pukka(&["serve", "--listen", "127.0.0.1:0", "--data", path(data.path())]);
    let whole = fs::read(&database).unwrap();
    for emptied in [None, Some(Vec::new())] {
        match emptied {
            None => fs::remove_file(&database).unwrap(),
            Some(bytes) => fs::write(&database, bytes).unwrap(),
        }
        let refused = serve();
        assert!(!refused.status.success() && said(&refused).contains("not taken for a new shelf"), "{}", said(&refused));
    }
    fs::write(&database, &whole).unwrap();
    let connection = pukka_store::rusqlite::Connection::open(&database).unwrap();
    connection.pragma_update(None, "user_version", 4_000).unwrap();
    drop(connection);
    let refused = serve();
    assert!(!refused.status.success() && said(&refused).contains("Update Pukka"), "{}", said(&refused));
    assert_eq!(pukka(&["check", "--data", path(data.path())]).status.code(), Some(2));
    fs::write(&database, &whole).unwrap();
    // The lock is on the records, not only on a file that can be deleted.
    let _first = Program::start(data.path());
    fs::remove_file(data.path().join("pukka.lock")).unwrap();
    let second = serve();
    assert!(!second.status.success() && said(&second).contains("already uses"), "{}", said(&second));
}
