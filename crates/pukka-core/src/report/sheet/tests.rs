use super::*;
use crate::record::session::examples::mono_1100;
use crate::record::session::{Acceptance, Mode, ReadingName};

fn said(sheet: &Sheet, what: &str) -> String {
    let found = sheet.facts.iter().find(|fact| fact.what == what).map(|fact| fact.says.clone());
    found.unwrap_or_default().replace(['\u{202f}', '\u{a0}'], " ")
}

#[test]
fn it_states_how_it_was_measured() {
    let sheet = sheet(&mono_1100());
    assert!(said(&sheet, "Limit").starts_with("certified: most power with THD+N at 1 % or less"), "{}", said(&sheet, "Limit"));
    assert_eq!(said(&sheet, "Tone"), "40 Hz");
    assert_eq!(said(&sheet, "Channels driven"), "mono");
    assert!(said(&sheet, "Loads, as measured").contains("4 Ω is 3.91 Ω"), "{}", said(&sheet, "Loads, as measured"));
    assert!(said(&sheet, "Supply").contains("at rest 14.60 V, under load 13.88 to 14.52 V"), "{}", said(&sheet, "Supply"));
    assert!(
        said(&sheet, "Meters").contains("± 1 %") && said(&sheet, "Meters").contains("no meter given for amps: ± 2 % taken"),
        "{}",
        said(&sheet, "Meters")
    );
    assert_eq!(said(&sheet, "Order"), "all modes of a load, then the next load");
    assert!(!said(&sheet, "Provenance").is_empty());
    assert_eq!((sheet.rows.len(), sheet.rows[8].mode), (9, Mode::Dynamic));
    assert_eq!(sheet.open.len(), 2, "past the fuses twice; what is only to be noted is left out: {:?}", sheet.open);
}

#[test]
fn a_run_says_where_the_charger_or_the_bank_changed() {
    let mut session = mono_1100();
    for at in 0..9 {
        session.runs[at].charger_on = Some((3..6).contains(&at));
        session.runs[at].bank = (at >= 6).then(|| "B".to_owned());
    }
    let remarks: Vec<String> = sheet(&session).rows.into_iter().map(|row| row.remark).collect();
    let (first, fourth, seventh) = (&remarks[0], &remarks[3], &remarks[6]);
    assert_eq!((first.as_str(), fourth.as_str()), ("", "charger on from here"));
    assert_eq!(seventh, "charger off from here; on bank B from here");
    assert_eq!(remarks[4], "", "once, where it changed");
}

#[test]
fn every_figure_cites_a_note_that_goes_down_to_the_readings() {
    let sheet = sheet(&mono_1100());
    let entries: Vec<&NoteEntry> = sheet.notes.iter().flat_map(|note| &note.entries).collect();
    let numbers: std::collections::BTreeSet<usize> = entries.iter().map(|entry| entry.number).collect();
    assert_eq!(numbers.len(), entries.len(), "a number is one note");
    assert!(entries.iter().all(|entry| entry.from.iter().all(|from| numbers.contains(from))), "what is made from another names it");
    let brought = &sheet.claims[2].at_reference[0];
    assert_eq!(brought.figure.text, "1\u{202f}136");
    let entry = entries.iter().find(|entry| entry.number == brought.note).unwrap();
    assert_eq!(entry.result.as_deref(), Some("1\u{202f}136\u{202f}W ± 18.6"));
    assert!(entry.inputs.contains("13.96"), "{}", entry.inputs);
    let beneath = entries.iter().find(|other| other.number == entry.from[0]).unwrap();
    assert!(beneath.inputs.starts_with("P 1\u{202f}068\u{202f}W"), "{}", beneath.inputs);
    let note = sheet.notes.iter().find(|note| note.entries.contains(beneath)).unwrap();
    assert!(note.symbols.contains("P power as read"), "what all entries share is said once: {}", note.symbols);
    let read = sheet.rows[6].power.as_ref().unwrap();
    assert_eq!(read.note, beneath.number, "the same working is one note, cited twice");
    assert!(sheet.assumptions.iter().any(|says| says.ends_with("Unregulated supply: its rails follow the battery, e = 2.")));
}

#[test]
fn what_was_settled_and_how() {
    let mut session = mono_1100();
    session.runs[6].accepted.push(Acceptance { code: "fuse".into(), reason: "slow-blow, seen to hold".into() });
    session.runs[0].struck.push(ReadingName::Current);
    session.runs[1].valid = false;
    let sheet = sheet(&session);
    let said: Vec<String> = sheet.settled.iter().map(|says| says.replace('\u{202f}', " ")).collect();
    assert_eq!(
        said,
        [
            "1 Ω, certified: Past the fuses. Accepted: slow-blow, seen to hold.",
            "4 Ω, certified: amps struck: kept, not used.",
            "One run was withdrawn, kept with the session."
        ]
    );
}
