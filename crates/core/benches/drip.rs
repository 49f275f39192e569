//! Figures of docs/PERFORMANCE.md: `cargo bench -p fenlo-core --bench drip`.

use criterion::{Criterion, criterion_group, criterion_main};
use fenlo_core::assess::assess;
use fenlo_core::board::Gesture;
use fenlo_core::drip::{RowAsk, lay, longest_row, row_table};
use fenlo_core::job::Job;
use fenlo_core::network::Emission;
use fenlo_core::plan::{
    DrawnHead, DripLaying, HeadGroup, Plan, PlantLaying, Reading, ReadingKind, Regulation, RowLaying, Valve,
};
use fenlo_core::site::{Area, ObjectKind, Planting, Point, Shape, SiteObject, rectangle};
use fenlo_core::units::{Flow, Length, Pressure, UnitSystem};
use fenlo_core::zone::zone_of;
use std::hint::black_box;

/// As the program has it.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// One area of so many feet with its drip on a valve of a strong supply.
fn site(w: f64, h: f64, nozzle: &str, laying: DripLaying, rows_in: f64) -> Job {
    let mut plan = Plan::new("Bench", UnitSystem::Us);
    plan.supplies[0].readings.push(Reading {
        kind: ReadingKind::Static { pressure: Pressure::from_psi(75.0) },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    });
    let outline = rectangle(Point::default(), 0.0, Length::from_ft(w), Length::from_ft(h));
    plan.site.objects.push(SiteObject {
        id: "a1".into(),
        name: "Ground".into(),
        what: ObjectKind::Area(Area {
            shape: Shape::plain(outline.expect("a rectangle")),
            ..Area::default()
        }),
    });
    let mut valve = Valve::new("v1", "Drip", "s1");
    valve.regulation = Regulation::Inline { set: Pressure::from_psi(40.0) };
    plan.valves.push(valve);
    let mut group = HeadGroup::new("g1", "Ground", nozzle);
    group.area = Some("a1".into());
    group.spacing = Length::from_in(rows_in);
    group.pipe = "pvc-40 2in".parse().expect("a pipe");
    group.drip = Some(laying);
    group.drawn.push(DrawnHead {
        id: "h1".into(),
        at: Point::default(),
        arc: 360,
        facing: 0.0,
        radius: None,
        valve: Some("v1".into()),
        locked: false,
    });
    plan.groups.push(group);
    Job::new(plan)
}

fn rows(inches: f64) -> DripLaying {
    DripLaying::Rows(RowLaying::new(Length::from_in(inches)))
}

fn plants() -> Job {
    let laying = DripLaying::Plants(PlantLaying {
        joined: Default::default(),
        each: None,
        basin: None,
        other: Vec::new(),
    });
    let mut plan = site(200.0, 100.0, "emitter-1", laying, 18.0).into_plan();
    for k in 0..20 {
        let y = Length::from_ft(3.0 + 4.8 * f64::from(k)).m();
        plan.site.objects.push(SiteObject {
            id: format!("t{k}"),
            name: String::new(),
            what: ObjectKind::Plant(Planting {
                canopy: Length::from_ft(3.0),
                at: Point::new(1.0, y),
                to: Some(Point::new(58.0, y)),
                count: 25,
            }),
        });
    }
    Job::new(plan)
}

fn drip(c: &mut Criterion) {
    let bed = site(50.0, 40.0, "dripline-0.6", rows(18.0), 16.0);
    let lawn = site(120.0, 83.0, "dripline-0.6", rows(12.0), 12.0);
    let garden = plants();
    for (name, job) in [("bed of 2,000 ft2", &bed), ("lawn of 10,000 ft2", &lawn), ("500 plants", &garden)] {
        let parts = lay(job, &job.groups[0]).expect("it can be laid");
        eprintln!("{name}: {} emitters", parts[0].emitters.len());
        c.bench_function(&format!("{name}, laid"), |b| b.iter(|| black_box(lay(job, &job.groups[0]))));
        c.bench_function(&format!("{name}, laid and solved"), |b| {
            b.iter(|| black_box(zone_of(job, &job.valves[0])))
        });
    }
    c.bench_function("a bed's corner moved, to its assessment", |b| {
        let gesture = Gesture::Corner { id: "a1".into(), ring: 0, index: 2, to: Point::new(15.6, 12.6) };
        b.iter(|| {
            let edit = gesture.edit(&bed).expect("a corner");
            let (next, _) = bed.apply(&edit).expect("sound");
            black_box(assess(&next))
        });
    });
    c.bench_function("longest row of 415 emitters", |b| {
        let ask = RowAsk {
            inlet: Pressure::from_psi(25.0),
            emission: Emission::Compensating { flow: Flow::from_gpm(0.01), min: Pressure::from_psi(8.5) },
            spacing: Length::from_in(12.0),
            inside: Length::from_in(0.56),
            c: 140.0,
            slope: 0.0,
            least: Pressure::from_psi(8.5),
            most: Pressure::from_psi(60.0),
        };
        b.iter(|| black_box(longest_row(&ask)));
    });
    c.bench_function("table of longest rows of a dripline", |b| {
        let nozzle = bed.catalogue().nozzle("dripline-0.6").expect("built in");
        b.iter(|| black_box(row_table(bed.catalogue(), nozzle)));
    });
}

criterion_group!(benches, drip);
criterion_main!(benches);
