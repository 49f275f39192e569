//! Job details, house rules, history, the job file.

mod read;
mod view;

use super::{page_around, render_page};
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::place::{Here, Screen};
use crate::respond::Fragments;
use crate::submit::{FormAt, Sent, submit};
use crate::uploads::give;
use axum::Router;
use axum::extract::{Path, Query, State};
use axum::http::HeaderMap;
use axum::response::{IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use fenlo_core::plan::{Edit, SetRules};
use fenlo_formats::{pack_job, write_job};
use serde::Deserialize;
use std::sync::Arc;

pub fn routes() -> Router<App> {
    Router::new()
        .route("/details", get(page).post(save))
        .route("/rules", post(save_rules))
        .route("/trench", post(save_trench))
        .route("/job.json", get(download))
        .route("/job.zip", get(packed))
        .route("/rules/house", post(keep_rules))
        .route("/rules/take", post(take_rules))
        .route("/delete", post(delete))
}

/// After undo and redo; what is not of the job alone comes with the page itself.
pub fn body(known: &Assessed, _pick: Option<&str>) -> Result<String, AppError> {
    view::page(known, &view::Around::default())
}

/// What could not be brought when the job file was opened.
#[derive(Deserialize)]
struct Opened {
    #[serde(default)]
    left: String,
}

async fn page(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(opened): Query<Opened>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let around = view::Around {
        history: app.store.history(job, 60).await?,
        shelf: app.store.shelf(job).await?,
        house: app.store.rules().await?.unwrap_or_default(),
        left: opened.left.chars().filter(|c| !c.is_control()).take(600).collect(),
    };
    let here = Here::at(Screen::Details);
    Ok(page_around(&known, &here, view::page(&known, &around)?)?.into_response())
}

fn saved(known: &Assessed, at: &FormAt) -> Result<Response, AppError> {
    let mut out = Fragments::of(known, &Here::at(Screen::Details))?;
    at.clear(&mut out);
    Ok(out.done())
}

async fn save(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
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

async fn save_rules(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let at = FormAt::new("rules", &read::RULE_FIELDS);
    let form = at.clone();
    let read = |known: &Assessed, f: &mut _| Ok((Edit::SetRules(read::rules(f, &known.job().rules)), ()));
    submit(&app, job, at, pairs, read, move |known, ()| saved(known, &form)).await
}

/// How pipe is laid, and what that costs.
async fn save_trench(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
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

/// The job file with the picture beneath it.
async fn packed(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let name = known.job().site.underlay.as_ref().map(|u| u.picture.clone());
    let picture = match &name {
        Some(name) => Some(app.store.picture(job, name).await?),
        None => None,
    };
    let of = Arc::clone(&known);
    let zip = compute(move || {
        let picture = name.as_deref().zip(picture.as_ref());
        let picture = picture.map(|(name, p)| (name, p.kind.as_str(), p.bytes.as_slice()));
        pack_job(&write_job(of.job()), picture).map_err(AppError::Broken)
    })
    .await??;
    Ok(give(&known.job().name, "zip", "application/zip", zip))
}

/// Keeps the rules of this job as the company's: new jobs begin with them.
async fn keep_rules(sent: Sent<i64>) -> Result<Response, AppError> {
    let known = sent.app.job(sent.path).await?;
    sent.app.store.keep_rules(&known.job().rules).await?;
    Ok(Redirect::to(&format!("/jobs/{}/details#rules", sent.path)).into_response())
}

/// Takes the company's rules for this job, as one step.
async fn take_rules(sent: Sent<i64>) -> Result<Response, AppError> {
    let rules = sent.app.store.rules().await?.unwrap_or_default();
    let read = move |_: &Assessed, _: &mut _| Ok((Edit::SetRules(SetRules { rules }), ()));
    let refresh = |_: &Assessed, ()| Ok(([("hx-refresh", "true")], "").into_response());
    submit(&sent.app, sent.path, FormAt::button(), sent.pairs, read, refresh).await
}

/// Asks again where it was not said to be sure.
async fn delete(headers: HeaderMap, Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    if !pairs.iter().any(|p| p.0 == "sure" && p.1 == "yes") {
        return render_page(&app, &headers, app.job(job).await?, Here::at(Screen::Details)).await;
    }
    app.store.delete(job).await?;
    Ok(Redirect::to("/").into_response())
}
