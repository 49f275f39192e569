//! A document that is waited for: how far it is, Stop, and the file once it is there.

use super::papers::{Kind, Order, Wish};
use crate::app::App;
use crate::error::AppError;
use askama::Template;
use axum::Router;
use axum::body::Bytes;
use axum::extract::{Path, Query, State};
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use fenlo_core::progress::Progress;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, OnceLock};
use std::time::Duration;
use tokio::task::AbortHandle;

/// A document that is made so soon is given without a bar.
const PATIENCE: Duration = Duration::from_millis(400);

/// A document under way, or made and waiting to be fetched.
pub struct Making {
    order: Order,
    progress: Progress,
    made: OnceLock<Result<Bytes, String>>,
    work: OnceLock<AbortHandle>,
}

pub fn routes() -> Router<App> {
    Router::new()
        .route("/papers/make/{kind}", get(begin))
        .route("/papers/made/{key}", get(progress))
        .route("/papers/made/{key}/stop", post(stop))
        .route("/papers/made/{key}/file.pdf", get(file))
}

#[derive(Template)]
#[template(path = "parts/paper_made.html")]
struct Page {
    job: i64,
    key: u64,
    title: &'static str,
    done: usize,
    of: usize,
    stopped: bool,
    /// None: it is not there yet.
    size: Option<String>,
    fault: String,
}

impl Making {
    fn page(&self, job: i64, key: u64) -> Result<Response, AppError> {
        let (done, of) = self.progress.now();
        let made = self.made.get();
        let page = Page {
            job,
            key,
            title: self.order.kind.title(),
            done,
            of,
            stopped: self.progress.stopped(),
            size: made.and_then(|m| m.as_ref().ok()).map(|pdf| size(pdf.len())),
            fault: made.and_then(|m| m.as_ref().err()).cloned().unwrap_or_default(),
        };
        Ok(Html(page.render()?).into_response())
    }
}

fn size(bytes: usize) -> String {
    match bytes {
        0..1_000_000 => format!("{} kB", bytes.div_ceil(1000)),
        _ => format!("{:.1} MB", bytes as f64 / 1e6),
    }
}

/// Begins it, and shows how far it is.
async fn begin(
    State(app): State<App>,
    Path((job, kind)): Path<(i64, Kind)>,
    Query(wish): Query<Wish>,
) -> Result<Response, AppError> {
    static NEXT: AtomicU64 = AtomicU64::new(1);
    let making = Arc::new(Making {
        order: Order::of(&app, job, kind, &wish).await?,
        progress: Progress::default(),
        made: OnceLock::new(),
        work: OnceLock::new(),
    });
    let key = NEXT.fetch_add(1, Ordering::Relaxed);
    app.making.insert((job, key), Arc::clone(&making));
    let own = Arc::clone(&making);
    // Whoever stops it ends the helper: it dies with the task that waits for it.
    let work = tokio::spawn(async move {
        let made = own.order.made(&own.progress).await;
        let _ = own.made.set(made.map(Bytes::from).map_err(|e| e.to_string()));
    });
    let _ = making.work.set(work.abort_handle());
    let _ = tokio::time::timeout(PATIENCE, work).await;
    making.page(job, key)
}

fn found(app: &App, at: (i64, u64)) -> Result<Arc<Making>, AppError> {
    let gone = || AppError::Bad("the document has expired. Create it again".into());
    app.making.get(&at).ok_or_else(gone)
}

async fn progress(State(app): State<App>, Path(at): Path<(i64, u64)>) -> Result<Response, AppError> {
    found(&app, at)?.page(at.0, at.1)
}

async fn stop(State(app): State<App>, Path(at): Path<(i64, u64)>) -> Result<StatusCode, AppError> {
    let making = found(&app, at)?;
    if making.made.get().is_none() {
        making.progress.stop();
        if let Some(work) = making.work.get() {
            work.abort();
        }
    }
    Ok(StatusCode::NO_CONTENT)
}

async fn file(State(app): State<App>, Path(at): Path<(i64, u64)>) -> Result<Response, AppError> {
    let making = found(&app, at)?;
    match making.made.get() {
        Some(Ok(pdf)) => Ok(making.order.file(pdf.clone())),
        _ => Err(AppError::NotFound),
    }
}
