//! What is set for a session as a whole: order, rest voltage, idle draw, gain, its bench; and which cautions are ticked.

use axum::extract::State as Ask;
use axum::http::StatusCode;
use pukka_core::kernel::problem::{Problem, check_text, under};
use pukka_core::kernel::units::Volts;
use pukka_core::record::bench::Bench;
use pukka_core::record::session::{Gain, Idle, Order, Policy, Repair, Session, ToneOrder};
use pukka_store::sessions::{self, SessionRow, Settings};
use pukka_store::{Author, WriteTx, benches};
use serde::{Deserialize, Serialize};

use super::super::body::{Body, no_unknown_keys, sound};
use super::super::patch::Patch;
use super::super::path::Path;
use super::super::writing::Writing;
use super::super::{ApiError, State};

/// Settings of a session.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SessionSettings {
    /// The order of the runs.
    pub order: Order,
    /// Supply at rest.
    pub rest_v: Option<Volts>,
    /// Draw at rest.
    pub idle: Option<Idle>,
    /// Way in which the gain was set.
    pub gain: Option<Gain>,
    /// The bench it stands on.
    pub bench_id: Option<String>,
    /// Repairs after a death: the session goes on then.
    #[serde(default)]
    pub repairs: Vec<Repair>,
    /// The house rule that nothing is run below the floor.
    #[serde(default)]
    pub never_below_floor: bool,
    /// Order of a second tone.
    #[serde(default)]
    pub tone_order: ToneOrder,
    /// Reason why the bench is put right though runs were made on it: it is taken as it stands now, and the figures follow.
    #[serde(default)]
    pub bench_reason: Option<String>,
}

impl SessionSettings {
    /// Settings in a session.
    pub fn of(row: &SessionRow) -> Self {
        let session = &row.session;
        Self {
            order: session.plan.order,
            rest_v: session.plan.rest_v,
            idle: session.idle,
            gain: session.gain.clone(),
            bench_id: row.bench_profile_id.clone(),
            repairs: session.repairs.clone(),
            never_below_floor: session.policy.never_below_floor,
            tone_order: session.plan.tone_order,
            bench_reason: None,
        }
    }
}

/// A caution that was ticked, or no longer is.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Tick {
    /// Word.
    pub code: String,
    /// Whether it is seen to.
    pub ticked: bool,
}

/// Parts that the runs name and another bench does not have.
fn bench_misfits(session: &Session, bench: Bench) -> Vec<Problem> {
    let changed = Session { bench, ..session.clone() };
    changed.check().into_iter().map(|problem| Problem::new("bench_id", format!("{}: {}", problem.path, problem.says))).collect()
}

fn check(settings: &SessionSettings) -> Vec<Problem> {
    let mut problems = Vec::new();
    let volts = [("rest_v", settings.rest_v), ("idle.supply_v", settings.idle.and_then(|idle| idle.supply_v))];
    for (path, given) in volts {
        if given.is_some_and(|v| !(6.0..=60.0).contains(&v.get())) {
            problems.push(Problem::new(path, "A rest voltage is between 6 and 60 V."));
        }
    }
    if settings.idle.is_some_and(|idle| idle.current_a.get() > 100.0) {
        problems.push(Problem::new("idle.current_a", "An amplifier that draws more than 100 A with no tone is on fire."));
    }
    for (i, repair) in settings.repairs.iter().enumerate() {
        problems.extend(under(&format!("repairs[{i}]"), repair.check()));
    }
    check_text(&mut problems, "bench_reason", settings.bench_reason.as_deref().unwrap_or(""), settings.bench_reason.is_some(), 500);
    problems.extend(under("gain", settings.gain.as_ref().map(Gain::check).unwrap_or_default()));
    problems
}

/// Changes what is set for a session.
#[utoipa::path(put, operation_id = "changeSession", path = "/sessions/{id}", params(("id" = String, Path)), request_body = SessionSettings,
    responses((status = 204)))]
pub async fn change(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<SessionSettings>,
) -> Result<StatusCode, ApiError> {
    let (author, revision) = (writing.author(&body.raw), writing.revision()?);
    put(&state, author, id, revision, body.value).await
}

/// Changes a part of what is set for a session.
#[utoipa::path(patch, operation_id = "patchSession", path = "/sessions/{id}", params(("id" = String, Path)), responses((status = 204)))]
pub async fn patch(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, patch: Patch) -> Result<StatusCode, ApiError> {
    let (author, revision) = (writing.author(&patch.raw), writing.revision()?);
    let row = super::session(&state, &id).await?;
    put(&state, author, id, revision, patch.onto(&SessionSettings::of(&row))?).await
}

async fn put(state: &State, author: Author, id: String, revision: i64, settings: SessionSettings) -> Result<StatusCode, ApiError> {
    sound(check(&settings))?;
    if let Some(gain) = &settings.gain {
        no_unknown_keys(&gain.extra)?;
    }
    let SessionSettings { order, rest_v, idle, gain, bench_id, repairs, never_below_floor, tone_order, bench_reason } = settings;
    let row = super::session(state, &id).await?;
    if let (Some(_), Some(bench)) = (&bench_reason, bench_id.clone()) {
        let profile = state.records(move |store| store.read(|tx| benches::get(tx, &bench))).await?.profile;
        sound(bench_misfits(&row.session, profile.bench()))?;
    }
    let policy = Some(Policy { never_below_floor, ..row.session.policy.clone() });
    let settings = Settings {
        run_order: order,
        rest_v,
        idle,
        gain,
        bench_profile_id: bench_id,
        bench: None,
        policy,
        repairs,
        tone_order,
        about: None,
        bench_reason,
    };
    let work = move |tx: &WriteTx, author: &Author| sessions::change(tx, author, &id, revision, &settings);
    state.once(author, work).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Ticks a caution, for this session.
#[utoipa::path(post, operation_id = "tickCaution", path = "/sessions/{id}/ticks", params(("id" = String, Path)), request_body = Tick,
    responses((status = 204)))]
pub async fn tick(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, body: Body<Tick>) -> Result<StatusCode, ApiError> {
    let author = writing.author(&body.raw);
    let Tick { code, ticked } = body.value;
    let mut problems = Vec::new();
    check_text(&mut problems, "code", &code, true, 40);
    sound(problems)?;
    let work = move |tx: &WriteTx, _: &Author| sessions::tick(tx, &id, &code, ticked);
    state.once(author, work).await?;
    Ok(StatusCode::NO_CONTENT)
}
