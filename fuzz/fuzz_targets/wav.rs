//! Any bytes as an audio file: refused with a place, or read whole.

#![no_main]

use libfuzzer_sys::fuzz_target;

include!("recording.rs");

fuzz_target!(|bytes: &[u8]| {
    let mut file = b"RIFF".to_vec();
    file.extend(bytes);
    tried(&file, "any.wav");
    tried(bytes, "any");
});
