//! One file a screen: its routes, its view models. Templates of the same names are in `templates/`.

pub mod catalogue;
pub mod details;
pub mod findings;
pub mod ground;
pub mod heads;
pub mod jobs;
pub mod layout;
pub mod pressure;
pub mod quick;
pub mod valves;
pub mod water;

use crate::app::compute;
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::respond::Fragments;
use crate::shell::{Here, Screen, Shell};
use askama::Template;
use axum::response::{Html, IntoResponse, Response};
use std::sync::Arc;

#[derive(Template)]
#[template(path = "job.html")]
struct JobPage<'a> {
    shell: Shell<'a>,
    body: String,
}

/// A whole page of a job.
pub async fn render_page(known: Arc<Assessed>, here: Here) -> Result<Response, AppError> {
    let html = compute(move || -> Result<String, AppError> {
        let body = body(&known, &here)?;
        Ok(JobPage {
            shell: Shell::new(&known, &here),
            body,
        }
        .render()?)
    })
    .await??;
    Ok(Html(html).into_response())
}

/// The same page after a change, without what stands round it.
pub async fn render_body(known: Arc<Assessed>, here: Here) -> Result<Response, AppError> {
    compute(move || -> Result<Response, AppError> {
        Ok(Fragments::of(&known, &here)?.page(&body(&known, &here)?))
    })
    .await?
}

fn body(known: &Assessed, here: &Here) -> Result<String, AppError> {
    match here.screen {
        Screen::Details => details::body(known, &[]),
        Screen::Water => water::body(known, here.pick.as_deref()),
        Screen::Ground => ground::body(known),
        Screen::Heads => heads::body(known),
        Screen::Catalogue => catalogue::body(known, here.pick.as_deref()),
        Screen::Layout => layout::body(known, here.pick.as_deref()),
        Screen::Valves => valves::body(known, here.pick.as_deref()),
        Screen::Pressure => pressure::body(known, here.pick.as_deref(), None),
    }
}
