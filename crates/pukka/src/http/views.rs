//! Saved views: filters and order of a page, by a name of the user's own.

use axum::Json;
use axum::extract::State as Ask;
use axum::http::StatusCode;
use axum::response::Response;
use pukka_core::kernel::problem::{Problem, check_text};
use pukka_store::views::{self, SavedView, ViewPage, ViewRow};
use pukka_store::{Author, WriteTx};
use serde::{Deserialize, Serialize};

use super::answer::created;
use super::body::{Body, sound};
use super::path::Path;
use super::writing::Writing;
use super::{ApiError, State};

/// Page whose filters and order are saved.
#[derive(Debug, Clone, Copy, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PageOfView {
    /// The shelf.
    Shelf,
    /// Clean watts against price, and amplifiers side by side.
    Compare,
}

impl From<PageOfView> for ViewPage {
    fn from(page: PageOfView) -> Self {
        match page {
            PageOfView::Shelf => Self::Shelf,
            PageOfView::Compare => Self::Compare,
        }
    }
}

impl From<ViewPage> for PageOfView {
    fn from(page: ViewPage) -> Self {
        match page {
            ViewPage::Shelf => Self::Shelf,
            ViewPage::Compare => Self::Compare,
        }
    }
}

/// A view to save. One of the same page by the same name is replaced.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ViewToSave {
    /// The page.
    pub page: PageOfView,
    /// Name given to it.
    pub name: String,
    /// The query of its address, without the question mark: `class=D&sort=clean`.
    pub query: String,
    /// Whether a comparison goes on the web site by this name.
    #[serde(default)]
    pub on_site: bool,
}

/// A saved view.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ViewLine {
    /// Id.
    pub id: String,
    /// The page.
    pub page: PageOfView,
    /// Name given to it.
    pub name: String,
    /// The query of its address.
    pub query: String,
    /// Whether it goes on the web site.
    pub on_site: bool,
}

impl From<ViewRow> for ViewLine {
    fn from(ViewRow { id, view, .. }: ViewRow) -> Self {
        Self { id, page: view.page.into(), name: view.name, query: view.query, on_site: view.on_site }
    }
}

/// Every saved view.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Views {
    /// By name.
    pub views: Vec<ViewLine>,
}

const MOST_VIEWS: usize = 200;
const MOST_QUERY: usize = 2_000;

fn check(view: &ViewToSave) -> Vec<Problem> {
    let mut problems = Vec::new();
    check_text(&mut problems, "name", &view.name, true, 60);
    if view.on_site && matches!(view.page, PageOfView::Shelf) {
        problems.push(Problem::new("on_site", "Only a comparison goes on the web site: the shelf is on it already."));
    }
    // It becomes the end of a link: nothing but what a query can hold.
    let is_query = view.query.chars().all(|c| c.is_ascii_graphic() && !matches!(c, '"' | '<' | '>' | '#' | '?' | '\\' | '`'));
    if !is_query || view.query.len() > MOST_QUERY {
        problems.push(Problem::new("query", format!("The query of an address: {MOST_QUERY} characters at most, without ? or #.")));
    }
    problems
}

/// Every saved view.
#[utoipa::path(get, operation_id = "listViews", path = "/views", responses((status = 200, body = Views)))]
pub async fn list(Ask(state): Ask<State>) -> Result<Json<Views>, ApiError> {
    let rows = state.records(|store| store.read(views::list)).await?;
    Ok(Json(Views { views: rows.into_iter().map(ViewLine::from).collect() }))
}

/// Saves a view, in place of one of the same page by the same name.
#[utoipa::path(post, operation_id = "saveView", path = "/views", request_body = ViewToSave, responses((status = 201, body = ViewLine)))]
pub async fn save(Ask(state): Ask<State>, writing: Writing, body: Body<ViewToSave>) -> Result<Response, ApiError> {
    let mut problems = check(&body.value);
    if state.records(|store| store.read(views::list)).await?.len() >= MOST_VIEWS {
        problems.push(Problem::new("name", format!("{MOST_VIEWS} views are kept at the most: delete one first.")));
    }
    sound(problems)?;
    let author = writing.author(&body.raw);
    let ViewToSave { page, name, query, on_site } = body.value;
    let view = SavedView { page: page.into(), name: name.trim().to_owned(), query, on_site };
    let id = state.once(author, move |tx: &WriteTx, author: &Author| Ok(views::save(tx, author, &view)?.id)).await?;
    let row = state.records(move |store| store.read(|tx| views::get(tx, &id))).await?;
    Ok(created(&format!("views/{}", row.id), None, ViewLine::from(row)))
}

/// Deletes a view; undo brings it back.
#[utoipa::path(delete, operation_id = "deleteView", path = "/views/{id}", params(("id" = String, Path)), responses((status = 204)))]
pub async fn delete(Ask(state): Ask<State>, Path(id): Path<String>, writing: Writing) -> Result<StatusCode, ApiError> {
    let author = writing.author(b"");
    state.once(author, move |tx: &WriteTx, author: &Author| views::delete(tx, author, &id)).await?;
    Ok(StatusCode::NO_CONTENT)
}
