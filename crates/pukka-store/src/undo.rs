//! Undo and redo: what a tab did is taken back, or done again, by entries of the journal. Nothing is deleted.
//!
//! An act stands when no standing entry takes it back. Undo adds an entry that names the act; redo adds one that names the undo.
//! Acts of one batch go together. A new act ends what can be done again.

use pukka_core::record::amplifier::Amplifier;
use pukka_core::record::bench::BenchProfile;
use pukka_core::record::claims::Claim;
use pukka_core::record::session::PlannedRung;
use rusqlite::{Connection, Row};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};

use crate::rows::codec::Table;
use crate::rows::photos::{self, Photo};
use crate::rows::sessions::{self, Settings};
use crate::rows::views::{self as view_rows, SavedView};
use crate::rows::{amplifiers, arming, claims, gates, remarks, rests, rungs, runs, settled, steps};
use crate::write::journal::Entity;
use crate::write::{WriteTx, benches, retests, views};
use crate::{Author, StoreError};

/// The act of a tab that is meant.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct ExpectedAct {
    /// The act that is expected to come next; refused when another does.
    pub act: Option<i64>,
    /// Only what was done at the bench of this amplifier: runs, steps, rests, gates, what is set.
    pub at_bench_of: Option<String>,
}

/// An act, or several that were done at once, as a list shows it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct ActRow {
    /// Number of the newest act of it.
    pub act: i64,
    /// Time when it was done.
    pub at: String,
    /// "logged 1 Ω, certified".
    pub says: String,
    /// The amplifier it was done to.
    pub amplifier_id: String,
}

/// Acts that undo and redo would do next, the next one first.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Next {
    /// Acts that can be taken back.
    pub undo: Vec<ActRow>,
    /// Acts that can be done again.
    pub redo: Vec<ActRow>,
}

/// Act that undo took back, or redo did again.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Reversal {
    /// "logged 1 Ω, certified".
    pub says: String,
    /// The amplifier it was done to.
    pub amplifier_id: String,
    /// Whether that amplifier is on the shelf now.
    pub on_shelf: bool,
}

struct Act {
    id: i64,
    at: String,
    entity: Entity,
    entity_id: String,
    amplifier_id: String,
    says: String,
    before: Option<String>,
    after: Option<String>,
    revision_after: i64,
    batch: Option<String>,
    /// The entry that took it back, of one that can be done again.
    undone_by: Option<i64>,
}

impl Act {
    fn of_row(row: &Row) -> Result<Self, StoreError> {
        let word: String = row.get(2)?;
        Ok(Self {
            id: row.get(0)?,
            at: row.get(1)?,
            entity: Entity::of_word(&word)?,
            entity_id: row.get(3)?,
            amplifier_id: row.get(4)?,
            says: row.get(5)?,
            before: row.get(6)?,
            after: row.get(7)?,
            revision_after: row.get(8)?,
            batch: row.get(9)?,
            undone_by: row.get(10)?,
        })
    }

    fn is_with(&self, newest: &Self) -> bool {
        self.id == newest.id || (self.batch.is_some() && self.batch == newest.batch)
    }
}

/// Rows read for a list: more than anybody takes back one by one.
const MOST_ROWS: usize = 400;
const MOST_LISTED: usize = 20;

const STANDING: &str =
    "SELECT a.id, a.at, a.entity, a.entity_id, a.amplifier_id, a.says, a.before, a.after, a.revision_after, a.batch, NULL
    FROM act a WHERE a.tab = ?1 AND a.undoes IS NULL
      AND NOT EXISTS (SELECT 1 FROM act u WHERE u.undoes = a.id AND NOT EXISTS (SELECT 1 FROM act r WHERE r.undoes = u.id))
    ORDER BY a.id DESC";

/// The last that was taken back comes first; nothing once the tab did something new.
const TAKEN_BACK: &str =
    "SELECT a.id, a.at, a.entity, a.entity_id, a.amplifier_id, a.says, a.before, a.after, a.revision_after, a.batch, u.id
    FROM act u JOIN act a ON a.id = u.undoes AND a.undoes IS NULL
    WHERE u.tab = ?1 AND u.id > (SELECT coalesce(max(id), 0) FROM act WHERE tab = ?1 AND undoes IS NULL)
      AND NOT EXISTS (SELECT 1 FROM act r WHERE r.undoes = u.id)
    ORDER BY u.id DESC";

/// Acts that this tab can take back and do again.
///
/// # Errors
/// [`StoreError`].
pub fn next(tx: &Connection, tab: &str, at_bench_of: Option<&str>) -> Result<Next, StoreError> {
    let listed = |sql| Ok::<_, StoreError>(rows(grouped(select(tx, sql, tab, at_bench_of)?)));
    Ok(Next { undo: listed(STANDING)?, redo: listed(TAKEN_BACK)? })
}

/// Takes back the last act of the author's tab that stands, with all that was done at once with it.
///
/// # Errors
/// [`StoreError::NothingToUndo`]; [`StoreError::NotNext`] when another act than the one wanted comes next;
/// [`StoreError::Conflict`] when somebody changed the same record since.
pub fn undo(tx: &WriteTx, author: &Author, wanted: &ExpectedAct) -> Result<Reversal, StoreError> {
    turn(tx, author, wanted, STANDING, StoreError::NothingToUndo, |tx, act| {
        bring(tx, author, act, Way::Back)?;
        enter(tx, author, act, act.id, "took back")
    })
}

/// Does again what the author's tab took back last, with all that was taken back with it.
///
/// # Errors
/// [`StoreError::NothingToRedo`]; else as [`undo`].
pub fn redo(tx: &WriteTx, author: &Author, wanted: &ExpectedAct) -> Result<Reversal, StoreError> {
    turn(tx, author, wanted, TAKEN_BACK, StoreError::NothingToRedo, |tx, act| {
        bring(tx, author, act, Way::Forth)?;
        enter(tx, author, act, act.undone_by.unwrap_or(act.id), "did again")
    })
}

fn turn(
    tx: &WriteTx,
    author: &Author,
    wanted: &ExpectedAct,
    sql: &str,
    nothing: StoreError,
    each: impl Fn(&WriteTx, &Act) -> Result<(), StoreError>,
) -> Result<Reversal, StoreError> {
    let acts = grouped(select(tx, sql, &author.tab, wanted.at_bench_of.as_deref())?).into_iter().next().ok_or(nothing)?;
    let [newest, ..] = acts.as_slice() else { return Err(StoreError::Broken) };
    if wanted.act.is_some_and(|act| act != newest.id) {
        return Err(StoreError::NotNext { says: said(&acts) });
    }
    // An armed run may have been judged on it.
    arming::disarm_of(tx, author, &newest.amplifier_id, "an act was taken back, or done again")?;
    for act in &acts {
        each(tx, act)?;
    }
    let on_shelf = amplifiers::TABLE.revision(tx, &newest.amplifier_id).is_ok();
    if on_shelf {
        tx.touched(&newest.amplifier_id);
    }
    Ok(Reversal { says: said(&acts), amplifier_id: newest.amplifier_id.clone(), on_shelf })
}

fn enter(tx: &WriteTx, author: &Author, act: &Act, undoes: i64, word: &str) -> Result<(), StoreError> {
    tx.prepare_cached(
        "INSERT INTO act (at, who, tab, entity, entity_id, amplifier_id, says, before, after, undoes)
         SELECT ?1, ?2, ?3, entity, entity_id, amplifier_id, ?4 || ': ' || says, after, before, ?5 FROM act WHERE id = ?6",
    )?
    .execute((author.at.to_string(), &author.who, &author.tab, word, undoes, act.id))?;
    Ok(())
}

fn select(tx: &Connection, sql: &str, tab: &str, at_bench_of: Option<&str>) -> Result<Vec<Act>, StoreError> {
    let mut statement = tx.prepare_cached(sql)?;
    let mut found = statement.query([tab])?;
    let mut acts = Vec::new();
    while let Some(row) = found.next()? {
        let act = Act::of_row(row)?;
        if at_bench_of.is_none_or(|amplifier| act.amplifier_id == amplifier && Entity::AT_THE_BENCH.contains(&act.entity)) {
            acts.push(act);
        }
        if acts.len() >= MOST_ROWS {
            break;
        }
    }
    Ok(acts)
}

/// Acts of one batch together, in the order they came.
fn grouped(acts: Vec<Act>) -> Vec<Vec<Act>> {
    let mut groups: Vec<Vec<Act>> = Vec::new();
    for act in acts {
        match groups.last_mut() {
            Some(group) if group.first().is_some_and(|newest| act.is_with(newest)) => group.push(act),
            _ => groups.push(vec![act]),
        }
    }
    groups
}

fn rows(groups: Vec<Vec<Act>>) -> Vec<ActRow> {
    let row = |acts: Vec<Act>| {
        let says = said(&acts);
        acts.into_iter().next().map(|newest| ActRow { act: newest.id, at: newest.at, says, amplifier_id: newest.amplifier_id })
    };
    groups.into_iter().take(MOST_LISTED).filter_map(row).collect()
}

fn said(acts: &[Act]) -> String {
    match acts {
        [] => String::new(),
        [only] => only.says.clone(),
        [newest, ..] => format!("{} ({} at once)", newest.says, acts.len()),
    }
}

/// The way that a record goes: to what it was before an act, or to what it was after it.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Way {
    Back,
    Forth,
}

fn bring(tx: &WriteTx, author: &Author, act: &Act, way: Way) -> Result<(), StoreError> {
    let id = act.entity_id.as_str();
    let now = author.at.to_string();
    let to = if way == Way::Back { &act.before } else { &act.after };
    // Of what is only made and taken back: nothing is there on that side of the act.
    let gone = to.is_none().then_some(now.as_str());
    match act.entity {
        Entity::Amplifier => record::<Amplifier>(tx, author, act, way, &amplifiers::TABLE, |revision, record| {
            amplifiers::put(tx, author, id, revision, record)
        }),
        Entity::Claim => {
            record::<Claim>(tx, author, act, way, &claims::TABLE, |revision, record| claims::put(tx, author, id, revision, record))
        }
        Entity::Rung => {
            record::<PlannedRung>(tx, author, act, way, &rungs::TABLE, |revision, record| rungs::put(tx, author, id, revision, record))
        }
        Entity::Session => {
            if to.is_none() {
                retests::must_be_empty(tx, id)?;
            }
            record::<Settings>(tx, author, act, way, &sessions::TABLE, |revision, record| sessions::put(tx, author, id, revision, record))
        }
        Entity::Bench => {
            record::<BenchProfile>(tx, author, act, way, &benches::TABLE, |revision, record| benches::put(tx, author, id, revision, record))
        }
        Entity::Photo => {
            record::<Photo>(tx, author, act, way, &photos::TABLE, |revision, record| photos::put(tx, author, id, revision, record))
        }
        Entity::View => {
            record::<SavedView>(tx, author, act, way, &view_rows::TABLE, |revision, record| views::put(tx, author, id, revision, record))
        }
        Entity::Gate => gates::set_withdrawn(tx, id, gone),
        Entity::Remark => remarks::set_standing(tx, author, id, act.after.as_deref().unwrap_or_default(), way == Way::Forth),
        Entity::Step if way == Way::Back => steps::undo(tx, id, &now),
        Entity::Step => steps::redo(tx, id),
        Entity::RestReading => rests::set_dropped(tx, id, gone),
        Entity::Settled => settled::set_withdrawn(tx, id, gone),
        Entity::Run => {
            // Rows of level steps are free again when the run they were made into is taken back, and its own when that is done again.
            if act.after.is_some() {
                if way == Way::Back { steps::release(tx, id)? } else { steps::reclaim(tx, id)? }
            }
            runs::set_standing(tx, author, id, to.is_some(), if way == Way::Back { "undone" } else { "done again" })
        }
    }
}

fn record<T: DeserializeOwned>(
    tx: &WriteTx,
    author: &Author,
    act: &Act,
    way: Way,
    table: &Table,
    put: impl FnOnce(i64, &T) -> Result<(), StoreError>,
) -> Result<(), StoreError> {
    let id = act.entity_id.as_str();
    let (from, to) = if way == Way::Back { (&act.after, &act.before) } else { (&act.before, &act.after) };
    match (from, to) {
        (None, _) => {
            nothing_since_of(tx, act, table)?;
            table.set_deleted(tx, id, None)
        }
        (Some(_), None) => {
            nothing_since(tx, act, table)?;
            table.set_deleted(tx, id, Some(&author.at.to_string()))
        }
        (Some(_), Some(to)) => {
            let have = nothing_since(tx, act, table)?;
            let to = serde_json::from_str(to).map_err(|why| StoreError::Unreadable { what: table.what, why })?;
            put(have + 1, &to)
        }
    }
}

/// Refuses to change a record under a later act on it that still stands, whoever did it; returns the record's revision.
fn nothing_since(tx: &WriteTx, act: &Act, table: &Table) -> Result<i64, StoreError> {
    let have = table.revision(tx, &act.entity_id)?;
    nothing_since_of(tx, act, table)?;
    Ok(have)
}

/// Likewise, of a record that may be deleted. Revisions alone do not tell: undoing the later acts raised them.
fn nothing_since_of(tx: &WriteTx, act: &Act, table: &Table) -> Result<(), StoreError> {
    let later: bool = tx
        .prepare_cached(
            "SELECT EXISTS (SELECT 1 FROM act a WHERE a.entity = ?1 AND a.entity_id = ?2 AND a.id > ?3 AND a.undoes IS NULL
               AND NOT EXISTS (SELECT 1 FROM act u WHERE u.undoes = a.id AND NOT EXISTS (SELECT 1 FROM act r WHERE r.undoes = u.id)))",
        )?
        .query_row((act.entity.word(), &act.entity_id, act.id), |row| row.get(0))?;
    if later { Err(StoreError::Conflict { what: table.what, wanted: act.revision_after, have: act.revision_after + 1 }) } else { Ok(()) }
}
