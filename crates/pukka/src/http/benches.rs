//! Bench profiles, and the loads that can be made of one.

use axum::Json;
use axum::extract::State as Ask;
use axum::http::StatusCode;
use axum::response::Response;
use pukka_core::evidence::source_ohm;
use pukka_core::kernel::problem::Problem;
use pukka_core::kernel::units::Ohms;
use pukka_core::kernel::wiring::Wiring;
use pukka_core::kernel::working::Figure;
use pukka_core::record::bench::inventory::{LoadChoices, find};
use pukka_core::record::bench::{Bench, BenchProfile, LoadResistor};
use pukka_store::benches::{self, BenchRow};
use pukka_store::{Author, WriteTx, idempotency};
use serde::{Deserialize, Serialize};

use super::answer::{created, revised};
use super::body::{Body, no_unknown_keys, sound};
use super::patch::Patch;
use super::path::Path;
use super::writing::Writing;
use super::{ApiError, State};
use crate::draw::network::network;

/// A bench.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct BenchView {
    /// Id.
    pub id: String,
    /// Revision.
    pub revision: i64,
    /// The record.
    pub profile: BenchProfile,
    /// Sessions on it.
    pub sessions: u32,
    /// Source resistance as its past runs show it, with their scatter; nothing before the first.
    pub source_ohm: Option<Figure>,
    /// Runs that it stands on.
    pub source_runs: usize,
}

/// Every bench.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Benches {
    /// By name.
    pub benches: Vec<BenchView>,
}

/// A load that is wanted of an inventory.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LoadRequest {
    /// For each output of this wiring at once.
    pub wiring: Wiring,
    /// Ohms of each.
    pub load_ohm: Ohms,
    /// The resistors; those of the session's bench when left out.
    #[serde(default)]
    pub loads: Option<Vec<LoadResistor>>,
    /// The steps of a load box; those of the session's bench when left out.
    #[serde(default)]
    pub step_box_ohm: Option<Vec<Ohms>>,
}

/// Loads that can be made for it, drawn.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LoadAnswer {
    /// Findings.
    pub found: LoadChoices,
    /// Way of joining them: the simplest, the nearest, then the one below and the one above, where there are.
    pub drawn: Vec<String>,
}

fn viewed(row: BenchRow, sags: &[source_ohm::Sag]) -> BenchView {
    let source = source_ohm::fit(sags);
    BenchView {
        id: row.id,
        revision: row.revision,
        profile: row.profile,
        sessions: row.sessions,
        source_runs: sags.len(),
        source_ohm: source.as_ref().map(source_ohm::figure),
    }
}

fn view(tx: &pukka_store::Connection, row: BenchRow) -> Result<BenchView, pukka_store::StoreError> {
    let sags = benches::sags(tx, &row.id)?;
    Ok(viewed(row, &sags))
}

fn check(profile: &BenchProfile) -> Result<(), ApiError> {
    let BenchProfile { supply, loads, meters, leads, extra, .. } = profile;
    no_unknown_keys(extra)?;
    no_unknown_keys(&supply.extra)?;
    loads.iter().try_for_each(|load| no_unknown_keys(&load.extra))?;
    meters.iter().try_for_each(|meter| no_unknown_keys(&meter.extra))?;
    leads.iter().try_for_each(|lead| no_unknown_keys(&lead.extra))?;
    sound(profile.check())
}

/// Every bench.
#[utoipa::path(get, operation_id = "listBenches", path = "/benches", responses((status = 200, body = Benches)))]
pub async fn list(Ask(state): Ask<State>) -> Result<Json<Benches>, ApiError> {
    let work = |store: &pukka_store::Store| {
        store.read(|tx| benches::list(tx)?.into_iter().map(|row| view(tx, row)).collect::<Result<Vec<_>, _>>())
    };
    Ok(Json(Benches { benches: state.records(work).await? }))
}

/// Adds a bench.
#[utoipa::path(post, operation_id = "createBench", path = "/benches", request_body = BenchProfile,
    responses((status = 201, body = BenchView)))]
pub async fn create(Ask(state): Ask<State>, writing: Writing, body: Body<BenchProfile>) -> Result<Response, ApiError> {
    check(&body.value)?;
    let author = writing.author(&body.raw);
    let work = move |store: &pukka_store::Store| {
        store.write(move |tx| {
            let row = idempotency::once(tx, &author, |tx| benches::create(tx, &author, &body.value))?;
            view(tx, row)
        })
    };
    let made = state.records(work).await?;
    Ok(created(&format!("benches/{}", made.id), Some(made.revision), made))
}

/// Changes a bench. Sessions on it in which nothing was run yet follow; the others keep it as it was.
#[utoipa::path(put, operation_id = "updateBench", path = "/benches/{id}", params(("id" = String, Path)), request_body = BenchProfile,
    responses((status = 200, body = BenchView)))]
pub async fn update(
    Ask(state): Ask<State>,
    Path(id): Path<String>,
    writing: Writing,
    body: Body<BenchProfile>,
) -> Result<Response, ApiError> {
    let (author, revision) = (writing.author(&body.raw), writing.revision()?);
    put(&state, author, id, revision, body.value).await
}

/// Changes a part of a bench; its lists are replaced whole.
#[utoipa::path(patch, operation_id = "patchBench", path = "/benches/{id}", params(("id" = String, Path)),
    responses((status = 200, body = BenchView)))]
pub async fn patch(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing, patch: Patch) -> Result<Response, ApiError> {
    let (author, revision) = (writing.author(&patch.raw), writing.revision()?);
    let wanted = id.clone();
    let before = state.records(move |store| store.read(|tx| benches::get(tx, &wanted))).await?;
    put(&state, author, id, revision, patch.onto(&before.profile)?).await
}

async fn put(state: &State, author: Author, id: String, revision: i64, profile: BenchProfile) -> Result<Response, ApiError> {
    check(&profile)?;
    let work = move |store: &pukka_store::Store| {
        store.write(move |tx| {
            let row = idempotency::once(tx, &author, |tx| benches::update(tx, &author, &id, revision, &profile))?;
            view(tx, row)
        })
    };
    let changed = state.records(work).await?;
    Ok(revised(changed.revision, changed))
}

/// Deletes a bench; its sessions keep it as it was.
#[utoipa::path(delete, operation_id = "deleteBench", path = "/benches/{id}", params(("id" = String, Path)),
    responses((status = 204)))]
pub async fn delete(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing) -> Result<StatusCode, ApiError> {
    let (author, revision) = (writing.author(b""), writing.revision()?);
    let work = move |tx: &WriteTx, author: &Author| benches::delete(tx, author, &id, revision);
    state.once(author, work).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Loads that an inventory makes for a wanted load.
#[utoipa::path(post, operation_id = "findLoads", path = "/sessions/{id}/loads", params(("id" = String, Path)), request_body = LoadRequest,
    responses((status = 200, body = LoadAnswer)))]
pub async fn loads(Ask(state): Ask<State>, Path(id): Path<String>, body: Body<LoadRequest>) -> Result<Json<LoadAnswer>, ApiError> {
    let row = super::bench::session(&state, &id).await?;
    let LoadRequest { wiring, load_ohm, loads, step_box_ohm } = body.value;
    let bench = Bench {
        loads: loads.unwrap_or(row.session.bench.loads.clone()),
        step_box_ohm: step_box_ohm.unwrap_or(row.session.bench.step_box_ohm.clone()),
        ..Bench::default()
    };
    searched(bench, wiring, load_ohm).await.map(Json)
}

/// Likewise, of a bench that may not be saved yet.
#[utoipa::path(post, operation_id = "tryLoads", path = "/loads", request_body = LoadRequest,
    responses((status = 200, body = LoadAnswer)))]
pub async fn try_loads(body: Body<LoadRequest>) -> Result<Json<LoadAnswer>, ApiError> {
    let LoadRequest { wiring, load_ohm, loads, step_box_ohm } = body.value;
    let bench = Bench { loads: loads.unwrap_or_default(), step_box_ohm: step_box_ohm.unwrap_or_default(), ..Bench::default() };
    searched(bench, wiring, load_ohm).await.map(Json)
}

async fn searched(bench: Bench, wiring: Wiring, load_ohm: Ohms) -> Result<LoadAnswer, ApiError> {
    let mut problems = Vec::new();
    wiring.check(16, "wiring", &mut problems);
    pukka_core::record::amplifier::check_load(&mut problems, "load_ohm", load_ohm);
    problems.extend(bench.check());
    if bench.loads.is_empty() && bench.step_box_ohm.is_empty() {
        problems.push(Problem::new("loads", "No resistors are entered for this bench yet: nothing can be made of them."));
    }
    sound(problems)?;
    // A million networks take some ten milliseconds: not on a thread that serves others.
    let found = tokio::task::spawn_blocking(move || {
        let found = find(&bench, wiring, load_ohm.get());
        let drawn = found
            .simplest
            .iter()
            .chain(&found.builds)
            .chain(&found.below)
            .chain(&found.above)
            .map(|build| network(build, &bench.loads))
            .collect();
        LoadAnswer { found, drawn }
    });
    found.await.map_err(|_| pukka_store::StoreError::Broken.into())
}
