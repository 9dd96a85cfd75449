//! What went wrong, as `application/problem+json` with a code, a plain sentence and the fields.

use axum::extract::rejection::{PathRejection, QueryRejection};
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use maud::{DOCTYPE, html};
use pukka_core::kernel::problem::Problem;
use pukka_store::StoreError;
use serde::{Deserialize, Serialize};

use crate::photo::PhotoError;

/// The body of every refusal. Ref: RFC 9457.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ProblemBody {
    /// Kind of refusal: a name that stays, whatever is said of it.
    #[serde(rename = "type")]
    pub kind: String,
    /// The kind in a few words.
    pub title: String,
    /// HTTP status.
    pub status: u16,
    /// Fault of this time, in a plain sentence.
    pub detail: String,
    /// The kind as a word for the program.
    pub code: String,
    /// Problems, field by field.
    pub problems: Vec<Problem>,
}

/// A refusal.
#[derive(Debug)]
pub struct ApiError {
    status: StatusCode,
    code: &'static str,
    detail: String,
    problems: Vec<Problem>,
}

impl ApiError {
    pub(super) fn new(status: StatusCode, code: &'static str, detail: impl Into<String>) -> Self {
        Self { status, code, detail: detail.into(), problems: Vec::new() }
    }

    /// The fault, in a sentence.
    pub(super) fn says(&self) -> &str {
        &self.detail
    }

    /// Fields that cannot be so.
    pub(super) fn invalid(problems: Vec<Problem>) -> Self {
        let detail = match problems.as_slice() {
            [only] => only.says.clone(),
            several => format!("{} fields need another look.", several.len()),
        };
        Self { problems, ..Self::new(StatusCode::UNPROCESSABLE_ENTITY, "invalid", detail) }
    }

    /// A run that needs a second look before it is logged.
    pub(super) fn doubted(place: &str, problems: Vec<Problem>) -> Self {
        Self { problems, ..Self::new(StatusCode::CONFLICT, "doubted", format!("{place} is not logged yet: look at the readings again.")) }
    }

    /// No such thing.
    pub(crate) fn not_found(what: &'static str, id: &str) -> Self {
        StoreError::NotFound { what, id: id.to_owned() }.into()
    }

    /// A route that is there, with another method.
    pub(super) fn wrong_method() -> Self {
        Self::new(StatusCode::METHOD_NOT_ALLOWED, "wrong-method", "This address does not take that method.")
    }
}

impl ApiError {
    /// The same for a person who looks at it in a browser.
    pub(super) fn page(&self) -> Response {
        let page = html! { (DOCTYPE) meta charset="utf-8"; title { "Pukka" } h1 { "Pukka" } p { (self.detail) } };
        (self.status, [(header::CONTENT_TYPE, "text/html; charset=utf-8")], page.into_string()).into_response()
    }
}

impl From<StoreError> for ApiError {
    fn from(error: StoreError) -> Self {
        let (status, code) = match &error {
            StoreError::NotFound { .. } => (StatusCode::NOT_FOUND, "not-found"),
            StoreError::Conflict { .. } => (StatusCode::PRECONDITION_FAILED, "changed-elsewhere"),
            StoreError::KeyReused => (StatusCode::UNPROCESSABLE_ENTITY, "key-reused"),
            StoreError::Gated { .. } => (StatusCode::CONFLICT, "gated"),
            StoreError::Halted { .. } => (StatusCode::CONFLICT, "halted"),
            StoreError::Armed { .. } => (StatusCode::CONFLICT, "armed"),
            StoreError::Refused { .. } => (StatusCode::CONFLICT, "refused"),
            StoreError::BenchInUse => (StatusCode::CONFLICT, "bench-in-use"),
            StoreError::GivenUp => (StatusCode::CONFLICT, "given-up"),
            StoreError::NothingToUndo => (StatusCode::CONFLICT, "nothing-to-undo"),
            StoreError::NothingToRedo => (StatusCode::CONFLICT, "nothing-to-redo"),
            StoreError::NotNext { .. } => (StatusCode::CONFLICT, "not-next"),
            StoreError::ReadOnly => (StatusCode::SERVICE_UNAVAILABLE, "read-only"),
            StoreError::DiskFull => (StatusCode::INSUFFICIENT_STORAGE, "disk-full"),
            _ => (StatusCode::INTERNAL_SERVER_ERROR, "store-failed"),
        };
        if status.is_server_error() {
            tracing::error!(%error, "the store failed");
        }
        let detail = error.to_string();
        let problems = match error {
            StoreError::Gated { gates } => gates.into_iter().map(|gate| Problem::new(gate.code.word(), gate.says)).collect(),
            _ => Vec::new(),
        };
        Self { problems, ..Self::new(status, code, detail) }
    }
}

impl From<PhotoError> for ApiError {
    fn from(error: PhotoError) -> Self {
        let (status, code) = match error {
            PhotoError::OtherKind => (StatusCode::UNSUPPORTED_MEDIA_TYPE, "not-a-photo"),
            PhotoError::TooLarge => (StatusCode::PAYLOAD_TOO_LARGE, "too-large"),
            PhotoError::Damaged(_) => (StatusCode::UNPROCESSABLE_ENTITY, "damaged-photo"),
        };
        Self::new(status, code, error.to_string())
    }
}

/// `changed-elsewhere` as "Changed elsewhere".
fn words(code: &str) -> String {
    let mut letters = code.chars();
    let first = letters.next().map(|c| c.to_uppercase().to_string()).unwrap_or_default();
    format!("{first}{}", letters.as_str().replace('-', " "))
}

impl From<PathRejection> for ApiError {
    fn from(_: PathRejection) -> Self {
        Self::new(StatusCode::BAD_REQUEST, "unreadable-path", "This address cannot be read: its parts are text in UTF-8.")
    }
}

impl From<QueryRejection> for ApiError {
    fn from(why: QueryRejection) -> Self {
        let says = why.body_text();
        // Which field is worth knowing; the rest of the sentence is the program's own business.
        let field = says.split(": ").nth(1).filter(|field| field.chars().all(|c| c.is_ascii_alphanumeric() || c == '_'));
        let detail =
            field.map_or_else(|| "The query cannot be read.".to_owned(), |field| format!("The query cannot be read: look at {field}."));
        Self::new(StatusCode::BAD_REQUEST, "unreadable-query", detail)
    }
}

impl IntoResponse for ApiError {
    fn into_response(self) -> Response {
        let body = ProblemBody {
            kind: format!("urn:pukka:problem:{}", self.code),
            title: words(self.code),
            status: self.status.as_u16(),
            detail: self.detail,
            code: self.code.to_owned(),
            problems: self.problems,
        };
        let text = serde_json::to_string(&body).unwrap_or_default();
        (self.status, [(header::CONTENT_TYPE, "application/problem+json")], text).into_response()
    }
}
