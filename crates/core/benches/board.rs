//! Figures of docs/PERFORMANCE.md for the board: `cargo bench -p fenlo-core --bench board`.

use criterion::{Criterion, criterion_group, criterion_main};
use fenlo_core::assess::{assess, assess_after};
use fenlo_core::board::Gesture;
use fenlo_core::job::Job;
use fenlo_core::plan::{DrawnHead, HeadGroup, Plan, Reading, ReadingKind, Regulation, Valve};
use fenlo_core::site::{
    Area, Motion, ObjectKind, Outline, PlaceKind, PlaceMark, Point, Shape, SiteObject, Vertex,
};
use fenlo_core::units::{Pressure, UnitSystem};

/// As the program has it.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// 300 areas, 2,000 heads on 100 valves.
fn large() -> Job {
    let mut plan = Plan::new("Large", UnitSystem::Metric);
    let pressure = Pressure::from_psi(80.0);
    plan.supplies[0].readings.push(Reading {
        kind: ReadingKind::Static { pressure },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    });
    let corner = |i: usize| (f64::from((i % 20) as u32) * 22.0, f64::from((i / 20) as u32) * 22.0);
    for i in 0..300 {
        let (x, y) = corner(i);
        let mut outline = vec![
            Vertex::new(x, y),
            Vertex::new(x + 18.0, y),
            Vertex::new(x + 18.0, y + 16.0),
            Vertex::new(x + 9.0, y + 18.0),
            Vertex::new(x, y + 18.0),
        ];
        outline[2].bulge = 0.1;
        plan.site.objects.push(SiteObject {
            id: format!("a{i}"),
            name: format!("Plot {i}"),
            what: ObjectKind::Area(Area { shape: Shape::plain(Outline(outline)), ..Area::default() }),
        });
    }
    let at = Point::new(200.0, 150.0);
    plan.site.objects.push(SiteObject {
        id: "box".into(),
        name: String::new(),
        what: ObjectKind::Place(PlaceMark { kind: PlaceKind::ValveBox, at, supply: None }),
    });
    for v in 0..100 {
        plan.valves.push(Valve {
            regulation: Regulation::Valve { set: Pressure::from_psi(40.0) },
            ..Valve::new(&format!("v{v}"), &format!("Valve {v}"), "s1")
        });
        let drawn = (v * 20..v * 20 + 20)
            .map(|h| {
                let (x, y) = corner(h / 7);
                let up = h % 2 == 1;
                let at = Point::new(x + f64::from((h % 7) as u32) * 3.0, if up { y } else { y + 18.0 });
                DrawnHead {
                    id: format!("h{h}"),
                    at,
                    arc: 180,
                    facing: if up { 90.0 } else { 270.0 },
                    radius: None,
                    valve: Some(format!("v{v}")),
                    locked: false,
                }
            })
            .collect();
        plan.groups.push(HeadGroup {
            drawn,
            ..HeadGroup::new(&format!("g{v}"), &format!("Group {v}"), "rotator-20")
        });
    }
    Job::new(plan)
}

fn board(c: &mut Criterion) {
    let job = large();
    let before = assess(&job);
    let corner = Gesture::Corner { id: "a5".into(), ring: 0, index: 1, to: Point::new(128.3, 0.0) };
    let head = Gesture::Move { ids: vec!["h50".into()], motion: Motion::Shift { by: Point::new(0.1, 0.0) } };
    let mut group = c.benchmark_group("board of 300 areas and 2000 heads");
    group.sample_size(20);
    group.bench_function("every figure looked at", |b| b.iter(|| job.faults().len()));
    for (name, gesture) in [("a corner moved", corner), ("a head moved", head)] {
        group.bench_function(format!("{name}: gesture to edit"), |b| {
            b.iter(|| gesture.edit(&job).expect("an edit"))
        });
        let edit = gesture.edit(&job).expect("an edit");
        group.bench_function(format!("{name}: edit to plan"), |b| {
            b.iter(|| job.apply(&edit).expect("applies"))
        });
        let (after, _) = job.apply(&edit).expect("applies");
        group.bench_function(format!("{name}: plan to assessment"), |b| {
            b.iter(|| assess_after(&after, Some(&before)))
        });
    }
    group.finish();
}

criterion_group!(benches, board);
criterion_main!(benches);
