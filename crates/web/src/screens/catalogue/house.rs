//! The company's nozzles beside a job's: brought in, and kept for all jobs.

use super::super::render_body;
use crate::app::App;
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::Fields;
use crate::place::{Here, Screen};
use crate::submit::{FormAt, Sent, submit};
use askama::Template;
use axum::extract::{Path, State};
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::catalogue::OwnNozzle;
use fenlo_core::pricing::HouseNozzles;

#[derive(Template)]
#[template(path = "parts/house_nozzles.html")]
struct Panel {
    job: i64,
    kept: usize,
    missing: Vec<String>,
    otherwise: Vec<String>,
    own: Vec<String>,
    truck: bool,
    same: bool,
}

fn panel(known: &Assessed, house: &HouseNozzles) -> Result<Response, AppError> {
    let parted = house.parted(known.job());
    let names = |list: &[&OwnNozzle]| list.iter().map(|n| n.label.clone()).collect();
    let page = Panel {
        job: known.open.id,
        kept: house.nozzles.len(),
        missing: names(&parted.missing),
        otherwise: names(&parted.otherwise),
        own: names(&parted.own),
        truck: parted.truck,
        same: parted.is_none(),
    };
    Ok(Html(page.render()?).into_response())
}

/// How the job's nozzles part from the company's.
pub async fn show(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    panel(&known, &app.store.house_nozzles().await?)
}

/// Brings the company's into the job, as one step.
pub async fn bring(sent: Sent<i64>) -> Result<Response, AppError> {
    let house = sent.app.store.house_nozzles().await?;
    let read = move |known: &Assessed, f: &mut Fields| match house.brought_into(known.job()) {
        Some(edit) => Ok((edit, Here::at(Screen::Catalogue))),
        None => f.stop("this job already matches the company nozzles"),
    };
    submit(&sent.app, sent.path, FormAt::button(), sent.pairs, read, render_body).await
}

/// Keeps the job's for the company: new jobs begin with them.
pub async fn keep(sent: Sent<i64>) -> Result<Response, AppError> {
    let known = sent.app.job(sent.path).await?;
    let house = sent.app.store.house_nozzles().await?.with_those_of(known.job());
    house.alone().map_err(|e| AppError::Bad(e.to_string()))?;
    sent.app.store.keep_nozzles(&house).await?;
    panel(&known, &house)
}
