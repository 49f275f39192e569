//! What a link shows to somebody without an account: a quote, or the plan without prices. Nothing can be
//! changed here, and nothing else is reached from here.

use super::quote::{Shown, shown};
use crate::app::{App, compute};
use crate::error::AppError;
use askama::Template;
use axum::Router;
use axum::extract::{Path, State};
use axum::http::{HeaderName, HeaderValue, header};
use axum::response::{Html, IntoResponse, Response};
use axum::routing::get;
use fenlo_core::takeoff::LineKind;
use fenlo_drawing::board::board_svg;
use fenlo_store::{OpenShare, Shared};
use fenlo_words as words;

pub fn routes() -> Router<App> {
    Router::new().route("/shared/{token}", get(page)).route("/shared/{token}/plan.svg", get(plan))
}

#[derive(Template)]
#[template(path = "shared.html")]
struct Page {
    name: String,
    place: String,
    token: String,
    quote: Option<Shown>,
    valves: Vec<[String; 4]>,
    parts: Vec<(&'static str, Vec<(String, String)>)>,
}

async fn page(State(app): State<App>, Path(token): Path<String>) -> Result<Response, AppError> {
    let open = opened(&app, &token).await?;
    let quote = match open.what {
        Shared::Quote(id) => {
            let all = app.store.quotes(open.job).await?;
            let kept = all.into_iter().find(|q| q.id == id).ok_or(AppError::NotFound)?;
            Some(shown(&kept.quote))
        }
        Shared::Plan => None,
    };
    let known = app.job(open.job).await?;
    let html = compute(move || {
        let job = known.job();
        let crew = quote.is_none();
        let valves = job.valves.iter().map(|v| {
            let zone = known.assessment.zone(&v.id).and_then(|z| z.zone.as_ref().ok());
            [
                job.valve_number(&v.id).to_string(),
                v.name.clone(),
                zone.map_or_else(|| "–".into(), |z| z.flow.show(job.units)),
                job.groups.iter().map(|g| g.heads_on(Some(&v.id)).len()).sum::<usize>().to_string(),
            ]
        });
        let parts = LineKind::ALL.iter().filter(|_| crew).map(|kind| {
            let lines = known.taken().section(*kind);
            let lines = lines.map(|l| (words::bought(l, job.units), words::part_name(l, job)));
            (words::section(*kind), lines.collect::<Vec<_>>())
        });
        Page {
            name: job.name.clone(),
            place: job.location.clone(),
            token,
            valves: valves.collect(),
            parts: parts.filter(|p| !p.1.is_empty()).collect(),
            quote,
        }
        .render()
    })
    .await??;
    Ok(secret(Html(html).into_response()))
}

/// Where a token leads. It has 64 letters and digits: of anything else no database is asked.
async fn opened(app: &App, token: &str) -> Result<OpenShare, AppError> {
    if token.len() != 64 || !token.bytes().all(|b| b.is_ascii_hexdigit()) {
        return Err(AppError::NotFound);
    }
    Ok(app.database.shared(token).await?)
}

/// The drawing on it.
async fn plan(State(app): State<App>, Path(token): Path<String>) -> Result<Response, AppError> {
    let open = opened(&app, &token).await?;
    let known = app.job(open.job).await?;
    let svg = compute(move || board_svg(known.job(), &known.assessment)).await?;
    let kind = [(header::CONTENT_TYPE, "image/svg+xml")];
    Ok(secret((kind, svg).into_response()))
}

/// The address is the secret: it is kept in no cache, index or referrer.
fn secret(mut response: Response) -> Response {
    for (name, value) in [
        (header::CACHE_CONTROL, "no-store"),
        (HeaderName::from_static("x-robots-tag"), "noindex"),
        (header::REFERRER_POLICY, "no-referrer"),
    ] {
        response.headers_mut().insert(name, HeaderValue::from_static(value));
    }
    response
}
