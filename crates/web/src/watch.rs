//! For who runs a server: every request followed by a number, counted and timed; what it holds in hand.

use crate::app::App;
use crate::config::Config;
use crate::error::AppError;
use crate::security::Client;
use axum::extract::{MatchedPath, Request, State};
use axum::http::{HeaderName, HeaderValue, Method, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use governor::clock::DefaultClock;
use governor::state::keyed::DashMapStateStore;
use governor::{Quota, RateLimiter};
use prometheus_client::encoding::EncodeLabelSet;
use prometheus_client::encoding::text::encode;
use prometheus_client::metrics::counter::Counter;
use prometheus_client::metrics::family::Family;
use prometheus_client::metrics::gauge::Gauge;
use prometheus_client::metrics::histogram::Histogram;
use prometheus_client::registry::{Registry, Unit};
use std::net::IpAddr;
use std::num::NonZeroU32;
use std::sync::Arc;
use std::sync::atomic::{AtomicU32, AtomicU64, Ordering};
use std::time::{Duration, Instant};
use tracing::Instrument;

/// Names a request: in the log, in its answer's `x-request-id`, and on a page that says what went wrong.
#[derive(Debug, Clone)]
pub struct RequestId(pub Arc<str>);

#[derive(Clone, Debug, Hash, PartialEq, Eq, EncodeLabelSet)]
struct Asked {
    method: &'static str,
    route: String,
    status: u16,
}

#[derive(Clone, Debug, Hash, PartialEq, Eq, EncodeLabelSet)]
struct Route {
    route: String,
}

type Limiter = RateLimiter<IpAddr, DashMapStateStore<IpAddr>, DefaultClock>;

/// What is counted and timed by one server process.
pub struct Watch {
    /// Begins every request's name: two processes never give the same.
    process: String,
    next: AtomicU64,
    registry: Registry,
    requests: Family<Asked, Counter>,
    times: Family<Route, Histogram>,
    /// Edits that were appended.
    pub edits: Counter,
    /// Seconds that assessments took.
    pub assessments: Histogram,
    reading: Gauge,
    connections: Gauge,
    idle: Gauge<i64>,
    kept: Gauge,
    refused: Counter,
    dear: Limiter,
    dear_since_swept: AtomicU32,
}

/// From a millisecond to ten seconds.
fn histogram() -> Histogram {
    Histogram::new([0.001, 0.0025, 0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 10.0])
}

impl Watch {
    pub fn new(config: &Config) -> Self {
        let mut registry = Registry::with_prefix("fenlo");
        let requests = Family::<Asked, Counter>::default();
        let times = Family::<Route, Histogram>::new_with_constructor(histogram);
        let (edits, refused) = (Counter::default(), Counter::default());
        let assessments = histogram();
        let (reading, connections, idle, kept) =
            (Gauge::default(), Gauge::default(), Gauge::default(), Gauge::default());
        registry.register("requests", "Requests answered", requests.clone());
        registry.register_with_unit("request", "Time to the answer's head", Unit::Seconds, times.clone());
        registry.register("edits", "Edits appended", edits.clone());
        registry.register_with_unit("assessment", "Time to assess a job", Unit::Seconds, assessments.clone());
        registry.register("files_in_hand", "Foreign files that are read or wait", reading.clone());
        registry.register("database_connections", "Open connections to the database", connections.clone());
        registry.register("database_connections_idle", "Those that nobody uses", idle.clone());
        registry.register("jobs_kept", "Assessments kept in memory", kept.clone());
        registry.register("too_often", "Expensive requests refused by the rate limit", refused.clone());
        let quota = Quota::per_minute(NonZeroU32::new(config.dear_per_minute).unwrap_or(NonZeroU32::MIN));
        let process = crate::keys::for_form();
        Self {
            process: process.chars().take(6).collect(),
            next: AtomicU64::new(1),
            registry,
            requests,
            times,
            edits,
            assessments,
            reading,
            connections,
            idle,
            kept,
            refused,
            dear: RateLimiter::keyed(quota),
            dear_since_swept: AtomicU32::new(0),
        }
    }

    fn name(&self) -> RequestId {
        let n = self.next.fetch_add(1, Ordering::Relaxed);
        RequestId(format!("{}-{n}", self.process).into())
    }

    /// False where an address asked for dear things too often.
    fn may(&self, client: IpAddr) -> bool {
        // Addresses that asked for nothing lately are forgotten, now and then.
        if self.dear_since_swept.fetch_add(1, Ordering::Relaxed) % 1_000 == 999 {
            self.dear.retain_recent();
        }
        let may = self.dear.check_key(&client).is_ok();
        if !may {
            self.refused.inc();
        }
        may
    }
}

fn word(method: &Method) -> &'static str {
    match *method {
        Method::GET => "GET",
        Method::POST => "POST",
        Method::HEAD => "HEAD",
        _ => "other",
    }
}

/// Names a request, and writes one line to the log when it is answered. Paths are logged as routes: what
/// stands in them may be a secret.
pub async fn follow(State(watch): State<Arc<Watch>>, mut request: Request, next: Next) -> Response {
    let began = Instant::now();
    let id = watch.name();
    let method = word(request.method());
    let route = request.extensions().get::<MatchedPath>().map_or("-", MatchedPath::as_str).to_owned();
    let span = tracing::info_span!("request", id = &*id.0, method, route);
    request.extensions_mut().insert(id.clone());
    let mut response = next.run(request).instrument(span.clone()).await;
    let took = began.elapsed();
    let status = response.status();
    if let Ok(value) = HeaderValue::from_str(&id.0) {
        response.headers_mut().insert(HeaderName::from_static("x-request-id"), value);
    }
    span.in_scope(|| note(status, took));
    watch.times.get_or_create(&Route { route: route.clone() }).observe(took.as_secs_f64());
    let asked = Asked { method, route, status: status.as_u16() };
    watch.requests.get_or_create(&asked).inc();
    response
}

fn note(status: StatusCode, took: Duration) {
    let ms = took.as_millis() as u64;
    if status.is_server_error() {
        tracing::warn!(status = status.as_u16(), ms, "answered");
    } else {
        tracing::debug!(status = status.as_u16(), ms, "answered");
    }
}

/// Routes that take seconds of a core; files as well, whatever their route.
const DEAR: [&str; 5] = [
    "/jobs/{job}/papers/{file}",
    "/jobs/{job}/papers/make/{kind}",
    "/jobs/{job}/layout/run",
    "/jobs/{job}/ground/pipes",
    "/jobs/{job}/times/night",
];

/// Refuses dear requests of an address that sends too many.
pub async fn not_too_often(State(watch): State<Arc<Watch>>, request: Request, next: Next) -> Response {
    let route = request.extensions().get::<MatchedPath>().map_or("", MatchedPath::as_str);
    let kind = request.headers().get(header::CONTENT_TYPE);
    let file = kind.is_some_and(|k| k.as_bytes().starts_with(b"multipart/"));
    let client = request.extensions().get::<Client>().copied();
    if let (true, Some(Client(client))) = (file || DEAR.contains(&route), client)
        && !watch.may(client)
    {
        let lines =
            vec!["File, comparison and document requests are limited. Wait a minute and try again.".into()];
        return AppError::Said(StatusCode::TOO_MANY_REQUESTS, "Too many requests", lines).into_response();
    }
    next.run(request).await
}

/// For those who watch over servers: whether the database answers and files are still being read.
pub async fn health(State(app): State<App>) -> Response {
    if !app.database.answers().await {
        return (StatusCode::SERVICE_UNAVAILABLE, "database not available").into_response();
    }
    if app.readings.is_full() {
        return (StatusCode::SERVICE_UNAVAILABLE, "not accepting files: queue is full").into_response();
    }
    "ok".into_response()
}

/// Whether requests may be sent here: the database answers, and the server was not told to stop.
pub async fn ready(
    State(app): State<App>,
    axum::Extension(stopping): axum::Extension<tokio::sync::watch::Receiver<bool>>,
) -> Response {
    if *stopping.borrow() {
        return (StatusCode::SERVICE_UNAVAILABLE, "stopping").into_response();
    }
    if !app.database.answers().await {
        return (StatusCode::SERVICE_UNAVAILABLE, "database not available").into_response();
    }
    "ready".into_response()
}

/// What is counted and timed, in the open text format for metrics.
pub async fn metrics(State(app): State<App>) -> Result<Response, AppError> {
    let watch = &app.watch;
    let (open, idle) = app.database.connections();
    watch.connections.set(i64::from(open));
    watch.idle.set(i64::from(idle));
    watch.reading.set(app.readings.pending() as i64);
    watch.kept.set(app.kept() as i64);
    let mut text = String::new();
    encode(&mut text, &watch.registry).map_err(AppError::broken)?;
    let kind = "application/openmetrics-text; version=1.0.0; charset=utf-8";
    Ok(([(header::CONTENT_TYPE, kind)], text).into_response())
}
