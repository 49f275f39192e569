//! Nozzles: the built-in classes and the house's own, how each goes with the pressure, charts in and
//! out, what is on the truck.

mod house;
pub mod read;
pub mod view;

use super::{render_body, render_page};
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::Fields;
use crate::place::{Here, Screen};
use crate::submit::{FormAt, Sent, submit};
use crate::uploads::{MOST_FILE, give};
use axum::Router;
use axum::extract::{DefaultBodyLimit, Path, Query, State};
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use fenlo_core::catalogue::OwnNozzle;
use fenlo_core::plan::Edit;
use fenlo_formats::foreign::{Foreign, Sifted};
use fenlo_formats::write_chart;
use serde::Deserialize;

pub use view::body;

pub fn routes() -> Router<App> {
    let chart = DefaultBodyLimit::max(MOST_FILE);
    Router::new()
        .route("/catalogue", get(page))
        .route("/catalogue.csv", get(download))
        .route("/catalogue/nozzle", get(nozzle))
        .route("/catalogue/add", post(add))
        .route("/catalogue/remove", post(remove))
        .route("/catalogue/truck", post(truck))
        .route("/catalogue/preview", post(preview).layer(chart))
        .route("/catalogue/save", post(save).layer(chart))
        .route("/catalogue/house", get(house::show))
        .route("/catalogue/house/bring", post(house::bring))
        .route("/catalogue/house/keep", post(house::keep))
}

#[derive(Deserialize)]
struct Pick {
    nozzle: Option<String>,
}

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    render_page(&app, &headers, app.job(job).await?, Here::picked(Screen::Catalogue, pick.nozzle)).await
}

/// One nozzle beside the list.
async fn nozzle(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let found = known.job().catalogue().nozzle(&pick.nozzle.unwrap_or_default());
    Ok(Html(view::detail(&known, found.ok_or(AppError::NotFound)?)?).into_response())
}

/// A pasted chart as its reader hands it over.
pub async fn sifted(app: &App, fields: &Fields) -> Result<Sifted<Vec<OwnNozzle>>, AppError> {
    let (kind, text) = (read::kind_of_chart(fields), fields.text("chart"));
    app.readings.pasted(app.store.company(), Foreign::Chart, kind, text).await
}

/// What a chart would bring. Nothing is saved.
async fn preview(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let fields = Fields::new(pairs, known.job().units);
    let sifted = sifted(&app, &fields).await?;
    compute(move || {
        let chart = read::chart(known.job(), &fields, sifted);
        let save = format!("/jobs/{}/catalogue/save", known.open.id);
        Ok(Html(view::preview(known.job(), save, "#page", chart)?).into_response())
    })
    .await?
}

/// Saves the nozzles of a chart that have no fault.
async fn save(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let fields = Fields::new(pairs.clone(), app.job(job).await?.job().units);
    let sifted = sifted(&app, &fields).await?;
    let read = move |known: &Assessed, f: &mut Fields| {
        let nozzles = read::chart(known.job(), f, sifted).nozzles;
        let first = nozzles.first().map(|n| n.id.clone());
        let none = "the chart has no usable nozzle";
        let first = first.ok_or_else(|| AppError::Bad(none.into()))?;
        let edits = nozzles.into_iter().map(Edit::put).collect();
        Ok((Edit::batch(edits), Here::picked(Screen::Catalogue, first)))
    };
    submit(&app, job, FormAt::button(), pairs, read, render_body).await
}

async fn add(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let at = FormAt::new("noz", &read::FIELDS);
    let read = |known: &Assessed, f: &mut Fields| {
        let nozzle = read::row(known.job(), f);
        let here = Here::picked(Screen::Catalogue, nozzle.id.clone());
        Ok((Edit::put(nozzle), here))
    };
    submit(&app, job, at, pairs, read, render_body).await
}

/// Takes a nozzle of the house away.
async fn remove(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let read = |known: &Assessed, f: &mut Fields| {
        let id = f.text("id");
        let users = known.job().groups.iter().filter(|g| g.nozzle == id);
        let users: Vec<&str> = users.map(|g| g.name.as_str()).collect();
        if !users.is_empty() {
            let users = users.join(", ");
            return f.stop(format!("{users} uses this nozzle. Assign another nozzle first"));
        }
        Ok((Edit::remove::<OwnNozzle>(id), Here::at(Screen::Catalogue)))
    };
    submit(&app, job, FormAt::button(), pairs, read, render_body).await
}

/// Puts a nozzle on the truck, or takes it off.
async fn truck(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let read = |known: &Assessed, f: &mut Fields| {
        let id = f.text("id");
        let edit = read::truck(known.job(), known.job().catalogue(), &id, f.ticked("on"));
        Ok((Edit::SetFavourites(edit), Here::picked(Screen::Catalogue, id)))
    };
    submit(&app, job, FormAt::button(), pairs, read, render_body).await
}

/// The house's own nozzles as a chart.
async fn download(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let chart = write_chart(&known.job().nozzles);
    Ok(give("nozzles", "csv", "text/csv; charset=utf-8", chart))
}
