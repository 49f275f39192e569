//! The parts of a zone from its water to its tube: begun, put in order, joined, checked.

mod read;
mod view;

use super::{render_body, render_page};
use crate::app::App;
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::Fields;
use crate::place::{Here, Screen};
use crate::submit::{FormAt, Sent, submit};
use axum::Router;
use axum::extract::{Path, Query, State};
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use serde::Deserialize;

pub use view::body;

pub fn routes() -> Router<App> {
    Router::new()
        .route("/assembly", get(page))
        .route("/assembly/change", post(change))
        .route("/assembly/joint", get(joint))
        .route("/assembly/measure.svg", get(measure))
}

#[derive(Deserialize)]
struct Pick {
    valve: Option<String>,
}

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    render_page(&app, &headers, app.job(job).await?, Here::picked(Screen::Assembly, pick.valve)).await
}

/// One change of a valve's parts; `op` says which.
async fn change(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let at = FormAt::new("parts", &read::FIELDS).sent(&pairs);
    let read = |known: &Assessed, f: &mut Fields| {
        let edit = read::changed(known, f)?;
        Ok((edit, f.text("valve")))
    };
    submit(&app, job, at, pairs, read, move |known, valve: String| {
        render_body(known, Here::picked(Screen::Assembly, valve))
    })
    .await
}

#[derive(Deserialize)]
struct Ends {
    #[serde(default)]
    from: String,
    #[serde(default)]
    to: String,
}

/// The shortest chain of fittings between two ends.
async fn joint(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(ends): Query<Ends>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    Ok(Html(view::joint(&known, &ends.from, &ends.to)?).into_response())
}

/// Tubing and threads, full size, to be printed.
async fn measure() -> Response {
    let headers = [("content-type", "image/svg+xml; charset=utf-8")];
    (headers, fenlo_drawing::measure_sheet()).into_response()
}
