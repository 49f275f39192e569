//! Job details, house rules, history, the job file.

mod read;
mod view;

use super::{page_around, render_page};
use crate::app::App;
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::place::{Here, Screen};
use crate::respond::Fragments;
use crate::submit::{FormAt, Sent, submit};
use crate::uploads::give;
use axum::Router;
use axum::extract::{Path, State};
use axum::http::HeaderMap;
use axum::response::{IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use fenlo_core::plan::Edit;
use fenlo_formats::write_job;

pub fn routes() -> Router<App> {
    Router::new()
        .route("/details", get(page).post(save))
        .route("/rules", post(save_rules))
        .route("/trench", post(save_trench))
        .route("/job.json", get(download))
        .route("/delete", post(delete))
}

/// After undo and redo; the history comes with the page itself.
pub fn body(known: &Assessed, _pick: Option<&str>) -> Result<String, AppError> {
    view::body(known, &[])
}

async fn page(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let history = app.store.history(job, 60).await?;
    let here = Here::at(Screen::Details);
    Ok(page_around(&known, &here, view::body(&known, &history)?)?.into_response())
}

fn saved(known: &Assessed, at: &FormAt) -> Result<Response, AppError> {
    let mut out = Fragments::of(known, &Here::at(Screen::Details))?;
    at.clear(&mut out);
    Ok(out.done())
}

async fn save(
    Sent {
        app,
        path: job,
        pairs,
    }: Sent<i64>,
) -> Result<Response, AppError> {
    let at = FormAt::new("job", &read::JOB_FIELDS);
    let form = at.clone();
    let read = |known: &Assessed, f: &mut _| {
        let now = read::job(f);
        let other_units = now.units != known.job().units;
        Ok((Edit::SetJob(now), other_units))
    };
    submit(&app, job, at, pairs, read, move |known, other_units| {
        if other_units {
            // Every figure on the page changes its unit: show it anew.
            return Ok(([("hx-refresh", "true")], "").into_response());
        }
        saved(known, &form)
    })
    .await
}

async fn save_rules(
    Sent {
        app,
        path: job,
        pairs,
    }: Sent<i64>,
) -> Result<Response, AppError> {
    let at = FormAt::new("rules", &read::RULE_FIELDS);
    let form = at.clone();
    let read = |known: &Assessed, f: &mut _| Ok((Edit::SetRules(read::rules(f, &known.job().rules)), ()));
    submit(&app, job, at, pairs, read, move |known, ()| saved(known, &form)).await
}

/// How pipe is laid, and what that costs.
async fn save_trench(
    Sent {
        app,
        path: job,
        pairs,
    }: Sent<i64>,
) -> Result<Response, AppError> {
    let at = FormAt::new("trench", &read::TRENCH_FIELDS);
    let form = at.clone();
    let read = |known: &Assessed, f: &mut _| {
        let units = known.job().units;
        Ok((Edit::SetRules(read::trench(f, &known.job().rules, units)), ()))
    };
    submit(&app, job, at, pairs, read, move |known, ()| saved(known, &form)).await
}

async fn download(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let job = known.job();
    Ok(give(&job.name, "json", "application/json", write_job(job)))
}

/// Asks again where it was not said to be sure.
async fn delete(
    headers: HeaderMap,
    Sent {
        app,
        path: job,
        pairs,
    }: Sent<i64>,
) -> Result<Response, AppError> {
    if !pairs.iter().any(|p| p.0 == "sure" && p.1 == "yes") {
        return render_page(&app, &headers, app.job(job).await?, Here::at(Screen::Details)).await;
    }
    app.store.delete(job).await?;
    Ok(Redirect::to("/").into_response())
}
