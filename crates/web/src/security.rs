//! What stands before every page, and headers that every answer carries.
//!
//! 1. Only names that were configured are answered to: with any other a page elsewhere could have its own
//!    name lead here, and read and write everything.
//! 2. What changes something comes from our own pages: a browser says so, anything else by a header that no
//!    other site's page can send.
//! 3. Scripts, styles, fonts and images come from this server alone; nothing inline runs.
//! 4. No page is shown in a frame of another site.
//! 5. Addresses of jobs are not given to other sites.

use crate::config::Config;
use crate::error::AppError;
use axum::extract::{ConnectInfo, Request, State};
use axum::http::{HeaderMap, HeaderName, HeaderValue, Method, StatusCode, Uri, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use std::net::{IpAddr, Ipv6Addr, SocketAddr};
use std::sync::Arc;

/// Bootstrap's own style sheet holds its small arrows as data: images.
const CSP: &str = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src \
    'self' data:; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";
/// Two years.
const HSTS: &str = "max-age=63072000";
/// Sent by programs that change something; a page of another site can't send it.
const OURS: &str = "x-fenlo";

/// What the guard knows of the configuration.
#[derive(Clone)]
pub struct Guard {
    hosts: Arc<[String]>,
    proxies: Arc<[IpAddr]>,
    tls: bool,
}

impl Guard {
    pub fn of(config: &Config) -> Self {
        Self {
            hosts: config.hosts.iter().map(|h| h.to_lowercase()).collect(),
            proxies: config.trusted_proxies.iter().copied().collect(),
            tls: config.tls_in_front,
        }
    }

    /// Loopback, or a name that was configured; the port does not matter.
    fn answers_to(&self, authority: &str) -> bool {
        let host = authority
            .rsplit_once(':')
            .filter(|(_, port)| !port.is_empty() && port.bytes().all(|b| b.is_ascii_digit()));
        let host = host.map_or(authority, |h| h.0).to_lowercase();
        let bare = host.strip_prefix('[').and_then(|h| h.strip_suffix(']'));
        let loopback = match bare {
            Some(six) => six.parse::<Ipv6Addr>().is_ok_and(|a| a.is_loopback()),
            None => host == "localhost" || host.parse::<std::net::Ipv4Addr>().is_ok_and(|a| a.is_loopback()),
        };
        loopback || self.hosts.contains(&host)
    }

    /// Who asks: the peer, or who a trusted proxy says.
    fn client(&self, peer: IpAddr, headers: &HeaderMap) -> IpAddr {
        if !self.proxies.contains(&peer) {
            return peer;
        }
        let said = headers.get_all("x-forwarded-for").iter();
        let said: Vec<&str> = said.filter_map(|v| v.to_str().ok()).flat_map(|v| v.split(',')).collect();
        // From the nearest outwards: the first that is no proxy of ours.
        let all = said.iter().rev().filter_map(|a| a.trim().parse::<IpAddr>().ok());
        all.into_iter().find(|a| !self.proxies.contains(a)).unwrap_or(peer)
    }
}

/// The address of who asks.
#[derive(Clone, Copy)]
pub struct Client(pub IpAddr);

/// The one host that a request names; none where it names none, or several.
fn authority(uri: &Uri, headers: &HeaderMap) -> Option<String> {
    let mut all = headers.get_all(header::HOST).iter();
    let host = all.next().and_then(|h| h.to_str().ok()).map(str::to_owned);
    if all.next().is_some() {
        return None;
    }
    // An absolute address counts, and must not say something else.
    match (uri.authority(), host) {
        (Some(a), Some(h)) if a.as_str() != h => None,
        (Some(a), _) => Some(a.as_str().to_owned()),
        (None, host) => host,
    }
}

/// Refuses what is not for this server or not from its own pages, before any work is done for it.
pub async fn guard(State(guard): State<Guard>, mut request: Request, next: Next) -> Response {
    let Some(host) = authority(request.uri(), request.headers()) else {
        return AppError::Said(
            StatusCode::BAD_REQUEST,
            "Missing host name",
            vec!["The request must name one host.".into()],
        )
        .into_response();
    };
    if !guard.answers_to(&host) {
        return AppError::Said(
            StatusCode::MISDIRECTED_REQUEST,
            "Unknown host name",
            vec!["Fenlo does not accept this host name. The administrator can add it under hosts.".into()],
        )
        .into_response();
    }
    let safe = matches!(*request.method(), Method::GET | Method::HEAD | Method::OPTIONS);
    let named = ["origin", "sec-fetch-site", "hx-request", OURS];
    if !safe && !named.iter().any(|h| request.headers().contains_key(*h)) {
        return AppError::CrossSite.into_response();
    }
    if let Some(ConnectInfo(peer)) = request.extensions().get::<ConnectInfo<SocketAddr>>().copied() {
        let client = Client(guard.client(peer.ip(), request.headers()));
        request.extensions_mut().insert(client);
    }
    next.run(request).await
}

pub async fn headers(State(guard): State<Guard>, request: Request, next: Next) -> Response {
    let mut response = next.run(request).await;
    let headers = response.headers_mut();
    for (name, value) in [
        ("content-security-policy", CSP),
        ("x-content-type-options", "nosniff"),
        ("referrer-policy", "same-origin"),
        ("cross-origin-opener-policy", "same-origin"),
        ("cross-origin-resource-policy", "same-origin"),
        ("permissions-policy", "camera=(), geolocation=(), microphone=()"),
    ] {
        headers.insert(HeaderName::from_static(name), HeaderValue::from_static(value));
    }
    if guard.tls {
        headers.insert(header::STRICT_TRANSPORT_SECURITY, HeaderValue::from_static(HSTS));
    }
    headers.entry("cache-control").or_insert(HeaderValue::from_static("no-store"));
    response
}

#[cfg(test)]
mod tests {
    use super::*;

    fn guard() -> Guard {
        Guard::of(&Config {
            hosts: vec!["plots.example".into()],
            trusted_proxies: vec!["10.0.0.1".parse().unwrap(), "10.0.0.2".parse().unwrap()],
            ..Config::default()
        })
    }

    #[test]
    fn only_loopback_and_configured_names_are_answered_to() {
        for name in [
            "localhost",
            "localhost:8000",
            "127.0.0.1:8123",
            "127.9.9.9",
            "[::1]:80",
            "[::1]",
            "Plots.Example:443",
        ] {
            assert!(guard().answers_to(name), "{name}");
        }
        for name in [
            "evil.example",
            "localhost.evil.example",
            "127.0.0.1.evil.example",
            "10.0.0.1",
            "[::2]",
            "",
            ":80",
            "plots.example.",
        ] {
            assert!(!guard().answers_to(name), "{name}");
        }
    }

    #[test]
    fn a_request_names_one_host() {
        let of = |uri: &str, hosts: &[&'static str]| {
            let mut headers = HeaderMap::new();
            for host in hosts {
                headers.append(header::HOST, HeaderValue::from_static(host));
            }
            authority(&uri.parse().unwrap(), &headers)
        };
        assert_eq!(of("/", &["a"]).as_deref(), Some("a"));
        assert_eq!(of("/", &[]), None);
        assert_eq!(of("/", &["a", "a"]), None);
        assert_eq!(of("http://b/", &["a"]), None);
        assert_eq!(of("http://a/", &["a"]).as_deref(), Some("a"));
    }

    #[test]
    fn who_asks_is_told_by_trusted_proxies_alone() {
        let of = |peer: &str, said: &str| {
            let mut headers = HeaderMap::new();
            headers.append("x-forwarded-for", HeaderValue::from_str(said).unwrap());
            guard().client(peer.parse().unwrap(), &headers).to_string()
        };
        assert_eq!(of("7.7.7.7", "1.2.3.4"), "7.7.7.7", "not a proxy of ours");
        assert_eq!(
            of("10.0.0.1", "6.6.6.6, 1.2.3.4"),
            "1.2.3.4",
            "what a client says of itself is further left"
        );
        assert_eq!(of("10.0.0.1", "1.2.3.4, 10.0.0.2"), "1.2.3.4");
        assert_eq!(of("10.0.0.1", "nonsense"), "10.0.0.1");
    }
}
