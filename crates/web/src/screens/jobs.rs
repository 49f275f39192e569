//! The list of jobs, and what is common to all pages of a job.

use super::render_body;
use crate::app::App;
use crate::error::AppError;
use crate::shell::Here;
use askama::Template;
use axum::extract::{Form, Multipart, Path, Query, State};
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Redirect, Response};
use fenlo_core::findings::Severity;
use fenlo_core::job::Job;
use fenlo_core::plan::{Edit, Plan};
use fenlo_core::units::UnitSystem;
use fenlo_formats::read_job;
use fenlo_store::Change;
use serde::Deserialize;

const PAGE: i64 = 20;

#[derive(Deserialize)]
pub struct Search {
    #[serde(default)]
    search: String,
    #[serde(default)]
    page: i64,
}

#[derive(Template)]
#[template(path = "jobs.html")]
struct List {
    search: String,
    rows: Vec<Row>,
    page: i64,
    pages: i64,
}

struct Row {
    id: i64,
    name: String,
    place: String,
    updated: String,
    next: &'static str,
    valves: usize,
    heads: u32,
    design: String,
    stop: usize,
    fix: usize,
    watch: usize,
}

pub async fn list(State(app): State<App>, Query(query): Query<Search>) -> Result<Response, AppError> {
    let page = query.page.clamp(0, 100_000);
    let search: String = query
        .search
        .chars()
        .take(100)
        .filter(|c| !c.is_control())
        .collect();
    let found = app.store.jobs(&search, page, PAGE).await?;
    let mut rows = Vec::new();
    for job in found.jobs {
        let known = app.job(job.id).await?;
        let (plan, a) = (known.job(), &known.assessment);
        let flows: Vec<String> = a
            .supplies
            .iter()
            .filter_map(|s| s.design.flow)
            .map(|f| f.show(plan.units))
            .collect();
        rows.push(Row {
            id: job.id,
            name: job.name,
            place: job.place,
            updated: job.updated,
            next: if a.supplies.iter().any(|s| s.design.flow.is_none()) {
                "water"
            } else if plan.groups.is_empty() {
                "heads"
            } else {
                "valves"
            },
            valves: plan.valves.len(),
            heads: plan.groups.iter().map(|g| g.count()).sum(),
            design: if flows.is_empty() {
                "no".into()
            } else {
                flows.join(" + ")
            },
            stop: a.count(Severity::Stop),
            fix: a.count(Severity::Fix),
            watch: a.count(Severity::Watch),
        });
    }
    let pages = (found.total + PAGE - 1) / PAGE;
    Ok(Html(
        List {
            search,
            rows,
            page,
            pages,
        }
        .render()?,
    )
    .into_response())
}

#[derive(Deserialize)]
pub struct New {
    name: String,
    #[serde(default)]
    place: String,
    #[serde(default)]
    units: UnitSystem,
}

pub async fn create(State(app): State<App>, Form(new): Form<New>) -> Result<Redirect, AppError> {
    let mut plan = Plan::new(new.name.trim(), new.units);
    plan.location = new.place.trim().to_owned();
    store(&app, Job::new(plan)).await
}

/// Stores a new job and goes there.
pub async fn store(app: &App, job: Job) -> Result<Redirect, AppError> {
    let faults = job.faults();
    if !faults.is_empty() {
        return Err(AppError::Faults(faults));
    }
    let id = app.store.create(job.plan()).await?;
    Ok(Redirect::to(&format!("/jobs/{id}/water")))
}

pub async fn import(State(app): State<App>, mut form: Multipart) -> Result<Redirect, AppError> {
    let bad = |e: axum::extract::multipart::MultipartError| {
        AppError::Bad(format!("The file could not be read: {}", e.body_text()))
    };
    while let Some(field) = form.next_field().await.map_err(bad)? {
        if field.name() == Some("file") {
            let bytes = field.bytes().await.map_err(bad)?;
            let job = read_job(&bytes).map_err(|e| AppError::Faults(e.0))?;
            return store(&app, job).await;
        }
    }
    Err(AppError::Bad("Pick a job file first".into()))
}

#[derive(Deserialize)]
pub struct To {
    #[serde(default)]
    to: String,
}

pub async fn undo(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(to): Query<To>,
) -> Result<Response, AppError> {
    render_body(app.change(job, Change::Undo).await?, Here::parse(&to.to)).await
}

pub async fn redo(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(to): Query<To>,
) -> Result<Response, AppError> {
    render_body(app.change(job, Change::Redo).await?, Here::parse(&to.to)).await
}

#[derive(Deserialize)]
pub struct Apply {
    edit: String,
    #[serde(default)]
    to: String,
    base: i64,
}

/// Applies the edit of a remedy or an option, just as it was shown.
pub async fn apply(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(form): Form<Apply>,
) -> Result<Response, AppError> {
    let edit: Edit = serde_json::from_str(&form.edit)
        .map_err(|_| AppError::Bad("That remedy can't be read; reload the page".into()))?;
    render_body(app.edit(job, form.base, edit).await?, Here::parse(&form.to)).await
}

/// For those who watch over servers.
pub async fn health(State(app): State<App>) -> Response {
    if app.database.answers().await {
        "ok".into_response()
    } else {
        (StatusCode::SERVICE_UNAVAILABLE, "database away").into_response()
    }
}
