//! What the program does on files, as another program would use it.

use std::io::Write as _;
use std::process::{Command, Output, Stdio};

use serde_json::{Value, json};

fn pukka(args: &[&str], input: &str) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_pukka"))
        .args(args)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    child.stdin.take().unwrap().write_all(input.as_bytes()).unwrap();
    child.wait_with_output().unwrap()
}

#[test]
fn whoever_has_read_enough_stops_nothing() {
    let mut child = Command::new(env!("CARGO_BIN_EXE_pukka")).arg("openapi").stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
    // Longer than a pipe holds: the program is still writing when nobody reads any more.
    drop(child.stdout.take());
    let output = child.wait_with_output().unwrap();
    assert!(output.status.success() && output.stderr.is_empty(), "{}", String::from_utf8_lossy(&output.stderr));
}

#[cfg(target_os = "linux")]
#[test]
fn what_cannot_be_written_is_said() {
    let full = std::fs::OpenOptions::new().write(true).open("/dev/full").unwrap();
    let output = Command::new(env!("CARGO_BIN_EXE_pukka")).arg("schema").stdout(full).output().unwrap();
    assert_eq!(output.status.code(), Some(1));
    let says = String::from_utf8_lossy(&output.stderr).into_owned();
    assert!(says.starts_with("standard output cannot be written: "), "{says}");
}

#[test]
fn a_profile_is_checked_with_line_and_reason() {
    let sound = pukka(&["profile", "check", "-"], pukka_core::instruments::GENERIC);
    assert!(sound.status.success());
    let says = String::from_utf8_lossy(&sound.stdout).into_owned();
    assert!(says.starts_with("Generic SCPI: sound. It serves as signal generator, power and distortion analyser,"), "{says}");
    let wrong = pukka(&["profile", "check", "-"], "name = \"x\"\n[read.supply_v]\nquery = \"V?\"\nunit = \"bar\"\n");
    assert_eq!(wrong.status.code(), Some(2));
    let says = String::from_utf8_lossy(&wrong.stderr).into_owned();
    assert!(says.starts_with("-: line 4: read.supply_v.unit: That is no unit of this quantity"), "{says}");
    for shipped in pukka_core::instruments::SHIPPED {
        assert!(pukka(&["profile", "check", "-"], shipped.text).status.success(), "{}", shipped.file);
    }
}

#[test]
fn claims_of_a_text_file_as_json() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("spec.txt");
    std::fs::write(&file, "\u{feff}RMS Power @ 4 Ohms: 2 x 75 Watts (14.4V, 1% THD)\r\n1200 W max\r\nColour: black\r\n").unwrap();
    let output = pukka(&["claims", file.to_str().unwrap(), "--json"], "");
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let answer: Value = serde_json::from_slice(&output.stdout).unwrap();
    let first = &answer["claims"][0];
    assert_eq!(first["wiring"], json!({ "kind": "channels", "driven": 2 }));
    assert_eq!(
        (&first["load_ohm"], &first["power_w"], &first["per"], &first["kind"]),
        (&json!(4.0), &json!(75.0), &json!("output"), &json!("rms"))
    );
    assert_eq!((&first["supply_v"], &first["thd_limit_ratio"]), (&json!(14.4), &json!(0.01)));
    assert_eq!(first["text"], "RMS Power @ 4 Ohms: 2 x 75 Watts (14.4V, 1% THD)");
    assert_eq!((&answer["claims"][1]["kind"], &answer["claims"][1]["wiring"]), (&json!("max"), &Value::Null));
    assert_eq!(answer["not_understood"], json!(["Colour: black"]));
}

#[test]
fn claims_for_people_and_from_a_pipe() {
    let output = pukka(&["claims", "-"], "4 Ω: 4 x 90 W RMS\nWeight 2 kg\nColour: black\n");
    let text = String::from_utf8_lossy(&output.stdout).replace('\u{202f}', " ");
    assert!(
        text.contains("4 channels, 90 W, 4 Ω, rms") && text.contains("weight 2 kg") && text.contains("not understood: Colour: black"),
        "{text}"
    );
}

#[test]
fn a_file_that_is_not_there_is_said_so() {
    let output = pukka(&["claims", "/nowhere/spec.txt"], "");
    assert!(!output.status.success());
    assert!(String::from_utf8_lossy(&output.stderr).contains("/nowhere/spec.txt cannot be read"));
}

const MONO: &str = include_str!("../../../pukka-core/src/record/session/mono_1100.json");

#[test]
fn the_plan_of_a_session_file_as_json() {
    let output = pukka(&["plan", "-", "--json"], MONO);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let plan: Value = serde_json::from_slice(&output.stdout).unwrap();
    let rungs = plan["rungs"].as_array().unwrap();
    assert_eq!(rungs.iter().map(|rung| rung["load_ohm"].as_f64().unwrap()).collect::<Vec<_>>(), [4.0, 2.0, 1.0], "as the plan lists them");
    for rung in rungs {
        let (low, high) = (rung["predicted_w_band"][0].as_f64().unwrap(), rung["predicted_w_band"][1].as_f64().unwrap());
        assert!(low < rung["predicted_w"].as_f64().unwrap() && rung["predicted_w"].as_f64().unwrap() < high);
        assert!(rung["predicted_a_band"][1].as_f64().unwrap() / 105.0 - rung["fuse_ratio"].as_f64().unwrap() < 1e-12);
        assert!(rung["predicted_end_v"].as_f64().unwrap() < 14.6 && rung["start_v_for_reference"].as_f64().unwrap() <= 16.0);
        assert_eq!(rung["basis"], "fit");
    }
    assert!(rungs.iter().all(|rung| rung["gates"] == json!([])), "its own fuses gate nothing");
    assert_eq!((&rungs[2]["cautions"], &rungs[0]["cautions"]), (&json!(["fuses"]), &json!([])));
    // √2 · √(1068 / 1.01) would be 45.99 A certified; the burst of 1279 W went to 50.33 A.
    assert!((rungs[0]["proven_peak_output_a"].as_f64().unwrap() - 50.33).abs() < 0.01);
}

#[test]
fn before_any_run_the_plan_is_from_the_claims() {
    let mut file: Value = serde_json::from_str(MONO).unwrap();
    file["runs"] = json!([]);
    let output = pukka(&["plan", "-", "--json"], &file.to_string());
    let plan: Value = serde_json::from_slice(&output.stdout).unwrap();
    let one = &plan["rungs"][2];
    assert_eq!((&one["basis"], &one["proven_peak_output_a"], &one["predicted_end_v"]), (&json!("claim"), &Value::Null, &Value::Null));
    // P of the claims' line, 1105.74 W: from P/(14.4 · 0.85) to 1.15 · P/(14.4 · 0.55)
    let band: Vec<f64> = one["predicted_a_band"].as_array().unwrap().iter().map(|a| a.as_f64().unwrap()).collect();
    assert!((band[0] - 90.338).abs() < 1e-3 && (band[1] - 160.556).abs() < 1e-3, "{band:?}");
    let words = pukka(&["plan", "-"], &file.to_string());
    assert!(String::from_utf8_lossy(&words.stdout).contains("mind: fuses"));
}

#[test]
fn a_file_that_cannot_be_read_ends_with_2_and_its_paths() {
    let mut file: Value = serde_json::from_str(MONO).unwrap();
    file["claims"][0]["load_ohm"] = json!(0);
    let output = pukka(&["plan", "-", "--json"], &file.to_string());
    assert_eq!(output.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&output.stderr).starts_with("claims[0].load_ohm: "), "{}", String::from_utf8_lossy(&output.stderr));
    assert_eq!(pukka(&["plan", "-"], "not json").status.code(), Some(2));
}

#[test]
fn a_session_file_is_judged_without_a_server() {
    let session = pukka_core::record::session::examples::mono_1100();
    let text = serde_json::to_string(&session).unwrap();
    let output = pukka(&["judge", "-", "--json"], &text);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let answer: Value = serde_json::from_slice(&output.stdout).unwrap();
    let claim = &answer["claims"][0];
    assert_eq!((&claim["id"], &claim["outcome"], &claim["basis"]), (&json!("c1"), &json!("holds-within"), &json!("uncertainty")));
    for key in ["runs", "claims", "checks", "overall", "tested", "claims_in_use", "provisional", "sentence"] {
        assert!(!answer[key].is_null(), "{key}");
    }
    let first = &answer["runs"][0];
    for key in [
        "total_w",
        "best_w",
        "per_output_w",
        "bound",
        "input_w",
        "efficiency_ratio",
        "heat_w",
        "sag_v",
        "balance_db",
        "expanded_uncertainty_w",
        "used_for",
    ] {
        assert!(first.as_object().unwrap().contains_key(key), "{key}");
    }
    let words = String::from_utf8(pukka(&["judge", "-"], &text).stdout).unwrap();
    assert!(words.starts_with("Tolland & Pike Mono 1100: Pukka"), "{words}");
    assert!(words.contains("3 of 3 claims tested."), "{words}");
}

#[test]
fn a_file_that_cannot_be_judged_is_named_where_it_is_wrong() {
    let mut session = serde_json::to_value(pukka_core::record::session::examples::mono_1100()).unwrap();
    session["runs"][1]["load_nominal_ohm"] = json!(0);
    let output = pukka(&["judge", "-"], &session.to_string());
    assert_eq!(output.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&output.stderr).starts_with("runs[1].load_nominal_ohm: "));
    assert!(output.stdout.is_empty());
}

#[test]
fn a_session_file_that_is_not_there_ends_with_2_and_its_name() {
    for what in ["judge", "plan"] {
        let output = pukka(&[what, "/nowhere/session.json"], "");
        let said = String::from_utf8_lossy(&output.stderr).into_owned();
        assert_eq!(output.status.code(), Some(2), "{said}");
        assert!(said.starts_with("/nowhere/session.json cannot be read: ") && said.lines().count() == 1, "{said}");
    }
}

/// A WAV of 16 bits: a second of 1 kHz at half of full scale, or what is given.
fn recording(folder: &std::path::Path, seconds: usize) -> std::path::PathBuf {
    let path = folder.join("tone.wav");
    let samples: Vec<u8> = (0..48_000 * seconds)
        .flat_map(|n| ((16_384.0 * (std::f64::consts::TAU * n as f64 / 48.0).sin()).round() as i16).to_le_bytes())
        .collect();
    let word = |n: u32| n.to_le_bytes();
    let format: [&[u8]; 7] = [&word(16), &[1, 0, 1, 0], &word(48_000), &word(96_000), &[2, 0, 16, 0], b"data", &word(samples.len() as u32)];
    let head: [&[u8]; 3] = [b"RIFF", &word(36 + samples.len() as u32), b"WAVEfmt "];
    std::fs::write(&path, [head.concat(), format.concat(), samples].concat()).unwrap();
    path
}

#[test]
fn a_recording_says_its_watts_and_where_it_cannot_be_read() {
    let folder = tempfile::tempdir().unwrap();
    let path = recording(folder.path(), 1);
    let file = path.to_str().unwrap();
    let output = pukka(&["trace", file, "--json", "--channel", "1=output:80", "--load", "4"], "");
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let answer: Value = serde_json::from_slice(&output.stdout).unwrap();
    assert_eq!((&answer["format"], &answer["version"], &answer["sample_rate_hz"]), (&json!("pukka-trace"), &json!(1), &json!(48_000.0)));
    let stretch = &answer["channels"][0]["stretches"][0];
    // (40/√2)²/4 = 200 W
    assert!((stretch["power_w"].as_f64().unwrap() - 200.0).abs() < 0.05, "{stretch}");
    assert_eq!((&stretch["kind"], &stretch["clipped"], &stretch["cycles"]), (&json!("tone"), &json!(false), &Value::Null));
    assert_eq!(answer["doubts"][0]["code"], "floor", "sixteen bits are what is left");
    let words = String::from_utf8_lossy(&pukka(&["trace", file], "").stdout).into_owned();
    assert!(words.contains("channel 1: output") && words.contains("THD"), "{words}");

    // A meter read 20 V where 0.5/√2 of full scale is: (20 V)²/4 = 100 W, ± twice 2 % and 1 %.
    let by_meter = pukka(&["trace", file, "--json", "--channel", "1=output:20@0.2-0.8±2%", "--load", "4+-1%"], "");
    let answer: Value = serde_json::from_slice(&by_meter.stdout).unwrap();
    let stretch = &answer["channels"][0]["stretches"][0];
    assert!((stretch["power_w"].as_f64().unwrap() - 100.0).abs() < 0.02, "{stretch}");
    assert!((stretch["power_u_w"].as_f64().unwrap() - 100.0 * 0.04f64.hypot(0.01)).abs() < 0.01, "{stretch}");

    let bad = |args: &[&str]| {
        let output = pukka(&[&["trace", file], args].concat(), "");
        (output.status.code(), String::from_utf8_lossy(&output.stderr).into_owned())
    };
    assert!(bad(&["--channel", "1=tuba"]).1.contains("“tuba” is no kind of channel"));
    assert!(bad(&["--channel", "0=output"]).1.contains("“0” is no channel"));
    assert!(bad(&["--load", "-4"]).0 == Some(2));
    assert_eq!(bad(&["--channel", "2=generator"]).0, Some(2));
    assert!(bad(&["--channel", "1=output:20@3-4"]).1.contains("From 3 to 4 s is outside the recording, which lasts 1.000 s."));
    for (argument, says) in
        [("20@4-3", "“4-3” is no stretch of time"), ("20±2", "“±2” has no %"), ("80±200%", "leaves nothing"), ("x", "“x” is no number")]
    {
        let (code, said) = bad(&["--channel", &format!("1=output:{argument}")]);
        assert!(code == Some(2) && said.contains(says), "{argument}: {said}");
    }
    let bytes = std::fs::read(&path).unwrap();
    std::fs::write(&path, &bytes[..40_000]).unwrap();
    let cut = bad(&["--json"]);
    assert_eq!(cut.0, Some(2));
    assert!(cut.1.contains("Byte 40000: The file ends here"), "{}", cut.1);
}
