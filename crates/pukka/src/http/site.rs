//! The shelf as a static web site, as one download.

use std::path::{Path as FilePath, PathBuf};
use std::sync::Arc;

use axum::extract::State as Ask;
use axum::response::Response;
use pukka_core::kernel::problem::{Problem, check_text};
use pukka_store::StoreError;
use serde::Deserialize;

use super::body::sound;
use super::download::Download;
use super::path::Query;
use super::{ApiError, State};
use crate::site::{NAME, SiteWanted, check_url, site};

/// Words on the site.
#[derive(Debug, Default, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(default, deny_unknown_fields)]
pub struct SiteWords {
    /// Name of the site.
    #[param(inline)]
    name: Option<String>,
    /// Licence of what is published.
    #[param(inline)]
    licence: Option<String>,
    /// Address it will have, for the feed and for previews.
    #[param(inline)]
    url: Option<String>,
    /// Only amplifiers whose name contains this.
    #[param(inline)]
    only: Option<String>,
}

/// The shelf as a static web site, in a zip. Nothing private is in it.
#[utoipa::path(get, operation_id = "getSite", path = "/site.zip", params(SiteWords),
    responses((status = 200, body = Vec<u8>, content_type = "application/zip")))]
pub async fn zipped(Ask(state): Ask<State>, Query(words): Query<SiteWords>) -> Result<Response, ApiError> {
    let SiteWords { name, licence, url, only } = words;
    let mut problems = Vec::new();
    for (path, text) in [("name", &name), ("licence", &licence), ("url", &url), ("only", &only)] {
        check_text(&mut problems, path, text.as_deref().unwrap_or(""), false, 200);
    }
    let filled = |text: Option<String>| text.map(|text| text.trim().to_owned()).filter(|text| !text.is_empty());
    let (name, licence, url, only) = (filled(name).unwrap_or_else(|| NAME.into()), filled(licence), filled(url), filled(only));
    if let Some(Err(says)) = url.as_deref().map(check_url) {
        problems.push(Problem::new("url", says));
    }
    sound(problems)?;
    let store = Arc::clone(&state.store);
    let made = state.compute_long(move || {
        let download = Download::beside(store.folder(), "site");
        let at_temporary = |why| StoreError::at(&std::env::temp_dir(), why);
        let folder = tempfile::tempdir().map_err(at_temporary)?;
        let wanted = SiteWanted { data: store.folder().to_owned(), out: folder.path().to_owned(), url, name, licence, only };
        site(&wanted).map_err(|why| super::publish::not_made(&why))?;
        download.zip(files_of(folder.path()).map_err(at_temporary)?)?;
        Ok::<_, ApiError>(download)
    });
    Ok(made.await??.response("application/zip", "pukka-site.zip")?)
}

/// Files of a folder and of those in it, by their names from there, in order.
fn files_of(folder: &FilePath) -> std::io::Result<impl Iterator<Item = std::io::Result<(String, Vec<u8>)>>> {
    let mut paths = Vec::new();
    list(folder, &mut paths)?;
    paths.sort();
    let name = move |path: &FilePath| {
        let inside = path.strip_prefix(folder).unwrap_or(path).components();
        inside.map(|part| part.as_os_str().to_string_lossy()).collect::<Vec<_>>().join("/")
    };
    Ok(paths.into_iter().map(move |path| Ok((name(&path), std::fs::read(&path)?))))
}

fn list(folder: &FilePath, files: &mut Vec<PathBuf>) -> std::io::Result<()> {
    for entry in std::fs::read_dir(folder)? {
        let path = entry?.path();
        if path.is_dir() {
            list(&path, files)?;
        } else {
            files.push(path);
        }
    }
    Ok(())
}
