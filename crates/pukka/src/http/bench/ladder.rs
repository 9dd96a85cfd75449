//! The ladder as it stands, with the cautions before a first run.

use std::collections::BTreeMap;
use std::sync::Arc;

use axum::Json;
use axum::extract::State as Ask;
use pukka_core::evidence::halt::{Halt, halt};
use pukka_core::evidence::rungs::{Rung, rungs};
use pukka_core::kernel::working::Figure;
use pukka_core::plan::cautions::{self as core_cautions, Caution};
use pukka_core::plan::ladder::{Ladder, LadderRung, Place};
use pukka_core::record::session::gain::target_volts;
use pukka_core::record::session::{Gain, LevelStep};
use pukka_store::steps::{self, StepRow};
use pukka_store::{Store, arming, benches};
use serde::{Deserialize, Serialize};

use super::super::path::Path;
use super::super::{ApiError, State};
use super::gates::ArmedRun;
use super::session::SessionSettings;
use crate::sessions::LoadedSession;

/// The ladder, with what the bench has to know beside it.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LadderView {
    /// The ladder.
    pub ladder: Ladder,
    /// Revision of what is set for a rung, by its key; 0 where nothing was set yet.
    pub revisions: BTreeMap<String, i64>,
    /// The cautions that concerns any run.
    pub cautions: Vec<Caution>,
    /// The ones that are ticked.
    pub ticked: Vec<String>,
    /// Whether all of them were read, or ticked.
    pub cautions_read: bool,
    /// Settings of the session.
    pub settings: SessionSettings,
    /// Way in which the gain was set, in a sentence.
    pub gain_words: String,
    /// Output volts to set for the claim at a rung, by its key.
    pub targets: BTreeMap<String, Figure>,
    /// Revision of the session.
    pub revision: i64,
    /// The run that is armed.
    pub armed: Option<ArmedRun>,
    /// Name of the bench.
    pub bench_name: Option<String>,
    /// Whether another bench can still be taken: nothing was run yet.
    pub bench_open: bool,
    /// An incident stopped the plan.
    pub halt: Option<Halt>,
    /// Level steps typed for a place and in no run yet, by its rung's key and its mode's word with a space between.
    pub step_rows: BTreeMap<String, Vec<StepLine>>,
    /// Meters of the bench, by their ids.
    pub meters: Vec<String>,
    /// Old or was repaired: the first power-up is through a current limit, and its idle draw is read.
    pub fragile: bool,
}

/// A row of level steps.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct StepLine {
    /// Readings.
    pub step: LevelStep,
    /// The line it was typed as.
    pub entry: String,
}

/// The ladder of a session.
#[utoipa::path(get, operation_id = "getLadder", path = "/sessions/{id}/ladder", params(("id" = String, Path)),
    responses((status = 200, body = LadderView)))]
pub async fn get(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Json<LadderView>, ApiError> {
    let this_year = u16::try_from(jiff::tz::Offset::UTC.to_datetime(state.clock.now()).year()).ok();
    let look = move |store: &Store, row: &Arc<LoadedSession>| {
        let (armed, bench_name, steps) = store.read(|tx| {
            let bench = row.bench_profile_id.as_ref().and_then(|bench| benches::get(tx, bench).ok());
            Ok((arming::armed(tx, &row.id)?, bench.map(|bench| bench.profile.name), steps::of_session(tx, &row.id)?))
        })?;
        Ok(shown(row, armed, bench_name, steps, this_year))
    };
    state.with_session(&id, look).await.map(Json)
}

fn shown(
    row: &LoadedSession,
    armed: Option<arming::ArmingRow>,
    bench_name: Option<String>,
    steps: Vec<(Place, StepRow)>,
    this_year: Option<u16>,
) -> LadderView {
    let session = &row.session;
    let cautions = core_cautions::cautions(session, this_year);
    let revision = |rung: &Rung| {
        let mut planned = session.plan.rungs.iter().zip(&row.rung_revisions);
        planned.find(|(set, _)| rung.id.is_planned(set, session)).map_or(0, |(_, revision)| *revision)
    };
    let ladder = row.ladder().clone();
    LadderView {
        revisions: rungs(session).iter().map(|rung| (rung.id.key(), revision(rung))).collect(),
        targets: targets(&ladder),
        cautions_read: row.cautions_read_at.is_some() || cautions.iter().all(|caution| row.ticked.contains(&caution.code)),
        ladder,
        cautions,
        ticked: row.ticked.clone(),
        gain_words: session.gain.as_ref().map_or_else(|| Gain::default().words(), Gain::words),
        fragile: session.amplifier.is_fragile(this_year),
        bench_open: session.runs.is_empty(),
        bench_name,
        halt: halt(session),
        step_rows: step_rows(steps),
        meters: session.bench.meters.iter().map(|meter| meter.id.clone()).collect(),
        armed: armed.map(Into::into),
        revision: row.revision,
        settings: SessionSettings::of(row),
    }
}

fn step_rows(rows: Vec<(Place, StepRow)>) -> BTreeMap<String, Vec<StepLine>> {
    let mut by_place: BTreeMap<String, Vec<StepLine>> = BTreeMap::new();
    for (place, row) in rows {
        by_place.entry(format!("{} {}", place.rung, place.mode.word())).or_default().push(StepLine { step: row.step, entry: row.entry });
    }
    by_place
}

/// √(P·R) of each claim, for setting the gain.
fn targets(ladder: &Ladder) -> BTreeMap<String, Figure> {
    let target = |rung: &LadderRung| Some((rung.key.clone(), target_volts(rung.claim_w? / f64::from(rung.outputs), rung.load_ohm.get())));
    ladder.rungs.iter().filter_map(target).collect()
}
