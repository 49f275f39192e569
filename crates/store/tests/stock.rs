//! Deliveries and the company's stock on a real PostgreSQL: each test in a database of its own.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

mod common;

use common::store;
use fenlo_core::plan::Plan;
use fenlo_core::units::UnitSystem;
use fenlo_store::StoreError;
use rust_decimal::Decimal;
use sqlx::PgPool;

fn d(n: i64) -> Decimal {
    Decimal::from(n)
}

#[sqlx::test(migrations = false)]
async fn parts_go_from_job_to_stock_and_to_the_next_job_and_none_is_lost_or_doubled(pool: PgPool) {
    let store = store(&pool).await;
    let job = async || store.create(&Plan::new("Job", UnitSystem::Us)).await.unwrap();
    let (first, second) = (job().await, job().await);
    assert!(store.goods(first).await.unwrap().is_empty());
    // A pack of 25 has come, 12 are used: the other 13 go into stock, and not twice.
    store.arrived(first, "emitter", d(25)).await.unwrap();
    assert_eq!(store.put_in_stock(first, "emitter", "Emitter 1 gph", d(13)).await.unwrap(), d(13));
    let stock = store.stock().await.unwrap();
    assert_eq!((stock.len(), stock[0].quantity, stock[0].text.as_str()), (1, d(13), "Emitter 1 gph"));
    // No more than the job has: 12 are left.
    assert_eq!(store.put_in_stock(first, "emitter", "Emitter 1 gph", d(1000)).await.unwrap(), d(12));
    assert!(matches!(
        store.put_in_stock(first, "emitter", "Emitter 1 gph", d(1)).await,
        Err(StoreError::NotFound)
    ));
    // The next job takes 20, then asks for 20 more and gets the 5 that there are.
    assert_eq!(store.take_stock(second, "emitter", d(20)).await.unwrap(), d(20));
    assert_eq!(store.take_stock(second, "emitter", d(20)).await.unwrap(), d(5));
    assert!(matches!(store.take_stock(second, "emitter", d(1)).await, Err(StoreError::NotFound)));
    assert!(store.stock().await.unwrap().is_empty());
    let goods = store.goods(second).await.unwrap()["emitter"];
    assert_eq!((goods.from_stock, goods.here()), (d(25), d(25)));
    // Two at once share what there is.
    store.arrived(first, "tee", d(10)).await.unwrap();
    store.put_in_stock(first, "tee", "Tee", d(10)).await.unwrap();
    let (a, b) = tokio::join!(store.take_stock(first, "tee", d(7)), store.take_stock(second, "tee", d(7)));
    let taken: Decimal = [a, b].into_iter().filter_map(Result::ok).sum();
    assert_eq!(taken, d(10));
    // Counted anew, taken out; what is not there can't be counted, and a job that is not there gets nothing.
    store.arrived(first, "plug", d(3)).await.unwrap();
    store.put_in_stock(first, "plug", "Plug", d(3)).await.unwrap();
    store.count_stock("plug", d(2)).await.unwrap();
    assert_eq!(store.stock().await.unwrap()[0].quantity, d(2));
    store.count_stock("plug", d(0)).await.unwrap();
    assert!(matches!(store.count_stock("plug", d(1)).await, Err(StoreError::NotFound)));
    assert!(matches!(store.arrived(999_999, "plug", d(1)).await, Err(StoreError::NotFound)));
}
