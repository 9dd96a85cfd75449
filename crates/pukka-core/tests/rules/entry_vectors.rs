//! The entry line, as people type it: what each line comes to, printed back with every figure lettered; and what is refused, where.

use pukka_core::evidence::entry::{About, EntryContext, SegmentKind, print, read};
use pukka_core::kernel::wiring::Wiring;
use pukka_core::record::bench::Meter;
use pukka_core::record::session::Mode;

use Mode::{Certified, Clipping, Dynamic};

/// Mode, outputs, what is typed, what it reads as.
const READ: [(Mode, u8, &str, &str); 64] = [
    (Certified, 1, "32vr=33=262w", "32vr=262w=33vr"),
    (Certified, 2, "32vr=33=262w+31vr=240w", "32vr=262w=33vr+31vr=240w"),
    (Certified, 1, "447", "447w"),
    (Certified, 1, "447 14.38", "447w 14.38v"),
    (Certified, 1, "447 14.38 41.2", "447w 14.38v 41.2a"),
    (Certified, 1, "  447   14.38\t41.2 ", "447w 14.38v 41.2a"),
    (Certified, 1, "447*14.38*41.2", "447w 14.38v 41.2a"),
    (Certified, 1, "447/14.38/41.2", "447w 14.38v 41.2a"),
    (Certified, 1, "447;14.38;41.2", "447w 14.38v 41.2a"),
    (Certified, 1, "447, 14.38, 41.2", "447w 14.38v 41.2a"),
    (Certified, 1, "447 14,38 41,2", "447w 14.38v 41.2a"),
    (Certified, 1, "41.2a 447w 14.38v", "447w 14.38v 41.2a"),
    (Certified, 1, "41.2A 447W 14.38V", "447w 14.38v 41.2a"),
    (Certified, 1, "41.2 a 447 w 14.38 v", "447w 14.38v 41.2a"),
    (Certified, 1, "14.38v 447 41.2", "447w 14.38v 41.2a"),
    (Certified, 1, "41.2a 447 14.38", "447w 14.38v 41.2a"),
    (Certified, 1, "0.98% 447", "447w 0.98%"),
    (Certified, 1, "447 14.38 41.2 0,98 %", "447w 14.38v 41.2a 0.98%"),
    (Certified, 1, "447 41c", "447w 41c"),
    (Certified, 1, "447 41°c", "447w 41c"),
    (Certified, 1, "447 0c", "447w 0c"),
    (Certified, 1, "38.2vp", "38.2vp"),
    (Certified, 1, "38.2 VP 13.96 124.6", "38.2vp 13.96v 124.6a"),
    (Certified, 1, "76vpp 13.96", "76vpp 13.96v"),
    (Certified, 1, "24.8vr 13.96", "24.8vr 13.96v"),
    (Clipping, 1, "24.8vr", "24.8vr"),
    (Certified, 1, "13.96 v 24.8vr", "24.8vr 13.96v"),
    (Certified, 2, "84+81", "84w+81w"),
    (Certified, 2, "84+81 14.31 47", "84w+81w 14.31v 47a"),
    (Certified, 2, "84w+81w", "84w+81w"),
    (Certified, 2, "84+81w", "84w+81w"),
    (Certified, 2, "84", "84w"),
    (Certified, 4, "84+81+83+82 14.1", "84w+81w+83w+82w 14.1v"),
    (Certified, 4, "84+81 14.1", "84w+81w 14.1v"),
    (Certified, 2, "38.2+38vp", "38.2vp+38vp"),
    (Certified, 2, "front:84+rear:81", "front:84w+rear:81w"),
    (Certified, 2, "1:84+2:81", "84w+81w"),
    (Certified, 2, "left:38.2+right:38vp 13.9", "left:38.2vp+right:38vp 13.9v"),
    (Certified, 1, "1\u{202f}068 13.96", "1068w 13.96v"),
    (Certified, 1, "1068.25", "1068.25w"),
    (Certified, 1, "0.998%  447", "447w 0.9980%"),
    (Certified, 1, "447 13.960", "447w 13.96v"),
    (Certified, 1, "1,0680", "1.0680w"),
    (Certified, 1, "447=441", "447w=441w"),
    (Certified, 1, "447w@a=441w@b", "447w@a=441w@b"),
    (Certified, 1, "447@a 14.38", "447w@a 14.38v"),
    (Certified, 2, "84=83+81=80", "84w=83w+81w=80w"),
    (Certified, 1, "447 14.38=14.3v 41.2", "447w 14.38v=14.3v 41.2a"),
    (Certified, 1, "447 14.38 41.2=40.9a", "447w 14.38v 41.2a=40.9a"),
    (Certified, 1, "447 14.6r 14.38", "447w 14.6r 14.38v"),
    (Certified, 1, "447 61.4%e", "447w 61.4%e"),
    (Certified, 1, "447 14.38 # fan on", "447w 14.38v # fan on"),
    (Certified, 1, "447 #fan on", "447w # fan on"),
    (Certified, 1, "447 #", "447w"),
    (Clipping, 1, "462 14.33 46 >> 30s 455 14.1 46.4", "462w 14.33v 46a >> 30s 455w 14.1v 46.4a"),
    (Clipping, 2, "90+89 >> 455w 30s", "90w+89w >> 30s 455w"),
    (Dynamic, 1, "489 14.52", "489w 14.52v"),
    (Dynamic, 1, "62>61.2vp", "62>61.2vp 20cy"),
    (Dynamic, 1, "62>61.2vp 8cy 14.52", "62>61.2vp 8cy 14.52v"),
    (Dynamic, 1, "1cy 62>62vp", "62>62vp 1cy"),
    (Certified, 1, "-5db 210 14.31 20.1 0.02%", "-5db 210w 14.31v 20.1a 0.02%"),
    (Certified, 1, "210w 0db", "0db 210w"),
    (Certified, 1, "−2.5dB 210", "-2.5db 210w"),
    (Certified, 2, "-5db 84+81 0.1%", "-5db 84w+81w 0.1%"),
];

/// Mode, outputs, what is typed, the piece that is refused, how, and words of why.
const REFUSED: [(Mode, u8, &str, &str, SegmentKind, &str); 29] = [
    (Certified, 1, "447w 14.38v 13v", "13v", SegmentKind::Wrong, "two readings of supply volts"),
    (Certified, 1, "447 14 41 3", "3", SegmentKind::Wrong, "give this figure a letter"),
    (Certified, 1, "-447", "-447", SegmentKind::Wrong, "negative"),
    (Certified, 1, "447 -14.38", "-14.38", SegmentKind::Wrong, "negative"),
    (Certified, 1, "0", "0", SegmentKind::Wrong, "not a reading of watts"),
    (Certified, 1, "447 61v", "61v", SegmentKind::Wrong, "60 at most"),
    (Certified, 1, "447 301c", "301c", SegmentKind::Wrong, "300 at most"),
    (Certified, 1, "447 loud", "loud", SegmentKind::Wrong, "Put a note after a #"),
    (Certified, 1, "447q", "447q", SegmentKind::Wrong, "is not a unit here"),
    (Certified, 1, "4.4.7", "4.4.7", SegmentKind::Wrong, "two decimal signs"),
    (Certified, 1, "84+81", "84+81", SegmentKind::Wrong, "one output"),
    (Certified, 2, "84+81+80", "84+81+80", SegmentKind::Wrong, "two outputs"),
    (Certified, 2, "84w+38vp", "84w+38vp", SegmentKind::Wrong, "the same unit"),
    (Certified, 2, "13+38vp=27vr", "13+38vp=27vr", SegmentKind::Wrong, "the same unit"),
    (Certified, 1, "262w=32vr=33vr", "262w=32vr=33vr", SegmentKind::Wrong, "type the volts first"),
    (Certified, 2, "32vr=262w+30vr", "32vr=262w+30vr", SegmentKind::Wrong, "the same unit"),
    (Certified, 2, "84w 38vp", "38vp", SegmentKind::Wrong, "join them with +"),
    (Certified, 2, "a:84+a:81", "a:84+a:81", SegmentKind::Wrong, "two outputs “a”"),
    (Clipping, 1, "38vp", "38vp", SegmentKind::Wrong, "flattened top"),
    (Clipping, 1, "76vpp", "76vpp", SegmentKind::Wrong, "flattened top"),
    (Certified, 1, "62>61vp", "62>61vp", SegmentKind::Wrong, "belong to a burst"),
    (Certified, 1, "447 8cy", "8cy", SegmentKind::Wrong, "belong to a burst"),
    (Dynamic, 1, "62>61vp 1.5cy", "1.5cy", SegmentKind::Wrong, "whole numbers"),
    (Certified, 1, "447 0.8%=0.9%", "0.8%=0.9%", SegmentKind::Wrong, "second meter"),
    (Certified, 1, "447@c 14", "447@c", SegmentKind::Wrong, "no meter “c”"),
    (Certified, 1, "1,068 13.96", "1,068", SegmentKind::Unclear, "can be either"),
    (Certified, 1, "1.068", "1.068", SegmentKind::Unclear, "can be either"),
    (Certified, 1, "447 13.", "13.", SegmentKind::Pending, "half a figure"),
    (Certified, 2, "84+", "84+", SegmentKind::Pending, "missing"),
];

fn meters() -> Vec<Meter> {
    let meter = |id: &str| serde_json::json!({ "id": id, "quantity": "power", "reading_ratio": 0.01, "absolute": 0.0 });
    serde_json::from_value(serde_json::json!([meter("a"), meter("b")])).unwrap_or_default()
}

#[test]
fn what_is_typed_reads_as_what_was_meant() {
    let meters = meters();
    for (mode, outputs, line, printed) in READ {
        let asked = EntryContext { wiring: Wiring::Channels { driven: outputs }, mode, meters: &meters };
        let entry = read(line, asked);
        assert_eq!(entry.not_yet, None, "{line}");
        let back = print(&entry.readings);
        let plain = |text: &str| text.replace("0.9980%", "0.998%").replace("1.0680w", "1.068w");
        assert_eq!(plain(&back), plain(printed), "{line}");
        assert_eq!(print(&read(&back, asked).readings), back, "{line}");
        let whole: String = entry.segments.iter().map(|segment| segment.text.as_str()).collect();
        assert_eq!(whole, line, "the pieces are the line");
    }
}

#[test]
fn what_is_refused_is_refused_in_place() {
    let meters = meters();
    for (mode, outputs, line, piece, kind, why) in REFUSED {
        let entry = read(line, EntryContext { wiring: Wiring::Channels { driven: outputs }, mode, meters: &meters });
        let found = entry.segments.iter().find(|segment| segment.text == piece);
        assert!(found.is_some_and(|segment| segment.kind == kind && segment.says.contains(why)), "{line}: {:?}", entry.segments);
        assert!(entry.not_yet.is_some(), "{line}");
    }
}

#[test]
fn what_a_line_is_about() {
    let about = |line: &str| read(line, EntryContext { wiring: Wiring::Mono, mode: Certified, meters: &[] }).about;
    assert_eq!(
        [about("447 14.38"), about("-5db 210"), about("idle 14.6 1.4"), about("rest 14.55"), about("14.55r"), about("76%e")],
        [About::Run, About::Step, About::Idle, About::Rest, About::Rest, About::Efficiency]
    );
}
