//! What is done at the bench is kept as rows: steps, rest voltages, remarks, corrections, live runs; each comes back after a restart,
//! each is undone by an act of its own, and none is ever changed.

use proptest::prelude::*;
use pukka_core::instruments::{GENERIC, Role};
use pukka_core::kernel::units::{Level, Volts};
use pukka_core::live::Round;
use pukka_core::plan::ladder::Place;
use pukka_core::record::session::examples::mono_1100;
use pukka_core::record::session::{Cycles, Evidence, Hold, Incident, LevelStep, Mode, Run, Session, SupplyReading};
use pukka_store::links::{self, LinkRow};
use pukka_store::remarks::{self, Kind, Remark};
use pukka_store::{Author, Store, StoreError, incidents, lives, new_id, rests, runs, sessions, steps, transfer, undo};
use serde_json::json;

struct Bench {
    store: Store,
    session: String,
    folder: tempfile::TempDir,
}

fn author() -> Author {
    Author { who: "tester".into(), tab: "a".into(), at: "2026-11-20T12:00:00Z".parse().unwrap(), key: None, batch: None }
}

const FOUR: &str = "mono@4@40";

fn place(mode: Mode) -> Place {
    Place { rung: FOUR.into(), mode }
}

fn remark(kind: Kind, what: &str) -> Remark {
    Remark { kind, what: what.into(), reason: "looked again".into() }
}

impl Bench {
    fn new(change: impl FnOnce(&mut Session)) -> Self {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(folder.path()).unwrap();
        let mut file = mono_1100();
        change(&mut file);
        let id = store.write(move |tx| transfer::insert(tx, &author(), &file, None, true)).unwrap();
        let session = store.read(|tx| sessions::in_hand(tx, &id)).unwrap().id;
        Self { store, session, folder }
    }

    fn load(&self) -> Session {
        self.store.read(|tx| sessions::load(tx, &self.session)).unwrap().session
    }

    /// Closed and opened again: what is not on the disk is gone.
    fn again(self) -> Self {
        let Self { store, session, folder } = self;
        drop(store);
        Self { store: Store::open(folder.path()).unwrap(), session, folder }
    }

    fn write<T: Send + 'static>(&self, work: impl FnOnce(&pukka_store::WriteTx, &str) -> Result<T, StoreError> + Send + 'static) -> T {
        let id = self.session.clone();
        self.store.write(move |tx| work(tx, &id)).unwrap()
    }

    fn undo(&self) -> String {
        self.store.write(|tx| undo::undo(tx, &author(), &undo::ExpectedAct::default())).unwrap().says
    }

    fn step(&self, level_db: f64, watts: f64, thd: f64) {
        let step: LevelStep =
            serde_json::from_value(json!({ "level_db": level_db, "outputs": [{ "name": "1", "power_w": watts }], "thd_ratio": thd }))
                .unwrap();
        self.write(move |tx, id| steps::add(tx, &author(), id, &place(Mode::Certified), &step, &format!("{level_db}db {watts}w")));
    }

    fn levels(&self) -> Vec<f64> {
        let rows = self.store.read(|tx| steps::list(tx, &self.session, &place(Mode::Certified))).unwrap();
        rows.iter().map(|row| row.step.level_db.get()).collect()
    }
}

#[test]
fn everything_a_run_can_hold_comes_back_the_same() {
    let bench = Bench::new(|session| {
        let run = &mut session.runs[2];
        assert_eq!(run.mode, Mode::Dynamic);
        let cycles: Cycles =
            serde_json::from_value(json!({ "count": 8, "first": { "volts_peak": 62.0 }, "last": { "volts_peak": 61.2 } })).unwrap();
        (run.outputs, run.cycles) = (Vec::new(), Some(cycles));
        let run = &mut session.runs[0];
        let hold: Hold = serde_json::from_value(json!({ "seconds": 30.0, "outputs": [{ "power_w": 430.0 }], "end_v": 14.3 })).unwrap();
        run.hold = Some(hold);
        run.supply_also = vec![SupplyReading { end_v: Some(Volts::new(14.35).unwrap()), current_a: None, meter: None }];
        (run.bank, run.evidence) = (Some("second bank".into()), vec![Evidence::ramp()]);
        run.efficiency_read_ratio = Some(serde_json::from_value(json!(0.745)).unwrap());
    });
    let (kept, file) = (bench.load(), mono_1100());
    let bare = |run: &Run| Run { id: String::new(), ..run.clone() };
    let again = bench.again();
    let reread = again.load();
    for (i, run) in reread.runs.iter().enumerate() {
        assert_eq!(bare(run), bare(&kept.runs[i]));
        if i != 0 && i != 2 {
            assert_eq!(bare(run), bare(&file.runs[i]));
        }
    }
    assert_eq!(reread.runs[0].hold.as_ref().unwrap().seconds, 30.0);
    assert_eq!((reread.runs[0].bank.as_deref(), reread.runs[2].cycles.as_ref().unwrap().count), (Some("second bank"), 8));
}

#[test]
fn steps_become_a_run_and_come_back_when_it_is_undone() {
    let bench = Bench::new(|session| session.runs.clear());
    bench.step(-1.0, 460.0, 0.04);
    bench.step(-2.0, 380.0, 0.003);
    bench.step(-2.0, 400.0, 0.0025);
    assert_eq!(bench.levels(), [-2.0, -1.0], "lowest first, and a level typed again takes the place of the first");
    assert!(bench.undo().contains("logged the step at"));
    assert_eq!(bench.levels(), [-2.0, -1.0], "the one whose place it took is there again");
    bench.step(-2.0, 400.0, 0.0025);
    let bench = bench.again();
    assert_eq!(bench.levels(), [-2.0, -1.0], "typed rows are on the disk");
    let bare: Run = serde_json::from_value(json!({
        "id": new_id(), "at": "2026-11-20T12:00:00Z", "wiring": { "kind": "mono" }, "load_nominal_ohm": 4.0, "mode": "certified", "tone_hz": 40.0
    }))
    .unwrap();
    let logged = bench.write(move |tx, id| runs::log_steps(tx, &author(), id, &bare, false));
    assert!(bench.levels().is_empty());
    let session = bench.load();
    let total = pukka_core::evidence::total(&session, session.run(&logged.id).unwrap()).unwrap();
    assert!((total.total_w - 430.0).abs() < 1e-9);
    bench.undo();
    assert_eq!(bench.levels(), [-2.0, -1.0]);
    assert!(!bench.load().run(&logged.id).unwrap().valid);
}

#[test]
fn remarks_stand_beside_the_run_and_are_undone_one_by_one() {
    let bench = Bench::new(|_| {});
    let run = bench.load().runs[0].id.clone();
    let put = |one: Remark| {
        let run = run.clone();
        bench.write(move |tx, id| remarks::add(tx, &author(), id, &run, &one));
    };
    put(remark(Kind::Strike, "current_a"));
    put(remark(Kind::Accept, "fuse"));
    let seen = |bench: &Bench| {
        let run = bench.load().run(&run).unwrap().clone();
        (run.struck, run.accepted.into_iter().map(|accepted| accepted.code).collect::<Vec<_>>(), run.current_a.is_some())
    };
    assert_eq!(
        seen(&bench),
        (vec![pukka_core::record::session::ReadingName::Current], vec!["fuse".to_owned()], true),
        "the reading is kept"
    );
    assert_eq!(bench.undo(), "accepted fuse");
    assert_eq!(bench.undo(), "struck current_a");
    assert_eq!(seen(&bench), (vec![], vec![], true));
    let rows = bench.store.read(|tx| remarks::list(tx, &run)).unwrap();
    assert_eq!(rows.iter().map(|row| row.stands).collect::<Vec<_>>(), [true, true, false, false], "and its history is whole");
    let elsewhere = bench.store.write({
        let run = run.clone();
        move |tx| remarks::add(tx, &author(), "no session", &run, &remark(Kind::Strike, "end_v"))
    });
    assert!(matches!(elsewhere, Err(StoreError::NotFound { .. })));
}

#[test]
fn the_records_refuse_to_be_changed() {
    let bench = Bench::new(|_| {});
    let run = bench.load().runs[0].id.clone();
    bench.write(move |tx, id| remarks::add(tx, &author(), id, &run, &remark(Kind::Strike, "end_v")));
    let live = bench.write(|tx, id| lives::begin(tx, &author(), id, &place(Mode::Certified), "ramp"));
    bench.write(move |tx, _| lives::keep(tx, live.seq, &[(0, Round { power_w: vec![1.0], ..Round::default() })]));
    for sql in
        ["UPDATE run_remark SET reason = 'x'", "DELETE FROM run_remark", "UPDATE live_sample SET value = 0", "DELETE FROM live_sample"]
    {
        assert!(bench.store.write(move |tx| Ok(tx.execute(sql, []).map(drop)?)).is_err(), "{sql}");
    }
}

#[test]
fn rest_voltages_and_links() {
    let bench = Bench::new(|_| {});
    for volts in [14.50, 14.52] {
        bench.write(move |tx, id| rests::add(tx, &author(), id, Volts::new(volts).unwrap()));
    }
    let volts =
        |bench: &Bench| bench.store.read(|tx| rests::newest(tx, &bench.session)).unwrap().iter().map(|r| r.volts).collect::<Vec<_>>();
    assert_eq!(volts(&bench), [14.50, 14.52]);
    assert_eq!(bench.undo(), "read 14.52 V at rest");
    assert_eq!(volts(&bench), [14.50]);

    let link = |address: &str| LinkRow { role: Role::Voltmeter, address: address.into(), profile: GENERIC.into(), meter: None };
    for one in [link("127.0.0.1:5025"), link("127.0.0.1:5026")] {
        bench.write(move |tx, _| links::save(tx, &author(), &one));
    }
    let bench = bench.again();
    assert_eq!(bench.store.read(links::list).unwrap(), [link("127.0.0.1:5026")], "one link a task");
    bench.write(|tx, _| links::remove(tx, Role::Voltmeter));
    assert!(bench.store.read(links::list).unwrap().is_empty());
}

#[test]
fn incidents_of_all_amplifiers_the_newest_first() {
    let bench = Bench::new(|session| session.runs[7].incident = Some(Incident::Protection));
    let mut other = mono_1100();
    other.amplifier.model = "Mono 500".into();
    other.runs[8].incident = Some(Incident::Died);
    bench.store.write(move |tx| transfer::insert(tx, &author(), &other, None, true)).unwrap();
    let rows = bench.store.read(|tx| incidents::list(tx, None, 500)).unwrap().0;
    assert_eq!(
        rows.iter().map(|row| (row.amplifier.as_str(), row.incident)).collect::<Vec<_>>(),
        [("Tolland & Pike Mono 500", Incident::Died), ("Tolland & Pike Mono 1100", Incident::Protection)]
    );
    let run = rows[1].run_id.clone();
    bench.write(move |tx, id| remarks::add(tx, &author(), id, &run, &remark(Kind::Accept, "incident")));
    assert_eq!(bench.store.read(|tx| incidents::list(tx, None, 500)).unwrap().0[1].seen_to.as_deref(), Some("looked again"));
    assert!(matches!(
        bench.store.write({
            let id = bench.session.clone();
            move |tx| runs::strike_meter(tx, &author(), &id, "m1", "reads high")
        }),
        Ok(n) if n > 0
    ));
}

#[test]
fn a_live_run_that_was_cut_off_is_found_again() {
    let bench = Bench::new(|_| {});
    let live = bench.write(|tx, id| lives::begin(tx, &author(), id, &place(Mode::Clipping), "ramp"));
    let seq = live.seq;
    assert!(!bench.store.read(lives::interrupted).unwrap()[0].raised, "begun, and the level not up");
    bench.write(move |tx, _| lives::raised(tx, seq, "2026-11-20T12:00:01Z"));
    let bench = bench.again();
    let left = bench.store.read(lives::interrupted).unwrap();
    assert_eq!((left.len(), left[0].raised, left[0].ended, left[0].place.mode), (1, true, false, Mode::Clipping));
    bench.write(move |tx, _| lives::ended(tx, seq, "2026-11-20T12:01:00Z", "interrupted", "cut off", None));
    assert!(bench.store.read(lives::interrupted).unwrap()[0].ended, "ended, and the level still not known to be down");
    bench.write(|tx, _| lives::zeroed(tx, "2026-11-20T12:01:01Z"));
    assert!(bench.store.read(lives::interrupted).unwrap().is_empty());
}

prop_compose! {
    fn round()(
        t_ms in 0u64..1_000_000, level in prop::option::of(-40.0f64..10.0), power_w in prop::collection::vec(0.0f64..5_000.0, 1..9),
        thd_ratio in prop::option::of(0.0f64..1.0), supply_v in prop::option::of(9.0f64..16.0), supply_a in prop::option::of(0.0f64..400.0),
    ) -> Round {
        Round { t_ms, level_db: level.and_then(|db| Level::new(db).ok()), power_w, thd_ratio, supply_v, supply_a, ..Round::default() }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    #[test]
    fn rounds_come_back_to_the_last_digit_and_from_any_number_on(rounds in prop::collection::vec(round(), 1..20), after in 0u64..20) {
        let bench = Bench::new(|session| session.runs.clear());
        let live = bench.write(|tx, id| lives::begin(tx, &author(), id, &place(Mode::Certified), "ramp"));
        let numbered: Vec<(u64, Round)> = (0u64..).zip(rounds).collect();
        let kept = numbered.clone();
        bench.write(move |tx, _| lives::keep(tx, live.seq, &kept));
        prop_assert_eq!(bench.store.read(|tx| lives::rounds(tx, live.seq, None)).unwrap(), numbered.clone());
        let rest: Vec<(u64, Round)> = numbered.into_iter().filter(|(n, _)| *n > after).collect();
        prop_assert_eq!(bench.store.read(|tx| lives::rounds(tx, live.seq, Some(after))).unwrap(), rest);
    }
}
