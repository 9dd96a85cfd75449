//! Every acknowledged reading survives a power cut: the real program is killed hard in mid-stream.

use std::process::Command;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use crate::common::{claim, mono};
use crate::program::Program;
use serde_json::{Value, json};

#[test]
fn every_acknowledged_run_is_there_after_a_hard_kill() {
    kill_in_mid_stream();
}

#[test]
#[ignore = "takes minutes: cargo xtask long"]
fn and_after_a_hundred_more() {
    (0..100).for_each(|_| kill_in_mid_stream());
}

fn kill_in_mid_stream() {
    let data = tempfile::tempdir().unwrap();
    let mut program = Program::start(data.path());
    let amplifier = program.post("/api/amplifiers", &mono());
    let id = amplifier["id"].as_str().unwrap().to_owned();
    let session = amplifier["session_id"].as_str().unwrap().to_owned();
    program.post(&format!("/api/amplifiers/{id}/claims"), &claim(4.0, 450.0));

    let acknowledged = Arc::new(Mutex::new(Vec::<(String, f64)>::new()));
    let count = Arc::new(AtomicUsize::new(0));
    let writers: Vec<_> = (0..3)
        .map(|writer| {
            let (url, acknowledged, count) =
                (format!("{}/api/sessions/{session}/runs", program.url), Arc::clone(&acknowledged), Arc::clone(&count));
            std::thread::spawn(move || {
                let agent = crate::common::agent();
                for i in 0..500 {
                    let watts = 400.0 + f64::from(writer) * 100.0 + f64::from(i) / 10.0;
                    let body = json!({ "rung": "mono@4@40", "mode": "certified", "line": format!("{watts}w 14.38v 41.2a") });
                    // The program is killed under us: what has no answer is not acknowledged.
                    let Ok(mut answer) = agent.post(&url).send_json(&body) else { return };
                    let Ok(answer) = answer.body_mut().read_json::<Value>() else { return };
                    let Some(id) = answer["id"].as_str() else { return };
                    acknowledged.lock().unwrap().push((id.to_owned(), watts));
                    count.fetch_add(1, Ordering::SeqCst);
                }
            })
        })
        .collect();
    let start = Instant::now();
    while count.load(Ordering::SeqCst) < 40 {
        assert!(start.elapsed() < Duration::from_secs(60), "the writers do not get on");
        std::thread::yield_now();
    }
    program.child.kill().unwrap();
    program.child.wait().unwrap();
    for writer in writers {
        writer.join().unwrap();
    }

    let again = Program::start(data.path());
    let ladder: Value =
        crate::common::agent().get(&format!("{}/api/sessions/{session}/ladder", again.url)).call().unwrap().body_mut().read_json().unwrap();
    let kept = ladder["ladder"]["rungs"][0]["cells"][0]["runs"].as_array().unwrap();
    let acknowledged = acknowledged.lock().unwrap();
    assert!(acknowledged.len() >= 40);
    for (id, watts) in acknowledged.iter() {
        let run = kept.iter().find(|run| run["id"] == json!(id)).unwrap_or_else(|| panic!("{id} was acknowledged and is lost"));
        assert_eq!(run["line"], format!("{watts}w 14.38v 41.2a"));
    }
}

#[test]
fn a_second_program_on_the_same_data_is_refused() {
    let data = tempfile::tempdir().unwrap();
    let _first = Program::start(data.path());
    let second =
        Command::new(env!("CARGO_BIN_EXE_pukka")).args(["serve", "--listen", "127.0.0.1:0", "--data"]).arg(data.path()).output().unwrap();
    assert!(!second.status.success());
    let says = String::from_utf8_lossy(&second.stderr);
    assert!(says.contains("Another Pukka already uses the data folder"), "{says}");
}

/// Whatever is open: half a request, half a body, an event stream, a download that nobody reads.
#[test]
fn told_to_end_it_ends_within_three_seconds_whatever_is_open() {
    use std::io::{Read as _, Write as _};
    use std::net::TcpStream;
    let data = tempfile::tempdir().unwrap();
    let mut program = Program::start(data.path());
    let address = program.url.trim_start_matches("http://").to_owned();
    let opened: Vec<TcpStream> = [
        "GET /api/amplifiers HTTP/1.1\r\nHost: 127.0.0.1\r\n".to_owned(),
        "POST /api/imports HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/octet-stream\r\nContent-Length: 1000000\r\n\r\nPK"
            .to_owned(),
        "GET /api/events HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n".to_owned(),
        "GET /api/tones.wav?hz=40&level=-6&shape=sine&seconds=600&rate=96000&bits=24 HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n".to_owned(),
        String::new(),
    ]
    .into_iter()
    .map(|request| {
        let mut stream = TcpStream::connect(&address).unwrap();
        stream.write_all(request.as_bytes()).unwrap();
        stream
    })
    .collect();
    // The event stream is under way, and so are the others.
    let mut one = [0; 1];
    (&opened[2]).read_exact(&mut one).unwrap();
    (&opened[3]).read_exact(&mut one).unwrap();
    let start = Instant::now();
    assert!(Command::new("kill").arg(program.child.id().to_string()).status().unwrap().success());
    assert!(program.child.wait().unwrap().success());
    assert!(start.elapsed() < Duration::from_secs(3), "{:?}", start.elapsed());
    drop(opened);
}

#[test]
fn clients_that_stall_keep_nobody_else_out() {
    use std::io::Write as _;
    let data = tempfile::tempdir().unwrap();
    let program = Program::start(data.path());
    let address = program.url.trim_start_matches("http://").to_owned();
    let stalled: Vec<std::net::TcpStream> = (0..200)
        .map(|_| {
            let mut stream = std::net::TcpStream::connect(&address).unwrap();
            stream.write_all(b"GET /api/amplifiers HTTP/1.1\r\nHost: 127").unwrap();
            stream
        })
        .collect();
    assert_eq!(program.get("/api/amplifiers")["found"], 0);
    drop(stalled);
}

#[test]
fn told_twice_it_ends_at_once() {
    let data = tempfile::tempdir().unwrap();
    let mut program = Program::start(data.path());
    let tell = |program: &Program| Command::new("kill").args(["-INT", &program.child.id().to_string()]).status().unwrap();
    // Something that would be waited for.
    let address = program.url.trim_start_matches("http://").to_owned();
    let mut stream = std::net::TcpStream::connect(&address).unwrap();
    std::io::Write::write_all(&mut stream, b"GET /api/amplifiers HTTP/1.1\r\nHost: 127.0.0.1\r\n").unwrap();
    tell(&program);
    std::thread::sleep(Duration::from_millis(150));
    tell(&program);
    let start = Instant::now();
    program.child.wait().unwrap();
    assert!(start.elapsed() < Duration::from_millis(500), "{:?}", start.elapsed());
    drop(stream);
}
