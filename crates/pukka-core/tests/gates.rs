//! Gates: what shuts them, what it takes to open them, and that nothing else does.

#![allow(clippy::unwrap_used, reason = "a test that cannot go on should stop")]

use proptest::prelude::*;
use pukka_core::evidence::rungs::Rung;
use pukka_core::kernel::units::Volts;
use pukka_core::plan::arm::arm;
use pukka_core::plan::gates::{gates_before, mark_ungated, shut};
use pukka_core::plan::ladder::find;
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

fn consent() -> Value {
    json!({ "owner_consent": { "by": "its owner", "on": "2026-11-20", "who_pays": "its owner" } })
}

#[test]
fn floor_supply_fuses_and_load_bank_each_ask() {
    let shut_at = |load, rest| {
        let (session, rung) = at(load, rest);
        codes(&session, &rung)
    };
    assert_eq!(shut_at(4.0, Some(14.6)), []);
    assert_eq!(shut_at(1.0, Some(14.6)), [GateCode::Fuses], "up to 178 A through 105 A, from the claim alone");
    assert_eq!(shut_at(0.5, Some(14.6)), [GateCode::BelowFloor, GateCode::Fuses]);
    assert_eq!(shut_at(4.0, Some(16.1)), [GateCode::AboveSupply]);
    let (mut session, rung) = at(4.0, Some(15.0));
    session.amplifier.max_supply_v = None;
    assert_eq!(codes(&session, &rung), []);
    let (mut session, rung) = at(4.0, Some(15.01));
    session.amplifier.max_supply_v = None;
    assert_eq!(codes(&session, &rung), [GateCode::AboveSupply], "asks above 15 V when nothing is stated");
    let (mut session, rung) = at(1.0, None);
    session.amplifier.fuses_a.clear();
    assert_eq!(codes(&session, &rung), [], "unknown fuses do not gate");
    // 450 W and 20 % into one 4 Ω resistor that bears 500 W for ten seconds.
    let (mut session, rung) = at(4.0, Some(14.6));
    session.bench.loads =
        vec![serde_json::from_value(json!({ "nominal_ohm": 4.0, "continuous_w": 100.0, "ten_second_w": 500.0, "count": 1 })).unwrap()];
    let found = gates_before(&session, &rung, Mode::Certified);
    assert_eq!(found[0].code, GateCode::LoadBank);
    assert!(found[0].says.contains("bears 500\u{202f}W for ten seconds"), "{}", found[0].says);
    session.bench.loads[0].count = 4;
    assert_eq!(codes(&session, &rung), [], "of four it is made two by two");
}

#[test]
fn runs_narrow_the_draw_and_with_it_the_gate_of_the_fuses() {
    let mut session = mono_1100();
    let rung = find(&session, "mono@2@40").unwrap();
    session.amplifier.fuses_a.truncate(2);
    session.runs.clear();
    assert_eq!(codes(&session, &rung), [GateCode::Fuses], "1.3 × 780 W / (14.6 V × 0.55) is 126 A through 70 A");
    session.runs = mono_1100().runs.into_iter().filter(|run| run.load_nominal_ohm.get() > 1.0).collect();
    assert_eq!(codes(&session, &rung), [], "after 4 Ω and 2 Ω it is known to draw 87 A at most");
}

#[test]
fn a_borrowed_amplifier_asks_for_consent_and_who_pays() {
    let (mut session, rung) = at(0.5, Some(14.6));
    session.amplifier.fuses_a.clear();
    session.gates = vec![gate(GateCode::BelowFloor, 0.5, json!({}))];
    assert_eq!(codes(&session, &rung), [GateCode::BelowFloor], "a reason alone is not enough");
    session.gates =
        vec![gate(GateCode::BelowFloor, 0.5, json!({ "owner_consent": { "by": "its owner", "on": "2026-11-20", "who_pays": " " } }))];
    assert_eq!(codes(&session, &rung), [GateCode::BelowFloor], "nor consent without who pays");
    session.gates = vec![gate(GateCode::BelowFloor, 0.5, consent())];
    assert_eq!(codes(&session, &rung), []);
    session.gates = vec![gate(GateCode::BelowFloor, 0.5, json!({}))];
    session.amplifier.provenance = Provenance::Bought;
    assert_eq!(codes(&session, &rung), [], "one's own asks for a reason and a name");
}

#[test]
fn below_the_floor_a_raised_supply_asks_for_a_second_reason() {
    for (rest_v, asks) in [(Some(14.7), false), (Some(14.71), true), (None, true)] {
        let (mut session, rung) = at(0.5, rest_v);
        session.amplifier.fuses_a.clear();
        session.gates = vec![gate(GateCode::BelowFloor, 0.5, consent())];
        assert_eq!(codes(&session, &rung).is_empty(), !asks, "{rest_v:?} against the claim's 14.4 V + 0.3 V");
        let mut more = consent();
        more["second_reason"] = "the bank cannot be brought lower today".into();
        session.gates = vec![gate(GateCode::BelowFloor, 0.5, more)];
        assert_eq!(codes(&session, &rung), []);
    }
}

#[test]
fn a_reason_opens_its_own_gate_and_no_other() {
    let (mut session, rung) = at(0.5, Some(14.6));
    let mut own = gate(GateCode::BelowFloor, 0.5, consent());
    own.mode = Some(Mode::Dynamic);
    session.gates = vec![own];
    assert_eq!(codes(&session, &rung), [GateCode::Fuses]);
    assert!(shut(&session, &rung, Mode::Certified).iter().any(|gate| gate.code == GateCode::BelowFloor), "another mode is another risk");
    session.gates[0].load_ohm = pukka_core::kernel::units::Ohms::new(0.75).unwrap();
    assert_eq!(codes(&session, &rung), [GateCode::BelowFloor, GateCode::Fuses]);
}

#[test]
fn what_an_armed_run_was_judged_on_is_written_down() {
    let (mut session, rung) = at(0.5, Some(14.6));
    let refused = arm(&session, &rung, Mode::Dynamic).unwrap_err();
    assert_eq!(refused.len(), 2);
    session.gates = vec![gate(GateCode::BelowFloor, 0.5, consent()), gate(GateCode::Fuses, 0.5, consent())];
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
    let past = vec![(id.clone(), vec![GateCode::BelowFloor, GateCode::Fuses])];
    let ungated = |session: &mut Session| {
        mark_ungated(session, &past);
        session.run(&id).unwrap().ungated
    };
    assert!(ungated(&mut session));
    session.gates = vec![gate(GateCode::Fuses, load, consent())];
    assert!(ungated(&mut session));
    session.gates.push(gate(GateCode::BelowFloor, load, json!({})));
    assert!(ungated(&mut session), "it is borrowed: a reason without consent opens nothing");
    session.gates.push(gate(GateCode::BelowFloor, load, consent()));
    assert!(!ungated(&mut session));
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
            gate(GateCode::ALL[*code], *ohm, more)
        }).collect();
        let raised = rest_v > 14.7;
        let enough = |code: GateCode| records.iter().any(|(own, named, consented, second, ohm)| {
            GateCode::ALL[*own] == code && *ohm == load && *named && (*consented || !lent) && (*second || !(raised && code == GateCode::BelowFloor))
        });
        let mut bare = session.clone();
        bare.gates.clear();
        let needed = codes(&bare, &rung);
        prop_assert_eq!(arm(&session, &rung, Mode::Dynamic).is_ok(), needed.iter().all(|code| enough(*code)));
        prop_assert_eq!(needed.contains(&GateCode::BelowFloor), load < 1.0);
        prop_assert_eq!(needed.contains(&GateCode::AboveSupply), rest_v > 16.0);
    }
}
