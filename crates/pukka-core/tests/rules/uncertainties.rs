//! Uncertainty against sums written out. Against chance: `monte_carlo.rs`.

use proptest::prelude::*;
use pukka_core::evidence::band::{Sample, band};
use pukka_core::evidence::uncertainty::quadrature;
use pukka_core::evidence::{figures, total};
use pukka_core::kernel::units::{Amps, Ohms, Ratio, Volts, VoltsPeak, VoltsRms, Watts};
use pukka_core::kernel::wiring::Wiring;
use pukka_core::record::session::examples::mono_1100;
use pukka_core::record::session::{OutputReading, Run, Session};
use serde_json::json;

const ROOT3: f64 = 1.732_050_807_568_877_2;

/// A run with no meter of its own on the bench: the defaults hold.
fn bare() -> (Session, Run) {
    let mut session = mono_1100();
    session.bench.meters.clear();
    let mut run = session.runs[0].clone();
    run.outputs[0].meter = None;
    (session, run)
}

fn relative(session: &Session, run: &Run) -> f64 {
    total(session, run).unwrap().relative_u()
}

fn reading(change: impl FnOnce(&mut OutputReading)) -> OutputReading {
    let mut output = OutputReading::default();
    change(&mut output);
    output
}

#[test]
fn each_default_worked_by_hand() {
    let (session, mut run) = bare();
    assert!((relative(&session, &run) - 0.02 / ROOT3).abs() < 1e-12, "watts ± 2 %");
    run.outputs = vec![reading(|o| o.volts_rms = Some(VoltsRms::new(41.8).unwrap()))];
    // √((2·0.01)² + 0.01²)/√3
    assert!((relative(&session, &run) - (0.0004f64 + 0.0001).sqrt() / ROOT3).abs() < 1e-12);
    run.outputs = vec![reading(|o| o.volts_peak = Some(VoltsPeak::new(59.1).unwrap()))];
    // off a screen ± 3 %: √((2·0.03)² + 0.01²)/√3
    assert!((relative(&session, &run) - (0.0036f64 + 0.0001).sqrt() / ROOT3).abs() < 1e-12);
    run.load_measured_ohm = None;
    run.load_nominal_ohm = Ohms::new(8.0).unwrap();
    // nominal, no resistor of 8 Ω in the inventory: ± 5 %
    assert!((relative(&session, &run) - (0.0036f64 + 0.0025).sqrt() / ROOT3).abs() < 1e-12);
}

#[test]
fn limits_with_an_absolute_part_grow_as_the_reading_shrinks() {
    let (mut session, mut run) = bare();
    session.bench.meters =
        serde_json::from_value(json!([{ "id": "w", "quantity": "power", "reading_ratio": 0.01, "absolute": 2.0 }])).unwrap();
    // a = 0.01·447 + 2 = 6.47 W
    assert!((total(&session, &run).unwrap().u_w - 6.47 / ROOT3).abs() < 1e-12);
    run.outputs[0].power_w = Some(Watts::new(10.0).unwrap());
    assert!((total(&session, &run).unwrap().u_w - 2.1 / ROOT3).abs() < 1e-12);
    run.outputs[0].power_w = Some(Watts::new(0.0).unwrap());
    assert_eq!(relative(&session, &run), 0.0, "nothing of nothing");
}

#[test]
fn a_meter_of_another_quantity_is_not_asked() {
    let (mut session, mut run) = bare();
    session.bench.meters = serde_json::from_value(json!([
        { "id": "v", "quantity": "voltage", "reading_ratio": 0.002, "absolute": 0.0 },
        { "id": "r", "quantity": "resistance", "reading_ratio": 0.001, "absolute": 0.0 },
        { "id": "v2", "quantity": "voltage", "reading_ratio": 0.05, "absolute": 0.0 }
    ]))
    .unwrap();
    assert!((relative(&session, &run) - 0.02 / ROOT3).abs() < 1e-12, "watts keep their default");
    run.outputs = vec![reading(|o| o.volts_rms = Some(VoltsRms::new(41.8).unwrap()))];
    assert!(
        (relative(&session, &run) - (4.0 * 0.002f64.powi(2) + 0.001f64.powi(2)).sqrt() / ROOT3).abs() < 1e-12,
        "the first of its quantity"
    );
    run.outputs[0].meter = Some("v2".into());
    assert!((relative(&session, &run) - (4.0 * 0.05f64.powi(2) + 0.001f64.powi(2)).sqrt() / ROOT3).abs() < 1e-12, "or the one it names");
}

#[test]
fn efficiency_adds_volts_and_amps() {
    let (session, mut run) = bare();
    run.current_a = Some(Amps::new(41.2).unwrap());
    let shown = figures(&session, &run).unwrap().efficiency.unwrap();
    // η = 447/(14.38·41.2) = 75.449 %; u = √(0.02² + 0.005² + 0.02²)/√3 = 1.6583 %; U = 2·0.016583·75.449 = 2.50 points
    assert_eq!(shown.plus_minus.as_deref(), Some("2.5"));
    assert!(shown.working.inputs.iter().any(|input| input.symbol == "U"));
}

#[test]
fn the_mean_of_four_outputs_on_one_and_on_four_meters() {
    let (mut session, mut run) = bare();
    session.amplifier.channels = 4;
    run.wiring = Wiring::Channels { driven: 4 };
    let ids = ["a", "b", "c", "d"];
    session.bench.meters =
        ids.iter().map(|id| serde_json::from_value(json!({ "id": id, "quantity": "power", "reading_ratio": 0.02 })).unwrap()).collect();
    let with = |meters: [&str; 4]| -> Vec<OutputReading> {
        meters
            .iter()
            .map(|meter| reading(|o| (o.power_w, o.meter) = (Some(Watts::new(100.0).unwrap()), Some((*meter).to_owned()))))
            .collect()
    };
    run.outputs = with(["a"; 4]);
    assert!((total(&session, &run).unwrap().u_w - 400.0 * 0.02 / ROOT3).abs() < 1e-9, "all off by as much");
    run.outputs = with(ids);
    assert!((total(&session, &run).unwrap().u_w - 200.0 * 0.02 / ROOT3).abs() < 1e-9, "half of it cancels: 2·100·u");
    run.outputs = with(["a", "a", "b", "b"]);
    assert!((total(&session, &run).unwrap().u_w - quadrature([200.0, 200.0]) * 0.02 / ROOT3).abs() < 1e-9);
    run.outputs.truncate(2);
    assert!((total(&session, &run).unwrap().u_w - 2.0 * 200.0 * 0.02 / ROOT3).abs() < 1e-9, "two stand for four");
}

proptest! {
    #[test]
    fn wider_limits_never_make_a_figure_surer(ratio in 0.001f64..0.05, wider in 1.0f64..3.0, power in 1.0f64..2_000.0) {
        let (mut session, mut run) = bare();
        run.outputs[0].power_w = Some(Watts::new(power).unwrap());
        let mut with = |ratio: f64| {
            session.bench.meters = vec![serde_json::from_value(json!({ "id": "w", "quantity": "power", "reading_ratio": ratio })).unwrap()];
            relative(&session, &run)
        };
        prop_assert!(with(ratio * wider) >= with(ratio) - 1e-15);
        prop_assert!((with(ratio) - ratio / ROOT3).abs() < 1e-12);
    }

    #[test]
    fn away_from_the_claims_voltage_certainty_falls(volts in 13.5f64..14.39) {
        let (session, mut run) = bare();
        run.end_v = Some(Volts::new(volts).unwrap());
        let stated = total(&session, &run).unwrap();
        let brought = band(&session, Sample::of(&session, &run, &stated), 14.4);
        prop_assert!(brought.low_expanded_w / brought.low_w > stated.expanded_w() / stated.total_w);
        let limit = Ratio::new(0.02).unwrap();
        prop_assert!(stated.relative_u() <= limit.get());
    }
}
