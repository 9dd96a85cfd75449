//! Gates: what shuts them, what it takes to open them, and that nothing else does.

use proptest::prelude::*;
use pukka_core::evidence::rungs::Rung;
use pukka_core::kernel::units::{Amps, Volts};
use pukka_core::plan::arm::arm;
use pukka_core::plan::gates::{gates_before, shut};
use pukka_core::plan::ladder::find;
use pukka_core::plan::opening::mark_ungated;
use pukka_core::record::amplifier::Provenance;
use pukka_core::record::session::examples::mono_1100;
use pukka_core::record::session::{Gate, GateCode, Mode, PlannedRung, Session};
use serde_json::{Value, json};

/// The Mono 1100 before its first run, on a supply of `rest_v`, with a rung of `load_ohm`.
fn at(load_ohm: f64, rest_v: Option<f64>) -> (Session, Rung) {
    let mut session = mono_1100();
    session.runs.clear();
    session.plan.rest_v = rest_v.map(|v| Volts::new(v).unwrap());
    let set: PlannedRung = serde_json::from_value(json!({ "wiring": { "kind": "mono" }, "load_ohm": load_ohm })).unwrap();
    session.plan.rungs = vec![set];
    let rung = find(&session, &format!("mono@{load_ohm}@40")).unwrap();
    (session, rung)
}

fn codes(session: &Session, rung: &Rung) -> Vec<GateCode> {
    shut(session, rung, Mode::Dynamic).into_iter().map(|gate| gate.code).collect()
}

fn gate(code: GateCode, load_ohm: f64, more: Value) -> Gate {
    let mut record = json!({ "code": code, "load_ohm": load_ohm, "reason": "agreed", "by": "M. Tarrow" });
    record.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    serde_json::from_value(record).unwrap()
}

/// Opened for a burst into 0.5 Ω, below the floor.
fn burst_gate(more: Value) -> Gate {
    Gate { mode: Some(Mode::Dynamic), ..gate(GateCode::BelowFloor, 0.5, more) }
}

fn consent() -> Value {
    json!({ "owner_consent": { "by": "its owner", "on": "2026-11-20", "who_pays": "its owner" } })
}

#[test]
fn floor_supply_lead_fuse_and_load_bank_each_ask() {
    let shut_at = |load, rest| {
        let (session, rung) = at(load, rest);
        codes(&session, &rung)
    };
    assert_eq!(shut_at(4.0, Some(14.6)), []);
    assert_eq!(shut_at(1.0, Some(14.6)), [], "its own fuses, 105 A, gate nothing: they are its protection");
    assert_eq!(shut_at(0.5, Some(14.6)), [GateCode::BelowFloor]);
    assert_eq!(shut_at(4.0, Some(16.1)), [GateCode::AboveSupply]);
    assert_eq!(shut_at(4.0, Some(16.0)), [], "exactly the most it allows");
    let (mut session, rung) = at(1.0, Some(14.6));
    session.bench.supply.lead_fuse_a = Some(Amps::new(100.0).unwrap());
    // 1.15 · 1100 W / (V · 0.55) is past 135 A at any V under 17.
    let clean = |session: &Session| shut(session, &rung, Mode::Certified).into_iter().map(|gate| gate.code).collect::<Vec<_>>();
    assert_eq!(clean(&session), [GateCode::LeadFuse]);
    assert_eq!(codes(&session, &rung), [], "a burst draws its duty of that, in the mean: 10 % at 40 Hz");
    session.bench.supply.lead_fuse_a = None;
    assert_eq!(clean(&session), [], "one that is not noted gates nothing");
    let (mut session, rung) = at(4.0, Some(15.0));
    session.amplifier.max_supply_v = None;
    assert_eq!(codes(&session, &rung), []);
    let (mut session, rung) = at(4.0, Some(15.01));
    session.amplifier.max_supply_v = None;
    assert_eq!(codes(&session, &rung), [GateCode::AboveSupply], "asks above 15 V when nothing is stated");
    // 450 W and 20 % into one 4 Ω resistor that takes 500 W for ten seconds.
    let (mut session, rung) = at(4.0, Some(14.6));
    session.bench.loads =
        vec![serde_json::from_value(json!({ "nominal_ohm": 4.0, "continuous_w": 100.0, "ten_second_w": 500.0, "count": 1 })).unwrap()];
    let found = gates_before(&session, &rung, Mode::Certified);
    assert_eq!(found[0].code, GateCode::LoadBank);
    assert!(found[0].says.contains("takes 500\u{202f}W for ten seconds"), "{}", found[0].says);
    assert_eq!(codes(&session, &rung), [], "bursts heat it by a tenth of theirs");
    session.bench.loads[0].count = 4;
    assert!(shut(&session, &rung, Mode::Certified).is_empty(), "of four it is made two by two");
}

#[test]
fn runs_narrow_the_draw_and_with_it_the_gate_of_the_lead_fuse() {
    let mut session = mono_1100();
    let rung = find(&session, "mono@2@40").unwrap();
    session.bench.supply.lead_fuse_a = Some(Amps::new(70.0).unwrap());
    session.runs.clear();
    let clean = |session: &Session| shut(session, &rung, Mode::Certified).into_iter().map(|gate| gate.code).collect::<Vec<_>>();
    assert_eq!(clean(&session), [GateCode::LeadFuse], "1.15 · 780 W / (V · 0.55) is past 94.5 A");
    session.runs = mono_1100().runs.into_iter().filter(|run| run.load_nominal_ohm.get() > 2.0).collect();
    assert_eq!(clean(&session), [], "after 4 Ω, at 75 %, 2 Ω is known to draw less");
}

#[test]
fn what_was_survived_releases_its_own_mode_and_no_lower_floor() {
    let mut session = mono_1100();
    session.bench.supply.lead_fuse_a = Some(Amps::new(50.0).unwrap());
    let rung = find(&session, "mono@1@40").unwrap();
    let found = |session: &Session, mode| gates_before(session, &find(session, "mono@1@40").unwrap(), mode).remove(0);
    assert!(found(&session, Mode::Certified).open, "it came through 1 Ω, clean");
    assert_eq!(found(&session, Mode::Certified).released_by.as_deref(), Some("r7"));
    session.runs.retain(|run| run.id != "r8");
    assert!(!found(&session, Mode::Clipping).open, "which says nothing of clipping");
    session.runs[6].incident = Some(pukka_core::record::session::Incident::Protection);
    assert!(!found(&session, Mode::Certified).open, "a run with an incident releases nothing");
    session.runs[6].incident = None;
    session.runs[6].ungated = true;
    assert!(found(&session, Mode::Certified).open, "an ungated one releases, and stays ungated");
    session.plan.rungs[2].rest_v = Some(Volts::new(14.81).unwrap());
    assert!(!found(&session, Mode::Certified).open, "on a supply more than 0.2 V higher it is another matter");
    session.plan.rungs[2].rest_v = Some(Volts::new(14.8).unwrap());
    assert!(found(&session, Mode::Certified).open);
    session.amplifier.floors[0].load_ohm = pukka_core::kernel::units::Ohms::new(2.0).unwrap();
    assert!(gates_before(&session, &rung, Mode::Certified).iter().all(|gate| !gate.open), "below the floor nothing is released");
}

#[test]
fn fifteen_volts_are_asked_about_once_a_session() {
    let (mut session, rung) = at(4.0, Some(15.2));
    session.amplifier.max_supply_v = None;
    assert_eq!(codes(&session, &rung), [GateCode::AboveSupply]);
    session.gates = vec![gate(GateCode::AboveSupply, 2.0, json!({}))];
    assert_eq!(codes(&session, &rung), [], "the reason was given at 2 Ω");
    session.amplifier.max_supply_v = Some(Volts::new(15.0).unwrap());
    assert_eq!(codes(&session, &rung), [GateCode::AboveSupply], "what its maker states is asked about at each rung");
}

#[test]
fn a_house_rule_keeps_the_floor_shut() {
    let (mut session, rung) = at(0.5, Some(14.6));
    session.gates = vec![gate(GateCode::BelowFloor, 0.5, consent())];
    session.policy.never_below_floor = true;
    assert!(shut(&session, &rung, Mode::Certified)[0].never);
    let opening = serde_json::from_value(json!({ "reason": "to know", "by": "us", "owner_consent": consent()["owner_consent"] })).unwrap();
    let refused = pukka_core::plan::opening::open(&session, &rung, Mode::Certified, &opening).unwrap_err();
    assert!(refused[0].says.contains("never below the floor"), "{refused:?}");
}

#[test]
fn a_reason_that_came_in_with_a_file_opens_nothing_here() {
    let (mut session, rung) = at(0.5, Some(14.6));
    session.gates = vec![gate(GateCode::BelowFloor, 0.5, consent())];
    session.gates[0].from_file = true;
    let found = &shut(&session, &rung, Mode::Certified)[0];
    assert!(found.reason.is_none(), "and is not shown as if it did");
}

#[test]
fn a_borrowed_amplifier_asks_for_consent_and_who_pays() {
    let (mut session, rung) = at(0.5, Some(14.6));
    session.gates = vec![burst_gate(json!({}))];
    assert_eq!(codes(&session, &rung), [GateCode::BelowFloor], "a reason alone is not enough");
    session.gates = vec![burst_gate(json!({ "owner_consent": { "by": "its owner", "on": "2026-11-20", "who_pays": " " } }))];
    assert_eq!(codes(&session, &rung), [GateCode::BelowFloor], "nor consent without who pays");
    session.amplifier.provenance = Provenance::Supplied;
    assert_eq!(codes(&session, &rung), [GateCode::BelowFloor], "what its maker supplied is borrowed as well");
    session.gates = vec![burst_gate(consent())];
    assert_eq!(codes(&session, &rung), []);
    session.gates = vec![burst_gate(json!({}))];
    session.amplifier.provenance = Provenance::Bought;
    assert_eq!(codes(&session, &rung), [], "one's own asks for a reason and a name");
}

#[test]
fn below_the_floor_a_raised_supply_asks_for_a_second_reason() {
    for (rest_v, asks) in [(Some(14.7), false), (Some(14.71), true), (None, true)] {
        let (mut session, rung) = at(0.5, rest_v);
        session.gates = vec![burst_gate(consent())];
        assert_eq!(codes(&session, &rung).is_empty(), !asks, "{rest_v:?} against the claim's 14.4 V + 0.3 V");
        let mut more = consent();
        more["second_reason"] = "the bank cannot be brought lower today".into();
        session.gates = vec![burst_gate(more)];
        assert_eq!(codes(&session, &rung), []);
        session.amplifier.provenance = Provenance::Bought;
        session.gates = vec![burst_gate(json!({}))];
        assert_eq!(codes(&session, &rung), [], "one's own asks for no second one");
    }
}

#[test]
fn one_reason_covers_a_rung_but_below_the_floor_a_burst_asks_again() {
    let (mut session, rung) = at(0.5, Some(14.6));
    session.gates = vec![gate(GateCode::BelowFloor, 0.5, consent())];
    let shut_in = |session: &Session, mode| !shut(session, &rung, mode).is_empty();
    assert_eq!(Mode::ALL.map(|mode| shut_in(&session, mode)), [false, false, true]);
    session.gates.push(burst_gate(consent()));
    assert_eq!(Mode::ALL.map(|mode| shut_in(&session, mode)), [false, false, false]);
    session.gates.remove(0);
    assert_eq!(Mode::ALL.map(|mode| shut_in(&session, mode)), [true, true, false], "and the burst's reason is the burst's");
    session.gates[0].load_ohm = pukka_core::kernel::units::Ohms::new(0.75).unwrap();
    assert!(shut_in(&session, Mode::Dynamic), "another load is another gate");
    let opening = serde_json::from_value(json!({ "reason": "to know", "by": "us", "owner_consent": consent()["owner_consent"] })).unwrap();
    let opened = |mode| pukka_core::plan::opening::open(&session, &rung, mode, &opening).unwrap().remove(0);
    assert_eq!((opened(Mode::Clipping).mode, opened(Mode::Dynamic).mode), (None, Some(Mode::Dynamic)));
    assert_eq!(opened(Mode::Clipping).tone_hz.map(|tone| tone.get()), Some(40.0));
}

#[test]
fn what_an_armed_run_was_judged_on_is_written_down() {
    let (mut session, rung) = at(0.5, Some(14.6));
    let refused = arm(&session, &rung, Mode::Dynamic).unwrap_err();
    assert_eq!(refused.len(), 1);
    session.gates = vec![burst_gate(consent())];
    let armed = arm(&session, &rung, Mode::Dynamic).unwrap();
    let value = |symbol: &str| armed.inputs.iter().find(|input| input.symbol == symbol).map(|input| input.value.replace('\u{202f}', " "));
    assert_eq!(
        (value("floor").as_deref(), value("Vrest").as_deref(), value("fuses").as_deref()),
        (Some("1 Ω"), Some("14.6 V"), Some("105 A"))
    );
    assert!(armed.gates.iter().all(|gate| gate.open && gate.owner_consent.is_some()));
    session.amplifier.floors.clear();
    assert_eq!(value("floor").as_deref(), Some("1 Ω"), "and stands, whatever is changed later");
}

#[test]
fn a_run_stays_out_until_every_reason_is_given_in_full() {
    let mut session = mono_1100();
    let (id, load) = (session.runs[8].id.clone(), session.runs[8].load_nominal_ohm.get());
    let past = vec![(id.clone(), vec![GateCode::BelowFloor, GateCode::LeadFuse, GateCode::Fuses])];
    let ungated = |session: &mut Session| {
        mark_ungated(session, &past);
        session.run(&id).unwrap().ungated
    };
    assert!(ungated(&mut session));
    session.gates = vec![gate(GateCode::LeadFuse, load, json!({}))];
    assert!(ungated(&mut session));
    let burst = |more| Gate { mode: Some(Mode::Dynamic), ..gate(GateCode::BelowFloor, load, more) };
    session.gates.push(gate(GateCode::BelowFloor, load, consent()));
    assert!(ungated(&mut session), "that reason is for tones: it was a burst");
    session.gates.push(burst(json!({})));
    assert!(ungated(&mut session), "it is borrowed: a reason without consent opens nothing");
    session.gates.push(burst(consent()));
    assert!(!ungated(&mut session), "and its own fuses ask for nothing any more");
    session.gates.clear();
    mark_ungated(&mut session, &[]);
    assert!(!session.run(&id).unwrap().ungated, "a run that met no gate needs no reason");
}

proptest! {
    /// Whatever the records say, a run is armed exactly when each of its gates has a record that says all it asks for.
    #[test]
    fn nothing_arms_a_gated_run_but_open_gates(
        load in prop::sample::select(vec![0.5, 1.0, 4.0]), rest_v in prop::sample::select(vec![14.4, 14.8, 16.5]), lent in any::<bool>(),
        records in prop::collection::vec((0usize..4, any::<bool>(), any::<bool>(), any::<bool>(), prop::sample::select(vec![0.5, 1.0, 4.0])), 0..8),
    ) {
        let (mut session, rung) = at(load, Some(rest_v));
        session.amplifier.provenance = if lent { Provenance::Lent } else { Provenance::Bought };
        session.gates = records.iter().map(|(code, named, consented, second, ohm)| {
            let mut more = if *consented { consent() } else { json!({}) };
            more["by"] = if *named { "M. Tarrow" } else { "" }.into();
            if *second { more["second_reason"] = "again".into(); }
            Gate { mode: Some(Mode::Dynamic), ..gate(GateCode::ALL[*code], *ohm, more) }
        }).collect();
        let raised = rest_v > 14.7;
        let enough = |code: GateCode| records.iter().any(|(own, named, consented, second, ohm)| {
            let floor = code == GateCode::BelowFloor;
            GateCode::ALL[*own] == code && *ohm == load && *named && (*consented || !(lent && floor)) && (*second || !(raised && lent && floor))
        });
        let mut bare = session.clone();
        bare.gates.clear();
        let needed = codes(&bare, &rung);
        prop_assert_eq!(arm(&session, &rung, Mode::Dynamic).is_ok(), needed.iter().all(|code| enough(*code)));
        prop_assert_eq!(needed.contains(&GateCode::BelowFloor), load < 1.0);
        prop_assert_eq!(needed.contains(&GateCode::AboveSupply), rest_v > 16.0);
    }
}
