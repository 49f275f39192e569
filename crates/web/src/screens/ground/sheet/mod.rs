//! What is picked, beside the board: figures, properties, things to do with it.

mod drip;
mod figures;
mod heads;
mod pipe;
mod read;
mod view;

use super::saved;
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::Fields;
use crate::submit::{FormAt, Sent, submit};
use axum::extract::{Path, Query, State};
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::board::save_object;
use serde::Deserialize;

pub use view::html;

#[derive(Deserialize)]
pub struct Picked {
    #[serde(default)]
    ids: String,
}

/// Ids between commas, as many as a board may hold.
pub fn ids(text: &str) -> Vec<String> {
    let ids = text.split(',').filter(|i| !i.is_empty()).take(5_000);
    ids.map(str::to_owned).collect()
}

pub async fn page(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(picked): Query<Picked>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    compute(move || Ok(Html(html(&known, &ids(&picked.ids))?).into_response())).await?
}

/// Saves what a thing is; its place and shape are left alone but for things at a point.
pub async fn save(Sent { app, path: (job, id), pairs }: Sent<(i64, String)>) -> Result<Response, AppError> {
    let at = FormAt::new("thing", &read::FIELDS).sent(&pairs);
    let form = at.clone();
    let read = move |known: &Assessed, f: &mut Fields| {
        let was = known.job().site.object(&id);
        let was = was.ok_or_else(|| AppError::Conflict("this was deleted".into()))?;
        let now = read::thing(f, was);
        Ok((save_object(known.job(), now), ()))
    };
    submit(&app, job, at, pairs, read, move |known, ()| saved(known, &form)).await
}
