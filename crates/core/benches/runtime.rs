//! Run times and the packed night. `cargo bench --bench runtime`

use criterion::{Criterion, criterion_group, criterion_main};
use fenlo_core::assess::{Assessment, assess};
use fenlo_core::climate::stations;
use fenlo_core::job::Job;
use fenlo_core::plan::{Edit, Plan, Reading, ReadingKind, StationWish, Supply};
use fenlo_core::runtime::{Evennesses, Times, times};
use fenlo_core::site::Soil;
use fenlo_core::units::{Flow, Pressure, UnitSystem};
use fenlo_core::usual;
use std::hint::black_box;

/// As the program has it.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn read(supply: &mut Supply) {
    for kind in [
        ReadingKind::Static { pressure: Pressure::from_psi(72.0) },
        ReadingKind::Dynamic { flow: Flow::from_gpm(20.0), pressure: Pressure::from_psi(62.0) },
    ] {
        supply.readings.push(Reading {
            kind,
            when: String::new(),
            instrument: String::new(),
            tap: String::new(),
        });
    }
}

/// So many stations on so many connections: sprays, rotators and rotors in turn, on soils from clay to sand.
fn site(valves: usize, supplies: usize) -> (Job, Assessment, Evennesses) {
    let mut plan = Plan::new("Many stations", UnitSystem::Us);
    plan.supplies = (0..supplies)
        .map(|i| {
            let mut supply = Supply::new(&format!("s{i}"), "Meter");
            read(&mut supply);
            supply
        })
        .collect();
    plan.watering.climate = Some(stations()[0].climate());
    let mut job = Job::new(plan);
    let soils = [Soil::Clay, Soil::ClayLoam, Soil::Loam, Soil::SandyLoam, Soil::Sand];
    for n in 0..valves {
        let mut valve = usual::valve(&job, None).expect("there is a connection");
        valve.supply = format!("s{}", n % supplies);
        let (nozzle, heads) = [("spray-12", 5), ("rotator-20", 8), ("rotor-2", 4)][n % 3];
        let mut group = usual::group(&job, "Area", nozzle, 180, heads);
        group.soil = soils[n % 5];
        group.slope_percent = (n % 4) as f64 * 3.0;
        group.listed[0].valve = Some(valve.id.clone());
        let edit = Edit::batch(vec![Edit::put(valve), Edit::put(group)]);
        job = job.apply(&edit).expect("sound").0;
    }
    let known = assess(&job);
    let even = Evennesses::of(&job, &known);
    (job, known, even)
}

fn told(name: &str, t: &Times) {
    let (finish, bound) = (t.night.finish, t.night.bound.minutes);
    let over = f64::from(finish) / f64::from(bound.max(1)) - 1.0;
    eprintln!("{name}: {} runs, {finish} min, bound {bound}, {:.1} % over", t.night.runs.len(), over * 100.0);
}

fn nights(c: &mut Criterion) {
    for (valves, supplies) in [(25, 1), (100, 2)] {
        let (job, known, even) = site(valves, supplies);
        let name = format!("{valves} stations on {supplies}");
        told(&name, &times(&job, &known, &even, 7, 2026));
        let mut group = c.benchmark_group("night");
        group.sample_size(10);
        group.bench_function(&name, |b| b.iter(|| times(black_box(&job), &known, &even, 7, 2026)));
        let moved = StationWish { start: Some(40), ..StationWish::new(&job.valves[3].id) };
        let moved = job.apply(&Edit::put(moved)).expect("sound").0;
        group.bench_function(format!("{name}, one run moved"), |b| {
            b.iter(|| times(black_box(&moved), &known, &even, 7, 2026))
        });
        group.finish();
    }
}

criterion_group!(benches, nights);
criterion_main!(benches);
