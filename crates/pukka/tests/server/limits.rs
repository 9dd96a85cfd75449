//! What is bounded, what is cached, what is answered twice the same, and what happens to many at once.

use std::sync::Arc;

use crate::common::{Bench, agent, claim, mono};
use serde_json::{Value, json};

#[test]
fn two_enters_in_the_same_instant_are_one_log() {
    let bench = Arc::new(Bench::start());
    let (_, session) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let senders: Vec<_> = (0..6)
        .map(|_| {
            let (bench, session) = (Arc::clone(&bench), session.clone());
            std::thread::spawn(move || {
                let body = json!({ "rung": "mono@4@40", "mode": "certified", "line": "447 14.38 41.2" }).to_string();
                bench.send("POST", &format!("/api/sessions/{session}/runs"), &body, &[("idempotency-key", "same")]).json()["id"].clone()
            })
        })
        .collect();
    let ids: Vec<Value> = senders.into_iter().map(|sender| sender.join().unwrap()).collect();
    assert!(ids.iter().all(|id| id.is_string() && *id == ids[0]), "{ids:?}");
    let ladder = bench.get(&format!("/api/sessions/{session}/ladder")).json();
    assert_eq!(ladder["ladder"]["rungs"][0]["cells"][0]["runs"].as_array().unwrap().len(), 1);
}

#[test]
fn a_key_answers_the_same_for_every_kind_of_write() {
    let bench = Bench::start();
    let key = |key: &'static str| [("idempotency-key", key), ("if-match", "1"), ("x-pukka-tab", "a")];
    let made = |name| bench.send("POST", "/api/amplifiers", &mono().to_string(), &key(name)).json();
    let (first, second) = (made("add"), made("add"));
    assert_eq!(first["id"], second["id"]);
    let id = first["id"].as_str().unwrap();
    let add = || bench.send("POST", &format!("/api/amplifiers/{id}/claims"), &claim(4.0, 450.0).to_string(), &key("claim")).json();
    let row = add();
    assert_eq!(add()["id"], row["id"]);
    let change =
        || bench.send("PUT", &format!("/api/claims/{}", row["id"].as_str().unwrap()), &claim(4.0, 460.0).to_string(), &key("change"));
    assert_eq!(change().json()["revision"], 2);
    assert_eq!(change().json()["revision"], 2, "sent again, it is not a conflict");
    assert_eq!(bench.send("POST", "/api/undos", "{}", &key("undo")).json()["says"], "changed a claim");
    assert_eq!(
        bench.send("POST", "/api/undos", "{}", &key("undo")).json()["says"],
        "changed a claim",
        "undo pressed twice by a slip is once"
    );
    assert_eq!(bench.get(&format!("/api/amplifiers/{id}")).json()["claims"][0]["claim"]["power_w"], 450.0);
    let deleted = || bench.send("DELETE", &format!("/api/amplifiers/{id}"), "", &key("delete")).status;
    assert_eq!((deleted(), deleted()), (204, 204));
}

#[test]
fn headers_are_bounded() {
    let bench = Bench::start();
    let long = "x".repeat(200);
    for header in ["idempotency-key", "x-pukka-tab", "if-match"] {
        let refused = bench.send("POST", "/api/amplifiers", &mono().to_string(), &[(header, &long)]).refusal();
        assert_eq!((refused.0, refused.1.as_str()), (400, "bad-header"), "{header}");
    }
    assert_eq!(bench.get("/api/amplifiers").json()["amplifiers"], json!([]));
}

#[test]
fn texts_of_any_script_are_kept_as_typed() {
    let bench = Bench::start();
    for name in ["Ärmel & Söhne", "Ω-Werk", "<script>alert(1)</script>", "=1+1", "日本の箱", "a\"b'c\\d"] {
        let (id, _) = bench.amplifier(|body| body["make"] = json!(name), &[]);
        assert_eq!(bench.get(&format!("/api/amplifiers/{id}")).json()["amplifier"]["make"], name);
    }
    let refused = bench.post("/api/amplifiers", &{
        let mut body = mono();
        body["make"] = json!("a\u{0}b");
        body
    });
    assert_eq!(refused.refusal().2, ["make"]);
}

#[test]
fn a_name_that_a_spreadsheet_would_run_is_inert_in_the_csv() {
    let bench = Bench::start();
    let (_, session) = bench.amplifier(|body| body["make"] = json!("=cmd|'/c calc'!A1"), &[(4.0, 450.0)]);
    let log = json!({ "rung": "mono@4@40", "mode": "certified", "line": "447 14.38 41.2 # @SUM(A1)" });
    assert_eq!(bench.post(&format!("/api/sessions/{session}/runs"), &log).status, 201);
    let text = bench.get(&format!("/api/sessions/{session}/sheet.csv")).text;
    let row = text.lines().nth(1).unwrap();
    assert!(row.starts_with("'=cmd") && row.ends_with("'@SUM(A1)"), "{row}");
}

#[test]
fn answers_are_compressed_and_pages_are_asked_for_anew() {
    let bench = Bench::start();
    bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let packed = agent().get(format!("{}/api/openapi.json", bench.url)).header("accept-encoding", "gzip").call().unwrap();
    assert_eq!(packed.headers()["content-encoding"], "gzip");
    for place in ["/", "/amplifiers/new", "/amplifiers/any/runs"] {
        let page = agent().get(format!("{}{place}", bench.url)).call().unwrap();
        // The front end is built before the tests; the page is the same for every place in it.
        assert_eq!(page.headers()["cache-control"], "no-cache", "{place}");
        assert_eq!(page.headers()["content-type"], "text/html", "{place}");
    }
}

#[test]
fn a_preview_of_anything_answers_and_changes_nothing() {
    let bench = Bench::start();
    let (_, session) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let path = format!("/api/sessions/{session}/previews");
    for line in ["", " ", "#", "447", "447 14.", "1,068", "x", "1+2+3", "0", "447 14 41 %", "\u{202f}", "9999999999999999999999"] {
        let answer = bench.post(&path, &json!({ "rung": "mono@4@40", "mode": "clipping", "line": line, "seq": 1 }));
        assert_eq!(answer.status, 200, "{line}: {}", answer.text);
        let segments =
            answer.json()["segments"].as_array().unwrap().iter().map(|s| s["text"].as_str().unwrap().to_owned()).collect::<String>();
        assert_eq!(segments, line);
    }
    let over = bench.post(&path, &json!({ "rung": "mono@4@40", "mode": "certified", "line": "447 14.38 20", "seq": 2 })).json();
    assert_eq!(over["checks"][0]["code"], "over-unity");
    assert_eq!(bench.get(&format!("/api/sessions/{session}/ladder")).json()["ladder"]["logged"], 0);
}

#[test]
fn a_stop_keeps_a_run_out_of_the_verdict_and_says_so() {
    let bench = Bench::start();
    let (_, session) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let log = json!({ "rung": "mono@4@40", "mode": "certified", "line": "460 14.38 20" });
    assert_eq!(bench.post(&format!("/api/sessions/{session}/runs"), &log).status, 201, "it happened, so it is logged");
    let view = bench.get(&format!("/api/sessions/{session}/verdict")).json()["view"].clone();
    assert_eq!((&view["rows"][0]["outcome"], &view["provisional"]), (&json!("not-tested"), &json!(true)));
    assert_eq!(view["checks"][0]["severity"], "stop");
    let shelf = bench.get("/api/amplifiers").json();
    assert_eq!(shelf["amplifiers"][0]["summary"]["verdict_word"], "1 stop to settle");
}

/// A zip of amplifiers, each with a photo that takes a while to decode.
fn slow_shelf() -> Vec<u8> {
    use std::io::Write as _;
    let mut photo = std::io::Cursor::new(Vec::new());
    let noise = |x: u32, y: u32| image::Rgb([x as u8, y as u8, (x ^ y) as u8]);
    image::RgbImage::from_fn(2_400, 2_400, noise).write_to(&mut photo, image::ImageFormat::Jpeg).unwrap();
    let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    for n in 0..6 {
        let mut amplifier = mono();
        amplifier["model"] = json!(format!("Slow {n}"));
        let session = json!({ "format": "pukka-session", "version": 1, "amplifier": amplifier, "claims": [], "runs": [] });
        for (name, bytes) in [("session.json", session.to_string().as_bytes()), ("photos/1.jpg", photo.get_ref().as_slice())] {
            zip.start_file(format!("a{n:02}/{name}"), zip::write::SimpleFileOptions::default()).unwrap();
            zip.write_all(bytes).unwrap();
        }
    }
    zip.finish().unwrap().into_inner()
}

#[test]
fn a_run_is_logged_while_an_import_goes_on() {
    let bench = Arc::new(Bench::start());
    let (_, session) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let url = format!("{}/api/imports", bench.url);
    let importing = std::thread::spawn(move || {
        agent().post(&url).content_type("application/octet-stream").send(slow_shelf().as_slice()).unwrap().status().as_u16()
    });
    let goes_on = || !bench.get("/api/imports/progress").json()["importing"].is_null();
    while !goes_on() {
        assert!(!importing.is_finished(), "it was over before it was seen");
        std::thread::sleep(std::time::Duration::from_millis(5));
    }
    let body = json!({ "rung": "mono@4@40", "mode": "certified", "line": "447 14.38 41.2" });
    assert_eq!(bench.post(&format!("/api/sessions/{session}/runs"), &body).status, 201);
    assert!(goes_on(), "the run did not wait for the import");
    assert_eq!(importing.join().unwrap(), 200);
}
