//! Heads laid out by the machine: one kind on one area from the board, and all kinds side by side.

mod read;
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
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use fenlo_core::layout::{Alternative, Proposal, alternatives};
use fenlo_core::pricing::{part_key, wanted_by};
use fenlo_core::takeoff::Line;
use serde::Deserialize;
use std::sync::Arc;

use view::Money;
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

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    let area = pick.area.filter(|a| !a.is_empty());
    render_page(
        &app,
        &headers,
        app.job(job).await?,
        Here::picked(Screen::Layout, area),
    )
    .await
}

/// Lays one kind out on one area: the board's button.
async fn lay(
    Sent {
        app,
        path: job,
        pairs,
    }: Sent<i64>,
) -> Result<Response, AppError> {
    let at = FormAt::new("lay", &["kind"]);
    let form = at.clone();
    let read = |known: &Assessed, f: &mut Fields| Ok((read::laid(known.job(), f)?, ()));
    submit(&app, job, at, pairs, read, move |known, ()| saved(known, &form)).await
}

/// Begins comparing, for one area or for all; what ran before for this job is stopped.
async fn run(
    Sent {
        app,
        path: job,
        pairs,
    }: Sent<i64>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let f = Fields::new(pairs, known.job().units);
    let picked = f.text("area");
    let areas: Vec<String> = known
        .job()
        .site
        .areas()
        // What comes later is compared when it is picked.
        .filter(|(t, a)| {
            if picked.is_empty() {
                !a.later
            } else {
                t.id == picked
            }
        })
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
            work.finish(compare(&of, &work));
        }));
    });
    fragment(&app, known, picked, Some(run)).await
}

/// All areas, two at a time: one for each core of a small server.
fn compare(known: &Assessed, run: &Run) -> Vec<Alternative> {
    let one = |area: &String| {
        if run.progress.stopped() {
            Vec::new()
        } else {
            alternatives(known.job(), known.assessment.available(), area, &run.progress)
        }
    };
    let (even, odd): (Vec<_>, Vec<_>) = run.areas.iter().enumerate().partition(|(i, _)| i % 2 == 0);
    let work = |part: Vec<(usize, &String)>| part.into_iter().map(|(i, a)| (i, one(a))).collect::<Vec<_>>();
    let mut found = std::thread::scope(|s| {
        let other = s.spawn(|| work(odd));
        let mut mine = work(even);
        mine.extend(other.join().unwrap_or_default());
        mine
    });
    found.sort_by_key(|(i, _)| *i);
    found.into_iter().flat_map(|(_, a)| a).collect()
}

async fn progress(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    fragment(&app, known, pick.area.unwrap_or_default(), app.runs.get(&job)).await
}

async fn stop(
    Sent {
        app,
        path: job,
        pairs,
    }: Sent<i64>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let area = Fields::new(pairs, known.job().units).text("area");
    let run = app.runs.get(&job);
    if let Some(run) = &run {
        run.progress.stop();
    }
    fragment(&app, known, area, run).await
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
async fn take(
    Sent {
        app,
        path: job,
        pairs,
    }: Sent<i64>,
) -> Result<Response, AppError> {
    let Some((run, found)) = app.runs.get(&job).and_then(|r| r.found().map(|f| (r, f))) else {
        return Err(AppError::Bad(
            "what was compared is not kept any more: compare again".into(),
        ));
    };
    let read = move |known: &Assessed, f: &mut Fields| {
        let area = f.text("area");
        if run.is_stale(known) {
            return Err(AppError::Conflict(
                "the ground was changed since: compare again".into(),
            ));
        }
        // Drip is taken area by area: its names are chosen when it is laid.
        if f.get("kind") == "dripline" {
            let laid = found.iter().find(|a| a.area == area && a.drip.is_some());
            return match laid.and_then(|a| a.drip.as_ref()) {
                Some(Ok(drip)) => Ok((drip.edit.clone(), ())),
                _ => f.stop("no drip was laid for that ground: compare again"),
            };
        }
        let kind = read::kind(f);
        let ways: Vec<&Proposal> = found
            .iter()
            .filter(|a| a.kind == kind && (area.is_empty() || a.area == area))
            .filter_map(|a| a.heads.as_ref().ok())
            .collect();
        if ways.is_empty() || !f.errors.is_empty() {
            return f.stop("no heads of this kind were found for that ground: compare again");
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
