//! Valves: the rack, one lane a valve; heads moved from valve to valve; the split.

mod read;
mod view;

use super::{render_body, render_page};
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::beside::{self, Beside, Task};
use crate::error::AppError;
use crate::fields::{Fields, Pairs};
use crate::place::{Here, Screen};
use crate::respond::Fragments;
use crate::submit::{FormAt, Sent, submit};
use askama::Template;
use axum::Router;
use axum::extract::{Path, Query, State};
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use fenlo_core::plan::{Edit, Valve};
use fenlo_core::usual;
use serde::Deserialize;

pub use view::body;

pub fn routes() -> Router<App> {
    Router::new()
        .route("/valves", get(page))
        .route("/valves/split", get(look).post(split))
        .route("/valves/new", post(add))
        .route("/valves/{valve}", post(save))
        .route("/valves/{valve}/move", post(move_heads))
        .route("/valves/{valve}/head/{head}", get(head_how))
        .route("/valves/{valve}/remove", post(remove))
}

#[derive(Deserialize)]
struct Pick {
    valve: Option<String>,
}

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    render_page(&app, &headers, app.job(job).await?, Here::picked(Screen::Valves, pick.valve)).await
}

/// What splitting again would change; nothing is changed.
async fn look(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(pairs): Query<Pairs>,
) -> Result<Response, AppError> {
    let work = Beside::asked(&app, job, Task::Split, &pairs).await?;
    if !work.wait(&pairs).await {
        return beside::shown(&work, "v-split");
    }
    compute(move || {
        let (known, edit) = work.edit();
        Ok(Html(view::would_change(known, edit)?).into_response())
    })
    .await?
}

/// Heads onto valves: those on none, or all of them anew as it was looked at.
async fn split(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let (task, place) = match pairs.iter().any(|p| p.0 == "scope" && p.1 == "loose") {
        true => (Task::Loose, "v-loose"),
        false => (Task::Split, "v-split"),
    };
    let work = Beside::asked(&app, job, task, &pairs).await?;
    if !work.wait(&pairs).await {
        return beside::shown(&work, place);
    }
    app.beside.invalidate(&(job, task));
    let read = move |known: &Assessed, f: &mut Fields| {
        if task == Task::Split && !f.get("looked").parse().is_ok_and(|seq: i64| seq == known.open.seq) {
            let said = "the job changed since this preview. Press Redo valve assignment again";
            return Err(AppError::Conflict(said.into()));
        }
        let (edit, _) = work.outcome(known, f)?;
        Ok((edit, Here::at(Screen::Valves)))
    };
    submit(&app, job, FormAt::button(), pairs, read, render_body).await
}

/// How one head comes to its figures.
async fn head_how(
    State(app): State<App>,
    Path((job, valve, head)): Path<(i64, String, String)>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let how = view::head_how(&known, &valve, &head).ok_or(AppError::NotFound)?;
    Ok(Html(how.render()?).into_response())
}

async fn add(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let read = |known: &Assessed, _: &mut _| {
        let none = "add a point of connection on Water first";
        let valve = usual::valve(known.job(), None).ok_or_else(|| AppError::Bad(none.into()))?;
        let here = Here::picked(Screen::Valves, valve.id.clone());
        Ok((Edit::put(valve), here))
    };
    submit(&app, job, FormAt::button(), pairs, read, render_body).await
}

async fn save(Sent { app, path: (job, id), pairs }: Sent<(i64, String)>) -> Result<Response, AppError> {
    let at = FormAt::new("valve", &read::FIELDS);
    let (form, picked) = (at.clone(), id.clone());
    let read = move |known: &Assessed, f: &mut _| {
        let was = known.job().valve(&id);
        let was = was.ok_or_else(|| AppError::Conflict("this valve was deleted".into()))?;
        Ok((Edit::put(read::valve(f, was)), ()))
    };
    submit(&app, job, at, pairs, read, move |known, ()| {
        let mut out = Fragments::of(known, &Here::picked(Screen::Valves, picked.clone()))?;
        out.put("v-rack", &view::lanes(known, Some(&picked))?.concat());
        if let Some(valve) = known.job().valve(&picked) {
            out.put("v-findings", &view::checks(known, valve)?);
        }
        form.clear(&mut out);
        Ok(out.done())
    })
    .await
}

async fn move_heads(Sent { app, path: (job, id), pairs }: Sent<(i64, String)>) -> Result<Response, AppError> {
    let read = move |known: &Assessed, f: &mut _| {
        let (edit, to) = read::moved(known.job(), f, &id)?;
        Ok((edit, Here::picked(Screen::Valves, to)))
    };
    submit(&app, job, FormAt::new("move", &[]), pairs, read, render_body).await
}

async fn remove(Sent { app, path: (job, id), pairs }: Sent<(i64, String)>) -> Result<Response, AppError> {
    let read = move |_: &Assessed, _: &mut _| Ok((Edit::remove::<Valve>(id), Here::at(Screen::Valves)));
    submit(&app, job, FormAt::button(), pairs, read, render_body).await
}
