//! Bench profiles, settings of a session, photos, arming: kept, undone, and refused where they have to be.

use proptest::prelude::*;
use pukka_core::kernel::units::Volts;
use pukka_core::plan::ladder::{Place, find};
use pukka_core::plan::opening::{Opening, open};
use pukka_core::record::amplifier::PhotoWords;
use pukka_core::record::bench::BenchProfile;
use pukka_core::record::session::examples::mono_1100;
use pukka_core::record::session::{GateCode, Mode, Order, Run, Session, ToneOrder};
use pukka_store::photos::{self, Photo};
use pukka_store::sessions::{self, SessionRow, Settings};
use pukka_store::{Author, Store, StoreError, amplifiers, arming, benches, gates, runs, transfer, undo};
use serde_json::json;

struct Bench {
    store: Store,
    _folder: tempfile::TempDir,
}

fn author(tab: &str) -> Author {
    Author { who: "tester".into(), tab: tab.into(), at: "2026-11-20T10:00:00Z".parse().unwrap(), key: None, batch: None }
}

/// The Mono 1100, not run yet, with a rung of 0.5 Ω below its floor.
fn fresh() -> Session {
    let mut session = mono_1100();
    session.runs.clear();
    session.plan.rungs.push(serde_json::from_value(json!({ "wiring": { "kind": "mono" }, "load_ohm": 0.5, "tone_hz": 40.0 })).unwrap());
    session
}

fn profile(name: &str, source_ohm: f64) -> BenchProfile {
    serde_json::from_value(json!({ "name": name, "supply": { "kind": "battery", "source_ohm": source_ohm } })).unwrap()
}

fn place(rung: &str, mode: Mode) -> Place {
    Place { rung: rung.into(), mode }
}

const BELOW: &str = "mono@0.5@40";

impl Bench {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        Self { store: Store::open(folder.path()).unwrap(), _folder: folder }
    }

    fn import(&self, session: &Session, bench: Option<String>) -> SessionRow {
        let file = session.clone();
        let id = self.store.write(move |tx| transfer::insert(tx, &author("import"), &file, bench.as_deref(), false)).unwrap();
        self.store.read(|tx| sessions::in_hand(tx, &id)).unwrap()
    }

    fn load(&self, row: &SessionRow) -> SessionRow {
        self.store.read(|tx| sessions::load(tx, &row.id)).unwrap()
    }

    fn arm(&self, row: &SessionRow, at: &Place) -> Result<arming::ArmingRow, StoreError> {
        let (id, at) = (row.id.clone(), at.clone());
        self.store.write(move |tx| arming::arm(tx, &author("a"), &id, &at))
    }

    fn armed(&self, row: &SessionRow) -> Option<Place> {
        self.store.read(|tx| arming::armed(tx, &row.id)).unwrap().map(|armed| armed.arming.place)
    }

    fn open(&self, row: &SessionRow, at: &Place) {
        let session = self.load(row).session;
        let opening = Opening {
            reason: "agreed".into(),
            by: "M. Tarrow".into(),
            second_reason: Some("the bank stands high".into()),
            owner_consent: serde_json::from_value(json!({ "by": "its owner", "on": "2026-11-20", "who_pays": "its owner" })).unwrap(),
        };
        let opened = open(&session, &find(&session, &at.rung).unwrap(), at.mode, &opening).unwrap();
        let id = row.id.clone();
        // Refused while a run is armed, as it may be in the sequences below.
        let _ = self.store.write(move |tx| gates::open(tx, &author("a"), &id, &opened));
    }

    fn withdraw(&self, row: &SessionRow, load_ohm: f64, mode: Mode) -> Result<(), StoreError> {
        let id = row.id.clone();
        let rung = find(&fresh(), &format!("mono@{load_ohm}@40")).unwrap().id;
        self.store.write(move |tx| gates::withdraw_for(tx, &author("a"), &id, (&rung, mode), "M. Tarrow", "changed our minds"))
    }

    fn log(&self, row: &SessionRow, load_ohm: f64, mode: Mode, n: usize, happened: bool) -> Result<runs::LoggedRun, StoreError> {
        let run: Run = serde_json::from_value(json!({
            "id": format!("{}-{n}", row.id), "at": "2026-11-20T10:04:00Z", "wiring": { "kind": "mono" }, "load_nominal_ohm": load_ohm,
            "mode": mode, "tone_hz": 40.0, "outputs": [{ "power_w": 400.0 }], "rest_v": 14.6
        }))
        .unwrap();
        let id = row.id.clone();
        self.store.write(move |tx| runs::log(tx, &author("a"), &id, &run, "400", happened))
    }

    fn undo(&self) -> Result<undo::Reversal, StoreError> {
        self.store.write(|tx| undo::undo(tx, &author("a"), &undo::ExpectedAct::default()))
    }

    fn add_bench(&self, profile: BenchProfile) -> benches::BenchRow {
        self.store.write(move |tx| benches::create(tx, &author("a"), &profile)).unwrap()
    }
}

fn source_of(row: &SessionRow) -> Option<f64> {
    row.session.bench.supply.source_ohm.map(|ohm| ohm.get())
}

#[test]
fn sessions_not_run_yet_follow_their_bench_and_the_others_keep_it_as_it_was() {
    let bench = Bench::new();
    let kept = bench.add_bench(profile("Ferry Lane", 0.005));
    let (waiting, begun) = (bench.import(&fresh(), Some(kept.id.clone())), bench.import(&mono_1100(), Some(kept.id.clone())));
    let before = source_of(&begun);
    let id = kept.id.clone();
    bench.store.write(move |tx| benches::update(tx, &author("a"), &id, 1, &profile("Ferry Lane", 0.009))).unwrap();
    assert_eq!((source_of(&bench.load(&waiting)), source_of(&bench.load(&begun))), (Some(0.009), before));
    assert_eq!(bench.store.read(|tx| benches::get(tx, &kept.id)).unwrap().sessions, 2);
    bench.undo().unwrap();
    assert_eq!(source_of(&bench.load(&waiting)), Some(0.005));
    // What the runs showed: six steady ones of the example.
    assert_eq!(bench.store.read(|tx| benches::sags(tx, &kept.id)).unwrap().len(), 6);
    let conflict = bench.store.write(move |tx| benches::delete(tx, &author("a"), &kept.id, 1));
    assert!(matches!(conflict, Err(StoreError::Conflict { .. })));
}

#[test]
fn a_new_amplifier_stands_on_the_bench_in_hand() {
    let bench = Bench::new();
    let kept = bench.add_bench(profile("Ferry Lane", 0.005));
    let row = bench.store.write(|tx| amplifiers::create(tx, &author("a"), &mono_1100().amplifier)).unwrap();
    let session = bench.store.read(|tx| sessions::load(tx, &row.session_id)).unwrap();
    assert_eq!((session.bench_profile_id.as_deref(), source_of(&session)), (Some(kept.id.as_str()), Some(0.005)));
}

#[test]
fn settings_change_and_come_back_and_a_bench_with_runs_stays() {
    let bench = Bench::new();
    let (one, other) = (bench.add_bench(profile("One", 0.005)), bench.add_bench(profile("Other", 0.008)));
    let row = bench.import(&fresh(), Some(one.id.clone()));
    let settings = |bench_id: &str| Settings {
        run_order: Order::Mode,
        rest_v: Some(Volts::new(13.9).unwrap()),
        idle: None,
        gain: serde_json::from_value(json!({ "source": "47 of 50", "filters_out": true })).unwrap(),
        bench_profile_id: Some(bench_id.to_owned()),
        bench: None,
        policy: None,
        repairs: Vec::new(),
        tone_order: ToneOrder::Tone,
        about: None,
        bench_reason: None,
    };
    let change = |row: &SessionRow, revision, settings: Settings| {
        let id = row.id.clone();
        bench.store.write(move |tx| sessions::change(tx, &author("a"), &id, revision, &settings))
    };
    change(&row, 1, settings(&other.id)).unwrap();
    let after = bench.load(&row);
    assert_eq!((after.revision, source_of(&after), after.session.plan.order), (2, Some(0.008), Order::Mode));
    assert_eq!(after.session.gain.unwrap().source.as_deref(), Some("47 of 50"));
    assert_eq!(after.session.policy, fresh().policy, "what was not named stays");
    assert!(matches!(change(&row, 1, settings(&one.id)), Err(StoreError::Conflict { .. })));
    bench.undo().unwrap();
    let back = bench.load(&row);
    assert_eq!((source_of(&back), back.session.plan.order, back.session.gain), (None, Order::Rung, None), "its own, as it came");
    bench.log(&row, 4.0, Mode::Certified, 1, false).unwrap();
    assert!(matches!(change(&row, back.revision, settings(&other.id)), Err(StoreError::BenchInUse)));
    change(&row, back.revision, settings(&one.id)).unwrap();
}

#[test]
fn ticks_are_remembered_a_session() {
    let bench = Bench::new();
    let (one, other) = (bench.import(&fresh(), None), bench.import(&fresh(), None));
    let tick = |code: &'static str, ticked| {
        let id = one.id.clone();
        bench.store.write(move |tx| sessions::tick(tx, &id, code, ticked)).unwrap();
    };
    tick("bank", true);
    tick("loads", true);
    tick("bank", true);
    tick("loads", false);
    assert_eq!((bench.load(&one).ticked, bench.load(&other).ticked), (vec!["bank".to_owned()], Vec::new()));
}

#[test]
fn photos_are_kept_named_removed_and_brought_back() {
    let bench = Bench::new();
    let row = bench.import(&fresh(), None);
    let sha256 = bench.store.files().keep_photo(b"a picture").unwrap();
    let photo =
        serde_json::from_value::<Photo>(json!({ "sha256": sha256, "width_px": 40, "height_px": 30, "bytes": 9, "caption": "" })).unwrap();
    let amplifier_id = row.amplifier_id.clone();
    let kept = bench.store.write(move |tx| photos::create(tx, &author("a"), &amplifier_id, &photo)).unwrap();
    let id = kept.id.clone();
    bench
        .store
        .write(move |tx| {
            photos::describe(tx, &author("a"), &id, 1, PhotoWords { caption: "terminals".into(), on_sheet: true, ..PhotoWords::default() })
        })
        .unwrap();
    let list = || bench.store.read(|tx| photos::list(tx, &row.amplifier_id)).unwrap();
    assert_eq!(list()[0].photo.words.caption, "terminals");
    let id = kept.id.clone();
    bench.store.write(move |tx| photos::delete(tx, &author("a"), &id, 2)).unwrap();
    assert!(list().is_empty());
    bench.undo().unwrap();
    bench.undo().unwrap();
    assert_eq!((list().len(), list()[0].photo.words.caption.as_str()), (1, ""));
}

#[test]
fn what_an_armed_run_was_judged_on_is_frozen() {
    let bench = Bench::new();
    let row = bench.import(&fresh(), None);
    let at = place(BELOW, Mode::Dynamic);
    let Err(StoreError::Gated { gates }) = bench.arm(&row, &at) else { panic!("a gated run was armed") };
    assert_eq!(gates.iter().map(|gate| gate.code).collect::<Vec<_>>(), [GateCode::BelowFloor]);
    bench.open(&row, &at);
    bench.arm(&row, &at).unwrap();
    let (id, amplifier) = (row.amplifier_id.clone(), fresh().amplifier);
    assert!(matches!(bench.store.write(move |tx| amplifiers::update(tx, &author("a"), &id, 1, &amplifier)), Err(StoreError::Armed { .. })));
    bench.withdraw(&row, 0.5, Mode::Dynamic).unwrap();
    assert_eq!(bench.armed(&row), None, "consent that is taken back disarms at once");
    assert!(matches!(bench.arm(&row, &at), Err(StoreError::Gated { .. })));
    bench.undo().unwrap();
    bench.arm(&row, &at).unwrap();
    let logged = bench.log(&row, 0.5, Mode::Dynamic, 1, false).unwrap();
    assert!(!logged.ungated);
    assert_eq!(bench.armed(&row), None, "and the log of it ends the arming");
    bench.withdraw(&row, 0.5, Mode::Dynamic).unwrap();
    assert!(!bench.load(&row).session.runs[0].ungated, "a run that was made while it stood stays as it is");
}

#[test]
fn a_program_that_starts_finds_nothing_armed() {
    let bench = Bench::new();
    let row = bench.import(&fresh(), None);
    bench.arm(&row, &place("mono@4@40", Mode::Certified)).unwrap();
    let Bench { store, _folder: folder } = bench;
    drop(store);
    let store = Store::open(folder.path()).unwrap();
    assert_eq!(store.read(|tx| arming::armed(tx, &row.id)).unwrap(), None);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Whatever is done in whatever order: a gated run is armed only past an open gate, and counts only past one.
    #[test]
    fn no_sequence_arms_a_gated_run_or_counts_an_ungated_one(steps in prop::collection::vec((0u8..7, any::<bool>()), 1..14)) {
        let bench = Bench::new();
        let row = bench.import(&fresh(), None);
        let (below, rated) = (place(BELOW, Mode::Dynamic), place("mono@4@40", Mode::Certified));
        let mut open_now = false;
        let mut counted = Vec::new();
        for (n, (step, low)) in steps.into_iter().enumerate() {
            let at = if low { &below } else { &rated };
            let (load, mode) = if low { (0.5, Mode::Dynamic) } else { (4.0, Mode::Certified) };
            match step {
                0 => prop_assert_eq!(bench.arm(&row, at).is_ok(), !low || open_now),
                1 => { bench.open(&row, &below); }
                2 => { let _ = bench.withdraw(&row, 0.5, Mode::Dynamic); }
                3 => { let id = row.id.clone(); bench.store.write(move |tx| arming::disarm(tx, &author("a"), &id, "by hand")).unwrap(); }
                4 | 5 => {
                    let happened = step == 5;
                    let armed = bench.armed(&row).as_ref() == Some(at);
                    match bench.log(&row, load, mode, n, happened) {
                        Ok(logged) => {
                            prop_assert_eq!(logged.ungated, low && !open_now && !armed);
                            if low && !logged.ungated { counted.push(logged.id); }
                        }
                        Err(error) => prop_assert!(low && !open_now && !happened, "{}", error),
                    }
                }
                _ => { let _ = bench.undo(); }
            }
            let session = bench.load(&row).session;
            open_now = session.gates.iter().any(|gate| gate.code == GateCode::BelowFloor);
            if bench.armed(&row) == Some(below.clone()) {
                prop_assert!(open_now, "armed below the floor, and its gate is shut");
            }
            let ungated_counts = session.standing_runs().filter(|run| !run.ungated && run.load_nominal_ohm.get() < 1.0 && !open_now && !counted.contains(&run.id)).count();
            prop_assert_eq!(ungated_counts, 0);
        }
    }
}
