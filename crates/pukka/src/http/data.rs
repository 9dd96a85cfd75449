//! The whole shelf as a data package: every run, every amplifier, and what each column means.

use std::io::{Error, ErrorKind};
use std::sync::Arc;

use axum::extract::State as Ask;
use axum::response::Response;
use pukka_core::record::session::Audience;
use pukka_store::{amplifiers, sessions};

use super::download::Download;
use super::{ApiError, State};
use crate::data::{About, amplifiers as amplifiers_table, amplifiers_csv, package, runs, runs_of_all};
use crate::sheet::csv;

/// Every run and every amplifier as CSV, with a description that R, Python and spreadsheets read. Nothing private is in it.
#[utoipa::path(get, operation_id = "getData", path = "/data.zip",
    responses((status = 200, body = Vec<u8>, content_type = "application/zip")))]
pub async fn zipped(Ask(state): Ask<State>) -> Result<Response, ApiError> {
    let store = Arc::clone(&state.store);
    let made = state.compute_long(move || {
        let odd = |why: String| pukka_store::StoreError::at(store.folder(), Error::new(ErrorKind::InvalidData, why));
        let shelf = store.read(amplifiers::whole_shelf)?;
        let mut tables = Vec::new();
        for row in &shelf {
            let session = store.read(|tx| sessions::in_hand(tx, &row.id))?.session.for_audience(Audience::Shared);
            tables.push(csv(&session).map_err(|why| odd(why.to_string()))?);
        }
        let about = About { name: "Amplifiers on the bench", licence: None, url: None };
        let described = package(&about, &[runs("runs.csv"), amplifiers_table("amplifiers.csv")]).map_err(|why| odd(why.to_string()))?;
        let listed = amplifiers_csv(shelf.iter().map(|row| &row.summary)).map_err(|why| odd(why.to_string()))?;
        let download = Download::beside(store.folder(), "data");
        let files = [("amplifiers.csv", listed), ("datapackage.json", described), ("runs.csv", runs_of_all(&tables))];
        download.zip(files.into_iter().map(|(name, bytes)| Ok((name.to_owned(), bytes))))?;
        Ok::<_, ApiError>(download)
    });
    Ok(made.await??.response("application/zip", "pukka-data.zip")?)
}
