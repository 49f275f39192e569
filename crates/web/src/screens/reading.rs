//! A file that is being read, for who sent it: where it is, and a button to stop it.

use crate::app::App;
use crate::error::AppError;
use crate::reading::{Reading, State as At};
use askama::Template;
use axum::Router;
use axum::extract::{Path, State};
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use std::time::Instant;

pub fn routes() -> Router<App> {
    Router::new()
        .route("/reading/{key}", get(page))
        .route("/reading/{key}/state", get(state))
        .route("/reading/{key}/stop", post(stop))
}

#[derive(Template)]
#[template(path = "reading.html")]
struct Page<'a> {
    name: &'a str,
    back: &'a str,
    state: String,
}

#[derive(Template)]
#[template(path = "parts/reading_state.html")]
struct Progress<'a> {
    key: &'a str,
    name: &'a str,
    says: String,
}

/// The fragment that asks again by itself until the file is read.
pub fn watching(reading: &Reading) -> Result<String, AppError> {
    let says = match reading.state() {
        At::Waiting => "is waiting for other files".to_owned(),
        At::Reading(since) => format!("reading, {} s", Instant::now().duration_since(since).as_secs()),
        At::Ended(_) => "done".to_owned(),
    };
    Ok(Progress { key: &reading.key, name: &reading.name, says }.render()?)
}

async fn page(State(app): State<App>, Path(key): Path<String>) -> Result<Response, AppError> {
    let reading = app.readings.get(&key).ok_or(AppError::NotFound)?;
    let page = Page { name: &reading.name, back: &reading.back, state: watching(&reading)? };
    Ok(Html(page.render()?).into_response())
}

async fn state(State(app): State<App>, Path(key): Path<String>) -> Result<Response, AppError> {
    let reading = app.readings.get(&key).ok_or(AppError::NotFound)?;
    match reading.state() {
        At::Ended(ended) => Ok(ended.into_response()),
        _ => Ok(Html(watching(&reading)?).into_response()),
    }
}

async fn stop(State(app): State<App>, Path(key): Path<String>) -> Result<Response, AppError> {
    let reading = app.readings.get(&key).ok_or(AppError::NotFound)?;
    reading.stop();
    Ok(Html(watching(&reading)?).into_response())
}
