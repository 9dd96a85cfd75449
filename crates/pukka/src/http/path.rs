//! Parts of an address, refused in plain words where they cannot be read.

#![allow(clippy::disallowed_types, reason = "these are what the plain ones are made of")]

use axum::extract::FromRequestParts;

use super::ApiError;

/// Parts of the path.
#[derive(Debug, FromRequestParts)]
#[from_request(via(axum::extract::Path), rejection(ApiError))]
pub struct Path<T>(pub T);

/// The query.
#[derive(Debug, FromRequestParts)]
#[from_request(via(axum::extract::Query), rejection(ApiError))]
pub struct Query<T>(pub T);
