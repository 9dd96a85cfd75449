//! What died or protected itself, and where.

use serde::{Deserialize, Serialize};

use super::lesson::Try;
use super::{CaseShare, Entry, Fate, ToFloor, share};
use crate::record::bench::SupplyKind;

/// A line of a table.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct FateRow {
    /// "at its floor", "2 Ω".
    pub what: String,
    /// Amplifiers that were run there.
    pub cases: u32,
    /// Of those, how many protected themselves and did no more.
    pub protected: u32,
    /// Of those, how many smoked or died.
    pub died: u32,
    /// CaseShare that died; nothing of few cases.
    pub died_share: Option<CaseShare>,
    /// CaseShare that protected itself.
    pub protected_share: Option<CaseShare>,
}

/// A table of what became of amplifiers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct FateTable {
    /// "By the floor".
    pub title: String,
    /// Lines.
    pub rows: Vec<FateRow>,
}

impl FateRow {
    /// Each amplifier is one case, by the worst that happened to it there.
    fn of(what: &str, entries: &[&Entry], is_there: impl Fn(&Entry, &Try) -> bool) -> Option<Self> {
        let worst = |entry: &&Entry| entry.lesson.tries.iter().filter(|one| is_there(entry, one)).map(|one| one.fate).max();
        let fates: Vec<Fate> = entries.iter().filter_map(worst).collect();
        let count = |wanted: Fate| u32::try_from(fates.iter().filter(|fate| **fate == wanted).count()).unwrap_or(u32::MAX);
        let cases = u32::try_from(fates.len()).unwrap_or(u32::MAX);
        let (protected, died) = (count(Fate::Protected), count(Fate::Died));
        (cases > 0).then(|| Self {
            what: what.to_owned(),
            cases,
            protected,
            died,
            died_share: share(died, cases),
            protected_share: share(protected, cases),
        })
    }
}

pub(super) fn tables(entries: &[&Entry]) -> Vec<FateTable> {
    let table = |title: &str, rows: Vec<FateRow>| FateTable { title: title.into(), rows };
    let floors = [
        ("above its lowest rated load", ToFloor::Above),
        ("at its lowest rated load", ToFloor::At),
        ("below it", ToFloor::Below),
        ("lowest rated load not known", ToFloor::Unknown),
    ];
    let by_floor = floors.into_iter().filter_map(|(what, wanted)| FateRow::of(what, entries, |_, one| one.to_floor == wanted));
    let mut loads: Vec<(f64, &str)> =
        entries.iter().flat_map(|entry| &entry.lesson.tries).map(|one| (one.load_ohm, one.load.as_str())).collect();
    loads.sort_by(|a, b| b.0.total_cmp(&a.0));
    loads.dedup_by(|a, b| a.1 == b.1);
    let by_load = loads.into_iter().filter_map(|(_, load)| FateRow::of(load, entries, |_, one| one.load == load));
    let supplies =
        [("battery", SupplyKind::Battery), ("mains-powered supply", SupplyKind::Supply), ("battery and supply", SupplyKind::Both)];
    let by_supply = supplies.into_iter().filter_map(|(what, kind)| FateRow::of(what, entries, |entry, _| entry.lesson.supply == kind));
    let mut classes: Vec<_> = entries.iter().map(|entry| entry.lesson.class).collect();
    classes.sort_by_key(|class| class.words());
    classes.dedup();
    let by_class = classes.into_iter().filter_map(|class| FateRow::of(class.words(), entries, |entry, _| entry.lesson.class == class));
    vec![
        table("Against the lowest rated load", by_floor.collect()),
        table("By load", by_load.collect()),
        table("By supply", by_supply.collect()),
        table("By class", by_class.collect()),
    ]
}
