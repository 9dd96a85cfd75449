// Included by the targets of recordings: a file is opened, read, and measured, and none of it panics.

fn tried(bytes: &[u8], name: &str) {
    let path = std::env::temp_dir().join(format!("pukka-fuzz-{}-{name}", std::process::id()));
    if std::fs::write(&path, bytes).is_err() {
        return;
    }
    if let Ok(mut source) = pukka_capture::open(&path) {
        let settings = pukka_core::traces::TraceSettings::default();
        let _ = pukka_core::traces::read(source.as_mut(), &settings, &mut |_| std::ops::ControlFlow::Continue(()));
    }
}
