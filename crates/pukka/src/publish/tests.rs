use pukka_core::record::session::Session;
use pukka_core::record::session::examples::mono_1100;
use serde_json::{Value, json};

use super::*;
use crate::cards::Card;
use crate::cards::{Shape, Theme};

fn style() -> Style {
    Style { shape: Shape::Wide, theme: Theme::Light, lines: 1_080 }
}

/// The example with a mark in every private field.
fn marked() -> Session {
    let mut file: Value = serde_json::to_value(mono_1100().to_file().unwrap()).unwrap();
    file["amplifier"]["loan"] = json!({ "lent_by": "MARKED lender" });
    for run in file["runs"].as_array_mut().unwrap() {
        run["who"] = json!("MARKED reviewer");
    }
    file["gates"] = json!([{ "code": "below-floor", "wiring": { "kind": "mono" }, "load_ohm": 1.0, "reason": "asked", "by": "MARKED opener",
        "at": "2026-11-20T10:00:00Z" }]);
    file["amplifier"]["inside"] = json!({ "capacitors": [{ "uf": 3300.0, "rated_v": 63.0, "count": 4, "place": "rails" }],
        "devices": [{ "part": "FL-60", "count": 4 }] });
    file["amplifier"]["likes"] = json!(["terminals that take the wire"]);
    file["guesses"] = json!({ "sha256": "0".repeat(64), "sealed_at": "2026-11-20T09:00:00Z", "salt": "x",
        "list": [{ "by": "MARKED guesser", "power_w": 900.0 }] });
    let bytes = serde_json::to_vec(&file).unwrap();
    Session::read(&bytes).unwrap_or_else(|problems| panic!("{problems:?}"))
}

fn made_of(session: &Session, sheet: &Sheet) -> Vec<Card> {
    cards(Subject { session, sheet, is_locked: false, by: &Signature::default() }, style())
}

fn heading(settled_on: Option<String>) -> Heading {
    Heading { made_on: "2026-11-29".into(), settled_on, photos: Vec::new(), traces: Vec::new() }
}

#[test]
fn nothing_private_is_in_any_file_and_the_files_are_the_same_again() {
    let session = marked();
    assert!(serde_json::to_string(&session).unwrap().matches("MARKED").count() >= 10, "the marks are there");
    let made = files(&shown(&session), &heading(None), &Signature::default(), style()).unwrap();
    for file in &made {
        let text = String::from_utf8_lossy(&file.bytes);
        assert!(!text.contains("MARKED"), "{} holds a private name", file.name);
    }
    let names: Vec<&str> = made.iter().map(|file| file.name.as_str()).collect();
    for wanted in [
        "chapters.txt",
        "data.csv",
        "data.json",
        "description.md",
        "description.txt",
        "efficiency.png",
        "guesses.png",
        "inside.svg",
        "readings.srt",
        "readings.vtt",
        "sheet.html",
        "table.svg",
        "verdict.png",
        "verdict.svg",
    ] {
        assert!(names.contains(&wanted), "{wanted}: {names:?}");
    }
    assert!(
        names.is_sorted() && names.iter().any(|name| name.starts_with("run-01-")) && names.iter().any(|name| name.starts_with("load-4"))
    );
    assert_eq!(files(&shown(&session), &heading(None), &Signature::default(), style()).unwrap(), made);
}

#[test]
fn guesses_and_parts_go_out_once_they_are_there() {
    let (session, sheet) = shown(&marked());
    let all = made_of(&session, &sheet);
    let card = |all: &[Card], name: &str| all.iter().find(|card| card.name == name).cloned();
    let said = |text: &str| text.replace(['\u{202f}', '\u{a0}'], " ");
    let guesses = card(&all, "guesses").unwrap();
    assert_eq!(said(&guesses.alt), "Tolland & Pike Mono 1100: nearest guess guesser 1 with 900 W, −168 W off 1 068 W clean into 1 Ω.");
    let inside = said(&card(&all, "inside").unwrap().alt);
    assert!(inside.contains("Capacitors: 4 × 3 300 µF 63 V, rails") && inside.contains("µF/W rail capacitance"), "{inside}");
    let page = page(&sheet, &heading(None));
    assert!(page.contains("terminals that take the wire") && page.contains("Content-Security-Policy"), "the sheet has the record");
    let mut sealed = marked();
    sealed.guesses.as_mut().unwrap().sealed = true;
    let (session, sheet) = shown(&sealed);
    assert!(card(&made_of(&session, &sheet), "guesses").is_none(), "a seal is kept");
    let (session, sheet) = shown(&mono_1100());
    assert!(card(&made_of(&session, &sheet), "inside").is_none());
}

#[test]
fn what_is_not_locked_says_so_and_what_is_locked_does_not() {
    let says = |locked_on: Option<String>| {
        let made = files(&shown(&mono_1100()), &heading(locked_on), &Signature::default(), style()).unwrap();
        let text = |name: &str| String::from_utf8(made.iter().find(|file| file.name == name).unwrap().bytes.clone()).unwrap();
        ["description.txt", "description.md", "pinned-comment.txt"].map(|name| text(name).contains("Not locked"))
    };
    assert_eq!(says(None), [true; 3]);
    assert_eq!(says(Some("2026-11-28".into())), [false; 3]);
}
