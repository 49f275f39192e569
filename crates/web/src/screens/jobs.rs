//! The list of jobs, and what is common to all pages of a job: undo, redo, remedies taken.

use super::render_body;
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::Fields;
use crate::keys;
use crate::place::Here;
use crate::reading::{Ask, Ended};
use crate::ready::Ready;
use crate::submit::{FormAt, Sent, submit};
use crate::summary::Summary;
use crate::together::Together;
use crate::uploads::{MOST_FILE, file_of, told};
use askama::Template;
use axum::extract::{DefaultBodyLimit, Form, Multipart, Query, State};
use axum::http::HeaderMap;
use axum::response::{Redirect, Response};
use axum::routing::{get, post};
use axum::{Extension, Router};
use fenlo_core::job::Job;
use fenlo_core::plan::{Edit, Plan};
use fenlo_core::units::UnitSystem;
use fenlo_formats::foreign::Foreign;
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
    /// None: the job can't be opened.
    summary: Option<Summary>,
}

/// A page of the list: what is searched for, and which page.
type Asked = (String, i64);
/// Lists as they are sent. Many who open one at once are answered by one.
pub type Lists = Together<Asked, Result<Ready, String>>;

/// Lists of an application.
pub fn lists(app: App) -> Lists {
    Together::new(move |(search, page)| {
        let app = app.clone();
        async move {
            let html = listed(&app, search, page).await.map_err(|e| e.cause())?;
            compute(move || Ready::new(html))
                .await
                .and_then(|r| r)
                .map_err(|e| e.cause())
        }
    })
}

async fn list(
    Extension(lists): Extension<Lists>,
    headers: HeaderMap,
    Query(query): Query<Search>,
) -> Result<Response, AppError> {
    let page = query.page.clamp(0, 100_000);
    let search: String = query
        .search
        .chars()
        .take(100)
        .filter(|c| !c.is_control())
        .collect();
    let ready = lists.ask((search, page)).await;
    let ready = ready.ok_or_else(|| AppError::broken("nobody answers"))?;
    Ok(ready.map_err(AppError::Away)?.answer(&headers))
}

async fn listed(app: &App, search: String, page: i64) -> Result<String, AppError> {
    let found = app.store.jobs(&search, page, PAGE).await?;
    let mut rows = Vec::new();
    for job in found.jobs {
        // Kept with each edit; a job that was never assessed is once, now.
        let summary = match job.summary.and_then(Summary::kept) {
            Some(kept) => Some(kept),
            None => match app.job(job.id).await {
                Ok(known) => Some(Summary::of(&known)),
                Err(AppError::Away(cause)) => return Err(AppError::Away(cause)),
                // One that is broken harms no other.
                Err(_) => None,
            },
        };
        rows.push(Row {
            id: job.id,
            name: job.name,
            place: job.place,
            updated: job.updated,
            summary,
        });
    }
    let pages = (found.total + PAGE - 1) / PAGE;
    Ok(List {
        search,
        rows,
        page,
        pages,
    }
    .render()?)
}

#[derive(Deserialize)]
struct New {
    name: String,
    #[serde(default)]
    place: String,
    #[serde(default)]
    units: UnitSystem,
    #[serde(default)]
    key: String,
}

async fn create(State(app): State<App>, Form(new): Form<New>) -> Result<Redirect, AppError> {
    let mut plan = Plan::new(new.name.trim(), new.units);
    plan.location = new.place.trim().to_owned();
    Ok(Redirect::to(&store(&app, Job::new(plan), &new.key).await?))
}

/// Stores a new job, once for a key; the address of its first page.
pub async fn store(app: &App, job: Job, key: &str) -> Result<String, AppError> {
    let faults = job.faults();
    if !faults.is_empty() {
        return Err(AppError::Faults(faults));
    }
    let id = app
        .store
        .create_once(job.plan(), keys::of(key).as_deref())
        .await?;
    Ok(format!("/jobs/{id}/water"))
}

async fn import(State(app): State<App>, form: Multipart) -> Result<Response, AppError> {
    let sent = file_of(form, "pick a job file first").await?;
    let ask = Ask {
        kind: Foreign::Job,
        name: sent.name,
        page: 1,
    };
    let keeping = app.clone();
    let key = sent
        .fields
        .into_iter()
        .find(|f| f.0 == "key")
        .map_or_else(String::new, |f| f.1);
    let reading = app.readings.begin(
        app.store.company(),
        ask,
        sent.file,
        "/",
        move |handed| async move {
            let bytes = handed.map_err(told)?;
            let job = compute(move || read_job(&bytes))
                .await?
                .map_err(AppError::broken)?;
            Ok(Ended::Go(store(&keeping, job, &key).await?))
        },
    )?;
    reading.page().await
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

fn key_in(pairs: &[(String, String)]) -> Option<String> {
    pairs.iter().find(|p| p.0 == "key").and_then(|p| keys::of(&p.1))
}

async fn undo(Query(to): Query<To>, sent: Sent<i64>) -> Result<Response, AppError> {
    stepped(sent.app, sent.path, Change::Undo(key_in(&sent.pairs)), to).await
}

async fn redo(Query(to): Query<To>, sent: Sent<i64>) -> Result<Response, AppError> {
    stepped(sent.app, sent.path, Change::Redo(key_in(&sent.pairs)), to).await
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
