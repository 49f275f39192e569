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
use axum::response::{IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use axum::{Extension, Router};
use fenlo_core::job::Job;
use fenlo_core::plan::{Edit, EditError, Plan, SetJob};
use fenlo_core::units::UnitSystem;
use fenlo_formats::foreign::{Foreign, take_job};
use fenlo_formats::read_job;
use fenlo_store::{Change, Picture, Shelf};
use serde::Deserialize;

const PAGE: i64 = 20;

pub fn routes() -> Router<App> {
    let file = DefaultBodyLimit::max(MOST_FILE);
    Router::new()
        .route("/", get(list))
        .route("/jobs", post(create))
        .route("/jobs/import", post(import).layer(file))
        .route("/jobs/{job}/shelf", post(put))
        .route("/jobs/{job}/copy", post(copy))
}

/// What every screen of a job has, below the job's address.
pub fn of_a_job() -> Router<App> {
    Router::new().route("/undo", post(undo)).route("/redo", post(redo)).route("/apply", post(apply))
}

#[derive(Deserialize)]
struct Search {
    #[serde(default)]
    search: String,
    #[serde(default)]
    page: i64,
    #[serde(default)]
    on: String,
}

#[derive(Template)]
#[template(path = "jobs.html")]
struct List {
    on: Shelf,
    shelves: [(Shelf, &'static str); 4],
    templates: Vec<(i64, String)>,
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
    days_left: Option<i32>,
    /// None: the job can't be opened.
    summary: Option<Summary>,
}

/// The shelves as the list calls them.
const SHELVES: [(Shelf, &str); 4] = [
    (Shelf::Desk, "Active"),
    (Shelf::Template, "Templates"),
    (Shelf::Archive, "Archived"),
    (Shelf::Deleted, "Deleted"),
];
/// Templates that a new job may be begun from, in the list beside.
const MOST_TEMPLATES: i64 = 50;

/// A page of the list: which shelf, what is searched for, and which page.
type Asked = (Shelf, String, i64);
/// Lists as they are sent. Many who open one at once are answered by one.
pub type Lists = Together<Asked, Result<Ready, String>>;

/// Lists of an application.
pub fn lists(app: App) -> Lists {
    Together::new(move |(shelf, search, page)| {
        let app = app.clone();
        async move {
            let html = listed(&app, shelf, search, page).await.map_err(|e| e.cause())?;
            compute(move || Ready::new(html)).await.and_then(|r| r).map_err(|e| e.cause())
        }
    })
}

async fn list(
    Extension(lists): Extension<Lists>,
    headers: HeaderMap,
    Query(query): Query<Search>,
) -> Result<Response, AppError> {
    let page = query.page.clamp(0, 100_000);
    let search: String = query.search.chars().take(100).filter(|c| !c.is_control()).collect();
    let shelf = Shelf::parse(&query.on).unwrap_or_default();
    let ready = lists.ask((shelf, search, page)).await;
    let ready = ready.ok_or_else(|| AppError::broken("nobody answers"))?;
    Ok(ready.map_err(AppError::Away)?.answer(&headers))
}

async fn listed(app: &App, on: Shelf, search: String, page: i64) -> Result<String, AppError> {
    let found = app.store.jobs(on, &search, page, PAGE).await?;
    let templates = app.store.jobs(Shelf::Template, "", 0, MOST_TEMPLATES).await?;
    let mut rows = Vec::new();
    for job in found.jobs {
        // Kept with each edit; a job that was never assessed is once, now.
        let summary = match job.summary.and_then(Summary::kept) {
            Some(kept) => Some(kept),
            // A deleted one is not opened.
            None if on == Shelf::Deleted => None,
            None => match app.job(job.id).await {
                Ok(known) => Some(compute(move || Summary::of(&known)).await?),
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
            days_left: job.days_left,
            summary,
        });
    }
    let pages = (found.total + PAGE - 1) / PAGE;
    Ok(List {
        on,
        shelves: SHELVES,
        templates: templates.jobs.into_iter().map(|j| (j.id, j.name)).collect(),
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
    /// A template that it begins from.
    #[serde(default)]
    from: String,
}

async fn create(State(app): State<App>, Form(new): Form<New>) -> Result<Redirect, AppError> {
    if let Ok(template) = new.from.parse() {
        let name = new.name.trim();
        let id = copied(&app, template, name, Some(new.place.trim()), Shelf::Desk, &new.key).await?;
        return Ok(Redirect::to(&format!("/jobs/{id}/ground")));
    }
    let mut plan = Plan::new(new.name.trim(), new.units);
    plan.rules = app.store.rules().await?.unwrap_or(plan.rules);
    let house = app.store.house_nozzles().await?;
    if !house.truck.is_empty() {
        plan.favourites = house.truck;
    }
    plan.nozzles = house.nozzles;
    plan.location = new.place.trim().to_owned();
    Ok(Redirect::to(&store(&app, Job::new(plan), &new.key).await?))
}

/// Stores a new job, once for a key; the address of its first page.
pub async fn store(app: &App, job: Job, key: &str) -> Result<String, AppError> {
    let id = kept(app, job, key).await?;
    Ok(format!("/jobs/{id}/water"))
}

async fn kept(app: &App, job: Job, key: &str) -> Result<i64, AppError> {
    let faults = job.faults();
    if !faults.is_empty() {
        return Err(AppError::Faults(faults));
    }
    let key = keys::of(key);
    Ok(app.store.create_once(job.plan(), key.as_deref()).await?)
}

/// Text as part of an address.
fn urlencoded(text: &str) -> String {
    let plain = |b: &u8| b.is_ascii_alphanumeric() || b"-_.".contains(b);
    text.bytes()
        .take(600)
        .map(|b| if plain(&b) { char::from(b).to_string() } else { format!("%{b:02X}") })
        .collect()
}

/// A job like another, in its own place where one is given.
async fn copied(
    app: &App,
    job: i64,
    name: &str,
    place: Option<&str>,
    shelf: Shelf,
    key: &str,
) -> Result<i64, AppError> {
    let known = app.job(job).await?;
    let plan = known.job().plan();
    let mut as_set = SetJob::of(plan);
    as_set.name = name.to_owned();
    if let Some(place) = place {
        as_set.location = place.to_owned();
    }
    // Whatever is wrong with the name is said before anything is kept.
    if let Err(fault) = known.job().apply(&Edit::SetJob(as_set.clone())) {
        return Err(match fault {
            EditError::Faults(faults) => AppError::Faults(faults),
            other => AppError::Bad(other.to_string()),
        });
    }
    let key = keys::of(key);
    Ok(app.store.copy(job, &as_set, shelf, key.as_deref()).await?)
}

/// Puts a job away, back on the desk, or brings a deleted one back.
async fn put(sent: Sent<i64>) -> Result<Response, AppError> {
    let word = sent.pairs.iter().find(|p| p.0 == "to").map_or("", |p| p.1.as_str());
    let back = sent.pairs.iter().find(|p| p.0 == "back").map_or("", |p| p.1.as_str());
    if word == "back" {
        sent.app.store.bring_back(sent.path).await?;
        return Ok(Redirect::to("/").into_response());
    }
    let Some(shelf) = Shelf::parse(word).filter(|s| *s != Shelf::Deleted) else {
        return Err(AppError::Bad("choose active, archived or template".into()));
    };
    sent.app.store.put_on_shelf(sent.path, shelf).await?;
    let back = if back == "details" { format!("/jobs/{}/details#shelf", sent.path) } else { "/".to_owned() };
    Ok(Redirect::to(&back).into_response())
}

/// A copy of a job beside it, or a template made of it; its page comes.
async fn copy(sent: Sent<i64>) -> Result<Response, AppError> {
    let of = |field: &str| sent.pairs.iter().find(|p| p.0 == field).map_or("", |p| p.1.trim());
    let shelf = match of("as") {
        "template" => Shelf::Template,
        _ => Shelf::Desk,
    };
    let name = match of("name") {
        "" => format!("{}, copy", sent.app.job(sent.path).await?.job().name),
        name => name.to_owned(),
    };
    let id = copied(&sent.app, sent.path, &name, None, shelf, of("key")).await?;
    Ok(Redirect::to(&format!("/jobs/{id}/details")).into_response())
}

async fn import(State(app): State<App>, form: Multipart) -> Result<Response, AppError> {
    let sent = file_of(form, "choose a job file first").await?;
    let ask = Ask { kind: Foreign::Job, name: sent.name, page: 1 };
    let keeping = app.clone();
    let key = sent.fields.into_iter().find(|f| f.0 == "key").map_or_else(String::new, |f| f.1);
    let reading = app.readings.begin(app.store.company(), ask, sent.file, "/", move |handed| async move {
        let handed = take_job(handed.map_err(told)?).map_err(AppError::Broken)?;
        let job = compute(move || read_job(&handed.job)).await?.map_err(AppError::broken)?;
        let id = kept(&keeping, job, &key).await?;
        if let Some(scan) = handed.picture {
            let kind = scan.kind.to_owned();
            let picture = Picture { kind, bytes: scan.bytes };
            keeping.store.put_picture(id, &scan.name, &picture).await?;
        }
        let said = urlencoded(&handed.left.join("; "));
        Ok(Ended::Go(match said.is_empty() {
            true => format!("/jobs/{id}/water"),
            false => format!("/jobs/{id}/details?left={said}"),
        }))
    })?;
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
async fn apply(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let read = |_: &Assessed, f: &mut Fields| {
        let edit: Option<Edit> = serde_json::from_str(f.get("edit")).ok();
        let unread = "this fix could not be applied. Reload the page";
        let edit = edit.ok_or_else(|| AppError::Bad(unread.into()))?;
        Ok((edit, Here::parse(f.get("to"))))
    };
    submit(&app, job, FormAt::button(), pairs, read, render_body).await
}
