//! How the claims of each maker came out, year by year.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::{CaseShare, Entry, share};
use crate::assess::Overall;
use crate::report::summary::folded;

/// A maker on the shelf.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct MakerRow {
    /// Name.
    pub make: String,
    /// Claims that were tested.
    pub tested: u32,
    /// Of those, how many came out true.
    pub kept: u32,
    /// CaseShare that fell short; nothing of few.
    pub short_share: Option<CaseShare>,
    /// Year by year.
    pub years: Vec<YearRow>,
    /// Its models, the newest test first.
    pub models: Vec<ModelRow>,
}

/// A year of a maker.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct YearRow {
    /// The year of the tests.
    pub year: i16,
    /// Claims tested.
    pub tested: u32,
    /// Of those, how many came out true.
    pub kept: u32,
}

/// A model of a maker.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ModelRow {
    /// Id on the shelf.
    pub id: String,
    /// Model.
    pub model: String,
    /// The day it was tested.
    #[schema(value_type = Option<String>, format = Date)]
    pub on: Option<jiff::civil::Date>,
    /// Claims tested.
    pub tested: u32,
    /// Of those, how many came out true.
    pub kept: u32,
    /// The word over all.
    pub overall: Option<Overall>,
    /// The same, as shown.
    pub overall_word: String,
}

pub(super) fn rows(entries: &[&Entry]) -> Vec<MakerRow> {
    let mut makers: BTreeMap<String, Vec<&Entry>> = BTreeMap::new();
    for entry in entries {
        makers.entry(folded(&entry.lesson.make)).or_default().push(entry);
    }
    let mut rows: Vec<MakerRow> = makers.into_values().map(maker).collect();
    rows.sort_by(|a, b| b.models.len().cmp(&a.models.len()).then_with(|| a.make.cmp(&b.make)));
    rows
}

fn maker(mut entries: Vec<&Entry>) -> MakerRow {
    entries.sort_by(|a, b| b.lesson.on.cmp(&a.lesson.on).then_with(|| a.lesson.model.cmp(&b.lesson.model)));
    let tested = |entry: &Entry| entry.lesson.kept + entry.lesson.short;
    let mut years: BTreeMap<i16, YearRow> = BTreeMap::new();
    for (entry, on) in entries.iter().filter_map(|entry| Some((entry, entry.lesson.on?))) {
        let year = years.entry(on.year()).or_insert(YearRow { year: on.year(), tested: 0, kept: 0 });
        year.tested += tested(entry);
        year.kept += entry.lesson.kept;
    }
    let all: u32 = entries.iter().map(|entry| tested(entry)).sum();
    let kept: u32 = entries.iter().map(|entry| entry.lesson.kept).sum();
    let model = |entry: &&Entry| ModelRow {
        id: entry.id.clone(),
        model: entry.lesson.model.clone(),
        on: entry.lesson.on,
        tested: tested(entry),
        kept: entry.lesson.kept,
        overall: entry.lesson.overall,
        overall_word: Overall::word_of(entry.lesson.overall).to_owned(),
    };
    MakerRow {
        make: entries.first().map(|entry| entry.lesson.make.clone()).unwrap_or_default(),
        tested: all,
        kept,
        short_share: share(all - kept, all),
        years: years.into_values().collect(),
        models: entries.iter().map(model).collect(),
    }
}
