//! A web page elsewhere must not be able to drive the bench.

use std::net::IpAddr;

use axum::extract::Request;
use axum::http::{HeaderMap, HeaderName, Method, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

use super::ApiError;

/// Names by which the program may be called, beside its addresses and `localhost`.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Names {
    /// None: it listens on this machine only.
    None,
    /// The ones that only the network at hand can give: nobody elsewhere can register one and make it point here.
    OfTheNetwork,
}

/// Ends of names that are never given out on the internet. Ref: RFC 6761, RFC 6762, RFC 8375, and ICANN's reservation of .internal.
const OF_THE_NETWORK: [&str; 6] = [".local", ".home.arpa", ".internal", ".test", ".lan", ".localhost"];

/// Refuses hosts that are names (a name can be made to point here), and writes that come from another origin.
pub async fn same_place(names: Names, request: Request, next: Next) -> Response {
    match check(names, request.method(), request.uri().path(), request.headers()) {
        Ok(()) => next.run(request).await,
        Err(error) if is_page(request.headers()) => error.page(),
        Err(error) => error.into_response(),
    }
}

/// Whether a person is looking at it.
fn is_page(headers: &HeaderMap) -> bool {
    headers.get(header::ACCEPT).and_then(|accept| accept.to_str().ok()).is_some_and(|accept| accept.contains("text/html"))
}

fn check(names: Names, method: &Method, path: &str, headers: &HeaderMap) -> Result<(), ApiError> {
    let forbidden = |says: &str| ApiError::new(StatusCode::FORBIDDEN, "wrong-place", says);
    let text = |name| headers.get(name).and_then(|value| value.to_str().ok());
    let host = text(header::HOST).ok_or_else(|| forbidden("The request names no host."))?;
    if !is_own_host(names, host) {
        return Err(forbidden("Open Pukka by the address it printed when it started, not by another name."));
    }
    if !matches!(*method, Method::GET | Method::HEAD | Method::OPTIONS)
        && let Some(origin) = text(header::ORIGIN)
        && origin.strip_prefix("http://") != Some(host)
    {
        return Err(forbidden("Another web page may not write here."));
    }
    // Its browser says so of a page elsewhere, whatever the method: a picture's address starts an export as well as a link does.
    let comes_from = text(HeaderName::from_static("sec-fetch-site")).unwrap_or("none");
    let opens_a_page = text(HeaderName::from_static("sec-fetch-mode")) == Some("navigate") && !path.starts_with("/api/");
    if !matches!(comes_from, "none" | "same-origin") && !opens_a_page {
        return Err(forbidden("Another web page may not ask for this."));
    }
    Ok(())
}

/// An address in figures, localhost, or a name of the network where those are let in.
fn is_own_host(names: Names, host: &str) -> bool {
    let name = match host.strip_prefix('[') {
        Some(six) => six.split(']').next().unwrap_or_default(),
        None => host.rsplit_once(':').map_or(host, |(name, _)| name),
    };
    let lower = name.to_ascii_lowercase();
    let of_the_network = || !lower.contains('.') || OF_THE_NETWORK.iter().any(|end| lower.ends_with(end));
    lower == "localhost" || name.parse::<IpAddr>().is_ok() || (names == Names::OfTheNetwork && !lower.is_empty() && of_the_network())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn verdict(method: Method, host: &str, origin: Option<&str>) -> bool {
        verdict_of(Names::None, method, host, origin)
    }

    fn verdict_of(names: Names, method: Method, host: &str, origin: Option<&str>) -> bool {
        let mut headers = HeaderMap::new();
        headers.insert(header::HOST, host.parse().unwrap());
        if let Some(origin) = origin {
            headers.insert(header::ORIGIN, origin.parse().unwrap());
        }
        check(names, &method, "/", &headers).is_ok()
    }

    #[test]
    fn a_page_elsewhere_starts_no_work() {
        let asked = |site: &str, mode: &str, path: &str| {
            let mut headers = HeaderMap::new();
            headers.insert(header::HOST, "127.0.0.1:7411".parse().unwrap());
            headers.insert("sec-fetch-site", site.parse().unwrap());
            headers.insert("sec-fetch-mode", mode.parse().unwrap());
            check(Names::None, &Method::GET, path, &headers).is_ok()
        };
        assert!(asked("same-origin", "cors", "/api/shelf.zip") && asked("none", "navigate", "/api/shelf.zip"));
        assert!(asked("cross-site", "navigate", "/amplifiers/1/verdict"), "a link to a page is a link");
        for site in ["cross-site", "same-site"] {
            for mode in ["no-cors", "navigate", "cors"] {
                assert!(!asked(site, mode, "/api/backup.zip"), "{site}, {mode}");
            }
            assert!(!asked(site, "no-cors", "/assets/index.js"));
        }
    }

    #[test]
    fn only_this_place_may_write() {
        assert!(verdict(Method::POST, "127.0.0.1:7411", Some("http://127.0.0.1:7411")));
        assert!(verdict(Method::POST, "[::1]:7411", None));
        assert!(verdict(Method::POST, "localhost:7411", Some("http://localhost:7411")));
        assert!(!verdict(Method::POST, "127.0.0.1:7411", Some("http://elsewhere.example")));
        assert!(!verdict(Method::DELETE, "127.0.0.1:7411", Some("null")));
        assert!(!verdict(Method::GET, "bench.elsewhere.example", None), "a name may be made to point here");
        assert!(!verdict(Method::GET, "bench.test", None), "and nobody said that the network is trusted");
    }

    #[test]
    fn on_a_trusted_network_only_names_that_nobody_elsewhere_can_own() {
        let get = |host| verdict_of(Names::OfTheNetwork, Method::GET, host, None);
        for host in ["bench.test:7411", "bench.local", "BENCH.LAN:7411", "bench", "bench.home.arpa", "192.168.1.20:7411", "localhost"] {
            assert!(get(host), "{host}");
        }
        for host in ["bench.example", "bench.test.example", "local.example:7411", "", ":7411"] {
            assert!(!get(host), "{host}");
        }
        assert!(!verdict_of(Names::OfTheNetwork, Method::POST, "bench.test", Some("http://elsewhere.example")));
    }
}
