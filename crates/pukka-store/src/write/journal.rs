//! The journal: what was done, by whom, in which tab. Undo and redo ([`crate::undo`]) are entries of their own.

use serde::Serialize;

use crate::write::WriteTx;

use crate::{Author, StoreError};

/// Record that an act was done to.
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
    View,
}

impl Entity {
    const ALL: [Self; 13] = [
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
        Self::View,
    ];

    /// Things that are done at the bench: undo there leaves claims and amplifiers alone.
    pub(crate) const AT_THE_BENCH: [Self; 7] =
        [Self::Rung, Self::Gate, Self::Run, Self::Session, Self::Remark, Self::Step, Self::RestReading];

    /// The entity of a row; a word that no version wrote means a damaged journal.
    pub(crate) fn of_word(word: &str) -> Result<Self, StoreError> {
        let unknown = || StoreError::UnknownEntity { word: word.to_owned() };
        Self::ALL.into_iter().find(|entity| entity.word() == word).ok_or_else(unknown)
    }

    pub(crate) const fn word(self) -> &'static str {
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
            Self::View => "view",
        }
    }
}

/// A change, as the journal notes it.
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
    tx: &WriteTx,
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
    tx.acted(&author.tab);
    Ok(())
}
