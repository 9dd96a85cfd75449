#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

use std::collections::BTreeSet;
use std::fs;

use pukka_store::Author;
use pukka_store::transfer::{self, Outgoing};
use serde_json::json;

use super::*;

fn files_in(folder: &Path) -> BTreeSet<PathBuf> {
    let mut found = BTreeSet::new();
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            found.extend(files_in(&path));
        } else {
            found.insert(path);
        }
    }
    found
}

fn shelf() -> tempfile::TempDir {
    let data = tempfile::tempdir().unwrap();
    let store = Store::open(data.path()).unwrap();
    let mut planted = json!(pukka_core::record::session::examples::mono_1100().to_file().unwrap());
    planted["amplifier"]["loan"] = json!({ "lent_by": "SECRET lender", "ended": { "how": "returned", "cost": "SECRET cost" } });
    planted["runs"][0]["who"] = json!("SECRET hand");
    planted["guesses"] = json!({ "sha256": "0".repeat(64), "sealed_at": "2026-11-20T09:00:00Z", "salt": "SECRET salt", "sealed": true,
        "list": [{ "by": "SECRET guesser", "power_w": 900.0, "may_be_named": false }] });
    let mut other = planted.clone();
    other["amplifier"]["model"] = json!("Mono & <Sons>");
    for file in [planted, other] {
        let session = Session::read(file.to_string().as_bytes()).unwrap();
        let at = "2026-11-20T09:00:00Z".parse().unwrap();
        let author = Author { who: "Ferry Lane".into(), tab: "site".into(), at, key: None, batch: None };
        let incoming = Outgoing { file: session, ramps: Vec::new(), settled: None };
        store.write(move |tx| transfer::take_in(tx, &author, &incoming).map(drop)).unwrap();
    }
    data
}

fn wanted(data: &Path, out: &Path) -> SiteWanted {
    SiteWanted {
        data: data.to_owned(),
        out: out.to_owned(),
        url: Some("https://bench.example/amps/".into()),
        name: "Ferry Lane & Co".into(),
        licence: Some("CC BY 4.0".into()),
        only: None,
    }
}

#[test]
fn a_site_has_a_page_an_amplifier_nothing_private_and_the_same_bytes_twice() {
    let (data, out) = (shelf(), tempfile::tempdir().unwrap());
    let wanted = wanted(data.path(), out.path());
    assert_eq!(site(&wanted).unwrap(), 2);
    let files = files_in(out.path());
    let first: Vec<(PathBuf, Vec<u8>, std::time::SystemTime)> =
        files.iter().map(|path| (path.clone(), fs::read(path).unwrap(), fs::metadata(path).unwrap().modified().unwrap())).collect();
    // Index, style, script, CSV, JSON, data package, feed; and six files an amplifier.
    assert_eq!(files.len(), 7 + 2 * 5, "{files:?}");
    for (path, bytes, _) in &first {
        assert!(!bytes.windows(6).any(|six| six == b"SECRET"), "{} tells what is private", path.display());
    }
    site(&wanted).unwrap();
    for (path, bytes, at) in first {
        assert!(
            fs::read(&path).unwrap() == bytes && fs::metadata(&path).unwrap().modified().unwrap() == at,
            "{} was touched",
            path.display()
        );
    }
}

#[test]
fn pages_are_escaped_linked_and_say_what_stands() {
    let (data, out) = (shelf(), tempfile::tempdir().unwrap());
    site(&wanted(data.path(), out.path())).unwrap();
    let read = |path: &str| fs::read_to_string(out.path().join(path)).unwrap();
    let index = read("index.html");
    assert!(index.contains("Tolland &amp; Pike Mono &amp; &lt;Sons&gt;") && index.contains("Ferry Lane &amp; Co"), "{index}");
    let links: Vec<&str> = index.split("href=\"").skip(1).filter_map(|rest| rest.split('"').next()).collect();
    for link in links.iter().filter(|link| !link.starts_with("http")) {
        assert!(out.path().join(link).is_file(), "{link} leads nowhere");
    }
    let page = read("tolland-pike-mono-1100/index.html");
    assert!(page.contains("og:image\" content=\"https://bench.example/amps/tolland-pike-mono-1100/preview.png\""), "{page}");
    assert!(page.contains("Not locked: this verdict can still change."), "{page}");
    let disclosure = page.find("class=\"disclosure\"").unwrap();
    assert!(disclosure < page.find("<h1>").unwrap(), "the disclosure comes first");
    assert!(!page.contains("<script"), "only the list has one");
    let feed = read("feed.xml");
    assert_eq!(feed.matches("<entry>").count(), 2);
    assert!(feed.contains("<rights>CC BY 4.0</rights>"));
    let csv = read("shelf.csv");
    assert_eq!(csv.matches("power total (W)").count(), 1, "one header");
    assert_eq!(csv.lines().count(), 1 + 2 * 9);
}

#[test]
fn a_saved_comparison_gets_a_page_and_its_picture() {
    let (data, out) = (shelf(), tempfile::tempdir().unwrap());
    let store = Store::open(data.path()).unwrap();
    let ids: Vec<String> = store.read(amplifiers::whole_shelf).unwrap().into_iter().map(|row| row.id).collect();
    let at = "2026-11-20T09:00:00Z".parse().unwrap();
    let author = Author { who: "Ferry Lane".into(), tab: "site".into(), at, key: None, batch: None };
    let save = |name: &str, on_site, query: String| {
        let (author, view) = (author.clone(), SavedView { page: views::ViewPage::Compare, name: name.into(), query, on_site });
        store.write(move |tx| views::save(tx, &author, &view).map(drop)).unwrap();
    };
    let both = format!("ids={}&volts=13.8", ids.join(","));
    save("Monos & <b>", true, both.clone());
    save("One alone", true, format!("ids={},nobody", ids[0]));
    save("For myself", false, both);
    drop(store);
    site(&wanted(data.path(), out.path())).unwrap();
    let made: Vec<String> = files_in(out.path()).iter().filter_map(|path| path.file_name()?.to_str().map(str::to_owned)).collect();
    assert_eq!(
        made.iter().filter(|name| name.starts_with("compare-")).collect::<Vec<_>>(),
        ["compare-monos-b.html", "compare-monos-b.png"]
    );
    let page = fs::read_to_string(out.path().join("compare-monos-b.html")).unwrap();
    assert!(page.contains("<h1>Monos &amp; &lt;b&gt;</h1>") && page.contains("side by side at 13.8\u{202f}V"), "{page}");
    assert!(page.contains("href=\"tolland-pike-mono-1100/index.html\"") && page.contains("no difference can be told between"), "{page}");
    assert!(!page.contains("SECRET"));
    assert!(fs::read_to_string(out.path().join("index.html")).unwrap().contains("href=\"compare-monos-b.html\""));
    let chosen = SiteWanted { only: Some("SONS".into()), ..wanted(data.path(), tempfile::tempdir().unwrap().path()) };
    site(&chosen).unwrap();
    assert!(!chosen.out.join("compare-monos-b.html").exists(), "of one alone there is none");
}

#[test]
fn only_the_chosen_ones_and_an_empty_shelf() {
    let (data, out) = (shelf(), tempfile::tempdir().unwrap());
    let chosen = SiteWanted { only: Some("SONS".into()), url: None, ..wanted(data.path(), out.path()) };
    assert_eq!(site(&chosen).unwrap(), 1);
    assert!(!out.path().join("feed.xml").exists(), "a feed needs an address");
    let (none, out) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    drop(Store::open(none.path()).unwrap());
    assert_eq!(site(&SiteWanted { data: none.path().to_owned(), ..wanted(data.path(), out.path()) }).unwrap(), 0);
    assert!(fs::read_to_string(out.path().join("index.html")).unwrap().contains("Nothing is published yet."));
    assert!(site(&SiteWanted { data: out.path().to_owned(), ..wanted(data.path(), out.path()) }).is_err(), "a folder without records");
}
