//! The records through the store's own doors, on a real file.

use pukka_core::kernel::units::{Ohms, Watts};
use pukka_core::kernel::wiring::Wiring;
use pukka_core::record::session::examples::{claim, mono_1100};
use pukka_core::record::session::{Gate, GateCode, Run, Session};
use pukka_store::{
    Author, Settings, Store, StoreError, amplifiers, claims, gates, idempotency, rungs, runs, sessions, summaries, transfer, undo,
};
use tempfile::TempDir;

struct Bench {
    store: Store,
    folder: TempDir,
}

fn bench() -> Bench {
    let folder = tempfile::tempdir().unwrap();
    Bench { store: Store::open(folder.path()).unwrap(), folder }
}

fn author(tab: &str) -> Author {
    Author { who: "tester".into(), tab: tab.into(), at: "2026-11-20T10:00:00Z".parse().unwrap(), key: None, batch: None }
}

impl Bench {
    fn import(&self, session: &Session) -> (String, String) {
        let file = session.clone();
        let id = self.store.write(move |tx| transfer::insert(tx, &author("import"), &file, None, false)).unwrap();
        let row = self.load(&id);
        (id, row.id)
    }

    fn load(&self, amplifier_id: &str) -> sessions::SessionRow {
        self.store.read(|tx| sessions::in_hand(tx, amplifier_id)).unwrap()
    }

    /// Logs a run as one that happened, whatever gate it met.
    fn log(&self, session_id: &str, run: &Run, tab: &str) -> runs::LoggedRun {
        let (session_id, run, author) = (session_id.to_owned(), run.clone(), author(tab));
        self.store.write(move |tx| runs::log(tx, &author, &session_id, &run, "447 14.38 41.2", true)).unwrap()
    }

    fn undo(&self, tab: &str) -> Result<undo::Reversal, StoreError> {
        let author = author(tab);
        self.store.write(move |tx| undo::undo(tx, &author, &undo::ExpectedAct::default()))
    }
}

fn gate(code: GateCode, load_ohm: f64) -> Gate {
    serde_json::from_value(serde_json::json!({
        "code": code, "wiring": { "kind": "mono" }, "load_ohm": load_ohm, "mode": "dynamic", "reason": "owner agreed", "by": "M. Tarrow",
        "owner_consent": { "by": "its owner", "on": "2026-11-20", "who_pays": "its owner" }
    }))
    .unwrap()
}

fn without_ids(mut session: Session) -> Session {
    session.claims.iter_mut().for_each(|claim| claim.id.clear());
    session.runs.iter_mut().for_each(|run| run.id.clear());
    session
}

#[test]
fn a_read_that_panics_gives_its_reader_back() {
    let bench = bench();
    for _ in 0..10 {
        let broken = bench.store.read(|_| -> Result<(), StoreError> { panic!("a fault of the program") });
        assert!(matches!(broken, Err(StoreError::ReadBroken)));
    }
    assert!(bench.store.read(amplifiers::whole_shelf).is_ok());
}

#[test]
fn a_session_comes_back_as_it_went_in() {
    let bench = bench();
    let mut file = mono_1100();
    file.extra.insert("weather".into(), "wet".into());
    file.amplifier.extra.insert("colour".into(), "green".into());
    file.claims[0].extra.insert("page".into(), 14.into());
    file.runs[0].extra.insert("mood".into(), "good".into());
    file.runs[0].outputs[0].also = serde_json::from_value(serde_json::json!([{ "power_w": 441.0 }])).unwrap();
    file.runs[3].valid = false;
    let (id, _) = bench.import(&file);
    assert_eq!(without_ids(bench.load(&id).session), without_ids(file));
}

#[test]
fn the_writer_is_durable_and_its_reply_follows_the_commit() {
    let bench = bench();
    assert_eq!(bench.store.writer_settings().unwrap(), Settings { journal_mode: "wal".into(), synchronous: 2, foreign_keys: 1 });
    let (id, _) = bench.import(&mono_1100());
    // A connection of its own sees the row as soon as the reply is here: it was committed before.
    let other = rusqlite::Connection::open(bench.store.path()).unwrap();
    let seen: i64 = other.query_row("SELECT count(*) FROM run", [], |row| row.get(0)).unwrap();
    assert_eq!(seen, 9);
    let failed = bench.store.write(move |tx| {
        amplifiers::delete(tx, &author("t"), &id, 1)?;
        Err::<(), _>(StoreError::Broken)
    });
    assert!(failed.is_err());
    let left: i64 = other.query_row("SELECT count(*) FROM amplifier WHERE deleted_at IS NULL", [], |row| row.get(0)).unwrap();
    assert_eq!(left, 1, "a write that fails leaves nothing half-written");
}

#[test]
fn a_write_that_panics_saves_nothing_and_the_next_one_works() {
    let bench = bench();
    let result = bench.store.write(|tx| {
        amplifiers::create(tx, &author("t"), &mono_1100().amplifier)?;
        panic!("on purpose");
        #[allow(unreachable_code)]
        Ok(())
    });
    assert!(matches!(result, Err(StoreError::Broken)));
    bench.store.write(|tx| amplifiers::create(tx, &author("t"), &mono_1100().amplifier)).unwrap();
    assert_eq!(bench.store.read(amplifiers::whole_shelf).unwrap().len(), 1);
}

#[test]
fn one_program_owns_the_folder() {
    let bench = bench();
    assert!(matches!(Store::open(bench.folder.path()), Err(StoreError::Locked { .. })));
    let Bench { store, folder } = bench;
    drop(store);
    Store::open(folder.path()).unwrap();
}

#[test]
fn readings_cannot_be_changed_by_anybody() {
    let bench = bench();
    bench.import(&mono_1100());
    let other = rusqlite::Connection::open(bench.store.path()).unwrap();
    for sql in ["UPDATE reading SET value = 1", "DELETE FROM reading", "UPDATE run SET mode = 'dynamic'", "DELETE FROM run"] {
        let refused = other.execute(sql, []).unwrap_err().to_string();
        assert!(refused.contains("never"), "{sql}: {refused}");
    }
}

#[test]
fn a_second_tab_gets_a_conflict_and_nothing_is_lost() {
    let bench = bench();
    let (id, _) = bench.import(&mono_1100());
    let change = |model: &str, revision: i64| {
        let (id, mut amplifier) = (id.clone(), mono_1100().amplifier);
        amplifier.model = model.into();
        bench.store.write(move |tx| amplifiers::update(tx, &author("a"), &id, revision, &amplifier))
    };
    assert_eq!(change("first", 1).unwrap().revision, 2);
    let conflict = change("second", 1).unwrap_err();
    assert!(matches!(conflict, StoreError::Conflict { wanted: 1, have: 2, .. }));
    assert!(conflict.to_string().contains("Nothing was saved"));
    assert_eq!(bench.load(&id).session.amplifier.model, "first");
    let claim_id = bench.load(&id).session.claims[0].id.clone();
    bench.store.write(move |tx| claims::delete(tx, &author("a"), &claim_id, 1)).unwrap();
    assert_eq!(bench.load(&id).session.claims.len(), 2);
}

#[test]
fn undo_takes_back_the_last_act_of_its_own_tab_whatever_it_was() {
    let bench = bench();
    let (id, session_id) = bench.import(&mono_1100());
    let start = bench.load(&id).session;
    let mut again = start.runs[0].clone();
    again.id = "again".into();
    bench.log(&session_id, &again, "a");
    let (amplifier_id, line) = (id.clone(), claim("", Wiring::Mono, 0.5, 1_500.0));
    bench.store.write(move |tx| claims::create(tx, &author("a"), &amplifier_id, &line)).unwrap();
    let amplifier_id = id.clone();
    bench.store.write(move |tx| amplifiers::delete(tx, &author("b"), &amplifier_id, 1)).unwrap();
    assert!(bench.store.read(amplifiers::whole_shelf).unwrap().is_empty());

    let undone = bench.undo("b").unwrap();
    assert_eq!((undone.says.as_str(), undone.on_shelf), ("deleted Tolland & Pike Mono 1100", true));
    assert_eq!(bench.load(&id).session.claims.len(), 4);
    assert_eq!(bench.undo("a").unwrap().says, "added a claim");
    assert_eq!(bench.undo("a").unwrap().says, "logged 4\u{202f}Ω, certified");
    assert!(matches!(bench.undo("a"), Err(StoreError::NothingToUndo)));
    let back = bench.load(&id).session;
    assert_eq!(back.claims, start.claims);
    assert!(!back.run("again").unwrap().valid, "the readings stay, marked as taken back");
}

#[test]
fn undo_of_a_change_puts_back_what_was_there() {
    let bench = bench();
    let (id, session_id) = bench.import(&mono_1100());
    let row = bench.load(&id);
    let (old, mut new) = (row.session.plan.rungs[0].clone(), row.session.plan.rungs[0].clone());
    new.load_measured_ohm = Some(Ohms::new(3.95).unwrap());
    let save = |old: &pukka_core::record::session::PlannedRung, revision: i64, new: &pukka_core::record::session::PlannedRung| {
        let (session_id, old, new) = (session_id.clone(), old.clone(), new.clone());
        bench.store.write(move |tx| rungs::save(tx, &author("a"), &session_id, &old, revision, &new))
    };
    save(&old, 1, &new).unwrap();
    assert!(matches!(save(&old, 1, &new), Err(StoreError::Conflict { have: 2, .. })));
    assert_eq!(bench.load(&id).session.plan.rungs[0], new);
    bench.undo("a").unwrap();
    assert_eq!(bench.load(&id).session.plan.rungs[0], old);
    let mut added = new.clone();
    added.load_ohm = Ohms::new(8.0).unwrap();
    added.load_measured_ohm = None;
    save(&added, 0, &added).unwrap();
    assert_eq!(bench.load(&id).session.plan.rungs.len(), 4);
    bench.undo("a").unwrap();
    assert_eq!(bench.load(&id).session.plan.rungs.len(), 3);
}

#[test]
fn undo_refuses_to_run_over_another_tab() {
    let bench = bench();
    let (id, _) = bench.import(&mono_1100());
    let change = |tab: &'static str, revision: i64| {
        let (id, amplifier) = (id.clone(), mono_1100().amplifier);
        bench.store.write(move |tx| amplifiers::update(tx, &author(tab), &id, revision, &amplifier)).unwrap();
    };
    change("a", 1);
    change("b", 2);
    assert!(matches!(bench.undo("a"), Err(StoreError::Conflict { .. })));
    bench.undo("b").unwrap();
}

#[test]
fn one_act_after_the_other_is_taken_back() {
    let bench = bench();
    let (id, _) = bench.import(&mono_1100());
    let model = || bench.load(&id).session.amplifier.model;
    for (revision, name) in [(1, "Mono 1100 B"), (2, "Mono 1100 C")] {
        let (id, mut amplifier) = (id.clone(), mono_1100().amplifier);
        amplifier.model = name.into();
        bench.store.write(move |tx| amplifiers::update(tx, &author("a"), &id, revision, &amplifier)).unwrap();
    }
    let gone = id.clone();
    bench.store.write(move |tx| amplifiers::delete(tx, &author("a"), &gone, 3)).unwrap();
    bench.undo("a").unwrap();
    assert_eq!(model(), "Mono 1100 C");
    bench.undo("a").unwrap();
    assert_eq!(model(), "Mono 1100 B");
    bench.undo("a").unwrap();
    assert_eq!(model(), "Mono 1100");
}

#[test]
fn an_ungated_run_counts_once_its_reason_is_given() {
    let bench = bench();
    let (id, session_id) = bench.import(&mono_1100());
    let mut burst = bench.load(&id).session.runs[8].clone();
    burst.id = "burst".into();
    burst.load_nominal_ohm = Ohms::new(0.67).unwrap();
    burst.load_measured_ohm = None;
    bench.log(&session_id, &burst, "a");
    assert!(bench.load(&id).session.run("burst").unwrap().ungated);
    let gate = gate(GateCode::BelowFloor, 0.67);
    bench.store.write(move |tx| gates::open(tx, &author("a"), &session_id, &[gate])).unwrap();
    assert!(!bench.load(&id).session.run("burst").unwrap().ungated);
    bench.undo("a").unwrap();
    assert!(bench.load(&id).session.run("burst").unwrap().ungated, "a gate that is shut again keeps it out again");
}

#[test]
fn a_write_that_is_sent_twice_is_done_once() {
    let bench = bench();
    let add = |key: &str, body: &[u8]| {
        let author = Author { key: Some((key.into(), idempotency::fingerprint(&[body]))), ..author("a") };
        bench.store.write(move |tx| idempotency::once(tx, &author, |tx| amplifiers::create(tx, &author, &mono_1100().amplifier)))
    };
    let first = add("k1", b"x").unwrap();
    assert_eq!(add("k1", b"x").unwrap(), first);
    assert_eq!(bench.store.read(amplifiers::whole_shelf).unwrap().len(), 1);
    assert!(matches!(add("k1", b"y"), Err(StoreError::KeyReused)));
    assert_ne!(add("k2", b"x").unwrap().id, first.id);
    assert_ne!(idempotency::fingerprint(&[b"ab", b"c"]), idempotency::fingerprint(&[b"a", b"bc"]));
}

#[test]
fn the_shelf_reads_summaries_and_they_follow_every_write() {
    let bench = bench();
    let mut file = mono_1100();
    file.runs.clear();
    let (id, session_id) = bench.import(&file);
    let state = || bench.store.read(amplifiers::whole_shelf).unwrap()[0].summary.state.clone();
    assert_eq!(state(), "claims entered, not run");
    let mut opened = gate(GateCode::LeadFuse, 1.0);
    opened.mode = None;
    let id_of = session_id.clone();
    bench.store.write(move |tx| gates::open(tx, &author("b"), &id_of, &[opened])).unwrap();
    let mut run = mono_1100().runs[6].clone();
    run.id = "one".into();
    run.outputs[0].meter = None;
    run.outputs[0].power_w = Some(Watts::new(1_200.0).unwrap());
    bench.log(&session_id, &run, "a");
    assert_eq!(state(), "verdict: modest, provisional");
    bench.undo("a").unwrap();
    assert_eq!(state(), "claims entered, not run");
    let summary = bench.store.read(|tx| summaries::get(tx, &session_id)).unwrap();
    assert_eq!(summary.planned, 9);
    assert_eq!(bench.load(&id).session.standing_runs().count(), 0);
}

#[test]
fn summaries_of_older_rules_are_made_anew_at_the_start() {
    let Bench { store, folder } = bench();
    store.write(|tx| transfer::insert(tx, &author("a"), &mono_1100(), None, true)).unwrap();
    let path = store.path().to_owned();
    drop(store);
    rusqlite::Connection::open(path).unwrap().execute("UPDATE summary SET rules_version = 0, body = '{}'", []).unwrap();
    let store = Store::open(folder.path()).unwrap();
    assert_eq!(store.read(amplifiers::whole_shelf).unwrap()[0].summary.overall_word.as_deref(), Some("Pukka"));
}

#[test]
fn what_was_done_at_once_is_taken_back_at_once() {
    let bench = bench();
    let (id, session_id) = bench.import(&mono_1100());
    let lines = vec![claim("", Wiring::Mono, 8.0, 230.0), claim("", Wiring::Mono, 0.5, 1_500.0)];
    let amplifier_id = id.clone();
    let rows = bench.store.write(move |tx| claims::approve(tx, &author("a"), &amplifier_id, &lines, &[])).unwrap();
    assert_eq!(rows.len(), 2);
    let both = [gate(GateCode::BelowFloor, 0.5), gate(GateCode::LeadFuse, 0.5)];
    bench.store.write(move |tx| gates::open(tx, &author("a"), &session_id, &both)).unwrap();
    assert_eq!(bench.load(&id).session.gates.len(), 2);
    assert_eq!(bench.undo("a").unwrap().says, "opened a gate at 0.5 Ω (2 at once)");
    assert_eq!((bench.load(&id).session.gates.len(), bench.load(&id).session.claims.len()), (0, 5));
    assert_eq!(bench.undo("a").unwrap().says, "added a claim (2 at once)");
    assert_eq!(bench.load(&id).session.claims.len(), 3);
    assert!(matches!(bench.undo("a"), Err(StoreError::NothingToUndo)));
}

/// Names of a page of the shelf.
fn names(bench: &Bench, query: &amplifiers::ShelfQuery) -> Vec<String> {
    let query = query.clone();
    let page = bench.store.read(|tx| amplifiers::shelf(tx, &query, None, 100)).unwrap();
    page.rows.into_iter().map(|row| row.summary.name).collect()
}

#[test]
fn the_shelf_is_sorted_filtered_and_paged_by_the_database() {
    use amplifiers::{ShelfOrder, ShelfQuery};
    let bench = bench();
    for (n, (model, price)) in [("Écho", Some(90.0)), ("Bravo", None), ("Alpha", Some(250.0))].into_iter().enumerate() {
        let mut file = mono_1100();
        file.amplifier.model = model.into();
        file.amplifier.price =
            price.map(|amount| serde_json::from_value(serde_json::json!({ "amount": amount, "currency": "GBP" })).unwrap());
        file.runs.truncate(3 * n);
        bench.import(&file);
    }
    // Summaries are made when the records are at rest, and at a start.
    let folder = bench.folder;
    drop(bench.store);
    let bench = Bench { store: Store::open(folder.path()).unwrap(), folder };
    let maker = mono_1100().amplifier.make;
    let named = |models: &[&str]| models.iter().map(|model| format!("{maker} {model}")).collect::<Vec<_>>();
    let by = |order, descending| names(&bench, &ShelfQuery { order, descending, ..ShelfQuery::default() });
    assert_eq!(by(ShelfOrder::Name, false), named(&["Alpha", "Bravo", "Écho"]));
    assert_eq!(by(ShelfOrder::Price, false), named(&["Écho", "Alpha", "Bravo"]), "what has no price is last");
    assert_eq!(by(ShelfOrder::Price, true), named(&["Alpha", "Écho", "Bravo"]), "whichever way");
    assert_eq!(by(ShelfOrder::Stage, true)[2], named(&["Écho"])[0], "not run yet");
    let only = |query: ShelfQuery| names(&bench, &ShelfQuery { order: ShelfOrder::Name, ..query });
    assert_eq!(only(ShelfQuery { words: vec!["ECHO".into()], ..ShelfQuery::default() }), named(&["Écho"]), "accents and case aside");
    assert_eq!(only(ShelfQuery { stages: vec!["not-run".into(), "tested".into()], ..ShelfQuery::default() }), named(&["Écho"]));
    assert_eq!(only(ShelfQuery { price_most: Some(100.0), ..ShelfQuery::default() }), named(&["Écho"]));
    assert_eq!(only(ShelfQuery { classes: vec!["GH".into()], ..ShelfQuery::default() }), Vec::<String>::new());
    // A page at a time, every order, both ways: each line once.
    for order in [ShelfOrder::Date, ShelfOrder::Name, ShelfOrder::Verdict, ShelfOrder::Stage, ShelfOrder::Class, ShelfOrder::CleanWatts] {
        for descending in [false, true] {
            let query = ShelfQuery { order, descending, ..ShelfQuery::default() };
            let (mut after, mut paged) = (None, Vec::new());
            loop {
                let page = bench.store.read(|tx| amplifiers::shelf(tx, &query, after.as_ref(), 1)).unwrap();
                assert_eq!(page.found, after.is_none().then_some(3), "counted for the first page only");
                paged.extend(page.rows.into_iter().map(|row| row.summary.name));
                let Some(next) = page.next else { break };
                after = Some(next);
            }
            assert_eq!(paged, names(&bench, &query), "{order:?}, descending {descending}");
        }
    }
}

#[test]
fn a_change_is_told_after_its_commit_with_its_tab_and_its_amplifier() {
    let bench = bench();
    let (tell, told) = std::sync::mpsc::channel();
    bench.store.on_change(move |change| tell.send(change).unwrap());
    let (id, session_id) = bench.import(&mono_1100());
    let mut run = mono_1100().runs[0].clone();
    run.id = "one".into();
    bench.log(&session_id, &run, "a");
    // The demo's own records are nobody's act: the first that is told of is the log, or lines that were made before it.
    let heard = || told.recv_timeout(std::time::Duration::from_secs(30)).unwrap();
    let of_tabs = || std::iter::repeat_with(heard).find(|change| change.tab != pukka_store::LINES).unwrap();
    assert_eq!(of_tabs(), pukka_store::Change { tab: "a".into(), amplifiers: vec![id] });
    assert_eq!(heard(), lines_were_made(), "one line is told of as well: lists are sorted by it");
    let nothing = bench.store.write(|_| -> Result<(), StoreError> { Err(StoreError::Broken) });
    assert!(nothing.is_err() && told.try_recv().is_err(), "what is rolled back is no change");
}

fn lines_were_made() -> pukka_store::Change {
    pukka_store::Change { tab: pukka_store::LINES.into(), amplifiers: Vec::new() }
}

#[test]
fn whoever_asked_before_the_lines_of_an_import_were_made_hears_when_they_are() {
    let bench = bench();
    let (tell, told) = std::sync::mpsc::channel();
    bench.store.on_change(move |change| tell.send(change).unwrap());
    for _ in 0..30 {
        bench.import(&mono_1100());
    }
    let change = told.recv_timeout(std::time::Duration::from_secs(30)).unwrap();
    assert_eq!(change, lines_were_made(), "it concerns every list");
}
