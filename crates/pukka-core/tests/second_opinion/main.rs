//! A second judge: the rules of the open session file, read and written down again apart from the core, and held against it on
//! sessions made by chance. Where the two differ, one of them has misread the rules.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

mod checks;
mod figures;
mod read;
mod sessions;
mod verdict;

use std::collections::BTreeMap;

use pukka_core::assess::judge;
use pukka_core::record::session::SessionFile;
use serde_json::{Value, json};

const SESSIONS: u64 = 600;

fn same(what: &str, core: &Value, second: Option<f64>) {
    match (core.as_f64(), second) {
        (None, None) => {}
        (Some(a), Some(b)) => assert!((a - b).abs() <= 1e-9 * a.abs().max(b.abs()).max(1.0), "{what}: {a} by the core, {b} by the second"),
        (a, b) => panic!("{what}: {a:?} by the core, {b:?} by the second"),
    }
}

fn same_runs(at: &str, core: &Value, file: &read::File) {
    for (core, run) in core.as_array().unwrap().iter().zip(&file.runs) {
        let at = format!("{at}, {}", run.id);
        assert_eq!(core["id"], json!(run.id), "{at}: in the order of the file");
        let found = figures::figures(file, run);
        let f = found.clone().unwrap_or_default();
        let made = |value: f64| found.as_ref().map(|_| value);
        same(&format!("{at} total"), &core["total_w"], made(f.total_w));
        same(&format!("{at} U"), &core["expanded_uncertainty_w"], made(f.u_w));
        same(&format!("{at} best"), &core["best_w"], f.best_w);
        assert_eq!(core["bound"], if f.lower { json!("lower") } else { Value::Null }, "{at}");
        if found.is_some() {
            let drawn = f.input_w;
            same(&format!("{at} draw"), &core["input_w"], drawn);
            same(&format!("{at} efficiency"), &core["efficiency_ratio"], f.efficiency);
            same(&format!("{at} heat"), &core["heat_w"], f.efficiency.and(drawn).map(|drawn| drawn - f.total_w));
            same(&format!("{at} sag"), &core["sag_v"], f.sag_v);
            same(&format!("{at} balance"), &core["balance_db"], f.balance_db());
        }
        for (i, w) in f.outputs_w.iter().enumerate() {
            same(&format!("{at} output {i}"), &core["per_output_w"][i], Some(*w));
        }
    }
}

fn same_claim(at: &str, core: &Value, second: &verdict::Became) {
    let at = format!("{at}, {}", second.id);
    assert_eq!((&core["outcome"], &core["basis"]), (&json!(second.outcome), &json!(second.basis)), "{at}");
    let sorted = |mut ids: Vec<String>| {
        ids.sort();
        ids
    };
    let runs: Vec<String> = serde_json::from_value(core["runs"].clone()).unwrap();
    assert_eq!(sorted(runs), sorted(second.runs.clone()), "{at}");
    same(&format!("{at} as read"), &core["as_read_ratio"], second.as_read);
    same(&format!("{at} dB"), &core["shortfall_db"], second.as_read.map(|ratio| 10.0 * ratio.log10()));
    for i in 0..2 {
        same(&format!("{at} band"), &core["at_reference_w"][i], second.band.map(|band| band[i]));
    }
    for (name, flag) in [("interpolated", second.interpolated), ("equivalent", second.equivalent), ("fits_as_total", second.fits_as_total)]
    {
        assert_eq!(core[name], json!(flag), "{at} {name}");
    }
}

/// These two rest on a prediction, which the judge's rules leave to the plan.
const PREDICTED: [&str; 2] = ["digit-slip", "sag-too-small"];

fn same_checks(at: &str, core: &Value, second: &[checks::Fired]) {
    let mut fired: Vec<_> = second.iter().map(|check| (check.code, check.severity, check.runs.clone(), check.settled)).collect();
    fired.sort();
    let mut core: Vec<_> = core
        .as_array()
        .unwrap()
        .iter()
        .filter(|check| !PREDICTED.contains(&check["code"].as_str().unwrap()))
        .map(|check| {
            let mut runs: Vec<String> = serde_json::from_value(check["runs"].clone()).unwrap();
            runs.sort();
            (check["code"].as_str().unwrap(), check["severity"].as_str().unwrap(), runs, check["settled"].as_bool().unwrap())
        })
        .collect();
    core.sort();
    assert_eq!(core, fired, "{at}: checks");
}

#[test]
fn two_judges_agree_on_sessions_made_by_chance() {
    let mut reached: BTreeMap<String, usize> = BTreeMap::new();
    for seed in 0..SESSIONS {
        let document = sessions::session(seed);
        let at = format!("session {seed}");
        let session = SessionFile::read(document.to_string().as_bytes()).unwrap_or_else(|why| panic!("{at}: {why:?}")).session;
        let core = serde_json::to_value(judge(&session)).unwrap();
        let file: read::File = serde_json::from_value(document).unwrap();
        let second = verdict::judge(&file);
        same_runs(&at, &core["runs"], &file);
        same_checks(&at, &core["checks"], &second.checks);
        for check in &second.checks {
            *reached.entry(check.code.to_owned()).or_default() += 1;
        }
        for (core, second) in core["claims"].as_array().unwrap().iter().zip(&second.claims) {
            same_claim(&at, core, second);
            *reached.entry(second.outcome.to_owned()).or_default() += 1;
            if let Some(basis) = second.basis {
                *reached.entry(basis.to_owned()).or_default() += 1;
            }
        }
        assert_eq!(core["overall"], json!(second.overall), "{at}");
        let counted = (&core["tested"], &core["claims_in_use"], &core["provisional"]);
        assert_eq!(counted, (&json!(second.tested), &json!(second.in_use), &json!(second.provisional)), "{at}");
        *reached.entry(second.overall.unwrap_or("no claim").to_owned()).or_default() += 1;
    }
    // All outcomes, bases and words over all, and every check that stands on no prediction, were met; none of them once by luck.
    assert_eq!(reached.len(), 50, "{reached:?}");
    assert!(reached.values().all(|times| *times >= 5), "{reached:?}");
}
