//! Any answer of an instrument, by any shipped profile: a finite number, a range, or a refusal.

#![no_main]

use libfuzzer_sys::fuzz_target;
use pukka_core::instruments::{Profile, Role, SHIPPED, read};

fuzz_target!(|input: (u8, &str)| {
    let (which, answer) = input;
    let shipped = SHIPPED[usize::from(which) % SHIPPED.len()];
    let Ok(profile) = Profile::parse(shipped.text) else { panic!("{} does not read", shipped.file) };
    for quantity in Role::ALL.iter().flat_map(|role| role.reads()) {
        if let Some(how) = profile.reading(*quantity)
            && let Ok(value) = read(*quantity, how, answer)
        {
            assert!(value.value.is_finite(), "{answer:?}");
        }
    }
});
