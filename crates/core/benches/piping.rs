//! Figures of docs/PERFORMANCE.md: `cargo bench -p fenlo-core --bench piping`.

use criterion::{Criterion, criterion_group, criterion_main};
use fenlo_core::assess::{assess, assess_after};
use fenlo_core::earthwork::Ground;
use fenlo_core::job::Job;
use fenlo_core::piping::{
    Draw, Limits, LoopLeg, Looped, Roads, Scope, Size, SizeLeg, join, least_cost, routes, sizes,
};
use fenlo_core::plan::{DrawnHead, Edit, HeadGroup, PipeLeg, Plan, Reading, ReadingKind};
use fenlo_core::site::{
    Area, DryKind, Form, KeepDry, ObjectKind, PlaceKind, PlaceMark, Point, Shape, SiteObject, rectangle,
};
use fenlo_core::units::{Flow, Length, Pressure, Speed, UnitSystem};
use fenlo_core::zone::Bore;
use fenlo_core::zoning::{self, Scope as Heads};
use std::hint::black_box;

/// As the program has it.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn shape(x: f64, y: f64, w: f64, h: f64) -> Shape {
    let outline = rectangle(Point::new(x, y), 0.0, Length::from_m(w), Length::from_m(h));
    Shape::plain(outline.expect("a rectangle"))
}
fn object(id: String, what: ObjectKind) -> SiteObject {
    SiteObject { id, name: String::new(), what }
}

/// A main round a site, with a box for every other of its legs.
fn ring(zones: usize) -> Looped {
    let n = 2 * zones;
    let leg = |i: usize| LoopLeg {
        ends: (i, (i + 1) % n),
        length: Length::from_ft(20.0 + (i % 5) as f64 * 7.0),
        pinned: None,
    };
    let draw = |i: usize| Draw {
        node: 2 * i + 1,
        flow: Flow::from_gpm(8.0 + (i % 4) as f64 * 2.0),
        wants: Pressure::from_psi(34.0),
    };
    Looped {
        heights: vec![Length::ZERO; n],
        legs: (0..n).map(leg).collect(),
        running: (0..zones).map(|i| vec![draw(i)]).collect(),
    }
}

/// Lawns of 24 heads on both sides of a house and a drive, without valves.
fn site(lawns: usize) -> Job {
    let mut plan = Plan::new("Bench", UnitSystem::Us);
    plan.supplies[0].readings.push(Reading {
        kind: ReadingKind::Static { pressure: Pressure::from_psi(75.0) },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    });
    let place = |id: &str, kind, x, y| {
        object(id.into(), ObjectKind::Place(PlaceMark { kind, at: Point::new(x, y), supply: None }))
    };
    plan.site.objects.push(place("m1", PlaceKind::Meter, -3.0, -3.0));
    plan.site.objects.push(place("c1", PlaceKind::Controller, -2.0, 2.0));
    for k in 0..lawns {
        let (x, y) = ((k % 10) as f64 * 34.0, (k / 10) as f64 * 26.0);
        let area = ObjectKind::Area(Area { shape: shape(x, y, 22.0, 14.0), ..Area::default() });
        plan.site.objects.push(object(format!("a{k}"), area));
        for (id, kind, shape) in [
            ("b", DryKind::Building, shape(x + 4.0, y + 16.0, 12.0, 8.0)),
            ("d", DryKind::Paving, shape(x + 24.0, y - 1.0, 4.0, 26.0)),
        ] {
            let what = ObjectKind::Dry(KeepDry { kind, height: None, form: Form::Region(shape) });
            plan.site.objects.push(object(format!("{id}{k}"), what));
        }
        let head = |i: usize| DrawnHead {
            id: format!("h{k}-{i}"),
            at: Point::new(x + 0.3 + 4.2 * (i % 6) as f64, y + 0.3 + 4.4 * (i / 6) as f64),
            arc: 180,
            facing: 90.0,
            radius: None,
            valve: None,
            locked: false,
        };
        plan.groups.push(HeadGroup {
            area: Some(format!("a{k}")),
            drawn: (0..24).map(head).collect(),
            ..HeadGroup::new(&format!("g{k}"), &format!("Lawn {k}"), "rotator-14")
        });
    }
    Job::new(plan)
}

fn split(job: &Job) -> Job {
    let water = assess(job).water();
    let edit = zoning::propose(job, &water, Heads::All).edit.expect("heads to place");
    job.apply(&edit).expect("applies").0
}

fn piping(c: &mut Criterion) {
    let sizes_made: Vec<Size> = [0.930, 1.189, 1.502, 1.720]
        .iter()
        .map(|d| Size { bore: Bore { inside: Length::from_in(*d), c: 150.0 }, price: d * d })
        .collect();
    let chain: Vec<SizeLeg> = (0..20usize)
        .map(|i| SizeLeg {
            parent: i.checked_sub(1),
            length: Length::from_ft(12.0),
            flow: Flow::from_gpm(16.0 - 0.8 * i as f64),
            rise: Length::ZERO,
            pinned: None,
            wants: Some(Pressure::from_psi(30.0)),
        })
        .collect();
    let limits = Limits {
        inlet: Pressure::from_psi(37.0),
        velocity: Speed::from_fps(5.0),
        spread: Some(Pressure::from_psi(6.0)),
        fittings: 0.1,
    };
    c.bench_function("sizes of a chain of 20 legs among four", |b| {
        b.iter(|| least_cost(black_box(&chain), &sizes_made, limits))
    });
    let one = site(1);
    let points: Vec<Point> = one.groups[0].drawn.iter().map(|h| h.at).collect();
    let ground = Ground::of(&one);
    let roads = Roads::new(&ground, &points[..1]);
    let mut group = c.benchmark_group("sizes of a main that closes a loop");
    group.sample_size(10);
    for zones in [3, 12] {
        let main = ring(zones);
        group.bench_function(format!("{zones} zones"), |b| {
            b.iter(|| black_box(&main).least_cost(&sizes_made, limits))
        });
    }
    group.finish();
    c.bench_function("24 heads joined", |b| b.iter(|| join(&roads, black_box(&points))));
    let mut group = c.benchmark_group("site");
    group.sample_size(10);
    for (name, lawns) in [("house, 3 lawns of 24 heads", 3), ("10 lawns of 24 heads", 10)] {
        let job = split(&site(lawns));
        group.bench_function(format!("{name}: boxes, mains, laterals"), |b| {
            b.iter(|| routes(&job, Scope::All))
        });
        let laid = job.apply(&routes(&job, Scope::All).edit.expect("routes")).expect("applies").0;
        group.bench_function(format!("{name}: sizes"), |b| b.iter(|| sizes(&laid, None)));
        let before = assess(&laid);
        let leg: PipeLeg = laid.piping.legs[3].clone();
        let edit = Edit::put(PipeLeg { pipe: "class-200 1-1/2in".parse().expect("a pipe"), ..leg });
        group.bench_function(format!("{name}: a leg edited, to assessment"), |b| {
            b.iter(|| assess_after(&laid.apply(&edit).expect("applies").0, Some(&before)))
        });
        let bare = site(lawns);
        group.bench_function(format!("{name}: split by place"), |b| b.iter(|| split(&bare)));
    }
    group.finish();
}

criterion_group!(benches, piping);
criterion_main!(benches);
