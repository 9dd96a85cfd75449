//! Session files over HTTP: every exported file meets the published schema, and what cannot be taken is refused with its place.

use crate::common::Bench;
use jsonschema::Validator;
use pukka_core::assess::{Overall, judge};
use pukka_core::record::session::SessionFile;
use serde_json::{Value, json};

fn schema() -> Validator {
    let text = include_str!("../../../../docs/pukka-session.schema.json");
    jsonschema::validator_for(&serde_json::from_str(text).unwrap()).unwrap()
}

fn wrong(schema: &Validator, file: &Value) -> Vec<String> {
    schema.iter_errors(file).map(|error| format!("{}: {error}", error.instance_path())).collect()
}

/// The example of docs/session-file.md.
fn documented() -> Value {
    let document = include_str!("../../../../docs/session-file.md");
    let block = document.split("```json\n").nth(1).unwrap().split("```").next().unwrap();
    serde_json::from_str(block).unwrap()
}

fn ids(bench: &Bench) -> Vec<String> {
    let shelf = bench.get("/api/amplifiers").json();
    shelf["amplifiers"].as_array().unwrap().iter().map(|row| row["id"].as_str().unwrap().to_owned()).collect()
}

#[test]
fn every_exported_file_meets_the_schema_and_is_read_without_a_word() {
    let (bench, schema) = (Bench::demo(1.0), schema());
    let all = ids(&bench);
    assert_eq!(all.len(), 12);
    for id in all {
        let text = bench.get(&format!("/api/amplifiers/{id}/file")).text;
        let file: Value = serde_json::from_str(&text).unwrap();
        assert_eq!(wrong(&schema, &file), Vec::<String>::new(), "{}", file["amplifier"]["model"]);
        let read = SessionFile::read(text.as_bytes()).unwrap();
        assert_eq!(read.unknown, Vec::<String>::new());
        assert_eq!(read.session.to_file().unwrap(), file, "written again it is the same file");
    }
}

#[test]
fn the_example_of_the_documents_meets_the_schema_and_is_judged() {
    let (schema, file) = (schema(), documented());
    assert_eq!(wrong(&schema, &file), Vec::<String>::new());
    let session = SessionFile::read(file.to_string().as_bytes()).unwrap().session;
    // 27.4²/3.97 = 189.1 W for 150 W, regulated: beaten.
    assert_eq!(judge(&session).overall, Some(Overall::Modest));
}

#[test]
fn the_schema_refuses_what_the_reader_refuses() {
    let schema = schema();
    for (at, value) in [
        ("/claims/0/load_ohm", json!(0)),
        ("/claims/0/power_w", json!(-5)),
        ("/runs/0/mode", json!("loud")),
        ("/runs/0/outputs", json!("many")),
        ("/amplifier/class", json!("Z")),
        ("/format", json!("other")),
        ("/version", json!(2)),
        ("/runs/0/end_v", json!("14.1")),
    ] {
        let mut bad = documented();
        *bad.pointer_mut(at).unwrap() = value;
        assert!(!wrong(&schema, &bad).is_empty(), "{at} passes the schema");
        assert!(SessionFile::read(bad.to_string().as_bytes()).is_err(), "{at} is read");
    }
    let mut odd = documented();
    odd["amplifier"]["colour"] = json!("grey");
    assert!(wrong(&schema, &odd).is_empty(), "a key that is not known is no error");
}

fn send(bench: &Bench, path: &str, body: &str) -> crate::common::Answer {
    bench.send("POST", path, body, &[("content-type", "application/octet-stream"), ("x-pukka-tab", "a")])
}

#[test]
fn what_a_file_would_do_is_said_and_then_done() {
    let bench = Bench::start();
    let file = documented().to_string();
    let preview = send(&bench, "/api/imports/previews", &file).json();
    assert_eq!(
        (preview["entries"][0]["what"].as_str(), preview["entries"][0]["name"].as_str()),
        (Some("added"), Some("Quillmoor Mono 300"))
    );
    assert!(ids(&bench).is_empty());
    let done = send(&bench, "/api/imports", &file).json();
    let id = done["amplifier_id"].as_str().unwrap().to_owned();
    assert_eq!(send(&bench, "/api/imports/previews", &file).json()["entries"][0]["what"], "same");
    // More of it: a run that is new, and one that would overwrite a reading.
    let mut more: Value = serde_json::from_str(&bench.get(&format!("/api/amplifiers/{id}/file")).text).unwrap();
    let mut run = more["runs"][0].clone();
    run["id"] = json!("r2");
    run["mode"] = json!("clipping");
    more["runs"].as_array_mut().unwrap().push(run);
    let changed = send(&bench, "/api/imports/previews", &more.to_string()).json();
    assert_eq!((changed["entries"][0]["what"].as_str(), &changed["entries"][0]["brings"]), (Some("changed"), &json!(["one more run"])));
    more["runs"][0]["outputs"][0]["volts_rms"] = json!(30.0);
    let refused = send(&bench, "/api/imports/previews", &more.to_string()).json();
    assert_eq!(
        (refused["entries"][0]["what"].as_str(), refused["entries"][0]["problems"][0]["path"].as_str()),
        (Some("refused"), Some("runs[0]"))
    );
    assert_eq!(send(&bench, "/api/imports", &more.to_string()).json()["entries"], json!([]), "and is not taken");
    assert_eq!(send(&bench, "/api/imports?skip=0", &file).json()["entries"], json!([]), "what is left out is left out");
}

#[test]
fn what_is_no_session_file_is_named_for_what_it_is() {
    let bench = Bench::start();
    assert_eq!(send(&bench, "/api/imports/previews", "a,b\n1,2").refusal().1, "not-a-session-file");
    assert_eq!(send(&bench, "/api/imports/previews", "PK\u{3}\u{4}").refusal().1, "damaged-file");
    let broken = send(&bench, "/api/imports/previews", "{\"format\": \"pukka-session\", ").json();
    assert_eq!(broken["entries"][0]["what"], "refused");
    assert!(broken["entries"][0]["problems"][0]["says"].as_str().unwrap().contains("ends too soon"), "{broken}");
    assert_eq!(bench.get("/api/amplifiers/nothing/file").refusal().0, 404);
}

#[test]
fn a_shared_shelf_names_nobody_in_any_of_its_files() {
    let bench = Bench::start();
    let mut file = documented();
    file["amplifier"]["loan"] = json!({ "lent_by": "R. Oakshott" });
    file["runs"][0]["who"] = json!("M. Tarrow");
    let id = send(&bench, "/api/imports", &file.to_string()).json()["amplifier_id"].as_str().unwrap().to_owned();
    let session = bench.get(&format!("/api/amplifiers/{id}")).json()["session_id"].as_str().unwrap().to_owned();
    assert_eq!(bench.post(&format!("/api/sessions/{session}/settled"), &json!({})).status, 201);
    let files = |kind: &str| {
        let mut zip = zip::ZipArchive::new(std::io::Cursor::new(shelf_of(&bench, kind))).unwrap();
        let names: Vec<String> = zip.file_names().map(|name| name.unwrap().into_owned()).collect();
        let text = |name: &String| std::io::read_to_string(zip.by_name(name).unwrap()).unwrap();
        names.iter().map(text).collect::<Vec<String>>()
    };
    let naming = |kind: &str| files(kind).into_iter().filter(|text| text.contains("Tarrow") || text.contains("Oakshott")).count();
    assert_eq!((naming("full"), naming("shared")), (2, 0), "the session, and the one that the settled verdict stands on");
}

#[test]
fn a_verdict_is_settled_shown_and_opened_again() {
    let bench = Bench::start();
    let id = send(&bench, "/api/imports", &documented().to_string()).json()["amplifier_id"].as_str().unwrap().to_owned();
    let session = bench.get(&format!("/api/amplifiers/{id}")).json()["session_id"].as_str().unwrap().to_owned();
    let settled = || bench.get(&format!("/api/sessions/{session}/verdict")).json()["settled"].clone();
    assert_eq!(settled(), Value::Null);
    assert_eq!(bench.post(&format!("/api/sessions/{session}/settled"), &json!({})).status, 201);
    assert_eq!((settled()["overall_word"].as_str(), &settled()["changes"]), (Some("Modest"), &json!([])));
    let sheet = bench.get(&format!("/api/sessions/{session}/sheet.html")).text;
    assert!(sheet.contains("locked on ") && sheet.contains("27.4"), "the sheet says so");
    bench.post(&format!("/api/amplifiers/{id}/claims"), &crate::common::claim(4.0, 300.0));
    assert!(!settled()["changes"].as_array().unwrap().is_empty());
    assert!(bench.get(&format!("/api/sessions/{session}/sheet.html")).text.contains("not locked"));
    assert_eq!(bench.post("/api/sessions/nothing/settled", &json!({})).refusal().0, 404);
    assert_eq!(bench.get(&format!("/api/sessions/{session}/suspicion")).json(), json!({ "suspicion": null }));
}

#[test]
fn the_stand_ins_recording_is_a_file_and_there_is_none_without_it() {
    let demo = Bench::demo(1.0);
    let mut answer = crate::common::agent().get(format!("{}/api/stand-in/recording.wav?ms=100", demo.url)).call().unwrap();
    assert_eq!((answer.status().as_u16(), answer.headers()["content-type"].to_str().unwrap()), (200, "audio/wav"));
    let wav = answer.body_mut().read_to_vec().unwrap();
    assert_eq!((&wav[..4], &wav[8..12]), (b"RIFF".as_slice(), b"WAVE".as_slice()));
    assert_eq!(Bench::start().get("/api/stand-in/recording.wav").refusal().0, 404);
}

/// The whole shelf as bytes.
fn shelf_of(bench: &Bench, kind: &str) -> Vec<u8> {
    bench.bytes(&format!("/api/shelf.zip?kind={kind}"))
}

fn take(bench: &Bench, path: &str, bytes: &[u8]) -> Value {
    bench.send_bytes("POST", path, bytes, &[]).json()
}

#[test]
fn benches_come_along_and_links_only_when_they_are_asked_for() {
    let (here, there) = (Bench::start(), Bench::start());
    let profile = json!({ "name": "Ferry Lane", "supply": { "kind": "battery" }, "loads": [], "leads": [], "meters": [] });
    assert_eq!(here.post("/api/benches", &profile).status, 201);
    let link = json!({ "address": "127.0.0.1:9", "profile": pukka_core::instruments::GENERIC, "meter": null });
    assert_eq!(here.send("PUT", "/api/instruments/voltmeter", &link.to_string(), &[]).status, 204);
    here.amplifier(|_| {}, &[(4.0, 450.0)]);
    here.amplifier(|amplifier| amplifier["model"] = json!("Mono 700"), &[(2.0, 700.0)]);
    let zip = shelf_of(&here, "full");
    let view = take(&there, "/api/imports/previews", &zip);
    assert_eq!(view["benches"], json!(["Ferry Lane is added"]), "{view}");
    assert!(view["links"][0].as_str().unwrap().ends_with("at 127.0.0.1:9"), "{view}");
    let addresses = || {
        let view = there.get("/api/instruments").json();
        view["links"].as_array().unwrap().iter().filter(|link| !link["address"].is_null()).count()
    };
    let done = take(&there, "/api/imports", &zip);
    assert_eq!((done["entries"].as_array().unwrap().len(), &done["stopped"], addresses()), (2, &Value::Null, 0), "{done}");
    assert_eq!(there.get("/api/benches").json()["benches"].as_array().unwrap().len(), 1);
    // The shelf stands in the same order.
    let names = |bench: &Bench| {
        let shelf = bench.get("/api/amplifiers").json();
        shelf["amplifiers"].as_array().unwrap().iter().map(|item| item["summary"]["name"].clone()).collect::<Vec<_>>()
    };
    assert_eq!(names(&there), names(&here));
    take(&there, "/api/imports?links=true", &zip);
    assert_eq!((addresses(), there.get("/api/benches").json()["benches"].as_array().unwrap().len()), (1, 1), "and nothing twice");
    let shared = zip::ZipArchive::new(std::io::Cursor::new(shelf_of(&here, "shared"))).unwrap();
    let names: Vec<String> = shared.file_names().map(|name| name.unwrap().into_owned()).collect();
    assert!(!names.iter().any(|name| name == "instruments.json" || name == "benches.json"), "{names:?}");
}

#[test]
fn an_import_that_breaks_off_says_how_many_came_in_and_goes_on_from_there() {
    use std::io::Write as _;
    let bench = Bench::start();
    let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    for n in 0..4 {
        let mut session = documented();
        session["id"] = json!(format!("one-{n}"));
        session["amplifier"]["model"] = json!(format!("Mono {n}00"));
        zip.start_file(
            format!("a{n}/session.json"),
            zip::write::SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored),
        )
        .unwrap();
        zip.write_all(session.to_string().as_bytes()).unwrap();
    }
    let whole = zip.finish().unwrap().into_inner();
    // The third amplifier's file is not what its sum says.
    let mut broken = whole.clone();
    let at = broken.windows(8).position(|eight| eight == b"Mono 200").unwrap();
    broken[at + 5] = b'9';
    let done = take(&bench, "/api/imports", &broken);
    let stopped = done["stopped"].as_str().unwrap();
    assert!(
        stopped.starts_with("2 of 4 came in, then it broke off.") && stopped.ends_with("Import the same file again to go on."),
        "{stopped}"
    );
    assert_eq!(ids(&bench).len(), 2);
    let view = take(&bench, "/api/imports/previews", &whole);
    let what: Vec<&str> = view["entries"].as_array().unwrap().iter().map(|entry| entry["what"].as_str().unwrap()).collect();
    assert_eq!(what, ["same", "same", "added", "added"]);
    assert_eq!(take(&bench, "/api/imports", &whole)["stopped"], Value::Null);
    assert_eq!(ids(&bench).len(), 4, "none twice");
}
