//! Links to instruments: where they are, how they are spoken to, and a line tried by hand.

use std::sync::LazyLock;

use axum::Json;
use axum::extract::State as Ask;
use axum::http::StatusCode;
use pukka_core::instruments::{GENERIC, Profile, Role, SHIPPED, Shipped};
use pukka_core::kernel::problem::{Problem, check_text, under};
use pukka_store::links::{self, LinkRow};
use pukka_store::{Author, WriteTx};
use serde::{Deserialize, Serialize};

use super::body::{Body, sound};
use super::path::Path;
use super::writing::Writing;
use super::{ApiError, State};
use crate::instruments::{LinkState, is_serial};

/// A link as it is set up, and what it is doing.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LinkView {
    /// Task of the instrument.
    pub role: Role,
    /// Words for it.
    pub words: String,
    /// Host and port; nothing when no link is set up.
    pub address: Option<String>,
    /// Profile, as TOML.
    pub profile: Option<String>,
    /// Matching meter of the bench.
    pub meter: Option<String>,
    /// State.
    pub state: Option<LinkState>,
    /// Lines worth trying, by what they ask.
    pub lines: Vec<TriedLine>,
}

/// A line of a profile.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TriedLine {
    /// Question that it asks.
    pub asks: String,
    /// The line.
    pub line: String,
}

/// Every task, and the profile that ships with the program.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct InstrumentsView {
    /// A row a task.
    pub links: Vec<LinkView>,
    /// The profile that an instrument begins with.
    pub generic: String,
    /// Profiles that ship with the program.
    pub shipped: Vec<ShippedProfile>,
}

/// A profile that ships with the program.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ShippedProfile {
    /// Name.
    pub name: String,
    /// As TOML.
    pub text: String,
    /// Tasks it serves.
    pub serves: Vec<Role>,
}

/// A link to set up.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LinkToSet {
    /// Host and port.
    pub address: String,
    /// Profile, as TOML.
    pub profile: String,
    /// Matching meter of the bench.
    pub meter: Option<String>,
}

/// A line to try.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LineToTry {
    /// The line; one that ends with a question mark is answered.
    pub line: String,
}

/// Reply to a line.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RawReply {
    /// The answer as it came; nothing of a line that asks nothing.
    pub reply: Option<String>,
    /// Reason why none came.
    pub fault: Option<String>,
    /// Time it took, milliseconds.
    pub took_ms: f64,
}

fn role(word: &str) -> Result<Role, ApiError> {
    Role::parse(word).ok_or_else(|| ApiError::not_found("instrument", word))
}

/// Every link.
#[utoipa::path(get, operation_id = "listInstruments", path = "/instruments", responses((status = 200, body = InstrumentsView)))]
pub async fn list(Ask(state): Ask<State>) -> Result<Json<InstrumentsView>, ApiError> {
    let rows = state.records(|store| store.read(links::list)).await?;
    let view = |role: Role| {
        let row = rows.iter().find(|row| row.role == role);
        let profile = row.and_then(|row| Profile::read(&row.profile, role).ok());
        LinkView {
            role,
            words: role.words().into(),
            address: row.map(|row| row.address.clone()),
            profile: row.map(|row| row.profile.clone()),
            meter: row.and_then(|row| row.meter.clone()),
            state: state.driving.links.get(role).map(|link| link.state()),
            lines: profile.map(|profile| lines(&profile, role)).unwrap_or_default(),
        }
    };
    Ok(Json(InstrumentsView { links: Role::ALL.map(view).into(), generic: GENERIC.into(), shipped: SHIPPED_VIEW.clone() }))
}

/// The profiles that come along, read once: the page asks for this every other second.
static SHIPPED_VIEW: LazyLock<Vec<ShippedProfile>> = LazyLock::new(|| {
    let view = |shipped: &Shipped| {
        let profile = Profile::parse(shipped.text).ok()?;
        Some(ShippedProfile { serves: profile.serves(), name: profile.name, text: shipped.text.into() })
    };
    SHIPPED.iter().filter_map(view).collect()
});

fn lines(profile: &Profile, role: Role) -> Vec<TriedLine> {
    let line = |asks: &str, line: &str| TriedLine { asks: asks.into(), line: line.replace("{output}", "1") };
    let mut lines = vec![line("who is there", &profile.identify), line("the oldest error", &profile.error)];
    let reads = role.reads().iter().filter_map(|quantity| Some((quantity.word(), profile.read.get(quantity.word())?)));
    lines.extend(reads.map(|(word, how)| line(word, &how.query)));
    if let Some(generator) = profile.generator.as_ref().filter(|_| role == Role::Generator) {
        lines.extend(generator.zero.iter().map(|zero| line("zero", zero)));
        lines.extend(generator.read_level.iter().map(|query| line("its level", query)));
        lines.extend(generator.read_output.iter().map(|query| line("its output", query)));
    }
    if let Some(supply) = profile.supply.as_ref().filter(|_| role == Role::Supply) {
        lines.extend(supply.off.iter().map(|off| line("off", off)));
        lines.extend(supply.read_output.iter().map(|query| line("its output", query)));
    }
    lines.retain(|line| !line.line.is_empty());
    lines
}

/// A query is the header's question mark, wherever its parameters end.
fn is_query(message: &str) -> bool {
    message.split_whitespace().next().is_some_and(|header| header.ends_with('?'))
}

/// Whether a line only asks, or only takes something away: a level is raised and an output switched on by an armed run alone.
fn is_harmless(profile: &Profile, role: Role, text: &str) -> bool {
    let text = text.trim();
    let clears = |message: &str| message.eq_ignore_ascii_case("*CLS");
    let messages = text.split(';').map(str::trim).filter(|message| !message.is_empty());
    messages.clone().count() > 0 && messages.clone().all(|message| is_query(message) || clears(message))
        || lines(profile, role).iter().any(|known| known.line == text)
}

/// An instrument that a live run is using stays as it is.
fn refuse_under_way(state: &State) -> Result<(), ApiError> {
    if state.driving.is_under_way() {
        return Err(ApiError::new(StatusCode::CONFLICT, "under-way", "A live run is using the instruments: stop it first."));
    }
    Ok(())
}

/// A host and a port, or a serial port.
pub(super) fn is_address(address: &str) -> bool {
    let port = address.rsplit_once(':').and_then(|(host, port)| (!host.is_empty()).then(|| port.parse::<u16>().ok())?);
    port.is_some_and(|port| port != 0) || is_serial(address.trim())
}

/// Sets a link up, or again: it connects by itself.
#[utoipa::path(put, operation_id = "setInstrument", path = "/instruments/{role}", params(("role" = String, Path)), request_body = LinkToSet,
    responses((status = 204)))]
pub async fn set(
    Ask(state): Ask<State>,
    Path(word): Path<String>,
    writing: Writing,
    body: Body<LinkToSet>,
) -> Result<StatusCode, ApiError> {
    let role = role(&word)?;
    let LinkToSet { address, profile, meter } = body.value;
    let mut problems = Vec::new();
    check_text(&mut problems, "address", &address, true, 200);
    check_text(&mut problems, "meter", meter.as_deref().unwrap_or_default(), false, 40);
    refuse_under_way(&state)?;
    if !is_address(&address) {
        let says = "An address is a host and a port, 192.168.1.20:5025, or a serial port, /dev/ttyUSB0 or COM3.";
        problems.push(Problem::new("address", says));
    }
    if let Err(found) = Profile::read(&profile, role) {
        problems.extend(under("profile", found));
    }
    sound(problems)?;
    let author = writing.author(&body.raw);
    let row = LinkRow { role, address: address.trim().to_owned(), profile, meter: meter.filter(|id| !id.is_empty()) };
    let kept = row.clone();
    let work = move |tx: &WriteTx, author: &Author| links::save(tx, author, &kept);
    state.once(author, work).await?;
    state.driving.links.open(&row);
    Ok(StatusCode::NO_CONTENT)
}

/// Takes a link away.
#[utoipa::path(delete, operation_id = "removeInstrument", path = "/instruments/{role}", params(("role" = String, Path)),
    responses((status = 204)))]
pub async fn remove(Ask(state): Ask<State>, Path(word): Path<String>, writing: Writing) -> Result<StatusCode, ApiError> {
    let role = role(&word)?;
    refuse_under_way(&state)?;
    let author = writing.author(b"");
    let work = move |tx: &WriteTx, _: &Author| links::remove(tx, role);
    state.once(author, work).await?;
    state.driving.links.close(role);
    Ok(StatusCode::NO_CONTENT)
}

/// Sends a line and shows the raw reply.
#[utoipa::path(post, operation_id = "tryInstrument", path = "/instruments/{role}/trials", params(("role" = String, Path)), request_body = LineToTry,
    responses((status = 200, body = RawReply)))]
pub async fn attempt(
    Ask(state): Ask<State>,
    Path(word): Path<String>,
    _writing: Writing,
    body: Body<LineToTry>,
) -> Result<Json<RawReply>, ApiError> {
    let role = role(&word)?;
    let line = body.value.line;
    let mut problems = Vec::new();
    check_text(&mut problems, "line", &line, true, 500);
    if line.contains(['\n', '\r']) {
        problems.push(Problem::new("line", "One line at a time."));
    }
    sound(problems)?;
    refuse_under_way(&state)?;
    let link = state.driving.links.get(role).ok_or_else(|| ApiError::not_found("link to the", role.word()))?;
    if !is_harmless(&link.profile, role, &line) {
        let says = "Only queries and the profile's own lines for zero and off can be tried: a level is raised by an armed run alone.";
        return Err(ApiError::invalid(vec![Problem::new("line", says)]));
    }
    let started = std::time::Instant::now();
    let asks = is_query(&line) || line.trim_end().ends_with('?') || line.trim() == link.profile.identify;
    let (reply, fault) = if asks {
        link.ask(line).await.map_or_else(|fault| (None, Some(fault.to_string())), |reply| (Some(reply), None))
    } else {
        (None, link.tell(vec![line]).await.err().map(|fault| fault.to_string()))
    };
    Ok(Json(RawReply { reply, fault, took_ms: started.elapsed().as_secs_f64() * 1e3 }))
}
