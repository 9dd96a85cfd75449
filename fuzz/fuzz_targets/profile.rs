//! Any text as an instrument profile: refused with a reason, or read for a task.

#![no_main]

use libfuzzer_sys::fuzz_target;
use pukka_core::instruments::{Profile, Role};

fuzz_target!(|text: &str| {
    for role in Role::ALL {
        if let Err(problems) = Profile::read(text, role) {
            assert!(!problems.is_empty(), "refused without a reason");
        }
    }
});
