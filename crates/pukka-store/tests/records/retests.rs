//! Sessions of an amplifier that came to the bench more than once: opened, taken in hand, taken back, and carried in files.

use pukka_core::record::session::examples::mono_1100;
use pukka_core::record::session::{Run, Session};
use pukka_store::transfer::{self, Arrival, Outgoing};
use pukka_store::{Author, Store, StoreError, amplifiers, arming, retests, runs, sessions, undo};
use serde_json::json;

struct Shelf {
    store: Store,
    _folder: tempfile::TempDir,
}

fn author(at: &str) -> Author {
    Author { who: "tester".into(), tab: "a".into(), at: at.parse().unwrap(), key: None, batch: None }
}

const FIRST: &str = "2025-10-12T10:00:00Z";
const LATER: &str = "2026-11-20T10:00:00Z";

impl Shelf {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        Self { store: Store::open(folder.path()).unwrap(), _folder: folder }
    }

    fn amplifier(&self) -> String {
        self.store.write(|tx| transfer::insert(tx, &author(FIRST), &mono_1100(), None, true)).unwrap()
    }

    fn open(&self, amplifier: &str, at: &str) -> Result<String, StoreError> {
        let (id, at) = (amplifier.to_owned(), author(at));
        self.store.write(move |tx| retests::open(tx, &at, &id, Some("after a repair".into())))
    }

    fn in_hand(&self, amplifier: &str) -> sessions::SessionRow {
        self.store.read(|tx| sessions::in_hand(tx, amplifier)).unwrap()
    }

    fn take(&self, session: &str) -> Result<(), StoreError> {
        let id = session.to_owned();
        self.store.write(move |tx| retests::take_in_hand(tx, &author(LATER), &id))
    }

    fn log(&self, session: &str, n: usize) {
        let run: Run = serde_json::from_value(json!({
            "id": format!("{session}-{n}"), "at": "2026-11-20T10:04:00Z", "wiring": { "kind": "mono" }, "load_nominal_ohm": 4,
            "mode": "certified", "tone_hz": 40.0, "outputs": [{ "power_w": 400.0 }], "rest_v": 14.6
        }))
        .unwrap();
        let id = session.to_owned();
        self.store.write(move |tx| runs::log(tx, &author(LATER), &id, &run, "400", true)).unwrap();
    }

    fn list(&self, amplifier: &str) -> Vec<retests::RetestRow> {
        self.store.read(|tx| retests::list(tx, amplifier)).unwrap()
    }

    fn undo(&self) -> Result<undo::Reversal, StoreError> {
        self.store.write(|tx| undo::undo(tx, &author(LATER), &undo::ExpectedAct::default()))
    }

    fn redo(&self) -> Result<undo::Reversal, StoreError> {
        self.store.write(|tx| undo::redo(tx, &author(LATER), &undo::ExpectedAct::default()))
    }

    fn logged_on_shelf(&self) -> usize {
        self.store.read(amplifiers::whole_shelf).unwrap()[0].summary.logged
    }
}

#[test]
fn a_retest_carries_bench_plan_and_claims_over_and_nothing_that_was_read_or_allowed() {
    let shelf = Shelf::new();
    let amplifier = shelf.amplifier();
    let before = shelf.in_hand(&amplifier);
    let id = shelf.open(&amplifier, LATER).unwrap();
    let after = shelf.in_hand(&amplifier);
    assert_eq!(after.id, id, "it is in hand");
    let (old, new) = (&before.session, &after.session);
    assert_eq!((&new.bench, &new.policy, &new.claims, &new.amplifier), (&old.bench, &old.policy, &old.claims, &old.amplifier));
    assert_eq!((&new.plan.rungs, new.plan.order), (&old.plan.rungs, old.plan.order));
    assert_eq!(after.bench_profile_id, before.bench_profile_id);
    assert!(new.runs.is_empty() && new.gates.is_empty() && new.idle.is_none() && new.plan.rest_v.is_none());
    assert_eq!((after.cautions_read_at.as_ref(), after.ticked.len()), (None, 0), "cautions are read again");
    assert_eq!(new.occasion.as_deref(), Some("after a repair"));
    assert_eq!(shelf.store.read(|tx| sessions::load(tx, &before.id)).unwrap(), before, "the one before is as it was");
}

#[test]
fn the_one_in_hand_is_the_shelfs_and_any_can_be_taken_whatever_the_clock_says() {
    let shelf = Shelf::new();
    let amplifier = shelf.amplifier();
    let first = shelf.in_hand(&amplifier).id;
    let runs = shelf.logged_on_shelf();
    // The clock was put back meanwhile.
    let second = shelf.open(&amplifier, "2020-01-01T00:00:00Z").unwrap();
    assert_eq!((shelf.in_hand(&amplifier).id, shelf.logged_on_shelf()), (second.clone(), 0));
    for wanted in [&first, &second, &first] {
        shelf.take(wanted).unwrap();
        assert_eq!(&shelf.in_hand(&amplifier).id, wanted);
        assert_eq!(shelf.logged_on_shelf(), if wanted == &first { runs } else { 0 });
        assert_eq!(shelf.list(&amplifier).iter().find(|row| row.in_hand).map(|row| &row.id), Some(wanted));
    }
    assert!(matches!(shelf.take("nowhere"), Err(StoreError::NotFound { .. })));
}

#[test]
fn undo_takes_an_empty_retest_back_and_never_one_with_runs() {
    let shelf = Shelf::new();
    let amplifier = shelf.amplifier();
    let first = shelf.in_hand(&amplifier).id;
    let second = shelf.open(&amplifier, LATER).unwrap();
    assert_eq!(shelf.undo().unwrap().says, "opened a retest");
    assert_eq!((shelf.in_hand(&amplifier).id, shelf.list(&amplifier).len()), (first, 1));
    shelf.redo().unwrap();
    assert_eq!(shelf.in_hand(&amplifier).id, second);
    // Another tab logs into it.
    let run: Run = serde_json::from_value(json!({ "id": "r", "at": LATER, "wiring": { "kind": "mono" }, "load_nominal_ohm": 4,
        "mode": "certified", "tone_hz": 40.0, "outputs": [{ "power_w": 400.0 }], "rest_v": 14.6 }))
    .unwrap();
    let (id, other) = (second.clone(), Author { tab: "b".into(), ..author(LATER) });
    shelf.store.write(move |tx| runs::log(tx, &other, &id, &run, "400", true)).unwrap();
    let refused = shelf.undo().unwrap_err();
    assert!(refused.to_string().contains("take those runs back first"), "{refused}");
    assert_eq!(shelf.in_hand(&amplifier).session.runs.len(), 1, "nothing is lost");
}

#[test]
fn nothing_changes_hands_while_a_run_is_armed() {
    let shelf = Shelf::new();
    let amplifier = shelf.amplifier();
    let first = shelf.in_hand(&amplifier).id;
    let id = first.clone();
    let at = pukka_core::plan::ladder::Place { rung: "mono@4@40".into(), mode: pukka_core::record::session::Mode::Certified };
    shelf.store.write(move |tx| arming::arm(tx, &author(LATER), &id, &at)).unwrap();
    assert!(matches!(shelf.open(&amplifier, LATER), Err(StoreError::Armed { .. })));
    assert!(matches!(shelf.take(&first), Err(StoreError::Armed { .. })));
}

fn out(shelf: &Shelf, amplifier: &str) -> Vec<Outgoing> {
    shelf.store.read(|tx| transfer::outgoing_all(tx, amplifier)).unwrap()
}

fn take_in(shelf: &Shelf, incoming: &Outgoing) -> String {
    let incoming = incoming.clone();
    shelf.store.write(move |tx| transfer::take_in(tx, &author(LATER).at_once(), &incoming)).unwrap()
}

/// What of a session does not name it.
fn contents(outgoing: &Outgoing) -> Session {
    Session { same_amplifier_as: None, ..outgoing.file.clone() }
}

#[test]
fn every_session_travels_and_comes_to_one_amplifier_elsewhere_once() {
    let here = Shelf::new();
    let amplifier = here.amplifier();
    let second = here.open(&amplifier, LATER).unwrap();
    here.log(&second, 1);
    here.log(&second, 2);
    let all = out(&here, &amplifier);
    assert_eq!(all.len(), 2);
    assert_eq!((&all[0].file.same_amplifier_as, &all[1].file.same_amplifier_as), (&None, &all[0].file.id));
    assert_eq!((all[0].file.runs.len(), all[1].file.runs.len()), (2, mono_1100().runs.len()), "the one in hand first");

    let there = Shelf::new();
    for _ in 0..2 {
        for one in &all {
            take_in(&there, one);
        }
    }
    let shelf = there.store.read(amplifiers::whole_shelf).unwrap();
    assert_eq!(shelf.len(), 1, "one amplifier, however often they come");
    let back = out(&there, &shelf[0].id);
    assert_eq!(back.iter().map(contents).collect::<Vec<_>>(), all.iter().map(contents).collect::<Vec<_>>());
    assert_eq!(there.list(&shelf[0].id).iter().map(|row| row.in_hand).filter(|in_hand| *in_hand).count(), 1);

    // A file of the session that is not in hand brings what it has to that session, and to no other.
    let mut more = all[1].clone();
    more.file.runs[0].note = Some("smelt warm".into());
    assert!(matches!(there.store.read(|tx| transfer::arrival(tx, &more.file)).unwrap(), Arrival::Changed { .. }));
    take_in(&there, &more);
    let noted = out(&there, &shelf[0].id);
    assert_eq!(noted[1].file.runs[0].note.as_deref(), Some("smelt warm"));
    assert_eq!(contents(&noted[0]), contents(&all[0]));
    // One that comes before its fellow stands by itself.
    let alone = Shelf::new();
    take_in(&alone, &all[1]);
    assert_eq!(alone.store.read(amplifiers::whole_shelf).unwrap().len(), 1);
}
