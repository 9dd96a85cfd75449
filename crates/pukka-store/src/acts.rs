//! What was done, by whom, in which tab; and undo, an act of its own.

use pukka_core::amplifier::Amplifier;
use pukka_core::bench::BenchProfile;
use pukka_core::claims::Claim;
use pukka_core::session::PlannedRung;
use rusqlite::Transaction;
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};

use crate::codec::Table;
use crate::photos::{self, Photo};
use crate::sessions::{self, Settings};
use crate::{Author, StoreError, amplifiers, arming, benches, claims, gates, remarks, rests, rungs, runs, settled, steps, summaries};

/// What an act was done to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Entity {
    Amplifier,
    Claim,
    Rung,
    Gate,
    Run,
    Session,
    Bench,
    Photo,
    Remark,
    Step,
    RestReading,
    Settled,
}

impl Entity {
    const ALL: [Self; 12] = [
        Self::Amplifier,
        Self::Claim,
        Self::Rung,
        Self::Gate,
        Self::Run,
        Self::Session,
        Self::Bench,
        Self::Photo,
        Self::Remark,
        Self::Step,
        Self::RestReading,
        Self::Settled,
    ];

    const fn word(self) -> &'static str {
        match self {
            Self::Amplifier => "amplifier",
            Self::Claim => "claim",
            Self::Rung => "rung",
            Self::Gate => "gate",
            Self::Run => "run",
            Self::Session => "session",
            Self::Bench => "bench",
            Self::Photo => "photo",
            Self::Remark => "remark",
            Self::Step => "step",
            Self::RestReading => "rest-reading",
            Self::Settled => "settled",
        }
    }
}

/// What was done.
pub(crate) struct Change<'a> {
    entity: Entity,
    id: &'a str,
    amplifier_id: &'a str,
    revision_after: i64,
    says: String,
}

impl<'a> Change<'a> {
    pub fn of(entity: Entity, id: &'a str, amplifier_id: &'a str, revision_after: i64, says: String) -> Self {
        Self { entity, id, amplifier_id, revision_after, says }
    }
}

/// Writes an act down: nothing before is a creation, nothing after a deletion.
pub(crate) fn record<T: Serialize>(
    tx: &Transaction,
    author: &Author,
    change: &Change,
    before: Option<&T>,
    after: Option<&T>,
) -> Result<(), StoreError> {
    let json = |value: Option<&T>| {
        value.map(serde_json::to_string).transpose().map_err(|why| StoreError::Unreadable { what: change.entity.word(), why })
    };
    tx.prepare_cached(
        "INSERT INTO act (at, who, tab, entity, entity_id, amplifier_id, says, before, after, revision_after, batch) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
    )?
    .execute((
        author.at.to_string(),
        &author.who,
        &author.tab,
        change.entity.word(),
        change.id,
        change.amplifier_id,
        &change.says,
        json(before)?,
        json(after)?,
        change.revision_after,
        &author.batch,
    ))?;
    Ok(())
}

/// What undo took back.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Undone {
    /// What had been done: "logged 1 Ω, certified".
    pub says: String,
    /// The amplifier it was done to.
    pub amplifier_id: String,
    /// Whether that amplifier is still on the shelf.
    pub on_shelf: bool,
}

struct Act {
    id: i64,
    entity: Entity,
    entity_id: String,
    amplifier_id: String,
    says: String,
    before: Option<String>,
    after: Option<String>,
    revision_after: i64,
}

/// Takes back the last act of the author's tab that was not taken back yet, with all that was done at once with it.
///
/// # Errors
/// [`StoreError::NothingToUndo`]; [`StoreError::Conflict`] when somebody changed the same record since.
pub fn undo(tx: &Transaction, author: &Author) -> Result<Undone, StoreError> {
    let acts = last(tx, &author.tab)?;
    let newest = acts.first().ok_or(StoreError::NothingToUndo)?;
    // What is taken back may be what an armed run was judged on.
    arming::disarm_of(tx, author, &newest.amplifier_id, "an act was taken back")?;
    for act in &acts {
        reverse(tx, author, act)?;
        tx.prepare_cached(
            "INSERT INTO act (at, who, tab, entity, entity_id, amplifier_id, says, before, after, undoes)
             SELECT ?1, ?2, tab, entity, entity_id, amplifier_id, 'took back: ' || says, after, before, id FROM act WHERE id = ?3",
        )?
        .execute((author.at.to_string(), &author.who, act.id))?;
    }
    let on_shelf = amplifiers::TABLE.revision(tx, &newest.amplifier_id).is_ok();
    if on_shelf {
        summaries::refresh(tx, &newest.amplifier_id)?;
    }
    let says = if acts.len() > 1 { format!("{} ({} at once)", newest.says, acts.len()) } else { newest.says.clone() };
    Ok(Undone { says, amplifier_id: newest.amplifier_id.clone(), on_shelf })
}

/// The last act of a tab that stands, and the others of its batch, the newest first.
fn last(tx: &Transaction, tab: &str) -> Result<Vec<Act>, StoreError> {
    let mut statement = tx.prepare_cached(
        "WITH standing AS (SELECT * FROM act WHERE tab = ?1 AND undoes IS NULL AND id NOT IN (SELECT undoes FROM act WHERE undoes IS NOT NULL)),
              newest AS (SELECT id, batch FROM standing ORDER BY id DESC LIMIT 1)
         SELECT s.id, s.entity, s.entity_id, s.amplifier_id, s.says, s.before, s.after, s.revision_after
         FROM standing s JOIN newest n ON s.id = n.id OR s.batch = n.batch ORDER BY s.id DESC",
    )?;
    let rows = statement.query_map([tab], |row| {
        let word: String = row.get(1)?;
        Ok(Act {
            id: row.get(0)?,
            entity: Entity::ALL.into_iter().find(|entity| entity.word() == word).unwrap_or(Entity::Run),
            entity_id: row.get(2)?,
            amplifier_id: row.get(3)?,
            says: row.get(4)?,
            before: row.get(5)?,
            after: row.get(6)?,
            revision_after: row.get(7)?,
        })
    })?;
    Ok(rows.collect::<Result<_, _>>()?)
}

fn reverse(tx: &Transaction, author: &Author, act: &Act) -> Result<(), StoreError> {
    let id = act.entity_id.as_str();
    match act.entity {
        Entity::Amplifier => reverse_record::<Amplifier>(tx, author, act, &amplifiers::TABLE, |revision, before| {
            amplifiers::put(tx, author, id, revision, before)
        }),
        Entity::Claim => {
            reverse_record::<Claim>(tx, author, act, &claims::TABLE, |revision, before| claims::put(tx, author, id, revision, before))
        }
        Entity::Rung => {
            reverse_record::<PlannedRung>(tx, author, act, &rungs::TABLE, |revision, before| rungs::put(tx, author, id, revision, before))
        }
        // Opening had nothing before it; taking a reason back has nothing after it.
        Entity::Gate => gates::set_withdrawn(tx, id, act.after.is_some().then(|| author.at.to_string()).as_deref()),
        Entity::Session => reverse_record::<Settings>(tx, author, act, &sessions::TABLE, |revision, before| {
            sessions::put(tx, author, id, revision, before)
        }),
        Entity::Bench => reverse_record::<BenchProfile>(tx, author, act, &benches::TABLE, |revision, before| {
            benches::put(tx, author, id, revision, before)
        }),
        Entity::Photo => {
            reverse_record::<Photo>(tx, author, act, &photos::TABLE, |revision, before| photos::put(tx, author, id, revision, before))
        }
        Entity::Remark => remarks::undo(tx, author, id, act.after.as_deref().unwrap_or_default()),
        Entity::Step => steps::undo(tx, id, &author.at.to_string()),
        Entity::RestReading => rests::set_dropped(tx, id, Some(&author.at.to_string())),
        Entity::Settled => settled::set_withdrawn(tx, id, Some(&author.at.to_string())),
        // Logging has nothing before it, taking back has nothing after it.
        Entity::Run => {
            if act.after.is_some() {
                steps::release(tx, id)?;
            }
            runs::set_standing(tx, author, id, act.after.is_none(), "undone")
        }
    }
}

fn reverse_record<T: DeserializeOwned>(
    tx: &Transaction,
    author: &Author,
    act: &Act,
    table: &Table,
    put: impl FnOnce(i64, &T) -> Result<(), StoreError>,
) -> Result<(), StoreError> {
    let id = act.entity_id.as_str();
    match (&act.before, &act.after) {
        (Some(_), None) => table.set_deleted(tx, id, None),
        (None, _) => {
            nothing_since(tx, act, table)?;
            table.set_deleted(tx, id, Some(&author.at.to_string()))
        }
        (Some(before), Some(_)) => {
            let have = nothing_since(tx, act, table)?;
            let before = serde_json::from_str(before).map_err(|why| StoreError::Unreadable { what: table.what, why })?;
            put(have + 1, &before)
        }
    }
}

/// Refuses to undo under a later act on the same record that still stands, whoever did it; returns the record's revision.
/// Revisions alone do not tell: undoing the later acts raised them.
fn nothing_since(tx: &Transaction, act: &Act, table: &Table) -> Result<i64, StoreError> {
    let have = table.revision(tx, &act.entity_id)?;
    let later: bool = tx
        .prepare_cached(
            "SELECT EXISTS (SELECT 1 FROM act WHERE entity = ?1 AND entity_id = ?2 AND id > ?3 AND undoes IS NULL
                            AND id NOT IN (SELECT undoes FROM act WHERE undoes IS NOT NULL))",
        )?
        .query_row((act.entity.word(), &act.entity_id, act.id), |row| row.get(0))?;
    if later { Err(StoreError::Conflict { what: table.what, wanted: act.revision_after, have }) } else { Ok(have) }
}
