//! The shelf: a line an amplifier, sorted, filtered and paged by the database.

use std::fmt::Write as _;

use pukka_core::RULES_VERSION;
use pukka_core::report::summary::{Summary, folded};
use rusqlite::types::Value;
use rusqlite::{Connection, params_from_iter};

use crate::StoreError;
use crate::read::summaries;

/// A line of the shelf.
#[derive(Debug, Clone, PartialEq)]
pub struct ShelfRow {
    /// Id of the amplifier.
    pub id: String,
    /// Time of the last change.
    pub updated_at: String,
    /// Summary of the session in hand.
    pub summary: Summary,
}

/// Order of the shelf.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum ShelfOrder {
    /// By the last change.
    #[default]
    Date,
    /// By make and model.
    Name,
    /// By the word of the verdict: from modest to a tall tale, then what has none.
    Verdict,
    /// By the stage of the work.
    Stage,
    /// By class.
    Class,
    /// By purpose.
    Purpose,
    /// By price.
    Price,
    /// By clean watts at the headline's load.
    CleanWatts,
    /// By the headline claim.
    Headline,
}

impl ShelfOrder {
    /// SQL of the sort key. What has none sorts last, whichever way.
    fn key(self, descending: bool) -> String {
        let rank = |column: &str, words: &[&str]| {
            let mut sql = format!("CASE y.{column}");
            for (n, word) in words.iter().enumerate() {
                let _ = write!(sql, " WHEN '{word}' THEN {n}");
            }
            sql + " END"
        };
        let key = match self {
            Self::Date => "max(a.updated_at, s.updated_at)".to_owned(),
            Self::Name => "lower(y.name)".to_owned(),
            Self::Verdict => rank("verdict", &["modest", "pukka", "near-enough", "optimistic", "tall-tale", "open"]),
            Self::Stage => rank("stage", &["no-claims", "not-run", "under-test", "tested", "died"]),
            Self::Class => "y.class".to_owned(),
            Self::Purpose => "y.purpose".to_owned(),
            Self::Price => "y.price".to_owned(),
            Self::CleanWatts => "y.clean_w".to_owned(),
            Self::Headline => "y.headline_w".to_owned(),
        };
        // Numbers sort before text in SQLite: an empty text is above every number, and a number below every text.
        let last = match (self, descending) {
            (Self::Date, _) => return key,
            (Self::Name | Self::Class | Self::Purpose, false) => "char(1114111)",
            (Self::Name | Self::Class | Self::Purpose, true) => "''",
            (_, false) => "1e300",
            (_, true) => "-1e300",
        };
        format!("coalesce({key}, {last})")
    }
}

/// Search terms on the shelf. An empty list asks for nothing.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct ShelfQuery {
    /// Words that all stand in a line's name, state or subtitle, or begin a word of what was written.
    pub words: Vec<String>,
    /// Words of verdicts, in their file form.
    pub verdicts: Vec<String>,
    /// Stages of the work, in their file form.
    pub stages: Vec<String>,
    /// Classes, in their file form.
    pub classes: Vec<String>,
    /// Purposes, in their file form.
    pub purposes: Vec<String>,
    /// Tags: each of them.
    pub tags: Vec<String>,
    /// Whether those that are put away are shown, and no others; nothing asks for all.
    pub archived: Option<bool>,
    /// Highest price.
    pub price_most: Option<f64>,
    /// Fewest clean watts.
    pub clean_least_w: Option<f64>,
    /// Order.
    pub order: ShelfOrder,
    /// Whether the largest, the latest, the last of the alphabet comes first.
    pub descending: bool,
}

impl ShelfQuery {
    /// Conditions in SQL with their values.
    fn conditions(&self) -> (String, Vec<Value>) {
        let (mut sql, mut values) = (String::new(), Vec::new());
        for (column, wanted) in
            [("verdict", &self.verdicts), ("stage", &self.stages), ("class", &self.classes), ("purpose", &self.purposes)]
        {
            if !wanted.is_empty() {
                let marks = vec!["?"; wanted.len()].join(", ");
                let _ = write!(sql, " AND y.{column} IN ({marks})");
                values.extend(wanted.iter().cloned().map(Value::Text));
            }
        }
        for tag in &self.tags {
            sql.push_str(" AND EXISTS (SELECT 1 FROM json_each(a.tags) t WHERE t.value = ?)");
            values.push(Value::Text(tag.clone()));
        }
        match self.archived {
            Some(true) => sql.push_str(" AND a.archived"),
            Some(false) => sql.push_str(" AND NOT coalesce(a.archived, 0)"),
            None => {}
        }
        for word in &self.words {
            // On its line anywhere; in what was written, where a word begins so.
            sql.push_str(
                " AND (instr(y.words, ?) > 0 OR a.id IN (SELECT d.amplifier_id FROM written w JOIN written_doc d ON d.doc = w.rowid WHERE w.text MATCH ?))",
            );
            let word = folded(word);
            // In quotes nothing is a word of the query's own language; a zero would end it.
            let phrase = format!("\"{}\"*", word.replace('\0', " ").replace('"', "\"\""));
            values.extend([Value::Text(word), Value::Text(phrase)]);
        }
        if let Some(most) = self.price_most {
            sql.push_str(" AND y.price <= ?");
            values.push(Value::Real(most));
        }
        if let Some(least) = self.clean_least_w {
            sql.push_str(" AND y.clean_w >= ?");
            values.push(Value::Real(least));
        }
        (sql, values)
    }
}

/// The last line of a page: its sort key, and the id.
#[derive(Debug, Clone, PartialEq)]
pub struct ShelfAfter {
    /// Sort key: a number or a text.
    pub key: Value,
    /// Id of the amplifier.
    pub id: String,
}

/// A page of the shelf.
#[derive(Debug, Clone, PartialEq)]
pub struct ShelfPage {
    /// Lines.
    pub rows: Vec<ShelfRow>,
    /// Start of the next page.
    pub next: Option<ShelfAfter>,
    /// Number of lines on all pages; counted for the first one only.
    pub found: Option<usize>,
}

/// Read from indices alone, and from no more of them than a question needs: bodies of summaries are read for the lines of a page.
const AMPLIFIERS: &str = "FROM amplifier a INDEXED BY amplifier_shelf";
const SESSIONS: &str = " JOIN session s INDEXED BY session_shelf ON s.id = a.session_in_hand";
const SUMMARIES: &str = " LEFT JOIN summary y INDEXED BY summary_shelf ON y.session_id = s.id";
const ON_SHELF: &str = " WHERE a.deleted_at IS NULL";

/// Whether a part of a question is about summaries.
fn asks_summaries(sql: &str) -> bool {
    sql.contains("y.")
}

/// Every amplifier on the shelf, the one last worked on first.
///
/// # Errors
/// [`StoreError`].
pub fn whole_shelf(tx: &Connection) -> Result<Vec<ShelfRow>, StoreError> {
    let query = ShelfQuery { descending: true, ..ShelfQuery::default() };
    Ok(shelf(tx, &query, None, usize::MAX)?.rows)
}

/// A page of the shelf. Reads summaries only. A summary that a write has just left outdated is sorted and filtered by what it said
/// before, and shown as it is now.
///
/// # Errors
/// [`StoreError`].
pub fn shelf(tx: &Connection, query: &ShelfQuery, after: Option<&ShelfAfter>, limit: usize) -> Result<ShelfPage, StoreError> {
    let (conditions, mut values) = query.conditions();
    let key = query.order.key(query.descending);
    let (way, beyond) = if query.descending { ("DESC", "<") } else { ("ASC", ">") };
    let summaries_too = if asks_summaries(&conditions) || asks_summaries(&key) { SUMMARIES } else { "" };
    // For the first page; in the same pass where what is counted are summaries.
    let in_pass = after.is_none() && asks_summaries(&conditions);
    let apart = match after {
        None if !in_pass => {
            let sql = format!("SELECT count(*) {AMPLIFIERS}{ON_SHELF}{conditions}");
            Some(tx.prepare_cached(&sql)?.query_row(params_from_iter(&values), |row| row.get::<_, i64>(0))?)
        }
        _ => None,
    };
    let count = if in_pass { "count(*) OVER ()" } else { "0" };
    let mut onward = String::new();
    if let Some(after) = after {
        onward = format!(" AND ({key}, a.id) {beyond} (?, ?)");
        values.extend([after.key.clone(), Value::Text(after.id.clone())]);
    }
    values.extend([Value::Integer(i64::try_from(limit).unwrap_or(i64::MAX)), Value::Integer(RULES_VERSION.into())]);
    let mut statement = tx.prepare_cached(&format!(
        "SELECT p.id, p.at, iif(b.fresh AND b.rules_version = ?, b.body, NULL), p.session_id, p.sorted, p.found
         FROM (SELECT a.id AS id, max(a.updated_at, s.updated_at) AS at, s.id AS session_id, {key} AS sorted, {count} AS found
               {AMPLIFIERS}{SESSIONS}{summaries_too}{ON_SHELF}{conditions}{onward} ORDER BY sorted {way}, a.id {way} LIMIT ?) p
         LEFT JOIN summary b ON b.session_id = p.session_id ORDER BY p.sorted {way}, p.id {way}"
    ))?;
    // The last value stands first in the text.
    values.rotate_right(1);
    let mut rows = statement.query(params_from_iter(&values))?;
    let (mut found_rows, mut last, mut count) = (Vec::new(), None, 0i64);
    while let Some(row) = rows.next()? {
        let (body, session_id): (Option<String>, String) = (row.get(2)?, row.get(3)?);
        let summary = body.map_or_else(|| summaries::get(tx, &session_id), |body| summaries::parsed(&body))?;
        let id: String = row.get(0)?;
        last = Some(ShelfAfter { key: row.get(4)?, id: id.clone() });
        count = row.get(5)?;
        found_rows.push(ShelfRow { id, updated_at: row.get(1)?, summary });
    }
    let found = after.is_none().then(|| usize::try_from(apart.unwrap_or(count)).unwrap_or_default());
    let next = last.filter(|_| found_rows.len() == limit);
    Ok(ShelfPage { rows: found_rows, next, found })
}

/// Tags that are in use, with how many amplifiers have each; and how many are put away.
///
/// # Errors
/// [`StoreError`].
pub fn tags(tx: &Connection) -> Result<(Vec<(String, usize)>, usize), StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT t.value, count(*) FROM amplifier a, json_each(a.tags) t WHERE a.deleted_at IS NULL AND a.tags IS NOT NULL
         GROUP BY t.value ORDER BY lower(t.value)",
    )?;
    let rows = statement.query_map([], |row| Ok((row.get(0)?, row.get::<_, u32>(1)? as usize)))?;
    let tags = rows.collect::<Result<_, _>>()?;
    let away: u32 =
        tx.prepare_cached("SELECT count(*) FROM amplifier WHERE deleted_at IS NULL AND archived")?.query_row([], |row| row.get(0))?;
    Ok((tags, away as usize))
}
