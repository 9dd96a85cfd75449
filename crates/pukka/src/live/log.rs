//! What a live run leaves in the records: the run, as far as it got.

use std::sync::Arc;

use pukka_core::evidence::entry::Readings;
use pukka_core::evidence::rungs::Rung;
use pukka_core::kernel::units::{Level, Volts};
use pukka_core::live::{Ending, Method as LiveMethod, RampResult, Rules, Stop, best_settled, cycles, readings};
use pukka_core::plan::ladder::find;
use pukka_core::plan::run_line::run_at;
use pukka_core::record::session::{Evidence, Incident, Method, Mode, Run, Session};
use pukka_store::{Author, Store, StoreError, lives, new_id, runs, sessions};

use crate::clock::Clock;

/// Outcome of a live run.
pub struct Outcome {
    pub ended: Ending,
    pub found: RampResult,
    pub rest_v: Option<f64>,
    pub meter: Option<String>,
    /// Cycles that were counted.
    pub cycles: Option<u32>,
}

/// Keeps the run, and writes down how it ended. Answers the run's id, when there was something to keep.
pub async fn finish(
    store: &Arc<Store>,
    author: &Author,
    seq: i64,
    session: &Session,
    rung: &Rung,
    mode: Mode,
    outcome: Outcome,
) -> Result<Option<String>, StoreError> {
    let run = made(author, session, rung, mode, &outcome);
    let (store, author, ended) = (Arc::clone(store), author.clone(), outcome.ended);
    tokio::task::spawn_blocking(move || {
        store.write(move |tx| {
            let id = lives::session_of(tx, seq)?;
            let at = author.at.to_string();
            let run_id = match run {
                Some(run) => Some(runs::log(tx, &author, &id, &run, &ended.says(), false)?.id),
                None => {
                    pukka_store::arming::disarm(tx, &author, &id, "the live run gave nothing to log")?;
                    None
                }
            };
            let outcome = serde_json::to_string(&ended).map_err(|why| StoreError::Unreadable { what: "live run", why })?;
            lives::ended(tx, seq, &at, &outcome, &ended.says(), run_id.as_deref())?;
            Ok(run_id)
        })
    })
    .await
    .map_err(|_| StoreError::Broken)?
}

fn made(author: &Author, session: &Session, rung: &Rung, mode: Mode, outcome: &Outcome) -> Option<Run> {
    let Outcome { ended, found, rest_v, meter, cycles: counted } = outcome;
    let protected = matches!(ended, Ending::Stopped { why: Stop::Protection });
    let stepped = !found.steps.is_empty();
    let mut read = match (&found.best, stepped) {
        // What was watched without an analyser has no watts: they are logged by hand beside it.
        (Some(best), false) if best.power_w.is_empty() => return None,
        (Some(best), false) => readings(best),
        (None, false) if !protected => return None,
        _ => Readings::default(),
    };
    for output in &mut read.outputs {
        output.meter = meter.clone().filter(|id| session.bench.meters.iter().any(|known| known.id == *id));
    }
    read.rest_v = rest_v.and_then(|volts| Volts::new((volts * 1e3).round() / 1e3).ok());
    let done = matches!(ended, Ending::Done);
    read.note = match (done, found.onset_within_db) {
        (false, _) => Some(ended.says()),
        (true, Some(within)) => Some(format!("The onset of clipping is within ± {within} dB: nothing read the burst's own distortion.")),
        (true, None) => None,
    };
    read.cycles = counted.zip(found.best.as_ref()).and_then(|(count, best)| cycles(best, count));
    if read.cycles.is_some() {
        read.outputs.clear();
    }
    let run = run_at(session, rung, mode, read, new_id(), author.at, Some(author.who.clone()));
    Some(Run {
        method: if stepped { Some(Method::Steps) } else { run.method },
        steps: found.steps.clone(),
        evidence: vec![Evidence::ramp()],
        // Where Pukka drives the ramp a clipping run has a limit too.
        limit_ratio: if mode == Mode::Clipping && run.limit_ratio.is_none() {
            Some(session.policy.end_thd_ratio(mode))
        } else {
            run.limit_ratio
        },
        incomplete: !done,
        incident: protected.then_some(Incident::Protection),
        ..run
    })
}

/// Remains of a program that went away: samples without a run. The best of them is kept, marked incomplete.
pub fn finish_interrupted(store: &Arc<Store>, clock: Clock) {
    let left = match store.read(lives::interrupted) {
        Ok(left) => left,
        Err(error) => {
            tracing::error!(%error, "interrupted live runs could not be read");
            return;
        }
    };
    for one in left.into_iter().filter(|one| !one.ended) {
        if let Err(error) = finish_one(store, clock, one, &Ending::Stopped { why: Stop::Exit }) {
            tracing::error!(%error, "an interrupted live run could not be finished");
        }
    }
}

/// Finishes a run whose task broke, from the samples that were kept. Answers the run's id, when there was something to keep.
pub async fn finish_broken(store: &Arc<Store>, clock: Clock, seq: i64) -> Option<String> {
    let store = Arc::clone(store);
    let work = move || {
        let left = store.read(lives::interrupted)?;
        match left.into_iter().find(|one| one.seq == seq && !one.ended) {
            Some(one) => finish_one(&store, clock, one, &Ending::Stopped { why: Stop::Broken }),
            None => Ok(None),
        }
    };
    match tokio::task::spawn_blocking(work).await {
        Ok(Ok(run_id)) => run_id,
        Ok(Err(error)) => {
            tracing::error!(%error, "a broken live run could not be finished");
            None
        }
        Err(_) => None,
    }
}

/// Result of the samples of a run: its best settled figure, marked incomplete.
fn finish_one(store: &Store, clock: Clock, one: lives::InterruptedRun, ended: &Ending) -> Result<Option<String>, StoreError> {
    let author = Author { who: "local".into(), tab: "live".into(), at: clock.now(), key: None, batch: None };
    let ended = ended.clone();
    store.write(move |tx| {
        let session = sessions::load(tx, &one.session_id)?.session;
        let rounds: Vec<_> = lives::rounds(tx, one.seq, None)?.into_iter().map(|(_, round)| round).collect();
        let rung = find(&session, &one.place.rung);
        let best = rung.as_ref().and_then(|rung| {
            let rules = Rules::new(&session.policy, one.place.mode, LiveMethod::Ramp, Level::FULL, 0, rung.id.tone_hz.get());
            best_settled(&rounds, rules.limit, rules.still_ms)
        });
        let outcome =
            Outcome { ended: ended.clone(), found: RampResult { best, ..RampResult::default() }, rest_v: None, meter: None, cycles: None };
        let run = rung.and_then(|rung| made(&author, &session, &rung, one.place.mode, &outcome));
        let run = run.map(|run| Run { at: one.started_at.parse().unwrap_or(run.at), ..run });
        let run_id = match run {
            // It was armed as it began: its gates were judged then.
            Some(run) => Some(runs::log(tx, &author, &one.session_id, &run, "interrupted", true)?.id),
            None => {
                pukka_store::arming::disarm(tx, &author, &one.session_id, "the live run gave nothing to log")?;
                None
            }
        };
        lives::ended(tx, one.seq, &author.at.to_string(), "interrupted", &ended.says(), run_id.as_deref())?;
        Ok(run_id)
    })
}
