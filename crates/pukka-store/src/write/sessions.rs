//! Sessions: one sitting of one amplifier on one bench, loaded whole for the core to compute with.

use pukka_core::record::session::{Idle, Session};

use crate::rows::{arming, benches};
use crate::write::WriteTx;
use crate::write::journal::{self, Change, Entity};
use crate::{Author, StoreError};

pub use crate::read::session::{KnownSession, SessionRow, in_hand, load, version};
pub use crate::rows::sessions::*;

impl Settings {
    fn of(row: &SessionRow) -> Self {
        let Session { plan, idle, gain, bench, policy, repairs, .. } = &row.session;
        Self {
            run_order: plan.order,
            rest_v: plan.rest_v,
            idle: *idle,
            gain: gain.clone(),
            bench_profile_id: row.bench_profile_id.clone(),
            bench: Some(bench.clone()),
            policy: Some(policy.clone()),
            repairs: repairs.clone(),
            tone_order: plan.tone_order,
            about: Some(About::of(&row.session)),
            bench_reason: None,
        }
    }
}

/// Changes what is set for a session. Once something was run on its bench, another one, or the same as it stands now, is taken
/// only with a reason: the figures follow.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`; [`StoreError::BenchInUse`]; [`StoreError::Armed`].
pub fn change(tx: &WriteTx, author: &Author, id: &str, revision: i64, settings: &Settings) -> Result<(), StoreError> {
    let amplifier_id = amplifier_of(tx, id)?;
    TABLE.expect_revision(tx, id, revision)?;
    arming::none_in(tx, id)?;
    let row = tx.session(id)?;
    let before = Settings::of(&row);
    let policy = settings.policy.clone().or_else(|| before.policy.clone());
    let about = settings.about.clone().or_else(|| before.about.clone());
    let mut after = Settings { bench: before.bench.clone(), policy, about, ..settings.clone() };
    let reason = settings.bench_reason.as_deref().map(str::trim).filter(|reason| !reason.is_empty());
    if after.bench_profile_id != before.bench_profile_id || reason.is_some() {
        if !row.session.runs.is_empty() && reason.is_none() {
            return Err(StoreError::BenchInUse);
        }
        if let Some(profile) = &after.bench_profile_id {
            after.bench = Some(benches::get(tx, profile)?.profile.bench());
        }
    }
    let says = reason.map_or_else(|| "changed the plan".to_owned(), |reason| format!("put the bench right: {reason}"));
    put(tx, author, id, revision + 1, &after)?;
    journal::record(tx, author, &Change::of(Entity::Session, id, &amplifier_id, revision + 1, says), Some(&before), Some(&after))?;
    tx.touched(&amplifier_id);
    Ok(())
}

/// Changes the facts of a session beside what was measured. `revision`: as it was seen; nothing where the change asks for none.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `revision`; what `change` refuses.
pub fn change_about(
    tx: &WriteTx,
    author: &Author,
    id: &str,
    revision: Option<i64>,
    says: &str,
    change: impl FnOnce(&SessionRow, &mut About) -> Result<(), StoreError>,
) -> Result<(), StoreError> {
    let amplifier_id = amplifier_of(tx, id)?;
    if let Some(revision) = revision {
        TABLE.expect_revision(tx, id, revision)?;
    }
    let row = tx.session(id)?;
    let before = Settings::of(&row);
    let mut about = About::of(&row.session);
    change(&row, &mut about)?;
    let after = Settings { about: Some(about), ..before.clone() };
    put(tx, author, id, row.revision + 1, &after)?;
    journal::record(
        tx,
        author,
        &Change::of(Entity::Session, id, &amplifier_id, row.revision + 1, says.into()),
        Some(&before),
        Some(&after),
    )?;
    tx.touched(&amplifier_id);
    Ok(())
}

/// Keeps the idle draw.
///
/// # Errors
/// [`StoreError`].
pub fn set_idle(tx: &WriteTx, author: &Author, id: &str, idle: Idle) -> Result<(), StoreError> {
    let amplifier_id = amplifier_of(tx, id)?;
    let row = tx.session(id)?;
    let before = Settings::of(&row);
    let after = Settings { idle: Some(idle), ..before.clone() };
    put(tx, author, id, row.revision + 1, &after)?;
    let change = Change::of(Entity::Session, id, &amplifier_id, row.revision + 1, "read the idle draw".into());
    journal::record(tx, author, &change, Some(&before), Some(&after))?;
    tx.touched(&amplifier_id);
    Ok(())
}

/// Takes bench, policy, idle draw, gain and order from a file.
pub(crate) fn replace_settings(tx: &WriteTx, author: &Author, id: &str, file: &Session) -> Result<(), StoreError> {
    let row = tx.session(id)?;
    let before = Settings::of(&row);
    let of_file = Settings::of(&SessionRow { session: file.clone(), ..SessionRow::clone(&row) });
    let after = Settings { about: Some(About::of(&row.session).told_by(About::of(file))), ..of_file };
    put(tx, author, id, row.revision + 1, &after)?;
    let extra = serde_json::to_string(&file.extra).map_err(|why| StoreError::Unreadable { what: TABLE.what, why })?;
    tx.prepare_cached("UPDATE session SET extra = ? WHERE id = ?")?.execute((extra, id))?;
    let change = Change::of(Entity::Session, id, &row.amplifier_id, row.revision + 1, "took the settings of a file".into());
    journal::record(tx, author, &change, Some(&before), Some(&after))
}

/// Notes which cautions are ticked.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such session.
pub fn tick(tx: &WriteTx, session_id: &str, code: &str, ticked: bool) -> Result<(), StoreError> {
    amplifier_of(tx, session_id)?;
    let mut codes = tx.session(session_id)?.ticked.clone();
    codes.retain(|known| known != code);
    if ticked {
        codes.push(code.to_owned());
    }
    let codes = serde_json::to_string(&codes).map_err(|why| StoreError::Unreadable { what: TABLE.what, why })?;
    tx.prepare_cached("UPDATE session SET ticked = ? WHERE id = ?")?.execute((codes, session_id))?;
    Ok(())
}
