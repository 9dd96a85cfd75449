//! Any text as an entry line: understood or refused in place, its pieces are the line, and what was understood reads back as the same.

#![no_main]

use libfuzzer_sys::fuzz_target;
use pukka_core::evidence::entry::{EntryContext, print, read};
use pukka_core::kernel::wiring::Wiring;
use pukka_core::record::session::Mode;

fuzz_target!(|input: (u8, &str)| {
    let (how, line) = input;
    let mode = Mode::ALL[usize::from(how) % Mode::ALL.len()];
    let wiring = if how & 0x40 == 0 { Wiring::Mono } else { Wiring::Channels { driven: how % 8 + 1 } };
    let asked = EntryContext { wiring, mode, meters: &[] };
    let entry = read(line, asked);
    let whole: String = entry.segments.iter().map(|segment| segment.text.as_str()).collect();
    assert_eq!(whole, line, "the pieces are the line");
    if entry.not_yet.is_none() {
        let printed = print(&entry.readings);
        let again = read(&printed, asked);
        assert_eq!(print(&again.readings), printed, "{line:?} is printed as {printed:?}");
    }
});
