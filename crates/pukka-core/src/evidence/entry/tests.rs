use proptest::prelude::*;

use super::*;
use crate::kernel::units::{VoltsPeak, VoltsPeakToPeak, VoltsRms, Watts};
use crate::kernel::wiring::Wiring;
use crate::record::session::{OutputReading, SecondReading};

const MONO: EntryContext = EntryContext { wiring: Wiring::Mono, mode: Mode::Certified, meters: &[] };
const TWO: EntryContext = EntryContext { wiring: Wiring::Channels { driven: 2 }, mode: Mode::Certified, meters: &[] };
const BURST: EntryContext = EntryContext { wiring: Wiring::Mono, mode: Mode::Dynamic, meters: &[] };

fn watts(entry: &Entry) -> Vec<f64> {
    entry.readings.outputs.iter().filter_map(|output| output.power_w).map(Watts::get).collect()
}

fn volts_and_amps(entry: &Entry) -> (Option<f64>, Option<f64>) {
    (entry.readings.end_v.map(Volts::get), entry.readings.current_a.map(Amps::get))
}

fn trouble(entry: &Entry) -> Vec<(SegmentKind, String, String)> {
    let bad = |s: &&Segment| !matches!(s.kind, SegmentKind::Gap | SegmentKind::Reading | SegmentKind::Note);
    entry.segments.iter().filter(bad).map(|s| (s.kind, s.text.clone(), s.says.clone())).collect()
}

#[test]
fn in_the_order_the_eye_reads_meters() {
    for line in [
        "1068 13.96 124.6",
        "1068w 13.96v 124.6a",
        "124.6a 1068W 13.96 V",
        "13,96v 1068 124,6",
        "1068*13.96*124.6",
        "1068, 13.96; 124.6",
        "1\u{202f}068 13.96 124.6",
    ] {
        let entry = read(line, MONO);
        assert_eq!(entry.not_yet, None, "{line}");
        assert_eq!(watts(&entry), [1068.0], "{line}");
        assert_eq!(volts_and_amps(&entry), (Some(13.96), Some(124.6)), "{line}");
    }
}

#[test]
fn several_outputs_with_a_plus() {
    for line in ["84+81 14.31 47", "84w+81w 14.31 47", "84+81w 14.31 47"] {
        assert_eq!(watts(&read(line, TWO)), [84.0, 81.0], "{line}");
    }
    let entry = read("38.2+38.0vp", TWO);
    let peaks: Vec<_> = entry.readings.outputs.iter().filter_map(|o| o.volts_peak).map(VoltsPeak::get).collect();
    assert_eq!(peaks, [38.2, 38.0]);
    assert_eq!(entry.readings.outputs[1].name.as_deref(), Some("2"));
}

#[test]
fn every_letter() {
    let entry = read("24.8vr 0.8% 41c # fan on", MONO);
    assert_eq!(entry.readings.outputs[0].volts_rms.map(VoltsRms::get), Some(24.8));
    assert_eq!(entry.readings.thd_ratio.map(Ratio::get), Some(0.008));
    assert_eq!(entry.readings.temperature_c.map(Celsius::get), Some(41.0));
    assert_eq!(entry.readings.note.as_deref(), Some("fan on"));
    assert_eq!(entry.not_yet, None);
    let entry = read("76vpp 13.9 40", MONO);
    assert_eq!(entry.readings.outputs[0].volts_pp.map(VoltsPeakToPeak::get), Some(76.0));
    assert_eq!(volts_and_amps(&entry), (Some(13.9), Some(40.0)), "a lettered output leaves volts and amps to the bare figures");
}

#[test]
fn two_readings_in_one_are_asked_about() {
    let entry = read("1,068 13.96", MONO);
    let asked = &entry.segments[0];
    assert_eq!(asked.kind, SegmentKind::Unclear);
    assert_eq!(asked.says, "1\u{202f}068 W or 1.068 W? A comma before three digits can be either.");
    let lines: Vec<_> = asked.choices.iter().map(|choice| choice.line.as_str()).collect();
    assert_eq!(lines, ["1068 13.96", "1,0680 13.96"]);
    assert!(watts(&entry).is_empty(), "it does not guess");
    assert!(entry.not_yet.is_some());
    assert_eq!(watts(&read(lines[0], MONO)), [1068.0]);
    assert_eq!(watts(&read(lines[1], MONO)), [1.068]);
    assert_eq!(read("84+1.081 14", TWO).segments[0].choices[0].line, "84+1081 14");
    // A second reading that cannot be is none: no supply gives 13 960 V, and below 1 there are no thousands.
    assert_eq!(volts_and_amps(&read("1068 13.960 124.600", MONO)), (Some(13.96), Some(124.6)));
    assert_eq!(read("1068w 0.998%", MONO).not_yet, None);
    assert_eq!(watts(&read("1068.25", MONO)), [1068.25]);
    assert_eq!(read("1068 14 1.246", MONO).segments[4].kind, SegmentKind::Unclear, "1 246 A can be");
}

#[test]
fn half_typed_is_neither_wrong_nor_ready() {
    for (line, text) in [("1068 13.", "13."), ("84+", "84+"), ("1068 13.96 .", "."), ("1068 13,", "13,")] {
        let entry = read(line, TWO);
        assert_eq!(trouble(&entry)[0].0, SegmentKind::Pending, "{line}");
        assert_eq!(trouble(&entry)[0].1, text);
        assert!(entry.not_yet.is_some(), "{line}");
    }
    assert_eq!(volts_and_amps(&read("1068 13.", MONO)).0, Some(13.0), "and is shown as far as it goes");
    assert_eq!(trouble(&read("13. 1068", TWO))[0].0, SegmentKind::Wrong, "in the middle of a line it is wrong");
    assert!(read("", MONO).not_yet.unwrap().starts_with("Type the output reading"));
    assert!(read("# only a note", MONO).not_yet.is_some());
}

#[test]
fn what_is_not_a_reading_says_why() {
    let says = |line: &str, asked| trouble(&read(line, asked)).into_iter().next().map(|t| (t.0, t.2)).unwrap();
    let wrong = |line: &str, why: &str| assert_eq!(says(line, TWO), (SegmentKind::Wrong, why.to_owned()), "{line}");
    wrong("0 13", "0 W is not a reading of watts.");
    wrong("-5", "A reading cannot be negative.");
    wrong("1000000000000", "1\u{202f}000\u{202f}000\u{202f}000\u{202f}000 W is too much for watts: 100\u{202f}000 at most.");
    wrong("nan", "“nan” is not a figure. Put a note after a #.");
    wrong("inf 13", "“inf” is not a figure. Put a note after a #.");
    wrong("1e12", "“e12” is not a unit here: w, v, a, r, vr, vp, vpp, %, %e, c, db, cy, s or t.");
    wrong("1068x", "“x” is not a unit here: w, v, a, r, vr, vp, vpp, %, %e, c, db, cy, s or t.");
    wrong("1.2.3", "There are two decimal signs in this figure.");
    wrong("1 2 3 4", "Watts, volts and amps are already entered: give this figure a letter.");
    wrong("1068w 13v 14v", "There are two readings of supply volts.");
    wrong("1068w 13v+14v", "Only outputs are joined with +; there is one supply.");
    wrong("84w+38vp", "Outputs joined with + are read in the same unit.");
    wrong("1+2+3", "3 readings for two outputs.");
    wrong("84w 38vp", "The outputs are already entered: join them with +.");
    wrong("1068 70v", "70 V is too much for supply volts: 60 at most.");
    wrong(&"9".repeat(400), "This is not a number.");
    let clipping = EntryContext { wiring: Wiring::Mono, mode: Mode::Clipping, meters: &[] };
    assert!(says("38vp", clipping).1.starts_with("A flattened top has more power"));
    assert!(says("1+2", MONO).1.ends_with("one output."));
    let long = "1 ".repeat(2_000);
    assert_eq!(read(&long, MONO).not_yet.unwrap(), "4000 characters are too many for one line: 500 at most.");
}

#[test]
fn a_second_meter_on_the_same_thing() {
    let session = crate::record::session::examples::mono_1100();
    let asked = EntryContext { meters: &session.bench.meters, ..MONO };
    let entry = read("1068w@m1=1059 13.96=13.9v 124.6", asked);
    assert_eq!(entry.not_yet, None);
    let output = &entry.readings.outputs[0];
    assert_eq!((output.meter.as_deref(), output.also[0].power_w.map(Watts::get)), (Some("m1"), Some(1059.0)));
    assert_eq!(entry.readings.supply_also[0].end_v.map(Volts::get), Some(13.9));
    assert_eq!(entry.segments[0].says, "1\u{202f}068 on m1, other meter 1\u{202f}059\u{202f}W");
    let entry = read("1068w@m9 13.96 ", asked);
    assert_eq!(trouble(&entry)[0].2, "There is no meter “m9” on this bench.");
    assert_eq!(trouble(&read("1068w 0.8%=0.9%", asked))[0].2, "Only outputs, supply volts and amps have a second meter.");
    assert_eq!(trouble(&read("1068w=38a", asked))[0].2, "Meters joined with = read the same quantity in the same unit.");
}

#[test]
fn a_name_stands_before_what_climbed_and_what_moved() {
    for line in ["front:118..121w", "front:~84w", "front:~118..121w", "front..1:118..121w", "front:84w+rear:81w"] {
        let asked = if line.contains('+') { TWO } else { MONO };
        let entry = read(line, asked);
        assert_eq!((entry.not_yet, print(&entry.readings)), (None, line.to_owned()));
    }
    assert_eq!(read("front:118..121", MONO).readings.outputs[0].name.as_deref(), Some("front"));
}

#[test]
fn outputs_with_names_and_what_was_held() {
    let entry = read("front:84+rear:81 14.31 47 >> 30s 82+79 14.1 45.5 # fan off", TWO);
    assert_eq!(entry.not_yet, None);
    assert_eq!(entry.readings.outputs[1].name.as_deref(), Some("rear"));
    let hold = entry.readings.hold.as_ref().unwrap();
    assert_eq!((hold.seconds, hold.outputs.len(), hold.end_v.map(Volts::get)), (30.0, 2, Some(14.1)));
    assert_eq!(read("84+81 >> 82+79", TWO).not_yet.unwrap(), "For how long was it held? Give seconds after the >>: 30s.");
    assert_eq!(read("84 30s", TWO).not_yet.unwrap(), "Seconds belong after a >>: readings after the hold.");
    assert_eq!(trouble(&read("front:84+front:81", TWO))[0].2, "There are two outputs “front”.");
    assert_eq!(trouble(&read("a:14.4v 84w", TWO))[0].2, "Only outputs have names.");
}

#[test]
fn counted_cycles_rest_volts_and_an_efficiency_as_read() {
    let entry = read("42.0>41.2vp 8cy 14.62r 13.96", BURST);
    assert_eq!(entry.not_yet, None);
    let cycles = entry.readings.cycles.as_ref().unwrap();
    assert_eq!((cycles.count, cycles.last.as_ref().and_then(|last| last.volts_peak).map(VoltsPeak::get)), (8, Some(41.2)));
    assert_eq!((entry.readings.rest_v.map(Volts::get), entry.readings.end_v.map(Volts::get)), (Some(14.62), Some(13.96)));
    assert_eq!(read("42>41vp", BURST).readings.cycles.unwrap().count, 20);
    assert_eq!(trouble(&read("42>41vp", MONO))[0].2, "First and last cycle belong to a burst, a dynamic run.");
    assert!(read("400w 8cy", BURST).not_yet.unwrap().starts_with("For counted cycles"));
    assert_eq!(read("400w 61.4%e", MONO).readings.efficiency_ratio.map(Ratio::get), Some(0.614));
}

#[test]
fn a_row_of_level_steps() {
    let entry = read("-5db 210 14.31 20.1 0.02%", MONO);
    assert_eq!((entry.about, entry.not_yet.as_deref()), (About::Step, None));
    let step = entry.readings.step().unwrap();
    assert_eq!((step.level_db.get(), step.current_a.map(Amps::get), step.thd_ratio.map(Ratio::get)), (-5.0, Some(20.1), Some(0.0002)));
    assert_eq!(read("−2.125dB 210", MONO).readings.level_db.map(Level::get), Some(-2.125));
    assert_eq!(read("0db 210", MONO).about, About::Step);
}

#[test]
fn idle_and_rest_are_no_runs() {
    let idle = read("idle 14.6 1.4", MONO);
    assert_eq!((idle.about, idle.not_yet.as_deref()), (About::Idle, None));
    assert_eq!(volts_and_amps(&idle), (Some(14.6), Some(1.4)));
    assert_eq!(read("Idle 1.4a", MONO).not_yet, None);
    assert!(read("idle", MONO).not_yet.unwrap().contains("idle 14.6 1.4"));
    let rest = read("rest 14.55", MONO);
    assert_eq!((rest.about, rest.readings.end_v.map(Volts::get)), (About::Rest, Some(14.55)));
    let rest = read("14,55r # fan on", MONO);
    assert_eq!((rest.about, rest.readings.end_v.map(Volts::get), rest.not_yet), (About::Rest, Some(14.55), None));
    assert_eq!(read("14.55r 300w", MONO).about, About::Run);
    assert!(read("rest 14.5 300w", MONO).not_yet.unwrap().starts_with("There is no tone"));
}

fn figure(most: f64) -> impl Strategy<Value = f64> {
    (1u32..10_000, 0i32..4).prop_map(move |(units, decimals)| (f64::from(units) / 10f64.powi(decimals)).min(most))
}

fn output_of(which: u8, value: f64) -> OutputReading {
    let mut output = OutputReading::default();
    match which {
        0 => output.power_w = Some(Watts::new(value).unwrap()),
        1 => output.volts_rms = Some(VoltsRms::new(value.min(2_000.0)).unwrap()),
        2 => output.volts_peak = Some(VoltsPeak::new(value.min(3_000.0)).unwrap()),
        _ => output.volts_pp = Some(VoltsPeakToPeak::new(value.min(6_000.0)).unwrap()),
    }
    output
}

fn meter_id() -> impl Strategy<Value = Option<String>> {
    prop::option::of(prop::sample::select(vec!["m1".to_owned(), "scope".to_owned()]))
}

fn outputs(which: u8) -> impl Strategy<Value = Vec<OutputReading>> {
    let one = (figure(9_000.0), meter_id(), prop::option::of((figure(9_000.0), meter_id())), prop::option::of("[a-z]{3,8}"));
    prop::collection::vec(one, 1..4).prop_map(move |list| {
        let outputs = list.into_iter().enumerate().map(|(i, (value, meter, also, name))| {
            let mut output = output_of(which, value);
            output.name = Some(name.map_or_else(|| (i + 1).to_string(), |name| format!("{name}{i}")));
            output.meter = meter;
            output.also.extend(also.map(|(value, meter)| {
                let OutputReading { power_w, volts_rms, volts_peak, volts_pp, .. } = output_of(which, value);
                SecondReading { power_w, volts_rms, volts_peak, volts_pp, meter }
            }));
            output
        });
        outputs.collect()
    })
}

prop_compose! {
    fn readings(mode: Mode)(
        (run, held) in (0u8..4, 0u8..4).prop_flat_map(|(a, b)| (outputs(a), prop::option::of((outputs(b), 1u32..600)))),
        cycles in prop::option::of((0u8..4, figure(90.0), figure(90.0), 1u32..40)),
        (end_v, rest_v, amps) in (prop::option::of(figure(60.0)), prop::option::of(figure(60.0)), prop::option::of(figure(4_000.0))),
        second_v in prop::option::of((figure(60.0), meter_id())), second_a in prop::option::of((figure(4_000.0), meter_id())),
        thd in prop::option::of(figure(50.0)), efficiency in prop::option::of(figure(99.0)), level in prop::option::of(-400i32..0),
        heatsink in prop::option::of(figure(99.0)), note in prop::option::of("[a-z][a-z 0-9,.+]{0,20}[a-z]"),
    ) -> Readings {
        let cycles = cycles.filter(|_| mode == Mode::Dynamic)
            .map(|(which, first, last, count)| Cycles { count, first: output_of(which, first), last: Some(output_of(which, last)) });
        let level_db = level.filter(|_| cycles.is_none()).map(|tenths| Level::new(f64::from(tenths) / 10.0).unwrap());
        let hold = held.filter(|_| level_db.is_none())
            .map(|(outputs, seconds)| Hold { seconds: f64::from(seconds), outputs, end_v: end_v.map(|v| Volts::new(v).unwrap()), current_a: None });
        let mut supply_also = Vec::new();
        supply_also.extend(second_v.filter(|_| end_v.is_some()).map(|(v, meter)| SupplyReading { end_v: Some(Volts::new(v).unwrap()), current_a: None, meter }));
        supply_also.extend(second_a.filter(|_| amps.is_some()).map(|(a, meter)| SupplyReading { end_v: None, current_a: Some(Amps::new(a).unwrap()), meter }));
        Readings {
            outputs: if cycles.is_some() { Vec::new() } else { run },
            end_v: end_v.map(|v| Volts::new(v).unwrap()),
            rest_v: rest_v.map(|v| Volts::new(v).unwrap()),
            current_a: amps.map(|a| Amps::new(a).unwrap()),
            thd_ratio: thd.map(|t| Ratio::new(t / 100.0).unwrap()),
            efficiency_ratio: efficiency.map(|t| Ratio::new(t / 100.0).unwrap()),
            temperature_c: heatsink.map(|c| Celsius::new(c).unwrap()),
            cycle_count: cycles.as_ref().map(|cycles| cycles.count),
            level_db, cycles, hold, supply_also, note,
            seconds: None,
            ..Readings::default()
        }
    }
}

proptest! {
    #[test]
    fn what_is_printed_back_reads_the_same(
        (mode, readings) in prop::sample::select(vec![Mode::Certified, Mode::Dynamic]).prop_flat_map(|mode| (Just(mode), readings(mode)))
    ) {
        let meters = ["m1", "scope"].map(|id| serde_json::from_value(serde_json::json!({ "id": id, "quantity": "power", "reading_ratio": 0.01, "absolute": 0.0 })).unwrap());
        let line = print(&readings);
        prop_assume!(line.chars().count() <= MOST_CHARS);
        let entry = read(&line, EntryContext { wiring: Wiring::Channels { driven: 4 }, mode, meters: &meters });
        prop_assert_eq!(&entry.not_yet, &None, "{}", line);
        prop_assert_eq!(entry.readings, readings, "{}", line);
    }

    #[test]
    fn a_line_that_is_accepted_is_short_enough_when_it_is_printed(meters in 0usize..180) {
        let line = format!("1{}", "=.2".repeat(meters));
        let entry = read(&line, TWO);
        let printed = print(&entry.readings);
        prop_assert_eq!(entry.not_yet.is_none(), line.len() <= MOST_CHARS && printed.len() <= MOST_CHARS, "{}", line);
    }

    #[test]
    fn the_pieces_are_the_line_whatever_is_typed(line in "\\PC{0,60}") {
        let entry = read(&line, TWO);
        let whole: String = entry.segments.iter().map(|segment| segment.text.as_str()).collect();
        prop_assert_eq!(whole, line);
    }

    #[test]
    fn letters_in_any_order_read_the_same(order in Just(vec!["1068w", "13.96v", "124.6a", "0.8%", "41c"]).prop_shuffle()) {
        let entry = read(&order.join(" "), MONO);
        prop_assert_eq!(entry.not_yet, None);
        prop_assert_eq!(entry.readings, read("1068 13.96 124.6 0.8% 41c", MONO).readings);
    }
}

#[test]
fn as_reviewers_really_type() {
    let asked = |outputs, mode| EntryContext { wiring: Wiring::Channels { driven: outputs }, mode, meters: &[] };
    let four = asked(4, Mode::Certified);
    let named = read("rear:57x2+front:60x2 13.9", four).readings.outputs;
    assert_eq!(named.iter().filter_map(|output| output.name.clone()).collect::<Vec<_>>(), ["rear1", "rear2", "front1", "front2"]);
    let each = read("57x4 13.9 24.1", four);
    assert_eq!((each.not_yet, each.readings.outputs.len()), (None, 4), "each of four, metered");
    assert!(each.readings.outputs.iter().all(|output| output.power_w.map(Watts::get) == Some(57.0)));
    assert_eq!(read("57wx4 13.9", four).readings.outputs.len(), 4);
    assert!(read("57x5", four).not_yet.unwrap().contains("5 readings for four outputs"));
    // 57*4 may be four outputs, or a supply of 4 V.
    let star = read("57*4*24", four);
    let asks = star.segments.iter().find(|segment| segment.kind == SegmentKind::Unclear).unwrap();
    assert_eq!(asks.choices.iter().map(|choice| choice.line.as_str()).collect::<Vec<_>>(), ["57x4*24", "57 4v*24"]);
    assert_eq!(read("57*13.9*24", four).not_yet, None, "a ten-key pad has no space bar");
    let one = asked(1, Mode::Certified);
    let both = read("262w=32.5vr 14.1", one).readings;
    assert_eq!((both.outputs[0].power_w.map(Watts::get), both.outputs[0].volts_rms.map(VoltsRms::get)), (Some(262.0), Some(32.5)));
    assert!(both.outputs[0].also.is_empty(), "they are two quantities of one output, not two meters");
    let total = read("820t 13.9 70", four).readings;
    assert_eq!((total.total_power_w.map(Watts::get), total.outputs.len(), total.end_v.map(Volts::get)), (Some(820.0), 0, Some(13.9)));
    let climbing = read("118..121 13.9", one).readings;
    assert_eq!((climbing.outputs[0].power_w.map(Watts::get), climbing.climbed_from_w.map(Watts::get)), (Some(121.0), Some(118.0)));
    let moving = read("~1068 13.96 ~124", one).readings;
    assert_eq!(moving.approximate, [ReadingName::Power, ReadingName::Current]);
    let sagging = read("447 14.8>14.7 41.2", one).readings;
    assert_eq!((sagging.rest_v.map(Volts::get), sagging.end_v.map(Volts::get)), (Some(14.8), Some(14.7)), "rest to end");
    assert_eq!(read("447 14.4 41 chg", one).readings.charger_on, Some(true));
    let cycle = read("57.6vp 1cy", asked(1, Mode::Dynamic)).readings.cycles.unwrap();
    assert_eq!((cycle.count, cycle.first.volts_peak.map(VoltsPeak::get), cycle.last), (1, Some(57.6), None));
}

#[test]
fn and_what_they_typed_prints_back_to_the_same_readings() {
    let lines = [
        (4, Mode::Certified, "57x4 13.9 24.1"),
        (1, Mode::Certified, "262w=32.5vr 14.1"),
        (4, Mode::Certified, "820t 13.9 70"),
        (1, Mode::Certified, "118..121 13.9 0.99%"),
        (1, Mode::Certified, "~1068 13.96 ~124"),
        (1, Mode::Certified, "447 14.8>14.7 41.2 chg"),
        (1, Mode::Dynamic, "57.6vp 1cy"),
        (2, Mode::Certified, "~84+81 14.31"),
    ];
    for (outputs, mode, line) in lines {
        let asked = EntryContext { wiring: Wiring::Channels { driven: outputs }, mode, meters: &[] };
        let first = read(line, asked);
        assert_eq!(first.not_yet, None, "{line}");
        let printed = print(&first.readings);
        assert_eq!(read(&printed, asked).readings, first.readings, "{line} printed as {printed}");
    }
}
