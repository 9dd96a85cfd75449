//! Amplifiers that are the same under another name, and several specimens of one model.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::Entry;
use crate::assess::Overall;
use crate::kernel::format;
use crate::report::compare::{Joined, is_apart};
use crate::report::summary::folded;

/// Amplifiers that belong together.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Kin {
    /// Whether they are specimens of one model; else the same under other names.
    pub specimens: bool,
    /// The amplifiers, by name.
    pub members: Vec<Member>,
    /// How far their clean power is apart, at a load that all of them were tested at.
    pub says: Option<String>,
}

/// An amplifier of a group.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Member {
    /// Id on the shelf.
    pub id: String,
    /// Make and model.
    pub name: String,
    /// The word over all.
    pub overall: Option<Overall>,
    /// The same, as shown.
    pub overall_word: String,
    /// Clean power, as shown: "794 W at 2 Ω".
    pub clean: Option<String>,
}

pub(super) fn kin(entries: &[Entry]) -> Vec<Kin> {
    let keys: Vec<String> = entries.iter().map(|entry| folded(&entry.name())).collect();
    let mut models: BTreeMap<&str, Vec<usize>> = BTreeMap::new();
    for (at, key) in keys.iter().enumerate() {
        models.entry(key).or_default().push(at);
    }
    let mut all: Vec<Kin> = models.values().filter(|places| places.len() > 1).map(|places| group(true, entries, places)).collect();
    // Names that are said to be the same join their models, and whatever those are said to be the same as.
    let mut root: Vec<usize> = (0..entries.len()).collect();
    for (at, entry) in entries.iter().enumerate() {
        for other in &entry.lesson.look_alikes {
            for place in models.get(folded(other).as_str()).into_iter().flatten() {
                join(&mut root, at, *place);
            }
        }
    }
    let mut alike: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
    for at in 0..entries.len() {
        alike.entry(find(&root, at)).or_default().push(at);
    }
    let several_names = |places: &&Vec<usize>| places.iter().any(|place| keys.get(*place) != places.first().and_then(|at| keys.get(*at)));
    all.extend(alike.values().filter(several_names).map(|places| group(false, entries, places)));
    all
}

fn find(root: &[usize], mut at: usize) -> usize {
    while root[at] != at {
        at = root[at];
    }
    at
}

fn join(root: &mut [usize], one: usize, other: usize) {
    let (one, other) = (find(root, one), find(root, other));
    root[one.max(other)] = one.min(other);
}

fn group(specimens: bool, entries: &[Entry], places: &[usize]) -> Kin {
    let mut own: Vec<&Entry> = places.iter().map(|at| &entries[*at]).collect();
    own.sort_by_key(|entry| (entry.name(), entry.lesson.on));
    let member = |entry: &&Entry| Member {
        id: entry.id.clone(),
        name: entry.name(),
        overall: entry.lesson.overall,
        overall_word: Overall::word_of(entry.lesson.overall).to_owned(),
        clean: entry
            .lesson
            .clean
            .as_ref()
            .map(|clean| format!("{} at {}", format::with_unit(&format::watts(clean.watts), "W"), clean.load)),
    };
    Kin { specimens, says: apart(&own), members: own.iter().map(member).collect() }
}

/// How far the strongest and the weakest are apart, where all were tested at one load.
fn apart(own: &[&Entry]) -> Option<String> {
    let clean: Vec<_> = own.iter().filter_map(|entry| entry.lesson.clean.as_ref()).collect();
    let load = &clean.first()?.load;
    if clean.len() < 2 || clean.iter().any(|one| one.load != *load) {
        return None;
    }
    let most = clean.iter().max_by(|a, b| a.watts.total_cmp(&b.watts))?;
    let least = clean.iter().min_by(|a, b| a.watts.total_cmp(&b.watts))?;
    let percent = format::with_unit(&format::fixed(100.0 * (most.watts / least.watts - 1.0), 1), "%");
    let is_told = is_apart(&Joined::plain(most.watts, most.u_w), &Joined::plain(least.watts, least.u_w));
    let says = if is_told { "outside both ±" } else { "no difference to be told" };
    Some(format!("{percent} between the strongest and the weakest at {load}: {says}"))
}
