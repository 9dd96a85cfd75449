//! Long lists a page at a time: so many from a cursor on, which is the end of the page before.

use base64::Engine as _;
use base64::engine::general_purpose::URL_SAFE_NO_PAD;
use pukka_core::kernel::problem::Problem;
use pukka_store::After;
use serde::Deserialize;

use super::ApiError;

/// Rows of a page when none are said, and at the most.
const USUAL: usize = 200;
const MOST: usize = 1_000;

/// The page.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Page {
    /// Rows at the most: 1 to 1000, 200 when left out.
    #[serde(default)]
    #[param(minimum = 1, maximum = 1000)]
    limit: Option<usize>,
    /// The `next` of the page before.
    #[serde(default)]
    after: Option<String>,
}

impl Page {
    /// Page that the store is asked for.
    pub fn wanted(&self) -> Result<(Option<After>, usize), ApiError> {
        let limit = limit_of(self.limit)?;
        let read = |text: &String| {
            let bytes = URL_SAFE_NO_PAD.decode(text).ok()?;
            let (at, id) = std::str::from_utf8(&bytes).ok()?.split_once(' ')?;
            Some(After { at: at.to_owned(), id: id.to_owned() })
        };
        let after =
            match &self.after {
                None => None,
                Some(text) => Some(read(text).ok_or_else(|| {
                    ApiError::invalid(vec![Problem::new("after", "This is no cursor: take the `next` of the page before.")])
                })?),
            };
        Ok((after, limit))
    }
}

/// Rows of a page.
pub fn limit_of(asked: Option<usize>) -> Result<usize, ApiError> {
    let limit = asked.unwrap_or(USUAL);
    if (1..=MOST).contains(&limit) {
        Ok(limit)
    } else {
        Err(ApiError::invalid(vec![Problem::new("limit", format!("A page has 1 to {MOST} rows."))]))
    }
}

/// A cursor as it is sent.
pub fn cursor(after: &After) -> String {
    URL_SAFE_NO_PAD.encode(format!("{} {}", after.at, after.id))
}
