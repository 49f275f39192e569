//! Price books, quotes and links on a real PostgreSQL: each test in a database of its own.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod common;

use common::{database, store};
use fenlo_core::assess::assess;
use fenlo_core::job::Job;
use fenlo_core::plan::{Date, Plan};
use fenlo_core::pricing::{Price, PriceBook, Quote, SectionBy, Supplier, quote};
use fenlo_core::takeoff::takeoff;
use fenlo_core::units::UnitSystem;
use fenlo_store::{Shared, StoreError, THIS_COMPANY, Taking};
use rust_decimal::Decimal;
use sqlx::PgPool;
use std::collections::HashMap;

fn d(text: &str) -> Decimal {
    text.parse().unwrap()
}
fn price(number: &str, supplier: &str, sum: &str) -> Price {
    Price {
        number: number.into(),
        text: format!("Tee of {number}"),
        supplier: supplier.into(),
        price: d(sum),
        pack: 1,
        minimum: 1,
        dated: "2026-03-01".parse().ok(),
    }
}
fn book(currency: &str, prices: Vec<Price>) -> PriceBook {
    let mut names: Vec<String> = prices.iter().map(|p| p.supplier.clone()).collect();
    names.sort();
    names.dedup();
    let supplier = |name: String| Supplier { name, carriage: d("12.50"), free_from: Some(d("150")) };
    PriceBook {
        currency: currency.into(),
        suppliers: names.into_iter().map(supplier).collect(),
        prices,
        numbers: HashMap::new(),
    }
}
fn made() -> Quote {
    let job = Job::new(Plan::new("Quoted", UnitSystem::Us));
    let day: Date = "2026-05-01".parse().unwrap();
    quote(&job, &takeoff(&job, &assess(&job)), &PriceBook::default(), day, SectionBy::Work)
}

#[sqlx::test(migrations = false)]
async fn a_book_is_kept_found_and_given_back_exactly(pool: PgPool) {
    let store = store(&pool).await;
    let mut first = book("USD", vec![price("A1", "North", "0.3125"), price("A1", "South", "1234.5")]);
    first.numbers.insert("glued-tee-1in".into(), "A1".into());
    store.take_prices(&first, Taking::Beside).await.unwrap();
    assert_eq!(store.all_prices().await.unwrap(), first);
    let known = store.prices_of(&["glued-tee-1in".into()]).await.unwrap();
    assert_eq!(known.prices.len(), 2);
    assert_eq!(known.number_of("glued-tee-1in"), "A1");
    for (search, found) in [("tee sou", 1), ("a1", 2), ("elbow", 0), ("", 2), ("';--", 2), ("tee & !", 2)] {
        assert_eq!(store.search_prices(search, 0, 50).await.unwrap().total, found, "{search}");
    }
}

#[sqlx::test(migrations = false)]
async fn a_number_is_found_by_its_letters_and_digits_whatever_parts_them(pool: PgPool) {
    let store = store(&pool).await;
    let numbers = ["K-77", "12.5-AB", "1/2in", "Ø32_x"];
    let prices = numbers.iter().map(|n| price(n, "North", "1")).collect();
    store.take_prices(&book("USD", prices), Taking::Beside).await.unwrap();
    for search in ["K-77", "k77", "k 77", "77", "12.5", "12.5-ab", "1/2", "1/2in", "ø32"] {
        let found = store.search_prices(search, 0, 50).await.unwrap();
        let wanted = if search == "k77" { 0 } else { 1 };
        assert_eq!(found.total, wanted, "{search}");
    }
}

#[sqlx::test(migrations = false)]
async fn a_new_book_stands_beside_the_old_one_or_in_its_place(pool: PgPool) {
    let store = store(&pool).await;
    let first =
        book("USD", vec![price("A", "North", "1"), price("B", "North", "2"), price("A", "South", "3")]);
    store.take_prices(&first, Taking::Beside).await.unwrap();
    let next = book("USD", vec![price("A", "North", "1.10")]);
    store.take_prices(&next, Taking::Beside).await.unwrap();
    assert_eq!(store.all_prices().await.unwrap().prices.len(), 3);
    store.take_prices(&next, Taking::InPlaceOfTheirs).await.unwrap();
    let left = store.all_prices().await.unwrap().prices;
    assert_eq!(left.len(), 2, "North has one price now, South is untouched");
    assert!(left.iter().any(|p| p.supplier == "North" && p.price == d("1.1")));
    let other = book("EUR", vec![price("A", "North", "9")]);
    let refused = store.take_prices(&other, Taking::Beside).await;
    assert!(matches!(refused, Err(StoreError::Currency(c)) if c == "USD"));
    assert_eq!(store.all_prices().await.unwrap().prices, left, "nothing is half taken over");
}

#[sqlx::test(migrations = false)]
async fn own_numbers_are_said_once_and_taken_back(pool: PgPool) {
    let store = store(&pool).await;
    store.number_part("valve-1in", "V7").await.unwrap();
    store.number_part("valve-1in", "V8").await.unwrap();
    let known = store.prices_of(&["valve-1in".into()]).await.unwrap();
    assert_eq!(known.number_of("valve-1in"), "V8");
    store.number_part("valve-1in", "").await.unwrap();
    let known = store.prices_of(&["valve-1in".into()]).await.unwrap();
    assert_eq!(known.number_of("valve-1in"), "valve-1in");
}

#[sqlx::test(migrations = false)]
async fn quotes_are_versions_that_stay_what_they_were(pool: PgPool) {
    let store = store(&pool).await;
    let job = store.create(&Plan::new("Quoted", UnitSystem::Us)).await.unwrap();
    let quote = made();
    assert_eq!(store.keep_quote(job, 0, &quote, "first", None).await.unwrap(), 1);
    let dearer = Quote { total: quote.total + d("10.05"), ..quote.clone() };
    assert_eq!(store.keep_quote(job, 3, &dearer, "", None).await.unwrap(), 2);
    let all = store.quotes(job).await.unwrap();
    assert_eq!(all.iter().map(|q| q.version).collect::<Vec<_>>(), [2, 1]);
    assert_eq!(all[1].quote, quote, "to the last digit");
    store.accept_quote(job, 1).await.unwrap();
    let day = store.quotes(job).await.unwrap()[1].accepted.clone();
    assert!(day.is_some());
    assert!(matches!(store.accept_quote(job, 7).await, Err(StoreError::NotFound)));
    // Another company sees none of it.
    let other = database(&pool).await.scope(99);
    assert!(other.quotes(job).await.unwrap().is_empty());
    assert!(matches!(other.keep_quote(job, 0, &quote, "", None).await, Err(StoreError::NotFound)));
}

#[sqlx::test(migrations = false)]
async fn a_link_works_until_it_is_ended_or_its_day_is_over_and_its_token_is_kept_nowhere(pool: PgPool) {
    let database = database(&pool).await;
    let store = database.scope(THIS_COMPANY);
    let job = store.create(&Plan::new("Shared", UnitSystem::Us)).await.unwrap();
    let far: Date = "2199-01-01".parse().unwrap();
    let token = store.share(job, Shared::Plan, far, None).await.unwrap();
    assert_eq!(token.len(), 64);
    let other = store.share(job, Shared::Plan, far, None).await.unwrap();
    assert_ne!(token, other);
    assert_eq!(database.shared(&token).await.unwrap().job, job);
    let (kept,): (i64,) = sqlx::query_as(
        "select count(*) from shares where encode(hash, 'hex') = $1 or encode(hash, 'escape') = $1",
    )
    .bind(&token)
    .fetch_one(&pool)
    .await
    .unwrap();
    assert_eq!(kept, 0, "only its hash");
    let name = store.shares(job).await.unwrap()[1].name.clone();
    store.end_share(job, &name).await.unwrap();
    assert!(matches!(database.shared(&token).await, Err(StoreError::NotFound)));
    assert!(database.shared(&other).await.is_ok());
    let past = store.share(job, Shared::Plan, "2020-01-01".parse().unwrap(), None).await.unwrap();
    assert!(matches!(database.shared(&past).await, Err(StoreError::NotFound)));
    // One wish sent twice is one link; another day, or a key that could be guessed, another.
    let key = "0123456789abcdef0123456789abcdef";
    let links = store.shares(job).await.unwrap().len();
    let once = store.share(job, Shared::Plan, far, Some(key)).await.unwrap();
    let twice = store.share(job, Shared::Plan, far, Some(key)).await.unwrap();
    assert_eq!((&once, store.shares(job).await.unwrap().len()), (&twice, links + 1));
    assert_eq!((once.len(), database.shared(&once).await.unwrap().job), (64, job));
    let near: Date = "2198-01-01".parse().unwrap();
    assert_ne!(store.share(job, Shared::Plan, near, Some(key)).await.unwrap(), once);
    let weak = [
        store.share(job, Shared::Plan, far, Some("k-1")).await.unwrap(),
        store.share(job, Shared::Plan, far, Some("k-1")).await.unwrap(),
    ];
    assert_ne!(weak[0], weak[1]);
    // A quote of another job can't be shown through this one.
    assert!(store.share(job, Shared::Quote(1), far, None).await.is_err());
}
