//! What an edit costs on a real PostgreSQL, in a job of few and of many edits: it must not grow.
//!
//! Wants `DATABASE_URL`; makes a job of its own there and deletes it again. `FENLO_BENCH_EDITS` is the
//! longest log, 100,000 where it is not set (some minutes to write).

#![allow(clippy::unwrap_used, reason = "a benchmark that can't go on stops")]

use criterion::{Criterion, criterion_group, criterion_main};
use fenlo_core::plan::{Edit, Plan, SetJob};
use fenlo_core::units::UnitSystem;
use fenlo_store::{Change, OpenJob, Scope, Store, THIS_COMPANY};
use tokio::runtime::Runtime;

fn rename(open: &OpenJob) -> Change {
    let job = SetJob {
        controller_stations: None,
        name: format!("Edit {}", open.seq + 1),
        location: "There".into(),
        local_code: String::new(),
        units: UnitSystem::Us,
    };
    Change::edit(open.seq, Edit::SetJob(job))
}

async fn grow(store: &Scope, mut open: OpenJob, to: i64) -> OpenJob {
    while open.seq < to {
        open = store.append(open.id, rename(&open), Some(&open)).await.unwrap();
    }
    open
}

fn an_edit(c: &mut Criterion) {
    let Ok(url) = std::env::var("DATABASE_URL") else {
        eprintln!("DATABASE_URL is not set: nothing measured");
        return;
    };
    let most: i64 = std::env::var("FENLO_BENCH_EDITS").ok().and_then(|n| n.parse().ok()).unwrap_or(100_000);
    let runtime = Runtime::new().unwrap();
    let store = runtime.block_on(Store::open(&url)).unwrap().scope(THIS_COMPANY);
    let id = runtime.block_on(store.create(&Plan::new("Benchmark", UnitSystem::Us))).unwrap();
    let mut open = runtime.block_on(store.job(id)).unwrap();
    for edits in [100, 1_000, 10_000, 100_000].into_iter().filter(|n| *n <= most) {
        open = runtime.block_on(grow(&store, open, edits));
        c.bench_function(&format!("edit in a log of {edits}"), |b| {
            b.iter(|| {
                let change = rename(&open);
                open = runtime.block_on(store.append(id, change, Some(&open))).unwrap();
            });
        });
        c.bench_function(&format!("open a job of {edits} edits"), |b| {
            b.iter(|| runtime.block_on(store.job(id)).unwrap());
        });
        c.bench_function(&format!("undo and redo in a log of {edits}"), |b| {
            b.iter(|| {
                runtime.block_on(store.append(id, Change::Undo(None), None)).unwrap();
                open = runtime.block_on(store.append(id, Change::Redo(None), None)).unwrap();
            });
        });
    }
    runtime.block_on(store.delete(id)).unwrap();
}

criterion_group!(benches, an_edit);
criterion_main!(benches);
