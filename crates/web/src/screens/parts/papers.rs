//! Documents, made by a helper process of their own.

use crate::app::App;
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::papers::{Ask, Helper, NoPaper, make};
use crate::screens::quote::picked;
use crate::uploads::give;
use axum::Router;
use axum::body::Bytes;
use axum::extract::{Path, Query, State};
use axum::http::header;
use axum::response::{Html, Response};
use axum::routing::get;
use fenlo_core::pricing::{Quote, baskets, side_by_side, to_order};
use fenlo_core::progress::Progress;
use fenlo_store::KeptQuote;
use serde::Deserialize;
use serde_json::{Value, json};
use std::sync::Arc;
use std::time::Duration;

pub fn routes() -> Router<App> {
    Router::new().route("/papers", get(state)).route("/papers/{file}", get(answer))
}

#[derive(Deserialize)]
pub struct Wish {
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
    fn lang(&self) -> Result<&'static str, AppError> {
        match self.lang.as_str() {
            "" | "en" => Ok("en"),
            "es" => Ok("es"),
            _ => Err(AppError::Bad("documents are in English (en) or Spanish (es)".into())),
        }
    }
    fn paper(&self, metric: bool) -> Result<&'static str, AppError> {
        match self.paper.as_str() {
            "" if metric => Ok("a4"),
            "" => Ok("letter"),
            wished => {
                let known = ["letter", "a4", "a3", "a1"].into_iter().find(|k| *k == wished);
                known.ok_or_else(|| AppError::Bad("paper is letter, a4, a3 or a1".into()))
            }
        }
    }
}

/// Whether documents can be made yet.
async fn state(Path(job): Path<i64>) -> Html<String> {
    Html(match Helper::find() {
        Some(_) => format!(r#"<span id="papers-ready" data-job="{job}" class="pill ok">ready</span>"#),
        None => format!(
            r#"<span id="papers-ready" class="soft" hx-get="/jobs/{job}/papers" hx-trigger="every 5s"
              hx-swap="outerHTML">preparing; takes a few minutes after the first start</span>"#
        ),
    })
}

/// As long as an answer may take that shows nothing meanwhile.
const SOON: Duration = Duration::from_secs(18);

/// Documents by their name in addresses.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Kind {
    Packet,
    Plan,
    Order,
    Quote,
}

impl Kind {
    fn name(self) -> &'static str {
        match self {
            Self::Packet => "packet",
            Self::Plan => "plan",
            Self::Order => "order",
            Self::Quote => "quote",
        }
    }

    /// As somebody calls it who waits for it.
    pub fn title(self) -> &'static str {
        match self {
            Self::Packet => "Crew packet",
            Self::Plan => "Plan sheets",
            Self::Order => "Purchase orders",
            Self::Quote => "Quote",
        }
    }
}

/// All that a document is made of.
pub struct Order {
    pub kind: Kind,
    lang: &'static str,
    paper: &'static str,
    known: Arc<Assessed>,
    more: Value,
}

impl Order {
    /// As it is wished for.
    pub async fn of(app: &App, job: i64, kind: Kind, wish: &Wish) -> Result<Self, AppError> {
        let known = app.job(job).await?;
        Ok(Self {
            kind,
            lang: wish.lang()?,
            paper: wish.paper(known.job().units.is_metric())?,
            more: match kind {
                Kind::Packet | Kind::Plan => Value::Null,
                Kind::Order => ordered(app, &known).await?,
                Kind::Quote => quoted(app, job, wish).await?,
            },
            known,
        })
    }

    /// Made by the helper.
    pub async fn made(&self, progress: &Progress) -> Result<Vec<u8>, NoPaper> {
        let ask = Ask {
            kind: self.kind.name(),
            lang: self.lang,
            paper: self.paper,
            job: self.known.job().plan(),
            more: self.more.clone(),
        };
        make(&ask, progress).await
    }

    /// As a file.
    pub fn file(&self, pdf: Bytes) -> Response {
        let name = format!("{} {}", self.known.job().name, self.kind.name());
        let mut response = give(&name, "pdf", "application/pdf", pdf);
        let fresh = header::HeaderValue::from_static("no-store");
        response.headers_mut().insert(header::CACHE_CONTROL, fresh);
        response
    }
}

/// A document, as soon as it is made.
async fn answer(
    State(app): State<App>,
    Path((job, file)): Path<(i64, String)>,
    Query(wish): Query<Wish>,
) -> Result<Response, AppError> {
    let kind = [Kind::Packet, Kind::Plan, Kind::Order, Kind::Quote]
        .into_iter()
        .find(|k| file.strip_suffix(".pdf") == Some(k.name()));
    let order = Order::of(&app, job, kind.ok_or(AppError::NotFound)?, &wish).await?;
    let pdf =
        tokio::time::timeout(SOON, order.made(&Progress::default())).await.unwrap_or(Err(NoPaper::TooLong));
    Ok(order.file(pdf.map_err(|e| AppError::Bad(e.to_string()))?.into()))
}

/// What is ordered, by supplier.
async fn ordered(app: &App, known: &Arc<Assessed>) -> Result<Value, AppError> {
    let book = super::book_of(app, known).await?;
    let mut found = super::priced(known, &book);
    // What was taken from the company's stock is not ordered.
    found.lines = to_order(&found.lines, &app.store.goods(known.open.id).await?);
    let ways = baskets(&book, &found.lines);
    let line = |i: usize| {
        let l = &found.lines[i];
        let key = fenlo_core::pricing::part_key(&l.part, l.piece);
        (book.number_of(&key).to_owned(), l.label.clone(), l.size.clone(), l.piece.map(|p| p.m()))
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
    Ok(json!({"currency": book.currency, "bags": bags, "unpriced": unpriced, "total": ways.best.total}))
}

/// A version of the quote, as the customer gets it.
async fn quoted(app: &App, job: i64, wish: &Wish) -> Result<Value, AppError> {
    let all = app.store.quotes(job).await?;
    if !wish.versions.is_empty() {
        let kept = picked(all, &wish.versions)?;
        let quotes: Vec<&Quote> = kept.iter().map(|k| &k.quote).collect();
        side_by_side(&quotes).map_err(|fault| AppError::Bad(fault.to_string()))?;
        let option = |k: &KeptQuote| json!({"quote": k.quote, "version": k.version, "note": k.note});
        return Ok(json!({"options": kept.iter().map(option).collect::<Vec<_>>()}));
    }
    let wanted = match wish.version {
        Some(v) => all.into_iter().find(|q| q.version == v),
        None => all.into_iter().next(),
    };
    let kept = wanted.ok_or(AppError::NotFound)?;
    Ok(json!({"quote": kept.quote, "version": kept.version, "note": kept.note}))
}
