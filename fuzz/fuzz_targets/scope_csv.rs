//! Any text as the CSV of an oscilloscope: refused with a line, or read whole.

#![no_main]

use libfuzzer_sys::fuzz_target;

include!("recording.rs");

fuzz_target!(|text: &str| {
    tried(text.as_bytes(), "any.csv");
    tried(format!("time,volts\n{text}").as_bytes(), "named.csv");
});
