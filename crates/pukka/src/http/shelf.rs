//! The shelf: what is asked of it, and a page of the answer.

use axum::Json;
use axum::extract::State as Ask;
use base64::Engine as _;
use base64::engine::general_purpose::URL_SAFE_NO_PAD;
use pukka_core::assess::Overall;
use pukka_core::kernel::problem::Problem;
use pukka_core::record::amplifier::{Class, Purpose};
use pukka_core::report::summary::{Stage, Summary};
use pukka_store::amplifiers::{self, ShelfAfter, ShelfOrder, ShelfQuery};
use pukka_store::rusqlite::types::Value;
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};

use super::paging::limit_of;
use super::path::Query;
use super::{ApiError, State};

/// An amplifier on the shelf.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ShelfItem {
    /// Id of the amplifier.
    pub id: String,
    /// Time of the last change.
    pub updated_at: String,
    /// Summary of the session in hand.
    pub summary: Summary,
}

/// A page of the shelf.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Shelf {
    /// Amplifiers of the page.
    pub amplifiers: Vec<ShelfItem>,
    /// Start of the next page; nothing at the end.
    pub next: Option<String>,
    /// Number of amplifiers on all pages; counted for the first page only.
    pub found: Option<usize>,
    /// Whether the largest, latest or last comes first.
    pub descending: bool,
    /// Tags in use anywhere on the shelf; told with the first page only.
    pub tags: Vec<TagInUse>,
    /// Amplifiers that are put away; told with the first page only.
    pub archived: usize,
}

/// A tag that is in use.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TagInUse {
    /// The tag.
    pub tag: String,
    /// Amplifiers that have it.
    pub count: usize,
}

/// Sort key of the shelf.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum SortBy {
    /// The last change.
    #[default]
    Date,
    /// Make and model.
    Name,
    /// Word of the verdict.
    Verdict,
    /// Stage of the work.
    Stage,
    /// Class.
    Class,
    /// Purpose.
    Purpose,
    /// Price.
    Price,
    /// Clean watts at the headline's load.
    Clean,
    /// Headline claim.
    Headline,
}

impl SortBy {
    const fn order(self) -> ShelfOrder {
        match self {
            Self::Date => ShelfOrder::Date,
            Self::Name => ShelfOrder::Name,
            Self::Verdict => ShelfOrder::Verdict,
            Self::Stage => ShelfOrder::Stage,
            Self::Class => ShelfOrder::Class,
            Self::Purpose => ShelfOrder::Purpose,
            Self::Price => ShelfOrder::Price,
            Self::Clean => ShelfOrder::CleanWatts,
            Self::Headline => ShelfOrder::Headline,
        }
    }

    /// The large, the late and the grave are looked for first; names and prices from their beginning.
    const fn usually_descends(self) -> bool {
        matches!(self, Self::Date | Self::Clean | Self::Headline)
    }
}

/// Search terms. Several values of one kind are separated by commas; any of them is found.
#[derive(Debug, Default, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct ShelfAsked {
    /// Rows at the most: 1 to 1000, 200 when left out.
    #[serde(default)]
    #[param(minimum = 1, maximum = 1000)]
    limit: Option<usize>,
    /// The `next` of the page before.
    #[serde(default)]
    after: Option<String>,
    /// Words that all stand in the name, the state or what is said under the name, or begin a word of what was written: notes, likes,
    /// parts, reasons.
    #[serde(default)]
    find: Option<String>,
    /// Sort key; the last change when left out.
    #[serde(default)]
    #[param(inline)]
    sort: Option<SortBy>,
    /// Largest, latest or last first.
    #[serde(default)]
    descending: Option<bool>,
    /// Verdicts: `modest`, `pukka`, `near-enough`, `optimistic`, `tall-tale`, `open`.
    #[serde(default)]
    verdict: Option<String>,
    /// Stages: `no-claims`, `not-run`, `under-test`, `tested`, `died`.
    #[serde(default)]
    stage: Option<String>,
    /// Classes: `AB`, `D`, `GH`, `other`.
    #[serde(default)]
    class: Option<String>,
    /// Purposes: `full-range`, `subwoofer`.
    #[serde(default)]
    purpose: Option<String>,
    /// Tags: an amplifier has each of them.
    #[serde(default)]
    tag: Option<String>,
    /// Whether those that are put away are shown in place of the others.
    #[serde(default)]
    archived: bool,
    /// Highest price, in whichever currency.
    #[serde(default)]
    #[param(minimum = 0)]
    price_most: Option<f64>,
    /// Fewest clean watts at the headline's load.
    #[serde(default)]
    #[param(minimum = 0)]
    clean_least: Option<f64>,
}

const MOST_FOUND_CHARS: usize = 200;

/// The values of a list, by their words in files.
pub(super) fn words_of<T: DeserializeOwned>(name: &str, list: Option<&String>, problems: &mut Vec<Problem>) -> Vec<T> {
    let words = list.into_iter().flat_map(|list| list.split(',')).map(str::trim).filter(|word| !word.is_empty());
    let value = |word: &str| {
        let known = serde_json::from_value(word.into());
        known.map_err(|_| problems.push(Problem::new(name, format!("“{word}” is not known here.")))).ok()
    };
    words.filter_map(value).collect()
}

/// The words of a search.
pub(super) fn found_words(find: Option<&String>, problems: &mut Vec<Problem>) -> Vec<String> {
    let find = find.map(String::as_str).unwrap_or_default();
    if find.chars().count() > MOST_FOUND_CHARS {
        problems.push(Problem::new("find", format!("A search has {MOST_FOUND_CHARS} characters at most.")));
    }
    find.split_whitespace().map(str::to_owned).collect()
}

/// Values as words again: the database knows them so.
fn as_words(values: &[impl Serialize]) -> Vec<String> {
    values.iter().filter_map(|value| serde_json::to_value(value).ok()?.as_str().map(str::to_owned)).collect()
}

impl ShelfAsked {
    fn query(&self) -> Result<ShelfQuery, ApiError> {
        let mut problems = Vec::new();
        let sort = self.sort.unwrap_or_default();
        let query = ShelfQuery {
            words: found_words(self.find.as_ref(), &mut problems),
            verdicts: as_words(&words_of::<Overall>("verdict", self.verdict.as_ref(), &mut problems)),
            stages: as_words(&words_of::<Stage>("stage", self.stage.as_ref(), &mut problems)),
            classes: as_words(&words_of::<Class>("class", self.class.as_ref(), &mut problems)),
            purposes: as_words(&words_of::<Purpose>("purpose", self.purpose.as_ref(), &mut problems)),
            tags: self.tag.iter().flat_map(|list| list.split(',')).map(|tag| tag.trim().to_owned()).filter(|tag| !tag.is_empty()).collect(),
            archived: Some(self.archived),
            price_most: self.price_most,
            clean_least_w: self.clean_least,
            order: sort.order(),
            descending: self.descending.unwrap_or_else(|| sort.usually_descends()),
        };
        if problems.is_empty() { Ok(query) } else { Err(ApiError::invalid(problems)) }
    }
}

/// A cursor as it is sent: the order it belongs to, the sort key, the id.
#[derive(Debug, Serialize, Deserialize)]
struct Cursor(SortBy, bool, serde_json::Value, String);

impl Cursor {
    fn of(asked: &ShelfAsked, query: &ShelfQuery, after: ShelfAfter) -> String {
        let key = match after.key {
            Value::Integer(n) => n.into(),
            Value::Real(n) => n.into(),
            Value::Text(text) => text.into(),
            Value::Null | Value::Blob(_) => serde_json::Value::Null,
        };
        let cursor = Self(asked.sort.unwrap_or_default(), query.descending, key, after.id);
        URL_SAFE_NO_PAD.encode(serde_json::to_vec(&cursor).unwrap_or_default())
    }

    fn read(text: &str, asked: &ShelfAsked, query: &ShelfQuery) -> Result<ShelfAfter, ApiError> {
        let cursor = URL_SAFE_NO_PAD.decode(text).ok().and_then(|bytes| serde_json::from_slice::<Self>(&bytes).ok());
        let bad = || ApiError::invalid(vec![Problem::new("after", "This is no cursor of this order: take the `next` of the page before.")]);
        let Self(sort, descending, key, id) = cursor.ok_or_else(bad)?;
        if (sort, descending) != (asked.sort.unwrap_or_default(), query.descending) {
            return Err(bad());
        }
        let key = match key {
            serde_json::Value::String(text) => Value::Text(text),
            serde_json::Value::Number(n) => n.as_i64().map(Value::Integer).or_else(|| n.as_f64().map(Value::Real)).ok_or_else(bad)?,
            _ => return Err(bad()),
        };
        Ok(ShelfAfter { key, id })
    }
}

/// The shelf, sorted and filtered, a page at a time.
#[utoipa::path(get, operation_id = "listAmplifiers", path = "/amplifiers", params(ShelfAsked),
    responses((status = 200, body = Shelf)))]
pub async fn list(Ask(state): Ask<State>, Query(asked): Query<ShelfAsked>) -> Result<Json<Shelf>, ApiError> {
    let (query, limit) = (asked.query()?, limit_of(asked.limit)?);
    let after = asked.after.as_deref().map(|text| Cursor::read(text, &asked, &query)).transpose()?;
    let wanted = query.clone();
    let work = move |store: &pukka_store::Store| {
        store.read(|tx| {
            let page = amplifiers::shelf(tx, &wanted, after.as_ref(), limit)?;
            let (tags, archived) = if after.is_none() { amplifiers::tags(tx)? } else { (Vec::new(), 0) };
            Ok((page, tags, archived))
        })
    };
    let (page, tags, archived) = state.records(work).await?;
    let tags = tags.into_iter().map(|(tag, count)| TagInUse { tag, count }).collect();
    let amplifiers = page.rows.into_iter().map(|row| ShelfItem { id: row.id, updated_at: row.updated_at, summary: row.summary }).collect();
    let next = page.next.map(|after| Cursor::of(&asked, &query, after));
    Ok(Json(Shelf { amplifiers, next, found: page.found, descending: query.descending, tags, archived }))
}
