//! Versions offered side by side.

use super::view::{Shown, shown};
use crate::app::App;
use crate::error::AppError;
use askama::Template;
use axum::extract::{Path, Query, State};
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::pricing::{MOST_OPTIONS, Quote, changes, side_by_side};
use fenlo_core::units::UnitSystem;
use fenlo_store::KeptQuote;
use fenlo_words::{labour, quote_change, quote_section};

/// What differs from the first, so many lines of it.
const MOST_CHANGES: usize = 8;

#[derive(Template)]
#[template(path = "parts/quote_options.html")]
struct Page {
    job: i64,
    columns: Vec<Column>,
    /// Each section with its price in every option.
    sections: Vec<(String, Vec<String>)>,
    /// The versions as they are asked for.
    versions: String,
    tax_rate: Option<String>,
}

struct Column {
    version: i32,
    note: String,
    /// What of labour tells the size of it: heads, valves, trench.
    work: Vec<String>,
    q: Shown,
    over: String,
    cheapest: bool,
    changes: Vec<String>,
    more: usize,
    unpriced: usize,
}

/// The versions of a list like `1,3`, in that order.
pub fn picked(all: Vec<KeptQuote>, list: &str) -> Result<Vec<KeptQuote>, AppError> {
    let wanted: Vec<i32> = list.split(',').filter_map(|v| v.trim().parse().ok()).collect();
    let mut found: Vec<KeptQuote> = Vec::new();
    for version in wanted.into_iter().take(MOST_OPTIONS + 1) {
        let kept = all.iter().find(|k| k.version == version);
        let kept = kept.ok_or_else(|| AppError::Bad(format!("version {version} does not exist")))?;
        if found.iter().all(|f| f.version != version) {
            found.push(kept.clone());
        }
    }
    Ok(found)
}

/// Several fields of one name, as boxes are ticked.
type Ticked = Vec<(String, String)>;

/// The versions that were ticked, the oldest first.
pub async fn options(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(ticked): Query<Ticked>,
) -> Result<Response, AppError> {
    let list: Vec<String> = ticked.into_iter().filter(|p| p.0 == "version").map(|p| p.1).collect();
    let mut kept = picked(app.store.quotes(job).await?, &list.join(","))?;
    kept.sort_by_key(|k| k.version);
    let units = app.job(job).await?.job().units;
    Ok(Html(page(job, units, &kept)?).into_response())
}

fn page(job: i64, units: UnitSystem, kept: &[KeptQuote]) -> Result<String, AppError> {
    let quotes: Vec<&Quote> = kept.iter().map(|k| &k.quote).collect();
    let found = side_by_side(&quotes).map_err(|fault| AppError::Bad(fault.to_string()))?;
    let first = quotes[0];
    let money = |sum| fenlo_words::money(sum, &first.currency);
    let column = |(i, k): (usize, &KeptQuote)| {
        let all = changes(first, &k.quote);
        let counts = ["head", "valve", "trench"];
        Column {
            version: k.version,
            note: k.note.clone(),
            work: k
                .quote
                .labour
                .iter()
                .filter(|l| counts.contains(&l.unit.as_str()))
                .map(|l| labour(l, units))
                .collect(),
            q: shown(&k.quote),
            over: money(found.over[i]),
            cheapest: i == found.cheapest,
            more: all.len().saturating_sub(MOST_CHANGES),
            changes: all.iter().take(MOST_CHANGES).map(|c| quote_change(c, &first.currency)).collect(),
            unpriced: k.quote.unpriced.len(),
        }
    };
    let versions: Vec<String> = kept.iter().map(|k| k.version.to_string()).collect();
    let rate = shown(first).tax_rate;
    Ok(Page {
        job,
        columns: kept.iter().enumerate().map(column).collect(),
        sections: found
            .sections
            .iter()
            .map(|(section, prices)| {
                let cell = |p: &Option<rust_decimal::Decimal>| p.map_or_else(|| "–".to_owned(), money);
                (quote_section(section), prices.iter().map(cell).collect())
            })
            .collect(),
        versions: versions.join(","),
        tax_rate: quotes.iter().all(|q| q.tax_rate == first.tax_rate).then_some(rate),
    }
    .render()?)
}
