//! Heads laid out by the machine: one kind on one area from the board, and all kinds side by side.

mod money;
mod read;
mod totals;
mod view;

use super::ground::saved;
use super::render_page;
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::Fields;
use crate::place::{Here, Screen};
use crate::respond::Fragments;
use crate::runs::Run;
use crate::submit::{FormAt, Sent, submit};
use axum::Router;
use axum::extract::{Path, Query, State};
use axum::http::{HeaderMap, StatusCode};
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use fenlo_core::layout::{Alternative, Proposal, each_alternative};
use fenlo_core::pricing::{part_key, wanted_by};
use fenlo_core::takeoff::Line;
use serde::Deserialize;
use std::sync::Arc;

use money::Money;
pub use view::body;

pub fn routes() -> Router<App> {
    Router::new()
        .route("/layout", get(page))
        .route("/layout/run", post(run))
        .route("/layout/progress", get(progress))
        .route("/layout/stop", post(stop))
        .route("/layout/use", post(take))
        .route("/ground/layout", post(lay))
}

#[derive(Deserialize)]
struct Pick {
    area: Option<String>,
}

/// What the page shows of a run already.
#[derive(Deserialize)]
struct Shown {
    #[serde(default)]
    area: String,
    #[serde(default)]
    have: usize,
}

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    let area = pick.area.filter(|a| !a.is_empty());
    render_page(&app, &headers, app.job(job).await?, Here::picked(Screen::Layout, area)).await
}

/// Lays one kind out on one area: the board's button.
async fn lay(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let at = FormAt::new("lay", &["kind"]);
    let form = at.clone();
    let read = |known: &Assessed, f: &mut Fields| Ok((read::laid(known.job(), f)?, ()));
    submit(&app, job, at, pairs, read, move |known, ()| saved(known, &form)).await
}

/// Begins comparing, for one area or for all; what ran before for this job is stopped.
async fn run(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let f = Fields::new(pairs, known.job().units);
    let picked = f.text("area");
    let areas: Vec<String> = known
        .job()
        .site
        .areas()
        // What comes later is compared when it is picked.
        .filter(|(t, a)| if picked.is_empty() { !a.later } else { t.id == picked })
        .map(|(t, _)| t.id.clone())
        .collect();
    let run = Arc::new(Run::new(areas, Arc::clone(&known)));
    run.progress.expect(run.areas.len() * 6);
    if let Some(old) = app.runs.get(&job) {
        old.progress.stop();
    }
    app.runs.insert(job, Arc::clone(&run));
    let (work, of) = (Arc::clone(&run), Arc::clone(&known));
    let (heavy, company) = (app.heavy.clone(), app.store.company());
    tokio::spawn(async move {
        let turn = heavy.turn(company).await;
        // It tells by itself when it is done.
        drop(tokio::task::spawn_blocking(move || {
            let _turn = turn;
            compare(&of, &work);
        }));
    });
    fragment(&app, known, picked, Some(run)).await
}

/// All areas, two at a time: one for each core of a small server. Each way is told as it is found.
fn compare(known: &Assessed, run: &Run) {
    let work = |odd: usize| {
        for (i, area) in run.areas.iter().enumerate().filter(|(i, _)| i % 2 == odd) {
            if run.progress.stopped() {
                return;
            }
            let available = known.assessment.available();
            each_alternative(known.job(), available, area, &run.progress, &mut |way| run.tell(i, way));
        }
    };
    std::thread::scope(|s| {
        s.spawn(|| work(1));
        work(0);
    });
    run.finish();
}

async fn progress(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(shown): Query<Shown>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    match app.runs.get(&job) {
        // Only what is new: the ways of areas that have more.
        Some(run) if run.found().is_none() => {
            compute(move || Ok(Html(view::news(&known, &shown.area, &run, shown.have)?).into_response()))
                .await?
        }
        run => {
            let whole = fragment(&app, known, shown.area, run).await?;
            Ok(([("hx-retarget", "#layout-state"), ("hx-reswap", "innerHTML")], whole).into_response())
        }
    }
}

/// Stops comparing; the bar says so when it asks again.
async fn stop(State(app): State<App>, Path(job): Path<i64>) -> StatusCode {
    if let Some(run) = app.runs.get(&job) {
        run.progress.stop();
    }
    StatusCode::NO_CONTENT
}

/// How far it is, or what came out: pictures of every way, drawn off the serving threads.
async fn fragment(
    app: &App,
    known: Arc<Assessed>,
    area: String,
    run: Option<Arc<Run>>,
) -> Result<Response, AppError> {
    let money = match run.as_ref().and_then(|r| r.found()) {
        Some(found) => Some(money(app, &known, found).await?),
        None => None,
    };
    compute(move || Ok(Html(view::state(&known, &area, run.as_deref(), money.as_ref())?).into_response()))
        .await?
}

/// What every way that was found buys, and what the company's book knows of it.
async fn money(app: &App, known: &Arc<Assessed>, found: Arc<Vec<Alternative>>) -> Result<Money, AppError> {
    let of = Arc::clone(known);
    let bought: Vec<Option<Vec<Line>>> =
        compute(move || found.iter().map(|way| wanted_by(of.job(), way)).collect()).await?;
    let lines = bought.iter().flatten().flatten();
    let mut keys: Vec<String> = lines.map(|l| part_key(&l.part, l.piece)).collect();
    keys.sort();
    keys.dedup();
    let book = app.store.prices_of(&keys).await?;
    Ok(Money { bought, book })
}

/// Takes a way for one area, or one kind for all that have it.
async fn take(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let Some(run) = app.runs.get(&job) else {
        return Err(AppError::Bad("the comparison has expired. Compare again".into()));
    };
    let found = run.so_far();
    let read = move |known: &Assessed, f: &mut Fields| {
        let area = f.text("area");
        if run.is_stale(known) {
            return Err(AppError::Conflict("the site plan changed. Compare again".into()));
        }
        // Drip is taken area by area: its names are chosen when it is laid.
        if f.get("kind") == "dripline" {
            let laid = found.iter().find(|a| a.area == area && a.drip.is_some());
            return match laid.and_then(|a| a.drip.as_ref()) {
                Some(Ok(drip)) => Ok((drip.edit.clone(), ())),
                _ => f.stop("no drip result for that area. Compare again"),
            };
        }
        let kind = read::kind(f);
        let ways: Vec<&Proposal> = found
            .iter()
            .filter(|a| a.kind == kind && (area.is_empty() || a.area == area))
            .filter_map(|a| a.heads.as_ref().ok())
            .collect();
        if ways.is_empty() || !f.errors.is_empty() {
            return f.stop("no layout of this type for that area. Compare again");
        }
        Ok((read::taken(known.job(), ways)?, ()))
    };
    submit(&app, job, FormAt::button(), pairs, read, move |known, ()| {
        let mut out = Fragments::of(known, &Here::at(Screen::Layout))?;
        out.put("layout-said", &view::laid_out(job));
        Ok(out.done())
    })
    .await
}
