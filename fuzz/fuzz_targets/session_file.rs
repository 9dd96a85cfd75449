//! Any bytes as a session file: refused with a reason, or read, judged, put on a sheet, written, and read again as the same.

#![no_main]

use libfuzzer_sys::fuzz_target;
use pukka_core::record::session::SessionFile;

include!("../../crates/pukka-core/tests/support/survives.rs");

fuzz_target!(|bytes: &[u8]| {
    match SessionFile::read(bytes) {
        Err(problems) => assert!(!problems.is_empty(), "refused without a reason"),
        Ok(read) => survives(&read.session),
    }
});
