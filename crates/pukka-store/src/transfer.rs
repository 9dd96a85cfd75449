//! Session files out of the records and into them: by the ids that the file knows.

use std::collections::BTreeMap;

use pukka_core::record::session::merge::Merge;
use pukka_core::record::session::{Audience, Gate, GateCode, Run, Session};
use pukka_core::report::settled::SettledVerdict;
use rusqlite::{Connection, OptionalExtension};
use serde::{Deserialize, Serialize};

use crate::read::session;
use crate::rows::remarks::Remark;
use crate::rows::{arming, lives, settled};
use crate::write::journal::{self, Change, Entity};
use crate::write::photos::{self, Photo};
use crate::write::{WriteTx, amplifiers, claims, gates, remarks, retests, rungs, runs, sessions};
use crate::{Author, StoreError, new_id};

/// A session of an amplifier as a file, and what lies beside it.
#[derive(Debug, Clone, PartialEq)]
pub struct Outgoing {
    /// The session, by the ids that files know.
    pub file: Session,
    /// Runs that Pukka drove, sample by sample.
    pub ramps: Vec<lives::Ramp>,
    /// The verdict that was settled.
    pub settled: Option<KeptVerdict>,
}

impl Outgoing {
    /// The same as `audience` may see it.
    #[must_use]
    pub fn for_audience(self, audience: Audience) -> Self {
        if audience == Audience::Full {
            return self;
        }
        let settled = self.settled.map(|kept| KeptVerdict {
            who: String::new(),
            settled: SettledVerdict { session: kept.settled.session.for_audience(audience), ..kept.settled },
            ..kept
        });
        Self { file: self.file.for_audience(audience), settled, ..self }
    }
}

/// A settled verdict, as it travels.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct KeptVerdict {
    /// Time of it.
    pub at: String,
    /// Name of the person.
    pub who: String,
    /// The snapshot.
    #[serde(flatten)]
    pub settled: SettledVerdict,
}

/// From the ids of the records to those that files know.
struct Ids {
    to_file: BTreeMap<String, String>,
}

impl Ids {
    fn of(tx: &Connection, session_id: &str, amplifier_id: &str) -> Result<Self, StoreError> {
        let mut to_file = BTreeMap::new();
        for (sql, id) in [
            ("SELECT id, file_id FROM run WHERE session_id = ? AND file_id IS NOT NULL", session_id),
            ("SELECT id, file_id FROM claim WHERE amplifier_id = ? AND file_id IS NOT NULL", amplifier_id),
        ] {
            let mut statement = tx.prepare_cached(sql)?;
            let rows = statement.query_map([id], |row| Ok((row.get(0)?, row.get(1)?)))?;
            for row in rows {
                let (own, file): (String, String) = row?;
                to_file.insert(own, file);
            }
        }
        Ok(Self { to_file })
    }

    fn file(&self, own: &str) -> String {
        self.to_file.get(own).cloned().unwrap_or_else(|| own.to_owned())
    }

    /// The record that a file's id means here.
    fn own(&self, file: &str) -> Option<String> {
        let renamed = self.to_file.iter().find(|(_, known)| known.as_str() == file).map(|(own, _)| own.clone());
        renamed.or_else(|| (!self.to_file.contains_key(file)).then(|| file.to_owned()))
    }
}

/// A session as a file, and how its ids are known in files.
fn named(tx: &Connection, session_id: &str) -> Result<(Session, Ids), StoreError> {
    let row = session::load(tx, session_id)?;
    let ids = Ids::of(tx, &row.id, &row.amplifier_id)?;
    let mut file = row.session;
    file.id = Some(file_id(tx, &row.id)?);
    each_id_of(&mut file, |id| *id = ids.file(id));
    Ok((file, ids))
}

/// The session in hand of an amplifier as a file.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn session_file(tx: &Connection, amplifier_id: &str) -> Result<Session, StoreError> {
    Ok(named(tx, &amplifiers::get(tx, amplifier_id)?.session_id)?.0)
}

/// Likewise, with what lies beside it.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn outgoing(tx: &Connection, amplifier_id: &str) -> Result<Outgoing, StoreError> {
    outgoing_session(tx, &amplifiers::get(tx, amplifier_id)?.session_id)
}

/// Every session of an amplifier: the one in hand first, the others known as of the same amplifier.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn outgoing_all(tx: &Connection, amplifier_id: &str) -> Result<Vec<Outgoing>, StoreError> {
    let in_hand = amplifiers::get(tx, amplifier_id)?.session_id;
    let mut all = vec![outgoing_session(tx, &in_hand)?];
    for id in retests::ids(tx, amplifier_id)?.into_iter().filter(|id| *id != in_hand) {
        let mut other = outgoing_session(tx, &id)?;
        other.file.same_amplifier_as.clone_from(&all[0].file.id);
        all.push(other);
    }
    Ok(all)
}

fn outgoing_session(tx: &Connection, session_id: &str) -> Result<Outgoing, StoreError> {
    let (file, ids) = named(tx, session_id)?;
    let mut ramps = lives::ramps(tx, session_id)?;
    for ramp in &mut ramps {
        ramp.run = ramp.run.as_ref().map(|run| ids.file(run));
    }
    let settled = settled::newest(tx, session_id)?.map(|kept| {
        let mut settled = kept.settled;
        settled.session.id.clone_from(&file.id);
        each_id(&mut settled, |id| *id = ids.file(id));
        KeptVerdict { at: kept.at, who: kept.who, settled }
    });
    Ok(Outgoing { file, ramps, settled })
}

/// Photos of an amplifier, as files name the runs they were taken in.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn outgoing_photos(tx: &Connection, amplifier_id: &str) -> Result<Vec<Photo>, StoreError> {
    let rows = photos::list(tx, amplifier_id)?;
    let ids = Ids::of(tx, &amplifiers::get(tx, amplifier_id)?.session_id, amplifier_id)?;
    let named = |mut photo: Photo| {
        photo.words.run_id = photo.words.run_id.map(|run| ids.file(&run));
        photo
    };
    Ok(rows.into_iter().map(|row| named(row.photo)).collect())
}

/// Adds photos of a file that an amplifier has not yet; a run that is not here is no run of theirs.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such amplifier.
pub fn take_photos(tx: &WriteTx, author: &Author, amplifier_id: &str, staged: Vec<Photo>) -> Result<(), StoreError> {
    let ids = Ids::of(tx, &amplifiers::get(tx, amplifier_id)?.session_id, amplifier_id)?;
    let own = |mut photo: Photo| {
        photo.words.run_id = photo.words.run_id.and_then(|run| ids.own(&run));
        photo
    };
    photos::create_missing(tx, author, amplifier_id, &staged.into_iter().map(own).collect::<Vec<_>>())
}

/// Every id of a run or a claim in a session.
fn each_id_of(session: &mut Session, mut change: impl FnMut(&mut String)) {
    for run in &mut session.runs {
        change(&mut run.id);
        run.supersedes.iter_mut().for_each(&mut change);
    }
    session.claims.iter_mut().for_each(|claim| change(&mut claim.id));
}

/// Likewise, of a snapshot: its judgement names them too.
fn each_id(settled: &mut SettledVerdict, mut change: impl FnMut(&mut String)) {
    each_id_of(&mut settled.session, &mut change);
    let judgement = &mut settled.judgement;
    for run in &mut judgement.runs {
        change(&mut run.id);
        run.used_for.iter_mut().for_each(&mut change);
    }
    for claim in &mut judgement.claims {
        change(&mut claim.id);
        claim.runs.iter_mut().for_each(&mut change);
    }
    judgement.checks.iter_mut().flat_map(|check| &mut check.runs).for_each(change);
}

fn file_id(tx: &Connection, session_id: &str) -> Result<String, StoreError> {
    let known: Option<String> = tx.prepare_cached("SELECT file_id FROM session WHERE id = ?")?.query_row([session_id], |row| row.get(0))?;
    Ok(known.unwrap_or_else(|| session_id.to_owned()))
}

/// Relation of a file to the shelf.
#[derive(Debug, Clone, PartialEq)]
pub enum Arrival {
    /// Not there yet.
    New {
        /// Another amplifier of that name is.
        namesake: bool,
    },
    /// Not there yet; another session of its amplifier is.
    Retest {
        /// The amplifier.
        amplifier_id: String,
    },
    /// There, just so.
    Same {
        /// The amplifier.
        amplifier_id: String,
    },
    /// There, and the file brings something.
    Changed {
        /// The amplifier.
        amplifier_id: String,
        /// The session.
        session_id: String,
        /// Content that it brings.
        merge: Box<Merge>,
    },
}

/// Relation that a file would have to the shelf; nothing is done.
///
/// # Errors
/// [`StoreError`].
pub fn arrival(tx: &Connection, file: &Session) -> Result<Arrival, StoreError> {
    if let Some(id) = &file.id
        && let Some((amplifier_id, session_id)) = by_file(tx, id)?
    {
        let (here, _) = named(tx, &session_id)?;
        let merge = Merge::of(&here, file);
        return Ok(if merge.is_nothing() {
            Arrival::Same { amplifier_id }
        } else {
            Arrival::Changed { amplifier_id, session_id, merge: Box::new(merge) }
        });
    }
    if let Some(of) = &file.same_amplifier_as
        && let Some((amplifier_id, _)) = by_file(tx, of)?
    {
        return Ok(Arrival::Retest { amplifier_id });
    }
    let namesakes = namesakes(tx, file)?;
    // With an id of its own it is not known by what is in it.
    for amplifier_id in namesakes.iter().filter(|_| file.id.is_none()) {
        if (Session { id: None, ..session_file(tx, amplifier_id)? }) == *file {
            return Ok(Arrival::Same { amplifier_id: amplifier_id.clone() });
        }
    }
    Ok(Arrival::New { namesake: !namesakes.is_empty() })
}

/// The amplifier and the session that a file's id means.
fn by_file(tx: &Connection, id: &str) -> Result<Option<(String, String)>, StoreError> {
    Ok(tx
        .prepare_cached(
            "SELECT a.id, s.id FROM session s JOIN amplifier a ON a.id = s.amplifier_id
             WHERE (s.file_id = ?1 OR (s.id = ?1 AND s.file_id IS NULL)) AND s.deleted_at IS NULL AND a.deleted_at IS NULL
             ORDER BY s.created_at DESC LIMIT 1",
        )?
        .query_row([id], |row| Ok((row.get(0)?, row.get(1)?)))
        .optional()?)
}

fn namesakes(tx: &Connection, file: &Session) -> Result<Vec<String>, StoreError> {
    let mut statement = tx.prepare_cached("SELECT id FROM amplifier WHERE make = ? AND model = ? AND deleted_at IS NULL")?;
    let rows = statement.query_map((&file.amplifier.make, &file.amplifier.model), |row| row.get(0))?;
    Ok(rows.collect::<Result<_, _>>()?)
}

/// Takes a file in: as a new amplifier, or into the one it belongs to. Answers the amplifier's id. One undo takes it back when
/// `author` does one thing at once.
///
/// # Errors
/// [`StoreError`]; [`StoreError::Refused`] when it would overwrite readings.
pub fn take_in(tx: &WriteTx, author: &Author, incoming: &Outgoing) -> Result<String, StoreError> {
    match arrival(tx, &incoming.file)? {
        Arrival::Same { amplifier_id } => Ok(amplifier_id),
        Arrival::New { .. } => {
            let name = incoming.file.amplifier.name();
            let amplifier_id = insert(tx, author, &incoming.file, None, false)?;
            let change = Change::of(Entity::Amplifier, &amplifier_id, &amplifier_id, 1, format!("imported {name}"));
            journal::record(tx, author, &change, None, Some(&incoming.file.amplifier))?;
            beside(tx, &amplifier_id, &amplifiers::get(tx, &amplifier_id)?.session_id, incoming)?;
            Ok(amplifier_id)
        }
        Arrival::Retest { amplifier_id } => {
            let session_id = insert_retest(tx, author, &amplifier_id, &incoming.file)?;
            beside(tx, &amplifier_id, &session_id, incoming)?;
            Ok(amplifier_id)
        }
        Arrival::Changed { amplifier_id, session_id, merge } => {
            if let Some(problem) = merge.refused.first() {
                return Err(StoreError::Refused { says: problem.says.clone() });
            }
            bring(tx, author, (&amplifier_id, &session_id), &incoming.file, *merge)?;
            tx.touched(&amplifier_id);
            beside(tx, &amplifier_id, &session_id, incoming)?;
            Ok(amplifier_id)
        }
    }
}

/// Ramps and the settled verdict that came along, as far as they are not here.
fn beside(tx: &WriteTx, amplifier_id: &str, session_id: &str, incoming: &Outgoing) -> Result<(), StoreError> {
    let ids = Ids::of(tx, session_id, amplifier_id)?;
    for ramp in &incoming.ramps {
        let run = ramp.run.as_ref().and_then(|run| ids.own(run));
        lives::take_in(tx, session_id, &lives::Ramp { run, ..ramp.clone() })?;
    }
    if let Some(kept) = &incoming.settled {
        let known = settled::newest(tx, session_id)?.is_some_and(|newest| newest.at == kept.at);
        if !known {
            let mut settled = kept.settled.clone();
            settled.session.id = None;
            each_id(&mut settled, |id| *id = ids.own(id).unwrap_or_else(|| id.clone()));
            settled::keep(tx, session_id, &kept.at, &kept.who, &settled)?;
            tx.touched(amplifier_id);
        }
    }
    Ok(())
}

/// Keeps a whole session file as a new amplifier with its session; returns the amplifier's id. Ids are made again; what the file
/// called them is kept beside.
///
/// # Errors
/// [`StoreError`].
pub fn insert(
    tx: &WriteTx,
    author: &Author,
    file: &Session,
    bench_profile_id: Option<&str>,
    cautions_read: bool,
) -> Result<String, StoreError> {
    // A correction may stand before what it corrects.
    tx.pragma_update(None, "defer_foreign_keys", true)?;
    let amplifier_id = amplifiers::insert_bare(tx, author, &file.amplifier)?;
    let session_id = sessions::create(tx, author, &amplifier_id, file, bench_profile_id)?;
    name(tx, "session", &session_id, file.id.as_deref())?;
    for claim in &file.claims {
        let id = claims::insert_bare(tx, author, &amplifier_id, claim)?;
        name(tx, "claim", &id, Some(&claim.id))?;
    }
    insert_work(tx, author, &session_id, file)?;
    if cautions_read {
        sessions::read_cautions(tx, author, &session_id)?;
    }
    tx.touched(&amplifier_id);
    Ok(amplifier_id)
}

/// Keeps a session file as one more session of an amplifier that is here: its claims and its record are those of the amplifier.
fn insert_retest(tx: &WriteTx, author: &Author, amplifier_id: &str, file: &Session) -> Result<String, StoreError> {
    tx.pragma_update(None, "defer_foreign_keys", true)?;
    let session_id = retests::insert_bare(tx, author, amplifier_id, file, "imported a session")?;
    name(tx, "session", &session_id, file.id.as_deref())?;
    insert_work(tx, author, &session_id, file)?;
    tx.touched(amplifier_id);
    Ok(session_id)
}

/// Rungs, gates and runs of a file.
fn insert_work(tx: &WriteTx, author: &Author, session_id: &str, file: &Session) -> Result<(), StoreError> {
    for rung in &file.plan.rungs {
        rungs::insert(tx, author, session_id, rung)?;
    }
    for gate in &file.gates {
        gates::insert(tx, author, session_id, &Gate { from_file: true, ..gate.clone() })?;
    }
    insert_runs(tx, author, session_id, &file.runs, &BTreeMap::new())?;
    Ok(())
}

/// Notes by which id a file knows a record.
fn name(tx: &WriteTx, table: &str, id: &str, file_id: Option<&str>) -> Result<(), StoreError> {
    tx.prepare_cached(&format!("UPDATE {table} SET file_id = ? WHERE id = ?"))?.execute((file_id, id))?;
    Ok(())
}

/// `known` are runs that are here already, by the file's ids.
fn insert_runs(
    tx: &WriteTx,
    author: &Author,
    session_id: &str,
    list: &[Run],
    known: &BTreeMap<String, String>,
) -> Result<Vec<String>, StoreError> {
    let mut ids: BTreeMap<String, String> = known.clone();
    ids.extend(list.iter().map(|run| (run.id.clone(), new_id())));
    let mut made = Vec::new();
    for run in list {
        let mut own = run.clone();
        own.id = ids.get(&run.id).cloned().unwrap_or_else(new_id);
        own.supersedes = run.supersedes.as_ref().and_then(|old| ids.get(old).cloned());
        let past: Vec<_> = if run.ungated { GateCode::ALL.to_vec() } else { Vec::new() };
        runs::insert(tx, session_id, &own, runs::Origin::File(&run.id), &past)?;
        if !run.valid {
            runs::set_standing(tx, author, &own.id, false, "taken back in the imported file")?;
        }
        made.push(own.id);
    }
    Ok(made)
}

/// Brings what is new or changed in a file to the amplifier it belongs to.
fn bring(tx: &WriteTx, author: &Author, (amplifier_id, session_id): (&str, &str), file: &Session, merge: Merge) -> Result<(), StoreError> {
    arming::none_of(tx, amplifier_id)?;
    tx.pragma_update(None, "defer_foreign_keys", true)?;
    let row = amplifiers::get(tx, amplifier_id)?;
    let ids = Ids::of(tx, session_id, amplifier_id)?;
    let own = |id: &str| ids.own(id).unwrap_or_else(|| id.to_owned());
    if merge.amplifier {
        amplifiers::update(tx, author, amplifier_id, row.revision, &file.amplifier)?;
    }
    if merge.settings {
        sessions::replace_settings(tx, author, session_id, file)?;
    } else if merge.about {
        sessions::change_about(tx, author, session_id, None, "took facts of a file", |_, about| {
            *about = about.clone().told_by(sessions::About::of(file));
            Ok(())
        })?;
    }
    for claim in &merge.claims_changed {
        let (known, _) = claims::get(tx, &own(&claim.id))?;
        claims::update(tx, author, &known.id, known.revision, claim)?;
    }
    for claim in &merge.claims_new {
        let made = claims::create(tx, author, amplifier_id, claim)?;
        name(tx, "claim", &made.id, Some(&claim.id))?;
    }
    for (old, new) in &merge.rungs {
        let revision = rungs::revision_of(tx, session_id, old)?;
        rungs::save(tx, author, session_id, old, revision, new)?;
    }
    let from_file: Vec<Gate> = merge.gates.iter().map(|gate| Gate { from_file: true, ..gate.clone() }).collect();
    gates::open(tx, author, session_id, &from_file)?;
    let known: BTreeMap<String, String> = file.runs.iter().map(|run| (run.id.clone(), own(&run.id))).collect();
    let made = insert_runs(tx, author, session_id, &merge.runs_new, &known)?;
    for (run, id) in merge.runs_new.iter().zip(made) {
        let says = format!("imported {}", run.place_words());
        journal::record(tx, author, &Change::of(Entity::Run, &id, amplifier_id, 1, says), None, Some(&run.id))?;
    }
    for (id, stands) in &merge.standing {
        if *stands {
            runs::set_standing(tx, author, &own(id), true, "stands in the imported file")?;
        } else {
            runs::take_back(tx, author, session_id, &own(id), "taken back in the imported file")?;
        }
    }
    let struck = merge.struck.into_iter().map(|(id, what)| {
        (id, Remark { kind: remarks::Kind::Strike, what: what.to_string(), reason: "struck in the imported file".into() })
    });
    let accepted = merge
        .accepted
        .into_iter()
        .map(|(id, accepted)| (id, Remark { kind: remarks::Kind::Accept, what: accepted.code, reason: accepted.reason }));
    let noted = merge.noted.into_iter().map(|(id, reason)| (id, Remark { kind: remarks::Kind::Note, what: "note".into(), reason }));
    for (id, remark) in struck.chain(accepted).chain(noted) {
        remarks::add(tx, author, session_id, &own(&id), &remark)?;
    }
    sessions::touch(tx, author, session_id)?;
    Ok(())
}
