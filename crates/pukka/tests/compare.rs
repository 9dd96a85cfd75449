//! Compare and value over HTTP, on the demo's shelf.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

mod common;

use common::Bench;
use serde_json::{Value, json};

fn id(bench: &Bench, name: &str) -> String {
    let shelf = bench.get("/api/amplifiers").json();
    let rows = shelf["amplifiers"].as_array().unwrap();
    rows.iter().find(|row| row["summary"]["name"] == name).unwrap_or_else(|| panic!("no {name}"))["id"].as_str().unwrap().to_owned()
}

#[test]
fn amplifiers_stand_side_by_side_and_what_cannot_be_asked_is_refused() {
    let bench = Bench::demo(1.0);
    let (mono, six) = (id(&bench, "Tolland & Pike Mono 1100"), id(&bench, "Hartsedge Six-Fifty"));
    let both = bench.get(&format!("/api/comparison?ids={mono},{six},{mono}")).json();
    let names: Vec<&str> = both["heads"].as_array().unwrap().iter().map(|head| head["name"].as_str().unwrap()).collect();
    assert_eq!(names, ["Tolland & Pike Mono 1100", "Hartsedge Six-Fifty"], "each once, in the order asked for");
    let rows = both["rows"].as_array().unwrap();
    assert!(rows.iter().all(|row| row["cells"].as_array().unwrap().len() == 2));
    let joined = |row: &Value| row["cells"].as_array().unwrap().iter().filter(|cell| cell["basis"] == "at 14.4\u{202f}V").count();
    let said = rows.iter().filter(|row| !row["says"].as_array().unwrap().is_empty());
    assert!(said.clone().count() > 0 && said.clone().all(|row| joined(row) == 2), "nothing is said of one alone");
    let at = bench.get(&format!("/api/comparison?ids={mono}&volts=13.8&per=output")).json();
    assert_eq!((&at["volts_words"], &at["per"]), (&json!("13.8\u{202f}V"), &json!("output")));
    assert_eq!(bench.get("/api/comparison?ids=").json()["rows"], json!([]));
    let many = format!("{mono},a,b,c,d,e,f,g,h");
    assert_eq!(bench.get(&format!("/api/comparison?ids={many}")).refusal().2, ["ids"]);
    assert_eq!(bench.get(&format!("/api/comparison?ids={mono}&volts=50")).refusal().2, ["volts"]);
    assert_eq!(bench.get("/api/comparison?ids=nobody").refusal().0, 404);
    assert_eq!(bench.get(&format!("/api/comparison?ids={mono}&colour=red")).refusal().0, 400);
}

#[test]
fn a_comparison_goes_out_as_a_card() {
    let bench = Bench::demo(1.0);
    let (mono, six) = (id(&bench, "Tolland & Pike Mono 1100"), id(&bench, "Hartsedge Six-Fifty"));
    let of = |file: &str, more: &str| bench.get(&format!("/api/comparison/cards/{file}?ids={mono},{six}{more}"));
    let card = of("compare.svg", "&shape=9x16&theme=dark");
    assert_eq!((card.status, card.kind.as_str()), (200, "image/svg+xml"));
    // Its words are outlines; what it says stands in its title for who cannot see it.
    for said in ["Side by side at 14.4\u{202f}V", "Tolland &amp; Pike Mono 1100", "Hartsedge Six-Fifty", "±"] {
        assert!(card.text.contains(said), "{said}: {}", &card.text[..600]);
    }
    let at_13 = of("compare.svg", "&volts=13.8").text;
    assert!(at_13.contains("13.8\u{202f}V") && at_13 != of("compare.svg", "").text);
    let png = bench.bytes(&format!("/api/comparison/cards/compare.png?ids={mono},{six}"));
    assert!(png.starts_with(b"\x89PNG"));
    assert_eq!(of("compare.gif", "").refusal().0, 404);
    assert_eq!(of("verdict.svg", "").refusal().0, 404);
    assert_eq!(of("compare.svg", "&lines=7").refusal().2, ["lines"]);
    assert_eq!(of("compare.svg", "&volts=50").refusal().2, ["volts"]);
    assert_eq!(bench.get("/api/comparison/cards/compare.svg?ids=").refusal().0, 404, "of nothing there is no card");
}

#[test]
fn rates_are_kept_and_bring_prices_together() {
    let bench = Bench::demo(1.0);
    let worth = || bench.get("/api/worth").json();
    let of = |worth: &Value, name: &str| worth["rows"].as_array().unwrap().iter().find(|row| row["name"] == name).cloned().unwrap();
    let before = worth();
    assert_eq!((&before["currency"], &before["no_rate_for"]), (&json!("GBP"), &json!(["EUR"])));
    let euros = "Brackwater 60.6";
    assert_eq!(of(&before, euros)["standing"], Value::Null);
    let mono = of(&before, "Hartsedge Six-Fifty");
    assert!(mono["clean_w"].as_f64().unwrap() > 500.0 && mono["per_watt"].as_str().unwrap().starts_with('£'), "{mono}");
    assert!(mono["standing"]["says"].as_str().unwrap().ends_with("by watts for the money"), "{mono}");
    let set = |body: &Value, revision: &str| bench.send("PUT", "/api/money", &body.to_string(), &[("if-match", revision)]);
    let rates = json!({ "base": "GBP", "rates": [{ "currency": "EUR", "on": "2026-01-01", "rate": 0.86 }] });
    assert_eq!(set(&rates, "0").json()["revision"], 1);
    assert_eq!(set(&rates, "0").refusal().0, 412, "somebody else was quicker");
    let after = worth();
    assert_eq!((&after["no_rate_for"], of(&after, euros)["standing"].is_null()), (&json!([]), false));
    for (bad, path) in [
        (json!({ "base": "pounds", "rates": [] }), "base"),
        (json!({ "base": "GBP", "rates": [{ "currency": "GBP", "on": "2026-01-01", "rate": 1.0 }] }), "rates[0].currency"),
        (json!({ "base": "GBP", "rates": [{ "currency": "EUR", "on": "2026-01-01", "rate": 0.0 }] }), "rates[0].rate"),
    ] {
        assert_eq!(set(&bad, "1").refusal().2, [path], "{bad}");
    }
    let some = bench.get("/api/worth?class=D&purpose=subwoofer&price_most=150").json();
    assert!(some["rows"].as_array().unwrap().iter().all(|row| row["class"] == "D" && row["price"].as_f64().unwrap() <= 150.0));
    assert_eq!(bench.get("/api/worth?class=Z").refusal().2, ["class"]);
}
