//! Compare and value over HTTP, on the demo's shelf.

use crate::common::Bench;
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

#[test]
fn value_is_told_by_load_by_outputs_by_date_and_among_rivals() {
    let bench = Bench::demo(1.0);
    let rows = |query: &str| bench.get(&format!("/api/worth{query}")).json()["rows"].as_array().unwrap().clone();
    let (all, at_four) = (rows(""), rows("?load=4"));
    assert_eq!(all.len(), at_four.len(), "a load leaves nobody out: who has nothing there says so");
    assert!(at_four.iter().filter_map(|row| row["load"].as_str()).all(|load| load.starts_with("4\u{202f}Ω")), "{at_four:?}");
    let of = |rows: &[Value], name: &str| rows.iter().find(|row| row["name"] == name).unwrap().clone();
    let mono = "Tolland & Pike Mono 1100";
    assert!(of(&at_four, mono)["clean_w"].as_f64().unwrap() < 0.7 * of(&all, mono)["clean_w"].as_f64().unwrap(), "less at 4 Ω than at 2 Ω");
    assert!(rows("?outputs=1").iter().all(|row| row["outputs"] == 1) && !rows("?outputs=1").is_empty());
    let days: Vec<String> = all.iter().filter_map(|row| row["tested_on"].as_str().map(str::to_owned)).collect();
    let (first, last) = (days.iter().min().unwrap(), days.iter().max().unwrap());
    assert_eq!(rows(&format!("?tested_from={first}&tested_until={last}")).len(), days.len());
    assert_eq!(rows(&format!("?tested_until={first}")).len(), days.iter().filter(|day| *day == first).count());
    let claims_only: Vec<&Value> = all.iter().filter(|row| row["claims_only"] == true).collect();
    assert!(!claims_only.is_empty() && claims_only.iter().all(|row| row["clean_w"].is_null() && row["tested_on"].is_null()));
    let claim = of(&all, mono)["headline_w"].as_f64().unwrap();
    let rivals = rows(&format!("?claim_near={claim}"));
    assert!(rivals.iter().all(|row| (row["headline_w"].as_f64().unwrap() / claim).ln().abs() <= 1.2f64.ln() + 1e-9) && !rivals.is_empty());
    assert_eq!(bench.get("/api/worth?load=99").refusal().2, ["load"]);
    assert_eq!(bench.get("/api/worth?claim_near=0").refusal().2, ["claim_near"]);
}

#[test]
fn views_are_saved_replaced_deleted_and_brought_back() {
    let bench = Bench::start();
    let names = || -> Vec<String> {
        let all = bench.get("/api/views").json();
        all["views"]
            .as_array()
            .unwrap()
            .iter()
            .map(|view| format!("{}: {}", view["name"].as_str().unwrap(), view["query"].as_str().unwrap()))
            .collect()
    };
    let view = |name: &str, query: &str| json!({ "page": "shelf", "name": name, "query": query });
    let save = |body: Value| bench.post("/api/views", &body);
    assert_eq!(names(), Vec::<String>::new());
    assert_eq!(save(view("Class D", "class=D")).status, 201);
    let other = save(view("By watts", "sort=clean")).json();
    assert_eq!(save(view(" Class D ", "class=D&sort=price")).json()["name"], "Class D");
    assert_eq!(names(), ["By watts: sort=clean", "Class D: class=D&sort=price"], "one of a name is replaced");
    let gone = |id: &Value| bench.send("DELETE", &format!("/api/views/{}", id.as_str().unwrap()), "", &[("x-pukka-tab", "a")]);
    assert_eq!((gone(&other["id"]).status, gone(&other["id"]).status), (204, 404));
    assert_eq!(names(), ["Class D: class=D&sort=price"]);
    let undo = || bench.post("/api/undos", &json!({})).json()["says"].as_str().unwrap().to_owned();
    assert_eq!(undo(), "deleted the view By watts");
    assert_eq!(undo(), "changed the view Class D");
    assert_eq!(names(), ["By watts: sort=clean", "Class D: class=D"]);
    for (bad, path) in [
        (view("", "class=D"), "name"),
        (view("x", "class=D#<script>"), "query"),
        (json!({ "page": "shelf", "name": "x", "query": "", "on_site": true }), "on_site"),
    ] {
        assert_eq!(save(bad.clone()).refusal().2, [path], "{bad}");
    }
}

#[test]
fn several_are_put_away_and_tagged_at_once_and_one_undo_takes_it_back() {
    let bench = Bench::demo(1.0);
    let ids = |query: &str| -> Vec<String> {
        let shelf = bench.get(&format!("/api/amplifiers?limit=100{query}")).json();
        let mut ids: Vec<String> =
            shelf["amplifiers"].as_array().unwrap().iter().map(|row| row["id"].as_str().unwrap().to_owned()).collect();
        ids.sort();
        ids
    };
    let (all, three) = (ids("").len(), ids("")[..3].to_vec());
    let mark = |body: Value| bench.post("/api/markings", &body);
    assert_eq!(mark(json!({ "ids": three, "archived": true, "tag": "tour" })).json()["changed"], 3);
    assert_eq!((ids("").len(), ids("&archived=true"), ids("&archived=true&tag=tour").len()), (all - 3, three.clone(), 3));
    assert_eq!(mark(json!({ "ids": three, "archived": true })).json()["changed"], 0, "they are away already");
    assert_eq!(mark(json!({ "ids": [three[0]], "untag": "tour" })).json()["changed"], 1);
    let undo = || bench.post("/api/undos", &json!({})).json()["says"].as_str().unwrap().to_owned();
    undo();
    assert!(undo().ends_with("(3 at once)"));
    assert_eq!((ids("").len(), ids("&archived=true").len()), (all, 0));
    assert_eq!(mark(json!({ "ids": [three[0], "nobody"], "archived": true })).refusal().0, 404);
    assert_eq!(ids("&archived=true").len(), 0, "all of it, or nothing");
    for (bad, path) in
        [(json!({ "ids": [], "archived": true }), "ids"), (json!({ "ids": three, "tag": "a,b" }), "tag"), (json!({ "ids": three }), "")]
    {
        assert_eq!(mark(bad.clone()).refusal().2, [path], "{bad}");
    }
    // A choice travels alone, and comes in elsewhere.
    let file = bench.bytes(&format!("/api/shelf.zip?ids={},{}", three[0], three[1]));
    let elsewhere = Bench::start();
    assert_eq!(elsewhere.send_bytes("POST", "/api/imports", &file, &[]).status, 200);
    assert_eq!(elsewhere.get("/api/amplifiers").json()["found"], 2);
    assert_eq!(bench.get("/api/shelf.zip?ids=").refusal().2, ["ids"]);
    assert_eq!(bench.get("/api/shelf.zip?ids=nobody").refusal().0, 404);
}
