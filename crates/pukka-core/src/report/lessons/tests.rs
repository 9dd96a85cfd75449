use super::*;
use crate::kernel::units::{Ohms, Watts};
use crate::record::amplifier::{Class, Relation, RelationKind};
use crate::record::session::examples::mono_1100;
use crate::record::session::{Incident, SecondReading, Session};

fn entry(id: &str, session: &Session) -> Entry {
    Entry { id: id.into(), bench: Some("Ferry Lane".into()), lesson: summary_and_lesson(session).1 }
}

fn named(make: &str, model: &str) -> Session {
    let mut session = mono_1100();
    session.amplifier.make = make.into();
    session.amplifier.model = model.into();
    session
}

fn look_alike(name: &str) -> Relation {
    Relation {
        kind: RelationKind::LookAlike,
        name: name.into(),
        amplifier_id: None,
        figures: None,
        source: None,
        extra: serde_json::Map::new(),
    }
}

fn plain(text: &str) -> String {
    text.replace('\u{202f}', " ")
}

/// Six amplifiers with a floor of 1 Ω; at it one of them died and one protected itself.
fn shelf() -> Vec<Entry> {
    let mut sessions: Vec<Session> = (0..6).map(|n| named("Hartsedge", &format!("Model {n}"))).collect();
    sessions[0].runs[8].incident = Some(Incident::Died);
    sessions[1].runs[8].incident = Some(Incident::Protection);
    sessions[2].amplifier.class = Class::AB;
    // One of them without a run at 1 Ω.
    sessions[5].runs.truncate(6);
    sessions.iter().enumerate().map(|(n, session)| entry(&n.to_string(), session)).collect()
}

#[test]
fn each_amplifier_is_one_case_by_the_worst_that_happened() {
    let taught = learn(&shelf());
    let table = |title: &str| taught.fates.iter().find(|table| table.title == title).unwrap();
    let at = table("Against the lowest rated load").rows.iter().find(|row| row.what == "at its lowest rated load").unwrap();
    assert_eq!((at.cases, at.protected, at.died), (5, 1, 1));
    assert_eq!(plain(&at.died_share.as_ref().unwrap().says), "20 % (4 to 62)");
    let four = table("By load").rows.iter().find(|row| plain(&row.what) == "4 Ω").unwrap();
    assert_eq!((four.cases, four.protected, four.died), (6, 0, 0));
    let classes: Vec<(String, u32, u32)> = table("By class").rows.iter().map(|row| (row.what.clone(), row.cases, row.died)).collect();
    assert_eq!(classes, [("class AB".to_owned(), 1, 0), ("class D".to_owned(), 5, 1)]);
    assert_eq!(table("By class").rows[0].died_share, None, "one case is no share");
}

#[test]
fn a_makers_claims_are_counted_by_year_and_by_model() {
    let mut later = named("hartsedge", "Late");
    later.measured_on = Some("2027-02-03".parse().unwrap());
    // Its claim at 2 Ω is far from true.
    later.runs[3].outputs[0].power_w = Some(Watts::new(600.0).unwrap());
    let mut all = shelf();
    all.push(entry("late", &later));
    let taught = learn(&all);
    assert_eq!(taught.makers.len(), 1, "capitals do not make another maker");
    let maker = &taught.makers[0];
    let first: &ModelRow = &maker.models[0];
    assert_eq!((first.model.as_str(), first.tested - first.kept), ("Late", 1));
    let years: Vec<i16> = maker.years.iter().map(|year| year.year).collect();
    assert_eq!(years.last(), Some(&2027));
    assert_eq!(
        maker.years.iter().map(|year| (year.tested, year.kept)).fold((0, 0), |a, b| (a.0 + b.0, a.1 + b.1)),
        (maker.tested, maker.kept)
    );
    assert!(maker.short_share.is_some());
}

#[test]
fn the_same_under_other_names_is_one_group_however_the_names_are_linked() {
    let mut a = named("Hartsedge", "One");
    let mut b = named("Brackwater", "Uno");
    let c = named("Tolland & Pike", "First");
    a.amplifier.relations = vec![look_alike("brackwater UNO")];
    b.amplifier.relations = vec![look_alike("Tolland & Pike First"), look_alike("Nowhere At All")];
    let alone = named("Other", "Amplifier");
    let specimen = named("other", "amplifier");
    let entries = [entry("a", &a), entry("b", &b), entry("c", &c), entry("d", &alone), entry("e", &specimen)];
    let kin = learn(&entries).kin;
    assert_eq!(kin.len(), 2, "{kin:?}");
    assert!(kin[0].specimens && kin[0].members.len() == 2);
    assert_eq!(kin[1].members.iter().map(|member| member.id.as_str()).collect::<Vec<_>>(), ["b", "a", "c"]);
    assert_eq!(kin[1].says.as_deref().map(plain).unwrap(), "0.0 % between the strongest and the weakest at 1 Ω: no difference to be told");
}

#[test]
fn meters_that_read_the_same_thing_show_their_bias_and_loads_their_drift() {
    let with = |factor: f64, ohm: f64, on: &str| {
        let mut session = mono_1100();
        session.measured_on = Some(on.parse().unwrap());
        for run in &mut session.runs {
            if crate::kernel::wiring::same_load(run.load_nominal_ohm.get(), 2.0) {
                run.load_measured_ohm = Some(Ohms::new(ohm).unwrap());
            }
            for output in &mut run.outputs {
                output.meter = Some("watts".into());
                let watts = output.power_w.unwrap().get();
                output.also = vec![SecondReading {
                    power_w: Some(Watts::new(watts * factor).unwrap()),
                    meter: Some("scope".into()),
                    ..SecondReading::default()
                }];
            }
        }
        session
    };
    let taught = learn(&[entry("a", &with(1.02, 2.00, "2025-01-05")), entry("b", &with(1.04, 2.02, "2026-06-05"))]);
    let [meter] = taught.meters.as_slice() else { panic!("{:?}", taught.meters) };
    assert_eq!((meter.second.as_str(), meter.count), ("scope", 18));
    assert!((meter.bias_percent - 3.0).abs() < 1e-9 && (meter.scatter_percent.unwrap() - 1.028_99).abs() < 1e-4, "{meter:?}");
    assert_eq!(plain(&meter.says), "scope against watts, watts: +3.00 %");
    let two = taught.loads.iter().find(|load| plain(&load.load) == "2 Ω").unwrap();
    assert!((two.change_percent - 1.0).abs() < 1e-9, "{two:?}");
    assert_eq!((two.count, two.first_on.to_string().as_str(), two.last_on.to_string().as_str()), (2, "2025-01-05", "2026-06-05"));
}

#[test]
fn nothing_on_the_shelf_teaches_nothing() {
    let taught = learn(&[]);
    assert_eq!((taught.amplifiers, taught.makers.len(), taught.kin.len()), (0, 0, 0));
    assert!(taught.fates.iter().all(|table| table.rows.is_empty()));
}
