//! Groups of outputs driven at once: what a three-channel hook-up claims, reads, plans, risks and proves.

use pukka_core::assess::{Outcome, by_group, judge};
use pukka_core::evidence::entry::{EntryContext, read};
use pukka_core::evidence::figures::numbers;
use pukka_core::evidence::floor::is_below;
use pukka_core::evidence::rungs::rungs;
use pukka_core::evidence::{NoTotal, total};
use pukka_core::kernel::units::Ohms;
use pukka_core::kernel::wiring::Wiring;
use pukka_core::plan::gates::gates_before;
use pukka_core::plan::ladder::ladder;
use pukka_core::plan::view::report;
use pukka_core::record::session::{GateCode, Mode, Run, Session, SessionFile};
use serde_json::{Value, json};

/// Two channels into 4 Ω and a bridged pair into 4 Ω: 2 × 75 W and 300 W are claimed.
fn file() -> Value {
    let wiring = json!({ "kind": "mixed", "groups": [
        { "wiring": { "kind": "channels", "driven": 2 }, "load_ohm": 4.0 },
        { "wiring": { "kind": "bridged", "pairs": 1 }, "load_ohm": 4.0, "tone_hz": 40.0 },
    ]});
    json!({
        "format": "pukka-session", "version": 1,
        "amplifier": { "make": "Quillmoor", "model": "Four-Ninety", "class": "AB", "purpose": "full-range", "supply_type": "unregulated",
            "channels": 4, "fuses_a": [25, 25], "max_supply_v": 16.0, "provenance": "bought" },
        "claims": [{ "id": "c1", "source": "manual", "wiring": wiring, "group_power_w": [75.0, 300.0], "per": "output", "kind": "rms",
            "supply_v": 14.4, "thd_limit_ratio": 0.01 }],
        "bench": { "supply": { "kind": "battery", "lead_fuse_a": 300 }, "meters": [],
            "loads": [{ "nominal_ohm": 4.0, "measured_ohm": 4.0, "continuous_w": 100.0, "ten_second_w": 400.0, "count": 3 }] },
        "plan": { "order": "rung", "rest_v": 14.4, "rungs": [] },
        "runs": [{ "id": "r1", "at": "2026-11-20T10:04:00Z", "wiring": wiring, "mode": "certified", "method": "ramp", "tone_hz": 1000.0,
            "outputs": [{ "group": 0, "power_w": 80.0 }, { "group": 0, "power_w": 78.0 }, { "group": 1, "volts_rms": 33.0 }],
            "group_loads_measured_ohm": [3.9, 3.96], "end_v": 14.4, "current_a": 52.0 }],
    })
}

fn session_of(file: &Value) -> Session {
    SessionFile::read(file.to_string().as_bytes()).unwrap().session
}

fn problems(file: &Value) -> Vec<(String, String)> {
    let refused = SessionFile::read(file.to_string().as_bytes()).unwrap_err();
    refused.into_iter().map(|problem| (problem.path, problem.says)).collect()
}

fn run(session: &Session) -> &Run {
    &session.runs[0]
}

#[test]
fn each_group_is_reckoned_with_its_own_load_and_the_rest_of_it_assumed() {
    let mut session = session_of(&file());
    // 80 + 78 + 33²/3.96 = 158 + 275 = 433 W
    let read = total(&session, run(&session)).unwrap();
    assert!((read.group_w[0] - 158.0).abs() < 1e-9 && (read.group_w[1] - 275.0).abs() < 1e-9, "{:?}", read.group_w);
    assert!((read.total_w - 433.0).abs() < 1e-9);
    // 433 / (14.4 × 52) = 57.8 %
    assert!((numbers(&session, run(&session)).efficiency.unwrap() - 0.578_258).abs() < 1e-5);
    // One of the two channels stands for both: 2 × 80 + 275.
    session.runs[0].outputs.remove(1);
    let one = total(&session, run(&session)).unwrap();
    assert_eq!((one.total_w, one.assumed_outputs), (435.0, 1));
    session.runs[0].outputs.remove(0);
    assert_eq!(total(&session, run(&session)), Err(NoTotal::GroupNotRead), "a pair tells nothing of channels that were not read");
    session.runs[0].outputs.clear();
    session.runs[0].total_power_w = serde_json::from_value(json!(430.0)).unwrap();
    assert_eq!(total(&session, run(&session)).unwrap().total_w, 430.0, "a total alone needs no groups");
}

#[test]
fn it_is_judged_by_its_total_and_stands_for_itself_only() {
    let session = session_of(&file());
    // 433 of 2 × 75 + 300 = 450 W. u = √((158 · 0.02/√3)² + (275 · √(4 · 0.01² + 0.01²)/√3)²) = 3.99 W: 433 + 2·u is short of it.
    let verdict = &judge(&session).claims[0];
    assert_eq!((verdict.claim_total_w, verdict.outcome), (Some(450.0), Outcome::Short));
    assert!((verdict.as_read_ratio.unwrap() - 433.0 / 450.0).abs() < 1e-12);
    let said = by_group::remark(&session, &session.claims[0], verdict).unwrap();
    let plain = said.replace(['\u{202f}', '\u{a0}'], " ");
    assert_eq!(
        plain,
        "2 channels into 4 Ω: 79.0 W × 2 of 75.0 W × 2, 5.3 % over; 1 bridged pair into 4 Ω at 40 Hz: 275 W of 300 W, 8.3 % short"
    );
    assert!(judge(&session).sentence.contains("By group:"), "{}", judge(&session).sentence);
    let mut other = file();
    other["claims"][0]["wiring"] = json!({ "kind": "channels", "driven": 4 });
    other["claims"][0]["load_ohm"] = json!(2.0);
    other["claims"][0]["group_power_w"] = json!([]);
    other["claims"][0]["power_w"] = json!(100.0);
    assert_eq!(judge(&session_of(&other)).claims[0].outcome, Outcome::NotTested, "a mixed run speaks for no other wiring");
}

#[test]
fn the_line_takes_every_output_in_order_or_one_of_each_group() {
    let session = session_of(&file());
    let asked = EntryContext { wiring: run(&session).wiring, mode: Mode::Certified, meters: &[] };
    let groups = |line: &str| {
        let entry = read(line, asked);
        (entry.readings.outputs.iter().filter_map(|output| output.group).collect::<Vec<_>>(), entry.not_yet)
    };
    assert_eq!(groups("80+78+275 14.4 52"), (vec![0, 0, 1], None));
    assert_eq!(groups("80x2+275"), (vec![0, 0, 1], None));
    assert_eq!(groups("80+275"), (vec![0, 1], None));
    assert_eq!(
        groups("sub:275").1.unwrap(),
        "2 channels into 4\u{202f}Ω + 1 bridged pair into 4\u{202f}Ω at 40 Hz: type all 3 outputs in this order, or one of each group."
    );
    assert_eq!(groups("433t"), (vec![], None));
    assert_eq!(read("80+78+275 >>30s 79+77+270", asked).readings.hold.unwrap().outputs[2].group, Some(1));
}

#[test]
fn its_plan_its_loads_and_its_gates_are_by_group() {
    let mut session = session_of(&file());
    let planned = &report(&session).rungs[0];
    // The pair's 275 W into 3.96 Ω peak at √(2·275/4) A, the channels at √(2·79/4).
    assert!((planned.peak_output_a.unwrap() - (2.0f64 * 275.0 / 4.0).sqrt()).abs() < 0.4, "{:?}", planned.peak_output_a);
    assert_eq!(planned.made_of.as_deref(), Some("4\u{202f}Ω and 4\u{202f}Ω"), "three resistors: two for the channels, one for the pair");
    assert_eq!(ladder(&session).rungs[0].label, "4 + 4\u{202f}Ω");
    session.bench.loads[0].count = 2;
    assert_eq!(report(&session).rungs[0].made_of, None, "what the channels take, the pair has not");
    session.bench.loads[0].count = 3;
    session.bench.loads[0].ten_second_w = serde_json::from_value(json!(200.0)).unwrap();
    let codes = |session: &Session| {
        gates_before(session, &rungs(session)[0], Mode::Certified).into_iter().map(|gate| gate.code).collect::<Vec<_>>()
    };
    assert_eq!(codes(&session), [GateCode::LoadBank], "the pair's resistor takes more than 200 W");
    // Two ohms a channel are allowed: the pair into 4 Ω sees just that, into 3 Ω less.
    session.amplifier.floors = serde_json::from_value(json!([{ "wiring": { "kind": "channels", "driven": 4 }, "load_ohm": 2.0 }])).unwrap();
    let ohms = |ohm| Ohms::new(ohm).unwrap();
    assert!(!is_below(&session, run(&session).wiring, ohms(4.0)));
    let low: Wiring = serde_json::from_value(json!({ "kind": "mixed", "groups": [
        { "wiring": { "kind": "channels", "driven": 2 }, "load_ohm": 4.0 },
        { "wiring": { "kind": "bridged", "pairs": 1 }, "load_ohm": 3.0 },
    ]}))
    .unwrap();
    assert!(is_below(&session, low, ohms(4.0)), "by the pair, whatever the channels see");
    assert_eq!(
        (low.words().as_str(), low.key().as_str()),
        ("2 channels into 4\u{202f}Ω + 1 bridged pair into 3\u{202f}Ω", "mixed~channels-2-4~bridged-1-3")
    );
}

#[test]
fn it_comes_back_from_a_file_as_it_went_and_what_cannot_be_is_named() {
    let session = session_of(&file());
    assert_eq!(session.runs[0].load_nominal_ohm.get(), 4.0, "the load of the first group, where none is given");
    assert_eq!(session_of(&session.to_file().unwrap()), session);
    let spoiled = |at: &str, value: Value| {
        let mut file = file();
        *file.pointer_mut(at).unwrap() = value;
        problems(&file)
    };
    assert_eq!(spoiled("/runs/0/outputs/2/group", json!(2))[0].0, "runs[0].outputs[2].group");
    assert_eq!(spoiled("/runs/0/outputs/2/group", json!(null))[0].1, "Which group is it of? Groups count from 0.");
    assert_eq!(spoiled("/runs/0/outputs/2/group", json!(0))[0].0, "runs[0].outputs");
    assert_eq!(spoiled("/runs/0/outputs/0/group", json!(1))[0].0, "runs[0].outputs");
    assert_eq!(spoiled("/runs/0/group_loads_measured_ohm", json!([3.9]))[0].0, "runs[0].group_loads_measured_ohm");
    assert_eq!(spoiled("/claims/0/group_power_w", json!([75.0]))[0].0, "claims[0].group_power_w");
    assert_eq!(spoiled("/amplifier/channels", json!(3))[0].0, "claims[0].wiring");
    let one = json!([{ "wiring": { "kind": "bridged", "pairs": 1 }, "load_ohm": 4.0 }]);
    assert!(spoiled("/runs/0/wiring/groups", one)[0].1.contains("2 to 4 groups"));
    let mut elsewhere = file();
    elsewhere["runs"][0]["load_nominal_ohm"] = json!(8.0);
    assert_eq!(problems(&elsewhere)[0].0, "runs[0].load_nominal_ohm");
}
