//! The front end, embedded.

use axum::http::header;
use axum::response::{IntoResponse, Response};

#[derive(rust_embed::RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Files;

/// A face of the front end, by how its file's name begins; nothing when the front end was not built.
pub fn face(name: &str) -> Option<Vec<u8>> {
    let begins = format!("assets/{name}");
    let path = Files::iter().find(|path| path.starts_with(&begins) && path.ends_with(".woff2"))?;
    Some(Files::get(&path)?.data.into_owned())
}

/// A file of the front end as it is sent; nothing when there is none of that name.
pub fn embedded(path: &str) -> Option<Response> {
    let file = Files::get(path)?;
    let kind = mime_guess::from_path(path).first_or_octet_stream();
    // Names under assets/ carry a hash of what is in them.
    let keep = if path.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    Some(([(header::CONTENT_TYPE, kind.as_ref()), (header::CACHE_CONTROL, keep)], file.data).into_response())
}
