//! Quick check: the daily question, without a job.

mod read;
mod view;

use super::jobs::store;
use crate::app::{App, compute};
use crate::error::AppError;
use crate::fields::Pairs;
use axum::Router;
use axum::extract::{Form, Query, RawQuery, State};
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use fenlo_core::job::Job;

pub fn routes() -> Router<App> {
    Router::new().route("/quick", get(page)).route("/quick/job", post(make_job))
}

/// Questions up to this length are kept: browsers ask none longer.
const MOST_KEPT: usize = 1_000;

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    RawQuery(raw): RawQuery,
    Query(query): Query<Pairs>,
) -> Result<Response, AppError> {
    let key = raw.unwrap_or_default();
    if key.len() > MOST_KEPT {
        return compute(move || Ok(Html(view::page(&read::filled(query))?).into_response())).await?;
    }
    let ready = app.questions.get(key, move || view::page(&read::filled(query))).await?;
    Ok(ready.answer(&headers))
}

/// The question as a job, with the recommended regulator left to be chosen there.
async fn make_job(State(app): State<App>, Form(pairs): Form<Pairs>) -> Result<Redirect, AppError> {
    let job = read::question(&pairs).map_err(|faults| {
        let first = faults.into_iter().next();
        AppError::Bad(first.map_or_else(String::new, |f| format!("{}: {}", view::label(f.field), f.message)))
    })?;
    let mut plan = job.into_plan();
    plan.name = format!("{} {} on a valve", plan.groups[0].count(), plan.groups[0].nozzle);
    let key = pairs.iter().find(|p| p.0 == "key").map_or("", |p| p.1.as_str());
    Ok(Redirect::to(&store(&app, Job::new(plan), key).await?))
}
