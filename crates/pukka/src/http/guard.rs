//! A web page elsewhere must not be able to drive the bench.

use std::net::IpAddr;

use axum::extract::Request;
use axum::http::{HeaderMap, Method, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

use super::ApiError;

/// Refuses hosts that are names (a name can be made to point here), and writes that come from another origin.
pub async fn same_place(request: Request, next: Next) -> Response {
    match check(request.method(), request.headers()) {
        Ok(()) => next.run(request).await,
        Err(error) => error.into_response(),
    }
}

fn check(method: &Method, headers: &HeaderMap) -> Result<(), ApiError> {
    let forbidden = |says: &str| ApiError::new(StatusCode::FORBIDDEN, "wrong-place", says);
    let text = |name| headers.get(name).and_then(|value| value.to_str().ok());
    let host = text(header::HOST).ok_or_else(|| forbidden("The request names no host."))?;
    if !is_own_host(host) {
        return Err(forbidden("Open Pukka by its address, not by another name."));
    }
    if !matches!(*method, Method::GET | Method::HEAD | Method::OPTIONS)
        && let Some(origin) = text(header::ORIGIN)
        && origin.strip_prefix("http://") != Some(host)
    {
        return Err(forbidden("Another web page may not write here."));
    }
    Ok(())
}

/// An address in figures, or localhost.
fn is_own_host(host: &str) -> bool {
    let name = match host.strip_prefix('[') {
        Some(six) => six.split(']').next().unwrap_or_default(),
        None => host.rsplit_once(':').map_or(host, |(name, _)| name),
    };
    name.eq_ignore_ascii_case("localhost") || name.parse::<IpAddr>().is_ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn verdict(method: Method, host: &str, origin: Option<&str>) -> bool {
        let mut headers = HeaderMap::new();
        headers.insert(header::HOST, host.parse().unwrap());
        if let Some(origin) = origin {
            headers.insert(header::ORIGIN, origin.parse().unwrap());
        }
        check(&method, &headers).is_ok()
    }

    #[test]
    fn only_this_place_may_write() {
        assert!(verdict(Method::POST, "127.0.0.1:7411", Some("http://127.0.0.1:7411")));
        assert!(verdict(Method::POST, "[::1]:7411", None));
        assert!(verdict(Method::POST, "localhost:7411", Some("http://localhost:7411")));
        assert!(!verdict(Method::POST, "127.0.0.1:7411", Some("http://elsewhere.example")));
        assert!(!verdict(Method::DELETE, "127.0.0.1:7411", Some("null")));
        assert!(!verdict(Method::GET, "bench.elsewhere.example", None), "a name may be made to point here");
    }
}
