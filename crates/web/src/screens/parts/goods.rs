//! Deliveries ticked off against the list, parts out of the company's stock and back into it.

use super::money::{book_of, priced};
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::Fields;
use crate::submit::Sent;
use askama::Template;
use axum::Router;
use axum::extract::{Path, State};
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use fenlo_core::pricing::{Delivery, PriceBook, deliveries};
use fenlo_core::takeoff::Line;
use fenlo_store::{MOST_OF_ONE, StoreError};
use fenlo_words::{counted, part_name, quantity};
use rust_decimal::Decimal;
use std::collections::HashMap;
use std::sync::Arc;

/// Told to the page where what is ordered may have changed.
const CHANGED: [(&str, &str); 1] = [("hx-trigger", "goods-changed")];

pub fn routes() -> Router<App> {
    Router::new().route("/parts/goods", get(list)).route("/parts/goods", post(change))
}

#[derive(Template)]
#[template(path = "parts/goods.html")]
struct List {
    job: i64,
    said: String,
    rows: Vec<Row>,
    /// The stock has something of what is missing.
    offered: usize,
    fault: String,
}

struct Row {
    part: String,
    text: String,
    wanted: String,
    arrived: String,
    from_stock: String,
    missing: String,
    in_stock: String,
    left_over: String,
    to_stock: String,
    complete: bool,
}

fn row(d: &Delivery, known: &Assessed, lines: &[Line]) -> Row {
    let some = |n: Decimal| if n.is_zero() { String::new() } else { show(n) };
    Row {
        text: text_of(d, known, lines),
        wanted: show(d.wanted),
        arrived: some(d.goods.arrived),
        from_stock: some(d.goods.from_stock),
        missing: some(d.missing),
        in_stock: some(d.in_stock),
        left_over: some(d.left_over),
        to_stock: some(d.goods.to_stock),
        complete: d.missing.is_zero(),
        part: d.part.clone(),
    }
}

fn show(n: Decimal) -> String {
    quantity(f64::try_from(n).unwrap_or(0.0))
}

/// What a part is called, with the length that it is sold in.
fn text_of(d: &Delivery, known: &Assessed, lines: &[Line]) -> String {
    let Some(line) = d.line.map(|i| &lines[i]) else {
        return d.part.clone();
    };
    let name = part_name(line, known.job());
    match line.piece {
        Some(piece) => format!("{name}, {}", piece.show(known.job().units)),
        None => name,
    }
}

/// A job's list beside what has come of it.
struct Found {
    known: Arc<Assessed>,
    lines: Vec<Line>,
    deliveries: Vec<Delivery>,
}

async fn found(app: &App, job: i64) -> Result<Found, AppError> {
    let known = app.job(job).await?;
    let book: PriceBook = book_of(app, &known).await?;
    let goods = app.store.goods(job).await?;
    let stock = app.store.stock().await?;
    let stock: HashMap<String, Decimal> = stock.into_iter().map(|s| (s.part, s.quantity)).collect();
    compute(move || {
        let lines = priced(&known, &book).lines;
        let deliveries = deliveries(&lines, &goods, &stock);
        Found { known, lines, deliveries }
    })
    .await
}

fn render(found: &Found, fault: String) -> Result<String, AppError> {
    let all = found.deliveries.iter().filter(|d| d.line.is_some());
    let (n, here) = all.fold((0, 0), |(n, here), d| (n + 1, here + usize::from(d.missing.is_zero())));
    Ok(List {
        job: found.known.open.id,
        said: match here {
            _ if n == here && n > 1 => format!("all {n} lines received"),
            _ => format!("{here} of {} received", counted(n, "line")),
        },
        offered: found.deliveries.iter().filter(|d| !d.in_stock.is_zero()).count(),
        rows: (found.deliveries.iter()).map(|d| row(d, &found.known, &found.lines)).collect(),
        fault,
    }
    .render()?)
}

async fn list(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    Ok(Html(render(&found(&app, job).await?, String::new())?).into_response())
}

/// One line: what has come as counted, all of it, from stock, or what is left over into it. No more is moved than is
/// missing or left over, so a form that is sent twice moves nothing twice.
async fn change(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let before = found(&app, job).await?;
    let mut f = Fields::new(pairs, before.known.job().units);
    let part = f.text("part");
    let delivery = before.deliveries.iter().find(|d| d.part == part);
    let delivery = delivery.ok_or_else(|| AppError::Bad("this part is no longer in the list".into()))?;
    let done = match f.get("do") {
        "arrived" => {
            let n = f.price("arrived");
            let sound = n >= Decimal::ZERO && n <= Decimal::from(MOST_OF_ONE);
            if !f.errors.is_empty() || !sound {
                let fault = format!("quantity received of {part}: enter 0 to {MOST_OF_ONE}");
                return Ok(Html(render(&before, fault)?).into_response());
            }
            app.store.arrived(job, &part, n).await
        }
        "all" => {
            let all = delivery.goods.arrived + delivery.missing;
            app.store.arrived(job, &part, all).await
        }
        "take" if !delivery.in_stock.is_zero() => {
            app.store.take_stock(job, &part, delivery.in_stock).await.map(|_| ())
        }
        "keep" if !delivery.left_over.is_zero() => {
            let text = text_of(delivery, &before.known, &before.lines);
            let put = app.store.put_in_stock(job, &part, &text, delivery.left_over).await;
            put.map(|_| ())
        }
        "take" | "keep" => Ok(()),
        _ => return Err(AppError::Bad("choose what to do with this part".into())),
    };
    match done {
        // Somebody else was quicker: the list as it is now says so.
        Ok(()) | Err(StoreError::NotFound) => {}
        Err(e) => return Err(e.into()),
    }
    Ok((CHANGED, Html(render(&found(&app, job).await?, String::new())?)).into_response())
}
