//! Parts: what is bought, how it is cut, what is dug, where it costs least.

mod goods;
mod making;
mod money;
mod papers;
mod read;
mod view;

use super::{render_body, render_page};
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::Fields;
use crate::place::{Here, Screen};
use crate::submit::{FormAt, Sent, submit};
use crate::uploads::give;
use axum::Router;
use axum::extract::{Path, State};
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use fenlo_formats::{parts_workbook, write_parts};

pub use making::Making;
pub use money::{book_of, priced};
pub use view::body;

pub fn routes() -> Router<App> {
    Router::new()
        .route("/parts", get(page))
        .route("/parts/money", get(baskets))
        .route("/parts/line", post(line))
        .route("/parts/own", post(own))
        .route("/parts/number", post(number))
        .route("/parts.csv", get(csv))
        .route("/parts.xlsx", get(xlsx))
        .merge(goods::routes())
        .merge(papers::routes())
        .merge(making::routes())
}

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    Path(job): Path<i64>,
) -> Result<Response, AppError> {
    render_page(&app, &headers, app.job(job).await?, Here::at(Screen::Parts)).await
}

/// Where the list costs least: fetched by the page, since prices are the company's and not the job's.
async fn baskets(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let book = book_of(&app, &known).await?;
    let goods = app.store.goods(job).await?;
    let kits = app.store.kits().await?;
    compute(move || Ok(Html(money::baskets_html(&known, &book, &goods, &kits)?).into_response())).await?
}

/// Another quantity of a counted part, or the counted one again.
async fn line(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let read = |known: &Assessed, f: &mut Fields| Ok((read::quantity(known, f)?, ()));
    submit(&app, job, FormAt::button(), pairs, read, |known, ()| render_body(known, Here::at(Screen::Parts)))
        .await
}

/// A line that the plan does not count, put there or taken away.
async fn own(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let at = FormAt::new("own", &read::OWN_FIELDS).sent(&pairs);
    let read = |known: &Assessed, f: &mut Fields| Ok((read::own(known, f)?, ()));
    submit(&app, job, at, pairs, read, |known, ()| render_body(known, Here::at(Screen::Parts))).await
}

/// The company's own number of a part, said once for all jobs.
async fn number(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let fields = Fields::new(pairs, known.job().units);
    let (part, number) = (fields.text("part"), fields.text("number"));
    let sound = |t: &str, most: usize| t.chars().count() <= most && !t.contains('\0');
    if part.is_empty() || !sound(&part, 120) || !sound(&number, 64) {
        return Err(AppError::Bad("an item number has at most 64 characters".into()));
    }
    app.store.number_part(&part, &number).await?;
    baskets(State(app), Path(job)).await
}

async fn csv(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let book = book_of(&app, &known).await?;
    compute(move || {
        let text = write_parts(known.job(), &priced(&known, &book), Some(&book));
        let name = format!("{} parts", known.job().name);
        give(&name, "csv", "text/csv; charset=utf-8", text)
    })
    .await
}

async fn xlsx(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let book = book_of(&app, &known).await?;
    compute(move || {
        let bytes =
            parts_workbook(known.job(), &priced(&known, &book), Some(&book)).map_err(AppError::broken)?;
        let name = format!("{} parts", known.job().name);
        Ok(give(&name, "xlsx", XLSX, bytes))
    })
    .await?
}

/// Media type of workbooks.
pub const XLSX: &str = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";
