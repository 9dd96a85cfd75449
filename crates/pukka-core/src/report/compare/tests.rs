use super::*;
use crate::assess::judge::judge;
use crate::kernel::units::{Ohms, Volts, Watts};
use crate::record::session::examples::mono_1100;

pub fn plain(text: &str) -> String {
    text.replace(['\u{202f}', '\u{a0}'], " ")
}

fn side_by_side(sessions: &[Session], per: Per) -> Comparison {
    let checks: Vec<Vec<Check>> = sessions.iter().map(|session| judge(session).checks).collect();
    let ids: Vec<String> = (0..sessions.len()).map(|n| n.to_string()).collect();
    let all: Vec<Contender> = sessions
        .iter()
        .zip(&checks)
        .zip(&ids)
        .map(|((session, checks), id)| Contender { id, of: None, session, checks, overall: judge(session).overall })
        .collect();
    compare(&all, 14.4, per)
}

/// Another amplifier, whose certified run at 2 Ω made so many watts.
fn other(watts: f64) -> Session {
    let mut session = mono_1100();
    session.amplifier.make = "Hartsedge".into();
    session.amplifier.model = "Six-Fifty".into();
    session.runs[3].outputs[0].power_w = Some(Watts::new(watts).unwrap());
    session
}

fn row<'a>(comparison: &'a Comparison, load: &str, mode: Mode) -> &'a CompareRow {
    comparison.rows.iter().find(|row| plain(&row.load) == load && row.mode == mode).unwrap()
}

#[test]
fn a_difference_outside_both_is_said_in_percent_and_another_is_none() {
    let both = side_by_side(&[mono_1100(), other(612.0)], Per::Total);
    let two = row(&both, "2 Ω", Mode::Certified);
    // 771 W and 612 W, both at 14.19 V, brought to 14.4 V by the same factor: 26 %.
    assert_eq!(
        two.says.iter().map(|says| plain(says)).collect::<Vec<_>>(),
        ["At 2 Ω, certified, the Tolland & Pike Mono 1100 makes 26 % more than the Hartsedge Six-Fifty, outside both ±."]
    );
    let cell = two.cells[0].as_ref().unwrap();
    assert_eq!((plain(&cell.power.text), plain(&cell.basis), cell.unjoined.as_ref()), ("794".into(), "at 14.4 V".into(), None));
    let four = row(&both, "4 Ω", Mode::Certified);
    assert!(four.says[0].contains("no difference can be told"), "{:?}", four.says);
    assert_eq!(both.rows.len(), 9, "three loads in three modes, each once");
}

#[test]
fn what_is_unlike_stands_beside_and_is_never_joined() {
    let mut unlike = other(612.0);
    unlike.runs[0].end_v = None;
    unlike.runs[3].tone_hz = Hertz::new(1_000.0).unwrap();
    unlike.runs[6].load_nominal_ohm = Ohms::new(0.5).unwrap();
    unlike.runs[6].load_measured_ohm = None;
    let both = side_by_side(&[mono_1100(), unlike], Per::Total);
    let four = row(&both, "4 Ω", Mode::Certified);
    let cell = four.cells[1].as_ref().unwrap();
    assert_eq!((cell.unjoined.as_deref(), cell.basis.as_str()), (Some("supply volts not read"), "as read"));
    assert_eq!(four.says, Vec::<String>::new(), "one alone is more than nobody");
    let tones: Vec<&str> =
        both.rows.iter().filter(|row| plain(&row.load) == "2 Ω" && row.mode == Mode::Certified).map(|row| row.words.as_str()).collect();
    assert_eq!(tones.len(), 2, "another tone is another row: {tones:?}");
    let half = row(&both, "0.5 Ω", Mode::Certified);
    assert_eq!(half.cells[1].as_ref().unwrap().unjoined.as_deref(), Some("below its rated loads"));
    assert!(half.cells[0].is_none());
}

#[test]
fn the_same_meter_and_load_halve_what_a_difference_has_to_pass() {
    let (more, less) = (Joined::plain(780.0, 20.0), Joined::plain(755.0, 20.0));
    // √(20² + 20²) = 28.3 W
    assert!(!is_apart(&more, &less), "25 W is inside");
    assert!(is_apart(&Joined::plain(784.0, 20.0), &less), "29 W is outside");
    let with_meter = |watts: f64| {
        let mut session = other(watts);
        session.bench.meters =
            serde_json::from_value(serde_json::json!([{ "id": "m1", "quantity": "power", "reading_ratio": 0.01 }])).unwrap();
        session
    };
    // 771 W against 760 W: 1.4 %; each is known to 1.2 %, both together to 1.7 %, and half of that is 0.8 %.
    let apart = |sessions: &[Session]| !row(&side_by_side(sessions, Per::Total), "2 Ω", Mode::Certified).says[0].contains("no difference");
    assert!(apart(&[with_meter(771.0), with_meter(760.0)]), "the same meter, the same load");
    let mut another = with_meter(760.0);
    another.runs[3].load_measured_ohm = Some(Ohms::new(1.99).unwrap());
    assert!(!apart(&[with_meter(771.0), another]), "another load");
}

#[test]
fn power_an_output_is_shown_with_its_own_uncertainty_and_the_sentence_stays() {
    let mut two = mono_1100();
    two.amplifier.channels = 2;
    for run in &mut two.runs {
        run.wiring = Wiring::Channels { driven: 2 };
    }
    let total = side_by_side(std::slice::from_ref(&two), Per::Total);
    let each = side_by_side(&[two], Per::Output);
    let of = |comparison: &Comparison| comparison.rows[0].cells[0].as_ref().unwrap().power.clone();
    assert!((of(&total).value / of(&each).value - 2.0).abs() < 1e-9);
    assert_eq!(of(&each).working.from.len(), 1, "its working leads to the total's");
}

#[test]
fn bands_are_at_least_and_more_than_eight_are_cut() {
    let mut unknown = mono_1100();
    unknown.amplifier.supply_type = crate::record::amplifier::SupplyType::Unknown;
    let both = side_by_side(&[unknown, other(600.0)], Per::Total);
    let two = row(&both, "2 Ω", Mode::Certified);
    assert!(two.cells[0].as_ref().unwrap().high.is_some());
    assert!(two.says[0].contains("makes at least 2"), "{:?}", two.says);
    let many: Vec<Session> = (0..10).map(|_| mono_1100()).collect();
    assert_eq!(side_by_side(&many, Per::Total).heads.len(), MOST);
    assert_eq!(side_by_side(&[], Per::Total).rows, []);
}

#[test]
fn facts_stand_in_the_order_of_the_amplifiers_and_empty_lines_are_left_out() {
    let mut lighter = other(612.0);
    lighter.amplifier.price = None;
    lighter.plan.rest_v = Some(Volts::new(14.6).unwrap());
    let both = side_by_side(&[mono_1100(), lighter], Per::Total);
    let says = |what: &str| both.facts.iter().find(|fact| fact.what == what).map(|fact| fact.says.clone());
    assert_eq!(says("Price").unwrap()[1], None);
    assert_eq!(says("Most clean power at").unwrap()[0].as_deref(), Some("1\u{202f}Ω"));
    assert!(says("Efficiency").unwrap()[0].as_deref().unwrap().starts_with("61.4"));
    assert_eq!(says("Fade"), None, "nobody held a tone");
}
