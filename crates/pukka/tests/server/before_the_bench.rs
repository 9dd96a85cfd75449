//! Benches, loads, photos, arming and settings over HTTP.

use crate::common::{Bench, agent, claim};
use serde_json::{Value, json};

fn ferry_lane() -> Value {
    json!({
        "name": "Ferry Lane",
        "supply": { "kind": "battery", "current_limit_a": null, "lead_fuse_a": 300, "source_ohm": 0.005, "supercapacitors": true },
        "loads": [{ "nominal_ohm": 4, "measured_ohm": 3.91, "continuous_w": 500, "ten_second_w": 2000, "count": 4 }, { "nominal_ohm": 8, "count": 2 }],
        "meters": [{ "id": "clamp", "quantity": "current", "reading_ratio": 0.015, "absolute": 0.3, "last_checked_on": "2026-09-14" }],
        "leads": [{ "name": "bank to amplifier", "length_m": 1.2, "section_mm2": 70 }]
    })
}

fn ladder(bench: &Bench, session: &str) -> Value {
    bench.get(&format!("/api/sessions/{session}/ladder")).json()
}

#[test]
fn a_bench_is_kept_and_a_new_amplifier_stands_on_it() {
    let bench = Bench::start();
    let made = bench.post("/api/benches", &ferry_lane());
    assert_eq!(made.status, 201, "{}", made.text);
    let (_, session) = bench.amplifier(|_| {}, &[(4.0, 450.0), (1.0, 1100.0)]);
    let view = ladder(&bench, &session);
    assert_eq!((&view["bench_name"], &view["bench_open"]), (&json!("Ferry Lane"), &json!(true)));
    let four = &view["ladder"]["rungs"][0]["expected"];
    assert_eq!(
        (four["load_banks"][0]["words"].as_str(), four["leads"][0]["name"].as_str()),
        (Some("4\u{202f}Ω"), Some("bank to amplifier"))
    );
    assert!(four["end_v"]["value"].as_f64().unwrap() < 14.4, "the bank sags");
    assert!(view["cautions"].as_array().unwrap().iter().any(|caution| caution["code"] == "supercapacitors"));
    let id = made.json()["id"].as_str().unwrap().to_owned();
    let mut changed = ferry_lane();
    changed["loads"] = json!([]);
    let change = |revision: &str| {
        bench.send("PUT", &format!("/api/benches/{id}"), &changed.to_string(), &[("if-match", revision), ("x-pukka-tab", "a")])
    };
    assert_eq!(change("1").json()["revision"], 2);
    assert_eq!(change("1").refusal().1, "changed-elsewhere");
    assert!(ladder(&bench, &session)["ladder"]["rungs"][0]["expected"]["load_banks"][0].is_null(), "a session not begun follows");
    assert_eq!(bench.post("/api/undos", &json!({})).json()["says"], "changed the bench Ferry Lane");
    assert_eq!(bench.send("DELETE", &format!("/api/benches/{id}"), "", &[("if-match", "3")]).status, 204);
    assert_eq!(bench.get("/api/benches").json()["benches"], json!([]));
    assert_eq!(ladder(&bench, &session)["bench_name"], Value::Null, "and its sessions keep what they have");
}

#[test]
fn what_cannot_be_a_bench_is_named_where_it_stands() {
    let bench = Bench::start();
    let refused = |change: fn(&mut Value)| {
        let mut body = ferry_lane();
        change(&mut body);
        bench.post("/api/benches", &body).refusal()
    };
    assert_eq!(refused(|b| b["name"] = json!(" ")).2, ["name"]);
    assert_eq!(refused(|b| b["loads"][0]["nominal_ohm"] = json!(0)).2, ["loads[0].nominal_ohm"]);
    assert_eq!(refused(|b| b["loads"][0]["count"] = json!(0)).2, ["loads[0].count"]);
    assert_eq!(refused(|b| b["leads"][0]["section_mm2"] = json!(-4)).2, ["leads[0].section_mm2"]);
    assert_eq!(refused(|b| b["meters"][0]["quantity"] = json!("loudness")).2, ["meters[0].quantity"]);
    assert_eq!(refused(|b| b["supply"]["colour"] = json!("red")).2, ["colour"], "a slip in a name would lose what was typed");
    assert_eq!(refused(|b| b["supply"]["source_ohm"] = json!(5.2)).2, ["supply.source_ohm"], "milliohms given as ohms");
}

#[test]
fn loads_out_of_an_inventory_with_their_drawings() {
    let bench = Bench::start();
    let ask = |body: Value| bench.post("/api/loads", &body);
    let loads = json!([{ "nominal_ohm": 4, "count": 4 }, { "nominal_ohm": 8, "count": 4 }]);
    let found = ask(json!({ "wiring": { "kind": "mono" }, "load_ohm": 2.67, "loads": loads })).json();
    assert_eq!((&found["found"]["made"], &found["found"]["simplest"][0]["parts"]), (&json!(true), &json!(2)));
    let drawn = found["drawn"].as_array().unwrap();
    assert_eq!(drawn.len(), found["found"]["simplest"].as_array().unwrap().len() + found["found"]["builds"].as_array().unwrap().len());
    assert!(drawn.iter().all(|svg| svg.as_str().unwrap().starts_with("<svg") && svg.as_str().unwrap().ends_with("</svg>")));
    assert_eq!(ask(json!({ "wiring": { "kind": "mono" }, "load_ohm": 0, "loads": loads })).refusal().2, ["load_ohm"]);
    assert_eq!(ask(json!({ "wiring": { "kind": "mono" }, "load_ohm": 4, "loads": [] })).refusal().2, ["loads"]);
    assert_eq!(ask(json!({ "wiring": { "kind": "channels", "driven": 200 }, "load_ohm": 4, "loads": loads })).refusal().2, ["wiring"]);
    let many: Vec<Value> = (1..60).map(|n| json!({ "nominal_ohm": n, "count": 9 })).collect();
    assert_eq!(ask(json!({ "wiring": { "kind": "mono" }, "load_ohm": 4, "loads": many })).refusal().2, ["loads"], "bounded");
}

#[test]
fn forty_kinds_of_resistor_still_answer() {
    let bench = Bench::start();
    let many: Vec<Value> = (1..=40).map(|n| json!({ "nominal_ohm": f64::from(n) / 3.0, "count": 20 })).collect();
    let found = bench.post("/api/loads", &json!({ "wiring": { "kind": "mono" }, "load_ohm": 2.67, "loads": many })).json();
    assert!(found["found"]["most_parts"].as_u64().unwrap() >= 3, "fewer resistors are tried where there are too many kinds");
    assert!(found["found"]["mind"][0].as_str().unwrap().contains("were looked at"), "and it says so");
}

#[test]
fn arming_is_refused_while_a_gate_is_shut_and_freezes_what_it_was_judged_on() {
    let bench = Bench::start();
    let (id, session) = bench.amplifier(|body| body["fuses_a"] = json!([]), &[(2.0, 780.0)]);
    let add = json!({ "rung": null, "set": { "wiring": { "kind": "mono" }, "load_ohm": 0.67, "rest_v": 14.6 } });
    assert_eq!(bench.send("PUT", &format!("/api/sessions/{session}/rungs"), &add.to_string(), &[("if-match", "0")]).status, 200);
    let (armed, gates) = (format!("/api/sessions/{session}/armed"), format!("/api/sessions/{session}/gates"));
    let place = json!({ "rung": "mono@0.67@40", "mode": "dynamic" });
    let refused = bench.post(&armed, &place).refusal();
    assert_eq!((refused.0, refused.1.as_str(), refused.2), (409, "gated", vec!["below-floor".to_owned()]));
    assert_eq!(bench.post(&armed, &json!({ "rung": "mono@9@40", "mode": "dynamic" })).refusal().0, 404);
    let opening = json!({ "reason": "to know", "by": "M. Tarrow", "owner_consent": { "by": "R. Oakshott", "on": "2026-11-20", "who_pays": "the owner" } });
    assert_eq!(bench.post(&gates, &json!({ "place": place, "opening": opening })).status, 204);
    let made = bench.post(&armed, &place).json();
    assert!(made["arming"]["inputs"].as_array().unwrap().iter().any(|input| input["symbol"] == "floor" && input["value"] == "1\u{202f}Ω"));
    assert_eq!(ladder(&bench, &session)["armed"]["arming"]["place"], place);
    // Frozen: the amplifier, its claims, the rung, the session's settings.
    assert_eq!(bench.post(&format!("/api/amplifiers/{id}/claims"), &claim(0.5, 1.0)).refusal().1, "armed");
    let rungs = format!("/api/sessions/{session}/rungs");
    assert_eq!(bench.send("PUT", &rungs, &add.to_string(), &[("if-match", "1")]).refusal().2, ["set.load_ohm"], "it is open already");
    let set = json!({ "rung": "mono@0.67@40", "set": add["set"] });
    assert_eq!(bench.send("PUT", &rungs, &set.to_string(), &[("if-match", "1")]).refusal().1, "armed");
    let settings = json!({ "order": "mode", "rest_v": 16.5, "idle": null, "gain": null, "bench_id": null });
    assert_eq!(bench.send("PUT", &format!("/api/sessions/{session}"), &settings.to_string(), &[("if-match", "1")]).refusal().1, "armed");
    let withdrawn = |by: &str| bench.post(&format!("{gates}/withdrawn"), &json!({ "place": place, "by": by, "reason": "the owner rang" }));
    assert_eq!(withdrawn("").refusal().2, ["by"]);
    assert_eq!(withdrawn("M. Tarrow").status, 204);
    assert_eq!(ladder(&bench, &session)["armed"], Value::Null);
    assert_eq!(bench.post(&armed, &place).refusal().1, "gated");
    assert_eq!(bench.send("PUT", &format!("/api/sessions/{session}"), &settings.to_string(), &[("if-match", "1")]).status, 204);
    assert_eq!(ladder(&bench, &session)["ladder"]["run_order"], "mode");
    assert_eq!(bench.send("DELETE", &armed, "", &[]).status, 204);
}

#[test]
fn ticks_are_kept_and_the_gain_is_said() {
    let bench = Bench::start();
    let (_, session) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let all: Vec<String> =
        ladder(&bench, &session)["cautions"].as_array().unwrap().iter().map(|c| c["code"].as_str().unwrap().to_owned()).collect();
    for code in &all {
        assert_eq!(ladder(&bench, &session)["cautions_read"], false);
        assert_eq!(bench.post(&format!("/api/sessions/{session}/ticks"), &json!({ "code": code, "ticked": true })).status, 204);
    }
    assert_eq!(ladder(&bench, &session)["cautions_read"], true);
    let settings = |gain: Value| json!({ "order": "rung", "rest_v": null, "idle": null, "gain": gain, "bench_id": null }).to_string();
    let put =
        |revision: &str, gain: Value| bench.send("PUT", &format!("/api/sessions/{session}"), &settings(gain), &[("if-match", revision)]);
    assert_eq!(put("1", json!({ "extra_drive_db": 60 })).refusal().2, ["gain.extra_drive_db"]);
    assert_eq!(put("1", json!({ "volume": 11 })).refusal().2, ["volume"]);
    assert_eq!(put("1", json!({ "source": "47 of 50" })).status, 204);
    assert_eq!(ladder(&bench, &session)["gain_words"], "Source clean to 47 of 50.");
    // √(450 × 4) = 42.43 V
    assert_eq!(ladder(&bench, &session)["targets"]["mono@4@40"]["text"], "42.43");
}

#[test]
fn photos_are_encoded_anew_and_rubbish_stays_out() {
    let bench = Bench::start();
    let (id, _) = bench.amplifier(|_| {}, &[]);
    let mut png = std::io::Cursor::new(Vec::new());
    image::DynamicImage::new_rgb8(60, 40).write_to(&mut png, image::ImageFormat::Png).unwrap();
    let send = |bytes: &[u8]| {
        let request = ureq::http::Request::builder()
            .method("POST")
            .uri(format!("{}/api/amplifiers/{id}/photos", bench.url))
            .body(bytes.to_vec())
            .unwrap();
        agent().run(request).unwrap()
    };
    let mut made = send(png.get_ref());
    assert_eq!(made.status(), 201);
    let photo: Value = made.body_mut().read_json().unwrap();
    assert_eq!((&photo["width_px"], &photo["height_px"]), (&json!(60), &json!(40)));
    let path = format!("/api/photos/{}", photo["id"].as_str().unwrap());
    let mut picture = agent().get(format!("{}{path}", bench.url)).call().unwrap();
    assert_eq!(picture.headers()["content-type"], "image/jpeg");
    assert_eq!(image::guess_format(&picture.body_mut().read_to_vec().unwrap()).unwrap(), image::ImageFormat::Jpeg);
    for (bytes, status) in [(b"<svg/>".as_slice(), 415), (b"".as_slice(), 415), (&png.get_ref()[..30], 422)] {
        assert_eq!(send(bytes).status(), status);
    }
    assert_eq!(bench.send("PATCH", &path, r#"{"caption":"terminals"}"#, &[("if-match", "1")]).json()["caption"], "terminals");
    assert_eq!(bench.send("DELETE", &path, "", &[("if-match", "1")]).refusal().0, 412);
    assert_eq!(bench.send("DELETE", &path, "", &[("if-match", "2")]).status, 204);
    assert_eq!(bench.get(&path).refusal().0, 404);
    assert_eq!(bench.get("/api/photos/..%2Fpukka.sqlite").refusal().0, 404);
}

#[test]
fn the_verdict_uses_the_source_that_was_marked() {
    let bench = Bench::start();
    let (id, _) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let mut other = claim(4.0, 500.0);
    (other["source"], other["used"]) = (json!("box"), json!(false));
    let box_line = bench.post(&format!("/api/amplifiers/{id}/claims"), &other).json()["id"].as_str().unwrap().to_owned();
    let used = || {
        let rows = bench.get(&format!("/api/amplifiers/{id}")).json()["claims"].clone();
        rows.as_array().unwrap().iter().map(|row| row["claim"]["used"] == true).collect::<Vec<_>>()
    };
    let manual = bench.get(&format!("/api/amplifiers/{id}")).json()["claims"][0]["id"].as_str().unwrap().to_owned();
    assert_eq!(used(), [true, false]);
    assert_eq!(bench.post(&format!("/api/claims/{box_line}/choice"), &json!({ "instead_of": [manual] })).status, 204);
    assert_eq!(used(), [false, true]);
    assert_eq!(bench.post("/api/undos", &json!({})).json()["says"], "changed a claim (2 at once)");
    assert_eq!(used(), [true, false]);
    let (_, _) = bench.amplifier(|_| {}, &[]);
    assert_eq!(bench.post(&format!("/api/claims/{box_line}/choice"), &json!({ "instead_of": ["none"] })).refusal().0, 404);
}

#[test]
fn small_sums() {
    let bench = Bench::start();
    let lead = bench.get("/api/arithmetic/lead?length_m=1.5&section=50%20mm2&current_a=125").json();
    // 2 × 0.0172 × 1.5 / 50 × 125 = 0.129 V
    assert_eq!((&lead["drop_v"]["text"], &lead["heat_w"]["text"]), (&json!("0.13"), &json!("16.1")));
    assert_eq!(bench.get("/api/arithmetic/lead?length_m=1.5&section=thick&current_a=1").refusal().2, ["section"]);
    assert_eq!(bench.get("/api/arithmetic/lead?length_m=0&section=50&current_a=1").refusal().2, ["length_m"]);
    assert_eq!(bench.get("/api/arithmetic/drive?from_v=1&to_v=2").json()["text"], "+6.02");
    assert_eq!(bench.get("/api/arithmetic/drive?from_v=1&db=6").json()["text"], "1.995");
    assert_eq!(bench.get("/api/arithmetic/drive?from_v=1").refusal().2, ["to_v"]);
    assert_eq!(bench.get("/api/arithmetic/drive?from_v=-1&db=6").refusal().2, ["from_v"]);
}

#[test]
fn a_load_that_is_added_at_another_tone_takes_no_ones_place() {
    let bench = Bench::start();
    let (id, session) = bench.amplifier(|_| {}, &[(4.0, 450.0), (2.0, 780.0)]);
    let add = |load: f64, tone: f64| {
        let body = json!({ "rung": null, "set": { "wiring": { "kind": "mono" }, "load_ohm": load, "tone_hz": tone } });
        bench.send("PUT", &format!("/api/sessions/{session}/rungs"), &body.to_string(), &[("if-match", "0"), ("x-pukka-tab", "a")])
    };
    let keys = || {
        let rungs = ladder(&bench, &session)["ladder"]["rungs"].clone();
        rungs.as_array().unwrap().iter().map(|rung| rung["key"].as_str().unwrap().to_owned()).collect::<Vec<_>>()
    };
    assert_eq!(add(4.0, 50.0).status, 200);
    assert_eq!(keys(), ["mono@4@50", "mono@4@40", "mono@2@40"]);
    assert_eq!(add(4.0, 50.0).refusal().2, ["set.load_ohm"], "the same once more");
    let order = json!({ "tone_order": "load" });
    let patched = bench.send("PATCH", &format!("/api/sessions/{session}"), &order.to_string(), &[("if-match", "1")]);
    assert_eq!(patched.status, 204);
    assert_eq!(add(2.0, 50.0).status, 200);
    assert_eq!(keys(), ["mono@4@50", "mono@4@40", "mono@2@50", "mono@2@40"], "a second tone, load by load");
    let undone = bench.post("/api/undos", &json!({ "bench_of": id }));
    assert_eq!(undone.status, 200, "{}", undone.json());
    assert_eq!(keys(), ["mono@4@50", "mono@4@40", "mono@2@40"], "one undo takes the added rung and what was kept beside it");
}

#[test]
fn the_bench_of_a_session_is_put_right_after_runs_with_a_reason_and_the_house_rule_stays() {
    let bench = Bench::start();
    let profile = |ratio: f64| {
        json!({ "name": format!("Lane {ratio}"), "supply": { "kind": "battery" }, "loads": [],
            "meters": [{ "id": "m1", "quantity": "power", "reading_ratio": ratio, "absolute": 0.0 }] })
    };
    let made = |ratio| bench.post("/api/benches", &profile(ratio)).json()["id"].as_str().unwrap().to_owned();
    let (one, other) = (made(0.01), made(0.05));
    let (id, session) = bench.amplifier(|_| {}, &[(4.0, 450.0)]);
    let patch = |body: &Value| {
        let revision = ladder(&bench, &session)["revision"].to_string();
        bench.send("PATCH", &format!("/api/sessions/{session}"), &body.to_string(), &[("if-match", revision.as_str())])
    };
    assert_eq!(patch(&json!({ "bench_id": one, "never_below_floor": true })).status, 204);
    bench.post(&format!("/api/sessions/{session}/cautions"), &json!({}));
    let logged = bench
        .post(&format!("/api/sessions/{session}/runs"), &json!({ "rung": "mono@4@40", "mode": "certified", "line": "447@m1 14.38 41.2" }));
    assert_eq!(logged.status, 201);
    let run = logged.json()["id"].as_str().unwrap().to_owned();
    let spread = || bench.get(&format!("/api/sessions/{session}/runs/{run}")).json()["figures"].clone();
    let before = spread();
    assert_eq!(patch(&json!({ "bench_id": other })).refusal().1, "bench-in-use");
    assert_eq!(patch(&json!({ "bench_id": other, "bench_reason": " " })).refusal().2, ["bench_reason"]);
    assert_eq!(patch(&json!({ "bench_id": other, "bench_reason": "the wrong meter was noted" })).status, 204);
    assert_ne!(spread(), before, "the figures follow");
    assert!(bench.get(&format!("/api/acts?bench_of={id}")).json().to_string().contains("put the bench right: the wrong meter was noted"));
    let bare = bench.post("/api/benches", &json!({ "name": "Bare", "supply": { "kind": "battery" } })).json()["id"].clone();
    assert_eq!(
        patch(&json!({ "bench_id": bare, "bench_reason": "so" })).refusal().2,
        ["bench_id"],
        "a run names a meter that is not there"
    );
    let (_, next) = bench.amplifier(|body| body["model"] = json!("Next"), &[(4.0, 450.0)]);
    assert_eq!(ladder(&bench, &next)["settings"]["never_below_floor"], true, "a house rule is set for good");
}

#[test]
fn an_efficiency_alone_belongs_to_the_run_just_logged_and_a_shared_file_names_nobody() {
    let bench = Bench::start();
    let (id, session) = bench.amplifier(|body| body["loan"] = json!({ "lent_by": "R. Oakshott" }), &[(4.0, 450.0)]);
    let log = |mode: &str, line: &str| {
        bench.post(&format!("/api/sessions/{session}/runs"), &json!({ "rung": "mono@4@40", "mode": mode, "line": line }))
    };
    assert_eq!(log("certified", "76%e").refusal().2, ["line"], "nothing is logged yet");
    assert_eq!(log("certified", "447 14.38").status, 201);
    let kept = log("clipping", "76%e").json();
    assert_eq!((&kept["about"], &kept["next"]["mode"]), (&json!("efficiency"), &json!("clipping")), "the bench stays where it is");
    let run = bench.get(&format!("/api/sessions/{session}/runs/{}", kept["id"].as_str().unwrap())).json();
    assert_eq!(run["line"], "447w 14.38v 76%e");
    let file = |kind: &str| bench.get(&format!("/api/amplifiers/{id}/file?kind={kind}"));
    let runs = file("full").json()["runs"].clone();
    assert_eq!(
        (runs.as_array().unwrap().len(), &runs[1]["efficiency_read_ratio"], &runs[1]["supersedes"]),
        (2, &json!(0.76), &runs[0]["id"])
    );
    assert_eq!(log("dynamic", "530 14.2").status, 201);
    assert_eq!(log("dynamic", "70%e").refusal().2, ["line"], "a burst has no efficiency");
    assert!(file("full").json()["amplifier"]["loan"]["lent_by"] == "R. Oakshott" && file("full").json()["runs"][0]["who"].is_string());
    assert!(file("shared").json()["amplifier"]["loan"].is_null() && file("shared").json()["runs"][0]["who"].is_null());
    assert_eq!(file("everything").status, 400);
}
