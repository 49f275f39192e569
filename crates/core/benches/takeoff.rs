//! The list of parts, the basket and the quote. `cargo bench --bench takeoff`

use criterion::{Criterion, criterion_group, criterion_main};
use fenlo_core::assess::assess;
use fenlo_core::job::Job;
use fenlo_core::plan::Plan;
use fenlo_core::pricing::{Price, PriceBook, SectionBy, baskets, part_key, quote};
use fenlo_core::takeoff::{cut_sticks, takeoff};
use fenlo_core::units::Length;
use rust_decimal::Decimal;
use std::hint::black_box;

/// As the program has it.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn demo(name: &str) -> Job {
    let path = format!("{}/../web/demo/{name}.json", env!("CARGO_MANIFEST_DIR"));
    let text = std::fs::read_to_string(path).expect("the demo job is there");
    Job::new(serde_json::from_str::<Plan>(&text).expect("a sound job"))
}

/// Every part at three suppliers.
fn book(job: &Job) -> PriceBook {
    let lines = takeoff(job, &assess(job)).lines;
    let prices = lines.iter().enumerate().flat_map(|(i, line)| {
        ["East", "North", "South"].into_iter().enumerate().map(move |(s, name)| Price {
            number: part_key(&line.part, line.piece),
            text: line.text(),
            supplier: name.into(),
            price: Decimal::new(100 + ((i * 37 + s * 53) % 400) as i64, 2),
            pack: 1,
            minimum: 1,
            dated: None,
        })
    });
    PriceBook { currency: "USD".into(), prices: prices.collect(), ..PriceBook::default() }
}

fn parts(c: &mut Criterion) {
    for name in ["corner-plot", "veterinary-clinic"] {
        let job = demo(name);
        let known = assess(&job);
        c.bench_function(&format!("takeoff of the {name}"), |b| {
            b.iter(|| takeoff(black_box(&job), &known));
        });
        let (taken, book) = (takeoff(&job, &known), book(&job));
        c.bench_function(&format!("cheapest baskets of the {name}"), |b| {
            b.iter(|| baskets(black_box(&book), &taken.lines));
        });
        let on = "2026-05-01".parse().expect("a day");
        c.bench_function(&format!("quote of the {name}"), |b| {
            b.iter(|| quote(black_box(&job), &taken, &book, on, SectionBy::Zone));
        });
    }
    let pieces: Vec<Length> =
        (0..400).map(|i| Length::from_ft(1.0 + f64::from(i * 7919 % 1900) / 100.0)).collect();
    c.bench_function("400 pieces cut from sticks", |b| {
        b.iter(|| cut_sticks(black_box(&pieces), Length::from_ft(20.0)));
    });
}

criterion_group!(benches, parts);
criterion_main!(benches);
