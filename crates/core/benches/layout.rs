//! How long the water on the ground and a proposal take. See docs/PERFORMANCE.md.

#![allow(clippy::print_stdout, reason = "a single timing has no report of its own")]
#![allow(clippy::unwrap_used, reason = "a benchmark that can't go on fails")]

use criterion::{Criterion, criterion_group, criterion_main};
use fenlo_core::catalogue::Kind;
use fenlo_core::coverage::{
    Pattern, Profile, REPETITIONS, SolvedHeads, Throw, WHILE_MOVING, coverage, expected, sources,
};
use fenlo_core::job::Job;
use fenlo_core::layout::{advise, propose};
use fenlo_core::plan::{DrawnHead, HeadGroup, Plan};
use fenlo_core::progress::Progress;
use fenlo_core::site::{Area, ObjectKind, Outline, Point, Shape, SiteObject};
use fenlo_core::units::{Flow, UnitSystem};
use std::hint::black_box;
use std::time::Duration;

/// As the program has it.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

const FT: f64 = 0.3048;

fn rect(x: f64, y: f64, w: f64, h: f64) -> Shape {
    Shape::plain(Outline::straight(&[
        Point::new(x, y),
        Point::new(x + w, y),
        Point::new(x + w, y + h),
        Point::new(x, y + h),
    ]))
}

fn plan_of(shapes: Vec<Shape>) -> Plan {
    let mut plan = Plan::new("bench", UnitSystem::Us);
    let area = |(i, shape)| SiteObject {
        id: format!("a{i}"),
        name: String::new(),
        what: ObjectKind::Area(Area { shape, ..Area::default() }),
    };
    plan.site.objects = shapes.into_iter().enumerate().map(area).collect();
    plan
}

/// 316 ft square: 100,000 cells of 1 ft; 500 heads of 15 ft.
fn map(c: &mut Criterion) {
    let plan = plan_of(vec![rect(0.0, 0.0, 316.0 * FT, 316.0 * FT)]);
    let throw = |i: usize| Throw {
        at: Point::new((i % 25) as f64 * 13.0 * FT + 2.0, (i / 25) as f64 * 15.5 * FT + 2.0),
        facing: (i * 37 % 360) as f64,
        reach: 15.0 * FT,
        pattern: Pattern::Sector([90.0, 180.0, 270.0, 360.0][i % 4]),
        profile: Profile::Falling,
        hollow: 0.0,
        fog: 0.0,
        streaks: [0.0; 4],
        flow: Flow::from_gpm(2.0),
    };
    let throws: Vec<Throw> = (0..500).map(throw).collect();
    let cells = coverage(&plan, "a0", &throws, None).unwrap().inside().iter().filter(|i| **i).count();
    assert!(cells >= 99_000, "{cells} cells");
    c.bench_function("coverage/100k cells, 500 heads", |b| {
        b.iter(|| coverage(black_box(&plan), "a0", &throws, None))
    });
}

/// The same ground and as many heads, as an audit would find them: 30 repetitions, and the few that must
/// do while a hand moves.
fn audits(c: &mut Criterion) {
    let mut plan = plan_of(vec![rect(0.0, 0.0, 316.0 * FT, 316.0 * FT)]);
    let mut group = HeadGroup::new("g1", "Lawn", "spray-15");
    group.area = Some("a0".into());
    group.drawn = (0..500)
        .map(|i| DrawnHead {
            id: format!("h{i}"),
            at: Point::new((i % 25) as f64 * 13.0 * FT + 2.0, (i / 25) as f64 * 15.5 * FT + 2.0),
            arc: [90, 180, 270, 360][i % 4],
            facing: (i * 37 % 360) as f64,
            radius: None,
            valve: None,
            locked: false,
        })
        .collect();
    plan.groups.push(group);
    let job = Job::of(&plan);
    let sources = sources(&job, &SolvedHeads::default(), "a0");
    let mut g = c.benchmark_group("expected, 100k cells, 500 heads");
    g.sample_size(10);
    for n in [REPETITIONS, WHILE_MOVING] {
        g.bench_function(format!("{n} repetitions"), |b| {
            b.iter(|| expected(black_box(&plan), "a0", &sources, n))
        });
    }
    g.finish();
}

/// The sprinkler that suits, area by area.
fn site(plan: &Plan) -> usize {
    let kind =
        |area: &str| advise(plan, area).map(|a| a.kind).filter(|k| !k.is_drip() && *k != Kind::Bubbler);
    let areas: Vec<String> = plan.site.areas().map(|(t, _)| t.id.clone()).collect();
    areas
        .iter()
        .filter_map(|a| propose(&Job::of(plan), a, kind(a)?, &Progress::default()).ok())
        .map(|p| p.heads.len())
        .sum()
}

fn proposals(c: &mut Criterion) {
    let mut g = c.benchmark_group("propose");
    g.sample_size(10).measurement_time(Duration::from_secs(10));
    for (name, text) in [
        ("house, 6 areas", include_str!("../../../fixtures/corner-plot.json")),
        ("clinic, 18 areas", include_str!("../../../fixtures/veterinary-clinic.json")),
    ] {
        let plan: Plan = serde_json::from_str(text).unwrap();
        g.bench_function(name, |b| b.iter(|| site(black_box(&plan))));
    }
    g.finish();
    // Ten acres of lawn in one piece, laid with sprays of 17 ft: about 1,600 heads. Too long to be run
    // ten times over: timed once.
    let park = plan_of(vec![rect(0.0, 0.0, 660.0 * FT, 660.0 * FT)]);
    let start = std::time::Instant::now();
    let p = propose(&Job::of(&park), "a0", Kind::Spray, &Progress::default()).unwrap();
    println!(
        "propose/park, 10 acres: {} heads, DU {:.2}, {:.1?}",
        p.heads.len(),
        p.score.du,
        start.elapsed()
    );
}

criterion_group!(benches, map, audits, proposals);
criterion_main!(benches);
