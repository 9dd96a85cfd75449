//! How long judging one amplifier takes, by the number of its runs: `cargo run --release --example judge_times`.

use std::time::Instant;

use pukka_core::assess::{check_run, check_session, judge};
use pukka_core::evidence::rungs::rungs;
use pukka_core::kernel::units::{Amps, Ohms};
use pukka_core::kernel::wiring::Wiring;
use pukka_core::plan::gates::shut;
use pukka_core::plan::ladder::ladder;
use pukka_core::record::session::examples::{claim, run};
use pukka_core::record::session::{Mode, Session};
use pukka_core::report::sheet::sheet;
use pukka_core::report::view::view;

const TIMES: usize = 300;

/// A session of a number of runs over four loads, all modes, with repeats.
fn session(runs: usize) -> Session {
    let mut session = pukka_core::record::session::examples::mono_1100();
    let loads = [(4.0, 450.0), (2.0, 780.0), (1.33, 980.0), (1.0, 1_100.0)];
    session.claims = loads.iter().enumerate().map(|(i, (load, watts))| claim(&format!("c{i}"), Wiring::Mono, *load, *watts)).collect();
    session.runs = (0..runs)
        .map(|i| {
            let (load, watts) = loads[i / 3 % loads.len()];
            let mode = Mode::ALL[i % 3];
            let made = watts * (1.0 + 0.03 * (i % 3) as f64 + 0.002 * (i / 12) as f64);
            let mut one = run(&format!("r{i:02}"), Wiring::Mono, load, mode, made, Some(14.4 - 0.1 / load));
            one.load_measured_ohm = Ohms::new(load * 0.98).ok();
            one.current_a = Amps::new(made / 14.4 / 0.72).ok();
            one
        })
        .collect();
    session
}

fn report(name: &str, mut work: impl FnMut()) {
    let mut times: Vec<f64> = (0..TIMES)
        .map(|_| {
            let start = Instant::now();
            work();
            start.elapsed().as_secs_f64() * 1e3
        })
        .collect();
    times.sort_by(f64::total_cmp);
    println!("{name:<18} {:>9.2} ms p50 {:>8.2} ms p99  (n = {TIMES})", times[TIMES / 2], times[TIMES * 99 / 100]);
}

fn main() {
    for runs in [9, 60, 240] {
        let session = session(runs);
        let rung = rungs(&session).remove(0);
        report(&format!("check {runs} runs"), || drop(std::hint::black_box(check_session(&session))));
        report(&format!("check a line, {runs}"), || drop(std::hint::black_box(check_run(&session, &session.runs[runs - 1]))));
        report(&format!("gates, {runs} runs"), || drop(std::hint::black_box(shut(&session, &rung, Mode::Certified))));
        report(&format!("ladder, {runs} runs"), || drop(std::hint::black_box(ladder(&session))));
        report(&format!("judge {runs} runs"), || drop(std::hint::black_box(judge(&session))));
        report(&format!("verdict, {runs} runs"), || drop(std::hint::black_box(view(&session))));
        report(&format!("sheet, {runs} runs"), || drop(std::hint::black_box(sheet(&session))));
    }
}
