//! Everything that goes out, over HTTP: a mark is planted in every private field, and each output is searched for it.

use std::io::Read as _;

use crate::common::Bench;
use serde_json::{Value, json};

const MARK: &str = "Oakshott";

fn planted() -> Value {
    let session = pukka_core::record::session::examples::mono_1100();
    let mut file = session.to_file().unwrap();
    file["amplifier"]["loan"] = json!({ "lent_by": MARK, "due_back": "2026-12-20" });
    file["gates"] = json!([{ "code": "below-floor", "load_ohm": 0.67, "mode": "dynamic", "reason": "agreed beforehand", "by": MARK,
        "second_reason": MARK, "owner_consent": { "by": MARK, "on": "2026-11-20", "who_pays": MARK } }]);
    file["runs"][0]["who"] = json!(MARK);
    file["guesses"] = json!({ "sha256": "0".repeat(64), "sealed_at": "2026-11-20T09:00:00Z", "salt": MARK, "sealed": true,
        "list": [{ "by": MARK, "power_w": 900.0, "may_be_named": false }] });
    file
}

/// Amplifier and session of a planted file.
fn taken_in(bench: &Bench) -> (String, String) {
    let amplifier = bench.post("/api/imports", &planted()).json()["amplifier_id"].as_str().unwrap().to_owned();
    let session = bench.get(&format!("/api/amplifiers/{amplifier}")).json()["session_id"].as_str().unwrap().to_owned();
    (amplifier, session)
}

/// Files of a zip, by name.
fn unzipped(bytes: Vec<u8>) -> Vec<(String, Vec<u8>)> {
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(bytes)).unwrap();
    let mut files = Vec::new();
    for at in 0..zip.len() {
        let mut file = zip.by_index(at).unwrap();
        let mut held = Vec::new();
        file.read_to_end(&mut held).unwrap();
        files.push((file.name().unwrap().into_owned(), held));
    }
    files
}

fn tells(bytes: &[u8]) -> bool {
    bytes.windows(MARK.len()).any(|part| part == MARK.as_bytes())
}

#[test]
fn nothing_private_is_in_anything_that_goes_out() {
    let bench = Bench::start();
    let (amplifier, session) = taken_in(&bench);
    let of_session = |what: &str| format!("/api/sessions/{session}/{what}");
    assert!(tells(&bench.bytes(&format!("/api/amplifiers/{amplifier}/file"))), "one's own file has all of it");
    let publication = bench.get(&of_session("publication")).json();
    let cards = publication["cards"].as_array().unwrap().iter().map(|card| card["name"].as_str().unwrap());
    let drawn = cards.flat_map(|name| [of_session(&format!("cards/{name}.svg")), of_session(&format!("cards/{name}.png"))]);
    let others = ["publication", "sheet.html", "sheet.csv", "sheet"].map(of_session);
    let mut searched = 0;
    for path in drawn.chain(others).chain([format!("/api/amplifiers/{amplifier}/file?kind=shared")]) {
        assert!(!tells(&bench.bytes(&path)), "{path} tells what is private");
        searched += 1;
    }
    for path in [of_session("publication.zip"), "/api/site.zip".into(), "/api/data.zip".into(), "/api/shelf.zip?kind=shared".into()] {
        for (name, held) in unzipped(bench.bytes(&path)) {
            assert!(!tells(&held), "{name} in {path} tells what is private");
            searched += 1;
        }
    }
    assert!(searched > 30, "{searched} outputs were searched");
}

#[test]
fn the_site_is_one_download_and_what_cannot_be_asked_of_it_is_refused() {
    let bench = Bench::start();
    taken_in(&bench);
    let files = unzipped(bench.bytes("/api/site.zip?licence=CC%20BY%204.0&url=https://bench.example/amps"));
    let names: Vec<&str> = files.iter().map(|(name, _)| name.as_str()).collect();
    assert!(names.is_sorted() && names.contains(&"index.html") && names.contains(&"feed.xml"), "{names:?}");
    assert!(names.contains(&"tolland-pike-mono-1100/sheet.html"), "{names:?}");
    let empty = unzipped(bench.bytes("/api/site.zip?only=no%20such%20amplifier"));
    assert!(empty.iter().any(|(name, _)| name == "index.html") && empty.iter().all(|(name, _)| !name.contains('/')));
    for (query, path) in [("url=javascript:alert(1)", "url"), ("url=bench.example", "url"), ("name=a%00b", "name")] {
        let (status, code, paths) = bench.get(&format!("/api/site.zip?{query}")).refusal();
        assert_eq!((status, code.as_str(), paths), (422, "invalid", vec![path.to_owned()]), "{query}");
    }
    let unknown = bench.get("/api/site.zip?colour=red").refusal();
    assert_eq!((unknown.0, unknown.1.as_str()), (400, "unreadable-query"));
    let left: Vec<_> = std::fs::read_dir(bench.folder()).unwrap().map(|entry| entry.unwrap().file_name()).collect();
    assert!(left.iter().all(|name| !name.to_string_lossy().contains("part")), "{left:?}");
}

#[test]
fn the_reviewers_name_and_mark_stand_on_cards_and_nothing_else_of_the_picture_does() {
    let bench = Bench::start();
    let (_, session) = taken_in(&bench);
    let card = || bench.get(&format!("/api/sessions/{session}/publication")).json()["cards"][0]["drawing"].clone();
    let (none, before) = (bench.get("/api/signature").json(), card());
    assert_eq!((&none["revision"], &none["name"], &none["has_mark"]), (&json!(0), &json!(""), &json!(false)));
    let named = bench.send("PATCH", "/api/signature", r#"{"name":" Ferry Lane "}"#, &[("if-match", "0")]).json();
    assert_eq!((&named["name"], &named["revision"]), (&json!("Ferry Lane"), &json!(1)));
    assert_ne!(card(), before, "a card that says it is another drawing");
    assert_eq!(bench.send("PATCH", "/api/signature", r#"{"name":"Other"}"#, &[("if-match", "0")]).refusal().0, 412);
    let put = |bytes: &[u8], revision: &str| bench.send_bytes("PUT", "/api/signature/mark", bytes, &[("if-match", revision)]).status;
    let mut png = std::io::Cursor::new(Vec::new());
    image::DynamicImage::new_rgba8(800, 400).write_to(&mut png, image::ImageFormat::Png).unwrap();
    // A comment in the file, as cameras and editors leave them.
    let mut told = png.into_inner();
    let end = told.len() - 12;
    told.splice(end..end, [&20u32.to_be_bytes()[..], b"tEXtComment\0", MARK.as_bytes(), &[0; 4]].concat());
    assert_eq!((put(b"<svg/>", "1"), put(&told, "1")), (415, 200));
    let mark = bench.bytes("/api/signature/mark");
    assert!(!tells(&mark));
    assert_eq!(image::load_from_memory(&mark).unwrap().width(), 320);
    assert!(!tells(&bench.bytes(&format!("/api/sessions/{session}/cards/verdict.png"))));
    assert_eq!(bench.send("DELETE", "/api/signature/mark", "", &[("if-match", "2")]).json()["has_mark"], false);
    assert_eq!(bench.get("/api/signature/mark").refusal().0, 404);
}
