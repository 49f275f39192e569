//! Headers that every answer carries.
//!
//! 1. Scripts, styles, fonts and images come from this server alone; nothing inline runs.
//! 2. No page is shown in a frame of another site.
//! 3. Addresses of jobs are not given to other sites.

use axum::extract::Request;
use axum::http::{HeaderName, HeaderValue};
use axum::middleware::Next;
use axum::response::Response;

/// Bootstrap's own style sheet holds its small arrows as data: images.
const CSP: &str = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src \
    'self' data:; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

pub async fn headers(request: Request, next: Next) -> Response {
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
    headers
        .entry("cache-control")
        .or_insert(HeaderValue::from_static("no-store"));
    response
}
