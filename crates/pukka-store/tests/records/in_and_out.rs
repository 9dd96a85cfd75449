//! Files out of the records and into them: equal to the last digit, added, brought together, refused; and settled verdicts.

use proptest::prelude::*;
use pukka_core::assess::judge;
use pukka_core::kernel::units::{Level, Volts, Watts};
use pukka_core::kernel::wiring::Wiring;
use pukka_core::live::Round;
use pukka_core::plan::ladder::Place;
use pukka_core::record::session::examples::{mono_1100, run};
use pukka_core::record::session::{Mode, OwnerConsent, ReadingName, Session, SessionFile};
use pukka_store::transfer::{self, Arrival, Outgoing};
use pukka_store::{Author, Store, StoreError, amplifiers, lives, runs, sessions, settled, summaries, undo};
use serde_json::json;

struct Shelf {
    store: Store,
    _folder: tempfile::TempDir,
}

fn author() -> Author {
    Author { who: "tester".into(), tab: "a".into(), at: "2026-11-26T12:00:00Z".parse().unwrap(), key: None, batch: None }
}

fn alone(file: Session) -> Outgoing {
    Outgoing { file, ramps: Vec::new(), settled: None }
}

impl Shelf {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        Self { store: Store::open(folder.path()).unwrap(), _folder: folder }
    }

    fn take_in(&self, incoming: &Outgoing) -> Result<String, StoreError> {
        let incoming = incoming.clone();
        self.store.write(move |tx| transfer::take_in(tx, &author().at_once(), &incoming))
    }

    fn out(&self, amplifier: &str) -> Outgoing {
        self.store.read(|tx| transfer::outgoing(tx, amplifier)).unwrap()
    }

    fn arrival(&self, file: &Session) -> Arrival {
        self.store.read(|tx| transfer::arrival(tx, file)).unwrap()
    }

    fn session_of(&self, amplifier: &str) -> String {
        self.store.read(|tx| sessions::in_hand(tx, amplifier)).unwrap().id
    }

    fn count(&self) -> usize {
        self.store.read(amplifiers::whole_shelf).unwrap().len()
    }
}

/// A session with something of everything, and keys that nobody knows in many places.
fn rich() -> Session {
    let mut file = serde_json::to_value(mono_1100()).unwrap();
    file["id"] = json!("ferry-lane-7");
    file["weather"] = json!({ "wet": true });
    file["amplifier"]["price"]["vat"] = json!(0.2);
    file["policy"]["mood"] = json!("calm");
    file["claims"][0]["wiring"]["jumper"] = json!("J2");
    file["gates"] =
        json!([{ "code": "below-floor", "load_ohm": 0.67, "mode": "dynamic", "reason": "asked for", "by": "E", "ink": "blue" }]);
    let mut session = SessionFile::read(&serde_json::to_vec(&file).unwrap()).unwrap().session;
    session.gates[0].owner_consent = Some(OwnerConsent { by: "Owner".into(), on: "2026-11-20".parse().unwrap(), who_pays: "me".into() });
    session.runs[1].valid = false;
    session.runs[2].struck.push(ReadingName::Current);
    session.runs[8].extra.insert("kept_inside".into(), json!({ "/outputs/0/probe": [0.1, 0.2] }));
    // A correction that stands before what it corrects, and without a reason.
    let mut correction = run("early", Wiring::Mono, 4.0, Mode::Certified, 446.0, Some(14.4));
    correction.supersedes = Some("r1".into());
    session.runs.insert(0, correction);
    session
}

#[test]
fn a_file_exported_and_imported_again_is_equal_to_the_last_digit() {
    let (first, second) = (Shelf::new(), Shelf::new());
    let once = first.out(&first.take_in(&alone(rich())).unwrap()).file;
    assert_eq!(once, rich(), "what was imported comes out as it was");
    let text = serde_json::to_string(&once.to_file().unwrap()).unwrap();
    let read = SessionFile::read(text.as_bytes()).unwrap().session;
    let again = second.out(&second.take_in(&alone(read)).unwrap()).file;
    assert_eq!(serde_json::to_string(&again.to_file().unwrap()).unwrap(), text);
    assert_eq!(judge(&again), judge(&once));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    #[test]
    fn every_digit_of_a_reading_survives(watts in 0.0f64..5_000.0, volts in 8.0f64..16.0, amps in 0.0f64..400.0) {
        let shelf = Shelf::new();
        let mut file = mono_1100();
        file.id = Some("digits".into());
        file.runs[0].outputs[0].power_w = Some(Watts::new(watts).unwrap());
        file.runs[0].end_v = Some(Volts::new(volts).unwrap());
        file.runs[0].current_a = Some(pukka_core::kernel::units::Amps::new(amps).unwrap());
        let out = shelf.out(&shelf.take_in(&alone(file.clone())).unwrap()).file;
        prop_assert_eq!(out, file);
    }
}

#[test]
fn what_a_file_would_be_is_said_before_anything_is_done() {
    let shelf = Shelf::new();
    assert_eq!(shelf.arrival(&rich()), Arrival::New { namesake: false });
    assert_eq!(shelf.count(), 0, "asking does nothing");
    let id = shelf.take_in(&alone(rich())).unwrap();
    assert_eq!(shelf.arrival(&rich()), Arrival::Same { amplifier_id: id.clone() });
    assert_eq!(shelf.take_in(&alone(rich())).unwrap(), id, "the same file twice is one amplifier");
    let stranger = Session { id: Some("elsewhere".into()), ..rich() };
    assert_eq!(shelf.arrival(&stranger), Arrival::New { namesake: true });
    let mut nameless = mono_1100();
    nameless.amplifier.model = "Mono 1100 mk2".into();
    let second = shelf.take_in(&alone(nameless.clone())).unwrap();
    assert_eq!(shelf.arrival(&nameless), Arrival::Same { amplifier_id: second.clone() }, "without an id it is known by what is in it");
    let out = shelf.out(&second).file;
    assert_eq!(shelf.arrival(&out), Arrival::Same { amplifier_id: second });
}

#[test]
fn more_runs_are_brought_to_the_amplifier_that_is_there_and_one_undo_takes_them_back() {
    let shelf = Shelf::new();
    let id = shelf.take_in(&alone(rich())).unwrap();
    let mut file = rich();
    file.runs.push(run("late", Wiring::Mono, 8.0, Mode::Certified, 240.0, Some(14.4)));
    file.claims[1].power_w = Some(pukka_core::kernel::units::ClaimedWatts::new(800.0).unwrap());
    file.amplifier.model = "Mono 1100 b".into();
    file.plan.rest_v = Some(Volts::new(14.1).unwrap());
    file.runs[4].struck.push(ReadingName::EndVolts);
    file.runs[5].valid = false;
    let Arrival::Changed { merge, .. } = shelf.arrival(&file) else { panic!("it changed") };
    assert_eq!(merge.says(), ["its record", "its bench and settings", "one changed claim", "one more run", "two marks on runs"]);
    shelf.take_in(&alone(file.clone())).unwrap();
    assert_eq!(shelf.out(&id).file, file);
    assert_eq!(shelf.count(), 1);
    shelf.store.write(|tx| undo::undo(tx, &author(), &undo::ExpectedAct::default())).unwrap();
    let mut back = shelf.out(&id).file;
    assert!(!back.run("late").unwrap().valid, "a run is not deleted: it is taken back");
    back.runs.pop();
    assert_eq!(back, rich());
}

#[test]
fn a_file_that_would_overwrite_a_reading_is_refused_whole() {
    let shelf = Shelf::new();
    let id = shelf.take_in(&alone(rich())).unwrap();
    let mut file = rich();
    file.amplifier.model = "Another".into();
    file.runs[3].outputs[0].power_w = Some(Watts::new(1.0).unwrap());
    assert!(matches!(shelf.take_in(&alone(file)), Err(StoreError::Refused { .. })));
    assert_eq!(shelf.out(&id).file, rich(), "and nothing of it was done");
}

#[test]
fn an_import_of_a_new_amplifier_is_undone_at_once() {
    let shelf = Shelf::new();
    shelf.take_in(&alone(rich())).unwrap();
    let undone = shelf.store.write(|tx| undo::undo(tx, &author(), &undo::ExpectedAct::default())).unwrap();
    assert_eq!((undone.says.as_str(), shelf.count()), ("imported Tolland & Pike Mono 1100", 0));
    assert!(matches!(shelf.store.write(|tx| undo::undo(tx, &author(), &undo::ExpectedAct::default())), Err(StoreError::NothingToUndo)));
}

#[test]
fn ramps_and_the_settled_verdict_come_along() {
    let (first, second) = (Shelf::new(), Shelf::new());
    let id = first.take_in(&alone(rich())).unwrap();
    let session = first.session_of(&id);
    let run_id = first.store.read(|tx| sessions::load(tx, &session)).unwrap().session.runs[1].id.clone();
    let driven = session.clone();
    first
        .store
        .write(move |tx| {
            let place = Place { rung: "mono@4@40".into(), mode: Mode::Certified };
            let begun = lives::begin(tx, &author(), &driven, &place, "ramp")?;
            let round = Round {
                t_ms: 40,
                power_w: vec![401.25],
                thd_ratio: Some(0.0031),
                supply_v: Some(14.4),
                supply_a: None,
                level_db: Level::new(-3.5).ok(),
                ..Round::default()
            };
            lives::keep(tx, begun.seq, &[(0, round.clone()), (1, Round { t_ms: 90, ..round })])?;
            lives::ended(tx, begun.seq, "2026-11-26T12:00:05Z", "\"done\"", "Reached the limit.", Some(&run_id))
        })
        .unwrap();
    let settle = session.clone();
    first.store.write(move |tx| settled::settle(tx, &author(), &settle)).unwrap();
    let out = first.out(&id);
    assert_eq!((out.ramps.len(), out.ramps[0].samples.len(), out.ramps[0].run.as_deref()), (1, 6, Some("r1")));
    let there = second.take_in(&out).unwrap();
    assert_eq!(second.out(&there), out, "again to the last digit");
    let kept = second.store.read(|tx| settled::newest(tx, &second.session_of(&there))).unwrap().unwrap();
    let here = second.store.read(|tx| sessions::in_hand(tx, &there)).unwrap().session;
    assert_eq!(kept.settled.changes(&here), Vec::<String>::new(), "and it stands, though every id was made again");
    second.take_in(&out).unwrap();
    assert_eq!(second.out(&there), out, "twice is once");
}

#[test]
fn a_settled_verdict_stays_as_it_was_and_later_runs_open_it_again() {
    let shelf = Shelf::new();
    let id = shelf.take_in(&alone(rich())).unwrap();
    let session = shelf.session_of(&id);
    let word = || shelf.store.read(|tx| summaries::get(tx, &session)).unwrap().verdict_word;
    let changes = || {
        shelf.store.read(|tx| {
            let row = sessions::load(tx, &session)?;
            Ok(settled::newest(tx, &session)?.map(|kept| kept.settled.changes(&row.session)))
        })
    };
    assert_eq!(changes().unwrap(), None);
    let settle = session.clone();
    shelf.store.write(move |tx| settled::settle(tx, &author(), &settle)).unwrap();
    assert_eq!((changes().unwrap(), word().as_str()), (Some(Vec::new()), "locked"));
    let (logged, to) = (run("new", Wiring::Mono, 2.0, Mode::Certified, 790.0, Some(14.3)), session.clone());
    shelf.store.write(move |tx| runs::log(tx, &author(), &to, &logged, "790 14.3", true)).unwrap();
    let since = changes().unwrap().unwrap();
    assert!(since.contains(&"One run was logged since.".to_owned()), "{since:?}");
    assert_eq!(word(), "locked, changed since");
    let same: i64 = shelf
        .store
        .write(|tx| {
            assert!(tx.execute("UPDATE settled_verdict SET body = '{}'", []).is_err(), "the database itself refuses");
            assert!(tx.execute("DELETE FROM settled_verdict", []).is_err());
            Ok(tx.query_row("SELECT count(*) FROM settled_verdict", [], |row| row.get(0))?)
        })
        .unwrap();
    assert_eq!(same, 1);
    // Undo takes the run back first, then the settling.
    shelf.store.write(|tx| undo::undo(tx, &author(), &undo::ExpectedAct::default())).unwrap();
    assert!(
        shelf.store.write(|tx| undo::undo(tx, &author(), &undo::ExpectedAct::default())).unwrap().says.starts_with("locked the verdict")
    );
    assert_eq!(changes().unwrap(), None);
}
