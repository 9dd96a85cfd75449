//! The real program driving a run, and then: killed hard, told to end, out of disk.

use std::io::{BufRead, BufReader, Write};
use std::net::TcpStream;
use std::process::{Command, Stdio};
use std::sync::{Arc, Mutex};

use crate::common::{claim, mono};
use crate::peer::{Peers, links_are_up, until};
use crate::program::Program;
use serde_json::{Value, json};

/// A session ready to be driven.
fn ready(program: &Program, peers: &Peers) -> String {
    let mut amplifier = mono();
    amplifier["provenance"] = json!("bought");
    let made = program.post("/api/amplifiers", &amplifier);
    program.post(&format!("/api/amplifiers/{}/claims", made["id"].as_str().unwrap()), &claim(4.0, 150.0));
    peers.link_to(&program.url, &[]);
    made["session_id"].as_str().unwrap().to_owned()
}

fn drive(program: &Program, session: &str, rounds_per_s: u32) {
    let body = json!({ "place": { "rung": "mono@4@40", "mode": "certified" }, "method": { "kind": "ramp" }, "rounds_per_s": rounds_per_s });
    let live = program.post(&format!("/api/sessions/{session}/live"), &body);
    assert_eq!(live["title"], "4\u{202f}Ω, certified");
}

fn raised(program: &Program, peers: &Peers, db: f64) {
    peers.raised(db, || program.get("/api/live")["live"].clone());
}

/// Listens to the stream as a browser does; what was shown was acknowledged.
fn shown(program: &Program) -> Arc<Mutex<Vec<Value>>> {
    let rounds = Arc::new(Mutex::new(Vec::new()));
    let heard = Arc::clone(&rounds);
    let host = program.url.trim_start_matches("http://").to_owned();
    let mut stream = TcpStream::connect(&host).unwrap();
    write!(stream, "GET /api/live/events HTTP/1.1\r\nHost: {host}\r\nAccept: text/event-stream\r\n\r\n").unwrap();
    std::thread::spawn(move || {
        for line in BufReader::new(stream).lines() {
            // The program is killed under us.
            let Ok(line) = line else { return };
            if let Some(data) = line.strip_prefix("data: {\"seq\":") {
                let kept: Value = serde_json::from_str(&format!("{{\"seq\":{data}")).unwrap();
                heard.lock().unwrap().push(kept);
            }
        }
    });
    rounds
}

#[test]
fn killed_hard_in_mid_ramp_the_watchdog_takes_the_level_away_and_no_sample_that_was_shown_is_lost() {
    crate::awake(|| {
        let (data, peers) = (tempfile::tempdir().unwrap(), Peers::start());
        let mut program = Program::start(data.path());
        let session = ready(&program, &peers);
        let rounds = shown(&program);
        drive(&program, &session, 100);
        raised(&program, &peers, -35.0);
        until("rounds were shown", || rounds.lock().unwrap().len() > 60);
        program.child.kill().unwrap();
        program.child.wait().unwrap();
        until("the level is down without a restart", || peers.plays_db() <= -119.0);

        let again = Program::start(data.path());
        let ladder = again.get(&format!("/api/sessions/{session}/ladder"));
        assert!(ladder["armed"].is_null(), "nothing is left armed");
        let live = again.get("/api/live");
        assert!(live["live"].is_null());
        let shown = rounds.lock().unwrap();
        let kept = kept_rounds(data.path());
        for one in shown.iter() {
            let n = usize::try_from(one["n"].as_u64().unwrap()).unwrap();
            assert_eq!(one["round"]["t_ms"].as_u64(), Some(kept[n].t_ms), "round {n} was shown and is not there");
        }
        assert!(shown.len() > 60 && kept.len() >= shown.len());
    });
}

/// The rounds of the first live run, as they are on disk.
fn kept_rounds(data: &std::path::Path) -> Vec<pukka_core::live::Round> {
    let copy = tempfile::tempdir().unwrap();
    for entry in std::fs::read_dir(data).unwrap().flatten().filter(|entry| entry.path().is_file()) {
        std::fs::copy(entry.path(), copy.path().join(entry.file_name())).unwrap();
    }
    let store = pukka_store::Store::open(copy.path()).unwrap();
    let rounds = store.read(|tx| pukka_store::lives::rounds(tx, 1, None)).unwrap();
    rounds.into_iter().map(|(_, round)| round).collect()
}

fn signal(program: &Program, name: &str) {
    assert!(Command::new("kill").arg(format!("-{name}")).arg(program.child.id().to_string()).status().unwrap().success());
}

/// Takes minutes: `cargo xtask long`. `PUKKA_KILLS` says how many.
#[test]
#[ignore = "takes minutes: cargo xtask long"]
fn kills_in_live_runs_leave_no_level_up() {
    let count: usize = std::env::var("PUKKA_KILLS").ok().and_then(|count| count.parse().ok()).unwrap_or(200);
    let mut times_ms = Vec::with_capacity(count);
    for n in 0..count {
        let (data, peers) = (tempfile::tempdir().unwrap(), Peers::start());
        let mut program = Program::start(data.path());
        let session = ready(&program, &peers);
        drive(&program, &session, 50);
        // At another moment of the run each time.
        raised(&program, &peers, -39.5 + (n % 8) as f64);
        let killed = std::time::Instant::now();
        program.child.kill().unwrap();
        until("the level is down without a restart", || peers.plays_db() <= -119.0);
        times_ms.push(killed.elapsed().as_secs_f64() * 1e3);
        program.child.wait().unwrap();
    }
    times_ms.sort_by(f64::total_cmp);
    println!("{count} kills: median {:.1} ms, most {:.1} ms to zero", times_ms[count / 2], times_ms[count - 1]);
    assert!(times_ms[count - 1] < 1_000.0);
}

#[test]
fn one_that_stands_still_is_taken_for_dead_and_sets_no_level_when_it_goes_on() {
    crate::awake(|| {
        let (data, peers) = (tempfile::tempdir().unwrap(), Peers::start());
        let program = Program::start(data.path());
        let session = ready(&program, &peers);
        drive(&program, &session, 50);
        raised(&program, &peers, -35.0);
        signal(&program, "STOP");
        until("the level is down", || peers.plays_db() <= -119.0);
        let top = peers.top_db();
        signal(&program, "CONT");
        until("the run ended", || !program.get("/api/live")["live"]["ended"].is_null());
        let live = program.get("/api/live")["live"].clone();
        assert_eq!(live["ended"]["why"]["kind"], "stood-still", "{live}");
        assert!((peers.top_db() - top).abs() < 1e-9 && peers.plays_db() <= -119.0, "nothing raised it again");
    });
}

#[test]
fn a_terminal_that_is_closed_ends_it_as_a_request_to_end_does() {
    crate::awake(|| {
        let (data, peers) = (tempfile::tempdir().unwrap(), Peers::start());
        let mut program = Program::start(data.path());
        let session = ready(&program, &peers);
        drive(&program, &session, 50);
        raised(&program, &peers, -35.0);
        signal(&program, "HUP");
        assert!(program.child.wait().unwrap().success());
        assert!(peers.plays_db() <= -119.0, "{:?}", peers.generator().last());
    });
}

#[test]
fn told_to_end_it_takes_the_level_away_first() {
    crate::awake(|| {
        let (data, peers) = (tempfile::tempdir().unwrap(), Peers::start());
        let mut program = Program::start(data.path());
        let session = ready(&program, &peers);
        let _rounds = shown(&program);
        drive(&program, &session, 50);
        raised(&program, &peers, -35.0);
        assert!(Command::new("kill").arg(program.child.id().to_string()).status().unwrap().success());
        assert!(program.child.wait().unwrap().success(), "and ends well, with a stream still open");
        assert!(peers.level_db() <= -119.0, "{:?}", peers.generator().last());
        let again = Program::start(data.path());
        let ladder = again.get(&format!("/api/sessions/{session}/ladder"));
        assert!(ladder["armed"].is_null(), "nothing is left armed");
    });
}

#[test]
fn a_full_disk_stops_the_run_and_says_so() {
    crate::awake(|| {
        let (data, peers) = (tempfile::tempdir().unwrap(), Peers::start());
        // A file may grow to 1 MiB, and not be killed for trying: to the database that is a disk with no room.
        let script = "trap '' XFSZ; ulimit -f 2048; exec \"$0\" serve --listen 127.0.0.1:0 --data \"$1\"";
        let mut command = Command::new("sh");
        command.args(["-c", script, env!("CARGO_BIN_EXE_pukka")]).arg(data.path()).stderr(Stdio::null());
        let program = Program::run(&mut command);
        let session = ready(&program, &peers);
        drive(&program, &session, 200);
        until("the run ended", || !program.get("/api/live")["live"]["ended"].is_null());
        let live = program.get("/api/live")["live"].clone();
        assert_eq!(live["ended"]["why"]["kind"], "disk", "{live}");
        assert!(live["says"].as_str().unwrap().starts_with("Stopped: the readings could not be kept. Is the disk full?"), "{live}");
        assert!(peers.level_db() <= -119.0);
    });
}

#[test]
fn a_clock_that_jumps_back_confuses_nothing() {
    crate::awake(|| {
        let (data, peers) = (tempfile::tempdir().unwrap(), Peers::start());
        let program = Program::start(data.path());
        let session = ready(&program, &peers);
        let log = |program: &Program, line: &str| {
            program.post(&format!("/api/sessions/{session}/runs"), &json!({ "rung": "mono@4@40", "mode": "certified", "line": line }))
        };
        let first = log(&program, "140 14.2 13");
        drop(program);
        // Six years back.
        let mut command = Command::new(env!("CARGO_BIN_EXE_pukka"));
        command.args(["serve", "--listen", "127.0.0.1:0", "--now", "2020-01-01T00:00:00Z", "--data"]).arg(data.path());
        let program = Program::run(&mut command);
        links_are_up(|path| program.get(path));
        let rest = program.get(&format!("/api/sessions/{session}/rest"));
        assert_eq!(rest["wait_s"], 60.0, "the whole rest and no longer: {rest}");
        let second = log(&program, "145 14.2 13.4");
        assert_ne!(first["id"], second["id"]);
        drive(&program, &session, 200);
        until("the run ended", || !program.get("/api/live")["live"]["ended"].is_null());
        assert_eq!(program.get("/api/live")["live"]["ended"]["kind"], "done");
        let runs = || {
            let ladder = program.get(&format!("/api/sessions/{session}/ladder"));
            ladder["ladder"]["rungs"][0]["cells"][0]["runs"].as_array().unwrap().clone()
        };
        assert_eq!(runs().len(), 3, "all are there");
        let undone = program.post("/api/undos", &json!({}));
        assert!(
            undone["says"].as_str().unwrap().starts_with("logged 4\u{202f}Ω"),
            "the last act is the last one done, whatever its time: {undone}"
        );
        assert_eq!(runs().len(), 2);
        assert!(runs().iter().any(|run| run["id"] == first["id"]), "the first, of the future, stands");
    });
}
