use pukka_core::kernel::units::*;
use pukka_core::record::session::{Mode, examples};
use std::time::Instant;
fn time<T>(what: &str, mut f: impl FnMut() -> T) {
    let mut best = f64::MAX;
    for _ in 0..7 {
        let t = Instant::now();
        std::hint::black_box(f());
        best = best.min(t.elapsed().as_secs_f64() * 1e3);
    }
    println!("{what}: {best:.2} ms");
}
fn main() {
    let base = examples::mono_1100();
    for n in [60usize, 240] {
        let mut s = base.clone();
        s.runs.clear();
        for i in 0..n {
            let mut r = base.runs[i % base.runs.len()].clone();
            r.id = format!("r{i}");
            r.at = r.at + jiff::SignedDuration::from_secs(i as i64 * 60);
            if let Some(a) = r.current_a {
                r.current_a = Amps::new(a.get() * (1.0 + 0.0001 * i as f64)).ok();
            }
            if let Some(w) = r.outputs[0].power_w {
                r.outputs[0].power_w = Watts::new(w.get() * (1.0 + 0.0001 * i as f64)).ok();
            }
            s.runs.push(r);
        }
        println!("n={n} rungs");
        time("check_session", || pukka_core::assess::checks::check_session(&s));
        time("judge", || pukka_core::assess::judge(&s));
        let run = s.runs[3].clone();
        time("check_run", || pukka_core::assess::checks::check_run(&s, &run));
        time("summary", || pukka_core::report::summary::summary(&s));
        time("sheet", || pukka_core::report::sheet::sheet(&s));
        time("clone", || s.clone());
        let checks = pukka_core::assess::checks::check_session(&s);
        time("prior", || pukka_core::predict::known::Prior::of(&s, &checks).proven_peak_a);
        time("to json", || serde_json::to_vec(&s).unwrap());
        let v = serde_json::to_vec(&s).unwrap();
        time("from json", || serde_json::from_slice::<pukka_core::record::session::Session>(&v).unwrap());
        let _ = Mode::ALL;
    }
}
