//! Many writers and readers at once: nothing lost, nothing twice, every view whole.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use pukka_core::kernel::units::Watts;
use pukka_core::record::session::Session;
use pukka_core::record::session::examples::mono_1100;
use pukka_store::{Author, Store, StoreError, amplifiers, claims, idempotency, new_id, runs, sessions, transfer, undo};

fn author(tab: &str, key: Option<&str>) -> Author {
    let key = key.map(|key| (key.to_owned(), idempotency::fingerprint(&[b"the same request"])));
    Author { who: "tester".into(), tab: tab.into(), at: "2026-11-20T10:00:00Z".parse().unwrap(), key, batch: None }
}

fn store() -> (Arc<Store>, tempfile::TempDir, String) {
    let folder = tempfile::tempdir().unwrap();
    let store = Arc::new(Store::open(folder.path()).unwrap());
    let file = Session { runs: Vec::new(), ..mono_1100() };
    let id = store.write(move |tx| transfer::insert(tx, &author("import", None), &file, None, true)).unwrap();
    (store, folder, id)
}

#[test]
fn a_session_made_before_its_write_counts_only_while_nothing_else_was_logged() {
    let (store, _folder, id) = store();
    let session_id = store.read(|tx| sessions::in_hand(tx, &id)).unwrap().id;
    let before = store.session(&session_id).unwrap();
    for watts in [440.0, 441.0] {
        let mut run = mono_1100().runs[0].clone();
        (run.id, run.outputs[0].power_w) = (new_id(), Some(Watts::new(watts).unwrap()));
        // The second is made from what was there before the first.
        let next = runs::NextSession::of(&before, &run);
        assert_eq!(next.session().runs.len(), 1);
        let session_id = session_id.clone();
        store.write(move |tx| runs::log_next(tx, &author("a", None), &session_id, &run, "…", true, Some(next))).unwrap();
    }
    let known = store.session(&session_id).unwrap();
    let read: Vec<_> = known.session.runs.iter().map(|run| run.outputs[0].power_w.unwrap().get()).collect();
    assert_eq!(read, [440.0, 441.0]);
    assert_eq!(known.session, store.read(|tx| sessions::load(tx, &session_id)).unwrap().session, "what is known is what is kept");
}

#[test]
fn four_writers_lose_nothing_and_readers_see_whole_runs() {
    let (store, _folder, id) = store();
    let session_id = store.read(|tx| sessions::in_hand(tx, &id)).unwrap().id;
    let done = Arc::new(AtomicBool::new(false));
    let reader = {
        let (store, session_id, done) = (Arc::clone(&store), session_id.clone(), Arc::clone(&done));
        std::thread::spawn(move || {
            let mut seen = 0;
            while !done.load(Ordering::SeqCst) {
                let row = store.read(|tx| sessions::load(tx, &session_id)).unwrap();
                let count = row.session.runs.len();
                assert!(count >= seen, "runs never go away");
                assert!(
                    row.session.runs.iter().all(|run| run.outputs.len() == 1 && run.end_v.is_some()),
                    "a run is seen whole or not at all"
                );
                seen = count;
            }
        })
    };
    let writers: Vec<_> = (0..4)
        .map(|w| {
            let (store, session_id) = (Arc::clone(&store), session_id.clone());
            std::thread::spawn(move || {
                for i in 0..25 {
                    let mut run = mono_1100().runs[0].clone();
                    run.id = new_id();
                    run.outputs[0].power_w = Some(Watts::new(f64::from(w * 100 + i)).unwrap());
                    let session_id = session_id.clone();
                    store.write(move |tx| runs::log(tx, &author(&format!("tab {w}"), None), &session_id, &run, "…", true)).unwrap();
                }
            })
        })
        .collect();
    for writer in writers {
        writer.join().unwrap();
    }
    done.store(true, Ordering::SeqCst);
    reader.join().unwrap();
    let row = store.read(|tx| sessions::load(tx, &session_id)).unwrap();
    let mut watts: Vec<u32> = row.session.runs.iter().map(|run| run.outputs[0].power_w.unwrap().get() as u32).collect();
    watts.sort_unstable();
    let expected: Vec<u32> = (0..4).flat_map(|w| (0..25).map(move |i| w * 100 + i)).collect();
    assert_eq!(watts, expected);
    for w in 0..4 {
        for _ in 0..25 {
            let tab = format!("tab {w}");
            store.write(move |tx| undo::undo(tx, &author(&tab, None), &undo::ExpectedAct::default())).unwrap();
        }
        let tab = format!("tab {w}");
        assert!(matches!(
            store.write(move |tx| undo::undo(tx, &author(&tab, None), &undo::ExpectedAct::default())),
            Err(StoreError::NothingToUndo)
        ));
    }
    let left = store.read(|tx| sessions::load(tx, &session_id)).unwrap().session;
    assert_eq!((left.runs.len(), left.standing_runs().count()), (100, 0), "all taken back, all still there");
}

#[test]
fn one_key_sent_by_eight_at_once_is_done_once() {
    let (store, _folder, id) = store();
    let session_id = store.read(|tx| sessions::in_hand(tx, &id)).unwrap().id;
    let senders: Vec<_> = (0..8)
        .map(|_| {
            let (store, session_id) = (Arc::clone(&store), session_id.clone());
            std::thread::spawn(move || {
                let mut run = mono_1100().runs[0].clone();
                run.id = new_id();
                store
                    .write(move |tx| {
                        let author = author("a", Some("one key"));
                        idempotency::once(tx, &author, |tx| runs::log(tx, &author, &session_id, &run, "…", true).map(|logged| logged.id))
                    })
                    .unwrap()
            })
        })
        .collect();
    let answers: Vec<String> = senders.into_iter().map(|sender| sender.join().unwrap()).collect();
    assert!(answers.iter().all(|answer| *answer == answers[0]), "everybody is told the same: {answers:?}");
    assert_eq!(store.read(|tx| sessions::load(tx, &session_id)).unwrap().session.runs.len(), 1);
}

#[test]
fn of_two_changes_from_one_revision_one_wins_and_the_other_is_told() {
    let (store, _folder, id) = store();
    let outcomes: Vec<bool> = (0..6)
        .map(|i| {
            let (store, id) = (Arc::clone(&store), id.clone());
            std::thread::spawn(move || {
                let mut amplifier = mono_1100().amplifier;
                amplifier.model = format!("Mono {i}");
                store.write(move |tx| amplifiers::update(tx, &author("a", None), &id, 1, &amplifier)).is_ok()
            })
        })
        .collect::<Vec<_>>()
        .into_iter()
        .map(|thread| thread.join().unwrap())
        .collect();
    assert_eq!(outcomes.iter().filter(|won| **won).count(), 1);
    assert_eq!(store.read(|tx| amplifiers::get(tx, &id)).unwrap().revision, 2);
}

#[test]
fn what_is_deleted_cannot_be_written_to_and_comes_back_whole() {
    let (store, _folder, id) = store();
    let row = store.read(|tx| sessions::in_hand(tx, &id)).unwrap();
    let (claim_id, session_id) = (row.session.claims[0].id.clone(), row.id.clone());
    let gone = id.clone();
    store.write(move |tx| amplifiers::delete(tx, &author("a", None), &gone, 1)).unwrap();
    let not_found = |result: Result<(), StoreError>| matches!(result, Err(StoreError::NotFound { .. }));
    let mut run = row.session.clone().runs.first().cloned().unwrap_or_else(|| mono_1100().runs[0].clone());
    run.id = new_id();
    let log = session_id.clone();
    assert!(not_found(store.write(move |tx| runs::log(tx, &author("a", None), &log, &run, "…", true).map(drop))));
    let claim = claim_id.clone();
    assert!(not_found(store.write(move |tx| claims::delete(tx, &author("a", None), &claim, 1))));
    assert!(not_found(store.read(|tx| sessions::load(tx, &session_id).map(drop))));
    assert!(not_found(store.read(|tx| amplifiers::get(tx, &id).map(drop))));
    let again = id.clone();
    assert!(not_found(store.write(move |tx| amplifiers::delete(tx, &author("a", None), &again, 2))), "twice is once");
    store.write(|tx| undo::undo(tx, &author("a", None), &undo::ExpectedAct::default())).unwrap();
    let back = store.read(|tx| sessions::in_hand(tx, &id)).unwrap();
    assert_eq!(back.session, row.session);
    assert_eq!(store.read(|tx| amplifiers::get(tx, &id)).unwrap().revision, 3, "and a stale tab is still told");
}
