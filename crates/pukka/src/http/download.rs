//! A file made for one download: written to the disk, sent in blocks, gone afterwards.

use std::fs::File;
use std::io::{BufWriter, Read as _, Write as _};
use std::path::Path;

use axum::body::{Body, Bytes};
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse as _, Response};
use futures_util::StreamExt as _;
use pukka_store::StoreError;
use pukka_store::whole::{self, Part};

use super::ApiError;

const BLOCK: usize = 256 * 1024;

/// A file that is gone again once it was sent.
#[derive(Debug)]
pub struct Download(Part);

impl Download {
    /// A name in a folder that nobody else has.
    pub fn beside(folder: &Path, what: &str) -> Self {
        Self(Part::beside(&folder.join(what)))
    }

    /// Writes files into it as a zip, in their order: the same files give the same bytes.
    pub fn zip(&self, files: impl IntoIterator<Item = std::io::Result<(String, Vec<u8>)>>) -> Result<(), StoreError> {
        let write = || {
            let mut zip = zip::ZipWriter::new(BufWriter::new(whole::new_file(self.path())?));
            let options = zip::write::SimpleFileOptions::default().last_modified_time(zip::DateTime::default());
            for file in files {
                let (name, bytes) = file?;
                zip.start_file(name, options)?;
                zip.write_all(&bytes)?;
            }
            zip.finish()?.flush()
        };
        write().map_err(|why| StoreError::at(self.path(), why))
    }

    pub fn path(&self) -> &Path {
        self.0.path()
    }

    /// The file, to be put in a place of its own.
    pub fn into_part(self) -> Part {
        self.0
    }

    /// The file as an answer.
    pub fn response(self, kind: &'static str, name: &str) -> Result<Response, StoreError> {
        let trouble = |why| StoreError::at(self.path(), why);
        let file = File::open(self.path()).map_err(trouble)?;
        let length = file.metadata().map_err(trouble)?.len();
        let blocks = futures_util::stream::try_unfold((file, self), |(mut file, download)| async move {
            let read = tokio::task::spawn_blocking(move || {
                let mut block = vec![0; BLOCK];
                let n = file.read(&mut block)?;
                block.truncate(n);
                Ok::<_, std::io::Error>((block, file))
            });
            let (block, file) = read.await.map_err(std::io::Error::other)??;
            Ok::<_, std::io::Error>((!block.is_empty()).then(|| (Bytes::from(block), (file, download))))
        });
        let headers = [
            (header::CONTENT_TYPE, kind.to_owned()),
            (header::CONTENT_LENGTH, length.to_string()),
            (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{name}\"")),
        ];
        Ok((headers, Body::from_stream(blocks)).into_response())
    }
}

/// Writes a body to the disk, so that its size is no matter of memory.
pub async fn spool(body: Body, folder: &Path, most: u64) -> Result<Download, ApiError> {
    let download = Download::beside(folder, "upload");
    let trouble = |why| StoreError::at(folder, why);
    let mut file = whole::new_file(download.path()).map_err(trouble)?;
    let (mut chunks, mut length) = (body.into_data_stream(), 0);
    while let Some(chunk) = chunks.next().await {
        let broke = |_| ApiError::new(StatusCode::BAD_REQUEST, "unreadable", "The file broke off before its end. Nothing was done.");
        let chunk = chunk.map_err(broke)?;
        length += chunk.len() as u64;
        if length > most {
            let says = format!("A file of more than {} GB is not read.", most >> 30);
            return Err(ApiError::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", says));
        }
        let write = move || file.write_all(&chunk).map(|()| file);
        file = tokio::task::spawn_blocking(write).await.map_err(|_| StoreError::Broken)?.map_err(trouble)?;
    }
    Ok(download)
}
