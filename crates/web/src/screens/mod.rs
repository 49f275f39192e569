//! The screens: what answers at their addresses, what they read, what they show.
//!
//! A screen is a folder: `mod` with its routes and handlers, `read` from what was typed to edits,
//! `view` from what is known to what is shown. Templates are named after it. `place` has the table.

pub mod assembly;
pub mod catalogue;
pub mod details;
pub mod findings;
pub mod ground;
pub mod heads;
pub mod help;
pub mod jobs;
pub mod layout;
pub mod parts;
pub mod pressure;
pub mod prices;
pub mod quick;
pub mod quote;
pub mod reading;
pub mod shared;
pub mod times;
pub mod valves;
pub mod verdict;
pub mod water;

use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::place::{Here, Screen};
use crate::respond::Fragments;
use crate::shell::Shell;
use askama::Template;
use axum::Router;
use axum::extract::{Path, Query, State};
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Response};
use std::sync::Arc;

/// What answers for a screen of the table.
struct Answers {
    /// Its addresses below the job's.
    routes: fn() -> Router<App>,
    /// Its content; a pick is what stands behind the colon of a place.
    body: fn(&Assessed, Option<&str>) -> Result<String, AppError>,
}

fn answers(screen: Screen) -> Answers {
    macro_rules! of {
        ($module:ident) => {
            Answers { routes: $module::routes, body: $module::body }
        };
    }
    match screen {
        Screen::Details => of!(details),
        Screen::Water => of!(water),
        Screen::Ground => of!(ground),
        Screen::Heads => of!(heads),
        Screen::Layout => of!(layout),
        Screen::Catalogue => of!(catalogue),
        Screen::Valves => of!(valves),
        Screen::Assembly => of!(assembly),
        Screen::Pressure => of!(pressure),
        Screen::Times => of!(times),
        Screen::Parts => of!(parts),
        Screen::Quote => of!(quote),
    }
}

/// Addresses of a screen below the job's.
pub fn routes(screen: Screen) -> Router<App> {
    (answers(screen).routes)()
}

#[derive(Template)]
#[template(path = "job.html")]
struct JobPage<'a> {
    shell: Shell<'a>,
    body: String,
}

/// A page of a job round some content.
pub fn page_around(known: &Assessed, here: &Here, body: String) -> Result<Html<String>, AppError> {
    let shell = Shell::new(known, here);
    Ok(Html(JobPage { shell, body }.render()?))
}

/// A whole page of a job, kept until the job changes where it shows nothing else.
pub async fn render_page(
    app: &App,
    headers: &HeaderMap,
    known: Arc<Assessed>,
    here: Here,
) -> Result<Response, AppError> {
    let render = move |known: &Assessed, here: &Here| {
        let body = (answers(here.screen).body)(known, here.pick.as_deref())?;
        Ok(page_around(known, here, body)?.0)
    };
    if !here.screen.is_of_the_job_alone() {
        return compute(move || Ok(Html(render(&known, &here)?).into_response())).await?;
    }
    let key = (known.open.id, known.open.seq, here.word());
    let ready = app.pages.get(key, move || render(&known, &here)).await?;
    Ok(ready.answer(headers))
}

#[derive(serde::Deserialize)]
pub struct RailAt {
    at: String,
}

/// How far the steps are, for a page whose rail was shown before that was known.
pub async fn rail(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(RailAt { at }): Query<RailAt>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let here = Here::parse(&at);
    compute(move || Ok(Html(Shell::new(&known, &here).rail_html()?).into_response())).await?
}

/// The same page after a change, without what stands round it.
pub fn render_body(known: &Assessed, here: Here) -> Result<Response, AppError> {
    let body = (answers(here.screen).body)(known, here.pick.as_deref())?;
    Ok(Fragments::of(known, &here)?.page(&body))
}
