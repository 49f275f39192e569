//! Heads: groups of one nozzle on one area, listed.

mod read;
mod view;

use super::{render_body, render_page};
use crate::app::App;
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::place::{Here, Screen};
use crate::respond::Fragments;
use crate::submit::{FormAt, Sent, submit};
use axum::Router;
use axum::extract::{Path, State};
use axum::http::HeaderMap;
use axum::response::Response;
use axum::routing::{get, post};
use fenlo_core::plan::{Edit, HeadGroup};
use fenlo_core::zoning::{put_on_valves, remove_group};

pub fn routes() -> Router<App> {
    Router::new()
        .route("/heads", get(page))
        .route("/heads/new", post(add))
        .route("/heads/{group}", post(save))
        .route("/heads/{group}/remove", post(remove))
}

pub fn body(known: &Assessed, _pick: Option<&str>) -> Result<String, AppError> {
    view::body(known)
}

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    Path(job): Path<i64>,
) -> Result<Response, AppError> {
    render_page(&app, &headers, app.job(job).await?, Here::at(Screen::Heads)).await
}

/// Heads come with the valves that they need.
fn put(known: &Assessed, group: HeadGroup) -> Edit {
    put_on_valves(known.job(), &known.assessment.water(), Edit::put(group))
}

async fn add(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let at = FormAt::new("new", &read::NEW_FIELDS);
    let read = |known: &Assessed, f: &mut _| {
        let group = read::new_group(known.job(), f);
        Ok((put(known, group), Here::at(Screen::Heads)))
    };
    submit(&app, job, at, pairs, read, render_body).await
}

async fn save(Sent { app, path: (job, id), pairs }: Sent<(i64, String)>) -> Result<Response, AppError> {
    let at = FormAt::new(&id, &read::FIELDS);
    let (form, group) = (at.clone(), id.clone());
    let read = move |known: &Assessed, f: &mut _| {
        let was = known.job().group(&id);
        let was = was.ok_or_else(|| AppError::Conflict("this area was deleted".into()))?;
        let now = read::group(known.job().catalogue(), f, was);
        // Another family of nozzle has other fields: the card is drawn anew.
        let family = |g: &HeadGroup| {
            let nozzle = known.job().catalogue().nozzle(&g.nozzle)?;
            Some((nozzle.arc_rule, read::is_rows(nozzle.kind)))
        };
        let new_card = family(was) != family(&now);
        Ok((put(known, now), new_card))
    };
    submit(&app, job, at, pairs, read, move |known, new_card| {
        let mut out = Fragments::of(known, &Here::at(Screen::Heads))?;
        out.put("h-total", &view::total(known));
        for other in &known.job().groups {
            out.put(&format!("group-says-{}", other.id), &view::says(known, other));
        }
        match known.job().group(&group) {
            Some(now) if new_card => out.replace(&format!("group-{group}"), &view::card(known, now)?),
            _ => form.clear(&mut out),
        }
        Ok(out.done())
    })
    .await
}

async fn remove(Sent { app, path: (job, group), pairs }: Sent<(i64, String)>) -> Result<Response, AppError> {
    let read =
        move |known: &Assessed, _: &mut _| Ok((remove_group(known.job(), &group), Here::at(Screen::Heads)));
    submit(&app, job, FormAt::button(), pairs, read, render_body).await
}
