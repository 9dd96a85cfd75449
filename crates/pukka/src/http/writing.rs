//! Who writes, from which tab, at which revision, and whether it is the same request again.

use axum::extract::FromRequestParts;
use axum::http::request::Parts;
use axum::http::{HeaderMap, StatusCode, header};
use pukka_store::{Author, idempotency};

use super::{ApiError, State};

/// Author as the headers of a write name them. Today there is one principal, the local user.
#[derive(Debug)]
pub struct Writing {
    who: String,
    tab: String,
    at: jiff::Timestamp,
    key: Option<String>,
    target: String,
    revision: Option<i64>,
}

impl Writing {
    /// The author of this request.
    pub fn author(&self, body: &[u8]) -> Author {
        let key = self.key.as_ref().map(|key| (key.clone(), idempotency::fingerprint(&[self.target.as_bytes(), body])));
        Author { who: self.who.clone(), tab: self.tab.clone(), at: self.at, key, batch: None }
    }

    /// Now.
    pub fn at(&self) -> jiff::Timestamp {
        self.at
    }

    /// Person who writes.
    pub fn who(&self) -> &str {
        &self.who
    }

    /// The tab it is written in.
    pub fn tab(&self) -> &str {
        &self.tab
    }

    /// The revision the record was opened at.
    pub fn revision(&self) -> Result<i64, ApiError> {
        let missing = || ApiError::new(StatusCode::PRECONDITION_REQUIRED, "no-revision", "Say with If-Match which revision you changed.");
        self.revision.ok_or_else(missing)
    }
}

/// Characters of a header or a key.
pub const MOST_CHARS: usize = 100;

fn header_text(headers: &HeaderMap, name: &str) -> Result<Option<String>, ApiError> {
    let Some(value) = headers.get(name) else {
        return Ok(None);
    };
    let text = value.to_str().ok().filter(|text| !text.is_empty() && text.len() <= MOST_CHARS);
    let bad = || ApiError::new(StatusCode::BAD_REQUEST, "bad-header", format!("The header {name} cannot be read."));
    text.map(|text| Some(text.to_owned())).ok_or_else(bad)
}

impl FromRequestParts<State> for Writing {
    type Rejection = ApiError;

    async fn from_request_parts(parts: &mut Parts, state: &State) -> Result<Self, ApiError> {
        let revision = match header_text(&parts.headers, header::IF_MATCH.as_str())? {
            None => None,
            Some(text) => Some(
                text.trim_matches('"')
                    .parse()
                    .map_err(|_| ApiError::new(StatusCode::BAD_REQUEST, "bad-header", "If-Match holds a revision: a whole number."))?,
            ),
        };
        Ok(Self {
            who: "local".into(),
            tab: header_text(&parts.headers, "x-pukka-tab")?.unwrap_or_else(|| "none".into()),
            at: state.clock.now(),
            key: header_text(&parts.headers, "idempotency-key")?,
            target: format!("{} {}", parts.method, parts.uri.path()),
            revision,
        })
    }
}
