//! The company's price book: searched, taken over from a file, written to one.

mod nozzles;

use super::parts::XLSX;
use super::reading::watching;
use crate::app::{App, compute};
use crate::error::AppError;
use crate::fields::Fields;
use crate::reading::{Ask, Ended};
use crate::uploads::{MOST_FILE, file_of, give};
use askama::Template;
use axum::Router;
use axum::extract::{DefaultBodyLimit, Multipart, Query, State};
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use fenlo_core::pricing::{Kit, Price, PriceBook};
use fenlo_core::units::UnitSystem;
use fenlo_formats::foreign::{Foreign, Told, take_prices};
use fenlo_formats::{MOST_PRICES, prices_workbook, write_prices};
use fenlo_store::{KnownSupplier, MOST_OF_ONE, Stocked, Taking};
use fenlo_words::money;
use rust_decimal::Decimal;
use serde::Deserialize;
use std::sync::{LazyLock, Mutex, PoisonError};
use std::time::{Duration, Instant};

/// Prices on one page.
const EACH: i64 = 50;
/// Books that were looked at and not taken over yet wait so long, and so many.
const WAITS: Duration = Duration::from_secs(1800);
const MOST_WAITING: usize = 8;

pub fn routes() -> Router<App> {
    let file = DefaultBodyLimit::max(MOST_PRICES + 100_000);
    Router::new()
        .route("/prices", get(page))
        .route("/prices/look", post(look).layer(file))
        .route("/prices/take", post(take))
        .route("/prices/put", post(put))
        .route("/prices/remove", post(remove))
        .route("/prices/stock", post(stock))
        .route("/prices/kit", post(kit))
        .route("/prices/nozzles/look", post(nozzles::look).layer(DefaultBodyLimit::max(MOST_FILE)))
        .route("/prices/nozzles/save", post(nozzles::save).layer(DefaultBodyLimit::max(MOST_FILE)))
        .route("/prices/nozzles/remove", post(nozzles::remove))
        .route("/prices/nozzles/truck", post(nozzles::truck))
        .route("/prices/nozzles.csv", get(nozzles::csv))
        .route("/prices.csv", get(csv))
        .route("/prices.xlsx", get(xlsx))
}

#[derive(Deserialize)]
struct Search {
    #[serde(default)]
    search: String,
    #[serde(default)]
    page: i64,
}

#[derive(Template)]
#[template(path = "prices.html")]
struct Page {
    search: String,
    rows: Vec<Row>,
    total: String,
    page: i64,
    more: bool,
    currency: String,
    suppliers: Vec<(String, String, i64)>,
    stock: Vec<Stocked>,
    kits: Vec<Kit>,
    nozzles: String,
}

struct Row {
    number: String,
    text: String,
    supplier: String,
    price: String,
    pack: String,
    dated: String,
}

fn row(p: &Price, currency: &str) -> Row {
    Row {
        number: p.number.clone(),
        text: p.text.clone(),
        supplier: p.supplier.clone(),
        price: fenlo_words::price(p.price, currency),
        pack: match (p.pack, p.minimum) {
            (1, 1) => String::new(),
            (pack, 1) => format!("pack of {pack}"),
            (1, least) => format!("minimum {least}"),
            (pack, least) => format!("pack of {pack}, minimum {least}"),
        },
        dated: p.dated.map_or_else(String::new, |d| d.to_string()),
    }
}

fn terms(s: &KnownSupplier, currency: &str) -> (String, String, i64) {
    let money = |sum| money(sum, currency);
    let carriage = match (s.terms.carriage.is_zero(), s.terms.free_from) {
        (true, _) => "free freight".to_owned(),
        (_, Some(free)) => format!("freight {} below {}", money(s.terms.carriage), money(free)),
        (_, None) => format!("freight {}", money(s.terms.carriage)),
    };
    (s.terms.name.clone(), carriage, s.prices)
}

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    Query(query): Query<Search>,
) -> Result<Response, AppError> {
    let search: String = query.search.chars().filter(|c| !c.is_control()).take(100).collect();
    let page = query.page.clamp(0, 10_000);
    let found = app.store.search_prices(&search, page, EACH).await?;
    let currency = app.store.currency().await?;
    // While somebody types, only the list is shown anew.
    let suppliers =
        if headers.contains_key("hx-request") { Vec::new() } else { app.store.suppliers().await? };
    Ok(Html(
        Page {
            more: (page + 1) * EACH < found.total,
            total: match found.total {
                1000 => "1000 or more".into(),
                n => n.to_string(),
            },
            rows: found.prices.iter().map(|p| row(p, &currency)).collect(),
            suppliers: suppliers.iter().map(|s| terms(s, &currency)).collect(),
            currency,
            stock: app.store.stock().await?,
            kits: app.store.kits().await?,
            nozzles: nozzles::section(&app.store.house_nozzles().await?)?,
            search,
            page,
        }
        .render()?,
    )
    .into_response())
}

/// A book that was looked at: taken over by its key.
struct Waiting {
    key: u64,
    since: Instant,
    book: PriceBook,
}

static WAITING: LazyLock<Mutex<Vec<Waiting>>> = LazyLock::new(Mutex::default);

#[derive(Template)]
#[template(path = "parts/prices_look.html")]
struct Look {
    name: String,
    faults: Vec<Told>,
    key: u64,
    count: usize,
    currency: String,
    suppliers: Vec<(String, usize)>,
    rows: Vec<Row>,
    mapped: usize,
}

/// What a file would bring; nothing is saved.
async fn look(State(app): State<App>, form: Multipart) -> Result<Response, AppError> {
    let sent = file_of(form, "choose a CSV or XLSX price file first").await?;
    let ask = Ask { kind: Foreign::Prices, name: sent.name.clone(), page: 1 };
    let reading =
        app.readings.begin(app.store.company(), ask, sent.file, "/prices", move |handed| async move {
            compute(move || Ok(Ended::Show(looked_at(sent.name, handed)?))).await?
        })?;
    reading.fragment(watching).await
}

fn looked_at(name: String, handed: Result<Vec<u8>, Vec<Told>>) -> Result<String, AppError> {
    let mut look = Look {
        name,
        faults: Vec::new(),
        key: 0,
        count: 0,
        currency: String::new(),
        suppliers: Vec::new(),
        rows: Vec::new(),
        mapped: 0,
    };
    match handed {
        Err(faults) => look.faults = faults,
        Ok(bytes) => {
            let book = take_prices(&bytes).map_err(AppError::Broken)?;
            let of = |name: &str| book.prices.iter().filter(|p| p.supplier == name).count();
            let known = book.suppliers.iter();
            look.suppliers = known.map(|s| (s.name.clone(), of(&s.name))).collect();
            look.count = book.prices.len();
            look.currency.clone_from(&book.currency);
            look.mapped = book.numbers.len();
            look.rows = book.prices.iter().take(8).map(|p| row(p, &book.currency)).collect();
            look.key = wait(book);
        }
    }
    Ok(look.render()?)
}

fn wait(book: PriceBook) -> u64 {
    static NEXT: std::sync::atomic::AtomicU64 = std::sync::atomic::AtomicU64::new(1);
    let key = NEXT.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
    let mut all = WAITING.lock().unwrap_or_else(PoisonError::into_inner);
    all.retain(|w| w.since.elapsed() < WAITS);
    if all.len() >= MOST_WAITING {
        all.remove(0);
    }
    all.push(Waiting { key, since: Instant::now(), book });
    key
}

/// Takes over a book that was looked at.
async fn take(
    State(app): State<App>,
    axum::Form(pairs): axum::Form<Vec<(String, String)>>,
) -> Result<Response, AppError> {
    let fields = Fields::new(pairs, UnitSystem::Us);
    let key: u64 = fields.get("key").parse().unwrap_or(0);
    let taking = match fields.get("how") {
        "place" => Taking::InPlaceOfTheirs,
        _ => Taking::Beside,
    };
    let book = {
        let all = WAITING.lock().unwrap_or_else(PoisonError::into_inner);
        all.iter().find(|w| w.key == key).map(|w| w.book.clone())
    };
    let book = book.ok_or_else(|| AppError::Bad("the preview has expired. Choose the file again".into()))?;
    app.store.take_prices(&book, taking).await?;
    let mut all = WAITING.lock().unwrap_or_else(PoisonError::into_inner);
    all.retain(|w| w.key != key);
    Ok(Redirect::to("/prices").into_response())
}

/// How many of a part are in stock, as somebody counted them; 0 takes it out.
async fn stock(
    State(app): State<App>,
    axum::Form(pairs): axum::Form<Vec<(String, String)>>,
) -> Result<Response, AppError> {
    let mut f = Fields::new(pairs, UnitSystem::Us);
    let (part, quantity) = (f.text("part"), f.price("quantity"));
    if !f.errors.is_empty() || quantity.is_sign_negative() || quantity > Decimal::from(MOST_OF_ONE) {
        return Err(AppError::Bad(format!("enter 0 to {MOST_OF_ONE}")));
    }
    app.store.count_stock(&part, quantity.round_dp(3)).await?;
    Ok(Redirect::to("/prices#stock").into_response())
}

/// A kit as typed, or taken away.
async fn kit(
    State(app): State<App>,
    axum::Form(pairs): axum::Form<Vec<(String, String)>>,
) -> Result<Response, AppError> {
    let f = Fields::new(pairs, UnitSystem::Us);
    if let Some(number) = f.text_if_any("remove") {
        app.store.remove_kit(&number).await?;
        return Ok(Redirect::to("/prices#kit-number").into_response());
    }
    let text: String = f.text("text").chars().take(200).collect();
    let kit =
        Kit::typed(&f.text("number"), &text, f.get("parts")).map_err(|e| AppError::Bad(e.to_string()))?;
    app.store.put_kit(&kit).await?;
    Ok(Redirect::to("/prices#kit-number").into_response())
}

/// One price, new or changed.
async fn put(
    State(app): State<App>,
    axum::Form(pairs): axum::Form<Vec<(String, String)>>,
) -> Result<Response, AppError> {
    let mut f = Fields::new(pairs, UnitSystem::Us);
    let whole = |f: &mut Fields, field: &str| {
        if f.get(field).is_empty() { 1 } else { f.count(field) }
    };
    let price = Price {
        number: f.text("number"),
        text: f.text("text").chars().take(200).collect(),
        supplier: f.text("supplier"),
        price: f.price("price"),
        pack: whole(&mut f, "pack"),
        minimum: whole(&mut f, "minimum"),
        dated: None,
    };
    if let Some((field, message)) = f.errors.first() {
        return Err(AppError::Bad(format!("{field}: {message}")));
    }
    if let Some(fault) = price.fault() {
        return Err(AppError::Bad(fault.to_string()));
    }
    app.store.put_price(price, "").await?;
    Ok(Redirect::to("/prices").into_response())
}

async fn remove(
    State(app): State<App>,
    axum::Form(pairs): axum::Form<Vec<(String, String)>>,
) -> Result<Response, AppError> {
    let f = Fields::new(pairs, UnitSystem::Us);
    app.store.remove_price(f.get("number"), f.get("supplier")).await?;
    Ok(Redirect::to("/prices").into_response())
}

async fn csv(State(app): State<App>) -> Result<Response, AppError> {
    let book = app.store.all_prices().await?;
    compute(move || give("prices", "csv", "text/csv; charset=utf-8", write_prices(&book))).await
}

async fn xlsx(State(app): State<App>) -> Result<Response, AppError> {
    let book = app.store.all_prices().await?;
    compute(move || {
        let bytes = prices_workbook(&book).map_err(AppError::broken)?;
        Ok(give("prices", "xlsx", XLSX, bytes))
    })
    .await?
}
