//! The layers of the core, of which the kernel and the traces are crates of their own: each uses only those above it in the table. A path of the code that points down fails here.

use std::path::{Path, PathBuf};

use regex::Regex;

/// The layers, the one that uses nothing first.
const LAYERS: [&str; 7] = ["kernel", "record", "evidence", "predict", "assess", "plan", "report"];

/// Folders beside the layers, and the lowest layer each may use.
const BESIDE: [(&str, &str); 5] =
    [("traces", "kernel"), ("tones", "evidence"), ("instruments", "evidence"), ("captured", "plan"), ("live", "report")];

/// The layers before this one.
fn above(folder: &str) -> impl Iterator<Item = &'static str> {
    LAYERS.into_iter().take(LAYERS.iter().position(|layer| *layer == folder).unwrap())
}

/// Folders that a folder may use, beside itself.
fn may_use(folder: &str) -> Vec<&'static str> {
    match BESIDE.iter().find(|(name, _)| *name == folder) {
        None => above(folder).collect(),
        // A run that is driven speaks to instruments, and arms.
        Some(("live", last)) => above(last).chain([*last, "instruments", "tones", "traces"]).collect(),
        // A captured wave becomes a run.
        Some(("captured", last)) => above(last).chain([*last, "traces"]).collect(),
        Some((_, last)) => above(last).chain([*last]).collect(),
    }
}

/// Paths in a file that point to a folder it may not use. Its own tests may look at anything.
fn down(folder: &str, code: &str) -> Vec<String> {
    let allowed = may_use(folder);
    let code = code.split("#[cfg(test)]").next().unwrap_or_default();
    let code: String = code.lines().filter(|line| !line.trim_start().starts_with("//")).collect::<Vec<_>>().join("\n");
    let known = |name: &str| LAYERS.contains(&name) || BESIDE.iter().any(|(beside, _)| *beside == name);
    Regex::new(r"crate::(\{[^}]*\}|\w+)")
        .unwrap()
        .captures_iter(&code)
        .flat_map(|found| {
            found[1].trim_matches(['{', '}']).split(',').map(|part| part.trim().split("::").next().unwrap().to_owned()).collect::<Vec<_>>()
        })
        .filter(|name| known(name) && name != folder && !allowed.contains(&name.as_str()))
        .collect()
}

fn sources(folder: &Path) -> Vec<PathBuf> {
    let entries = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    let (folders, files): (Vec<_>, Vec<_>) = entries.partition(|path| path.is_dir());
    let own = files.into_iter().filter(|path| path.extension().is_some_and(|end| end == "rs") && !path.to_string_lossy().contains("test"));
    own.chain(folders.iter().flat_map(|folder| sources(folder))).collect()
}

#[test]
fn every_layer_uses_only_those_above_it() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let mut seen = 0;
    let mut wrong = Vec::new();
    for path in sources(&root) {
        let within = path.strip_prefix(&root).unwrap();
        let Some(folder) = within.iter().next().filter(|_| within.components().count() > 1).map(|name| name.to_string_lossy().into_owned())
        else {
            continue;
        };
        assert!(LAYERS.contains(&folder.as_str()) || BESIDE.iter().any(|(name, _)| *name == folder), "{folder} is in no layer");
        seen += 1;
        let code = std::fs::read_to_string(&path).unwrap();
        wrong.extend(down(&folder, &code).into_iter().map(|to| format!("{} uses {to}", within.display())));
    }
    assert!(seen > 80, "only {seen} files were read");
    assert!(wrong.is_empty(), "{wrong:#?}");
}

#[test]
fn a_path_that_points_down_is_found() {
    assert_eq!(down("evidence", "use crate::assess::judge;\nuse crate::kernel::units::Volts;"), ["assess"]);
    assert_eq!(down("record", "fn f() { crate::plan::gates::gates() }"), ["plan"]);
    assert_eq!(down("predict", "use crate::{evidence::power, report::sheet};"), ["report"]);
    assert_eq!(down("tones", "use crate::predict::known::Prior;"), ["predict"]);
    assert_eq!(down("plan", "use crate::live::Method;"), ["live"]);
    assert_eq!(down("live", "use crate::instruments::Role;\nuse crate::plan::gates;"), Vec::<String>::new());
    assert_eq!(down("kernel", "// crate::report\n#[cfg(test)]\nmod tests { use crate::report::sheet; }"), Vec::<String>::new());
}
