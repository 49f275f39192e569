//! The list of jobs, and what is common to all pages of a job: undo, redo, remedies taken.

use super::render_body;
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::Fields;
use crate::place::{Here, Screen};
use crate::submit::{FormAt, Sent, submit};
use crate::uploads::{MOST_FILE, file_of};
use askama::Template;
use axum::Router;
use axum::extract::{DefaultBodyLimit, Form, Multipart, Path, Query, State};
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use fenlo_core::findings::Severity;
use fenlo_core::job::Job;
use fenlo_core::plan::{Edit, Plan};
use fenlo_core::steps::Step;
use fenlo_core::units::UnitSystem;
use fenlo_formats::read_job;
use fenlo_store::Change;
use serde::Deserialize;

const PAGE: i64 = 20;

pub fn routes() -> Router<App> {
    let file = DefaultBodyLimit::max(MOST_FILE);
    Router::new()
        .route("/", get(list))
        .route("/jobs", post(create))
        .route("/jobs/import", post(import).layer(file))
        .route("/health", get(health))
}

/// What every screen of a job has, below the job's address.
pub fn of_a_job() -> Router<App> {
    Router::new()
        .route("/undo", post(undo))
        .route("/redo", post(redo))
        .route("/apply", post(apply))
}

#[derive(Deserialize)]
struct Search {
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

async fn list(State(app): State<App>, Query(query): Query<Search>) -> Result<Response, AppError> {
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
            next: Screen::of(Step::next(plan, a)).path,
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
struct New {
    name: String,
    #[serde(default)]
    place: String,
    #[serde(default)]
    units: UnitSystem,
}

async fn create(State(app): State<App>, Form(new): Form<New>) -> Result<Redirect, AppError> {
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

async fn import(State(app): State<App>, form: Multipart) -> Result<Redirect, AppError> {
    let sent = file_of(form, "pick a job file first").await?;
    let job = compute(move || read_job(&sent.bytes)).await?;
    store(&app, job.map_err(|e| AppError::Faults(e.0))?).await
}

#[derive(Deserialize)]
struct To {
    #[serde(default)]
    to: String,
}

async fn stepped(app: App, job: i64, change: Change, to: To) -> Result<Response, AppError> {
    let known = app.change(job, change).await?;
    compute(move || render_body(&known, Here::parse(&to.to))).await?
}

async fn undo(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(to): Query<To>,
) -> Result<Response, AppError> {
    stepped(app, job, Change::Undo, to).await
}

async fn redo(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(to): Query<To>,
) -> Result<Response, AppError> {
    stepped(app, job, Change::Redo, to).await
}

/// Applies the edit of a remedy or an option, just as it was shown.
async fn apply(
    Sent {
        app,
        path: job,
        pairs,
    }: Sent<i64>,
) -> Result<Response, AppError> {
    let read = |_: &Assessed, f: &mut Fields| {
        let edit: Option<Edit> = serde_json::from_str(f.get("edit")).ok();
        let unread = "that remedy can't be read; reload the page";
        let edit = edit.ok_or_else(|| AppError::Bad(unread.into()))?;
        Ok((edit, Here::parse(f.get("to"))))
    };
    submit(&app, job, FormAt::button(), pairs, read, render_body).await
}

/// For those who watch over servers.
async fn health(State(app): State<App>) -> Response {
    if app.database.answers().await {
        "ok".into_response()
    } else {
        (StatusCode::SERVICE_UNAVAILABLE, "database away").into_response()
    }
}
