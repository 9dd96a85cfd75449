//! Any bytes as the zip of a shelf: refused with a reason, or every amplifier and photo of it read or refused.

#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| {
    let path = std::env::temp_dir().join(format!("pukka-fuzz-{}.zip", std::process::id()));
    if std::fs::write(&path, bytes).is_err() {
        return;
    }
    let Ok(mut bundle) = pukka::bundle::open(&path) else { return };
    for i in 0..bundle.len() {
        let Ok(one) = bundle.amplifier(i) else { continue };
        for photo in &one.photos {
            let _ = bundle.photo(photo);
        }
        for trace in &one.traces {
            let _ = bundle.trace(trace, &mut std::io::sink());
        }
    }
});
