//! Drawings out.

use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::uploads::give;
use axum::extract::{Path, State};
use axum::response::Response;
use fenlo_drawing::plan_file;
use fenlo_formats::drawing::{write_dxf, write_geojson};

async fn file(
    app: App,
    job: i64,
    kind: &'static str,
    ending: &'static str,
    write: fn(&Assessed) -> Vec<u8>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    compute(move || give(&known.job().name, ending, kind, write(&known))).await
}

pub async fn svg(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    file(app, job, "image/svg+xml", "svg", |k| plan_file(k.job()).into_bytes()).await
}

pub async fn dxf(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    file(app, job, "application/dxf", "dxf", |k| write_dxf(k.job())).await
}

pub async fn geojson(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    file(app, job, "application/geo+json", "geojson", |k| write_geojson(k.job()).into_bytes()).await
}
