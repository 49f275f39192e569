//! Quote: what the customer pays, its versions, and links that show it.

mod options;
mod read;
mod view;

use super::parts::{XLSX, book_of, priced};
use super::{render_body, render_page};
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::clock::today;
use crate::error::AppError;
use crate::fields::Fields;
use crate::keys;
use crate::place::{Here, Screen};
use crate::submit::{FormAt, Sent, submit};
use crate::uploads::give;
use axum::Router;
use axum::extract::{Path, Query, State};
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use fenlo_core::plan::{Date, Edit};
use fenlo_core::pricing::{PriceBook, Quote, SectionBy, quote};
use fenlo_formats::quote_workbook;
use fenlo_store::{KeptQuote, Shared};
use serde::Deserialize;
use std::sync::Arc;

pub use options::picked;
pub use view::{Shown, body, shown};

pub fn routes() -> Router<App> {
    Router::new()
        .route("/quote", get(page))
        .route("/quote/now", get(now))
        .route("/quote/versions", get(versions))
        .route("/quote/options", get(options::options))
        .route("/quote/rules", post(rules))
        .route("/quote/keep", post(keep))
        .route("/quote/accept", post(accept))
        .route("/quote/share", post(share))
        .route("/quote/end", post(end))
        .route("/quote.xlsx", get(xlsx))
}

#[derive(Deserialize)]
struct Asked {
    #[serde(default)]
    by: String,
}

impl Asked {
    fn by(&self) -> SectionBy {
        if self.by == "zone" { SectionBy::Zone } else { SectionBy::Work }
    }
}

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    Path(job): Path<i64>,
) -> Result<Response, AppError> {
    render_page(&app, &headers, app.job(job).await?, Here::at(Screen::Quote)).await
}

/// The quote as it would be made now.
fn made(known: &Assessed, book: &PriceBook, by: SectionBy) -> Quote {
    quote(known.job(), &priced(known, book), book, today(), by)
}

/// A book in another currency than the job's money is no basis for a quote.
fn same_currency(known: &Assessed, book: &PriceBook) -> Result<(), AppError> {
    let house = &known.job().rules.buying.currency;
    if book.currency.is_empty() || book.currency == *house || book.prices.is_empty() {
        return Ok(());
    }
    Err(AppError::Bad(format!(
        "the price book is in {}; this job uses {house}. Change the currency below or import prices in \
            {house}",
        book.currency
    )))
}

/// A job with the prices that its quote is made of.
async fn job_and_book(app: &App, job: i64) -> Result<(Arc<Assessed>, PriceBook), AppError> {
    let known = app.job(job).await?;
    let book = book_of(app, &known).await?;
    same_currency(&known, &book)?;
    Ok((known, book))
}

async fn now(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(asked): Query<Asked>,
) -> Result<Response, AppError> {
    let (known, book) = job_and_book(&app, job).await?;
    compute(move || {
        let quote = made(&known, &book, asked.by());
        Ok(Html(view::now(&known, &quote)?).into_response())
    })
    .await?
}

async fn versions(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    versions_of(&app, job, None).await
}

async fn versions_of(app: &App, job: i64, link: Option<String>) -> Result<Response, AppError> {
    let kept = app.store.quotes(job).await?;
    let shares = app.store.shares(job).await?;
    let newest = app.store.seq(job).await?;
    Ok(Html(view::versions(job, newest, &kept, &shares, link)?).into_response())
}

/// What labour, overhead, margin and tax are reckoned at.
async fn rules(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let at = FormAt::new("quote", &read::FIELDS).sent(&pairs);
    let read = |known: &Assessed, f: &mut Fields| {
        Ok((Edit::SetRules(read::rules(f, &known.job().rules, known.job().units)), ()))
    };
    submit(&app, job, at, pairs, read, |known, ()| render_body(known, Here::at(Screen::Quote))).await
}

/// Keeps the quote as a version.
async fn keep(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let (known, book) = job_and_book(&app, job).await?;
    let fields = Fields::new(pairs, known.job().units);
    let asked = Asked { by: fields.text("by") };
    let note: String = fields.text("note").chars().filter(|c| !c.is_control()).take(200).collect();
    let key = keys::of(fields.get("key"));
    let seq = known.open.seq;
    let quote = compute(move || made(&known, &book, asked.by())).await?;
    if quote.sections.is_empty() {
        return Err(AppError::Bad("nothing to quote yet".into()));
    }
    app.store.keep_quote(job, seq, &quote, &note, key.as_deref()).await?;
    versions_of(&app, job, None).await
}

async fn accept(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    app.store.accept_quote(job, version_in(&pairs)?).await?;
    versions_of(&app, job, None).await
}

fn version_in(pairs: &[(String, String)]) -> Result<i32, AppError> {
    let said = pairs.iter().find(|p| p.0 == "version").and_then(|p| p.1.parse().ok());
    said.ok_or_else(|| AppError::Bad("choose a version".into()))
}

/// A link that shows a version, or the plan to the crew.
async fn share(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let fields = Fields::new(pairs.clone(), fenlo_core::units::UnitSystem::Us);
    let until: Result<Date, _> = fields.get("until").parse();
    let until = until.map_err(|_| AppError::Bad("enter an expiry date such as 2026-07-03".into()))?;
    let (first, last) = (today(), today().days_later(366));
    if until < first || until > last {
        return Err(AppError::Bad(format!("a link can be valid until {last} at the latest")));
    }
    let what = match fields.get("what") {
        "plan" => Shared::Plan,
        _ => {
            let version = version_in(&pairs)?;
            let kept = app.store.quotes(job).await?;
            let of = |k: &&KeptQuote| k.version == version;
            Shared::Quote(kept.iter().find(of).ok_or(AppError::NotFound)?.id)
        }
    };
    let token = app.store.share(job, what, until, Some(fields.get("key"))).await?;
    versions_of(&app, job, Some(format!("/shared/{token}"))).await
}

async fn end(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let name = pairs.iter().find(|p| p.0 == "name").map_or("", |p| p.1.as_str());
    app.store.end_share(job, name).await?;
    versions_of(&app, job, None).await
}

async fn xlsx(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(asked): Query<Asked>,
) -> Result<Response, AppError> {
    let (known, book) = job_and_book(&app, job).await?;
    compute(move || {
        let quote = made(&known, &book, asked.by());
        let bytes = quote_workbook(&quote, fenlo_words::quote_section).map_err(AppError::broken)?;
        Ok(give(&format!("{} quote", known.job().name), "xlsx", XLSX, bytes))
    })
    .await?
}
