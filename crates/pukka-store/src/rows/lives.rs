//! Runs that Pukka drives: what was meant to be done before it is done, and every sample before it is shown.

use pukka_core::kernel::units::Level;
use pukka_core::live::Round;
use pukka_core::plan::ladder::Place;
use rusqlite::{Connection, OptionalExtension, Transaction};
use serde::{Deserialize, Serialize};

use crate::{Author, StoreError, new_id};

/// A live run that was begun.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Begun {
    /// Number.
    pub seq: i64,
    /// Id.
    pub id: String,
}

/// A live run that did not come to its own end: the program went away under it.
#[derive(Debug, Clone, PartialEq)]
pub struct InterruptedRun {
    /// Number.
    pub seq: i64,
    /// Session.
    pub session_id: String,
    /// The run that it was.
    pub place: Place,
    /// Time when it began.
    pub started_at: String,
    /// The level may still be up.
    pub raised: bool,
    /// Ended already, but the level not known to be down.
    pub ended: bool,
}

/// Writes down that a live run begins.
///
/// # Errors
/// [`StoreError`].
pub fn begin(tx: &Transaction, author: &Author, session_id: &str, place: &Place, method: &str) -> Result<Begun, StoreError> {
    let id = new_id();
    tx.prepare_cached("INSERT INTO live_run (id, session_id, rung, mode, method, started_at, who) VALUES (?, ?, ?, ?, ?, ?, ?)")?
        .execute((&id, session_id, &place.rung, place.mode.word(), method, author.at.to_string(), &author.who))?;
    Ok(Begun { seq: tx.last_insert_rowid(), id })
}

/// Writes down that the level is about to be raised.
///
/// # Errors
/// [`StoreError`].
pub fn raised(tx: &Transaction, seq: i64, at: &str) -> Result<(), StoreError> {
    tx.prepare_cached("UPDATE live_run SET raised_at = coalesce(raised_at, ?) WHERE seq = ?")?.execute((at, seq))?;
    Ok(())
}

/// Writes down that the level is known to be down.
///
/// # Errors
/// [`StoreError`].
pub fn zeroed(tx: &Transaction, at: &str) -> Result<(), StoreError> {
    tx.prepare_cached("UPDATE live_run SET zeroed_at = ? WHERE zeroed_at IS NULL AND raised_at IS NOT NULL")?.execute([at])?;
    Ok(())
}

/// Writes down how a live run ended, and the run it became.
///
/// # Errors
/// [`StoreError`].
pub fn ended(tx: &Transaction, seq: i64, at: &str, outcome: &str, says: &str, run_id: Option<&str>) -> Result<(), StoreError> {
    tx.prepare_cached("UPDATE live_run SET ended_at = ?, outcome = ?, says = ?, run_id = ? WHERE seq = ? AND ended_at IS NULL")?
        .execute((at, outcome, says, run_id, seq))?;
    Ok(())
}

/// Keeps rounds of samples; `first` is the number of the first of them.
///
/// # Errors
/// [`StoreError::DiskFull`], among others: nothing of them is kept then.
pub fn keep(tx: &Transaction, seq: i64, rounds: &[(u64, Round)]) -> Result<(), StoreError> {
    let mut statement = tx.prepare_cached(KEEP_SAMPLE)?;
    for (n, round) in rounds {
        let t_ms = i64::try_from(round.t_ms).unwrap_or(i64::MAX);
        let outputs = round.power_w.iter().enumerate().map(|(i, watts)| ("analyser", format!("power_w.{i}"), *watts));
        let others = [
            ("analyser", "thd_ratio", round.thd_ratio),
            ("voltmeter", "supply_v", round.supply_v),
            ("ammeter", "supply_a", round.supply_a),
            ("thermometer", "temperature_c", round.temperature_c),
        ];
        let others = others.into_iter().filter_map(|(role, name, value)| Some((role, name.to_owned(), value?)));
        // A row a sample; the number of the round leaves room for as many samples as there are outputs.
        for (k, (role, quantity, value)) in (0u64..).zip(outputs.chain(others)) {
            let key = i64::try_from(n * SAMPLES + k).unwrap_or(i64::MAX);
            statement.execute((seq, key, t_ms, role, quantity, value, round.level_db.map(Level::get)))?;
        }
    }
    Ok(())
}

const KEEP_SAMPLE: &str = "INSERT INTO live_sample (live_id, n, t_ms, role, quantity, value, level_db) VALUES (?, ?, ?, ?, ?, ?, ?)";

/// Most samples of a round.
const SAMPLES: u64 = 32;

/// Rounds of a live run after a number, with their numbers, the oldest first.
///
/// # Errors
/// [`StoreError`].
pub fn rounds(tx: &Connection, seq: i64, after: Option<u64>) -> Result<Vec<(u64, Round)>, StoreError> {
    let first = after.map_or(0, |n| (n + 1) * SAMPLES);
    let mut statement =
        tx.prepare_cached("SELECT n, t_ms, quantity, value, level_db FROM live_sample WHERE live_id = ? AND n >= ? ORDER BY n")?;
    let mut found = statement.query((seq, i64::try_from(first).unwrap_or(i64::MAX)))?;
    let mut rounds: Vec<(u64, Round)> = Vec::new();
    while let Some(row) = found.next()? {
        let n = u64::try_from(row.get::<_, i64>(0)?).unwrap_or_default() / SAMPLES;
        if rounds.last().is_none_or(|(last, _)| *last != n) {
            let t_ms = u64::try_from(row.get::<_, i64>(1)?).unwrap_or_default();
            rounds
                .push((n, Round { t_ms, level_db: row.get::<_, Option<f64>>(4)?.and_then(|db| Level::new(db).ok()), ..Round::default() }));
        }
        let Some((_, round)) = rounds.last_mut() else { continue };
        let (quantity, value): (String, f64) = (row.get(2)?, row.get(3)?);
        match quantity.as_str() {
            "thd_ratio" => round.thd_ratio = Some(value),
            "supply_v" => round.supply_v = Some(value),
            "supply_a" => round.supply_a = Some(value),
            "temperature_c" => round.temperature_c = Some(value),
            _ => round.power_w.push(value),
        }
    }
    Ok(rounds)
}

/// The session of a live run.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such live run.
pub fn session_of(tx: &Connection, seq: i64) -> Result<String, StoreError> {
    let id: Option<String> =
        tx.prepare_cached("SELECT session_id FROM live_run WHERE seq = ?")?.query_row([seq], |row| row.get(0)).optional()?;
    id.ok_or_else(|| StoreError::NotFound { what: "live run", id: seq.to_string() })
}

/// The live run that became this run.
///
/// # Errors
/// [`StoreError`].
pub fn of_run(tx: &Connection, run_id: &str) -> Result<Option<i64>, StoreError> {
    Ok(tx.prepare_cached("SELECT seq FROM live_run WHERE run_id = ?")?.query_row([run_id], |row| row.get(0)).optional()?)
}

/// Live runs that never came to their own end, or whose level is not known to be down.
///
/// # Errors
/// [`StoreError`].
pub fn interrupted(tx: &Connection) -> Result<Vec<InterruptedRun>, StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT seq, session_id, rung, mode, started_at, raised_at IS NOT NULL AND zeroed_at IS NULL, ended_at IS NOT NULL FROM live_run
         WHERE ended_at IS NULL OR (raised_at IS NOT NULL AND zeroed_at IS NULL) ORDER BY seq",
    )?;
    let mut found = statement.query([])?;
    let mut rows = Vec::new();
    while let Some(row) = found.next()? {
        let mode: String = row.get(3)?;
        let mode = pukka_core::record::session::Mode::ALL.into_iter().find(|known| known.word() == mode).ok_or(StoreError::Broken)?;
        rows.push(InterruptedRun {
            seq: row.get(0)?,
            session_id: row.get(1)?,
            place: Place { rung: row.get(2)?, mode },
            started_at: row.get(4)?,
            raised: row.get(5)?,
            ended: row.get(6)?,
        });
    }
    Ok(rows)
}

/// A run that Pukka drove, with every sample, as it travels in a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Ramp {
    /// Id.
    pub id: String,
    /// The run it became.
    pub run: Option<String>,
    /// The rung it was driven at.
    pub rung: String,
    /// Mode.
    pub mode: String,
    /// Method, as a word.
    pub method: String,
    /// Time when it began.
    pub started_at: String,
    /// Time when it ended.
    pub ended_at: Option<String>,
    /// Ending.
    pub outcome: Option<String>,
    /// Likewise, in words.
    pub says: Option<String>,
    /// Samples.
    pub samples: Vec<Sample>,
}

/// A sample: its number, milliseconds from the start, who read what, the value, the level of the generator.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Sample(pub i64, pub i64, pub String, pub String, pub f64, pub Option<f64>);

/// Every live run of a session that ended, with its samples.
///
/// # Errors
/// [`StoreError`].
pub fn ramps(tx: &Connection, session_id: &str) -> Result<Vec<Ramp>, StoreError> {
    let mut statement = tx.prepare_cached(
        "SELECT seq, coalesce(file_id, id), run_id, rung, mode, method, started_at, ended_at, outcome, says FROM live_run
         WHERE session_id = ? AND ended_at IS NOT NULL ORDER BY seq",
    )?;
    let rows = statement.query_map([session_id], |row| {
        let ramp = Ramp {
            id: row.get(1)?,
            run: row.get(2)?,
            rung: row.get(3)?,
            mode: row.get(4)?,
            method: row.get(5)?,
            started_at: row.get(6)?,
            ended_at: row.get(7)?,
            outcome: row.get(8)?,
            says: row.get(9)?,
            samples: Vec::new(),
        };
        Ok((row.get::<_, i64>(0)?, ramp))
    })?;
    let mut samples = tx.prepare_cached("SELECT n, t_ms, role, quantity, value, level_db FROM live_sample WHERE live_id = ? ORDER BY n")?;
    let mut ramps = Vec::new();
    for row in rows {
        let (seq, mut ramp) = row?;
        let read = |row: &rusqlite::Row| Ok(Sample(row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?, row.get(4)?, row.get(5)?));
        ramp.samples = samples.query_map([seq], read)?.collect::<Result<_, _>>()?;
        ramps.push(ramp);
    }
    Ok(ramps)
}

/// Keeps a live run that came in a file, unless it is here.
pub(crate) fn take_in(tx: &Transaction, session_id: &str, ramp: &Ramp) -> Result<(), StoreError> {
    let known: bool = tx
        .prepare_cached("SELECT EXISTS (SELECT 1 FROM live_run WHERE session_id = ?1 AND (file_id = ?2 OR id = ?2))")?
        .query_row((session_id, &ramp.id), |row| row.get(0))?;
    if known {
        return Ok(());
    }
    tx.prepare_cached(
        "INSERT INTO live_run (id, file_id, session_id, rung, mode, method, started_at, who, ended_at, outcome, says, run_id)
         VALUES (?, ?, ?, ?, ?, ?, ?, 'imported', coalesce(?, ?), ?, ?, ?)",
    )?
    .execute(rusqlite::params![
        new_id(),
        ramp.id,
        session_id,
        ramp.rung,
        ramp.mode,
        ramp.method,
        ramp.started_at,
        ramp.ended_at,
        ramp.started_at,
        ramp.outcome,
        ramp.says,
        ramp.run
    ])?;
    let seq = tx.last_insert_rowid();
    let mut statement = tx.prepare_cached(KEEP_SAMPLE)?;
    for Sample(n, t_ms, role, quantity, value, level_db) in &ramp.samples {
        statement.execute((seq, n, t_ms, role, quantity, value, level_db))?;
    }
    Ok(())
}
