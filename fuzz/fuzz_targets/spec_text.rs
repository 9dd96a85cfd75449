//! Any text as a pasted spec table: nothing panics, and every claim is one that a session may have.

#![no_main]

use libfuzzer_sys::fuzz_target;
use pukka_core::record::claims::paste::paste;

fuzz_target!(|text: &str| {
    for line in paste(text, None).claims {
        assert_eq!(line.claim.check(u8::MAX), [], "{:?}", line.text);
    }
});
