//! Every route, in one list.

mod about;
mod amplifiers;
mod answer;
mod arithmetic;
mod bench;
mod benches;
mod body;
mod claims;
mod compare;
mod contract;
mod data;
mod download;
mod error;
mod events;
mod guard;
mod import;
mod importing;
mod instruments;
mod lessons;
mod live;
mod pages;
mod paging;
mod paste;
mod patch;
mod path;
mod photos;
mod publish;
mod retests;
mod sense;
mod several;
mod sheet;
mod shelf;
mod signature;
mod site;
mod stand_in;
mod tones;
mod traces;
mod transfer;
mod undo;
mod upkeep;
mod verdict;
mod views;
mod writes;
mod writing;

use std::sync::Arc;
use std::time::Duration;

use axum::body::Bytes;
use axum::extract::DefaultBodyLimit;
use axum::http::{HeaderName, HeaderValue, header};
use axum::response::{IntoResponse, Response};
use axum::routing::get;
use axum::{Router, middleware};
use pukka_sim::serve::Running;
use pukka_store::{Author, Store, StoreError, WriteTx, idempotency};
use serde::Serialize;
use serde::de::DeserializeOwned;
use tokio::sync::Semaphore;
use tower_http::CompressionLevel;
use tower_http::compression::CompressionLayer;
use tower_http::compression::predicate::{DefaultPredicate, Predicate as _, SizeAbove};
use tower_http::set_header::SetResponseHeaderLayer;
use tower_http::timeout::RequestBodyTimeoutLayer;
use utoipa::OpenApi as _;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub use error::ApiError;
pub use events::Changes;
pub use importing::Importing;

use crate::captures::Captures;
use crate::clock::Clock;
use crate::live::Driving;
use crate::sessions::{LoadedSession, Sessions};

/// State that every handler may use.
#[derive(Clone)]
pub struct State {
    /// The records.
    pub store: Arc<Store>,
    /// The clock.
    pub clock: Clock,
    /// Changes of the records, as they are committed.
    pub changes: Changes,
    /// Instruments, and the run that is driven.
    pub driving: Driving,
    /// The stand-in bench, in the demo.
    pub stand_in: Option<Running>,
    /// The import under way.
    pub importing: Importing,
    /// Extent of access.
    pub reach: Reach,
    /// Recordings as they were looked at last.
    pub captures: Captures,
    /// Sessions as they were loaded last.
    pub sessions: Sessions,
    /// Permits: every computation takes one.
    pub computing: Computing,
}

/// Leave to compute: so many at once that a live run and its stop always find a core.
#[derive(Debug, Clone)]
pub struct Computing {
    short: Arc<Semaphore>,
    /// For what takes seconds to minutes, one after another: whoever logs a run or opens a page does not wait for it.
    long: Arc<Semaphore>,
}

impl Default for Computing {
    fn default() -> Self {
        let cores = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
        Self { short: Arc::new(Semaphore::new(cores.saturating_sub(1).max(1))), long: Arc::new(Semaphore::new(1)) }
    }
}

/// Reach of the program.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Reach {
    /// Listens beyond this machine.
    pub on_network: bool,
    /// Whoever is on the network is trusted, and names of the network count as its own.
    pub trust_network: bool,
}

impl State {
    /// Runs blocking work on the records off the async threads.
    async fn records<T: Send + 'static>(&self, work: impl FnOnce(&Store) -> Result<T, StoreError> + Send + 'static) -> Result<T, ApiError> {
        let store = Arc::clone(&self.store);
        Ok(tokio::task::spawn_blocking(move || work(&store)).await.map_err(|_| StoreError::Broken)??)
    }

    /// Does a piece of writing once: the same request again gets the same answer.
    async fn once<T: Serialize + DeserializeOwned + Send + 'static>(
        &self,
        author: Author,
        work: impl FnOnce(&WriteTx, &Author) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, ApiError> {
        self.records(move |store| write_once(store, author, work)).await
    }

    /// Computes off the async threads, which are for whoever stops a run. All that takes longer than reading a row goes through here.
    async fn compute<T: Send + 'static>(&self, work: impl FnOnce() -> T + Send + 'static) -> Result<T, ApiError> {
        blocking(&self.computing.short, work).await
    }

    /// Computes with a session as the records are now: loaded and computed with in one go, without a way back between the two.
    async fn with_session<T: Send + 'static>(
        &self,
        id: &str,
        work: impl FnOnce(&Store, &Arc<LoadedSession>) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let (store, sessions, id) = (Arc::clone(&self.store), self.sessions.clone(), id.to_owned());
        self.compute(move || work(&store, &sessions.get(&store, &id)?)).await?
    }

    /// Computes with a session and writes once what comes of it, on one thread. Leave to compute is given back before the write, which
    /// only waits for its turn.
    async fn with_session_once<P: Send + 'static, T: Serialize + DeserializeOwned + Send + 'static>(
        &self,
        id: &str,
        author: Author,
        compute: impl FnOnce(&Arc<LoadedSession>) -> Result<P, ApiError> + Send + 'static,
        work: impl FnOnce(&WriteTx, &Author, P) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let (store, sessions, id) = (Arc::clone(&self.store), self.sessions.clone(), id.to_owned());
        let leave = Arc::clone(&self.computing.short).acquire_owned().await.map_err(|_| StoreError::Broken)?;
        let done = tokio::task::spawn_blocking(move || {
            let made = compute(&sessions.get(&store, &id)?)?;
            drop(leave);
            Ok(write_once(&store, author, move |tx, author| work(tx, author, made))?)
        });
        done.await.map_err(|_| StoreError::Broken)?
    }

    /// Likewise, what takes long: an import, an export, a backup, a large picture, every card of a session.
    async fn compute_long<T: Send + 'static>(&self, work: impl FnOnce() -> T + Send + 'static) -> Result<T, ApiError> {
        blocking(&self.computing.long, work).await
    }
}

/// Writes once under the author's key; what is written knows the author without it.
fn write_once<T: Serialize + DeserializeOwned + Send + 'static>(
    store: &Store,
    mut author: Author,
    work: impl FnOnce(&WriteTx, &Author) -> Result<T, StoreError> + Send + 'static,
) -> Result<T, StoreError> {
    let keyed = Author { key: author.key.take(), ..author.clone() };
    store.write(move |tx| idempotency::once(tx, &keyed, |tx| work(tx, &author)))
}

async fn blocking<T: Send + 'static>(leave: &Semaphore, work: impl FnOnce() -> T + Send + 'static) -> Result<T, ApiError> {
    let _leave = leave.acquire().await.map_err(|_| StoreError::Broken)?;
    Ok(tokio::task::spawn_blocking(work).await.map_err(|_| StoreError::Broken)?)
}

/// The largest body of a request: the longest form is a few kilobytes.
const MOST_BYTES: usize = 64 * 1024;

/// A shorter answer is on its way before it is compressed.
const SHORT_BYTES: u64 = 16_384;
/// A body that stands still for so long has broken off.
const BODY_GOES_ON_WITHIN: Duration = Duration::from_secs(20);

/// No page from elsewhere, no script inline; Radix sets styles from script, so styles may be inline.
const POLICY: &str = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

#[derive(utoipa::OpenApi)]
#[openapi(
    info(title = "Pukka", description = "Bench tests of car audio amplifiers, judged.", license(name = "MIT OR Apache-2.0")),
    components(schemas(crate::live::KeptRound, events::Change, error::ProblemBody))
)]
struct Described;

fn api() -> OpenApiRouter<State> {
    OpenApiRouter::new()
        .routes(routes!(shelf::list, amplifiers::create))
        .routes(routes!(amplifiers::get, amplifiers::update, amplifiers::patch, amplifiers::delete))
        .routes(routes!(retests::list, retests::open))
        .routes(routes!(retests::take_in_hand))
        .routes(routes!(retests::get_changes))
        .routes(routes!(claims::create))
        .routes(routes!(sense::check))
        .routes(routes!(paste::read))
        .routes(routes!(paste::add))
        .routes(routes!(claims::update, claims::patch, claims::delete))
        .routes(routes!(claims::choose))
        .routes(routes!(bench::ladder::get))
        .routes(routes!(bench::rungs::save))
        .routes(routes!(bench::session::change, bench::session::patch))
        .routes(routes!(bench::session::tick))
        .routes(routes!(bench::record::get, bench::record::patch))
        .routes(routes!(bench::record::clap))
        .routes(routes!(bench::record::seal))
        .routes(routes!(bench::record::open))
        .routes(routes!(bench::gates::open))
        .routes(routes!(bench::gates::withdraw))
        .routes(routes!(bench::gates::arm, bench::gates::disarm))
        .routes(routes!(benches::list, benches::create))
        .routes(routes!(benches::update, benches::patch, benches::delete))
        .routes(routes!(benches::loads))
        .routes(routes!(benches::try_loads))
        .routes(routes!(photos::list, photos::add))
        .routes(routes!(photos::get, photos::describe, photos::delete))
        .routes(routes!(signature::get, signature::name))
        .routes(routes!(compare::comparison))
        .routes(routes!(compare::card))
        .routes(routes!(lessons::get))
        .routes(routes!(data::zipped))
        .routes(routes!(compare::get_worth))
        .routes(routes!(compare::get_money, compare::set_money))
        .routes(routes!(views::list, views::save))
        .routes(routes!(traces::kept::list, traces::kept::add))
        .routes(routes!(traces::kept::progress))
        .routes(routes!(traces::look::get, traces::kept::describe, traces::kept::remove))
        .routes(routes!(traces::look::wave))
        .routes(routes!(traces::look::samples))
        .routes(routes!(traces::look::stretch))
        .routes(routes!(traces::look::scale))
        .routes(routes!(traces::log::preview))
        .routes(routes!(traces::log::log))
        .routes(routes!(traces::picture::get))
        .routes(routes!(views::delete))
        .routes(routes!(several::mark))
        .routes(routes!(signature::mark, signature::set_mark, signature::delete_mark))
        .routes(routes!(arithmetic::lead))
        .routes(routes!(arithmetic::drive))
        .routes(routes!(bench::runs::preview))
        .routes(routes!(bench::runs::log))
        .routes(routes!(bench::runs::get))
        .routes(routes!(bench::runs::take_back))
        .routes(routes!(bench::marks::correct))
        .routes(routes!(bench::marks::remark))
        .routes(routes!(bench::marks::history))
        .routes(routes!(bench::marks::strike_meter))
        .routes(routes!(bench::steps::finish))
        .routes(routes!(bench::rest::get))
        .routes(routes!(bench::incidents::log))
        .routes(routes!(bench::incidents::list))
        .routes(routes!(tones::wav_file))
        .routes(routes!(instruments::list))
        .routes(routes!(instruments::set, instruments::remove))
        .routes(routes!(instruments::attempt))
        .routes(routes!(live::start))
        .routes(routes!(live::stop))
        .routes(routes!(live::cut))
        .routes(routes!(live::get))
        .routes(routes!(events::events))
        .routes(routes!(live::ramp))
        .routes(routes!(stand_in::get, stand_in::change))
        .routes(routes!(stand_in::recording))
        .routes(routes!(verdict::get))
        .routes(routes!(verdict::settle))
        .routes(routes!(verdict::suspect))
        .routes(routes!(sheet::get))
        .routes(routes!(sheet::html))
        .routes(routes!(sheet::csv_file))
        .routes(routes!(publish::get))
        .routes(routes!(publish::card))
        .routes(routes!(publish::zipped))
        .routes(routes!(site::zipped))
        .routes(routes!(transfer::file))
        .routes(routes!(transfer::shelf))
        .routes(routes!(import::preview))
        .routes(routes!(import::import))
        .routes(routes!(importing::progress))
        .routes(routes!(undo::list))
        .routes(routes!(undo::undo))
        .routes(routes!(undo::redo))
        .routes(routes!(writes::settle))
        .routes(routes!(upkeep::get, upkeep::set))
        .routes(routes!(upkeep::copy))
        .routes(routes!(upkeep::backup))
        .routes(routes!(about::get))
}

fn described() -> OpenApiRouter<State> {
    OpenApiRouter::with_openapi(Described::openapi()).nest("/api", api())
}

/// The description of the HTTP interface.
#[must_use]
pub fn openapi() -> utoipa::openapi::OpenApi {
    let mut document = described().into_openapi();
    contract::complete(&mut document);
    document
}

fn described_as(description: &Bytes) -> Response {
    ([(header::CONTENT_TYPE, "application/json")], description.clone()).into_response()
}

/// The application.
pub fn app(state: State) -> Router {
    let (router, mut description) = described().split_for_parts();
    contract::complete(&mut description);
    // Made once: every connection has its own copy of the routes, and what they hold.
    let description = Bytes::from(description.to_json().unwrap_or_default());
    let names = if state.reach.trust_network { guard::Names::OfTheNetwork } else { guard::Names::None };
    let header = |name, value: &'static str| SetResponseHeaderLayer::overriding(name, HeaderValue::from_static(value));
    router
        .route("/api/openapi.json", get(move || std::future::ready(described_as(&description))))
        .fallback(pages::file)
        .method_not_allowed_fallback(|| std::future::ready(ApiError::wrong_method()))
        .layer(DefaultBodyLimit::max(MOST_BYTES))
        .layer(middleware::from_fn(move |request, next| guard::same_place(names, request, next)))
        .layer(middleware::from_fn(body::short_first))
        .layer(RequestBodyTimeoutLayer::new(BODY_GOES_ON_WITHIN))
        .layer(
            CompressionLayer::new()
                .quality(CompressionLevel::Fastest)
                .compress_when(DefaultPredicate::new().and(SizeAbove::new(SHORT_BYTES))),
        )
        .layer(SetResponseHeaderLayer::if_not_present(header::CONTENT_SECURITY_POLICY, HeaderValue::from_static(POLICY)))
        .layer(header(header::X_CONTENT_TYPE_OPTIONS, "nosniff"))
        .layer(header(header::REFERRER_POLICY, "no-referrer"))
        .layer(header(HeaderName::from_static("cross-origin-resource-policy"), "same-origin"))
        .with_state(state)
}
