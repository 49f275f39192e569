//! Documents, made by a helper process of their own.

use crate::app::App;
use crate::error::AppError;
use crate::papers::{Ask, Helper, make};
use crate::screens::quote::picked;
use crate::uploads::give;
use axum::Router;
use axum::extract::{Path, Query, State};
use axum::http::header;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::get;
use fenlo_core::pricing::{Quote, baskets, side_by_side, to_order};
use fenlo_store::KeptQuote;
use serde::Deserialize;
use serde_json::{Value, json};

pub fn routes() -> Router<App> {
    Router::new()
        .route("/papers", get(state))
        .route("/papers/packet.pdf", get(packet))
        .route("/papers/plan.pdf", get(plan))
        .route("/papers/order.pdf", get(order))
        .route("/papers/quote.pdf", get(quote))
}

#[derive(Deserialize)]
struct Wish {
    #[serde(default)]
    lang: String,
    #[serde(default)]
    paper: String,
    version: Option<i32>,
    /// Versions that are offered side by side, `1,3`.
    #[serde(default)]
    versions: String,
}

impl Wish {
    /// English and Letter where nothing else is wished; what is unknown is refused.
    fn lang(&self) -> Result<&str, AppError> {
        match self.lang.as_str() {
            "" | "en" => Ok("en"),
            "es" => Ok("es"),
            _ => Err(AppError::Bad(
                "documents are in English (en) or Spanish (es)".into(),
            )),
        }
    }
    fn paper(&self, metric: bool) -> Result<&str, AppError> {
        match self.paper.as_str() {
            "" if metric => Ok("a4"),
            "" => Ok("letter"),
            known @ ("letter" | "a4" | "a3" | "a1") => Ok(known),
            _ => Err(AppError::Bad("paper is letter, a4, a3 or a1".into())),
        }
    }
}

/// Whether documents can be made yet.
async fn state(Path(job): Path<i64>) -> Html<String> {
    Html(match Helper::find() {
        Some(_) => format!(r#"<span id="papers-ready" data-job="{job}" class="pill ok">ready</span>"#),
        None => format!(
            r#"<span id="papers-ready" class="soft" hx-get="/jobs/{job}/papers" hx-trigger="every 5s"
              hx-swap="outerHTML">being made ready: this takes some minutes after the first start</span>"#
        ),
    })
}

async fn answer(app: &App, job: i64, wish: &Wish, kind: &str, more: Value) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let ask = Ask {
        kind,
        lang: wish.lang()?,
        paper: wish.paper(known.job().units.is_metric())?,
        job: known.job().plan(),
        more,
    };
    let pdf = make(&ask).await.map_err(|e| AppError::Bad(e.to_string()))?;
    let name = format!("{} {kind}", known.job().name);
    let mut response = give(&name, "pdf", "application/pdf", pdf);
    response.headers_mut().insert(
        header::CACHE_CONTROL,
        header::HeaderValue::from_static("no-store"),
    );
    Ok(response.into_response())
}

async fn packet(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(wish): Query<Wish>,
) -> Result<Response, AppError> {
    answer(&app, job, &wish, "packet", Value::Null).await
}

async fn plan(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(wish): Query<Wish>,
) -> Result<Response, AppError> {
    answer(&app, job, &wish, "plan", Value::Null).await
}

/// What is ordered, by supplier.
async fn order(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(wish): Query<Wish>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let book = super::book_of(&app, &known).await?;
    let mut found = super::priced(&known, &book);
    // What was taken from the company's stock is not ordered.
    found.lines = to_order(&found.lines, &app.store.goods(job).await?);
    let ways = baskets(&book, &found.lines);
    let line = |i: usize| {
        let l = &found.lines[i];
        let key = fenlo_core::pricing::part_key(&l.part, l.piece);
        (
            book.number_of(&key).to_owned(),
            l.label.clone(),
            l.size.clone(),
            l.piece.map(|p| p.m()),
        )
    };
    let bags: Vec<Value> = ways
        .best
        .bags
        .iter()
        .map(|bag| {
            json!({
                "supplier": bag.supplier,
                "goods": bag.goods,
                "carriage": bag.carriage,
                "lines": bag.lines.iter().map(|(i, n, sum)| {
                    let (number, label, size, piece) = line(*i);
                    json!({"number": number, "label": label, "size": size, "piece_m": piece, "quantity": n, "sum": sum})
                }).collect::<Vec<_>>(),
            })
        })
        .collect();
    let unpriced: Vec<Value> = ways
        .unpriced
        .iter()
        .map(|i| {
            let (number, label, size, piece) = line(*i);
            let n = found.lines[*i].quantity;
            json!({"number": number, "label": label, "size": size, "piece_m": piece, "quantity": n})
        })
        .collect();
    let more =
        json!({"currency": book.currency, "bags": bags, "unpriced": unpriced, "total": ways.best.total});
    answer(&app, job, &wish, "order", more).await
}

/// A version of the quote, as the customer gets it.
async fn quote(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(wish): Query<Wish>,
) -> Result<Response, AppError> {
    let all = app.store.quotes(job).await?;
    if !wish.versions.is_empty() {
        let kept = picked(all, &wish.versions)?;
        let quotes: Vec<&Quote> = kept.iter().map(|k| &k.quote).collect();
        side_by_side(&quotes).map_err(|fault| AppError::Bad(fault.to_string()))?;
        let option = |k: &KeptQuote| json!({"quote": k.quote, "version": k.version, "note": k.note});
        let more = json!({"options": kept.iter().map(option).collect::<Vec<_>>()});
        return answer(&app, job, &wish, "quote", more).await;
    }
    let wanted = match wish.version {
        Some(v) => all.into_iter().find(|q| q.version == v),
        None => all.into_iter().next(),
    };
    let kept = wanted.ok_or(AppError::NotFound)?;
    let more = json!({"quote": kept.quote, "version": kept.version, "note": kept.note});
    answer(&app, job, &wish, "quote", more).await
}
