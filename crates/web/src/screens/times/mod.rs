//! Times: how long, how often, when, and what is keyed into the controller.

mod asked;
mod read;
mod trial;
mod view;

use super::{page_around, render_body, render_page};
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::clock::today;
use crate::error::AppError;
use crate::fields::Fields;
use crate::place::{Here, Screen};
use crate::submit::{FormAt, Sent, submit};
use crate::uploads::give;
use axum::Router;
use axum::extract::{Path, Query, State};
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use fenlo_core::plan::{Edit, SetClimate, SetWatering};
use fenlo_core::progress::Progress;
use fenlo_core::runtime::{peak_month, sheet, times_watched};
use fenlo_formats::foreign::Foreign;
use fenlo_formats::{write_calendar, write_sheet};
use serde::Deserialize;
use std::sync::Arc;

pub fn routes() -> Router<App> {
    Router::new()
        .route("/times", get(page))
        .route("/times/climate", post(climate))
        .route("/times/station-of-table", post(from_table))
        .route("/times/file", post(from_file))
        .route("/times/hours", post(hours))
        .route("/times/station", post(station))
        .route("/times/tune", post(tune))
        .route("/times/start", post(start))
        .route("/times/usage", post(usage))
        .route("/times/reading", post(reading))
        .route("/times/others", get(others))
        .route("/times/like", post(like))
        .route("/times/share", get(share))
        .route("/times/rain", get(rain).post(rained))
        .route("/times/try", post(trial::run))
        .route("/times/night", get(packing).post(stop_packing))
        .route("/times/sheet", get(paper))
        .route("/times/sheet.csv", get(csv))
        .route("/times/season.ics", get(calendar))
}

/// A pick is the month.
pub fn body(known: &Assessed, pick: Option<&str>) -> Result<String, AppError> {
    view::body(known, month_of(known, pick), today())
}

/// A month as it was picked, else the one that wants most.
fn month_of(known: &Assessed, pick: Option<&str>) -> u8 {
    let month = pick.and_then(|p| p.parse().ok()).filter(|m| (1..=12).contains(m));
    month.unwrap_or_else(|| peak_month(known.job()))
}

#[derive(Deserialize)]
struct Pick {
    month: Option<String>,
}

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    render_page(&app, &headers, app.job(job).await?, Here::picked(Screen::Times, pick.month)).await
}

/// Makes the edit that `read` makes of a form and shows the page anew, at the month that it showed.
async fn change(
    app: &App,
    job: i64,
    at: FormAt,
    pairs: Vec<(String, String)>,
    read: impl FnOnce(&Assessed, &mut Fields) -> Result<Edit, AppError> + Send + 'static,
) -> Result<Response, AppError> {
    let at = at.sent(&pairs);
    let read = |known: &Assessed, f: &mut Fields| Ok((read(known, f)?, f.text("month")));
    submit(app, job, at, pairs, read, move |known, month| {
        render_body(known, Here::picked(Screen::Times, month))
    })
    .await
}

macro_rules! forms {
    ($($(#[$doc:meta])* $handler:ident: $form:literal, $fields:expr, $read:path;)*) => {$(
        $(#[$doc])*
        async fn $handler(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
            change(&app, job, FormAt::new($form, &$fields), pairs, $read).await
        }
    )*};
}

/// A file of months or days, read by a helper.
async fn from_file(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let mut fields = Fields::new(pairs.clone(), app.job(job).await?.job().units);
    let latitude = read::latitude(&mut fields).map_or(String::new(), |l| l.to_string());
    let sifted =
        app.readings.pasted(app.store.company(), Foreign::Climate, latitude, fields.text("text")).await?;
    let at = FormAt::new("file", &["text", "latitude"]);
    change(&app, job, at, pairs, move |_, f| read::from_file(f, sifted)).await
}

forms! {
    /// Evaporation and rain by month, as typed.
    climate: "climate", read::CLIMATE_FIELDS, read::climate;
    /// A station of the built-in table.
    from_table: "table", ["table", "form"], read::from_table;
    /// Window, days, controller.
    hours: "hours", read::HOURS_FIELDS, read::hours;
    /// What is wished of one station.
    station: "station", read::STATION_FIELDS, read::station;
    /// Too wet, too dry.
    tune: "tune", ["who"], read::tune;
    /// Rain in the gauge, noted.
    rained: "rain", ["depth", "who"], read::rained;
    /// Where a station's first run begins, or that it is free again.
    start: "start", ["start"], read::start;
    /// The tariff and the meter's size.
    usage: "usage", ["tariff", "meter_size"], read::usage;
    /// The meter, read.
    reading: "reading", ["on", "showed"], read::reading;
}

/// One party's share of a bill; nothing is kept of it.
async fn share(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(pairs): Query<Vec<(String, String)>>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let fields = Fields::new(pairs, known.job().units);
    Ok(Html(asked::share(&known, fields)).into_response())
}

/// Other jobs whose hours and climate may be taken: rules are typed once for a place.
async fn others(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let page = app.store.jobs(fenlo_store::Shelf::Desk, "", 0, 60).await?;
    let jobs = page.jobs.into_iter().filter(|j| j.id != job);
    let jobs: Vec<(i64, String)> = jobs.map(|j| (j.id, j.name)).collect();
    Ok(Html(asked::others(job, jobs)?).into_response())
}

/// Takes hours, days and climate of another job; the controller stays this one's own.
async fn like(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let from = pairs.iter().find(|p| p.0 == "from").and_then(|p| p.1.parse().ok());
    let Some(from) = from else {
        return Err(AppError::Bad("choose a job to copy from".into()));
    };
    let other = app.job(from).await?;
    change(&app, job, FormAt::button(), pairs, move |known, _| {
        let (now, then) = (&known.job().watering, &other.job().watering);
        let rules = SetWatering { rules: then.rules.clone(), controller: now.controller.clone() };
        let climate = SetClimate { climate: then.climate.clone().or_else(|| now.climate.clone()) };
        Ok(Edit::batch(vec![rules.into(), climate.into()]))
    })
    .await
}

/// Days of watering that rain in the gauge makes up for.
async fn rain(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(pairs): Query<Vec<(String, String)>>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let fields = Fields::new(pairs, known.job().units);
    compute(move || Html(asked::rain(&known, fields, today())).into_response()).await
}

/// How far the packing of a large site's night is; begins it, and shows the page once it is done.
async fn packing(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let month = month_of(&known, pick.month.as_deref());
    let (work, fresh) = known.begin_night(month);
    if fresh {
        let (known, work) = (Arc::clone(&known), Arc::clone(&work));
        let (heavy, company) = (app.heavy.clone(), app.store.company());
        tokio::spawn(async move {
            let turn = heavy.turn(company).await;
            // It tells by itself when it is done.
            drop(tokio::task::spawn_blocking(move || {
                let _turn = turn;
                let when = (today().year(), month);
                let even = known.even();
                let found = times_watched(known.job(), &known.assessment, even, when, &work.progress);
                let _ = work.found.set(found);
            }));
        });
    }
    if work.found.get().is_some() {
        let place = format!("/jobs/{job}/times?month={month}");
        return Ok(([("hx-redirect", place)], "").into_response());
    }
    Ok(Html(view::packing(job, month, &work.progress)?).into_response())
}

/// Ends it with the best night so far.
async fn stop_packing(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let picked = pairs.iter().find(|p| p.0 == "month").map(|p| p.1.as_str());
    let month = month_of(&known, picked);
    if let Some(work) = known.night(month) {
        work.progress.stop();
        return Ok(Html(view::packing(job, month, &work.progress)?).into_response());
    }
    Ok(Html(view::packing(job, month, &Progress::default())?).into_response())
}

/// The controller sheet, to be printed.
async fn paper(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    compute(move || {
        let here = Here::at(Screen::Times);
        Ok(page_around(&known, &here, view::paper(&known, today())?)?.into_response())
    })
    .await?
}

async fn csv(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    compute(move || {
        let sheet = sheet(known.job(), &known.assessment, known.even(), today().year());
        let text = write_sheet(known.job(), &sheet);
        give(&known.job().name, "csv", "text/csv; charset=utf-8", text)
    })
    .await
}

async fn calendar(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    compute(move || {
        let sheet = sheet(known.job(), &known.assessment, known.even(), today().year());
        let text = write_calendar(known.job(), &sheet);
        give(&known.job().name, "ics", "text/calendar; charset=utf-8", text)
    })
    .await
}
