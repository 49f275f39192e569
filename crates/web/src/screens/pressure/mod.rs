//! Pressure: the walk from the street to the worst head, and the ways to regulate, compared.
//!
//! Nothing is typed here: an option is taken as the edit that it was shown with.

mod view;

use super::{page_around, render_page};
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::place::{Here, Screen};
use axum::Router;
use axum::extract::{Path, Query, State};
use axum::http::HeaderMap;
use axum::response::{IntoResponse, Response};
use axum::routing::get;
use serde::Deserialize;

pub use view::{OptionView, drawing, options};

pub fn routes() -> Router<App> {
    Router::new().route("/pressure", get(page))
}

pub fn body(known: &Assessed, pick: Option<&str>) -> Result<String, AppError> {
    view::body(known, pick, None)
}

#[derive(Deserialize)]
struct Pick {
    valve: Option<String>,
    /// An option whose walk is drawn over the one that runs.
    look: Option<usize>,
}

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    if pick.look.is_none() {
        return render_page(&app, &headers, known, Here::picked(Screen::Pressure, pick.valve)).await;
    }
    compute(move || {
        let body = view::body(&known, pick.valve.as_deref(), pick.look)?;
        let here = Here::picked(Screen::Pressure, pick.valve);
        Ok(page_around(&known, &here, body)?.into_response())
    })
    .await?
}
